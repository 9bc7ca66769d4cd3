using System.Buffers;
using System.Text.Json;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Services;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Web.Api;

/// <summary>What <c>check</c> takes.</summary>
/// <param name="Records">Objects of field keys and values.</param>
public sealed record CheckRequest(IReadOnlyList<Dictionary<string, object?>> Records);

/// <summary>What <c>check</c> answers.</summary>
/// <param name="Results">One a record, in order.</param>
public sealed record CheckResponse(IReadOnlyList<CheckAnswer> Results);

/// <summary>The verdict on one record.</summary>
/// <param name="Ok">Whether no must-problem stands against it.</param>
/// <param name="Problems">What does not hold.</param>
/// <param name="Record">The cleaned values.</param>
/// <param name="Folder">Folder it would get.</param>
/// <param name="Name">Name it would get, without extension.</param>
public sealed record CheckAnswer(bool Ok, IReadOnlyList<ProblemAnswer> Problems, Dictionary<string, object?> Record, string Folder, string Name);

/// <summary>One problem.</summary>
/// <param name="Field">Key of the field; null for the record.</param>
/// <param name="Code">Stable code.</param>
/// <param name="Level">must or should.</param>
/// <param name="Message">In words.</param>
public sealed record ProblemAnswer(string? Field, string Code, string Level, string Message);

/// <summary>Reads records from JSON, has the engine judge them, and writes the answers; one a request.</summary>
internal sealed class RecordChecker(CompiledType type, SqliteConnection connection, Circumstances now, string language)
{
    private static readonly JsonWriterOptions Written = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private readonly string?[] _texts = new string?[type.Width];
    private readonly List<Problem> _unread = [];

    /// <summary>Checks the records of one JSON array.</summary>
    public void CheckAll(JsonElement records, IBufferWriter<byte> output)
    {
        using var writer = new Utf8JsonWriter(output, Written);
        writer.WriteStartObject();
        writer.WriteStartArray("results");
        foreach (var record in records.EnumerateArray())
        {
            if (record.ValueKind == JsonValueKind.Object) Check(record, writer);
            else Refuse(writer, "A record must be an object.");
        }
        writer.WriteEndArray();
        writer.WriteEndObject();
    }

    /// <summary>Checks one line; a line that is no JSON object gets an answer that says so, and the next goes on.</summary>
    public void CheckLine(string line, int number, IBufferWriter<byte> output)
    {
        using (var writer = new Utf8JsonWriter(output, Written))
        {
            try
            {
                using var document = JsonDocument.Parse(line);
                if (document.RootElement.ValueKind == JsonValueKind.Object) Check(document.RootElement, writer);
                else Refuse(writer, $"Line {number} is not a JSON object.");
            }
            catch (JsonException)
            {
                Refuse(writer, $"Line {number} is not JSON.");
            }
        }
        output.Write("\n"u8);
    }

    private void Check(JsonElement record, Utf8JsonWriter writer)
    {
        Array.Clear(_texts);
        _unread.Clear();
        foreach (var property in record.EnumerateObject())
        {
            var ordinal = type.OrdinalOf(property.Name);
            if (ordinal < 0) _unread.Add(new Problem("unknown-field", Level.Must, property.Name, property.Name));
            else if (!Fits(type.Type.Fields[ordinal].Kind, property.Value.ValueKind)) _unread.Add(new Problem("not-a-value", Level.Must, property.Name, type.Type.Fields[ordinal].Label));
            else _texts[ordinal] = FieldReader.TextOf(property.Value);
        }
        var judged = RecordJudge.Judge(connection, type, _texts, 0, now);
        var problems = _unread.Concat(judged.All).ToList();
        Write(writer, problems, judged);
    }

    // Only tables are arrays of objects, only several terms are arrays of texts.
    private static bool Fits(FieldKind kind, JsonValueKind value) => value switch
    {
        JsonValueKind.Object => false,
        JsonValueKind.Array => kind is FieldKind.Table or FieldKind.Terms,
        _ => true,
    };

    private void Write(Utf8JsonWriter writer, List<Problem> problems, Judgement judged)
    {
        writer.WriteStartObject();
        writer.WriteBoolean("ok", problems.All(p => p.Level == Level.Should));
        writer.WriteStartArray("problems");
        foreach (var p in problems) WriteProblem(writer, p.Field, p.Code, p.Level, p.In(language));
        writer.WriteEndArray();
        writer.WriteStartObject("record");
        for (var i = 0; i < type.Width; i++)
        {
            var (field, value) = (type.Type.Fields[i], judged.Values[i]);
            if (value.IsEmpty) continue;
            if (!value.IsGood) writer.WriteString(field.Key, value.Text);
            else if (field.Kind is FieldKind.Decimal or FieldKind.WholeNumber) writer.WriteNumber(field.Key, value.Number);
            else if (field.Kind == FieldKind.YesNo) writer.WriteBoolean(field.Key, value.Number == 1);
            else if (field.Kind == FieldKind.Table) { writer.WritePropertyName(field.Key); writer.WriteRawValue(value.Text); }
            else if (field.Kind == FieldKind.Terms) { writer.WriteStartArray(field.Key); foreach (var term in value.Text.Split("; ")) writer.WriteStringValue(term); writer.WriteEndArray(); }
            else writer.WriteString(field.Key, value.Text);
        }
        writer.WriteEndObject();
        writer.WriteString("folder", judged.Placement.Folder);
        writer.WriteString("name", judged.Placement.Name);
        writer.WriteEndObject();
    }

    private static void Refuse(Utf8JsonWriter writer, string message)
    {
        writer.WriteStartObject();
        writer.WriteBoolean("ok", false);
        writer.WriteStartArray("problems");
        WriteProblem(writer, null, "not-a-record", Level.Must, message);
        writer.WriteEndArray();
        writer.WriteStartObject("record");
        writer.WriteEndObject();
        writer.WriteString("folder", "");
        writer.WriteString("name", "");
        writer.WriteEndObject();
    }

    private static void WriteProblem(Utf8JsonWriter writer, string? field, string code, Level level, string message)
    {
        writer.WriteStartObject();
        writer.WriteString("field", field);
        writer.WriteString("code", code);
        writer.WriteString("level", level == Level.Must ? "must" : "should");
        writer.WriteString("message", message);
        writer.WriteEndObject();
    }
}
