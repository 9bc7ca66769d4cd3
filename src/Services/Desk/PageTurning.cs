using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Desk;

/// <summary>Turns single pages; nothing is kept of them but their pictures.</summary>
internal sealed class PageTurning(DataFolder folder, IFileReader files)
{
    private static readonly WantedPages AsItLies = new(1, 1) { AsTheyLie = true };

    /// <summary>A page turned by quarters: its picture written again, and what was recognised recognised again.</summary>
    /// <param name="page">The page.</param>
    /// <param name="degrees">Clockwise: 90, 180 or 270.</param>
    /// <param name="cancel">Stops recognition.</param>
    public async Task<StoredPage> TurnedAsync(StoredPage page, int degrees, CancellationToken cancel)
    {
        var place = Path.Combine(folder.Pages, "turned", Guid.NewGuid().ToString("N"));
        var picture = Path.Combine(place, "1.png");
        TurnedPicture.Write(folder.Absolute(page.Image), degrees, picture);
        var text = PageMoves.Turned(page.Text, degrees);
        var notice = page.Notice;
        // What stood on its side was hardly recognised; text that the file brought is its own.
        if (page.Text.Method == "recognised")
        {
            var read = Path.Combine(place, "read");
            try
            {
                var wanted = AsItLies with { Languages = page.Text.Languages ?? "" };
                var taken = await files.PagesAsync(picture, $"page {page.Number}", FileKind.Image, wanted, read, cancel);
                picture = taken[0].ImagePath;
                TurnedPicture.KeepPage(folder.Absolute(page.Image), picture);
                notice = taken[0].Notice;
                text = taken[0].Text with { Size = text.Size, Lay = text.Lay with { Skew = text.Lay.Skew + taken[0].Text.Lay.Skew } };
            }
            catch (FileRefusedException e)
            {
                notice = e.Message;
            }
        }
        return page with { Image = folder.Relative(picture), Text = text, Notice = notice };
    }
}
