using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading;

/// <summary>How a read value compares with what is known to be true.</summary>
public enum Outcome
{
    /// <summary>The same.</summary>
    Right,

    /// <summary>Something else.</summary>
    Wrong,

    /// <summary>Nothing was read although there is something.</summary>
    Empty,
}

/// <summary>One cell of the proof table.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Outcome">How it compares.</param>
/// <param name="Read">What was read.</param>
/// <param name="Truth">What is true.</param>
/// <param name="Evidence">Where it was read.</param>
public sealed record ProofCell(string Field, Outcome Outcome, string Read, string Truth, Evidence? Evidence);

/// <summary>One sample of the proof table.</summary>
/// <param name="Sample">Its file name.</param>
/// <param name="Role">What page of the reader's it is; null when it is none.</param>
/// <param name="Cells">One a field that the truth knows; all empty when it is no page of the reader's.</param>
public sealed record ProofRow(string Sample, PageRole? Role, IReadOnlyList<ProofCell> Cells)
{
    /// <summary>Whether it is a page of the reader's.</summary>
    public bool Claimed => Role is not null;
}

/// <summary>Every sample × every field against ground truth or checked values.</summary>
public static class Proof
{
    /// <summary>Judges one sample page with one reader.</summary>
    public static ProofRow Try(
        string sample,
        PageText page,
        Reader reader,
        TypeFields type,
        IReadOnlyDictionary<string, string> truth,
        FinderContext? context = null
    )
    {
        var claim = Recognition.Try(page, reader, context?.Pictures);
        // Of what nothing is known there is nothing to prove.
        var isKnown = type.Fields.Any(f => truth.ContainsKey(f.Key));
        var role = claim.Role;
        var read = role is { } it && isKnown ? DocumentReading.Read([(1, page)], 1, claim, type, context, it) : null;
        return new ProofRow(
            sample,
            role,
            [.. type.Fields.Where(f => truth.ContainsKey(f.Key)).Select(f => Compare(f, read?.Of(f.Key), truth[f.Key]))]
        );
    }

    /// <summary>
    /// Compares a read value with the truth. A term counts by what it was read as, so an old spelling is right when it leads there.
    /// </summary>
    public static ProofCell Compare(Field field, CapturedValue? read, string truth)
    {
        var text = read?.Text ?? "";
        var outcome =
            Same(field, text, truth) ? Outcome.Right
            : text.Length == 0 ? Outcome.Empty
            : Outcome.Wrong;
        return new ProofCell(field.Key, outcome, text, truth, read?.Evidence);
    }

    /// <summary>Share of right values over the samples that know them, 0 to 1; null when none does.</summary>
    /// <param name="rows">The samples.</param>
    /// <param name="field">Of this field only; null for all.</param>
    public static double? Share(IEnumerable<ProofRow> rows, string? field = null)
    {
        var cells = rows.SelectMany(r => r.Cells).Where(c => field is null || c.Field == field).ToList();
        return cells.Count == 0 ? null : (double)cells.Count(c => c.Outcome == Outcome.Right) / cells.Count;
    }

    /// <summary>How many values were read so that nobody has to look at them, and how many of those were wrong.</summary>
    /// <param name="rows">The samples.</param>
    /// <param name="field">Of this field only; null for all.</param>
    public static (int Of, int Wrong) Sure(IEnumerable<ProofRow> rows, string? field = null) =>
        Counted(rows, c => c.Evidence?.IsSure == true && (field is null || c.Field == field));

    private static (int Of, int Wrong) Counted(IEnumerable<ProofRow> rows, Func<ProofCell, bool> counts)
    {
        var sure = rows.SelectMany(r => r.Cells).Where(c => c.Read.Length > 0 && counts(c)).ToList();
        return (sure.Count, sure.Count(c => c.Outcome == Outcome.Wrong));
    }

    /// <summary>
    /// The least trust from which on less than one value in a hundred was wrong, from <see cref="Evidence.Sure"/> upwards by hundredths;
    /// null when there is none, or when too few values say so.
    /// </summary>
    public static double? SureFrom(IReadOnlyList<ProofRow> rows)
    {
        for (var hundredths = (int)(100 * Evidence.Sure); hundredths <= 100; hundredths++)
            if (Counted(rows, c => c.Evidence?.Confidence >= hundredths / 100.0) is { Of: >= Telling } sure && sure.Wrong < 0.01 * sure.Of)
                return hundredths / 100.0;
        return null;
    }

    private const int Telling = 20;

    private static bool Same(Field field, string read, string truth) =>
        field.Kind.IsNumeric && field.Kind.Parse(read) is { IsGood: true } a && field.Kind.Parse(truth) is { IsGood: true } b
            ? a.Number == b.Number
            : string.Equals(
                read,
                truth,
                field.Kind is { HasTerms: true, IsMultiple: false } ? StringComparison.OrdinalIgnoreCase : StringComparison.Ordinal
            );
}
