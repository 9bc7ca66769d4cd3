using System.Diagnostics;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using SkiaSharp;

namespace ClearLexicon.Trouble.Tests;

/// <summary>
/// The real program, killed (SIGKILL) at random moments while it takes a watched folder of many files: each ends in exactly one document
/// or one refusal. KILL_ROUNDS=20 with 200 files; a few here.
/// </summary>
public sealed class WatchedKillTests : IAsyncLifetime
{
    private static readonly int Rounds = int.TryParse(Environment.GetEnvironmentVariable("KILL_ROUNDS"), out var rounds) ? rounds : 3;
    private static readonly int Files = Rounds >= 20 ? 200 : 24;

    private readonly Random _random = new(4);
    private readonly RealProgram _program = new();

    public ValueTask InitializeAsync() => ValueTask.CompletedTask;

    [Fact]
    public async Task Killed_at_any_moment_every_file_is_one_document_or_one_refusal()
    {
        var folder = new DataFolder(_program.Data);
        var post = Path.Combine(folder.Root, "post");
        Directory.CreateDirectory(post);
        using (var database = new Database(folder.DatabaseFile))
            database.Write(c => WayInStore.Save(c, new WayIn("post", "Post") { Folder = "post", LookFirst = LookFirst.Never }));
        for (var i = 0; i < Files; i++)
            await File.WriteAllBytesAsync(
                Path.Combine(post, $"{i:000}.pdf"),
                i % 8 == 7 ? "no PDF at all"u8.ToArray().Concat(BitConverter.GetBytes(i)).ToArray() : Pdf(i)
            );
        for (var round = 0; round < Rounds; round++)
        {
            _program.Start();
            await Task.Delay(_random.Next(1_000, Rounds >= 20 ? 9_000 : 6_000));
            await _program.KillAsync();
        }
        _program.Start();
        for (var clock = Stopwatch.StartNew(); Directory.GetFiles(post).Length > 0; await Task.Delay(300))
            Assert.True(clock.Elapsed < TimeSpan.FromMinutes(4), $"{Directory.GetFiles(post).Length} files are still there");
        await _program.Quiet();
        await _program.KillAsync();

        using var after = new Database(folder.DatabaseFile);
        var documents = after.Read(c => c.Query("SELECT source_name FROM documents", r => r.Text("source_name"))).Order().ToList();
        var refused = after
            .Read(c => c.Query("SELECT name FROM batch_files WHERE state = 'refused'", r => r.Text("name")))
            .Order()
            .ToList();
        var bad = Enumerable.Range(0, Files).Where(i => i % 8 == 7).Select(i => $"{i:000}.pdf").ToList();
        var good = Enumerable.Range(0, Files).Where(i => i % 8 != 7).Select(i => $"{i:000}.pdf").ToList();
        Assert.Equal(good, documents);
        Assert.Equal(bad, refused);
        Assert.Equal(good, Directory.GetFiles(Path.Combine(post, "done")).Select(Path.GetFileName).Order());
        Assert.Equal(
            bad.SelectMany(b => new[] { b, b + ".txt" }),
            Directory.GetFiles(Path.Combine(post, "refused")).Select(Path.GetFileName).Order()
        );
    }

    // A page with a text layer, each with another text.
    private static byte[] Pdf(int number)
    {
        using var written = new MemoryStream();
        using (var document = SKDocument.CreatePdf(written))
        {
            using (var canvas = document.BeginPage(300, 400))
            using (var font = new SKFont(SKTypeface.FromFile(Formats.SearchablePdf.FontPath), 14))
            using (var ink = new SKPaint())
                canvas.DrawText($"Letter number {number} to the harbour", 20, 60, SKTextAlign.Left, font, ink);
            document.EndPage();
            document.Close();
        }
        return written.ToArray();
    }

    public ValueTask DisposeAsync() => _program.DisposeAsync();
}
