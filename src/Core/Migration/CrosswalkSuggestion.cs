using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using F23.StringSimilarity;

namespace ClearLexicon.Core.Migration;

/// <summary>A line that the product proposes, with its reason.</summary>
/// <param name="Line">The line.</param>
/// <param name="Reason">Why, in words.</param>
/// <param name="Strength">0 to 1.</param>
public sealed record CrosswalkSuggestion(CrosswalkLine Line, string Reason, double Strength)
{
    /// <summary>Weakest suggestion that is made.</summary>
    public const double Least = 0.55;

    private static readonly JaroWinkler Similarity = new();

    /// <summary>Date formats looked for in legacy columns, unambiguous ones only; a steward adds others by hand.</summary>
    private static readonly string[] DateFormats =
    [
        "d-MMM-yy",
        "d MMM yyyy",
        "d-MMM-yyyy",
        "d MMM yy",
        "yyMMdd",
        "yyyyMMdd",
        "d.M.yyyy",
        "yyyy/M/d",
    ];

    /// <summary>
    /// Proposes at most one column for each field, best pairs first, by name and by how many common values the field would accept.
    /// </summary>
    public static IReadOnlyList<CrosswalkSuggestion> For(IReadOnlyList<ColumnProfile> columns, CompiledType type)
    {
        var pairs = new List<CrosswalkSuggestion>();
        foreach (var (field, ordinal) in type.Type.Fields.Select((f, i) => (f, i)))
        foreach (var column in columns.Where(c => c.Filled > 0))
        {
            // Terms and check digits are told by the values themselves, everything else by the shapes and how often each occurs.
            var samples = field is TermField or IdentifierField
                ? column.Commonest.Select(v => (v.Value, v.Count)).ToList()
                : column.Shapes.Select(s => (Value: s.Example, s.Count)).ToList();
            var name = NameLikeness(field, column.Name);
            var steps = Steps(field, [.. samples.Select(s => s.Value)]);
            var accepted = Accepted(field, ordinal, type, samples, steps);
            // Any text fits a text field and any date a date field: only terms and patterns are told by content alone.
            var telling = field is TermField or IdentifierField or TextField { Pattern: not null };
            var strength =
                field is TextField { Pattern: null } ? name
                : telling ? Math.Max(0.4 * name + 0.6 * accepted, 0.85 * accepted)
                : 0.6 * name + 0.4 * accepted;
            if (strength >= Least && (name > 0.75 || telling && accepted > 0.5))
                pairs.Add(
                    new CrosswalkSuggestion(
                        new CrosswalkLine(column.Name, field.Key, steps),
                        $"name {(name >= 0.99 ? "the same" : name > 0.75 ? "alike" : "different")}; {accepted:P0} of the sampled "
                            + "values are accepted",
                        strength
                    )
                );
        }
        var chosen = new List<CrosswalkSuggestion>();
        foreach (var pair in pairs.OrderByDescending(p => p.Strength))
            if (!chosen.Any(c => c.Line.Field == pair.Line.Field || c.Line.Source == pair.Line.Source))
                chosen.Add(pair);
        return chosen;
    }

    private static double NameLikeness(Field field, string column)
    {
        var folded = Folding.Letters(column);
        return Math.Max(One(Folding.Letters(field.Label)), One(Folding.Letters(field.Key)));
        double One(string name) =>
            name == folded ? 1
            : name.Split(' ').Intersect(folded.Split(' '), StringComparer.Ordinal).Any(w => w.Length > 2) ? 0.85
            : Similarity.Similarity(name, folded);
    }

    private static CleaningStep[] Steps(Field field, IReadOnlyList<string> samples)
    {
        switch (field.Kind.Measure)
        {
            case Measure.Day:
                var formats = DateFormats.Where(f => samples.Any(s => DateReading.Reader(f)(s) is var read && read != s)).ToArray();
                return formats.Length > 0 ? [new CleaningStep("read-date", string.Join('|', formats))] : [];
            case Measure.TimeOfDay:
                return samples.Any(s => !field.Kind.Parse(s).IsGood) ? [new CleaningStep("read-time")] : [];
            case Measure.Number:
                return samples.Any(s => !field.Kind.Parse(s).IsGood)
                    ?
                    [
                        new CleaningStep(
                            "read-number",
                            samples.Count(s => s.LastIndexOf(',') > s.LastIndexOf('.')) * 2 > samples.Count ? "," : "."
                        ),
                    ]
                    : [];
        }
        return field is IdentifierField || field is TextField text && PatternShape.Parse(text.Pattern) is not null
            ? [new CleaningStep("look-alikes")]
            : [new CleaningStep("squeeze-blanks")];
    }

    private static double Accepted(
        Field field,
        int ordinal,
        CompiledType type,
        List<(string Value, long Count)> samples,
        CleaningStep[] steps
    )
    {
        if (samples.Count == 0)
            return 0;
        var clean = CleaningSteps.Compile(steps, field);
        var refusal = type.Alone(ordinal, new CheckContext(DateOnly.MinValue, EntryChannel.Migration));
        var accepted = samples.Where(s => refusal(clean(s.Value)) is null).Sum(s => s.Count);
        return (double)accepted / samples.Sum(s => s.Count);
    }
}
