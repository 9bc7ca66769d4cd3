using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Conventions;

/// <summary>What of the values a path does not keep, so that it cannot be read back from there.</summary>
public static class ConventionLosses
{
    /// <summary>Each loss in a sentence, one a field.</summary>
    public static IEnumerable<(string Field, string Text)> Of(Convention convention, TypeFields type)
    {
        foreach (var group in convention.Pieces.Where(p => p.Kind == PieceKind.Field).GroupBy(p => p.Field))
        {
            if (type.Find(group.Key) is not { } field)
                continue;
            if (field.Kind.Measure == Measure.Day)
            {
                var told = group
                    .Select(p => DateForms.Tells(p.DateForm ?? DateForms.Iso))
                    .Aggregate((a, b) => (a.Year | b.Year, a.Month | b.Month, a.Day | b.Day));
                string[] missing =
                [
                    .. new[] { (told.Year, "year"), (told.Month, "month"), (told.Day, "day") }.Where(t => !t.Item1).Select(t => t.Item2),
                ];
                if (missing.Length > 0)
                    yield return (field.Key, $"{field.Label}: the {string.Join(" and the ", missing)} cannot be read back");
            }
            else if (group.Select(p => Of(p, field)).ToList() is var losses && losses.All(l => l is not null))
                yield return (field.Key, $"{field.Label}: {losses[0]}");
        }
        foreach (var key in convention.Pieces.Select(p => p.OnlyWhenFilled).OfType<string>().Distinct())
            if (convention.Pieces.All(p => p.Kind != PieceKind.Field || p.Field != key))
                yield return (key, $"{type.LabelOf(key)}: only whether it is filled is kept");
        if (convention.Pieces.FirstOrDefault(p => p.Kind == PieceKind.Field && p.IfEmpty is not null && !p.LeaveOut) is { } standIn)
            yield return (standIn.Field, $"{type.LabelOf(standIn.Field)}: “{standIn.IfEmpty}” is read as empty");
        foreach (var (key, text) in Divided(convention, type))
            yield return (key, text);
    }

    // Free text that may hold what stands behind it, before another piece that takes any text, can be divided in two ways.
    private static IEnumerable<(string Field, string Text)> Divided(Convention convention, TypeFields type)
    {
        var said = new HashSet<string>(StringComparer.Ordinal);
        foreach (var line in new[] { convention.Folder, convention.Name })
            for (var i = 0; i < line.Count; i++)
            {
                if (!IsFree(line[i], type) || !said.Add(line[i].Field))
                    continue;
                var segment = line.Skip(i + 1).TakeWhile(p => p.Kind != PieceKind.Inside).ToList();
                if (
                    segment is [{ Kind: PieceKind.Text, Text: { Length: > 0 } behind }, ..]
                    && segment.Skip(1).Any(p => IsFree(p, type) || p.LeaveOut)
                )
                    yield return (
                        line[i].Field,
                        $"{type.LabelOf(line[i].Field)}: a value that holds “{behind}” cannot be told from what stands behind it"
                    );
            }
    }

    private static bool IsFree(Piece piece, TypeFields type) =>
        piece.Kind == PieceKind.Field
        && type.Find(piece.Field) is TextField { Pattern: null } or TermField or TermsField or IdentifierField { Scheme: null };

    /// <summary>What one piece loses of its value, as half a sentence; null when it keeps all.</summary>
    internal static string? Of(Piece piece, Field? field) =>
        field?.Kind.Measure == Measure.Day ? null
        : piece.Extract == Extract.FirstLetter ? "only the first letter is kept"
        : piece.Extract == Extract.Initials ? "only initials are kept"
        : piece.MaxLength is { } most && !((field as TextField)?.MaxLength <= most) ? $"only the first {most} characters are kept"
        : piece.Digits is not null && field?.Kind.Measure == Measure.Words ? "zeros before a number are not told apart"
        : piece.ShortenTo is { } least ? $"may be shortened to {least} characters"
        : piece.Case != LetterCase.AsIs
        && field?.Kind is not { Measure: Measure.Truth } and not { IsNumeric: true } and not { HasTerms: true, IsMultiple: false }
            ? "upper and lower case are not told apart"
        : piece.Ascii ? "letters beyond ASCII are respelled"
        : piece.Blanks is { Length: 0 } ? "blanks are left out"
        : piece.Blanks is not null ? "blanks are not told apart from what stands for them"
        : null;
}
