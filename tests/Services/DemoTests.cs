using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Demo;

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
}
