using System.Globalization;
using System.Text.Json.Serialization;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds a whole number, e.g. <c>-12</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record WholeNumberField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.WholeNumber;
}

/// <summary>Whole numbers, read and written in digits only.</summary>
internal sealed class WholeNumberKind : NumberKind
{
    public override string Name => "WholeNumber";

    public override string Label => "whole number";

    public override bool IsWhole => true;

    public override Field New(string key, string label) => new WholeNumberField(key, label);

    protected override FieldValue Read(string text) => Read(text, NumberStyles.AllowLeadingSign);

    public override string UnreadableCode => "not-a-whole-number";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist keine ganze Zahl; nur Ziffern schreiben, etwa 1250.",
            "fr" => $"« {text} » n’est pas un nombre entier ; n’écrivez que des chiffres, par exemple 1250.",
            _ => $"“{text}” is not a whole number; write digits only, such as 1250.",
        };

    public override string XmlType => "xs:integer";

    public override string? Xml(string text) => Xml(text, NumberStyles.AllowLeadingSign);

    public override (string Base, string? Format) Csvw => ("integer", null);
}
