using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Conventions.Inference;

/// <summary>Parts of one level that are a date in one form.</summary>
/// <param name="Level">The level.</param>
/// <param name="From">First part.</param>
/// <param name="Count">How many parts.</param>
/// <param name="Form">One of <see cref="DateForms.All"/>.</param>
/// <param name="Language">Language of its month names; null for English.</param>
/// <param name="Told">What it tells by row.</param>
internal sealed record FoundDate(int Level, int From, int Count, string Form, string? Language, DateParts[] Told);

/// <summary>Finds dates among the parts of all levels and which of them are one date.</summary>
internal static class DateFinding
{
    // Longer forms first, so that a whole date is not taken for a year.
    private static readonly string[] Forms =
    [
        DateForms.Iso,
        "dd.MM.yyyy",
        "dd-MM-yyyy",
        "MM-dd-yyyy",
        "dd. MMMM yyyy",
        "d. MMMM yyyy",
        "d MMMM yyyy",
        "yyyyMMdd",
        "yyyy-MM",
        "MM MMMM",
        "MMMM yyyy",
        "yyyyMM",
        "yyyy",
        "MMMM",
        "MMM",
        "MM",
        "dd",
    ];

    /// <summary>All dates, level by level.</summary>
    /// <param name="levels">Parts by level.</param>
    /// <param name="rows">Rows that have all levels in the form of the parts.</param>
    /// <param name="isFree">Whether a part is not taken for something else.</param>
    public static List<FoundDate> In(IReadOnlyList<List<Part>> levels, int[] rows, Func<int, int, bool> isFree)
    {
        var found = new List<FoundDate>();
        for (var level = 0; level < levels.Count; level++)
        for (var at = 0; at < levels[level].Count; )
        {
            var date = Forms
                .SelectMany(form =>
                    DateForms.HasName(form) ? DateReading.Languages.Select(l => (form, Language: (string?)l.Code)) : [(form, null)]
                )
                .Select(f => At(levels, level, at, f.form, f.Language, rows, found))
                .FirstOrDefault(d => d is not null && Enumerable.Range(d.From, d.Count).All(i => isFree(level, i)));
            if (date is not null)
                found.Add(date);
            at += date?.Count ?? 1;
        }
        return found;
    }

    private static FoundDate? At(
        IReadOnlyList<List<Part>> levels,
        int level,
        int at,
        string form,
        string? language,
        int[] rows,
        List<FoundDate> before
    )
    {
        var parts = levels[level];
        var tells = DateForms.Tells(form);
        // Two digits alone are a month or a day only in a folder of their own, or at the beginning of a name, below a year.
        if (!tells.Year && !before.Any(b => DateForms.Tells(b.Form).Year))
            return null;
        if (
            form is "MM" or "dd"
            && (
                at > 0
                || (level < levels.Count - 1 && parts.Count > 1)
                || !before.Any(b => b.Level == level - 1 && b.Count == levels[level - 1].Count)
            )
        )
            return null;
        if (
            form == "dd" && !before.Any(b => DateForms.Tells(b.Form).Month)
            || form == "MM" && before.Any(b => DateForms.Tells(b.Form).Month)
        )
            return null;
        var count = CountOf(form, parts, at);
        if (count < 0)
            return null;
        var culture = DateForms.CultureOf(language);
        var piece = new Piece(PieceKind.Field) { DateForm = form, Language = language };
        var told = new DateParts[rows.Length];
        for (var r = 0; r < rows.Length; r++)
        {
            var text = count == 1 ? parts[at].Values[rows[r]]! : string.Concat(parts.Skip(at).Take(count).Select(p => p.Values[rows[r]]));
            var ways = DateParts.At(text, form, culture, piece, default);
            if (
                ways.Find(w => w.Length == text.Length) is not { Length: > 0 } way
                || way.Parts.Date is null
                || (tells.Year && way.Parts.Year is < 1800 or > 2100)
            )
                return null;
            told[r] = way.Parts;
        }
        return new FoundDate(level, at, count, form, language == "en" ? null : language, told);
    }

    // How many parts a form spans from a part on; -1 when the parts do not alternate as the form does.
    private static int CountOf(string form, List<Part> parts, int at)
    {
        var n = 0;
        for (var i = 0; i < form.Length; n++)
        {
            if (at + n >= parts.Count)
                return -1;
            var run = i + 1;
            if (char.IsLetter(form[i]))
            {
                // yyyyMMdd is one run of digits; a month name with a year or day beside it is words.
                while (run < form.Length && char.IsLetter(form[run]))
                    run++;
                var wanted = form.AsSpan(i, run - i).Contains("MMM", StringComparison.Ordinal) ? TokenKind.Words : TokenKind.Digits;
                if (parts[at + n].Kind != wanted)
                    return -1;
            }
            else
            {
                // “. ” is two signs.
                while (run < form.Length && !char.IsLetter(form[run]))
                    run++;
                for (var sign = i; sign < run; n++)
                {
                    if (
                        at + n >= parts.Count
                        || parts[at + n].Constant is not { Length: > 0 } constant
                        || !form.AsSpan(sign, run - sign).StartsWith(constant, StringComparison.Ordinal)
                    )
                        return -1;
                    sign += constant.Length;
                }
                n--;
            }
            i = run;
        }
        return n;
    }

    /// <summary>Divides dates into groups that can be one date in every row.</summary>
    public static List<List<FoundDate>> Groups(IEnumerable<FoundDate> dates)
    {
        var groups = new List<(List<FoundDate> Members, DateParts[] Told)>();
        foreach (var date in dates)
        {
            var at = groups.FindIndex(g =>
                g.Told.Zip(date.Told).All(t => Agree(t.First, t.Second) && Joined(t.First, t.Second).Date is not null)
            );
            if (at < 0)
            {
                groups.Add(([date], date.Told));
                continue;
            }
            groups[at].Members.Add(date);
            groups[at] = (groups[at].Members, [.. groups[at].Told.Zip(date.Told, Joined)]);
        }
        return [.. groups.Select(g => g.Members)];
    }

    private static bool Agree(DateParts a, DateParts b) => Same(a.Year, b.Year) && Same(a.Month, b.Month) && Same(a.Day, b.Day);

    private static bool Same(int a, int b) => a == 0 || b == 0 || a == b;

    private static DateParts Joined(DateParts a, DateParts b) =>
        new(Math.Max(a.Year, b.Year), Math.Max(a.Month, b.Month), Math.Max(a.Day, b.Day));
}
