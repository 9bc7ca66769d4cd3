using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Demo;

/// <summary>
/// The year before today, week by week, through the same services that people use: the post is brought, read and filed; what is wrong on a
/// page is corrected, or parked until an answer comes; filed documents are edited and taken back; views, notices and an export plan are
/// made on the way. The same in every run but for its dates.
/// </summary>
public sealed class HarbourYear(
    DemoClock clock,
    DataFolder folder,
    Database database,
    WaysIn ways,
    Intake intake,
    DeskDocuments desk,
    ParkedDocuments parked,
    Filer filer,
    FiledDocuments filed,
    Withdrawals withdrawals,
    Views views,
    Notices notices,
    ExportPlans plans,
    Exports exports,
    Drafts drafts
)
{
    private const int PagesAWeek = 8;

    /// <summary>How many weeks of one post each, before three of one a day.</summary>
    public int Weeks { get; init; } = 47;

    // What was asked in the last days has not been answered yet.
    private const int Unanswered = 36;

    private const string Maren = "Maren Holt",
        Tobias = "Tobias Finch",
        Ines = "Ines Valko";

    private const string Calls = "vessel-call-record",
        Dues = "harbour-dues-statement";

    private static readonly Rights Steward = new([Roles.Steward]);

    private readonly DateTimeOffset _today = TimeProvider.System.GetUtcNow();
    private long _newest;
    private readonly Queue<(int DaysAgo, long Document, string Total)> _waitsForAnswer = [];

    private sealed record Post(int Number, int DaysAgo, int Pages);

    // Once a week, and each working day of the last three weeks.
    private List<Post> Posts()
    {
        var posts = Enumerable.Range(0, Weeks).Select(week => new Post(week, 7 * (Weeks + 3 - week), PagesAWeek)).ToList();
        for (var ago = 20; ago >= 2; ago--)
            if (_today.AddDays(-ago).DayOfWeek is not (DayOfWeek.Saturday or DayOfWeek.Sunday))
                posts.Add(new Post(posts.Count, ago, 2 + posts.Count * 7 % 5));
        return posts;
    }

    /// <summary>Sets the clock to before the first post.</summary>
    public void GoBack() => clock.Set(Moment(7 * (Weeks + 5), 8, 30));

    /// <summary>Goes through the year; then the clock is now.</summary>
    public async Task ReplayAsync(Action<string> say)
    {
        var posts = Posts();
        say($"A year of post: {posts.Count} deliveries, {posts.Sum(p => p.Pages)} documents");
        Expect(
            ways.Save(
                new WayIn("post", "Daily post")
                {
                    LookFirst = LookFirst.Never,
                    Separation = new Separation { Method = "pages", Pages = 1 },
                },
                Maren
            ).Problem
        );
        foreach (var post in posts)
        {
            await ComesAsync(post);
            if (post.Number < Weeks)
                Happens(post.Number, post.DaysAgo);
            notices.Tick();
            exports.StartDue();
            if (post.DaysAgo > 3)
                AreSeen();
        }
        // The last post waits on the desk.
        clock.Set(_today.AddHours(-15));
        await BringAsync(new Post(posts.Count + 1, 0, PagesAWeek), Tobias);
        clock.Now();
    }

    // People look at what they are told; what came last is still new.
    private void AreSeen()
    {
        foreach (var who in new[] { Maren, Tobias })
            if (notices.Of(who) is { Count: > 0 } told)
                notices.SetSeen(who, told.Max(n => n.Id));
    }

    private DateTimeOffset Moment(int daysAgo, int hour, int minute) =>
        new DateTimeOffset(_today.Date, TimeSpan.Zero).AddDays(-daysAgo).AddHours(hour).AddMinutes(minute);

    private static DateOnly DayOf(DateTimeOffset at) => DateOnly.FromDateTime(at.UtcDateTime);

    private async Task ComesAsync(Post post)
    {
        clock.Set(Moment(post.DaysAgo, 9, 5 + post.Number % 20));
        var who = post.Number % 4 == 0 ? Maren : Tobias;
        var batch = await BringAsync(post, who);
        clock.Set(Moment(post.DaysAgo, 10, 20 + post.Number % 30));
        _newest = desk.Waiting(who, batch).Max(d => d.Document.Id);
        filer.FileReady(batch, who);
        clock.Set(Moment(post.DaysAgo, 11, 10));
        foreach (var left in desk.Waiting(who, batch))
            Answer(post, left, who);
        Return(post.DaysAgo);
    }

    // What stands wrong on a page: a berth that there is none of, and a sum that does not add up.
    private static List<HarbourPage> Spoiled(Post post, DateOnly day)
    {
        var pages = HarbourDocuments.Post(post.Number, day, post.Pages).ToList();
        if (post.Number % 5 == 1 && pages.FindIndex(p => p.Design.TypeCode == Calls) is >= 0 and var call)
            pages[call] = HarbourDocuments.With(pages[call], "berth", "West Basin 9");
        if (post.Number % 3 == 2 && pages.FindIndex(p => p.Design.TypeCode == Dues) is >= 0 and var dues)
            pages[dues] = HarbourDocuments.With(pages[dues], "total", Sum(pages[dues].Truth["total"], 90));
        return pages;
    }

    private static string Sum(string amount, decimal more) =>
        (decimal.Parse(amount, CultureInfo.InvariantCulture) + more).ToString("0.00", CultureInfo.InvariantCulture);

    private async Task<long> BringAsync(Post post, string who)
    {
        var drawn = Path.Combine(folder.Drafts, $"post {post.Number}.pdf");
        PageDrawing.Pdf(drawn, "Post", Spoiled(post, DayOf(clock.GetUtcNow())).Select(p => (p.Design, p.Printed)));
        var day = clock.GetUtcNow().ToString("d MMMM yyyy", CultureInfo.InvariantCulture);
        var (batch, job, _) = await intake.BringAsync(
            $"Post of {day}",
            [new BroughtFile($"Post of {day}.pdf", () => File.OpenRead(drawn))],
            who,
            "post"
        );
        await job!.Completion;
        File.Delete(drawn);
        return batch;
    }

    private void Answer(Post post, JudgedDocument left, string who)
    {
        var (id, record) = (left.Document.Id, left.Document.Record);
        if (left.Document.TypeCode == Calls && record.GetValueOrDefault("berth") == "West Basin 9")
        {
            Expect(desk.SetValue(id, "berth", HarbourNames.Berths[post.Number % HarbourNames.Berths.Length].Label, null, who).Problem);
            Expect(filer.File(id, who).Problem);
        }
        else if (left.Document.TypeCode == Dues && left.State == Readiness.Must)
        {
            var due = DayOf(clock.GetUtcNow()).AddDays(21).ToString("O", CultureInfo.InvariantCulture);
            Expect(parked.Park(id, "The sum does not add up; the treasurer is asked", post.Number % 2 == 0 ? Maren : "", due, who).Problem);
            _waitsForAnswer.Enqueue((post.DaysAgo, id, Sum(record["total"], -90)));
        }
    }

    // The treasurer answers after two weeks.
    private void Return(int daysAgo)
    {
        while (_waitsForAnswer.TryPeek(out var next) && next.DaysAgo >= daysAgo + 14 && next.DaysAgo > Unanswered)
        {
            _waitsForAnswer.Dequeue();
            clock.Set(Moment(daysAgo, 14, 40));
            Expect(desk.SetValue(next.Document, "total", next.Total, null, Maren).Problem);
            Expect(parked.Release(next.Document, Maren).Problem);
            Expect(filer.File(next.Document, Maren).Problem);
        }
    }

    private void Happens(int week, int daysAgo)
    {
        clock.Set(Moment(daysAgo - 2, 15, 12));
        if (week % 3 == 0 && Newest(Calls) is { } call)
            Expect(
                filed
                    .Edit(call.Id, "agent", HarbourNames.Agents[week / 3 % HarbourNames.Agents.Length], "the agent changed", Tobias)
                    .Problem
            );
        if (week % 12 == 5 && Newest(Dues) is { } taken)
        {
            Expect(withdrawals.Withdraw(taken.Id, false, "The payer has merged with another", Maren).Problem);
            clock.Set(Moment(daysAgo - 3, 9, 30));
            Expect(desk.SetValue(taken.Id, "payer", HarbourNames.Payers[week % HarbourNames.Payers.Length], null, Maren).Problem);
            Expect(filer.File(taken.Id, Maren).Problem);
        }
        if (week == 8 && Newest(Calls) is { } doubled)
            Expect(withdrawals.Withdraw(doubled.Id, true, "Filed twice; the other one stays", Maren).Problem);
        if (week == Weeks - 1)
            Draft();
        switch (week)
        {
            case 3:
                View("Calls with a pilot", "everyone", Calls, "Pilot used is yes", Maren);
                View("Large statements", "", Dues, "Total is above 8000", Ines);
                break;
            case 6:
                Notice("A large statement", Dues, "Total is above 10000", true, Maren);
                Notice("Changes of calls", Calls, "", false, Tobias);
                break;
            case 9:
                var what = plans.For(new ViewDefinition { Type = Dues }, Steward);
                Expect(
                    plans
                        .Save(
                            0,
                            "Dues for the treasurer",
                            what with
                            {
                                Folder = "Dues for the treasurer",
                                Format = "xlsx",
                                Taken = "replace",
                                Every = "week",
                                At = "06:00",
                            },
                            Maren,
                            Steward
                        )
                        .Problem
                );
                break;
        }
    }

    private void Draft() =>
        Expect(
            drafts
                .Change(
                    Calls,
                    "added a field",
                    Maren,
                    t => t with { Fields = [.. t.Fields, new YesNoField("shore-power", "Shore power used")] }
                )
                .Problem
        );

    private void View(string name, string with, string type, string ask, string who) =>
        Expect(
            views
                .Save(
                    name,
                    with,
                    new ViewDefinition { Type = type, Ask = ask },
                    who,
                    new Rights(who == Maren ? [Roles.Steward] : [Roles.Searcher])
                )
                .Problem
        );

    private void Notice(string name, string type, string ask, bool onFiled, string to) =>
        Expect(
            notices
                .Save(
                    new NoticeRule(0, name, new ViewDefinition { Type = type, Ask = ask }, onFiled, !onFiled, to, Daily: true, Maren),
                    Maren,
                    Steward
                )
                .Problem
        );

    // The newest filed document of a type.
    private StoredDocument? Newest(string type) =>
        database.Read(c =>
            DocumentStore
                .FiledIds(c, Math.Max(0, _newest - 40), 40)
                .ConvertAll(id => DocumentStore.Find(c, id)!)
                .FindLast(d => d.TypeCode == type)
        );

    private static void Expect(string? problem)
    {
        if (problem is not null)
            throw new InvalidOperationException($"The year could not be gone through: {problem}");
    }
}
