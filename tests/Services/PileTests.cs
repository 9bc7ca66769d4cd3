using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Readers;

namespace ClearLexicon.Services.Tests;

/// <summary>Unlabelled pages of many designs, grouped.</summary>
public sealed class PileTests(ITestOutputHelper output)
{
    private static readonly string[] Ships =
    [
        "Redshank",
        "Grey Heron",
        "Fulmar Sky",
        "Tern of Saltby",
        "Dunlin",
        "Nokken",
        "Marsh Harrier",
    ];

    // Designs of nobody: with them there are fifteen.
    private static PageDesign Note(string key, string heading, string issuer, params string[] labels) =>
        new(
            key,
            heading,
            "",
            heading,
            issuer,
            "d MMM yyyy",
            Boxed: false,
            [.. labels.Select((l, i) => new Cell($"f{i}", l, 52, 140 + 34 * i, 210, 140 + 34 * i, 320))]
        );

    private static readonly PageDesign[] Others =
    [
        Note("signal", "Signal Station Call Note", "Signal Station", "Note number", "Sighted", "Ship", "Sent to", "Wind"),
        Note("crane", "Order for the Crane", "Quay Works Yard", "Ordered by", "Lift in tons", "For the ship", "Driver", "Until"),
        Note(
            "water",
            "Fresh Water Delivered",
            "Harbour Board Water Office",
            "Meter before",
            "Meter after",
            "Ship",
            "Hydrant",
            "Signed for by"
        ),
        Note("lost", "Things Found", "Harbour Watch House", "What was found", "Where", "By whom", "Kept in", "Claimed on"),
    ];

    /// <summary>Pages of each design; PILE=20 makes three hundred.</summary>
    private static readonly int Each = int.TryParse(Environment.GetEnvironmentVariable("PILE"), out var n) ? n : 8;

    [Fact]
    public void Pages_of_fifteen_designs_fall_into_their_groups()
    {
        var random = new Random(12);
        var pages = new List<(string Design, PageText Page)>();
        var file = Path.GetTempFileName();
        foreach (var (reader, make) in DemoDesigns.All())
            for (var n = 0; n < Each; n++)
            {
                HarbourFreeForms.Pdf(file, make(n));
                pages.Add((reader.Key, Worn(PageReading.TextLayer(file, 1), n, random)));
            }
        foreach (var design in Others.Take(15 - pages.Count / Each))
            for (var n = 0; n < Each; n++)
            {
                PageDrawing.Pdf(
                    file,
                    design,
                    design.Cells.ToDictionary(c => c.Field, c => $"{Ships[random.Next(Ships.Length)]} {random.Next(9999)}")
                );
                pages.Add((design.Key, Worn(PageReading.TextLayer(file, 1), n, random)));
            }
        File.Delete(file);
        Assert.Equal(15 * Each, pages.Count);
        // Shuffled: nothing is known from the order.
        pages = [.. pages.OrderBy(_ => random.Next())];
        var groups = Piles.Group([.. pages.Select(p => p.Page)]);

        // A page is right in the group that holds most pages of its design, if that group is mostly of that design.
        var right = 0;
        foreach (var design in pages.Select(p => p.Design).Distinct())
        {
            var home = groups.MaxBy(g => g.Pages.Count(p => pages[p].Design == design))!;
            var of = home.Pages.Count(p => pages[p].Design == design);
            if (2 * of > home.Pages.Count)
                right += of;
            output.WriteLine($"{design, -22} {of} of {Each} in a group of {home.Pages.Count}: “{string.Join("”, “", home.Words.Take(4))}”");
        }
        output.WriteLine($"{right} of {pages.Count} pages are in the group of their design; {groups.Count} groups");
        Assert.True(right >= 0.95 * pages.Count, $"{right} of {pages.Count}");
        Assert.All(groups.Where(g => g.Pages.Count > 3), g => Assert.NotEmpty(g.Words));
    }

    private static readonly PageDesign Water = Note(
        "water-note",
        "Fresh Water Delivered",
        "Harbour Board Water Office",
        "Note number",
        "Delivered on",
        "Ship",
        "Hydrant",
        "Tons"
    );

    internal static void DrawWater(string path, int n) =>
        PageDrawing.Pdf(
            path,
            Water,
            new Dictionary<string, string>
            {
                ["f0"] = $"FW-{2023 + n % 2}-{n * 37 + 11:00000}",
                ["f1"] = $"{n * 3 % 27 + 1} {new[] { "Mar", "Apr", "May" }[n % 3]} 2024",
                ["f2"] = Ships[n % 7],
                ["f3"] = new[] { "North Quay", "South Quay", "Coal Staith" }[n % 3],
                ["f4"] = $"{n * 7 + 12}",
            }
        );

    [Fact]
    public async Task A_group_becomes_a_type_with_a_reader_that_files_the_next_pages()
    {
        using var house = new House(files: new HereReader()).WithDesigns();
        var (piles, making) = (house.Service<PileSorting>(), house.Service<PileReaders>());
        var folder = Directory.CreateTempSubdirectory("pile").FullName;
        for (var n = 0; n < 9; n++)
            DrawWater(Path.Combine(folder, $"water {n}.pdf"), n);
        HarbourDocuments.Draw(HarbourDocuments.Samples(PageDesigns.CallOffice, 1, 0)[0], folder);
        File.WriteAllText(Path.Combine(folder, "not.pdf"), "Dear harbour master");
        var files = Directory.GetFiles(folder).Order().Select(f => new BroughtFile(Path.GetFileName(f), () => File.OpenRead(f))).ToList();
        Assert.NotNull((await piles.BringAsync("", [], "me")).Problem);
        var pile = (await piles.BringAsync("Shelf", files, "me")).Value;
        await (house.Jobs.Running(PileSorting.Subject(pile))?.Completion ?? Task.CompletedTask);
        var (groups, known) = piles.Groups(pile);
        Assert.Equal(9, Assert.Single(groups).Pages.Count);
        Assert.Equal(PageDesigns.CallOffice.Key, Assert.Single(known).Key);
        Assert.Contains("not.pdf", Assert.Single(piles.Refused(pile)).Problem);

        // Its fields: a number with a pattern, a date, a term of few, a name, a whole number.
        var fields = making.Propose(pile, 1)!.Value.Fields;
        Assert.Equal(["Note number", "Delivered on", "Ship", "Hydrant", "Tons"], fields.Select(f => f.Field.Label));
        Assert.Equal(
            [FieldKind.Text, FieldKind.Date, FieldKind.Text, FieldKind.Term, FieldKind.WholeNumber],
            fields.Select(f => f.Field.Kind)
        );
        Assert.True(SafePattern.TryWhole(((TextField)fields[0].Field).Pattern!, out var pattern, out _));
        Assert.True(SafePattern.Matches(pattern!, "FW-2019-12345"));
        Assert.Equal(["Coal Staith", "North Quay", "South Quay"], fields[3].Terms);

        DecidedField[] all = [.. fields.Select(f => new DecidedField(f.At, f.Field.Label, f.Field.Kind))];
        Assert.Contains(
            "Two fields",
            making.MakeType(pile, 1, "Water note", [all[0], all[1] with { Label = "Note number" }], "me").Problem
        );
        Assert.Contains("not a label", making.MakeType(pile, 1, "Water note", [all[0] with { Label = "…" }], "me").Problem);
        Assert.NotNull(making.MakeType(pile, 1, "Water note", [], "me").Problem);
        Assert.NotNull(making.MakeType(pile, 7, "Water note", all, "me").Problem);
        Assert.NotNull(making.MakeType(pile, 1, PageDesigns.CallOffice.Key, all, "me").Problem);
        var made = making.MakeType(pile, 1, "Water note", all, "me").Value;
        Assert.Equal(1, house.Drafts.Publish(made.Type, "me").Value.Version);
        Assert.Equal(1, house.Readers.Publish(made.Reader, "me").Value);
        Assert.Equal(9, house.Readers.Samples(made.Reader).Count);
        Assert.Equal(made.Reader, piles.Group(pile, 1)!.Taken);

        // The next ones, never seen before, are read and filed without a person.
        for (var n = 20; n < 24; n++)
            DrawWater(Path.Combine(house.Folder.Tray, $"next {n}.pdf"), n);
        await (await house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        var waiting = house.Desk.Queue("me");
        Assert.Equal(4, waiting.Count);
        var filed = waiting.ConvertAll(id => house.Filer.File(id, "me").Value);
        Assert.All(filed, path => Assert.Matches(@"^Water note/2024/FW-202\d-\d{5}\.pdf$", path));

        // Thrown away: what was made of it stays.
        Assert.Null(piles.Remove(pile, "me").Problem);
        Assert.Null(piles.Find(pile));
        Assert.All(house.Readers.Samples(made.Reader), s => Assert.True(File.Exists(house.Folder.Absolute(s.Image))));
        Directory.Delete(folder, recursive: true);
    }

    // As scanners and recognition leave a page: shifted, some letters misread, some words lost or glued to a speck.
    private static PageText Worn(PageText page, int n, Random random)
    {
        if (n % 2 == 0)
            return page;
        double dx = (random.NextDouble() - 0.5) * 0.04,
            dy = (random.NextDouble() - 0.5) * 0.06;
        var words = new List<Word>();
        foreach (var word in page.Words)
        {
            if (random.Next(25) == 0)
                continue;
            var letters = word.Text.ToCharArray();
            if (random.Next(8) == 0)
                letters[random.Next(letters.Length)] = "eocl.i"[random.Next(6)];
            words.Add(new Word(new string(letters), word.Box with { X = word.Box.X + dx, Y = word.Box.Y + dy }, 0.8));
        }
        return page with { Words = words };
    }

    [Fact]
    public void Odd_pages_empty_pages_and_one_page_are_grouped_too()
    {
        Assert.Empty(Piles.Group([]));
        var file = Path.GetTempFileName();
        PageText Draw(PageDesign design, int n)
        {
            PageDrawing.Pdf(file, design, design.Cells.ToDictionary(c => c.Field, c => $"{Ships[n % 7]} {n * 7919 % 997}"));
            return PageReading.TextLayer(file, 1);
        }
        var empty = new PageText(595, 842, [], "recognised");
        var pages = new List<PageText> { empty, Draw(Others[0], 1), empty };
        for (var n = 2; n < 9; n++)
            pages.Add(Draw(Others[1], n));
        // A page of which half is torn off belongs to its group still, and is seen to be an odd one.
        var whole = Draw(Others[1], 9);
        pages.Add(whole with { Words = [.. whole.Words.Where(w => w.Box.Y < 0.16)] });
        File.Delete(file);
        var groups = Piles.Group(pages);
        Assert.Equal([3, 4, 5, 6, 7, 8, 9, 10], groups[0].Pages.Order());
        Assert.Equal([10], groups[0].OddOnes);
        Assert.Contains("Order for the Crane", groups[0].Words);
        Assert.Equal(pages.Count, groups.Sum(g => g.Pages.Count));
        Assert.Equal(10, groups.SelectMany(g => g.Pages).Max());
        Assert.Throws<ArgumentException>(() => Piles.Group([.. Enumerable.Repeat(empty, Piles.MostPages + 1)]));
    }
}
