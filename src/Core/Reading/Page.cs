using System.Text.Json.Serialization;

namespace ClearLexicon.Core.Reading;

/// <summary>A rectangle on a page in shares of its width and height, from the top left; 0 to 1, so it holds at any resolution.</summary>
/// <param name="X">Left edge.</param>
/// <param name="Y">Top edge.</param>
/// <param name="W">Width.</param>
/// <param name="H">Height.</param>
public readonly record struct Box(double X, double Y, double W, double H)
{
    /// <summary>Horizontal centre.</summary>
    [JsonIgnore]
    public double CentreX => X + W / 2;

    /// <summary>Vertical centre.</summary>
    [JsonIgnore]
    public double CentreY => Y + H / 2;

    /// <summary>The part of it that lies on the page.</summary>
    public Box OnPage()
    {
        double x = Share(X, 1),
            y = Share(Y, 1);
        return new Box(x, y, Share(X + W - x, 1 - x), Share(Y + H - y, 1 - y));

        static double Share(double share, double most) => double.IsNaN(share) ? 0 : Math.Clamp(share, 0, most);
    }

    /// <summary>Whether a point lies inside.</summary>
    public bool Contains(double x, double y) => x >= X && x <= X + W && y >= Y && y <= Y + H;

    /// <summary>Whether two boxes share any area.</summary>
    public bool Overlaps(Box other) => X < other.X + other.W && other.X < X + W && Y < other.Y + other.H && other.Y < Y + H;

    /// <summary>The smallest box around both.</summary>
    public Box Around(Box other)
    {
        double x = Math.Min(X, other.X),
            y = Math.Min(Y, other.Y);
        return new Box(x, y, Math.Max(X + W, other.X + other.W) - x, Math.Max(Y + H, other.Y + other.H) - y);
    }

    /// <summary>The smallest box around several; null for none.</summary>
    public static Box? Around(IEnumerable<Box> boxes)
    {
        Box? all = null;
        foreach (var box in boxes)
            all = all is { } a ? a.Around(box) : box;
        return all;
    }
}

/// <summary>A word as the text layer or text recognition gives it.</summary>
/// <param name="Text">Its characters.</param>
/// <param name="Box">Where it stands.</param>
/// <param name="Confidence">How sure the recognition is, 0 to 1; 1 for a text layer.</param>
[JsonConverter(typeof(WordJson))]
public sealed record Word(string Text, Box Box, double Confidence = 1);

/// <summary>A code that machines read, of one or two dimensions, as it stands on a page.</summary>
/// <param name="Kind">Its kind, e.g. <c>Code 128</c> or <c>QR</c>.</param>
/// <param name="Text">What it holds.</param>
/// <param name="Box">Where it stands.</param>
public sealed record PageCode(string Kind, string Text, Box Box);

/// <summary>Size of a page.</summary>
/// <param name="Width">Width in points of 1/72 inch.</param>
/// <param name="Height">Height in points.</param>
public readonly record struct PageSize(double Width, double Height);

/// <summary>How a page lay when it came. First it was turned about its centre, then by quarters.</summary>
/// <param name="Skew">By how many degrees it lay askew, clockwise positive; it was turned back by as many.</param>
/// <param name="Turned">By how many degrees it was turned afterwards, clockwise: 0, 90, 180 or 270.</param>
public readonly record struct PageOrientation(double Skew, int Turned);

/// <summary>The text of one page.</summary>
/// <param name="Width">Width in pixels or points; only its ratio to the height matters.</param>
/// <param name="Height">Height in the same unit.</param>
/// <param name="Words">Words in the order of the text layer or the recognition.</param>
/// <param name="Method"><c>text layer</c> or <c>recognised</c>.</param>
public sealed record PageText(double Width, double Height, IReadOnlyList<Word> Words, string Method)
{
    /// <summary>Codes in reading order.</summary>
    public IReadOnlyList<PageCode> Codes { get; init; } = [];

    /// <summary>Where something stands that looks like a code and could not be read.</summary>
    public IReadOnlyList<Box> Unread { get; init; } = [];

    /// <summary>
    /// Share of the page inside its border that is dark, 0 to 1, dust left out; null for pages read before it was measured.
    /// </summary>
    public double? Ink { get; init; }

    /// <summary>Size of the upright page on paper; null for pages read before it was noted.</summary>
    public PageSize? Size { get; init; }

    /// <summary>
    /// Languages it was recognised in, by the recogniser's names with plus signs between; empty for the usual ones and for a text layer.
    /// </summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public string? Languages { get; init; }

    /// <summary>How the picture that came was set upright; the words stand on the upright one.</summary>
    public PageOrientation Lay { get; init; }
}
