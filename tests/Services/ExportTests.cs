using System.Diagnostics;
using System.Text.Json;
using System.Xml;
using System.Xml.Schema;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>What leaves the house, read by other programs: records in each format, files, redacted copies, packages.</summary>
public sealed class ExportTests : IDisposable
{
    private const string Code = "vessel-call-record",
        Dues = "harbour-dues-statement";
    private static readonly Rights Steward = new([Roles.Steward]);

    private readonly House _house = new();

    private static string Run(string name, string folder, params string[] arguments) => OtherProgram.Run(name, arguments, folder);

    private static string Python(string folder, string script) => Run("python3", folder, "-c", script);

    private ExportDefinition Plan(string type, Func<ExportDefinition, ExportDefinition>? with = null)
    {
        var plan = _house.Plans.For(new ViewDefinition { Type = type }, Steward) with { Folder = "Out" };
        return with is null ? plan : with(plan);
    }

    private long Kept(ExportDefinition plan)
    {
        var saved = _house.Plans.Save(0, "Plan", plan, _house.Person(Roles.Steward), Steward);
        Assert.Null(saved.Problem);
        return saved.Value;
    }

    private Run<ExportOrder> Last(long plan) => _house.Exports.Of(plan)[0];

    private async Task<string> Exported(ExportDefinition plan)
    {
        var id = Kept(plan);
        await _house.Exports.Start(id, Roles.Steward, Steward).Ended();
        Assert.Empty(_house.Failures);
        Assert.Equal(RunState.Applied, Last(id).State);
        return _house.Exports.FolderOf(Last(id))!;
    }

    // A value that every format has to carry, and one that is not of its kind.
    private const string Odd = "=1+1; \"Tern\" & <Söhne> ]]> \u0001 , 漢字 😀 it's";

    private void Put(long id, string field, string text) =>
        _house.Database.Write(c =>
            DocumentStore.Save(c, _house.Get(id) with { Record = JudgedDocument.With(_house.Get(id).Record, field, text) })
        );

    [Fact]
    public async Task Records_are_read_by_other_programs_as_they_are()
    {
        var ids = await _house.FiledAsync(Dues);
        Put(ids[0], "payer", Odd);
        Put(ids[1], "issued", "some day");
        Put(ids[0], "services", """[{"service":"Pilotage","amount":"12.50"},{"service":"Lines & ropes"}]""");
        var truth = ids.ConvertAll(id => _house.Get(id).Record);

        var csv = await Exported(Plan(Dues));
        var rows = JsonSerializer.Deserialize<List<Dictionary<string, string>>>(
            Python(csv, "import csv,json;print(json.dumps(list(csv.DictReader(open('records.csv',newline='',encoding='utf-8')))))")
        )!;
        Assert.Equal(truth.Select(r => r.GetValueOrDefault("statement-number")), rows.Select(r => r["Statement number"]));
        // A formula is a text with an apostrophe in front.
        Assert.Equal("'" + Odd, rows[0]["Payer"]);

        var jsonl = await Exported(Plan(Dues, p => p with { Format = "jsonl" }));
        var lines = File.ReadAllLines(Path.Combine(jsonl, "records.jsonl")).Select(l => JsonDocument.Parse(l).RootElement).ToList();
        Assert.Equal(Odd, lines[0].GetProperty("Payer").GetString());
        Assert.Equal(truth[2]["issued"], lines[2].GetProperty("Issued").GetString());
        Assert.Equal(
            TableText.Rows(truth[0]["services"])!.Count,
            lines[0].EnumerateObject().Single(p => p.Value.ValueKind == JsonValueKind.Array).Value.GetArrayLength()
        );

        var xlsx = await Exported(Plan(Dues, p => p with { Format = "xlsx" }));
        // Python's standard library: the sheet as XML, its pane frozen, a date as a number with a date's format.
        var sheet = Python(
            xlsx,
            "import zipfile,xml.dom.minidom as m;z=zipfile.ZipFile('records.xlsx');[m.parseString(z.read(n)) for n in z.namelist() if "
                + "n.endswith('.xml')];print(z.read('xl/worksheets/sheet1.xml').decode())"
        );
        Assert.Contains("state=\"frozen\"", sheet.Replace("frozenSplit", "frozen"), StringComparison.Ordinal);
        Assert.Contains("&lt;Söhne&gt;", sheet, StringComparison.Ordinal);
        Assert.Contains("some day", sheet, StringComparison.Ordinal);
        Assert.DoesNotContain($">{truth[2]["issued"]}<", sheet, StringComparison.Ordinal);

        var xml = await Exported(Plan(Dues, p => p with { Format = "xml" }));
        var schemas = new XmlSchemaSet();
        schemas.Add(null, Path.Combine(xml, "records.xsd"));
        var faults = new List<string>();
        var settings = new XmlReaderSettings { Schemas = schemas, ValidationType = ValidationType.Schema };
        settings.ValidationEventHandler += (_, e) => faults.Add(e.Message);
        var document = new XmlDocument();
        using (var reader = XmlReader.Create(Path.Combine(xml, "records.xml"), settings))
            document.Load(reader);
        Assert.Empty(faults);
        // By another program too.
        using (
            var lint = Process.Start(
                new ProcessStartInfo("xmllint", ["--noout", "--nonet", "--schema", "records.xsd", "records.xml"])
                {
                    WorkingDirectory = xml,
                    RedirectStandardError = true,
                    UseShellExecute = false,
                }
            )!
        )
        {
            var said = await lint.StandardError.ReadToEndAsync();
            await lint.WaitForExitAsync();
            Assert.True(lint.ExitCode == 0, said);
        }
        Assert.Equal(ids.Count, document.DocumentElement!.ChildNodes.Count);
        Assert.Equal(Odd.Replace('\u0001', '\uFFFD'), document.GetElementsByTagName("payer")[0]!.InnerText);
        Assert.Equal("some day", document.GetElementsByTagName("issued")[1]!.Attributes!["as-written"]!.Value);
        Assert.Equal(
            TableText.Rows(truth[0]["services"])!.Count,
            ((XmlElement)document.GetElementsByTagName("services")[0]!).GetElementsByTagName("row").Count
        );

        // Shapes and headings of a plan's own, a file for each.
        var each = await Exported(
            Plan(
                Dues,
                p => p with { FileEach = true, Dates = "dd.MM.yyyy", Columns = [new("issued", "Tag"), new("@id", "Nr")], Naming = "number" }
            )
        );
        Assert.Equal(ids.Count, Directory.GetFiles(each).Length);
        Assert.Equal(
            $"Tag,Nr\r\n{DateOnly.Parse(truth[2]["issued"]):dd.MM.yyyy},{ids[2]}\r\n",
            File.ReadAllText(Path.Combine(each, $"{ids[2]}.csv"))
        );
    }

    [Fact]
    public async Task A_package_is_a_bag_whose_sums_another_program_finds_right_and_spoils_when_it_is_spoiled()
    {
        var ids = await _house.FiledAsync(Code);
        var bag = await Exported(Plan(Code, p => p with { Package = true, Files = "filed" }));
        foreach (var sums in new[] { "sha256", "sha512" })
        foreach (var manifest in new[] { "manifest", "tagmanifest" })
            Assert.Contains(": OK", Run($"{sums}sum", bag, "-c", $"{manifest}-{sums}.txt"), StringComparison.Ordinal);
        Assert.Equal("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n", File.ReadAllText(Path.Combine(bag, "bagit.txt")));
        foreach (var id in ids)
        {
            var document = _house.Get(id);
            var copy = Path.Combine(bag, "data/files", document.Folder!, document.Name!);
            Assert.Equal(document.FileHash, DataFolder.HashOf(copy));
        }
        var payload = Directory.GetFiles(Path.Combine(bag, "data"), "*", SearchOption.AllDirectories);
        Assert.Equal(payload.Length, File.ReadAllLines(Path.Combine(bag, "manifest-sha256.txt")).Length);
        Assert.Contains(
            $"Payload-Oxum: {payload.Sum(f => new FileInfo(f).Length)}.{payload.Length}",
            File.ReadAllText(Path.Combine(bag, "bag-info.txt"))
        );
        Assert.Equal(ids.Count, File.ReadAllLines(Path.Combine(bag, "data/records.jsonl")).Length);
    }

    [Fact]
    public async Task Nothing_tells_what_a_redacted_copy_hides_and_one_that_nobody_can_place_does_not_leave()
    {
        var ids = await _house.FiledAsync(Code);
        string[] hidden = ["vessel", "master", "agent"];
        // The reader found no agent here: its zone is hidden all the same. Here it found no vessel, and a person typed it without a place.
        _house.Database.Write(c =>
        {
            DocumentStore.Save(c, _house.Get(ids[1]) with { Record = JudgedDocument.With(_house.Get(ids[1]).Record, "agent", "") });
            DocumentStore.Save(
                c,
                _house.Get(ids[2]) with
                {
                    Evidence = _house.Get(ids[2]).Evidence.Where(e => e.Key != "vessel").ToDictionary(),
                }
            );
        });
        var truth = ids.ToDictionary(id => id, id => hidden.Select(f => HarbourTruth(id, f)).ToList());
        var plan = Plan(
            Code,
            p =>
                p with
                {
                    Files = "redacted",
                    Hide = ["vessel", "agent"],
                    Columns = [.. p.Columns.Where(c => c.Key is not ("vessel" or "agent"))],
                }
        );
        var kept = Kept(plan);
        var look = _house.Plans.Look(plan, Steward)!;
        Assert.Equal(ids[2], Assert.Single(look.Left).Document);
        await _house.Exports.Start(kept, Roles.Steward, Steward).Ended();
        var folder = _house.Exports.FolderOf(Last(kept))!;
        Assert.Equal(ids[2], Assert.Single(_house.Exports.Left(Last(kept), 9)).Document);
        var copies = Directory.GetFiles(folder, "*.pdf", SearchOption.AllDirectories);
        Assert.Equal(ids.Count - 1, copies.Length);
        // The vessel stands in folders and names of the repository: copies are called by their numbers, and the records leave them out.
        Assert.All(copies, copy => Assert.Contains(long.Parse(Path.GetFileNameWithoutExtension(copy)), ids));
        var texts = new List<string> { File.ReadAllText(Path.Combine(folder, "records.csv")) };
        foreach (var copy in copies)
        {
            Run("qpdf", folder, "--qdf", "--object-streams=disable", copy, copy + ".raw");
            Run("pdftoppm", folder, "-r", "150", "-png", copy, copy + ".page");
            texts.Add(System.Text.Encoding.Latin1.GetString(File.ReadAllBytes(copy)));
            texts.Add(System.Text.Encoding.Latin1.GetString(File.ReadAllBytes(copy + ".raw")));
            texts.Add(Run("pdftotext", folder, copy, "-"));
            texts.AddRange(
                Directory
                    .GetFiles(Path.GetDirectoryName(copy)!, Path.GetFileName(copy) + ".page*")
                    .Select(p => Run("tesseract", folder, p, "-"))
            );
            Assert.Contains("Vessel", texts[^2], StringComparison.OrdinalIgnoreCase);
        }
        foreach (var value in truth.Values.SelectMany(v => v).Where(v => v.Length > 3).Distinct())
        foreach (var text in texts)
            Assert.DoesNotContain(value, text, StringComparison.OrdinalIgnoreCase);

        // Once its place is marked it leaves, too.
        Assert.Null(_house.Filed.Place(ids[2], "vessel", 1, new Box(0.05, 0.05, 0.9, 0.9), "me").Problem);
        await _house.Exports.Start(kept, Roles.Steward, Steward).Ended();
        Assert.Empty(_house.Exports.Left(Last(kept), 9));
        Assert.Contains("hidden on the copies", _house.Plans.WhyNot(plan with { Columns = [new("agent", "Agent")] }, Steward));
    }

    private string HarbourTruth(long id, string field) =>
        Demo.HarbourDocuments.AlreadyFiled().First(p => p.FileName == _house.Get(id).SourceName).Truth.GetValueOrDefault(field, "");

    [Fact]
    public async Task Pages_leave_as_archival_copies_pictures_marked_copies_and_strips_and_other_programs_find_them_so()
    {
        var ids = await _house.FiledAsync(Code);
        Demo.HarbourDocuments.Draw(Demo.HarbourDocuments.Samples(Demo.PageDesigns.CallOffice, 0, 1)[0], _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        var scan = _house.Desk.Queue("me").Single(id => _house.Desk.Pages(id)[0].Text.Method == "recognised");
        Assert.Null(_house.Filer.File(scan, "me").Problem);
        string Of(string folder, long id, string ending) => Path.Combine(folder, $"{id}{ending}");

        // The words of the scan and of the text pages are kept, every font is in the file and has Unicode, and the colours have a profile.
        var archival = await Exported(Plan(Code, p => p with { Files = "filed", Pages = "pdfa", Naming = "number", Folder = "Archival" }));
        foreach (var id in ids.Take(1).Append(scan))
        {
            var copy = Of(archival, id, ".pdf");
            var fonts = Run("pdffonts", archival, copy).Split('\n').Skip(2).Where(l => l.Length > 0).ToList();
            Assert.NotEmpty(fonts);
            Assert.All(fonts, f => Assert.Matches("yes +(yes|no) +yes +[0-9]+ +0$", f.TrimEnd()));
            Assert.Contains(
                "no",
                Run("pdfinfo", archival, copy).Split('\n').Single(l => l.StartsWith("Encrypted:", StringComparison.Ordinal))
            );
            Assert.Contains(_house.Get(id).Record["call-number"], Run("pdftotext", archival, copy, "-"));
            var bytes = System.Text.Encoding.Latin1.GetString(File.ReadAllBytes(copy));
            Assert.Contains("pdfaid:part='2' pdfaid:conformance='U'", bytes);
            Run("qpdf", archival, "--check", copy);
            Assert.Empty(await ArchivalPdf.FaultsAsync(copy, null, default));
        }
        // What was filed is none by itself, and is said to be none, with the reasons.
        var filed = Path.Combine(_house.Folder.Repository, _house.Get(ids[0]).Folder!, _house.Get(ids[0]).Name!);
        Assert.Contains(await ArchivalPdf.FaultsAsync(filed, null, default), f => f.Contains("output intent", StringComparison.Ordinal));

        // A square stands around each value, whose page is otherwise the same; the squares of a scan, too.
        string[] fields = ["call-number", "vessel", "berth"];
        ExportDefinition Three(ExportDefinition p) =>
            p with
            {
                Naming = "number",
                Columns = [.. fields.Select(f => new ExportColumn(f, f))],
            };
        var marked = await Exported(
            Plan(Code, p => Three(p) with { Files = "marked", MarkColour = "0F5C63", MarkDashed = true, MarkMargin = 3, Folder = "Marked" })
        );
        foreach (var id in new[] { ids[0], scan })
        {
            using var pdf = UglyToad.PdfPig.PdfDocument.Open(Of(marked, id, ".pdf"));
            var page = pdf.GetPage(1);
            var squares = page.GetAnnotations().ToList();
            Assert.Equal(3, squares.Count);
            Assert.All(squares, a => Assert.Equal(UglyToad.PdfPig.Annotations.AnnotationType.Square, a.Type));
            var vessel = squares.Single(a => a.Content!.StartsWith(_house.Get(id).Record["vessel"], StringComparison.Ordinal));
            var words = page.GetWords()
                .Where(w => vessel.Rectangle.Left <= w.BoundingBox.Centroid.X && w.BoundingBox.Centroid.X <= vessel.Rectangle.Right)
                .Where(w => vessel.Rectangle.Bottom <= w.BoundingBox.Centroid.Y && w.BoundingBox.Centroid.Y <= vessel.Rectangle.Top)
                .Select(w => w.Text);
            Assert.Equal(_house.Get(id).Evidence["vessel"].Raw.Split(' ').Order(), words.Order());
        }
        Assert.Equal(_house.Get(ids[0]).FileHash, DataFolder.HashOf(filed));
        Assert.Contains("annotations", _house.Plans.WhyNot(Plan(Code, p => Three(p) with { Files = "marked", Pages = "pdfa" }), Steward));
        Assert.Contains("colour", _house.Plans.WhyNot(Plan(Code, p => Three(p) with { Files = "marked", MarkColour = "red" }), Steward));
        Assert.Contains(
            "points",
            _house.Plans.WhyNot(Plan(Code, p => Three(p) with { Files = "strips", MarkMargin = double.NaN }), Steward)
        );

        // Strips are named by document, field, page and place, and an index says what each shows.
        var strips = await Exported(Plan(Code, p => Three(p) with { Files = "strips", MarkMargin = 9, Folder = "Strips" }));
        Assert.Equal(3, Directory.GetFiles(Path.Combine(strips, $"{scan}"), "*.png").Length);
        var index = File.ReadAllLines(Path.Combine(strips, "strips.csv"));
        Assert.Equal(1 + 3 * (ids.Count + 1), index.Length);
        Assert.Contains(
            index,
            l =>
                l.Contains($"{scan}/vessel p1 ", StringComparison.Ordinal)
                && l.EndsWith(_house.Get(scan).Record["vessel"], StringComparison.Ordinal)
        );
        Assert.Contains(
            _house.Get(ids[0]).Evidence["vessel"].Raw,
            Run("tesseract", strips, Directory.GetFiles(Path.Combine(strips, $"{ids[0]}"), "vessel*")[0], "-", "--dpi", "150", "--psm", "6")
        );

        var png = await Exported(Plan(Code, p => p with { Files = "filed", Pages = "png", Naming = "number", Folder = "Png" }));
        var tiff = await Exported(Plan(Code, p => p with { Files = "redacted", Pages = "tiff", Naming = "number", Folder = "Tiff" }));
        Assert.Contains(
            "[(1653, 2339), ('II', 1)]",
            Python(
                png,
                $"import struct; b=open('{Of(png, ids[0], ".png")}','rb').read(); t=open('{Of(tiff, ids[0], ".tif")}','rb').read(); "
                    + "print([struct.unpack('>II', b[16:24]), (t[:2].decode(), 1)])"
            )
        );
        foreach (var folder in new[] { archival, marked, strips, png, tiff })
            Assert.Empty(Directory.GetFiles(folder, "*.part", SearchOption.AllDirectories));
        Assert.Empty(Directory.GetFiles(_house.Folder.Drafts));
    }

    [Fact]
    public async Task A_run_that_is_stopped_leaves_nothing_half_and_goes_on_and_what_is_there_is_treated_as_the_plan_says()
    {
        var ids = await _house.FiledAsync(Code);
        var kept = Kept(Plan(Code, p => p with { Files = "filed", Taken = "replace" }));
        var final = Path.Combine(_house.Folder.Exports, "Out");
        Directory.CreateDirectory(final);
        File.WriteAllText(Path.Combine(final, "before.txt"), "of before");
        // The disk takes two files and then no more.
        _house.Folder.Disk = new FullDisk(2);
        var job = _house.Exports.Start(kept, Roles.Steward, Steward).Value!;
        await job.Completion;
        Assert.Equal(RunState.Applying, Last(kept).State);
        Assert.NotNull(job.Problem);
        Assert.Equal(["before.txt"], Directory.GetFiles(final).Select(Path.GetFileName));
        // Nobody else is given what is not complete.
        Assert.Null(_house.Exports.FolderOf(Last(kept)));
        _house.Folder.Disk = new Disk();
        var run = Last(kept);
        await _house.Exports.Resume(run.Id, Roles.Steward).Ended();
        Assert.Equal((run.Id, RunState.Applied, (long)ids.Count), (Last(kept).Id, Last(kept).State, Last(kept).Looked));
        Assert.Equal(ids.Count, Directory.GetFiles(final, "*.pdf", SearchOption.AllDirectories).Length);
        Assert.False(File.Exists(Path.Combine(final, "before.txt")));
        Assert.Empty(Directory.GetDirectories(_house.Folder.Exports, ".run*"));
        Assert.NotNull(_house.Exports.Resume(run.Id, Roles.Steward).Problem);
        // What it wrote gives place to what the next one writes, which is not handed out as what it was.
        await _house.Exports.Start(kept, Roles.Steward, Steward).Ended();
        Assert.Equal((final, null), (_house.Exports.FolderOf(Last(kept)), _house.Exports.FolderOf(_house.Exports.Of(kept)[1])));

        var beside = Kept(Plan(Code));
        await _house.Exports.Start(beside, Roles.Steward, Steward).Ended();
        Assert.Equal("Out (2)", Last(beside).Order.Folder);
        Assert.Contains(
            "is there already",
            _house.Exports.Start(Kept(Plan(Code, p => p with { Taken = "stop" })), Roles.Steward, Steward).Problem
        );
        // A folder that vanishes under a run is told, and is not taken for what stood there before.
        _house.Folder.Disk = new FullDisk(3);
        await _house.Exports.Start(kept, Roles.Steward, Steward).Value!.Completion;
        _house.Folder.Disk = new Disk();
        Directory.Delete(Path.Combine(_house.Folder.Exports, $".run-{Last(kept).Id}"), recursive: true);
        var again = _house.Exports.Resume(Last(kept).Id, Roles.Steward).Value!;
        await again.Completion;
        Assert.Contains("no longer there", again.Problem);
        Assert.Equal(RunState.Applying, Last(kept).State);
        Assert.Equal(ids.Count, Directory.GetFiles(final, "*.pdf", SearchOption.AllDirectories).Length);
    }

    [Theory]
    [InlineData("day", "02:30", "2024-02-28 02:30", "2024-02-29 02:30")]
    [InlineData("day", "02:30", "2024-02-28 02:29", "2024-02-28 02:30")]
    [InlineData("week", "00:00", "2024-02-28 12:00", "2024-03-04 00:00")]
    [InlineData("month", "23:59", "2024-12-01 23:59", "2025-01-01 23:59")]
    public void The_next_time_of_a_plan_is_the_first_after_now(string every, string at, string after, string next) =>
        Assert.Equal(
            DateTime.Parse(next, System.Globalization.CultureInfo.InvariantCulture),
            ExportSchedule.Next(
                every,
                ExportSchedule.Time(at)!.Value,
                DateTime.Parse(after, System.Globalization.CultureInfo.InvariantCulture)
            )
        );

    [Fact]
    public async Task A_plan_runs_by_itself_when_its_time_has_come_once_and_with_the_rights_its_owner_has_then()
    {
        var ids = await _house.FiledAsync(Code);
        Assert.Contains("time of day", _house.Plans.WhyNot(Plan(Code, p => p with { Every = "day", At = "25:00" }), Steward));
        Assert.Contains("only run once", _house.Plans.WhyNot(Plan(Code, p => p with { Every = "day", Taken = "stop" }), Steward));
        var kept = Kept(Plan(Code, p => p with { Every = "day", Columns = [.. p.Columns, new("master", "Master")] }));
        var byHand = Kept(Plan(Code));
        Assert.Equal(0, _house.Exports.StartDue());
        void Due(long plan) => _house.Database.Write(c => ExportStore.SetNext(c, plan, _house.Clock.GetUtcNow().AddMinutes(-5)));
        Due(kept);
        Assert.Equal(1, _house.Exports.StartDue());
        await (_house.Jobs.Running(Exports.Subject(kept))?.Completion ?? Task.CompletedTask);
        Assert.Equal((RunState.Applied, (long)ids.Count), (Last(kept).State, Last(kept).Looked));
        Assert.Equal(0, _house.Exports.StartDue());
        Assert.True(DateTimeOffset.Parse(_house.Plans.Find(kept)!.NextAt! + "Z") > _house.Clock.GetUtcNow());
        Assert.Null(_house.Plans.Find(byHand)!.NextAt);
        // Its owner only searches now, and may not see a column any more: nothing leaves, and the ledger says why.
        var owner = _house.Plans.Find(kept)!.Owner;
        _house.Database.Write(c => PeopleStore.SetRoles(c, PeopleStore.Find(c, owner)!.Id, [Roles.Searcher]));
        Due(kept);
        Assert.Equal(0, _house.Exports.StartDue());
        Assert.Single(_house.Exports.Of(kept));
        Assert.Contains(
            _house.Database.Read(c => LedgerStore.Newest(c, 3)),
            l => l.Action == "could not export by itself" && l.Detail.Contains("may not see", StringComparison.Ordinal)
        );
        Assert.Equal(0, _house.Exports.StartDue());
    }

    [Fact]
    public async Task Names_that_differ_by_case_only_stand_beside_one_another_in_an_export()
    {
        var ids = await _house.FiledAsync(Code);
        // As from a share on which both may stand.
        _house.Database.Write(c =>
        {
            foreach (var (id, name) in ids.Take(2).Zip(["Tern.pdf", "TERN.PDF"]))
                c.Execute(
                    "UPDATE documents SET folder = $folder, name = $name, place_key = $name || $id WHERE id = $id",
                    ("$folder", $"F{id}"),
                    ("$name", name),
                    ("$id", id)
                );
        });
        foreach (var (id, name) in ids.Take(2).Zip(["Tern.pdf", "TERN.PDF"]))
        {
            Directory.CreateDirectory(Path.Combine(_house.Folder.Repository, $"F{id}"));
            File.WriteAllBytes(Path.Combine(_house.Folder.Repository, $"F{id}", name), [(byte)id]);
        }
        var folder = await Exported(Plan(Code, p => p with { Files = "filed", Naming = "flat" }));
        var names = Directory
            .GetFiles(folder, "*.pdf", new EnumerationOptions { MatchCasing = MatchCasing.CaseInsensitive })
            .Select(Path.GetFileName)
            .ToList();
        Assert.Equal(ids.Count, names.Count);
        Assert.Equal(ids.Count, names.Distinct(StringComparer.OrdinalIgnoreCase).Count());
    }

    [Theory]
    [InlineData("../out")]
    [InlineData("")]
    [InlineData(".hidden")]
    [InlineData("a/b")]
    [InlineData("x ")]
    public async Task A_folder_that_leads_elsewhere_is_refused_but_for_blanks_around_it(string folder)
    {
        await _house.FiledAsync(Code);
        Assert.Equal(folder == "x ", _house.Plans.Save(0, "p", Plan(Code) with { Folder = folder }, "me", Steward).Ok);
        var searcher = new Rights([Roles.Searcher]);
        Assert.Contains("may not see", _house.Plans.WhyNot(Plan(Code) with { Columns = [new("master", "M")] }, searcher));
        Assert.DoesNotContain(Plan(Code).Columns, c => c.Key == "master");
        Assert.Contains(
            "not a field",
            ExportPlans.Columns("Vessel\nBoat = x", _house.SearchRequests.For(new ViewDefinition { Type = Code }, Steward).Fields).Problem
        );
        Assert.Contains("Two columns", _house.Plans.WhyNot(Plan(Code) with { Columns = [new("vessel", "M"), new("imo", "m")] }, Steward));
    }

    private sealed class FullDisk(int files) : Disk
    {
        private int _left = files;

        public override void Copy(string from, string to)
        {
            if (_left-- <= 0)
                throw new IOException("No space left on device");
            base.Copy(from, to);
        }
    }

    public void Dispose() => _house.Dispose();
}
