using System.Globalization;

namespace ClearLexicon.Core.Conventions;

/// <summary>What pieces of a path have told of one date so far; 0 is not told yet.</summary>
internal readonly record struct DateParts(int Year, int Month, int Day)
{
    /// <summary>Whether anything is told.</summary>
    public bool Any => Year + Month + Day > 0;

    /// <summary>Whether the path tells the whole date.</summary>
    public bool IsWhole => Year > 0 && Month > 0 && Day > 0;

    /// <summary>The date, with the first of what is not told; null when there is no such day, as 30 February.</summary>
    public DateOnly? Date
    {
        get
        {
            var (y, m, d) = (Year == 0 ? 2000 : Year, Month == 0 ? 1 : Month, Day == 0 ? 1 : Day);
            return y is >= 1 and <= 9999 && m is >= 1 and <= 12 && d >= 1 && d <= DateTime.DaysInMonth(y, m) ? new DateOnly(y, m, d) : null;
        }
    }

    /// <summary>The ways in which a text begins with a date of a form that agrees with what is told already.</summary>
    public static List<(DateParts Parts, int Length)> At(
        ReadOnlySpan<char> text,
        string form,
        CultureInfo culture,
        Piece piece,
        DateParts known
    )
    {
        var ways = new List<(DateParts, int)>();
        Walk(text, form, culture, piece, known, 0, ways);
        return ways;
    }

    private static void Walk(
        ReadOnlySpan<char> text,
        ReadOnlySpan<char> form,
        CultureInfo culture,
        Piece piece,
        DateParts parts,
        int at,
        List<(DateParts, int)> ways
    )
    {
        if (form.Length == 0)
        {
            ways.Add((parts, at));
            return;
        }
        var run = 1;
        while (run < form.Length && form[run] == form[0])
            run++;
        var rest = form[run..];
        switch (form[0])
        {
            case 'M' when run >= 3:
                for (var month = 1; month <= 12; month++)
                {
                    if (parts.Month > 0 && parts.Month != month)
                        continue;
                    var name = PieceText.Of(
                        piece,
                        run == 3 ? culture.DateTimeFormat.AbbreviatedMonthGenitiveNames[month - 1] : Name(culture, month, form, rest)
                    );
                    if (text[at..].StartsWith(name, StringComparison.Ordinal))
                        Walk(text, rest, culture, piece, parts with { Month = month }, at + name.Length, ways);
                }
                return;
            case 'y' or 'M' or 'd':
                var least = run;
                var most = run == 1 ? 2 : run;
                for (var length = most; length >= least; length--)
                {
                    if (
                        at + length > text.Length
                        || !int.TryParse(text.Slice(at, length), NumberStyles.None, CultureInfo.InvariantCulture, out var number)
                        || number == 0 && form[0] != 'y'
                    )
                        continue;
                    if (run == 1 && length == 2 && text[at] == '0')
                        continue;
                    if (form[0] == 'y' && run == 2)
                        number +=
                            parts.Year > 0 ? parts.Year / 100 * 100
                            : number > 49 ? 1900
                            : 2000;
                    var told = form[0] switch
                    {
                        'y' => parts.Year,
                        'M' => parts.Month,
                        _ => parts.Day,
                    };
                    if (told > 0 && told != number)
                        continue;
                    Walk(
                        text,
                        rest,
                        culture,
                        piece,
                        form[0] switch
                        {
                            'y' => parts with { Year = number },
                            'M' => parts with { Month = number },
                            _ => parts with { Day = number },
                        },
                        at + length,
                        ways
                    );
                }
                return;
            default:
                var written =
                    form[0] == ' ' && piece.Blanks is { } blank ? string.Concat(Enumerable.Repeat(blank, run)) : form[..run].ToString();
                if (text[at..].StartsWith(written, StringComparison.Ordinal))
                    Walk(text, rest, culture, piece, parts, at + written.Length, ways);
                return;
        }
    }

    // With a day beside it a month stands in the genitive in some languages.
    private static string Name(CultureInfo culture, int month, ReadOnlySpan<char> form, ReadOnlySpan<char> rest) =>
        (rest.Contains('d') || form.Contains('d') ? culture.DateTimeFormat.MonthGenitiveNames : culture.DateTimeFormat.MonthNames)[
            month - 1
        ];
}
