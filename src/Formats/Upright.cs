using ClearLexicon.Core.Reading;

namespace ClearLexicon.Formats;

/// <summary>Turns the words of a page that lay askew with its picture.</summary>
internal static class Upright
{
    /// <summary>The words where they stand on the upright page, in reading order.</summary>
    /// <param name="text">The words as they stand on the page that lay askew.</param>
    /// <param name="skew">By how many degrees it lay askew, clockwise positive.</param>
    public static PageText Turn(PageText text, double skew)
    {
        var (cos, sin) = (Math.Cos(-skew * Math.PI / 180), Math.Sin(-skew * Math.PI / 180));
        Word Turned(Word word)
        {
            var (x, y) = ((word.Box.CentreX - 0.5) * text.Width, (word.Box.CentreY - 0.5) * text.Height);
            var (cx, cy) = (0.5 + (x * cos - y * sin) / text.Width, 0.5 + (x * sin + y * cos) / text.Height);
            return word with { Box = word.Box with { X = cx - word.Box.W / 2, Y = cy - word.Box.H / 2 } };
        }
        var words = text.Words.Select(Turned).Select(w => (w, w.Box.CentreX, w.Box.CentreY));
        return text with { Words = [.. ZoneReading.Lines(words).SelectMany(line => line)] };
    }
}
