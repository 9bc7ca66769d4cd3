using System.Globalization;
using UglyToad.PdfPig;

namespace ClearLexicon.Formats;

/// <summary>
/// Fields of a form that were filled, stamps, and what was typed onto a page lie beside its content (annotations, ISO 32000-1, 12.5): they
/// are seen and are no part of its text. For reading they are laid into the page in a copy (qpdf); what is filed is the page as it came.
/// </summary>
internal static class LaidInNotes
{
    /// <summary>Writes the copy.</summary>
    /// <param name="path">The file.</param>
    /// <param name="pdf">The same, opened by <see cref="PageFrame.Open"/>.</param>
    /// <param name="wanted">The pages that are read.</param>
    /// <param name="folder">Where the copy goes.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>
    /// The copy, of these pages only, which the caller deletes; null when nothing lies beside them, or it cannot be laid in.
    /// </returns>
    public static async Task<string?> WriteAsync(string path, PdfDocument pdf, WantedPages wanted, string folder, CancellationToken cancel)
    {
        if (!Enumerable.Range(wanted.First, wanted.Count).Any(n => HasNotes(pdf, n)) || !Qpdf.Available)
            return null;
        var copy = Path.Combine(folder, $"laid-{Guid.NewGuid():N}.pdf");
        var isLaid = false;
        try
        {
            isLaid = await Qpdf.RunAsync(
                [
                    // One that anybody may open and not everybody may change.
                    "--decrypt",
                    "--generate-appearances",
                    "--flatten-annotations=all",
                    path,
                    "--pages",
                    ".",
                    string.Create(CultureInfo.InvariantCulture, $"{wanted.First}-{wanted.First + wanted.Count - 1}"),
                    "--",
                    copy,
                ],
                PageReading.PageLimit,
                cancel
            );
        }
        catch (Exception e) when (e is TimeoutException or InvalidDataException)
        {
            // Read without them.
        }
        finally
        {
            if (!isLaid)
                File.Delete(copy);
        }
        return isLaid ? copy : null;
    }

    private static bool HasNotes(PdfDocument pdf, int number)
    {
        try
        {
            return pdf.GetPage<PageFrame>(number).HasNotes;
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // It is told when it is its turn.
            return false;
        }
    }
}
