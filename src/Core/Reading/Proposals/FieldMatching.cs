using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;
using F23.StringSimilarity;

namespace ClearLexicon.Core.Reading.Proposals;

/// <summary>Which of a type's fields proposed values fill: by what they are labelled with, and by whether they fit.</summary>
internal static class FieldMatching
{
    /// <summary>A value that fills a field less well than this is left to a person.</summary>
    private const double Least = 0.42;

    /// <summary>What a heading counts that says nothing but has cells of a column's kind.</summary>
    private const double OfKindAlone = 0.5;

    /// <summary>A heading that is less like a column's name is not its heading.</summary>
    private const double LeastOfColumn = 0.5;

    /// <summary>A heading that is so like a column's name is its heading wherever it stands.</summary>
    private const double SurelyOfColumn = 0.9;

    /// <summary>Share of the judgement that the label has; the rest has whether the values fit.</summary>
    private const double OfLabel = 0.45;

    private static readonly JaroWinkler Likeness = new();

    // The ways in which dates and numbers are printed, tried in turn.
    private static readonly CleaningStep[][] Ways =
    [
        [],
        [new("squeeze-blanks"), new("read-date", "d MMM yyyy|d MMMM yyyy")],
        [new("squeeze-blanks"), new("read-date", "dd.MM.yyyy|d.M.yyyy|d/M/yyyy|d-M-yyyy")],
        [new("squeeze-blanks"), new("read-date", "M/d/yyyy")],
        [new("read-number", ".")],
        [new("read-number", ",")],
        [new("keep-digits")],
    ];

    /// <summary>The values with the fields they fill, each field once, best pairs first.</summary>
    public static IReadOnlyList<ProposedValue> Match(List<ProposedValue> values, TypeFields type, FinderContext context)
    {
        var pairs = values
            .SelectMany(
                (v, i) =>
                    type
                        .Fields.Where(f => f is TableField == v.Columns.Count > 0)
                        .Select(f =>
                            (At: i, Field: f, Judged: f is TableField table ? (Score: Alike(v, table), Steps: []) : Judge(v, f, context))
                        )
            )
            .Where(p => p.Judged.Score >= Least)
            .OrderByDescending(p => p.Judged.Score)
            .ToList();
        var matched = values.ToArray();
        var taken = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (at, field, judged) in pairs)
            if (matched[at].Field is null && taken.Add(field.Key))
                matched[at] = matched[at] with { Field = field.Key, Fit = judged.Score, Steps = judged.Steps };
        // What is left of one kind on both sides belongs together when there is one of each.
        foreach (
            var left in matched
                .Select((v, i) => (Value: v, At: i))
                .Where(v => v.Value.Field is null)
                .GroupBy(v => v.Value.Kind)
                .Where(g => g.Count() == 1)
        )
        {
            var (value, at) = left.First();
            var fields = type
                .Fields.Where(f => !taken.Contains(f.Key) && MayStand(f) && f is not VocabularyField && KindSuits(value.Kind, f))
                .Select(f => (Field: f, Judged: Judge(value, f, context)))
                .Where(f => f.Judged.Score > 0)
                .ToList();
            if (fields is [var only] && taken.Add(only.Field.Key))
                matched[at] = value with { Field = only.Field.Key, Fit = only.Judged.Score, Steps = only.Judged.Steps };
        }
        return matched;
    }

    /// <summary>
    /// The columns of a table field that headings stand over, each once: all of them in their order when their kinds agree, unless names
    /// say otherwise; else those with alike names.
    /// </summary>
    public static List<(ProposedColumn Heading, Field Column)> Columns(IReadOnlyList<ProposedColumn> proposed, TableField table)
    {
        var inOrder = proposed.Zip(table.Columns).ToList();
        return
            proposed.Count == table.Columns.Count
            && inOrder.TrueForAll(c => KindSuits(Proposing.KindOf(c.First.Values), c.Second))
            && inOrder.Select(c => c.Second.Kind).Distinct().Count() > 1
            && Named(proposed, table, SurelyOfColumn).TrueForAll(inOrder.Contains)
            ? inOrder
            : Named(proposed, table, LeastOfColumn);
    }

    private static List<(ProposedColumn Heading, Field Column)> Named(
        IReadOnlyList<ProposedColumn> proposed,
        TableField table,
        double least
    )
    {
        var columns = new List<(ProposedColumn Heading, Field Column)>();
        foreach (
            var (heading, column, _) in proposed
                .SelectMany(p => table.Columns.Select(c => (Heading: p, Column: c, Alike: Alike(p.Heading, c))))
                .Where(p => p.Alike >= least)
                .OrderByDescending(p => p.Alike)
        )
            if (columns.TrueForAll(c => c.Heading != heading && c.Column != column))
                columns.Add((heading, column));
        return columns;
    }

    // How much the headings speak of the field: those with the name of a column, and half as much those with its kind alone.
    private static double Alike(ProposedValue value, TableField table) =>
        Columns(value.Columns, table).Sum(c => Alike(c.Heading.Heading, c.Column) >= LeastOfColumn ? 1 : OfKindAlone) / value.Columns.Count;

    // Tables are found by their headings; what the program knows by itself stands on no page.
    private static bool MayStand(Field field) =>
        !field.Kind.HasRows
        && field.DefaultFrom is not (DefaultSource.Today or DefaultSource.Person or DefaultSource.Batch or DefaultSource.Formula);

    /// <summary>The repairs that a value's texts need to fill a field.</summary>
    public static IReadOnlyList<CleaningStep> StepsFor(ProposedValue value, Field field, FinderContext context) =>
        Judge(value, field, context).Steps;

    /// <summary>Repairs that make a value of what stands on a page: those in use when they do, else the first of the usual ones.</summary>
    public static IReadOnlyList<CleaningStep> StepsTo(string raw, string truth, Field field, IReadOnlyList<CleaningStep> inUse) =>
        WaysFor(field)
            .Prepend([.. inUse])
            .FirstOrDefault(w => string.Equals(CleaningSteps.Compile(w, field)(raw), truth, StringComparison.OrdinalIgnoreCase))
        ?? inUse;

    /// <summary>The usual repairs for a field, ready to be used.</summary>
    public static IReadOnlyList<Func<string, string>> WaysOf(Field field) =>
        [.. WaysFor(field).Select(w => CleaningSteps.Compile(w, field))];

    // What has the field's pattern may stand among other words: “UN1203, flammable”.
    private static IEnumerable<CleaningStep[]> WaysFor(Field field) =>
        field is TextField { Pattern: { Length: > 0 } pattern } && CleaningSteps.Finding(new("take-form", pattern)) is null
            ? [.. Ways, [new("take-form", pattern)]]
            : Ways;

    private static bool KindSuits(FieldKind kind, Field field) => field.Kind == kind || kind.IsDigits && field.Kind.IsNumeric;

    private static (double Score, IReadOnlyList<CleaningStep> Steps) Judge(ProposedValue value, Field field, FinderContext context)
    {
        var given = value.Values.Where(v => v.Length > 0).ToList();
        var (best, steps) = (0.0, Ways[0]);
        foreach (var way in WaysFor(field))
        {
            // A date is written as dates are kept, although it could be read as it stands.
            if (way.Length == 0 && field is DateField && !given.TrueForAll(v => v.Length == 10 && v[4] == '-'))
                continue;
            // Digits that are left of a date or of "20 %" are no number.
            if (
                way is [{ Kind: "keep-digits" }]
                && (value.Kind.Measure == Measure.Day || field is not (IdentifierField or TextField { Pattern: not null }))
            )
                continue;
            var clean = CleaningSteps.Compile(way, field);
            var share = (double)given.Count(t => FieldFit.Fits(field, clean(t), context)) / given.Count;
            if (share > best + 0.01)
                (best, steps) = (share, way);
        }
        // That a value fits says much where few things do: a check digit, a pattern, a list, a date.
        var tells = field switch
        {
            IdentifierField { Scheme: not null } or TextField { Pattern: not null } => 1,
            // A list that takes any word fits any value.
            VocabularyField v => v.Vocabulary is { } key
            && context.Vocabularies.TryGetValue(key, out var terms)
            && terms.Vocabulary.Growth == Growth.Fixed
                ? 0.95
                : 0.3,
            YesNoField or DateField => value.Kind == field.Kind ? 0.85 : 0.4,
            TextField => value.Kind.IsWritten ? 0.5 : 0.15,
            _ => 0.6,
        };
        return best < 0.5 ? (0, steps) : (OfLabel * Alike(value.Label, field) + (1 - OfLabel) * best * tells, steps);
    }

    /// <summary>How much a label speaks of a field, 0 to 1.</summary>
    public static double Alike(string label, Field field)
    {
        var said = Telling(label);
        return new[] { field.Label, field.Key.Replace('-', ' ') }.Max(name =>
        {
            var words = Telling(name);
            if (said.Length == 0 || words.Length == 0)
                return 0;
            var shared = words.Average(w => said.Max(s => Similar(w, s)));
            var back = said.Average(s => words.Max(w => Similar(w, s)));
            return 0.65 * Math.Max(shared, back) + 0.35 * Math.Min(shared, back);
        });
    }

    private static readonly HashSet<string> Joining =
    [
        "a",
        "an",
        "and",
        "at",
        "by",
        "date",
        "for",
        "in",
        "is",
        "it",
        "of",
        "on",
        "s",
        "the",
        "was",
    ];

    // The words of a label that say anything, or all when none does.
    private static string[] Telling(string label)
    {
        var words = Folding.Words(label);
        var telling = words.Where(w => !Joining.Contains(w)).ToArray();
        return telling.Length > 0 ? telling : words;
    }

    // Words that forms use for one thing.
    private static readonly string[][] OneThing =
    [
        ["number", "no", "nr", "reference", "ref", "leaf", "entered"],
        ["until", "expires", "expiry", "lapses", "ends", "to", "due", "end"],
        ["from", "begins", "starts", "start"],
        ["born", "birth"],
        ["issued", "issue", "given", "dated"],
        ["captain", "master"],
        ["departure", "departed", "sailed", "out", "left"],
        ["arrival", "arrived", "in"],
        ["payer", "payable", "debtor", "paid"],
        ["total", "sum", "amount"],
        ["tonnage", "tons", "gt", "grt"],
        ["holder", "holds", "admitted", "bearer"],
        ["type", "kind", "category", "class"],
        ["berth", "berthed", "quay", "jetty", "place"],
        ["ship", "vessel", "hull"],
        ["agent", "agency"],
    ];

    private static readonly ILookup<string, int> Things = OneThing
        .SelectMany((words, i) => words.Select(w => (Word: w, Thing: i)))
        .ToLookup(w => w.Word, w => w.Thing, StringComparer.Ordinal);

    // Words for one thing are nearly one word; words with one stem too.
    private static double Similar(string a, string b) =>
        a == b ? 1
        : Things[a].Intersect(Things[b]).Any() ? 0.9
        : a.Length > 40 || b.Length > 40 ? 0
        : Likeness.Similarity(a, b) is > 0.86 and var s ? s
        : 0;
}
