using System.Buffers;
using System.Text.Json;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
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
/// <param name="type">The type as the person may have it judged.</param>
/// <param name="connection">An open connection.</param>
/// <param name="now">What surrounds the records.</param>
/// <param name="language">Language of the messages.</param>
internal sealed class RecordChecker(CompiledType type, SqliteConnection connection, Circumstances now, string language)
{
    private static readonly JsonWriterOptions Written = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private static readonly JsonDocumentOptions Read = new() { MaxDepth = 32 };

    private readonly string?[] _texts = new string?[type.Width];
    private readonly List<Problem> _unread = [];
    private readonly ArrayBufferWriter<byte> _answer = new(4_096);

    /// <summary>Checks the records of one JSON array.</summary>
    public void CheckAll(JsonElement records, IBufferWriter<byte> output)
    {
        output.Write("{\"results\":["u8);
        var number = 0;
        foreach (var record in records.EnumerateArray())
        {
            if (number++ > 0) output.Write(","u8);
            Answer($"Record {number}", () => record, output);
        }
        output.Write("]}"u8);
    }

    /// <summary>Checks one line; a line that is no JSON object gets an answer that says so, and the next goes on.</summary>
    /// <param name="line">The line as UTF-8; null when it was too long to be read.</param>
    /// <param name="number">Its number, from 1.</param>
    /// <param name="output">Where the answer goes.</param>
    public void CheckLine(ReadOnlyMemory<byte>? line, int number, IBufferWriter<byte> output)
    {
        JsonDocument? document = null;
        try
        {
            Answer($"Line {number}", () => (document = JsonDocument.Parse(line ?? throw new LineTooLongException(), Read)).RootElement, output);
        }
        finally { document?.Dispose(); }
        output.Write("\n"u8);
    }

    private sealed class LineTooLongException : Exception;

    // An answer is written whole or, when the record cannot be read, as its refusal; never half of one.
    private void Answer(string what, Func<JsonElement> record, IBufferWriter<byte> output)
    {
        string? refusal;
        try
        {
            var element = record();
            refusal = element.ValueKind == JsonValueKind.Object ? null : $"{what} is not a JSON object.";
            if (refusal is null) Judge(element);
        }
        catch (LineTooLongException) { refusal = $"{what} is longer than {RecordLines.Longest:N0} bytes."; }
        catch (JsonException e) { refusal = e.Message.Contains("depth", StringComparison.Ordinal) ? $"{what} is nested too deep." : $"{what} is not JSON."; }
        // Texts are decoded when they are asked for: bytes that are no UTF-8, halves of pairs.
        catch (Exception e) when (e is InvalidOperationException or ArgumentException) { refusal = $"{what} holds a text that is no valid Unicode."; }
        if (refusal is not null) Refuse(refusal);
        output.Write(_answer.WrittenSpan);
    }

    private void Judge(JsonElement record)
    {
        Array.Clear(_texts);
        _unread.Clear();
        foreach (var property in record.EnumerateObject())
        {
            var ordinal = type.OrdinalOf(property.Name);
            if (ordinal < 0) _unread.Add(new Problem("unknown-field", Level.Must, property.Name, property.Name));
            else if (type.Type.Fields[ordinal] is var field && Unfit(field, property.Value) is { } problem) _unread.Add(problem);
            else _texts[ordinal] = FieldReader.TextOf(property.Value);
        }
        var judged = RecordJudge.Judge(connection, type, _texts, 0, now);
        _answer.Clear();
        using var writer = new Utf8JsonWriter(_answer, Written);
        Write(writer, [.. _unread, .. judged.All], judged);
    }

    // Booleans are for yes/no, numbers for numbers and amounts, arrays of objects for tables, arrays of texts for several terms.
    private static Problem? Unfit(Field field, JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.Null or JsonValueKind.String => null,
        JsonValueKind.True or JsonValueKind.False when field.Kind == FieldKind.YesNo => null,
        JsonValueKind.Number when field.Kind is FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Amount => null,
        JsonValueKind.Array when field.Kind == FieldKind.Terms && value.EnumerateArray().All(v => v.ValueKind == JsonValueKind.String) => null,
        JsonValueKind.Array when field.Kind == FieldKind.Table => UnfitRow(field, value),
        _ => new Problem("not-a-value", Level.Must, field.Key, field.Label),
    };

    private static Problem? UnfitRow(Field table, JsonElement rows)
    {
        var number = 0;
        foreach (var row in rows.EnumerateArray())
        {
            number++;
            if (row.ValueKind != JsonValueKind.Object) return new Problem("not-a-table", Level.Must, table.Key, table.Label);
            foreach (var cell in row.EnumerateObject())
                if (table.Columns?.FirstOrDefault(c => c.Key == cell.Name) is not { } column) return new Problem("unknown-column", Level.Must, table.Key, table.Label, cell.Name) { Row = number };
                else if (Unfit(column, cell.Value) is { } problem) return problem with { Field = table.Key, Row = number };
        }
        return null;
    }

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
            else WriteValue(writer, field, value);
        }
        writer.WriteEndObject();
        writer.WriteString("folder", judged.Placement.Folder);
        writer.WriteString("name", judged.Placement.Name);
        writer.WriteEndObject();
    }

    // As the JSON Schema of the type says that a value is written, in a table's cells too.
    private static void WriteValue(Utf8JsonWriter writer, Field field, in FieldValue value)
    {
        switch (field.Kind)
        {
            case FieldKind.Decimal or FieldKind.WholeNumber: writer.WriteNumber(field.Key, value.Number); break;
            case FieldKind.YesNo: writer.WriteBoolean(field.Key, value.Number == 1); break;
            case FieldKind.Table:
                writer.WriteStartArray(field.Key);
                foreach (var row in value.Rows)
                {
                    writer.WriteStartObject();
                    for (var i = 0; i < row.Length; i++)
                        if (row[i].IsGood) WriteValue(writer, field.Columns![i], row[i]);
                        else if (!row[i].IsEmpty) writer.WriteString(field.Columns![i].Key, row[i].Text);
                    writer.WriteEndObject();
                }
                writer.WriteEndArray();
                break;
            case FieldKind.Terms:
                writer.WriteStartArray(field.Key);
                foreach (var term in value.Text.Split("; ")) writer.WriteStringValue(term);
                writer.WriteEndArray();
                break;
            default: writer.WriteString(field.Key, value.Text); break;
        }
    }

    private void Refuse(string message)
    {
        _answer.Clear();
        using var writer = new Utf8JsonWriter(_answer, Written);
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
