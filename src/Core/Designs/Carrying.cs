using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>How a field of a new version gets its value from fields of the version before.</summary>
public enum CarryHow
{
    /// <summary>The whole value: the field was renamed, or its terms are others now.</summary>
    Whole,

    /// <summary>One part of the value: the field was split.</summary>
    Part,

    /// <summary>Several values one after another: fields were joined.</summary>
    Joined,
}

/// <summary>One line of the mapping that carries documents from one version of their type to the next.</summary>
/// <param name="Field">Key of the field of the new version.</param>
/// <param name="How">How it gets its value.</param>
/// <param name="From">Keys of fields of the version before; several only when they are joined.</param>
public sealed record CarryLine(string Field, CarryHow How, IReadOnlyList<string> From)
{
    /// <summary>What divides the parts, or stands between what is joined; a single blank when it is empty.</summary>
    public string Between { get; init; } = "";

    /// <summary>Which part is taken, from 1.</summary>
    public int Part { get; init; } = 1;

    /// <summary>Whether what follows the part is taken too, with what divides it.</summary>
    public bool AndRest { get; init; }

    /// <summary>Repairs on the way; a <c>replace</c> step carries merged terms.</summary>
    public IReadOnlyList<CleaningStep> Steps { get; init; } = [];
}

/// <summary>
/// Carries the texts of a record from one version of its type to the next. A field that holds a text of its own keeps it, unless it is one
/// of those it is made of; texts of fields that are gone are dropped once their lines have run.
/// </summary>
public sealed class CompiledCarrying
{
    private readonly (CarryLine Line, Func<string, string> Clean)[] _lines;
    private readonly HashSet<string> _gone;

    /// <summary>Compiles; lines with a <see cref="Finding"/> are left out.</summary>
    public CompiledCarrying(IReadOnlyList<CarryLine> lines, DocumentType before, DocumentType after)
    {
        _lines =
        [
            .. lines.Where(l => Finding(l, before, after) is null).Select(l => (l, CleaningSteps.Compile(l.Steps, after.Find(l.Field)))),
        ];
        _gone = [.. _lines.SelectMany(l => l.Line.From).Where(k => after.Find(k) is null)];
    }

    /// <summary>The record as the new version holds it.</summary>
    /// <param name="record">Texts by field key.</param>
    /// <param name="isThere">
    /// Whether the record was checked against the new version already, because it was edited since or came later. Then lines that make a
    /// field of a part of itself, or of itself and others, are passed over: they would do it twice.
    /// </param>
    public IReadOnlyDictionary<string, string> Carry(IReadOnlyDictionary<string, string> record, bool isThere = false)
    {
        if (_lines.Length == 0 || !_lines.Any(l => l.Line.From.Any(record.ContainsKey)))
            return record;
        var carried = record.ToDictionary(StringComparer.Ordinal);
        foreach (var (line, clean) in _lines)
        {
            var own = line.From.Contains(line.Field);
            if (own ? isThere && line.How != CarryHow.Whole : record.GetValueOrDefault(line.Field, "").Length > 0)
                continue;
            if (clean(Taken(line, record)) is { Length: > 0 } text)
                carried[line.Field] = text;
        }
        foreach (var key in _gone)
            carried.Remove(key);
        return carried;
    }

    /// <summary>The evidence as the new version holds it: each carried field was read where the first of its sources was.</summary>
    public IReadOnlyDictionary<string, Evidence> Carry(IReadOnlyDictionary<string, Evidence> evidence)
    {
        if (!_lines.Any(l => l.Line.From.Any(evidence.ContainsKey)))
            return evidence;
        var carried = evidence.ToDictionary(StringComparer.Ordinal);
        foreach (var (line, _) in _lines)
            if (line.From.FirstOrDefault(evidence.ContainsKey) is { } source)
                carried.TryAdd(line.Field, evidence[source]);
        foreach (var key in _gone)
            carried.Remove(key);
        return carried;
    }

    /// <summary>
    /// Where a value goes that a reader or a migration plan carries into a field: on to the field's new name, when it was renamed.
    /// </summary>
    /// <param name="field">Key of the field it was carried into.</param>
    /// <param name="steps">Repairs on the way.</param>
    public (string Field, IReadOnlyList<CleaningStep> Steps) Follow(string field, IReadOnlyList<CleaningStep> steps)
    {
        if (!_gone.Contains(field))
            return (field, steps);
        foreach (var (line, _) in _lines)
            if (line.How == CarryHow.Whole && line.From[0] == field)
                return (line.Field, [.. steps, .. line.Steps]);
        return (field, steps);
    }

    /// <summary>Crosswalk lines of a reader or a migration plan as they go on.</summary>
    public IReadOnlyList<CrosswalkLine> Follow(IEnumerable<CrosswalkLine> lines) =>
        [.. lines.Select(l => Follow(l.Field, l.Steps) is var (field, steps) ? l with { Field = field, Steps = steps } : l)];

    /// <summary>A reader as it goes on.</summary>
    public Reading.Reader Follow(Reading.Reader reader) =>
        reader with
        {
            Crosswalk = Follow(reader.Crosswalk),
            Joined = [.. reader.Joined.Select(j => j with { Field = Follow(j.Field, []).Field })],
            Trust = [.. reader.Trust.Select(t => t with { Field = Follow(t.Field, []).Field })],
        };

    private static string Taken(CarryLine line, IReadOnlyDictionary<string, string> record)
    {
        var between = line.Between.Length == 0 ? " " : line.Between;
        var first = record.GetValueOrDefault(line.From[0], "");
        if (line.How == CarryHow.Whole)
            return first;
        if (line.How == CarryHow.Joined)
            return string.Join(between, line.From.Select(k => record.GetValueOrDefault(k, "")).Where(t => t.Length > 0));
        var parts = first.Split(
            between,
            line.AndRest ? line.Part : int.MaxValue,
            between == " " ? StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries : StringSplitOptions.TrimEntries
        );
        return parts.Length >= line.Part ? parts[line.Part - 1] : "";
    }

    /// <summary>Why a line cannot run, in one sentence; null when it can.</summary>
    public static string? Finding(CarryLine line, DocumentType before, DocumentType after)
    {
        if (after.Find(line.Field) is not { } field)
            return $"The field “{line.Field}” is not in the draft.";
        if (line.From.Count == 0)
            return $"{field.Label}: choose the field that its value comes from.";
        if (line.How == CarryHow.Joined && line.From.Count < 2)
            return $"{field.Label}: choose at least two fields to join.";
        if (line.How == CarryHow.Part && line.Part is < 1 or > 20)
            return $"{field.Label}: the part is a number from 1 to 20.";
        foreach (var key in line.From)
        {
            if (before.Find(key) is not { } source)
                return $"{field.Label}: the published version has no field “{key}”.";
            if (source.Restricted && !field.Restricted)
                return $"{field.Label}: {source.Label} is restricted, so what is made of it must be restricted too.";
            if (source.Kind.HasRows != field.Kind.HasRows || (field.Kind.HasRows && line.How != CarryHow.Whole))
                return $"{field.Label}: a table can be carried into a table only, as a whole.";
        }
        return line.Steps.Select(CleaningSteps.Finding).FirstOrDefault(f => f is not null) is { } finding
            ? $"{field.Label}: {finding}"
            : null;
    }

    /// <summary>A line as a sentence.</summary>
    public static string InWords(CarryLine line, DocumentType before, DocumentType after)
    {
        var between = line.Between.Trim().Length == 0 ? "a blank" : $"“{line.Between}”";
        var sources = line.From.Select(before.LabelOf).ToList();
        var says = line.How switch
        {
            CarryHow.Part =>
                $"{after.LabelOf(line.Field)} is part {line.Part}{(line.AndRest ? " and what follows" : "")} of {sources[0]}, divided "
                    + $"by {between}",
            CarryHow.Joined => $"{after.LabelOf(line.Field)} is {string.Join(" and ", sources)}, joined by {between}",
            _ => line.From[0] == line.Field
                ? $"{after.LabelOf(line.Field)} stays"
                : $"{after.LabelOf(line.Field)} is what {sources[0]} was",
        };
        return says
            + string.Concat(
                line.Steps.Select(s =>
                    $", then {CleaningSteps.Find(s.Kind)?.Title.ToLowerInvariant()}{(s.Argument.Length > 0 ? $" ({s.Argument})" : "")}"
                )
            );
    }

    /// <summary>
    /// Lines that are likely: a field that is gone and a new one of the same kind, when their names are alike or there is only one of each.
    /// </summary>
    public static IReadOnlyList<CarryLine> Suggest(DocumentType before, DocumentType after)
    {
        List<Field> gone = [.. before.Fields.Where(f => after.Find(f.Key) is null)],
            fresh = [.. after.Fields.Where(f => before.Find(f.Key) is null)];
        var likeness = new F23.StringSimilarity.JaroWinkler();
        double Alike(Field old, Field now)
        {
            var (a, b) = (Vocabularies.Folding.Fold(old.Label), Vocabularies.Folding.Fold(now.Label));
            return $" {a} ".Contains($" {b} ", StringComparison.Ordinal) || $" {b} ".Contains($" {a} ", StringComparison.Ordinal)
                ? 1
                : likeness.Similarity(a, b);
        }
        return
        [
            .. from field in fresh
            let old = gone.Where(g => g.Kind == field.Kind && (!g.Restricted || field.Restricted)).MaxBy(g => Alike(g, field))
            where old is not null && ((gone.Count == 1 && fresh.Count == 1) || Alike(old, field) > 0.8)
            select new CarryLine(field.Key, CarryHow.Whole, [old.Key]),
        ];
    }
}
