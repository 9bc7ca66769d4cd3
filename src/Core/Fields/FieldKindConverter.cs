using System.Text.Json;
using System.Text.Json.Serialization;

namespace ClearLexicon.Core.Fields;

/// <summary>Stored designs name a kind by its word.</summary>
public sealed class FieldKindConverter : JsonConverter<FieldKind>
{
    /// <inheritdoc/>
    public override FieldKind Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        (reader.TokenType == JsonTokenType.String ? FieldKind.Find(reader.GetString()) : null)
        ?? throw new JsonException("There is no such kind of field.");

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, FieldKind value, JsonSerializerOptions options) =>
        writer.WriteStringValue(value.Name);
}
