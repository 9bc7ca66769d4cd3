using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Formats;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using SkiaSharp;

namespace ClearLexicon.Services.Tests;

/// <summary>The files of a batch as one stack: a scanner that begins a new file when it is full does not end a document.</summary>
public sealed class AcrossFilesTests : IDisposable
{
    private readonly House _house = new();

    public AcrossFilesTests()
    {
        Assert.True(_house.Drafts.Create("Letter", "me").Ok);
        Assert.Null(
            _house
                .Drafts.Change(
                    "letter",
                    "fields",
                    "me",
                    t =>
                        t with
                        {
                            Fields = [new TextField("subject", "Subject") { Required = true }],
                            Convention = new Convention([Piece.Literal("Letters")], [Piece.Of("subject")]),
                        }
                )
                .Problem
        );
        Assert.Null(_house.Drafts.Publish("letter", "me").Problem);
        var copier = new WayIn("copier", "Copier")
        {
            TypeCode = "letter",
            LookFirst = LookFirst.Never,
            Separation = new Separation
            {
                Method = "pages",
                Pages = 3,
                EndsWithFile = false,
            },
        };
        Assert.Null(_house.WaysIn.Save(copier, "me").Problem);
    }

    private BroughtFile Pdf(string name, params int[] leaves)
    {
        var path = Path.Combine(_house.Folder.Drafts, name);
        using (var file = File.Create(path))
        using (var pdf = SKDocument.CreatePdf(file))
        using (var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 18))
        using (var ink = new SKPaint { Color = SKColors.Black })
        {
            foreach (var leaf in leaves)
            {
                using var canvas = pdf.BeginPage(595, 842);
                canvas.DrawText($"Leaf {leaf} of the correspondence", 80, 120, SKTextAlign.Left, font, ink);
                pdf.EndPage();
            }
            pdf.Close();
        }
        return new BroughtFile(name, () => File.OpenRead(path));
    }

    private async Task<long> Bring(params BroughtFile[] files)
    {
        var (batch, job, _) = await _house.Intake.BringAsync("Morning post", [.. files], "me", "copier");
        await job!.Completion;
        Assert.Empty(_house.Failures);
        return batch;
    }

    // For each document the leaves on its pages, as they were read.
    private List<string> Leaves(long batch) =>
        [
            .. _house
                .Desk.Waiting("me", batch)
                .Select(d =>
                    string.Join(' ', _house.Database.Read(c => DocumentStore.Pages(c, d.Document.Id)).Select(p => p.Text.Words[1].Text))
                ),
        ];

    [Fact]
    public async Task A_document_goes_on_over_the_end_of_a_file_is_cut_undone_and_filed_with_pages_of_both()
    {
        var batch = await Bring(Pdf("one.pdf", 11, 12), Pdf("two.pdf", 21, 22, 23, 24));
        Assert.Equal(["11 12 21", "22 23 24"], Leaves(batch));
        var first = _house.Desk.Waiting("me", batch)[0].Document;
        var pages = _house.Database.Read(c => DocumentStore.Pages(c, first.Id));
        Assert.Equal(2, pages.Select(p => p.FileId).Distinct().Count());
        Assert.Equal([1, 2, 1], pages.Select(p => p.FilePage!.Value));

        // A person sees the files as one ribbon, cuts where the file ends, and takes it back.
        var view = _house.Stacks.Look(batch, "me")!;
        Assert.Equal(6, view.Pages.Count);
        Assert.Null(_house.Stacks.Decide(batch, new CuttingStep(null, new HandEdit("cut", view.Pages[2].Key)), "me").Problem);
        Assert.Equal(2, _house.Stacks.Look(batch, "me")!.Plan.Documents[0].Pages.Count);
        Assert.Null(_house.Stacks.Undo(batch, "me").Problem);

        Assert.Null(_house.Desk.SetValue(first.Id, "subject", "Berth dues", null, "me").Problem);
        var filed = _house.Filer.File(first.Id, "me");
        Assert.Null(filed.Problem);
        var text = OtherProgram.Run("pdftotext", [Path.Combine(_house.Folder.Repository, "Letters", "Berth dues.pdf"), "-"]);
        Assert.Equal(["Leaf 11", "Leaf 12", "Leaf 21"], text.Split('\f', StringSplitOptions.RemoveEmptyEntries).Select(p => p.Trim()[..7]));
        // The files as they came are what they were.
        foreach (var page in pages)
            Assert.True(File.Exists(_house.Folder.Absolute(page.FileStored!)));
    }

    [Fact]
    public async Task A_file_that_cannot_be_read_is_refused_and_the_stack_goes_on_behind_it()
    {
        var batch = await Bring(
            Pdf("one.pdf", 11, 12),
            new BroughtFile("broken.pdf", () => new MemoryStream("%PDF-1.7 and nothing more"u8.ToArray())),
            Pdf("three.pdf", 31)
        );
        Assert.Equal(["11 12 31"], Leaves(batch));
        var refused = Assert.Single(_house.Database.Read(c => BatchStore.FilesOf(c, batch)), f => f.State == FileState.Refused);
        Assert.Equal("broken.pdf", refused.Name);
    }

    [Fact]
    public async Task A_file_that_is_long_in_coming_is_waited_for()
    {
        var (first, second) = (Pdf("one.pdf", 11, 12), Pdf("two.pdf", 21));
        BroughtFile late = new(
            "two.pdf",
            () =>
            {
                Assert.True(
                    SpinWait.SpinUntil(() => _house.Database.Read(c => BatchStore.FilesOf(c, 1))[0].State == FileState.Taken, 20_000)
                );
                Thread.Sleep(300);
                Assert.NotNull(_house.Stacks.Look(1, "me")!.Fixed);
                return second.Open();
            }
        );
        Assert.Equal(["11 12 21"], Leaves(await Bring(first, late)));
    }

    [Fact]
    public async Task A_way_in_whose_documents_end_with_their_file_keeps_the_files_apart()
    {
        var apart = _house.WaysIn.Find("copier")!;
        Assert.Null(_house.WaysIn.Save(apart with { Separation = apart.Separation with { EndsWithFile = true } }, "me").Problem);
        var batch = await Bring(Pdf("one.pdf", 11, 12, 13, 14), Pdf("two.pdf", 21, 22, 23));
        Assert.Equal(["11 12 13", "14", "21 22 23"], Leaves(batch));
    }

    public void Dispose() => _house.Dispose();
}
