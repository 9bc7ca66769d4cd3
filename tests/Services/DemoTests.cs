using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Demo;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>The demo is the same in every run, and what it promises is in it.</summary>
public class DemoTests
{
    [Fact]
    public void Forty_pages_come_in_the_same_every_time()
    {
        var pages = HarbourDocuments.Incoming();
        Assert.Equal(40, pages.Count);
        Assert.Equal(24, pages.Count(p => !p.Scan));
        Assert.Equal(16, pages.Count(p => p.Scan));
        Assert.Equal(40, pages.Select(p => p.FileName).Distinct().Count());
        Assert.Equal(["", "harbour-dues-statement", "vessel-call-record"], pages.Select(p => p.Design.TypeCode).Distinct().Order());
        Assert.All(PageDesigns.Known, d => Assert.Contains(pages, p => p.Design.Key == d.Key && p.Scan));
        Assert.Equal([".jpg", ".pdf", ".png", ".tif"], pages.Select(p => Path.GetExtension(p.FileName)).Distinct().Order());
        foreach (var (once, twice) in pages.Zip(HarbourDocuments.Incoming()))
            Assert.Equal(once.Truth, twice.Truth);
    }

    [Fact]
    public void A_page_is_drawn_alike_pixel_for_pixel()
    {
        var folder = Directory.CreateTempSubdirectory("draw").FullName;
        var page = HarbourDocuments.Incoming().First(p => p.FileName.EndsWith(".png", StringComparison.Ordinal));
        HarbourDocuments.Draw(page, folder);
        var once = File.ReadAllBytes(Path.Combine(folder, page.FileName));
        HarbourDocuments.Draw(page, folder);
        Assert.Equal(once, File.ReadAllBytes(Path.Combine(folder, page.FileName)));
        Directory.Delete(folder, recursive: true);
    }

    [Fact]
    public void Every_vessel_has_a_number_of_its_own_with_a_valid_check_digit()
    {
        Assert.All(HarbourNames.Fleet, v => Assert.Equal(v.Imo[6] - '0', TransportSchemes.ImoCheckDigit(v.Imo)));
        Assert.Equal(HarbourNames.Fleet.Count, HarbourNames.Fleet.Select(v => v.Imo).Distinct().Count());
        Assert.All(HarbourNames.Fleet, v => Assert.InRange(v.Tonnage, 50, 250_000));
    }

    [Fact]
    public void The_inventory_has_thirty_years_of_habits()
    {
        var lines = HarbourInventory.Lines(2_000).ToList();
        Assert.Equal(2_001, lines.Count);
        Assert.Equal(lines, HarbourInventory.Lines(2_000));
        var rows = lines.Skip(1).Select(l => l.Split(';')).ToList();
        int Column(string name) => Array.IndexOf(HarbourInventory.Columns, name);
        Assert.Contains(rows, r => r[Column("Date in")].Length == 6 && r[Column("Date in")].All(char.IsAsciiDigit));
        Assert.Contains(rows, r => System.Text.RegularExpressions.Regex.IsMatch(r[Column("Date in")], @"^\d{1,2}-[A-Z][a-z]{2}-\d{2}$"));
        Assert.Contains(rows, r => r[Column("Path")].Length > 255);
        Assert.Contains(rows, r => r[Column("Vessel")].Any(c => c > 127));
        Assert.Contains(rows, r => r[Column("Vessel")].Contains(". ", StringComparison.Ordinal));
        Assert.Contains(rows, r => r[Column("Berth")] == "Herring Market");
        foreach (var column in new[] { "Vessel", "LR no", "Berth", "Date in", "Ref", "GT" })
            Assert.Contains(rows, r => r[Column(column)].Length == 0);
        Assert.True(lines.Count - lines.Distinct().Count() > 5);
        Assert.Contains(rows, r => r[0].StartsWith(@"S:\Backup of R\", StringComparison.Ordinal));
    }

    [Fact]
    public void The_designs_can_be_published_as_they_are()
    {
        using var house = new House().WithDesigns();
        foreach (var type in new[] { HarbourDesign.VesselCall, HarbourDesign.HarbourDues })
            Assert.DoesNotContain(house.Drafts.Findings(type), f => f.Level == Level.Must);
    }

    /// <summary>A short year: who looks at the demo finds people who have worked there, in an order that time allows.</summary>
    [Fact]
    public async Task The_year_before_today_is_lived_through_in_its_order()
    {
        var clock = new DemoClock();
        using var house = new House(clock: clock).WithDesigns();
        foreach (var person in HarbourSeed.People)
            Assert.Null(house.People.Add(person.Name, person.Password, [person.Role], "demo").Problem);
        var year = house.Year(clock);
        year.GoBack();
        var before = house.Database.Read(c => LedgerStore.Newest(c, 1)[0].Seq);
        await year.ReplayAsync(_ => { });
        Assert.InRange((DateTimeOffset.UtcNow - clock.GetUtcNow()).TotalSeconds, -1, 60);
        Assert.Equal("", string.Concat(house.Failures));
        house.Database.Read(c =>
        {
            var ledger = LedgerStore.Newest(c, 2_000).FindAll(e => e.Seq > before);
            Assert.True(ledger.Count > 150);
            Assert.Equal(ledger.Select(e => e.At).OrderDescending(StringComparer.Ordinal), ledger.Select(e => e.At));
            Assert.InRange(RepositorySearch.Count(c, new RepositoryQuery()).Number, 100, 130);
            Assert.InRange(ParkingStore.All(c).Count, 2, 8);
            Assert.Single(WithdrawalStore.OutIds(c));
            Assert.NotEmpty(RunStore.Of<ExportOrder>(c, "export", Exports.Subject(Assert.Single(ExportStore.All(c)).Id), 9));
            Assert.Equal(2, ViewStore.SeenBy(c, "Ines Valko", [Roles.Searcher]).Count);
            Assert.NotEmpty(NoticeStore.Of(c, PeopleStore.Find(c, "Maren Holt")!.Id, 10));
            return 0;
        });
        Assert.Equal(8, house.Desk.Queue("Maren Holt").Count);
    }
}
