using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Demo;

/// <summary>One of the demo's people.</summary>
/// <param name="Name">Name.</param>
/// <param name="Password">Password, shown on the demo's sign-in page.</param>
/// <param name="Role">Role.</param>
public sealed record DemoPerson(string Name, string Password, string Role);

/// <summary>How much the demo holds.</summary>
/// <param name="InventoryRows">Rows of the legacy inventory.</param>
/// <param name="SamplePdfs">PDF samples of each reader.</param>
/// <param name="SampleScans">Scanned samples of each reader.</param>
/// <param name="Waiting">Whether pages in the scanner's tray and stacks in the copier wait to be brought.</param>
public sealed record DemoSize(int InventoryRows = 2_000, int SamplePdfs = 3, int SampleScans = 2, bool Waiting = true);

/// <summary>Fills an empty installation with the harbour, through the same services that people use.</summary>
public sealed class HarbourSeed(
    DataFolder folder,
    Accounts people,
    DesignFiles files,
    TaughtReaders readers,
    Intake intake,
    DeskDocuments desk,
    FiledDocuments filed,
    Filer filer,
    Migrations migrations,
    WaysIn ways,
    Sheets sheets,
    Database database
)
{
    /// <summary>The made-up people.</summary>
    public static IReadOnlyList<DemoPerson> People { get; } =
    [
        new("Maren Holt", "quay-and-lantern", Roles.Steward),
        new("Tobias Finch", "tide-table-42", Roles.Indexer),
        new("Ines Valko", "harbour-light", Roles.Searcher),
        new("Ada Quill", "ledger-and-seal", Roles.Administrator),
        new("Bram Oster", "anchor-chain-9", Roles.Administrator),
    ];

    private const string Steward = "Maren Holt";

    /// <summary>Fills everything; says each step.</summary>
    /// <param name="size">How much.</param>
    /// <param name="say">Told each step.</param>
    /// <param name="year">The year that came before today; null to begin today.</param>
    public async Task RunAsync(DemoSize size, Action<string> say, HarbourYear? year = null)
    {
        year?.GoBack();
        foreach (var person in People)
            Expect(people.Add(person.Name, person.Password, [person.Role], "demo"));
        say("Designs, vocabularies and reference tables");
        Expect(files.Import(Design, Steward));

        say("Readers and their samples");
        await Parallel.ForEachAsync(
            PageDesigns.Known,
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (design, _) => await TeachAsync(design, size)
        );

        say("Readers of letters, tables and boxes");
        await Parallel.ForEachAsync(
            HarbourFreeForms.All,
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (form, _) => await TeachFreeAsync(form)
        );

        say("Twelve documents filed");
        await FileTwelveAsync();

        say("Cargo as clerks wrote it");
        WriteCargo();

        AddWaysIn();
        // Drawn while the year goes by.
        var waiting = Task.Run(() =>
        {
            if (!size.Waiting)
                return;
            say("Forty pages in the scanner's tray");
            foreach (var page in HarbourDocuments.Incoming())
                HarbourDocuments.Draw(page, folder.Tray);

            say("Stacks in the copier, with separator sheets, labels and cover sheets");
            FillCopier();
        });
        if (year is not null)
            await year.ReplayAsync(say);
        await waiting;

        say($"An inventory of {size.InventoryRows:N0} legacy rows");
        await BringInventoryAsync(size.InventoryRows);
    }

    /// <summary>The whole design of the harbour.</summary>
    public static DesignFile Design { get; } =
        new(
            DesignFile.FormatName,
            DesignFile.NewestVersion,
            [.. HarbourVocabularies.All.Select(v => new VocabularyInFile(v.Key, v.Name, v.Growth, v.Language, v.Terms))],
            [
                .. new[] { HarbourTables.Register, HarbourTables.Payers }.Select(t => new TableInFile(
                    t.Key,
                    t.Name,
                    t.Columns,
                    t.Address,
                    t.Rows
                )),
            ],
            [.. HarbourDesign.All.Select(t => new TypeInFile(t, Published: true))],
            []
        );

    // Cargo as clerks wrote it over a summer: new words wait for review, some of them near-duplicates.
    private void WriteCargo()
    {
        string[] written =
        [
            "Grain",
            "Wood pulp",
            "Woodpulp",
            "grains",
            "Sawn timbers",
            "Timber, sawn",
            "Wind turbine parts",
            "Wind turbine part",
            "Turbine parts, wind",
            "Fertilizer",
            "Deisel oil",
            "Peat",
        ];
        var calls = database.Read(c =>
            RepositorySearch.Find(c, new RepositoryQuery { TypeCode = HarbourDesign.VesselCall.Code }, 50).Documents
        );
        for (var i = 0; i < written.Length; i++)
        {
            var document = calls[i % calls.Count];
            var before = desk.Find(document.Id, Steward)!.Document.Record.GetValueOrDefault("cargo");
            Expect(
                filed.Edit(
                    document.Id,
                    "cargo",
                    before is null ? written[i] : $"{before}; {written[i]}",
                    "cargo added from the day book",
                    "Tobias Finch"
                )
            );
        }
    }

    private async Task TeachAsync(PageDesign design, DemoSize size)
    {
        Expect(readers.Create(design.Name, design.TypeCode, Steward).Problem);
        var key = ShortName.From(design.Name);
        Expect(readers.Change(key, "taught a reader", Steward, r => HarbourReaders.Teach(design) with { Key = r.Key }));
        Expect(readers.Publish(key, Steward).Problem);
        var drawn = Directory.CreateTempSubdirectory("samples").FullName;
        foreach (var page in HarbourDocuments.Samples(design, size.SamplePdfs, size.SampleScans))
        {
            HarbourDocuments.Draw(page, drawn);
            Expect(
                (
                    await readers.AddSampleAsync(
                        key,
                        new BroughtFile(page.FileName, () => File.OpenRead(Path.Combine(drawn, page.FileName))),
                        page.Truth
                    )
                ).Problem
            );
        }
        Directory.Delete(drawn, recursive: true);
    }

    private async Task TeachFreeAsync(FreeForm form)
    {
        var key = ShortName.From(form.Name);
        Expect(readers.Create(form.Name, form.TypeCode, Steward).Problem);
        Expect(readers.Change(key, "taught a reader", Steward, r => form.Reader with { Key = r.Key }));
        Expect(readers.Publish(key, Steward).Problem);
        var drawn = Directory.CreateTempSubdirectory("samples").FullName;
        for (var n = 1; n <= FreeSamples; n++)
        {
            var (path, document) = (Path.Combine(drawn, $"{form.Key} {n}.pdf"), form.Make(n));
            HarbourFreeForms.Pdf(path, document);
            var truth = document.Truth.Where(t => !t.Value.StartsWith('[')).ToDictionary(StringComparer.Ordinal);
            Expect((await readers.AddSampleAsync(key, new BroughtFile(Path.GetFileName(path), () => File.OpenRead(path)), truth)).Problem);
        }
        Directory.Delete(drawn, recursive: true);
    }

    private const int FreeSamples = 2;

    private void AddWaysIn()
    {
        foreach (var way in HarbourStacks.Ways)
            Expect(ways.Save(way, Steward).Problem);
        foreach (
            var reader in new[]
            {
                HarbourReaders.LabelledSlip,
                HarbourReaders.Permit,
                HarbourReaders.Teach(PageDesigns.GoodsNote, HarbourStacks.GoodsPrinted(100)),
            }
        )
        {
            Expect(readers.Create(reader.Name, reader.TypeCode, Steward).Problem);
            Expect(readers.Change(ShortName.From(reader.Name), "taught a reader", Steward, r => reader with { Key = r.Key }));
            Expect(readers.Publish(ShortName.From(reader.Name), Steward).Problem);
        }
    }

    private void FillCopier()
    {
        string Path(string way, string name)
        {
            var path = System.IO.Path.Combine(folder.Copier, way, name);
            Directory.CreateDirectory(System.IO.Path.GetDirectoryName(path)!);
            return path;
        }
        StackDrawing.Pdf(
            Path("copier", "2 sixty sides with separator sheets.pdf"),
            HarbourStacks.WithSeparators(Printed(sheets.Separators(12, Steward))),
            200,
            1
        );
        var covers = Printed(
            sheets.Covers(
                "pilotage-certificate",
                [.. Enumerable.Range(0, 4).Select(i => new Dictionary<string, string> { ["holder"] = HarbourNames.Masters[i] })],
                ["class"],
                Steward
            )
        );
        StackDrawing.Pdf(Path("copier", "1 cover sheets filled by pen.pdf"), HarbourStacks.Covered(covers), 200, 2);
        StackDrawing.Pdf(Path("mail-room", "1 labelled letters.pdf"), HarbourStacks.Labelled(), 200, 3);
        StackDrawing.Pdf(Path("permits", "1 permits.pdf"), HarbourStacks.Permits(), 200, 4);
        StackDrawing.FaxTiff(Path("goods", "1 notes on both sides.tif"), HarbourStacks.Goods(), 200, 5);
    }

    // The print as it is kept: its layout is what the stack is drawn by.
    private SheetPrint Printed(Result<byte[]> made)
    {
        Expect(made.Problem);
        return database.Read(SheetStore.Newest)!;
    }

    private async Task FileTwelveAsync()
    {
        var drawn = Directory.CreateTempSubdirectory("filed").FullName;
        var pages = HarbourDocuments.AlreadyFiled();
        foreach (var page in pages)
            HarbourDocuments.Draw(page, drawn);
        var (batch, job, _) = await intake.BringAsync(
            "Documents of 2023",
            [.. pages.Select(p => new BroughtFile(p.FileName, () => File.OpenRead(Path.Combine(drawn, p.FileName))))],
            "Tobias Finch"
        );
        await job!.Completion;
        var (filed, problems) = filer.FileReady(batch, "Tobias Finch");
        if (filed != pages.Count)
            throw new InvalidOperationException(
                $"Only {filed} of {pages.Count} demo documents could be filed: {string.Join(" ", problems)} "
                    + $"{string.Join(" ", desk.Waiting(Steward, batch).SelectMany(d => d.Judged?.All ?? []).Select(p => p.Message))}"
            );
        Directory.Delete(drawn, recursive: true);
    }

    private async Task BringInventoryAsync(int rows)
    {
        var csv = Path.Combine(folder.Drafts, "Old file share.csv");
        HarbourInventory.Write(csv, rows);
        var brought = await migrations.ImportAsync(new BroughtFile("Old file share.csv", () => File.OpenRead(csv)), Steward);
        Expect(brought.Problem);
        File.Delete(csv);
        await migrations.StartProfile(brought.Value).Value!.Completion;
        var suggested = migrations.Suggest(migrations.Find(brought.Value)!, HarbourDesign.VesselCall.Code);
        var lines = suggested.Select(s => s.Line).Where(l => LinesByHand.All(h => h.Field != l.Field)).Concat(LinesByHand);
        Expect(migrations.SetPlan(brought.Value, new MigrationPlan(HarbourDesign.VesselCall.Code, [.. lines], Passes), Steward));
        await migrations.StartDryRun(brought.Value, Steward).Value!.Completion;
    }

    /// <summary>
    /// What a steward adds to the suggestions: columns called “in”, “out” and “GT” say nothing that a computation could tell.
    /// </summary>
    public static IReadOnlyList<CrosswalkLine> LinesByHand { get; } =
    [
        new("Date in", "arrived", [new CleaningStep("read-date", "yyMMdd|d-MMM-yy")]),
        new("Date out", "sailed", [new CleaningStep("read-date", "yyMMdd|d-MMM-yy")]),
        new("GT", "gross-tonnage", [new CleaningStep("read-number", ".")]),
    ];

    /// <summary>The passes of the demo's plan: dates and berths that only the path tells, and a constant.</summary>
    public static IReadOnlyList<TaggingPass> Passes { get; } =
    [
        new(
            "p1",
            "path-piece",
            "arrived",
            "File name",
            @"(\d{6}|\d{1,2}-[A-Z][a-z]{2}-\d{2}|\d{4}-\d{2}-\d{2}) ",
            OnlyEmpty: true,
            [new CleaningStep("read-date", "yyMMdd|d-MMM-yy|yyyy-MM-dd")]
        ),
        new("p2", "words-to-term", "berth", "Path", "", OnlyEmpty: true, []),
        new("p3", "constant", "pilot-used", "", "no", OnlyEmpty: true, []),
    ];

    private static void Expect(Result result) => Expect(result.Problem);

    private static void Expect(string? problem)
    {
        if (problem is not null)
            throw new InvalidOperationException($"The demo could not be made: {problem}");
    }
}
