using System.Globalization;
using System.Text.Json.Serialization;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds a decimal number, e.g. <c>1234.50</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record DecimalField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Decimal;
}

/// <summary>Decimal numbers with a point.</summary>
internal sealed class DecimalKind : NumberKind
{
    private const NumberStyles Styles = NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint;

    public override string Name => "Decimal";

    public override string Label => "decimal";

    public override Field New(string key, string label) => new DecimalField(key, label);

    protected override FieldValue Read(string text) => Read(text, Styles);

    public override string UnreadableCode => "not-a-number";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist keine Zahl; mit Punkt schreiben, etwa 1250.50.",
            "fr" => $"« {text} » n’est pas un nombre ; écrivez-le avec un point, par exemple 1250.50.",
            _ => $"“{text}” is not a number; write it with a point, such as 1250.50.",
        };

    public override string XmlType => "xs:decimal";

    public override string? Xml(string text) => Xml(text, Styles);

    public override (string Base, string? Format) Csvw => ("decimal", null);
}
