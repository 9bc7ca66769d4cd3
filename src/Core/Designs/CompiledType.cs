using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Rules.Formulas;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// A document type compiled once into arrays and delegates. Desk, repository edits, the API and migration all judge
/// with it. Immutable and thread-safe; a record is an array of texts by field ordinal.
/// </summary>
public sealed class CompiledType
{
    private readonly Check[] _checks;
    private readonly (int Ordinal, Check[] Checks)[] _rows;
    private readonly FieldReader[] _readers;
    private readonly (int Ordinal, Func<FieldValue[], CheckContext, string?> Text)[] _defaults;
    private readonly Dictionary<string, int> _ordinals;

    /// <summary>The design this was compiled from, inherited parts included.</summary>
    public DocumentType Type { get; }

    /// <summary>The convention, compiled.</summary>
    public CompiledConvention Convention { get; }

    /// <summary>Whether no two documents have the same value in a field.</summary>
    public bool IsUnique(string field) => Uniques.Any(u => u.Ordinals is [var only] && only == OrdinalOf(field));

    /// <summary>Rules that need the other records.</summary>
    public IReadOnlyList<UniqueTogether> Uniques { get; }

    /// <summary>What is filled from reference tables.</summary>
    public Fillings Fillings { get; }

    /// <summary>What the rules were compiled with.</summary>
    public RuleScope Scope { get; }

    /// <summary>Compiles a design. Rules with a <see cref="RuleKinds.Finding"/> are left out; publishing refuses them.</summary>
    /// <param name="type">The design, resolved by <see cref="Inheritance"/>.</param>
    /// <param name="vocabularies">Vocabularies by key; a term field whose vocabulary is missing accepts nothing.</param>
    /// <param name="tables">Reference tables by key.</param>
    public CompiledType(
        DocumentType type,
        IReadOnlyDictionary<string, VocabularyIndex> vocabularies,
        IReadOnlyDictionary<string, ReferenceTable>? tables = null
    )
    {
        Type = type;
        Scope = new RuleScope(type, vocabularies, tables ?? RuleScope.NoTables);
        var fields = type.Fields;
        _readers = [.. fields.Select(f => new FieldReader(f, vocabularies))];
        _ordinals = new Dictionary<string, int>(StringComparer.Ordinal);
        for (var i = 0; i < fields.Count; i++)
            _ordinals.TryAdd(fields[i].Key, i);
        var sound = type.Rules.Where(r => RuleKinds.Finding(r, type) is null).ToList();
        _checks =
        [
            .. _readers.SelectMany((r, i) => FieldChecks.Of(r, i, Scope)),
            .. sound.Select(r => RuleKinds.Compile(r, Scope)).OfType<Check>(),
        ];
        _rows = [.. _readers.SelectMany((r, i) => FieldChecks.OfRows(r, i, Scope))];
        _defaults =
        [
            .. fields
                .Select((f, i) => (Ordinal: i, Text: Default(f)))
                .Where(d => d.Text is not null)
                .Select(d => (d.Ordinal, d.Text!))
                .OrderBy(d => fields[d.Ordinal].DefaultFrom == DefaultSource.Formula),
        ];
        Uniques =
        [
            .. sound
                .Where(r => r.Kind == Unique.Kind)
                .Select(r => new UniqueTogether(
                    r,
                    [.. Unique.Named.Of(r).Select(type.OrdinalOf)],
                    [.. Unique.Named.Of(r).Select(k => type.Find(k)!.Kind)],
                    r.When is { Comparisons.Count: > 0 } w ? w.Compile(type, vocabularies) : null
                )),
        ];
        Fillings = new Fillings(type.Fillings, type, Scope.Tables);
        Convention = new CompiledConvention(type.Convention, type);
    }

    /// <summary>Number of fields, which is the length of every record.</summary>
    public int Width => _readers.Length;

    /// <summary>Ordinal of a field key, or -1.</summary>
    public int OrdinalOf(string key) => _ordinals.TryGetValue(key, out var i) ? i : -1;

    /// <summary>The compiled vocabulary of a term field, or null.</summary>
    public VocabularyIndex? TermsOf(int ordinal) => _readers[ordinal].Terms;

    /// <summary>The compiled reader of a field.</summary>
    public FieldReader ReaderOf(int ordinal) => _readers[ordinal];

    /// <summary>The readers of all fields, by ordinal.</summary>
    public IReadOnlyList<FieldReader> Readers => _readers;

    /// <summary>Reads paths back by the type's convention.</summary>
    public PathReader PathReader() => new(Convention, _readers);

    /// <summary>What is restricted of a document, by the type as it is published now.</summary>
    /// <param name="record">Its values by field key.</param>
    /// <param name="evidence">Where they were read, by field key.</param>
    public Redaction Restricted(IReadOnlyDictionary<string, string> record, IReadOnlyDictionary<string, Evidence> evidence) =>
        new(_readers, Type.Fillings.SelectMany(f => f.Targets.Values).ToHashSet(StringComparer.Ordinal), record, evidence);

    /// <inheritdoc cref="FieldChecks.Alone"/>
    public Func<string, Problem?> Alone(int ordinal, CheckContext now) => FieldChecks.Alone(_readers[ordinal], ordinal, Scope, now);

    /// <summary>
    /// Cleans and reads texts into values, taking defaults where there is no text; computed defaults last, in field order.
    /// </summary>
    public void Parse(ReadOnlySpan<string?> texts, FieldValue[] values, CheckContext now)
    {
        for (var i = 0; i < _readers.Length; i++)
            values[i] = _readers[i].Read(texts[i]);
        if (Fillings.Any)
            Fillings.Fill(values, (ordinal, cell) => _readers[ordinal].Read(cell));
        foreach (var (ordinal, text) in _defaults)
            if (values[ordinal].IsEmpty && text(values, now) is { Length: > 0 } given)
                values[ordinal] = _readers[ordinal].Read(given);
    }

    /// <summary>Cleans and reads texts into a record of its own; see <see cref="Parse"/>.</summary>
    public FieldValue[] Read(ReadOnlySpan<string?> texts, CheckContext now)
    {
        var values = new FieldValue[Width];
        Parse(texts, values, now);
        return values;
    }

    /// <summary>Labels that a growing vocabulary does not know yet, by vocabulary key.</summary>
    public IEnumerable<(string Vocabulary, string Label)> NewTerms(FieldValue[] values) =>
        _readers.SelectMany((reader, i) => NewTerms(reader, values[i]));

    private static IEnumerable<(string, string)> NewTerms(FieldReader reader, FieldValue value)
    {
        if (!value.IsGood)
            return [];
        if (reader.Field.Kind.HasRows)
            return value.Rows.ToArray().SelectMany(row => reader.Columns.SelectMany((column, i) => NewTerms(column, row[i])));
        var several = reader.Field.Kind.IsMultiple;
        if (reader.Terms is not { } terms || !(several ? value.Terms.Contains(-1) : value.Term < 0))
            return [];
        string[] labels = several ? value.Text.Split("; ") : [value.Text];
        return labels.Where(t => terms.IndexOf(t) < 0).Select(t => (terms.Vocabulary.Key, t));
    }

    /// <summary>
    /// The unique combinations that a record has, by rule, also of rules that do not apply to it now: by another channel, or on another
    /// day, they may. Whoever asks for duplicates asks <see cref="UniqueTogether.Applies"/> of both records.
    /// </summary>
    public IEnumerable<(string RuleId, string Key)> UniqueKeys(FieldValue[] values)
    {
        foreach (var unique in Uniques)
            if (unique.KeyOf(values) is { } key)
                yield return (unique.Rule.Id, key);
    }

    /// <summary>
    /// What does not hold for a record, fields first, then rules, then table rows. Lazily: the caller decides how many it wants.
    /// </summary>
    public IEnumerable<Problem> Problems(FieldValue[] record, CheckContext now)
    {
        foreach (var check in _checks)
            if (check(record, now) is { } problem)
                yield return problem;
        foreach (var problem in RowProblems(record, now))
            yield return problem;
    }

    /// <summary>Appends what does not hold; for callers that judge millions of records with one list.</summary>
    public void CollectProblems(FieldValue[] record, CheckContext now, List<Problem> into)
    {
        foreach (var check in _checks)
            if (check(record, now) is { } problem)
                into.Add(problem);
        if (_rows.Length > 0)
            into.AddRange(RowProblems(record, now));
    }

    /// <summary>Reads and judges one record on its own, and names its place.</summary>
    public Judgement Judge(ReadOnlySpan<string?> texts, CheckContext now)
    {
        var values = Read(texts, now);
        var problems = new List<Problem>();
        CollectProblems(values, now, problems);
        var placement = Convention.Render(values, now);
        return new Judgement(values, problems, placement, now);
    }

    private IEnumerable<Problem> RowProblems(FieldValue[] record, CheckContext now)
    {
        foreach (var (ordinal, checks) in _rows)
        {
            var table = Type.Fields[ordinal];
            for (var row = 0; row < record[ordinal].Rows.Length; row++)
                foreach (var check in checks)
                    if (check(record[ordinal].Rows[row], now) is { } problem)
                        yield return problem with
                        {
                            Field = table.Key,
                            Rule = $"{problem.Field}{(problem.Rule is { } r ? "/" + r : "")}",
                            Row = row + 1,
                        };
        }
    }

    private Func<FieldValue[], CheckContext, string?>? Default(Field field)
    {
        var given = field.Default;
        switch (field.DefaultFrom)
        {
            case DefaultSource.Constant:
                return string.IsNullOrEmpty(given) ? null : (_, _) => given;
            case DefaultSource.Today:
                return (_, now) => now.Today.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);
            case DefaultSource.Person:
                return (_, now) => now.Person;
            case DefaultSource.Batch:
                return (_, now) => now.Batch;
            case DefaultSource.Previous:
                return (_, now) => now.Previous?.GetValueOrDefault(field.Key);
            default:
                return CompiledFormula.TryCompile(given ?? "", Type, out var formula, out _)
                    ? (values, now) =>
                        formula!.Evaluate(values, now) is var given && given.Kind == FormulaKind.Number
                            ? field.Kind.OfNumber(given.Number) ?? given.AsText
                            : given.AsText
                    : null;
        }
    }
}

/// <summary>What the engine says of one record.</summary>
/// <param name="Values">The values by ordinal.</param>
/// <param name="Problems">What does not hold.</param>
/// <param name="Placement">Folder and name, or why there is none.</param>
/// <param name="Now">What surrounded it.</param>
public sealed record Judgement(FieldValue[] Values, IReadOnlyList<Problem> Problems, Placement Placement, CheckContext Now)
{
    /// <summary>Problems of the record and of its path.</summary>
    public IEnumerable<Problem> All => Placement.Problem is { } p ? Problems.Append(p) : Problems;

    /// <summary>Whether nothing blocks filing once the given problems are overridden.</summary>
    /// <param name="overridden">Ids of should-problems that a person has overridden with a reason.</param>
    public bool Ready(IReadOnlySet<string> overridden) => AgainstFiling(overridden) is null;

    /// <summary>The first problem that blocks filing; null for none.</summary>
    /// <param name="overridden">Ids of should-problems that a person has overridden with a reason.</param>
    public Problem? AgainstFiling(IReadOnlySet<string> overridden) => ChangePolicy.Filing.Of(All, null, overridden).Against;
}
