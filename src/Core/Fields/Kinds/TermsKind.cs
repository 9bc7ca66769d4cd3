using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds several terms, separated by <c>;</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TermsField(string Key, string Label) : VocabularyField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Terms;
}

/// <summary>Several terms.</summary>
internal sealed class TermsKind : VocabularyKind
{
    public override string Name => "Terms";

    public override string Label => "several terms";

    public override bool IsMultiple => true;

    public override Field New(string key, string label) => new TermsField(key, label);

    protected override FieldValue Read(string text) => new() { Text = text, State = ValueState.Good };

    internal override Func<string, FieldValue> Reader(
        Field field,
        VocabularyIndex? terms,
        IReadOnlyList<Func<string?, FieldValue>> columns
    ) => text => ReadAll(text, terms);

    private static FieldValue ReadAll(string text, VocabularyIndex? vocabulary)
    {
        var pieces = FieldParsing.Terms(text);
        var terms = new List<int>(pieces.Length);
        var labels = new List<string>(pieces.Length);
        for (var i = 0; i < pieces.Length; )
        {
            // A label may hold the separator itself: the longest run of pieces that is a spelling wins.
            var taken = 1;
            var value = Read(pieces[i], vocabulary);
            for (var end = pieces.Length; end > i + 1; end--)
                if (vocabulary?.IndexOf(string.Join("; ", pieces[i..end])) is >= 0 and var index)
                {
                    value = new FieldValue
                    {
                        Text = vocabulary.Vocabulary.Terms[index].Label,
                        Term = index,
                        State = ValueState.Good,
                    };
                    taken = end - i;
                    break;
                }
            if (!value.IsGood)
                return Unreadable(text);
            if (!labels.Contains(value.Text, StringComparer.Ordinal))
            {
                terms.Add(value.Term);
                labels.Add(value.Text);
            }
            i += taken;
        }
        return labels.Count == 0
            ? FieldValue.Empty
            : new FieldValue
            {
                Text = string.Join("; ", labels),
                Part = terms.ToArray(),
                State = ValueState.Good,
            };
    }

    // Regardless of order.
    public override string Key(in FieldValue value) =>
        string.Join('\u001e', value.Text.Split("; ").Select(ValueKey.Text).Order(StringComparer.Ordinal));

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        part.Property["type"] = "array";
        if (field.Required)
            part.Property["minItems"] = 1;
        part.Property["items"] = TermInJsonSchema(field, part);
    }
}
