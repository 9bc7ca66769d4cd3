using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>A rule that only the other records can answer.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Ordinals">Ordinals of the fields that together stand only once.</param>
public sealed record UniqueTogether(Rule Rule, int[] Ordinals);

/// <summary>
/// A document type compiled once into arrays and delegates. Desk, repository edits, the API and migration all judge
/// with it. Immutable and thread-safe; a record is an array of texts by field ordinal.
/// </summary>
public sealed class CompiledType
{
    private readonly Check[] _checks;
    private readonly VocabularyIndex?[] _terms;
    private readonly FieldKind[] _kinds;
    private readonly string?[] _defaults;
    private readonly Dictionary<string, int> _ordinals;

    /// <summary>The design this was compiled from.</summary>
    public DocumentType Type { get; }

    /// <summary>The convention, compiled.</summary>
    public CompiledConvention Convention { get; }

    /// <summary>Rules that need the other records.</summary>
    public IReadOnlyList<UniqueTogether> Uniques { get; }

    /// <summary>Compiles a design. Rules with a <see cref="RuleKinds.Fault"/> are left out; publishing refuses them.</summary>
    /// <param name="type">The design.</param>
    /// <param name="vocabularies">Vocabularies by key; a term field whose vocabulary is missing accepts nothing.</param>
    public CompiledType(DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        Type = type;
        var fields = type.Fields;
        _kinds = [.. fields.Select(f => f.Kind)];
        _defaults = [.. fields.Select(f => string.IsNullOrEmpty(f.Default) ? null : f.Default)];
        _terms = [.. fields.Select(f => f.Vocabulary is { } v ? vocabularies.GetValueOrDefault(v) : null)];
        _ordinals = fields.Select((f, i) => (f.Key, i)).ToDictionary(p => p.Key, p => p.i, StringComparer.Ordinal);
        var sound = type.Rules.Where(r => RuleKinds.Fault(r, type) is null).ToList();
        _checks =
        [
            .. fields.SelectMany((f, i) => FieldChecks.Of(f, i, _terms[i])),
            .. sound.Select(r => RuleKinds.Find(r.Kind)!.Compile(r, type)).OfType<Check>(),
        ];
        Uniques = [.. sound.Where(r => r.Kind == "unique").Select(r => new UniqueTogether(r, [.. r.Keys("fields").Select(type.OrdinalOf)]))];
        Convention = new CompiledConvention(type.Convention, type);
    }

    /// <summary>Number of fields, which is the length of every record.</summary>
    public int Width => _kinds.Length;

    /// <summary>Ordinal of a field key, or -1.</summary>
    public int OrdinalOf(string key) => _ordinals.TryGetValue(key, out var i) ? i : -1;

    /// <summary>The compiled vocabulary of a term field, or null.</summary>
    public VocabularyIndex? TermsOf(int ordinal) => _terms[ordinal];

    /// <summary>Reads texts into values, taking defaults where there is no text.</summary>
    public void Parse(ReadOnlySpan<string?> texts, Span<FieldValue> values)
    {
        for (var i = 0; i < _kinds.Length; i++)
        {
            values[i] = FieldParsing.Parse(_kinds[i], texts[i], _terms[i]);
            if (_defaults[i] is { } given && values[i].IsEmpty) values[i] = FieldParsing.Parse(_kinds[i], given, _terms[i]);
        }
    }

    /// <summary>What does not hold for a record, fields first, then rules. Lazily: the caller decides how many it wants.</summary>
    public IEnumerable<Problem> Problems(FieldValue[] record)
    {
        foreach (var check in _checks)
            if (check(record) is { } problem) yield return problem;
    }

    /// <summary>Appends what does not hold; for callers that judge millions of records with one list.</summary>
    public void CollectProblems(ReadOnlySpan<FieldValue> record, List<Problem> into)
    {
        foreach (var check in _checks)
            if (check(record) is { } problem) into.Add(problem);
    }

    /// <summary>Reads and judges one record on its own, and names its place.</summary>
    public Judgement Judge(ReadOnlySpan<string?> texts)
    {
        var values = new FieldValue[Width];
        Parse(texts, values);
        var problems = new List<Problem>();
        CollectProblems(values, problems);
        var placement = Convention.Render(values);
        return new Judgement(values, problems, placement);
    }
}

/// <summary>What the engine says of one record.</summary>
/// <param name="Values">The values by ordinal.</param>
/// <param name="Problems">What does not hold.</param>
/// <param name="Placement">Folder and name, or why there is none.</param>
public sealed record Judgement(FieldValue[] Values, IReadOnlyList<Problem> Problems, Placement Placement)
{
    /// <summary>Problems of the record and of its path.</summary>
    public IEnumerable<Problem> All => Placement.Problem is { } p ? Problems.Append(p) : Problems;

    /// <summary>Whether nothing blocks filing once the given problems are overridden.</summary>
    /// <param name="overridden">Ids of should-problems that a person has overridden with a reason.</param>
    public bool Ready(IReadOnlySet<string> overridden) => All.All(p => p.Level == Level.Should && overridden.Contains(p.Id));
}
