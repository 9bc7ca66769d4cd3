using System.Globalization;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// The files in which one document leaves by a plan: as filed, redacted, marked or as strips; as PDF, PDF/A, PNG or TIFF.
/// </summary>
internal sealed partial class DocumentCopies(
    ExportDefinition what,
    Leaving leaving,
    DataFolder folder,
    StoredDocument document,
    IReadOnlyList<StoredPage> pages
) : IDisposable
{
    // Points of a page of A4 width, by which margins are shares of it.
    private const double PageWidth = 595;

    private string? _made;

    /// <summary>How a plan's squares look.</summary>
    public static MarkLook Look(ExportDefinition what) => new(what.MarkColour, what.MarkWidth, what.MarkDashed, what.MarkMargin);

    /// <summary>Its files.</summary>
    /// <param name="path">The path that it has in the run; parts of it are beside that, or in a folder of that name.</param>
    /// <returns>Each file's path and what writes it, which throws <see cref="RefusedException"/> when it cannot be made.</returns>
    public IEnumerable<(string Path, Action<string> Write)> Of(string path) =>
        what.Files == "strips" ? Strips(path)
        : what.Pages == "png"
            ? Enumerable
                .Range(1, Math.Max(1, pages.Count))
                .Select(n =>
                    (
                        // With its number no page is called as another document is.
                        pages.Count > 1
                            ? $"{Path.ChangeExtension(path, null)} ({document.Id}) page {n}.png"
                            : path,
                        (Action<string>)(target => Refuse(PagesAsPictures.PngAsync(Pdf(), n, target, default).GetAwaiter().GetResult()))
                    )
                )
        : [(path, Whole)];

    private void Whole(string target)
    {
        switch (what.Pages)
        {
            case "pdfa":
                if (ArchivalPdf.WriteAsync(Pdf(), target, default).GetAwaiter().GetResult() is { Count: > 0 } faults)
                    throw new RefusedException($"It cannot be made PDF/A-2u. {string.Join(' ', faults)}");
                break;
            case "tiff":
                Refuse(PagesAsPictures.TiffAsync(Pdf(), target, default).GetAwaiter().GetResult());
                break;
            default:
                folder.Disk.Copy(Pdf(), target);
                break;
        }
    }

    // The PDF that leaves, or of which pictures are made.
    private string Pdf()
    {
        if (what.Files == "filed")
            return folder.InRepository(document.Folder!, document.Name!);
        if (_made is not null)
            return _made;
        var made = Path.Combine(folder.Drafts, $"copy-{Guid.NewGuid():N}.pdf");
        if (what.Files == "redacted")
        {
            var redaction = leaving.Redaction(document);
            RedactedCopy.Write(
                made,
                RedactedCopy.Pages(pages, redaction, folder),
                redaction,
                Path.GetFileNameWithoutExtension(leaving.PathOf(document))
            );
        }
        else
            Refuse(
                MarkedPdf
                    .WriteAsync(
                        folder.InRepository(document.Folder!, document.Name!),
                        [.. pages.Select(p => p.Text.Lay)],
                        [.. Places().Select(p => new MarkedPlace(p.Page, p.Box, leaving.LabelOf(p.Field), p.Says))],
                        Look(what),
                        made,
                        default
                    )
                    .GetAwaiter()
                    .GetResult()
            );
        return _made = made;
    }

    private IEnumerable<(string Field, int Page, Box Box, string Says)> Places() =>
        leaving
            .Fields.Where(document.Evidence.ContainsKey)
            .SelectMany(field =>
            {
                var place = document.Evidence[field];
                string Says(double sure) =>
                    $"{document.Record.GetValueOrDefault(field, "")} ({sure.ToString("P0", CultureInfo.InvariantCulture)})";
                return place.Cells.Count > 0
                        ? place.Cells.Select(c =>
                            (field, c.Page, c.Box, $"row {c.Row}: {c.Raw} ({c.Confidence.ToString("P0", CultureInfo.InvariantCulture)})")
                        )
                    : place is { Page: > 0, Box: { W: > 0, H: > 0 } } ? [(field, place.Page, place.Box, Says(place.Confidence))]
                    : [];
            });

    private IEnumerable<(string Path, Action<string> Write)> Strips(string path)
    {
        var redaction = leaving.RedactionOfStrips(document);
        foreach (var (field, number, box, _) in Places())
        {
            if (pages.FirstOrDefault(p => p.Number == number) is not { } page)
                continue;
            string Share(double share) => ((int)Math.Round(share * 1000)).ToString(CultureInfo.InvariantCulture);
            yield return (
                $"{path}/{field} p{number} {Share(box.X)}-{Share(box.Y)}-{Share(box.W)}-{Share(box.H)}.png",
                target =>
                    File.WriteAllBytes(
                        target,
                        // What does not leave is blacked out where it stands in the strip or its margin.
                        EvidenceStrip.Png(folder.Absolute(page.Image), box, what.MarkMargin / PageWidth, redaction.Masks(page.Text, number))
                    )
            );
        }
    }

    /// <summary>The field and the page of a strip, by its path.</summary>
    public static (string Field, string Page) StripOf(string path) =>
        Strip().Match(path) is { Success: true } match ? (match.Groups[1].Value, match.Groups[2].Value) : ("", "");

    [GeneratedRegex("""([^/]+) p([0-9]+) [0-9-]+\.png$""")]
    private static partial Regex Strip();

    private static void Refuse(string? problem)
    {
        if (problem is not null)
            throw new RefusedException(problem);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        if (_made is not null)
            File.Delete(_made);
    }
}
