using System.Text.Json;
using System.Text.Json.Serialization;

namespace ClearLexicon.Core.Reading;

/// <summary>
/// Words as JSON, e.g. <c>{"text":"Quay","box":{"x":0.1008,"y":0.0642,"w":0.0431,"h":0.0093},"confidence":0.97}</c>. A page has hundreds
/// and a stack has a thousand pages, so they are taken member by member and their places are kept to a millionth of the page.
/// </summary>
internal sealed class WordJson : JsonConverter<Word>
{
    private const int Places = 6;

    /// <inheritdoc/>
    /// <exception cref="JsonException">It is no word.</exception>
    public override Word Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        var text = "";
        var (box, confidence) = (default(Box), 1.0);
        while (Next(ref reader) is { } member)
            switch (member)
            {
                case Member.Text:
                    text = reader.GetString() ?? "";
                    break;
                case Member.Box:
                    box = ReadBox(ref reader);
                    break;
                case Member.Confidence:
                    confidence = reader.GetDouble();
                    break;
                default:
                    reader.Skip();
                    break;
            }
        return new Word(text, box, confidence);
    }

    private static Box ReadBox(ref Utf8JsonReader reader)
    {
        double x = 0,
            y = 0,
            w = 0,
            h = 0;
        while (Next(ref reader) is { } member)
            switch (member)
            {
                case Member.X:
                    x = reader.GetDouble();
                    break;
                case Member.Y:
                    y = reader.GetDouble();
                    break;
                case Member.W:
                    w = reader.GetDouble();
                    break;
                case Member.H:
                    h = reader.GetDouble();
                    break;
                default:
                    reader.Skip();
                    break;
            }
        return new Box(x, y, w, h);
    }

    private enum Member
    {
        Other,
        Text,
        Box,
        Confidence,
        X,
        Y,
        W,
        H,
    }

    // The next member of an object, its value at hand; null at the object's end.
    private static Member? Next(ref Utf8JsonReader reader)
    {
        if (!reader.Read() || reader.TokenType is not (JsonTokenType.PropertyName or JsonTokenType.EndObject))
            throw new JsonException("A word is an object with a text and a box.");
        if (reader.TokenType == JsonTokenType.EndObject)
            return null;
        var member =
            reader.ValueTextEquals("text"u8) ? Member.Text
            : reader.ValueTextEquals("box"u8) ? Member.Box
            : reader.ValueTextEquals("confidence"u8) ? Member.Confidence
            : reader.ValueTextEquals("x"u8) ? Member.X
            : reader.ValueTextEquals("y"u8) ? Member.Y
            : reader.ValueTextEquals("w"u8) ? Member.W
            : reader.ValueTextEquals("h"u8) ? Member.H
            : Member.Other;
        reader.Read();
        return member;
    }

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, Word value, JsonSerializerOptions options)
    {
        writer.WriteStartObject();
        writer.WriteString("text"u8, value.Text);
        writer.WriteStartObject("box"u8);
        Write(writer, "x"u8, value.Box.X);
        Write(writer, "y"u8, value.Box.Y);
        Write(writer, "w"u8, value.Box.W);
        Write(writer, "h"u8, value.Box.H);
        writer.WriteEndObject();
        Write(writer, "confidence"u8, value.Confidence);
        writer.WriteEndObject();
    }

    // What is no number, as damaged fonts give it, stands at the edge.
    private static void Write(Utf8JsonWriter writer, ReadOnlySpan<byte> name, double number) =>
        writer.WriteNumber(name, double.IsFinite(number) ? Math.Round(number, Places) : 0);
}
