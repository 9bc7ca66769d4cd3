using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Demo;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>A watched folder takes each file once, when it is whole, and says what it did not take.</summary>
public sealed class WatchedFolderTests : IDisposable
{
    private sealed class Clock : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = DateTimeOffset.UtcNow;

        public override DateTimeOffset GetUtcNow() => Now;
    }

    private readonly House _house = new House().WithDesigns();
    private readonly Clock _clock = new();
    private readonly WatchedFolders _folders;
    private readonly string _root;

    public WatchedFolderTests()
    {
        Assert.Null(_house.WaysIn.Save(new WayIn("post", "Post") { Folder = "post", LookFirst = LookFirst.Never }, "me").Problem);
        _root = Path.Combine(_house.Folder.Root, "post");
        Directory.CreateDirectory(_root);
        _folders = new WatchedFolders(_house.Database, _house.WaysIn, _house.Intake, _clock);
    }

    private string At(params string[] parts) => Path.Combine([_root, .. parts]);

    // Looks as often as it takes for a quiet file to be taken, read and put away.
    private async Task LookAsync(int times = 3, double seconds = 3)
    {
        for (var i = 0; i < times; i++)
        {
            await _folders.LookAsync(default);
            if (_house.Jobs.Running(Intake.Subject) is { } job)
                await job.Completion;
            _clock.Now += TimeSpan.FromSeconds(seconds);
        }
        Assert.Empty(_house.Failures);
    }

    private static byte[] Page(int number)
    {
        var folder = Directory.CreateTempSubdirectory("page").FullName;
        var page = HarbourDocuments.AlreadyFiled()[number];
        HarbourDocuments.Draw(page, folder);
        var bytes = File.ReadAllBytes(Path.Combine(folder, page.FileName));
        Directory.Delete(folder, recursive: true);
        return bytes;
    }

    private int Documents => _house.Desk.Waiting("me").Count;

    [Fact]
    public async Task A_file_that_grows_is_taken_when_it_is_whole_and_once()
    {
        var bytes = Page(0);
        await File.WriteAllBytesAsync(At("a.pdf"), bytes[..2000]);
        for (var i = 2; i < 6; i++)
        {
            await LookAsync(1, 1);
            await File.WriteAllBytesAsync(At("a.pdf"), bytes[..(1000 + i * 500)]);
        }
        Assert.Equal(0, Documents);
        Assert.Equal(1, _folders.StateOf("post")!.Waiting);
        await File.WriteAllBytesAsync(At("a.pdf"), bytes);
        await LookAsync(4);
        Assert.Equal(1, Documents);
        Assert.True(File.Exists(At("done", "a.pdf")));
        Assert.False(File.Exists(At("a.pdf")));
        // The same once more, under another name: refused, with the reason beside it.
        await File.WriteAllBytesAsync(At("b.pdf"), bytes);
        await LookAsync(4);
        Assert.Equal(1, Documents);
        Assert.Contains("as “a.pdf”", await File.ReadAllTextAsync(At("refused", "b.pdf.txt")), StringComparison.Ordinal);
        // Another file under a name that was put away: nothing is overwritten.
        await File.WriteAllBytesAsync(At("a.pdf"), Page(1));
        await LookAsync(4);
        Assert.Equal(2, Documents);
        Assert.Equal(bytes, await File.ReadAllBytesAsync(At("done", "a.pdf")));
        Assert.True(File.Exists(At("done", "a 2.pdf")));
    }

    [Fact]
    public async Task What_cannot_be_taken_is_put_aside_with_the_reason()
    {
        await File.WriteAllTextAsync(At("empty.pdf"), "");
        await File.WriteAllTextAsync(At("letter.pdf"), "this is no PDF");
        await File.WriteAllBytesAsync(At("cut.pdf"), Page(0)[..3000]);
        await File.WriteAllTextAsync(At("half.pdf.part"), "…");
        await File.WriteAllTextAsync(At(".hidden.pdf"), "…");
        await File.WriteAllTextAsync(At("lonely.hocr"), "<html/>");
        File.CreateSymbolicLink(At("link.pdf"), "/etc/hostname");
        Directory.CreateSymbolicLink(At("elsewhere"), "/etc");
        using (var large = File.Create(At("large.pdf")))
            large.SetLength(2L * 1024 * 1024 * 1024);
        await LookAsync(4, 20);
        Assert.Equal(0, Documents);
        string Why(string name) => File.ReadAllText(At("refused", name + ".txt"));
        Assert.Contains("empty", Why("empty.pdf"), StringComparison.Ordinal);
        Assert.Contains("content is not one", Why("letter.pdf"), StringComparison.Ordinal);
        Assert.Contains("cut off", Why("cut.pdf"), StringComparison.Ordinal);
        Assert.Contains("link", Why("link.pdf"), StringComparison.Ordinal);
        Assert.Contains("2,048 MB", Why("large.pdf"), StringComparison.Ordinal);
        Assert.Contains("no picture", Why("lonely.hocr"), StringComparison.Ordinal);
        Assert.True(File.Exists(At("half.pdf.part")) && File.Exists(At(".hidden.pdf")));
        Assert.True(File.Exists("/etc/hostname"));
        Assert.Equal(1, _folders.StateOf("post")!.Waiting);
    }

    [Fact]
    public async Task A_picture_and_the_text_beside_it_are_taken_together()
    {
        var scan = HarbourDocuments.Incoming().First(p => p.FileName.EndsWith(".png", StringComparison.Ordinal));
        HarbourDocuments.Draw(scan, _root);
        var stem = Path.GetFileNameWithoutExtension(scan.FileName);
        await File.WriteAllTextAsync(At(stem + ".hocr"), "<html><div class='ocr_page' title='bbox 0 0 100 140'></div></html>");
        await LookAsync(4);
        var document = Assert.Single(_house.Desk.Waiting("me")).Document;
        Assert.Equal("brought", _house.Desk.Pages(document.Id)[0].Text.Method);
        Assert.Equal([stem + ".hocr", scan.FileName], Directory.GetFiles(At("done")).Select(Path.GetFileName).Order());
        Assert.Empty(Directory.GetFiles(_root));
    }

    [Fact]
    public async Task A_folder_that_goes_and_comes_back_loses_nothing_and_a_restart_doubles_nothing()
    {
        Directory.CreateDirectory(At("Quay Ltd"));
        await File.WriteAllBytesAsync(At("Quay Ltd", "a.pdf"), Page(2));
        await LookAsync(1);
        Directory.Move(_root, _root + ".away");
        await LookAsync(2);
        Assert.Contains("not there", _folders.StateOf("post")!.Problem, StringComparison.Ordinal);
        Directory.Move(_root + ".away", _root);
        // Taken, but the program ends before it is put away.
        await LookAsync(1);
        Assert.Equal(1, Documents);
        Assert.True(File.Exists(At("Quay Ltd", "a.pdf")));
        Assert.Equal("Quay Ltd/a.pdf", Assert.Single(_house.Desk.Waiting("me")).Document.SourceName);
        var again = new WatchedFolders(_house.Database, _house.WaysIn, _house.Intake, _clock);
        for (var i = 0; i < 3; i++)
        {
            await again.LookAsync(default);
            _clock.Now += TimeSpan.FromSeconds(3);
        }
        Assert.Equal(1, Documents);
        Assert.True(File.Exists(At("done", "Quay Ltd", "a.pdf")));
        Assert.Empty(_house.Database.Read(c => WayInStore.ToPutAway(c, "post")));
    }

    [Fact]
    public void A_folder_of_the_program_itself_is_not_watched_nor_one_twice()
    {
        Result<string> Save(string folder) => _house.WaysIn.Save(new WayIn("", $"Way {folder.Length}") { Folder = folder }, "me");
        foreach (var folder in new[] { "repository", "brought/1", "..", "/", "post/below", "pages", "drafts" })
            Assert.NotNull(Save(folder).Problem);
        Assert.Null(Save("another one").Problem);
        Assert.Contains("already", Save("another yet").Problem ?? "already", StringComparison.Ordinal);
    }

    public void Dispose() => _house.Dispose();
}
