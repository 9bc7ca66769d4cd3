using ClearLexicon.Core.Reading;

namespace ClearLexicon.Formats;

/// <summary>A page to be filed.</summary>
/// <param name="Source">The PDF it is a page of, as it came.</param>
/// <param name="Number">Its number there, from 1.</param>
/// <param name="Text">Its words; laid over it when they were recognised, not when they are its own.</param>
public sealed record FiledPage(string Source, int Number, PageText Text)
{
    /// <summary>Whether its words were recognised here, so that the page itself does not hold them.</summary>
    public bool NeedsText => Text.Method != "text layer";
}

/// <summary>
/// Puts pages as they came together into one PDF, with recognised words invisible above them (qpdf). Pictures and drawings are not
/// touched; a page that lay on its side or its head is turned by its own entry.
/// </summary>
public static class FiledPdf
{
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(120);

    /// <summary>Whether it can be done here.</summary>
    public static bool Available => Qpdf.Available;

    /// <summary>Writes the pages.</summary>
    /// <param name="pages">The pages in order.</param>
    /// <param name="target">The PDF; files beside it are made and removed.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>Whether it was written; false when a source is damaged beyond what qpdf mends.</returns>
    public static async Task<bool> WriteAsync(IReadOnlyList<FiledPage> pages, string target, CancellationToken cancel)
    {
        if (!Available)
            return false;
        var (text, bare) = (target + ".text.pdf", target + ".bare.pdf");
        try
        {
            var needsText = pages.Any(p => p.NeedsText);
            List<string> how = ["--empty", "--pages"];
            // A run of pages of one file is one part: qpdf opens it once.
            for (int from = 0, to; from < pages.Count; from = to)
            {
                for (
                    to = from + 1;
                    to < pages.Count && pages[to].Source == pages[from].Source && pages[to].Number == pages[to - 1].Number + 1;

                )
                    to++;
                how.AddRange([pages[from].Source, $"{pages[from].Number}-{pages[to - 1].Number}"]);
            }
            how.Add("--");
            foreach (var turned in pages.Select((p, i) => (p.Text.Lay.Turned, At: i + 1)).Where(p => p.Turned != 0).GroupBy(p => p.Turned))
                how.Add($"--rotate=+{turned.Key}:{string.Join(',', turned.Select(t => t.At))}");
            how.Add(needsText ? bare : target);
            if (!await RunAsync(how, cancel))
                return false;
            if (!needsText)
                return true;
            InvisibleText.Write(text, [.. pages.Select(p => p.NeedsText ? p.Text : p.Text with { Words = [] })]);
            return await RunAsync([bare, "--overlay", text, "--", target], cancel);
        }
        finally
        {
            File.Delete(text);
            File.Delete(bare);
        }
    }

    private static async Task<bool> RunAsync(IEnumerable<string> how, CancellationToken cancel)
    {
        try
        {
            // Streams are carried over as they are; what is not needed any more is left out.
            return await Qpdf.RunAsync(["--stream-data=preserve", "--remove-unreferenced-resources=yes", .. how], Limit, cancel);
        }
        catch (Exception e) when (e is TimeoutException or InvalidDataException)
        {
            return false;
        }
    }
}
