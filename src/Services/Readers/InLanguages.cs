using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;

namespace ClearLexicon.Services.Readers;

/// <summary>Pages whose reader names languages are recognised once more, in these.</summary>
internal static class InLanguages
{
    /// <summary>
    /// A page in the languages of the reader that claims it; as it is when none does, when that reader names none, and when it came with
    /// words of its own. What is read so counts only when the reader still knows the page.
    /// </summary>
    /// <param name="files">Reads pages.</param>
    /// <param name="image">Its picture.</param>
    /// <param name="text">What was recognised first.</param>
    /// <param name="readers">Who may claim it.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task<PageText> ReadAsync(
        IFileReader files,
        string image,
        PageText text,
        IReadOnlyList<Reader> readers,
        CancellationToken cancel
    )
    {
        if (text.Method != "recognised" || readers.All(r => r.Languages is null))
            return text;
        using var ink = new PagePictures(_ => image);
        var claim =
            Recognition.Recognise(text, readers, ink)
            ?? readers.Select(r => Recognition.Try(text, r, ink)).FirstOrDefault(c => c.Role is not null);
        if (claim?.Reader is not { Languages: { } languages } reader || languages == text.Languages)
            return text;
        var again = await RecogniseAsync(files, image, text, languages, cancel);
        return again is null || Recognition.Try(again, reader, ink).Role is null ? text : again;
    }

    /// <summary>A page in other languages; its codes, its ink and how it lies stay as they are known.</summary>
    /// <returns>Null when its picture cannot be read any more.</returns>
    public static async Task<PageText?> RecogniseAsync(
        IFileReader files,
        string image,
        PageText text,
        string? languages,
        CancellationToken cancel
    )
    {
        var folder = image + ".again";
        try
        {
            var wanted = new WantedPages(1, 1) { Languages = languages ?? "", AsTheyLie = true };
            var read = await files.PagesAsync(image, Path.GetFileName(image), FileKind.Image, wanted, folder, cancel);
            return text with { Words = read[0].Text.Words, Languages = languages };
        }
        catch (FileRefusedException)
        {
            return null;
        }
        finally
        {
            if (Directory.Exists(folder))
                Directory.Delete(folder, recursive: true);
        }
    }
}
