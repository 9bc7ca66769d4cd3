using System.Runtime.CompilerServices;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// Findings about a design that no single field or rule shows: what nothing fills, what is used nowhere, what can never hold, what says the
/// same.
/// </summary>
internal static class WholeDesignCheck
{
    // Terms tried against the rules; a vocabulary of fifty thousand is not walked on each edit.
    private const int MostTerms = 300;

    private static readonly ConditionalWeakTable<VocabularyIndex, string[]> VocabularyFindings = [];

    /// <summary>All findings about a resolved type.</summary>
    public static IEnumerable<Finding> Of(CompiledType compiled, DesignSurroundings around)
    {
        var type = compiled.Type;
        var sound = type.Rules.Where(r => RuleKinds.Finding(r, type) is null).ToList();
        return FieldFindings(compiled, sound, around)
            .Concat(RuleFindings(type, sound, around))
            .Concat(Conditions(type, sound, around))
            .Concat(Words(compiled, sound, around))
            .Concat(type.IsGroup ? [] : Neighbours(compiled, around));
    }

    private static IEnumerable<Finding> FieldFindings(CompiledType compiled, List<Rule> rules, DesignSurroundings around)
    {
        var type = compiled.Type;
        var readers = around.Readers.Where(r => r.TypeCode == type.Code).ToList();
        var read = readers.SelectMany(r => r.Crosswalk.Select(l => l.Field)).ToHashSet(StringComparer.Ordinal);
        var filled = type.Fillings.SelectMany(f => f.Targets.Values).ToHashSet(StringComparer.Ordinal);
        var ruled = rules
            .SelectMany(r => RuleExamples.Fields(r, type))
            .Concat(type.Fields.SelectMany(f => f.RequiredWhen?.Comparisons.Select(c => c.Subject) ?? []))
            .ToHashSet(StringComparer.Ordinal);
        var named = type.Convention.Pieces.SelectMany(p => new[] { p.Field, p.OnlyWhenFilled }).ToHashSet(StringComparer.Ordinal);
        for (var i = 0; i < type.Fields.Count; i++)
        {
            var field = type.Fields[i];
            var none = OffersNothing(compiled, i, around.Now);
            if (none)
                yield return new Finding(
                    "branch-empty",
                    field.Required ? Level.Must : Level.Should,
                    $"{field.Label}: no current term of {compiled.TermsOf(i)!.Vocabulary.Name} is "
                        + $"accepted{(field is VocabularyField { Branch: { Length: > 0 } b } ? $" below “{b}”" : "")}.",
                    field.Key
                )
                {
                    Consequence = "Whatever is written there is refused.",
                };
            var forbidden = rules.FirstOrDefault(r =>
                r is { Kind: Filled.Kind, Level: Level.Must, When: null or { Comparisons.Count: 0 } }
                && Filled.How.Of(r) == HowFilled.None
                && Filled.Named.Of(r).Contains(field.Key)
            );
            var filling =
                read.Contains(field.Key)
                || filled.Contains(field.Key)
                || field.DefaultFrom != DefaultSource.Constant
                || !string.IsNullOrEmpty(field.Default);
            if (field.Required && (forbidden is not null || none))
                yield return new Finding(
                    "must-unfillable",
                    Level.Must,
                    $"{field.Label} must be filled, but "
                        + $"{(forbidden is not null ? "a rule says that it must be empty" : "no value is accepted in it")}.",
                    field.Key
                )
                {
                    Consequence = "No document of this type can ever be filed, whichever way it comes.",
                };
            else if (field.Required && !filling && readers.Count > 0)
                yield return new Finding(
                    "must-by-hand",
                    Level.Should,
                    $"{field.Label} must be filled, but no reader, default or look-up fills it.",
                    field.Key
                )
                {
                    Consequence = "Somebody types it on every document.",
                };
            if (
                field.NotSearched
                && field.NotInResults
                && field.Standard is null
                && !ruled.Contains(field.Key)
                && !named.Contains(field.Key)
            )
                yield return new Finding(
                    "field-unused",
                    Level.Should,
                    $"{field.Label} is neither searched nor shown in results, is not in the path, maps to no standard term, and no rule "
                        + "checks it.",
                    field.Key
                )
                {
                    Consequence = "People fill it in for nothing.",
                };
        }
    }

    // Whether a vocabulary that takes no new words offers nothing that the field accepts.
    private static bool OffersNothing(CompiledType compiled, int ordinal, CheckContext now)
    {
        if (
            !compiled.Type.Fields[ordinal].Kind.HasTerms || compiled.TermsOf(ordinal)?.Vocabulary is not { Growth: Growth.Fixed } vocabulary
        )
            return false;
        var refusal = compiled.Alone(ordinal, now);
        return !vocabulary.Terms.Any(t => t.Status == TermStatus.Current && refusal(t.Label) is null);
    }

    private static IEnumerable<Finding> RuleFindings(DocumentType type, List<Rule> rules, DesignSurroundings around)
    {
        if (Contradictions.Find(type, around.Now.Today) is var (place, says))
            yield return new Finding("never-together", Level.Must, $"These can never hold together: {string.Join("; ", says)}.", place)
            {
                Consequence = "Every document that fills these fields is refused.",
            };
        var seen = new Dictionary<string, Rule>(StringComparer.Ordinal);
        foreach (var rule in rules)
        {
            var sentence = RuleKinds.Sentence(rule, type);
            // A check of one field that the field demands itself says the same as well.
            var twin = seen.TryAdd(Meaning(rule), rule) ? null : RuleKinds.Sentence(seen[Meaning(rule)], type);
            if (
                rule.Kind == Filled.Kind
                && Filled.How.Of(rule) == HowFilled.All
                && rule.When is null or { Comparisons.Count: 0 }
                && Filled.Named.Of(rule) is [var key]
                && type.Find(key) is { Required: true } field
            )
                twin = $"{field.Label} must be filled";
            if (twin is not null)
                yield return new Finding("rules-same", Level.Should, $"{sentence}: “{twin}” already says the same.", rule.Id)
                {
                    Consequence = "Anyone who changes one and not the other will be surprised.",
                };
            if (
                rule.Kind == Unique.Kind
                && Unique.Named.Of(rule).Where(k => type.Find(k) is { Required: false }).ToList() is { Count: > 0 } optional
            )
                yield return new Finding("unique-optional", Level.Should, $"{sentence}: {type.LabelsOf(optional)} may be empty.", rule.Id)
                {
                    Consequence = "Documents without it are never found to be duplicates.",
                };
            if (rule.Kind is not (Unique.Kind or InTable.Kind) && rule.Examples.All(e => e.Passes))
                yield return new Finding("rule-no-failing-example", Level.Should, $"{sentence}: no example shows what it refuses.", rule.Id)
                {
                    Consequence = "A later change may make it accept everything, and nobody would notice.",
                };
            if (rule.Said() is { } said && around.Languages.Except(said.Keys).ToList() is { Count: > 0 } missing)
                yield return new Finding(
                    "message-language",
                    Level.Should,
                    $"{sentence}: its own message is missing in "
                        + $"{string.Join(" and ", missing.Select(l => Messages.Languages.FirstOrDefault(m => m.Code == l).Name ?? l))}.",
                    rule.Id
                )
                {
                    Consequence = "People who read that language get the standard message.",
                };
        }
    }

    private static string Meaning(Rule rule)
    {
        var parameters = rule.Parameters.Where(p => p.Value.Length > 0).Select(p => $"{p.Key}={p.Value}").Order(StringComparer.Ordinal);
        var conditions = (rule.When?.Comparisons ?? []).Select(c => $"{c.Subject} {c.Operator} {c.Value}").Order(StringComparer.Ordinal);
        return $"{rule.Kind} {string.Join(' ', parameters)} when {rule.When?.Match} {string.Join(' ', conditions)}";
    }

    private static IEnumerable<Finding> Conditions(DocumentType type, List<Rule> rules, DesignSurroundings around)
    {
        bool IsType(string code) =>
            code == type.Code || type.Lineage.Contains(code) || around.Types.Contains(code) || around.Types.Count == 0;
        foreach (
            var (when, place, says) in rules
                .Select(r => (r.When, r.Id, RuleKinds.Sentence(r, type)))
                .Concat(type.Fields.Select(f => (f.RequiredWhen, f.Key, $"{f.Label} must be filled when {f.RequiredWhen?.InWords(type)}")))
        )
            if (Contradictions.Never(when, type, IsType) is { } why)
                yield return new Finding("condition-never", Level.Should, $"{says}: {why}.", place) { Consequence = "It never applies." };
    }

    private static IEnumerable<Finding> Words(CompiledType compiled, List<Rule> rules, DesignSurroundings around)
    {
        var type = compiled.Type;
        for (var i = 0; i < type.Fields.Count; i++)
        {
            var field = type.Fields[i];
            if (field.Kind is not { HasTerms: true, IsMultiple: false } || compiled.TermsOf(i) is not { } terms)
                continue;
            var refusal = compiled.Alone(i, around.Now);
            foreach (
                var rule in rules.Where(r =>
                    r is { Level: Level.Must, When: null or { Comparisons.Count: 0 } }
                    && RuleExamples.Fields(r, type).ToList() is [var only]
                    && only == field.Key
                )
            )
            {
                if (RuleKinds.Compile(rule, compiled.Scope) is not { } check)
                    continue;
                var record = new FieldValue[compiled.Width];
                Array.Fill(record, FieldValue.Empty);
                bool Refuses(Term term)
                {
                    record[i] = compiled.ReaderOf(i).Read(term.Label);
                    return check(record, around.Now) is not null;
                }
                if (
                    terms
                        .Vocabulary.Terms.Where(t => t.Status == TermStatus.Current)
                        .Take(MostTerms)
                        .FirstOrDefault(t => refusal(t.Label) is null && Refuses(t)) is
                    { } refused
                )
                    yield return new Finding(
                        "term-refused",
                        Level.Should,
                        $"{RuleKinds.Sentence(rule, type)}: it refuses “{refused.Label}”, which the field offers.",
                        rule.Id
                    )
                    {
                        Consequence = "Anyone who chooses the term cannot file the document.",
                    };
            }
        }
        foreach (
            var key in type
                .Fields.SelectMany(f => f.Columns.Append(f))
                .Select(f => f.Vocabulary)
                .OfType<string>()
                .Distinct(StringComparer.Ordinal)
        )
            if (around.Vocabularies.GetValueOrDefault(key) is { } index)
                foreach (var finding in VocabularyFindings.GetValue(index, static v => [.. VocabularyCheck.Findings(v.Vocabulary).Take(5)]))
                    yield return new Finding("vocabulary-fault", Level.Should, $"{index.Vocabulary.Name}: {finding}", $"vocabulary {key}")
                    {
                        Consequence = "A spelling may lead to the wrong term.",
                    };
    }

    private static IEnumerable<Finding> Neighbours(CompiledType compiled, DesignSurroundings around)
    {
        var type = compiled.Type;
        var readers = around.Readers.Where(r => r.TypeCode == type.Code).ToList();
        foreach (var reader in readers)
        foreach (
            var other in around.Readers.Where(o =>
                o.Key != reader.Key
                && reader.Clues.Count > 0
                && reader.Clues.All(c => o.Clues.Any(x => Folding.Fold(x.Text) == Folding.Fold(c.Text)))
            )
        )
            if (reader.Clues.Count < other.Clues.Count || string.CompareOrdinal(reader.Key, other.Key) < 0)
                yield return new Finding(
                    "readers-overlap",
                    Level.Should,
                    $"The reader {reader.Name} claims every page that {other.Name} claims: all its clues are clues of the other too.",
                    $"reader {reader.Key}"
                )
                {
                    Consequence = "Pages may be read by the wrong one.",
                };
        if (type.Convention.Name.Count == 0)
            yield break;
        var samples = SampleRecords.For(type, around.Vocabularies);
        foreach (
            var other in around.Published.Where(p =>
                p.Type.Code != type.Code
                && p.Type.Convention.Name.Count > 0
                && !p.Type.Lineage.Contains(type.Code)
                && !type.Lineage.Contains(p.Type.Code)
            )
        )
            if (
                (
                    OnePath(compiled, samples, other, around.Now)
                    ?? OnePath(other, SampleRecords.For(other.Type, around.Vocabularies), compiled, around.Now)
                ) is
                { } path
            )
                yield return new Finding(
                    "convention-clash",
                    Level.Should,
                    $"A {other.Type.Name} can get the same path as a {type.Name}: {path}.",
                    "name"
                )
                {
                    Consequence = "Documents of both types are mixed, and their names are told apart by numbers.",
                };
    }

    private static string? OnePath(CompiledType from, IReadOnlyList<string?[]> samples, CompiledType to, CheckContext now)
    {
        var reader = to.PathReader();
        foreach (var texts in samples)
        {
            var place = from.Judge(texts, now).Placement;
            if (place.Problem is null && reader.Read(place.Path, now).Fits)
                return place.Path;
        }
        return null;
    }
}
