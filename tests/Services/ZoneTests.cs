using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Today;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Days are those of the installation's zone, over both changes of the clock and the turn of a year; the judge is <c>date</c>.</summary>
public sealed class ZoneTests : IDisposable
{
    private sealed class SetClock(TimeZoneInfo zone) : TimeProvider
    {
        public DateTimeOffset Now { get; set; }

        public override DateTimeOffset GetUtcNow() => Now;

        public override TimeZoneInfo LocalTimeZone => zone;
    }

    private House? _house;

    // Both changes of the clock in either half of the world, a leap day, and the turn of a year.
    private static readonly string[] Turns =
    [
        "2024-02-29",
        "2024-03-10",
        "2024-03-31",
        "2024-04-07",
        "2024-09-29",
        "2024-10-27",
        "2024-11-03",
        "2025-01-01",
    ];

    private static string Date(string zone, string of, string shape) =>
        OtherProgram.Run("env", [$"TZ={zone}", "LC_ALL=C", "date", "-d", of, shape]).Trim();

    [Theory]
    [InlineData("Europe/Berlin")]
    [InlineData("America/St_Johns")]
    [InlineData("Pacific/Auckland")]
    [InlineData("Asia/Kolkata")]
    public void Days_and_times_are_those_of_the_zone(string zone)
    {
        var clock = new SetClock(TimeZones.Find(zone)!);
        foreach (var turn in Turns)
        {
            var day = DateOnly.ParseExact(turn, "yyyy-MM-dd", CultureInfo.InvariantCulture);
            Assert.Equal(Date(zone, $"{turn} 00:00", "+%s"), $"{clock.Begins(day).ToUnixTimeSeconds()}");
            for (var hour = -26; hour <= 26; hour += 2)
            {
                clock.Now = new DateTimeOffset(day.ToDateTime(new TimeOnly(0, 29)), TimeSpan.Zero).AddHours(hour);
                var local = Date(zone, $"@{clock.Now.ToUnixTimeSeconds()}", "+%F %H:%M");
                Assert.Equal(local[..10], clock.Today().ToString("O", CultureInfo.InvariantCulture));
                Assert.Equal(local, new Instant(clock.Now).In(clock.LocalTimeZone).ToString("yyyy-MM-dd HH:mm"));
                Assert.InRange(clock.Now, clock.Begins(clock.Today()), clock.Begins(clock.Today().AddDays(1)).AddTicks(-1));
            }
        }
    }

    [Fact]
    public void A_day_whose_midnight_the_clock_leaves_out_begins_when_it_goes_on()
    {
        var clock = new SetClock(TimeZones.Find("America/Santiago")!);
        Assert.Equal(Date("America/Santiago", "2024-09-08 01:00", "+%s"), $"{clock.Begins(new DateOnly(2024, 9, 8)).ToUnixTimeSeconds()}");
    }

    /// <summary>A plan of each day runs once a day, also at half past two on the days that have none or two of them.</summary>
    [Theory]
    [InlineData("Europe/Berlin", "02:30")]
    [InlineData("Europe/Berlin", "00:00")]
    [InlineData("America/New_York", "02:30")]
    [InlineData("America/New_York", "01:30")]
    [InlineData("Pacific/Auckland", "02:30")]
    public void A_plan_of_each_day_runs_once_on_each(string zone, string at)
    {
        var clock = new SetClock(TimeZones.Find(zone)!) { Now = new DateTimeOffset(2024, 1, 1, 12, 0, 0, TimeSpan.Zero) };
        _house = new House(clock: clock);
        var plan = _house.Plans.For(new ViewDefinition(), new Rights([Roles.Steward])) with { Every = "day", At = at };
        var last = clock.Today();
        for (var i = 0; i < 366; i++)
        {
            clock.Now = _house.Plans.Next(plan)!.Value.ToUniversalTime();
            Assert.Equal(i == 0 && clock.Today() == last ? last : last.AddDays(1), clock.Today());
            last = clock.Today();
        }
    }

    /// <summary>Filed at half past eleven in the evening in UTC: that is tomorrow in Berlin, and today in New York.</summary>
    [Theory]
    [InlineData("Europe/Berlin", "2025-01-01")]
    [InlineData("America/New_York", "2024-12-31")]
    public void What_is_filed_is_counted_on_the_day_that_it_was_there(string zone, string day)
    {
        var clock = new SetClock(TimeZones.Find(zone)!) { Now = new DateTimeOffset(2024, 12, 31, 23, 30, 0, TimeSpan.Zero) };
        _house = new House(clock: clock);
        Assert.Null(_house.Drafts.Create("Slip", "me").Problem);
        _house.Database.Write(c =>
        {
            var id = DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "a",
                    SourceFile = "x",
                    TypeCode = "slip",
                    BatchId = BatchStore.Add(c, "Evening post", "me", clock.Now.AddDays(-1)),
                    Record = new Dictionary<string, string>(),
                },
                []
            );
            DocumentStore.MarkFiled(c, DocumentStore.Find(c, id)! with { Folder = "A", Name = "a.pdf" }, clock.Now, "me");
        });
        clock.Now = clock.Now.AddDays(1);
        var days = new TodayWork(_house.Database, _house.Designs, new ReaderWatch(_house.Database, clock), clock)
            .For("me", new Rights([Roles.Steward]))
            .Days;
        Assert.Equal(day, Assert.Single(days, d => d.Filed == 1).Day.ToString("O", CultureInfo.InvariantCulture));
        // It was brought the day before, and waited until it was filed.
        Assert.Equal(1, days.Count(d => d.Waiting == 1));
    }

    [Fact]
    public void A_person_has_a_zone_of_their_own_or_that_of_the_installation()
    {
        var clock = new HouseClock();
        _house = new House(clock: clock);
        var zones = new TimeZones(_house.Database, clock);
        var person = _house.Person(Roles.Steward);
        Assert.Null(zones.SetHouse("Europe/Berlin", "me").Problem);
        Assert.Equal("Europe/Berlin", clock.LocalTimeZone.Id);
        Assert.Equal("Europe/Berlin", zones.Of(person).Id);
        Assert.Null(zones.Set(person, "Asia/Kolkata").Problem);
        Assert.Equal(("Asia/Kolkata", "Europe/Berlin"), (zones.Of(person).Id, zones.Of("nobody").Id));
        Assert.Contains("Atlantis", zones.Set(person, "Sea/Atlantis").Problem);
        Assert.Contains("Atlantis", zones.SetHouse("Sea/Atlantis", "me").Problem);
        // Kept over a restart.
        var again = new HouseClock();
        Assert.Equal("Asia/Kolkata", new TimeZones(_house.Database, again).Of(person).Id);
        Assert.Equal("Europe/Berlin", again.LocalTimeZone.Id);
    }

    public void Dispose() => _house?.Dispose();
}
