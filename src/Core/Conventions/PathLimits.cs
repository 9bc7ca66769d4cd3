using System.Buffers;
using System.Globalization;
using System.Text;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Conventions;

/// <summary>Which characters a name may hold.</summary>
public enum NameCharacters
{
    /// <summary>All but control characters and <c>&lt; &gt; : " / \ | ? *</c>, as Windows shares keep them.</summary>
    FileShare,

    /// <summary>All but control characters and <c>/</c> (POSIX.1-2017, 3.170).</summary>
    Posix,

    /// <summary>The d-characters <c>A–Z 0–9 _</c> (ISO 9660, 7.4.1).</summary>
    Disc,

    /// <summary>The unreserved characters <c>A–Z a–z 0–9 - . _ ~</c> (RFC 3986, 2.3), which need no escaping in an address.</summary>
    Web,
}

/// <summary>
/// What a folder or file name may be: one profile. Names that differ in nothing but case count as the same in every profile, and
/// control characters, direction overrides and unpaired surrogates stand in none.
/// </summary>
/// <param name="Key">Short name; <c>own</c> for an organisation's own limits.</param>
/// <param name="Name">Name shown to people.</param>
public sealed record PathLimits(string Key, string Name)
{
    /// <summary>Most digits that a number in a name is filled up to.</summary>
    public const int MostDigits = 20;

    /// <summary>Key of limits that an organisation sets itself.</summary>
    public const string Own = "own";

    /// <summary>Which characters are allowed.</summary>
    public NameCharacters Characters { get; init; }

    /// <summary>Characters refused besides.</summary>
    public string Refused { get; init; } = "";

    /// <summary>Greatest length of one folder or file name, extension included.</summary>
    public int Segment { get; init; } = 120;

    /// <summary>Greatest length of folder and file name together, extension and separators included.</summary>
    public int Whole { get; init; } = 240;

    /// <summary>Whether lengths are bytes of UTF-8; otherwise UTF-16 units, as Windows counts.</summary>
    public bool InBytes { get; init; }

    /// <summary>Greatest number of folders inside one another; 0 for any.</summary>
    public int Depth { get; init; }

    /// <summary>Whether names kept for devices are refused.</summary>
    public bool NoDeviceNames { get; init; } = true;

    /// <summary>Whether letters become upper case.</summary>
    public bool Upper { get; init; }

    /// <summary>Whether letters beyond ASCII are transliterated.</summary>
    public bool Ascii { get; init; }

    /// <summary>What takes the place of a character that is refused: one character, or empty to leave it out.</summary>
    public string Substitute { get; init; } = "-";

    /// <summary>Whether accented letters are written as letter and accent (normal form D of Unicode) instead of composed (C).</summary>
    public bool Decomposed { get; init; }

    /// <summary>A Windows share; kept by POSIX file systems too. The whole leaves room for drive and share name.</summary>
    public static PathLimits FileShare { get; } = new("file-share", "Windows share");

    /// <summary>A POSIX file system: NAME_MAX and PATH_MAX as nearly every one has them.</summary>
    public static PathLimits Posix { get; } =
        new("posix", "POSIX file system")
        {
            Characters = NameCharacters.Posix,
            Segment = 255,
            Whole = 4095,
            InBytes = true,
            NoDeviceNames = false,
        };

    /// <summary>An ISO 9660 disc, level 2: 31 characters a name, eight levels with the root.</summary>
    public static PathLimits Disc { get; } =
        new("iso-9660", "ISO 9660 disc")
        {
            Characters = NameCharacters.Disc,
            Segment = 31,
            Whole = 255,
            Depth = 7,
            NoDeviceNames = false,
            Upper = true,
            Ascii = true,
            Substitute = "_",
        };

    /// <summary>
    /// A web object store: keys that need no escaping, 1,024 bytes at most. A segment is bounded because a copy stands on disk.
    /// </summary>
    public static PathLimits Web { get; } =
        new("web", "Web object store")
        {
            Characters = NameCharacters.Web,
            Segment = 255,
            Whole = 1024,
            InBytes = true,
            NoDeviceNames = false,
            Ascii = true,
        };

    /// <summary>The profiles that ship.</summary>
    public static IReadOnlyList<PathLimits> All { get; } = [FileShare, Posix, Disc, Web];

    private static readonly HashSet<string> Devices = new(
        ["CON", "PRN", "AUX", "NUL", "CONIN$", "CONOUT$", .. "123456789¹²³".SelectMany(n => new[] { $"COM{n}", $"LPT{n}" })],
        StringComparer.OrdinalIgnoreCase
    );

    private static readonly HashSet<string>.AlternateLookup<ReadOnlySpan<char>> DeviceSpans = Devices.GetAlternateLookup<
        ReadOnlySpan<char>
    >();

    /// <summary>Whether a character may not stand in a name. A surrogate is judged with its pair, by <see cref="Clean"/>.</summary>
    public bool Refuses(char c)
    {
        if (c < ' ' || c is >= '\u007f' and < '\u00a0' || c == '/' || IsDirection(c) || c >= '\ufffe')
            return true;
        var refused = Characters switch
        {
            NameCharacters.FileShare => c is '<' or '>' or ':' or '"' or '\\' or '|' or '?' or '*',
            NameCharacters.Posix => false,
            NameCharacters.Disc => !(
                char.IsAsciiLetterUpper(c) || char.IsAsciiDigit(c) || c == '_' || (!Upper && char.IsAsciiLetterLower(c))
            ),
            _ => !(char.IsAsciiLetterOrDigit(c) || c is '-' or '.' or '_' or '~'),
        };
        return refused || (Refused.Length > 0 && Refused.Contains(c));
    }

    // Marks and overrides of writing direction: they would show another name than the one that stands there.
    private static bool IsDirection(char c) =>
        c is '\u200e' or '\u200f' or '\u061c' or (>= '\u202a' and <= '\u202e') or (>= '\u2066' and <= '\u2069');

    /// <summary>ASCII characters that stand as they are.</summary>
    internal SearchValues<char> Plain() =>
        SearchValues.Create([
            .. Enumerable.Range(0, 128).Select(i => (char)i).Where(c => !Refuses(c) && !(Upper && char.IsAsciiLetterLower(c))),
        ]);

    /// <summary>
    /// A text as it may stand in a name: transliterated, in the case and normal form asked for, refused characters substituted.
    /// </summary>
    public string Clean(string text)
    {
        var clean = new StringBuilder(text.Length);
        foreach (var rune in (Ascii ? Transliteration.ToAscii(text) : text).EnumerateRunes())
        {
            if (!rune.IsBmp)
            {
                if (
                    Rune.GetUnicodeCategory(rune) is System.Globalization.UnicodeCategory.OtherNotAssigned
                    || Characters is NameCharacters.Disc or NameCharacters.Web
                )
                    clean.Append(Substitute);
                else
                    clean.Append(rune.ToString());
                continue;
            }
            var c = (char)rune.Value;
            if (Upper)
                c = char.ToUpperInvariant(c);
            // An unpaired surrogate is enumerated as the replacement character.
            if (Refuses(c) || c == '\ufffd')
                clean.Append(Substitute);
            else
                clean.Append(c);
        }
        return Vocabularies.CodePoints.Normal(clean.ToString(), Decomposed ? NormalizationForm.FormD : NormalizationForm.FormC);
    }

    /// <summary>Whether a name, with or without extension, is kept for a device (CON, PRN, AUX, NUL, CONIN$, CONOUT$, COM1–9, COM¹–³,
    /// LPT1–9, LPT¹–³).</summary>
    public static bool IsDevice(ReadOnlySpan<char> name)
    {
        var dot = name.IndexOf('.');
        var stem = (dot < 0 ? name : name[..dot]).TrimEnd(' ');
        return stem.Length is >= 3 and <= 7 && DeviceSpans.Contains(stem);
    }

    /// <summary>Length of a name as these limits count.</summary>
    public int LengthOf(ReadOnlySpan<char> text) => InBytes ? Encoding.UTF8.GetByteCount(text) : text.Length;

    /// <summary>What is wrong with one finished folder or file name; null when nothing is.</summary>
    /// <param name="segment">The name.</param>
    /// <param name="extension">Characters that an extension will add.</param>
    public ProblemKind? Finding(ReadOnlySpan<char> segment, int extension = 0)
    {
        if (segment.Trim(" .").Length == 0)
            return segment.Contains('.') ? new PathLeavesRoot(Beginning(segment)) : new PathSegmentEmpty();
        if (NoDeviceNames && IsDevice(segment))
            return new PathReservedName(Beginning(segment));
        return LengthOf(segment) + extension is var length && length > Segment
            ? new PathSegmentTooLong(Beginning(segment), length, Segment)
            : null;
    }

    private static string Beginning(ReadOnlySpan<char> segment) => CodePoints.First(segment.ToString(), 24);

    /// <summary>What is wrong with a finished place; null when nothing is.</summary>
    /// <param name="folder">Folder below the root.</param>
    /// <param name="name">File name without its extension.</param>
    /// <param name="extension">Characters of the extension.</param>
    public Problem? FindingOf(ReadOnlySpan<char> folder, string name, int extension)
    {
        if (name.Length == 0)
            return new Problem(new PathEmpty(), Level.Must, null);
        var whole = LengthOf(folder) + (folder.Length > 0 ? 1 : 0) + LengthOf(name) + extension;
        var depth = 0;
        while (folder.Length > 0)
        {
            var cut = folder.IndexOf('/');
            if (SegmentFinding(cut < 0 ? folder : folder[..cut], 0) is { } problem)
                return problem;
            if (cut == folder.Length - 1)
                return new Problem(new PathSegmentEmpty(), Level.Must, null);
            folder = cut < 0 ? [] : folder[(cut + 1)..];
            depth++;
        }
        if (SegmentFinding(name, extension) is { } wrong)
            return wrong;
        if (Depth > 0 && depth > Depth)
            return new Problem(new PathTooDeep(depth, Depth), Level.Must, null);
        return whole > Whole ? new Problem(new PathTooLong(whole, Whole), Level.Must, null) : null;
    }

    private Problem? SegmentFinding(ReadOnlySpan<char> segment, int extension) =>
        Finding(segment, extension) is { } kind ? new Problem(kind, Level.Must, null) : null;

    /// <summary>Why an organisation's own limits cannot be, in one sentence; null when they can.</summary>
    public string? Contradiction() =>
        Segment is < 8 or > 255 ? "A folder or file name may have from 8 to 255 characters."
        : Whole < Segment || Whole > 4095 ? $"The whole path may have from {Segment} to 4095 characters."
        : Depth is < 0 or > 100 ? "The depth is from 0, for any, to 100 folders."
        : Substitute.Length > 1 || Substitute.Any(Refuses) || Substitute is "."
            ? $"“{Substitute}” cannot take the place of a refused character; write one character that is allowed, or nothing."
        : Refused.Any(char.IsLetterOrDigit) ? "Letters and digits cannot be refused."
        : null;
}
