using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds <c>yes</c> or <c>no</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record YesNoField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.YesNo;
}

/// <summary>Yes or no.</summary>
internal sealed class YesNoKind : FieldKind
{
    public override string Name => "YesNo";

    public override string Label => "yes/no";

    public override Measure Measure => Measure.Truth;

    public override Field New(string key, string label) => new YesNoField(key, label);

    protected override FieldValue Read(string text) =>
        text.ToUpperInvariant() switch
        {
            "YES" or "Y" or "TRUE" or "1" => new FieldValue
            {
                Text = "yes",
                Number = 1,
                State = ValueState.Good,
            },
            "NO" or "N" or "FALSE" or "0" => new FieldValue { Text = "no", State = ValueState.Good },
            _ => Unreadable(text),
        };

    public override string UnreadableCode => "not-yes-or-no";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist weder ja noch nein.",
            "fr" => $"« {text} » n’est ni oui ni non.",
            _ => $"“{text}” is neither yes nor no.",
        };

    public override string Key(in FieldValue value) => value.Number == 1 ? "yes" : "no";

    public override bool Same(in FieldValue a, in FieldValue b) => a.Number == b.Number;

    public override IReadOnlyList<Look> Looks { get; } = [Look.Is, Look.IsNot, Look.Empty, Look.Filled];

    public override object? Typed(string text) =>
        text switch
        {
            "yes" => true,
            "no" => false,
            _ => null,
        };

    public override string XmlType => "xs:boolean";

    public override string? Xml(string text) =>
        text switch
        {
            "yes" => "true",
            "no" => "false",
            _ => null,
        };

    public override (string Base, string? Format) Csvw => ("boolean", "yes|no");

    internal override void ToJsonSchema(Field field, JsonSchemaPart part) => part.Property["type"] = "boolean";

    internal override JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) =>
        values is [var one] ? new JsonObject { ["const"] = Parse(one).Number == 1 } : null;

    internal override string? Plausible(Field field, VocabularyIndex? terms) => "yes";
}
