using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds one term.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TermField(string Key, string Label) : VocabularyField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Term;
}

/// <summary>One term.</summary>
internal sealed class TermKind : VocabularyKind
{
    public override string Name => "Term";

    public override string Label => "term";

    public override Measure Measure => Measure.Words;

    public override Field New(string key, string label) => new TermField(key, label);

    internal override Func<string, FieldValue> Reader(
        Field field,
        VocabularyIndex? terms,
        IReadOnlyList<Func<string?, FieldValue>> columns
    ) => text => Read(text, terms);

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        foreach (var (name, value) in TermInJsonSchema(field, part))
            part.Property[name] = value?.DeepClone();
        if (field.Required && !part.Property.ContainsKey("enum"))
            part.NotBlank();
    }

    // JSON Schema compares exactly: a term has all its spellings.
    internal override JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) =>
        terms is null
            ? null
            : new JsonObject
            {
                ["enum"] = JsonSchemaPart.Strings(
                    values.Select(terms.IndexOfAny).Where(i => i >= 0).SelectMany(i => Spellings(terms.Vocabulary.Terms[i]))
                ),
            };
}
