using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using SkiaSharp;
using ZXing;

namespace ClearLexicon.Services.Tests;

/// <summary>Stacks as a scanner delivers them become the right documents, and a person can cut them otherwise.</summary>
public sealed class StackTests(ITestOutputHelper output) : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    /// <summary>STACKS=all cuts 40 stacks of about 1,500 pages; otherwise a sixth of them.</summary>
    private static bool All => Environment.GetEnvironmentVariable("STACKS") == "all";

    private static readonly (string Name, Func<SKBitmap, SKBitmap> Make)[] Scans =
    [
        ("clean", static page => page.Copy()),
        ("fax", static page => Mapped(page, static level => (byte)(level > 150 ? 255 : 0), 0)),
        ("pale", static page => Mapped(page, static level => (byte)(130 + level * 110 / 255), 0)),
        ("blurred", static page => Mapped(page, static level => level, 1.3f)),
    ];

    [Fact]
    public void Cuts_of_generated_stacks_are_right_or_seen_to_be_doubtful()
    {
        var print = new SheetPrint("abcdefgh", false, [.. Enumerable.Repeat(new Dictionary<string, string>(), 9)], []);
        var rates = new Dictionary<string, (int Right, int Doubtful, int Of, int Pages)>();
        var silent = new List<string>();
        for (var stack = 0; stack < (All ? 40 : 8); stack++)
        {
            var random = new Random(stack);
            var (method, leaves) = Made(stack, random, print);
            var (scan, make) = Scans[All ? stack / 4 % 4 : stack / 2 % 4];
            var pages = new StackPage[leaves.Count];
            Parallel.For(
                0,
                leaves.Count,
                new ParallelOptions { MaxDegreeOfParallelism = 2 },
                i =>
                {
                    using var page = StackDrawing.Picture(
                        leaves[i] with
                        {
                            Skew = (i * 7 % 5 - 2) * 0.6f,
                        },
                        150,
                        new Random(stack * 1000 + i)
                    );
                    using var scanned = make(page);
                    using var straight = Deskew.Straighten(scanned);
                    var text = PageReading.WithMarks(new PageText(1, 1, [], "none"), straight ?? scanned);
                    var token = text.Codes.Select(c => SheetToken.Read(c.Text)).FirstOrDefault(t => t is not null);
                    pages[i] = new StackPage($"1/{i + 1}", text, i == 0)
                    {
                        Sheet = token is null ? null : new SheetCode("separator sheet", null),
                    };
                }
            );
            var plan = Separator.Plan(pages, method, []);
            var begins = plan.Documents.Select(d => d.Pages[0]).ToHashSet();
            var (right, doubtful, of) = rates.TryGetValue(scan, out var r) ? (r.Right, r.Doubtful, r.Of) : default;
            for (var i = 0; i < leaves.Count; i++)
            {
                var planned = plan.Pages[i];
                var isRight = begins.Contains(planned.Key) == leaves[i].Begins && planned.Gone is not null == leaves[i].Vanishes;
                // What is wrong is looked at when it, or a page beside it, is doubtful.
                var isSeen = plan.Doubt is not null || plan.Pages.Skip(Math.Max(0, i - 1)).Take(3).Any(p => p.Doubt is not null);
                (right, doubtful, of) = (right + (isRight ? 1 : 0), doubtful + (!isRight && isSeen ? 1 : 0), of + 1);
                if (!isRight && !isSeen)
                    silent.Add($"stack {stack} ({method.Method}, {scan}) page {i + 1}: {planned.Cut ?? planned.Gone}");
            }
            rates[scan] = (right, doubtful, of, of);
        }
        foreach (var (scan, (right, doubtful, of, _)) in rates)
            output.WriteLine($"{scan, -8} {right} of {of} pages right ({100.0 * right / of:0.0} %), {doubtful} wrong and doubtful");
        Assert.Equal(rates["clean"].Of, rates["clean"].Right);
        var degraded = rates.Where(s => s.Key != "clean").ToList();
        Assert.True(degraded.Sum(s => s.Value.Right) >= 0.98 * degraded.Sum(s => s.Value.Of));
        Assert.Empty(silent);
    }

    // Documents of one to six pages by each method that asks neither words nor readers; those are text and need no picture.
    private static (Separation Method, List<Leaf> Leaves) Made(int stack, Random random, SheetPrint print)
    {
        var leaves = new List<Leaf>();
        var kind = stack % 4;
        for (var document = 0; leaves.Count < (All ? 36 : 18); document++)
        {
            var length = random.Next(1, 6);
            switch (kind)
            {
                case 0:
                    leaves.Add(HarbourStacks.Sheet(print, document % 9 + 1));
                    break;
                case 1:
                    var patch = PatchCode.Names[random.Next(PatchCode.Names.Count)];
                    leaves.Add(
                        new Leaf(
                            canvas =>
                            {
                                using var ink = new SKPaint { Color = SKColors.Black };
                                SheetPdf.DrawPatch(canvas, patch, SKRect.Create(120, 300, 300, 60), ink);
                            },
                            false,
                            true
                        )
                    );
                    break;
                case 3:
                    leaves.Add(new Leaf(static _ => { }, false, true));
                    break;
            }
            for (var i = 0; i < length; i++)
            {
                var page = HarbourStacks.Enclosure(stack * 100 + leaves.Count, kind == 2 && i > 0 ? $"88{leaves.Count:00000000}" : null);
                var label = $"{stack:0000}{document:00000000}";
                leaves.Add(page with { Begins = i == 0 });
                if (kind == 2 && i == 0)
                    leaves[^1] = leaves[^1] with
                    {
                        Draw = canvas =>
                        {
                            page.Draw(canvas);
                            StackDrawing.Code(canvas, BarcodeFormat.CODE_128, label, SKRect.Create(300, 600, 220, 50));
                        },
                    };
            }
        }
        var how = kind switch
        {
            1 => new Separation { Method = "patch", Blanks = BlankPages.Keep },
            2 => new Separation
            {
                Method = "code",
                Stays = true,
                Codes = new CodeFilter
                {
                    Kinds = ["Code 128"],
                    Shortest = 12,
                    Longest = 12,
                },
            },
            3 => new Separation { Method = "blank" },
            _ => new Separation { Method = "patch" },
        };
        return (how, leaves);
    }

    private static SKBitmap Mapped(SKBitmap page, Func<byte, byte> map, float blur)
    {
        byte[] same = [.. Enumerable.Range(0, 256).Select(level => (byte)level)];
        var table = Array.ConvertAll(same, level => map(level));
        using var filter = SKColorFilter.CreateTable(same, table, table, table);
        using var inner = blur > 0 ? SKImageFilter.CreateBlur(blur, blur) : null;
        using var paint = new SKPaint { ImageFilter = SKImageFilter.CreateColorFilter(filter, inner) };
        var made = new SKBitmap(page.Info);
        using var canvas = new SKCanvas(made);
        canvas.DrawBitmap(page, 0, 0, SKSamplingOptions.Default, paint);
        return made;
    }

    private async Task<long> Bring(string name, IReadOnlyList<Leaf> leaves, WayIn way)
    {
        Assert.Null(_house.WaysIn.Save(way, "me").Problem);
        var path = Path.Combine(_house.Folder.Drafts, name);
        StackDrawing.Pdf(path, leaves, 150, 3);
        var (batch, job, _) = await _house.Intake.BringAsync(name, [new BroughtFile(name, () => File.OpenRead(path))], "me", way.Key);
        await job!.Completion;
        Assert.Empty(_house.Failures);
        return batch;
    }

    [Fact]
    public async Task A_label_gives_ship_and_call_and_the_register_the_rest_and_enclosures_are_passed_over()
    {
        foreach (var reader in new[] { HarbourReaders.LabelledSlip, HarbourReaders.Permit })
            _house.Teach(reader);
        var way = HarbourStacks.Ways.First(w => w.Key == "mail-room");
        var batch = await Bring("letters.pdf", [.. HarbourStacks.Labelled().Take(5)], way);
        var documents = _house.Desk.Waiting("me", batch);
        Assert.Equal([1, 2, 2], documents.Select(d => _house.Desk.Pages(d.Document.Id).Count));
        for (var i = 0; i < 3; i++)
        {
            var truth = HarbourStacks.Slip(i).Truth;
            var document = documents[i].Document;
            Assert.Equal((truth["imo"], truth["call-number"]), (document.Record["imo"], document.Record["call-number"]));
            Assert.Equal("Code 128", document.Evidence["imo"].Method);
            Assert.Equal(truth["berth"], document.Record["berth"]);
            var (published, judged) = (documents[i].Published!, documents[i].Judged!);
            // Number → register → flag, tonnage; and on to the folder.
            Assert.False(judged.Values[published.Type.OrdinalOf("gross-tonnage")].IsEmpty);
            Assert.Contains(truth["arrived"][..4], judged.Placement.Path, StringComparison.Ordinal);
        }
        var permits = HarbourStacks.Ways.First(w => w.Key == "permits") with { Readers = [] };
        batch = await Bring("permits.pdf", [.. HarbourStacks.Permits().Take(3)], permits);
        var permit = Assert.IsType<StoredDocument>(_house.Desk.Waiting("me", batch)[0].Document);
        Assert.All(HarbourStacks.PermitPage(0).Truth, v => Assert.Equal(v.Value, permit.Record[v.Key]));
    }

    [Fact]
    public async Task A_stack_is_cut_by_hand_undone_cut_again_and_what_stays_keeps_what_was_typed()
    {
        var way = new WayIn("", "Copier")
        {
            Separation = new Separation { Method = "pages", Pages = 2 },
        };
        var batch = await Bring(
            "five.pdf",
            [.. Enumerable.Range(0, 5).Select(i => HarbourStacks.Enclosure(i, null))],
            way with
            {
                TypeCode = "hot-work-permit",
            } with
            {
                Key = "copier",
            }
        );
        // The remainder is doubtful, so nothing was made yet.
        Assert.Empty(_house.Desk.Waiting("me", batch));
        var view = _house.Stacks.Look(batch, "me")!;
        Assert.Equal((BatchState.Look, 3), (view.Batch.State, view.Plan.Documents.Count));
        var pages = view.Pages.Select(p => p.Key).ToList();
        Assert.Null(_house.Stacks.Make(batch, "me").Problem);
        var first = _house.Desk.Waiting("me", batch)[0].Document.Id;
        Assert.Null(_house.Desk.SetValue(first, "work", "Welding", null, "me").Problem);

        Assert.Null(_house.Stacks.Decide(batch, new CuttingStep(null, new HandEdit("join", pages[4])), "me").Problem);
        Assert.Equal(2, _house.Stacks.Look(batch, "me")!.Plan.Documents.Count);
        Assert.False(_house.Stacks.Look(batch, "me")!.Made);
        Assert.Null(_house.Stacks.Undo(batch, "me").Problem);
        Assert.True(_house.Stacks.Look(batch, "me")!.Made);
        Assert.Null(_house.Stacks.Decide(batch, new CuttingStep(null, new HandEdit("cut", pages[3])), "me").Problem);
        Assert.Null(_house.Stacks.Make(batch, "me").Problem);
        var documents = _house.Desk.Waiting("me", batch).Select(d => d.Document).ToList();
        Assert.Equal([2, 1, 1, 1], documents.Select(d => _house.Desk.Pages(d.Id).Count).OrderDescending());
        Assert.Equal("Welding", documents.Single(d => d.Id == first).Record["work"]);
        Assert.Equal("hot-work-permit", documents[^1].TypeCode);

        // Another method forgets what was done by hand, until it is undone.
        Assert.Null(_house.Stacks.Decide(batch, new CuttingStep(new Separation { Method = "pages", Pages = 5 }, null), "me").Problem);
        Assert.Single(_house.Stacks.Look(batch, "me")!.Plan.Documents);
        Assert.NotNull(_house.Stacks.Decide(batch, new CuttingStep(new Separation { Method = "pages", Pages = 0 }, null), "me").Problem);
        Assert.NotNull(_house.Stacks.Decide(batch, new CuttingStep(null, new HandEdit("cut", "77/1")), "me").Problem);
        Assert.Null(_house.Stacks.Undo(batch, "me").Problem);
        Assert.Null(_house.Stacks.GiveUp(batch, "me").Problem);
        Assert.Empty(_house.Desk.Waiting("me", batch));
        Assert.NotNull(_house.Stacks.Make(batch, "me").Problem);
    }

    /// <summary>A reader that knows following and last pages cuts a stack of letters of any length, behind each last page.</summary>
    [Fact]
    public async Task Letters_of_any_length_are_cut_behind_the_last_page_that_their_reader_knows()
    {
        _house.Teach(
            new Core.Reading.Reader(
                "notice",
                "Notice",
                "hot-work-permit",
                [
                    new Clue("Notice to Mariners", default),
                    new Clue("continued", default) { On = PageRole.Following, Or = ["carried on"] },
                    new Clue("By order of the Harbour Master", default) { On = PageRole.Last },
                ],
                [],
                []
            )
        );
        Action<SKCanvas> Says(string text) =>
            canvas =>
            {
                using var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 14);
                using var ink = new SKPaint();
                canvas.DrawText(text, 60, 120, SKTextAlign.Left, font, ink);
            };
        var (first, next, last, strange) = (
            Says("Notice to Mariners"),
            Says("carried on from the page before"),
            Says("By order of the Harbour Master"),
            Says("Tide tables")
        );
        var path = Path.Combine(_house.Folder.Drafts, "notices.pdf");
        var nothing = new Dictionary<string, string>();
        HarbourFreeForms.Pdf(
            path,
            new FreeDocument([first, next, last, first, last, strange, first, strange, last, first, first], nothing)
        );
        var way = new WayIn("notices", "Notices")
        {
            Separation = new Separation { Method = "reader" },
            LookFirst = LookFirst.Always,
        };
        Assert.Null(_house.WaysIn.Save(way, "me").Problem);
        var (batch, job, _) = await _house.Intake.BringAsync(
            "n",
            [new BroughtFile("notices.pdf", () => File.OpenRead(path))],
            "me",
            way.Key
        );
        await job!.Completion;
        var plan = _house.Stacks.Look(batch, "me")!.Plan;
        Assert.Equal([3, 2, 1, 3, 1, 1], plan.Documents.Select(d => d.Pages.Count));
        Assert.Equal(
            [
                "6: it is of unknown kind",
                "8: it does not look like a page of Notice: “continued” is not on this page",
                "11: the document before ends without the last page that Notice knows",
            ],
            plan.Pages.Select((p, at) => (At: at + 1, p.Doubt)).Where(p => p.Doubt is not null).Select(p => $"{p.At}: {p.Doubt}")
        );
        Assert.Null(_house.Stacks.Make(batch, "me").Problem);
        var documents = _house.Desk.Waiting("me", batch).ConvertAll(d => d.Document);
        Assert.Equal(["notice", "notice", null, "notice", "notice", "notice"], documents.Select(d => d.ReaderKey));
    }

    [Fact]
    public async Task A_batch_that_is_kept_to_some_people_is_seen_by_nobody_else()
    {
        var way = new WayIn("closed", "Closed post") { People = ["Maren Holt"], LookFirst = LookFirst.Never };
        var batch = await Bring("closed.pdf", [HarbourStacks.Enclosure(1, null)], way);
        var id = Assert.Single(_house.Desk.Waiting("Maren Holt", batch)).Document.Id;
        Assert.Empty(_house.Desk.Waiting("Tobias Finch"));
        Assert.Empty(_house.Desk.Queue("Tobias Finch"));
        Assert.Null(_house.Desk.Find(id, "Tobias Finch"));
        Assert.Null(_house.Stacks.Look(batch, "Tobias Finch"));
        Assert.NotNull(_house.Desk.SetType(id, "hot-work-permit", "Tobias Finch").Problem);
        Assert.NotNull(_house.Stacks.GiveUp(batch, "Tobias Finch").Problem);
        Assert.Null(_house.Desk.SetType(id, "hot-work-permit", "Maren Holt").Problem);
    }

    public void Dispose() => _house.Dispose();
}
