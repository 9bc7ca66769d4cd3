using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Formats;

/// <summary>What is done with files that somebody brought. They are opened here and nowhere else.</summary>
public interface IFileReader
{
    /// <summary>What a file is and whether it can be taken in; see <see cref="IntakeCheck"/>.</summary>
    Task<IntakeResult> CheckAsync(string path, string name, CancellationToken cancel);

    /// <summary>Pictures and words of the pages of a file that <see cref="CheckAsync"/> let through.</summary>
    /// <exception cref="FileRefusedException">It cannot be read; says why.</exception>
    Task<IReadOnlyList<TakenPage>> PagesAsync(
        string path,
        string name,
        FileKind kind,
        WantedPages pages,
        string imageFolder,
        CancellationToken cancel
    );

    /// <summary>Rows for a reference table; see <see cref="TableFile"/>.</summary>
    Task<(IReadOnlyList<string>? Columns, List<string[]> Rows, string? Problem)> TableAsync(
        string path,
        string name,
        CancellationToken cancel
    );

    /// <summary>Terms of a vocabulary; see <see cref="TermFiles"/>.</summary>
    Task<(BroughtTerms? Terms, string? Problem)> TermsAsync(string path, string name, string language, CancellationToken cancel);
}

/// <summary>A file cannot be read. The message names it and says why, in our words.</summary>
/// <param name="message">One sentence.</param>
public sealed class FileRefusedException(string message) : Exception(message);

/// <summary>Reads files in this process: what the worker does, and tests of the formats themselves.</summary>
public sealed class HereReader : IFileReader
{
    /// <inheritdoc/>
    public Task<IntakeResult> CheckAsync(string path, string name, CancellationToken cancel) =>
        Task.Run(() => IntakeCheck.Check(path, name), cancel);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<TakenPage>> PagesAsync(
        string path,
        string name,
        FileKind kind,
        WantedPages pages,
        string imageFolder,
        CancellationToken cancel
    )
    {
        try
        {
            return await PageReading.ReadAsync(path, kind, pages, imageFolder, cancel);
        }
        catch (InvalidDataException e)
        {
            throw new FileRefusedException($"“{name}”: {e.Message}");
        }
        catch (TimeoutException)
        {
            throw new FileRefusedException($"“{name}” takes too long to be read.");
        }
        catch (OutOfMemoryException)
        {
            throw new FileRefusedException($"“{name}” needs more memory than a file may take.");
        }
        // The libraries throw many kinds on damaged files; all mean the same to the person.
        catch (Exception e) when (e is not OperationCanceledException and not IOException)
        {
            throw new FileRefusedException($"“{name}” is damaged and cannot be read.");
        }
    }

    /// <inheritdoc/>
    public Task<(IReadOnlyList<string>? Columns, List<string[]> Rows, string? Problem)> TableAsync(
        string path,
        string name,
        CancellationToken cancel
    ) => Task.Run(() => TableFile.Read(path, name), cancel);

    /// <inheritdoc/>
    public Task<(BroughtTerms? Terms, string? Problem)> TermsAsync(string path, string name, string language, CancellationToken cancel) =>
        TermFiles.ReadAsync(path, name, language, cancel);
}
