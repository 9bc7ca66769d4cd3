namespace ClearLexicon.Core.Conventions;

/// <summary>
/// What a folder or file name may be so that Windows shares and POSIX file systems both keep it. Lengths are counted in
/// UTF-16 units as Windows counts them.
/// </summary>
public static class PathLimits
{
    /// <summary>Greatest length of one folder or file name, extension included.</summary>
    public const int Segment = 120;

    /// <summary>Greatest length of folder and file name together, extension and separators included.</summary>
    public const int Whole = 240;

    /// <summary>What takes the place of a character that file systems refuse.</summary>
    public const char Substitute = '-';

    private static readonly HashSet<string> Reserved = new(
        ["CON", "PRN", "AUX", "NUL", .. Enumerable.Range(1, 9).SelectMany(n => new[] { $"COM{n}", $"LPT{n}" })], StringComparer.OrdinalIgnoreCase);

    private static readonly HashSet<string>.AlternateLookup<ReadOnlySpan<char>> ReservedSpans = Reserved.GetAlternateLookup<ReadOnlySpan<char>>();

    /// <summary>Whether a character may not stand in a name: control characters and <c>&lt; &gt; : " / \ | ? *</c>.</summary>
    public static bool IsForbidden(char c) => c < ' ' || c == 127 || c is '<' or '>' or ':' or '"' or '/' or '\\' or '|' or '?' or '*';

    /// <summary>Whether a name, with or without extension, is kept for a device (CON, PRN, AUX, NUL, COM1–9, LPT1–9).</summary>
    public static bool IsReserved(ReadOnlySpan<char> name)
    {
        var dot = name.IndexOf('.');
        var stem = (dot < 0 ? name : name[..dot]).TrimEnd(' ');
        return stem.Length is 3 or 4 && ReservedSpans.Contains(stem);
    }

    /// <summary>The problem code of one finished folder or file name, or null.</summary>
    public static string? Fault(ReadOnlySpan<char> segment) =>
        segment.Trim(" .").Length == 0 ? segment.Contains('.') ? "path-leaves-root" : "path-segment-empty"
        : IsReserved(segment) ? "path-reserved-name"
        : segment.Length > Segment ? "path-segment-too-long"
        : null;
}
