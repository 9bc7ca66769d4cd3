using System.Text.Json.Nodes;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field whose values are terms of a vocabulary.</summary>
/// <inheritdoc cref="Field"/>
public abstract record VocabularyField(string Key, string Label) : Field(Key, Label)
{
    /// <summary>Key of the vocabulary; null until one is chosen.</summary>
    public string? Vocabulary { get; init; }

    /// <summary>Id of the term below which values must lie.</summary>
    public string? Branch { get; init; }

    /// <summary>The only level of the tree that is accepted, counted from 1 at the top.</summary>
    public int? OnlyLevel { get; init; }

    /// <summary>Only terms without narrower ones are accepted.</summary>
    public bool LeavesOnly { get; init; }

    /// <summary>Positions of the terms that are in use, below its branch, on its level, and leaves where it asks for leaves.</summary>
    internal IEnumerable<int> Fitting(VocabularyIndex terms)
    {
        var branch = Branch is { Length: > 0 } b ? terms.IndexOfAny(b) : -1;
        return Enumerable
            .Range(0, terms.Vocabulary.Terms.Count)
            .Where(i =>
                terms.Vocabulary.Terms[i].Status != TermStatus.Retired
                && (branch < 0 || i != branch && terms.IsWithin(i, branch))
                && (OnlyLevel is null || terms.Level(i) == OnlyLevel)
                && (!LeavesOnly || terms.Narrower(i).Length == 0)
            );
    }
}

/// <summary>What fields of terms have in common, of one term or of several.</summary>
internal abstract class VocabularyKind : FieldKind
{
    public override bool HasTerms => true;

    public override IReadOnlyList<Look> Looks { get; } =
    [Look.Is, Look.Within, Look.OneOf, Look.Holds, Look.Starts, Look.IsNot, Look.Empty, Look.Filled];

    internal override FieldCondition On(FieldCondition condition, VocabularyIndex? terms, DateOnly today)
    {
        if (terms is null)
            return base.On(condition, terms, today);
        string Label(string name) => terms.IndexOfAny(name) is >= 0 and var i ? terms.Vocabulary.Terms[i].Label : name;
        return condition.How switch
        {
            Look.Within => condition with { Values = Branch(terms, condition.Text) },
            Look.OneOf => condition with { Values = [.. condition.Values.Select(Label)] },
            Look.Is or Look.IsNot => condition with { Text = Label(condition.Text) },
            _ => condition,
        };
    }

    // A term that is not in the vocabulary any more is still found under its name.
    private static List<string> Branch(VocabularyIndex terms, string name)
    {
        if (terms.IndexOfAny(name) is not (>= 0 and var top))
            return [name];
        var (seen, waiting) = (new HashSet<int> { top }, new Queue<int>([top]));
        var labels = new List<string>();
        while (labels.Count < Question.MostValues && waiting.TryDequeue(out var term))
        {
            labels.Add(terms.Vocabulary.Terms[term].Label);
            foreach (var below in terms.Narrower(term))
                if (seen.Add(below))
                    waiting.Enqueue(below);
        }
        return labels;
    }

    /// <summary>Reads one term: any spelling of one that there is, or a new one where the vocabulary grows.</summary>
    protected static FieldValue Read(string text, VocabularyIndex? terms)
    {
        var index = terms?.IndexOf(text) ?? -1;
        if (index < 0 && terms is { Vocabulary.Growth: not Growth.Fixed } && text.Length <= Vocabulary.LongestLabel)
            return new FieldValue
            {
                Text = text,
                Term = -1,
                State = ValueState.Good,
            };
        return index < 0
            ? Unreadable(text)
            : new FieldValue
            {
                Text = terms!.Vocabulary.Terms[index].Label,
                Term = index,
                State = ValueState.Good,
            };
    }

    protected override FieldValue Read(string text) => Unreadable(text);

    internal override string? Plausible(Field field, VocabularyIndex? terms)
    {
        if (terms is not null)
            foreach (var i in ((VocabularyField)field).Fitting(terms))
                if (terms.Vocabulary.Terms[i].Status == TermStatus.Current)
                    return terms.Vocabulary.Terms[i].Label;
        return null;
    }

    /// <summary>What JSON Schema says of one term.</summary>
    protected static JsonObject TermInJsonSchema(Field field, JsonSchemaPart part)
    {
        if (part.Terms is not { } terms || terms.Vocabulary.Growth != Growth.Fixed || part.IsCleaned)
            return new JsonObject { ["type"] = "string" };
        var taken = ((VocabularyField)field).Fitting(terms);
        var spellings = JsonSchemaPart.Strings(
            taken.SelectMany(i => part.Given ? [terms.Vocabulary.Terms[i].Label] : Spellings(terms.Vocabulary.Terms[i]))
        );
        // A list of no values is none that validators take.
        return spellings.Count == 0
            ? new JsonObject { ["type"] = "string", ["not"] = new JsonObject() }
            : new JsonObject { ["type"] = "string", ["enum"] = spellings };
    }

    /// <summary>All that a term may be written as.</summary>
    protected static IEnumerable<string> Spellings(Term t)
    {
        yield return t.Label;
        if (t.Code is { Length: > 0 } code)
            yield return code;
        foreach (var variant in t.Variants)
            yield return variant;
        foreach (var words in t.Words.Values)
        {
            if (words.Label.Length > 0)
                yield return words.Label;
            foreach (var variant in words.Variants)
                yield return variant;
        }
    }
}
