using System.Text.Json.Serialization;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds a number with a check digit, e.g. an IBAN.</summary>
/// <inheritdoc cref="Field"/>
public sealed record IdentifierField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Identifier;

    /// <summary>Code of the check-digit scheme, see <see cref="CheckDigits.CheckSchemes"/>; null until one is chosen.</summary>
    public string? Scheme { get; init; }
}

/// <summary>Numbers with a check digit.</summary>
internal sealed class IdentifierKind : FieldKind
{
    public override string Name => "Identifier";

    public override string Label => "identifier";

    public override Measure Measure => Measure.Words;

    public override bool IsWritten => true;

    public override Field New(string key, string label) => new IdentifierField(key, label);

    protected override FieldValue Read(string text) => new() { Text = text, State = ValueState.Good };

    internal override Func<string, FieldValue> Reader(Field field, VocabularyIndex? terms, IReadOnlyList<Func<string?, FieldValue>> columns)
    {
        if (Scheme(field) is not { } scheme)
            return Read;
        return text =>
        {
            var compact = CheckScheme.Compact(text);
            return new FieldValue { Text = scheme.Problem(compact) is null ? scheme.Write(compact) : text, State = ValueState.Good };
        };
    }

    // Without its separators.
    public override string Key(in FieldValue value) => CheckScheme.Compact(value.Text).ToUpperInvariant();

    internal override object FoundBy(string text) => CheckScheme.Compact(text).ToLowerInvariant();

    public override string Shape(Field field) => field is IdentifierField { Scheme: not null } ? "identifier" : "text";

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        part.Property["type"] = "string";
        part.Property["$comment"] = $"Check digit: {Scheme(field)?.Standard}.";
        if (field.Required)
            part.NotBlank();
    }

    internal override string? Plausible(Field field, VocabularyIndex? terms) => Scheme(field)?.Example;

    private static CheckScheme? Scheme(Field field) => CheckSchemes.Find((field as IdentifierField)?.Scheme);
}
