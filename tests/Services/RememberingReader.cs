using System.Collections.Concurrent;
using System.Security.Cryptography;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Services.Tests;

/// <summary>
/// Reads files as the product does, but each page only once in a run: most tests bring the same pages of the harbour, and recognising them
/// again would be most of their time.
/// </summary>
internal sealed class RememberingReader : IFileReader
{
    private sealed record Kept(string Folder, IReadOnlyList<TakenPage> Pages);

    private static readonly string Root = RunFolder.Made("read");
    private static readonly ConcurrentDictionary<string, Lazy<Task<Kept>>> Known = new(StringComparer.Ordinal);
    private readonly HereReader _here = new();

    public Task<IntakeResult> CheckAsync(string path, string name, CancellationToken cancel) => _here.CheckAsync(path, name, cancel);

    public async Task<IReadOnlyList<TakenPage>> PagesAsync(
        string path,
        string name,
        FileKind kind,
        WantedPages pages,
        string imageFolder,
        CancellationToken cancel
    )
    {
        // Text that was brought beside is part of what is read.
        if (File.Exists(PageReading.TextBeside(path)))
            return await _here.PagesAsync(path, name, kind, pages, imageFolder, cancel);
        var key = $"{Convert.ToHexString(SHA256.HashData(await File.ReadAllBytesAsync(path, cancel)))} {kind} {pages}";
        var reading = Known.GetOrAdd(key, _ => new Lazy<Task<Kept>>(() => ReadAsync(path, name, kind, pages)));
        Kept kept;
        try
        {
            kept = await reading.Value.WaitAsync(cancel);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            Known.TryRemove(key, out _);
            throw;
        }
        Directory.CreateDirectory(imageFolder);
        foreach (var file in Directory.GetFiles(kept.Folder))
            File.Copy(file, Path.Combine(imageFolder, Path.GetFileName(file)), overwrite: true);
        return [.. kept.Pages.Select(p => p with { ImagePath = Path.Combine(imageFolder, Path.GetFileName(p.ImagePath)) })];
    }

    private async Task<Kept> ReadAsync(string path, string name, FileKind kind, WantedPages pages)
    {
        var folder = Path.Combine(Root, Guid.NewGuid().ToString("N"));
        return new Kept(folder, await _here.PagesAsync(path, name, kind, pages, folder, CancellationToken.None));
    }

    public Task<(IReadOnlyList<string>? Columns, List<string[]> Rows, string? Problem)> TableAsync(
        string path,
        string name,
        CancellationToken cancel
    ) => _here.TableAsync(path, name, cancel);

    public Task<(BroughtTerms? Terms, string? Problem)> TermsAsync(string path, string name, string language, CancellationToken cancel) =>
        _here.TermsAsync(path, name, language, cancel);
}
