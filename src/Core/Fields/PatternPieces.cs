using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Fields;

/// <summary>What a piece of a built pattern takes.</summary>
public enum PieceOf
{
    /// <summary>Exactly this text.</summary>
    Exactly,

    /// <summary>Digits 0–9.</summary>
    Digits,

    /// <summary>Capital letters A–Z.</summary>
    Capitals,

    /// <summary>Small letters a–z.</summary>
    Small,

    /// <summary>Letters of any kind.</summary>
    Letters,

    /// <summary>Letters and digits.</summary>
    LettersOrDigits,

    /// <summary>A year from 1900 to 2099.</summary>
    Year,

    /// <summary>A month 01–12.</summary>
    Month,

    /// <summary>A day 01–31.</summary>
    Day,

    /// <summary>One of several texts, separated by <c>|</c>.</summary>
    OneOf,
}

/// <summary>A piece of a pattern that people build without writing one.</summary>
/// <param name="Of">What it takes.</param>
/// <param name="Least">Least number of characters (not for year, month, day and texts).</param>
/// <param name="Most">Most characters; null for no limit.</param>
/// <param name="Text">The text, or the texts of <see cref="PieceOf.OneOf"/>.</param>
public sealed record PatternPiece(PieceOf Of, int Least = 1, int? Most = 1, string Text = "")
{
    /// <summary>Whether it may be missing.</summary>
    public bool Optional { get; init; }
}

/// <summary>Rows of pieces and the patterns they make.</summary>
public static partial class PatternPieces
{
    /// <summary>The pattern of a row of pieces.</summary>
    public static string Write(IEnumerable<PatternPiece> pieces)
    {
        var pattern = new StringBuilder();
        foreach (var p in pieces)
        {
            var one = p.Of switch
            {
                PieceOf.Exactly => string.Concat(p.Text.Select(Escape)),
                PieceOf.OneOf => $"(?:{string.Join('|', Parts(p.Text).Select(t => string.Concat(t.Select(Escape))))})",
                PieceOf.Year => "(?:19|20)[0-9]{2}",
                PieceOf.Month => "(?:0[1-9]|1[0-2])",
                PieceOf.Day => "(?:0[1-9]|[12][0-9]|3[01])",
                PieceOf.Capitals => "[A-Z]" + Times(p),
                PieceOf.Small => "[a-z]" + Times(p),
                PieceOf.Letters => @"\p{L}" + Times(p),
                PieceOf.LettersOrDigits => @"[\p{L}0-9]" + Times(p),
                _ => "[0-9]" + Times(p),
            };
            pattern.Append(p.Optional ? $"(?:{one})?" : one);
        }
        return pattern.ToString();
    }

    /// <summary>Guesses pieces from an example: <c>MH-2024-00042</c> is two capitals, a dash, a year, a dash, five digits.</summary>
    public static IReadOnlyList<PatternPiece> FromExample(string example)
    {
        var pieces = new List<PatternPiece>();
        foreach (Match run in Runs().Matches(example.Trim()))
        {
            var text = run.Value;
            pieces.Add(
                char.IsAsciiDigit(text[0])
                    ? text.Length == 4 && Year().IsMatch(text)
                        ? new PatternPiece(PieceOf.Year)
                        : new PatternPiece(PieceOf.Digits, text.Length, text.Length)
                    : text.All(char.IsAsciiLetterUpper)
                        ? new PatternPiece(PieceOf.Capitals, text.Length, text.Length)
                        : text.All(char.IsAsciiLetterLower)
                            ? new PatternPiece(PieceOf.Small, text.Length, text.Length)
                            : text.All(char.IsLetter)
                                ? new PatternPiece(PieceOf.Letters, text.Length, text.Length)
                                : new PatternPiece(PieceOf.Exactly, Text: text)
            );
        }
        return pieces;
    }

    /// <summary>Reads a pattern back into pieces; null when it says more than pieces can.</summary>
    public static IReadOnlyList<PatternPiece>? Read(string? pattern)
    {
        if (string.IsNullOrEmpty(pattern))
            return [];
        var pieces = new List<PatternPiece>();
        for (var at = 0; at < pattern.Length; )
        {
            if (Token().Match(pattern, at) is not { Success: true } token)
                return null;
            at += token.Length;
            if (Piece(token) is not { } piece)
                return null;
            if (piece.Of == PieceOf.Exactly && pieces is [.., { Of: PieceOf.Exactly, Optional: false } last] && !piece.Optional)
                pieces[^1] = last with { Text = last.Text + piece.Text };
            else
                pieces.Add(piece);
        }
        return pieces;
    }

    /// <summary>A pattern in words; the pattern itself when it says more than pieces can.</summary>
    public static string InWords(string? pattern) =>
        Read(pattern) is { Count: > 0 } pieces ? string.Join(", ", pieces.Select(InWords)) : $"like {pattern}";

    /// <summary>A piece in words.</summary>
    public static string InWords(PatternPiece p)
    {
        var count =
            p.Least == p.Most ? Spelled(p.Least)
            : p.Most is { } most ? $"{p.Least} to {most}"
            : p.Least == 0 ? "any number of"
            : $"{p.Least} or more";
        var plural = p.Least != 1 || p.Most != 1;
        var words = p.Of switch
        {
            PieceOf.Exactly => p.Text switch
            {
                "-" => "dash",
                "/" => "slash",
                " " => "blank",
                "." => "full stop",
                "_" => "underscore",
                _ => $"“{p.Text}”",
            },
            PieceOf.OneOf => string.Join(" or ", p.Text.Split('|').Select(t => $"“{t}”")),
            PieceOf.Year => "year",
            PieceOf.Month => "month",
            PieceOf.Day => "day",
            PieceOf.Capitals => $"{count} capital letter{(plural ? "s" : "")}",
            PieceOf.Small => $"{count} small letter{(plural ? "s" : "")}",
            PieceOf.Letters => $"{count} letter{(plural ? "s" : "")}",
            PieceOf.LettersOrDigits => plural ? $"{count} letters or digits" : "one letter or digit",
            _ => $"{count} digit{(plural ? "s" : "")}",
        };
        return p.Optional ? $"perhaps {words}" : words;
    }

    /// <summary>Least and greatest number of characters that a row of pieces accepts; null for no limit.</summary>
    public static (int Least, int? Most) Lengths(IEnumerable<PatternPiece> pieces)
    {
        var (least, most) = (0, (int?)0);
        foreach (var p in pieces)
        {
            var texts = p.Text.Split('|');
            var (from, to) = p.Of switch
            {
                PieceOf.Exactly => (p.Text.Length, p.Text.Length),
                PieceOf.OneOf => (texts.Min(t => t.Length), texts.Max(t => t.Length)),
                PieceOf.Year => (4, 4),
                PieceOf.Month or PieceOf.Day => (2, 2),
                _ => (p.Least, p.Most),
            };
            least += p.Optional ? 0 : from;
            most += to;
        }
        return (least, most);
    }

    /// <summary>A value that a row of pieces accepts.</summary>
    public static string Example(IEnumerable<PatternPiece> pieces) =>
        string.Concat(
            pieces.Select(p =>
                p.Of switch
                {
                    PieceOf.Exactly => p.Text,
                    PieceOf.OneOf => p.Text.Split('|')[0],
                    PieceOf.Year => "2024",
                    PieceOf.Month => "03",
                    PieceOf.Day => "05",
                    PieceOf.Capitals => string.Concat(Enumerable.Range(0, Math.Max(1, p.Least)).Select(i => (char)('A' + i % 26))),
                    PieceOf.Small or PieceOf.Letters or PieceOf.LettersOrDigits => string.Concat(
                        Enumerable.Range(0, Math.Max(1, p.Least)).Select(i => (char)('a' + i % 26))
                    ),
                    _ => string.Concat(Enumerable.Range(1, Math.Max(1, p.Least)).Select(i => (char)('0' + i % 10))),
                }
            )
        );

    private static PatternPiece? Piece(Match token)
    {
        var optional = token.Groups["optional"].Success;
        var body = optional ? token.Groups["inner"].Value : token.Value;
        if (optional)
            return Read(body) is [{ Optional: false } only] ? only with { Optional = true } : null;
        var times = token.Groups["times"].Value;
        var (least, most) =
            times.Length == 0
                ? (1, (int?)1)
                : times switch
                {
                    "+" => (1, null),
                    "*" => (0, null),
                    "?" => (0, 1),
                    _ => Range(times[1..^1]),
                };
        PatternPiece? Repeated(PieceOf of) => new(of, least, most);
        return token.Groups["what"].Value switch
        {
            "(?:19|20)[0-9]{2}" => new PatternPiece(PieceOf.Year),
            "(?:0[1-9]|1[0-2])" => new PatternPiece(PieceOf.Month),
            "(?:0[1-9]|[12][0-9]|3[01])" => new PatternPiece(PieceOf.Day),
            "[A-Z]" => Repeated(PieceOf.Capitals),
            "[a-z]" => Repeated(PieceOf.Small),
            @"\p{L}" => Repeated(PieceOf.Letters),
            @"[\p{L}0-9]" => Repeated(PieceOf.LettersOrDigits),
            @"\d" or "[0-9]" => Repeated(PieceOf.Digits),
            ['(', '?', ':', ..] oneOf => new PatternPiece(PieceOf.OneOf, Text: oneOf[3..^1].Replace("\\", "", StringComparison.Ordinal)),
            var literal when times.Length == 0 => new PatternPiece(
                PieceOf.Exactly,
                Text: literal.Replace("\\", "", StringComparison.Ordinal)
            ),
            _ => null,
        };
    }

    private static (int, int?) Range(string times)
    {
        var comma = times.IndexOf(',');
        if (comma < 0)
            return (int.Parse(times, CultureInfo.InvariantCulture), int.Parse(times, CultureInfo.InvariantCulture));
        return (
            int.Parse(times[..comma], CultureInfo.InvariantCulture),
            comma == times.Length - 1 ? null : int.Parse(times[(comma + 1)..], CultureInfo.InvariantCulture)
        );
    }

    private static string Times(PatternPiece p) =>
        p is { Least: 1, Most: 1 } ? ""
        : p.Most is null
            ? p.Least == 0 ? "*"
                : p.Least == 1 ? "+"
                : $"{{{p.Least},}}"
        : p.Least == p.Most ? $"{{{p.Least}}}"
        : $"{{{p.Least},{p.Most}}}";

    private static string Escape(char c) =>
        char.IsLetterOrDigit(c) || c is '-' or '/' or ' ' or '_' or ':' or '#' or ',' ? c.ToString() : @"\" + c;

    private static string Spelled(int n) =>
        n is > 0 and <= 12
            ? new[] { "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve" }[n - 1]
            : n.ToString(CultureInfo.InvariantCulture);

    [GeneratedRegex(@"[0-9]+|[A-Z]+(?![a-z])|\p{L}+|[^\p{L}0-9]+")]
    private static partial Regex Runs();

    private static string[] Parts(string text) => text.Split('|', StringSplitOptions.RemoveEmptyEntries);

    [GeneratedRegex("^(?:19|20)[0-9]{2}$")]
    private static partial Regex Year();

    [GeneratedRegex(
        @"\G(?:(?<optional>\(\?:(?<inner>(?:[^()]|\(\?:[^()]*\))+)\)\?)|(?<what>"
            + @"\(\?:19\|20\)\[0-9\]\{2\}|\(\?:0\[1-9\]\|1\[0-2\]\)|\(\?:0\[1-9\]\|\[12\]\[0-9\]\|3\[01\]\)|"
            + @"\(\?:(?:[\w\-/ :#,]|\\[^\w])+(?:\|(?:[\w\-/ :#,]|\\[^\w])+)*\)|"
            + @"\[A-Z\]|\[a-z\]|\\p\{L\}|\[\\p\{L\}0-9\]|\\d|\[0-9\]|\\[^\w]|[\w\-/ :#,])"
            + @"(?<times>\+|\*|\?|\{[0-9]{1,3}(?:,[0-9]{0,3})?\})?)"
    )]
    private static partial Regex Token();
}
