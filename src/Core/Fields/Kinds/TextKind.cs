using System.Text;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds any text, e.g. a title.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TextField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Text;

    /// <summary>Least number of characters, counted in code points.</summary>
    public int? MinLength { get; init; }

    /// <summary>Greatest number of characters, counted in code points.</summary>
    public int? MaxLength { get; init; }

    /// <summary>Regular expression the whole value must match, see <see cref="SafePattern"/>.</summary>
    public string? Pattern { get; init; }
}

/// <summary>Any text.</summary>
internal sealed class TextKind : FieldKind
{
    public override string Name => "Text";

    public override string Label => "text";

    public override Measure Measure => Measure.Words;

    public override bool IsWritten => true;

    public override Field New(string key, string label) => new TextField(key, label);

    protected override FieldValue Read(string text) => new() { Text = text, State = ValueState.Good };

    public override string Shape(Field field) => field is TextField { Pattern: not null } ? "pattern" : "text";

    public override IEnumerable<(string Name, JsonNode? Value)> CsvwLimits(Field field)
    {
        var text = (TextField)field;
        yield return ("minLength", text.MinLength);
        yield return ("maxLength", text.MaxLength);
        if (text.Pattern is { Length: > 0 } pattern && PatternDialect.Read(pattern).Ecma is { } ecma)
            yield return ("format", $"^(?:{ecma})$");
    }

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        var (text, property) = ((TextField)field, part.Property);
        property["type"] = "string";
        if (part.IsCleaned)
        {
            property["$comment"] = "Values are cleaned before they are checked.";
            return;
        }
        if (text.Required || text.MinLength > 0)
            property["minLength"] = Math.Max(text.MinLength ?? 0, text.Required ? 1 : 0);
        if (text.MaxLength is { } most)
            property["maxLength"] = most;
        if (text.Pattern is { Length: > 0 } pattern)
        {
            if (PatternDialect.Read(pattern).Ecma is { } ecma)
                property["pattern"] = $"^(?:{ecma})$";
            else
                part.Unsaid.Add($"{field.Label} matches {pattern}");
        }
        if (field.Required)
            part.NotBlank();
    }

    // JSON Schema compares exactly: a text has both cases of each letter.
    internal override JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) =>
        new() { ["pattern"] = $"^(?:{string.Join('|', values.Select(AnyCase))})$" };

    internal override string? Plausible(Field field, VocabularyIndex? terms)
    {
        var text = (TextField)field;
        if (PatternShape.Parse(text.Pattern) is { } shape)
            return shape.Example();
        if (PatternPieces.Read(text.Pattern) is { Count: > 0 } pieces)
            return PatternPieces.Example(pieces);
        return text.MaxLength is { } most && field.Label.Length > most ? field.Label[..most] : field.Label;
    }

    private const string EcmaSyntax = @"^$\.*+?()[]{}|/";

    private static string AnyCase(string text)
    {
        var pattern = new StringBuilder();
        // As ValueKey compares: blanks and dashes are one, at the ends they are none.
        var parts = text.Split(text.Where(ValueKey.Separates).Distinct().ToArray(), StringSplitOptions.RemoveEmptyEntries);
        const string between = @"[\s\-\u2010-\u2014]";
        foreach (var (part, i) in parts.Select((p, i) => (p, i)))
        {
            if (i > 0)
                pattern.Append(between).Append('+');
            foreach (var c in part)
                if (char.IsLetter(c) && char.ToUpperInvariant(c) != char.ToLowerInvariant(c))
                    pattern.Append('[').Append(char.ToUpperInvariant(c)).Append(char.ToLowerInvariant(c)).Append(']');
                else
                    pattern.Append(EcmaSyntax.Contains(c) ? "\\" : "").Append(c);
        }
        return parts.Length == 0 ? "" : $"{between}*{pattern}{between}*";
    }
}
