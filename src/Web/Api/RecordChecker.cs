using System.Buffers;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Encodings.Web;
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
public sealed record CheckAnswer(
    bool Ok,
    IReadOnlyList<ProblemAnswer> Problems,
    Dictionary<string, object?> Record,
    string Folder,
    string Name
);

/// <summary>One problem.</summary>
/// <param name="Field">Key of the field; null for the record.</param>
/// <param name="Code">Stable code.</param>
/// <param name="Level">must or should.</param>
/// <param name="Message">In words.</param>
public sealed record ProblemAnswer(string? Field, string Code, string Level, string Message);

/// <summary>
/// Reads records from JSON, has the engine judge them a chunk at a time, and writes the answers. Keeps its buffers from chunk to chunk; not
/// thread-safe, so that several work side by side on chunks of one request.
/// </summary>
/// <param name="type">The type as the person may have it judged.</param>
/// <param name="connection">An open connection of its own.</param>
/// <param name="now">What surrounds the records.</param>
/// <param name="language">Language of the messages.</param>
internal sealed class RecordChecker(CompiledType type, SqliteConnection connection, CheckContext now, string language) : IDisposable
{
    // Of one line, and of a record in a body that has been parsed as a whole.
    private const int DeepestLine = 32,
        DeepestRecord = 64;

    private readonly JsonEncodedText[] _names =
    [
        .. type.Type.Fields.Select(f => JsonEncodedText.Encode(f.Key, JavaScriptEncoder.UnsafeRelaxedJsonEscaping)),
    ];
    private readonly List<Slot> _slots = [];
    private readonly List<JudgedRecord> _judged = [];
    private readonly SpelledFolders _folders = new();
    private readonly ArrayBufferWriter<byte> _answer = new(4_096);
    private readonly Utf8JsonWriter _writer = new(
        Stream.Null,
        new JsonWriterOptions { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping, SkipValidation = true }
    );

    // One record of the chunk: read and to be judged, or refused in words.
    private sealed class Slot(int width)
    {
        public JudgedRecord Record { get; } = new(width);

        public List<Problem> Unread { get; } = [];

        public string? Refusal { get; set; }

        /// <summary>Line or Record, and its number.</summary>
        public (string What, int Number) Name { get; set; }
    }

    /// <summary>Checks the records of one JSON array that has been parsed.</summary>
    /// <param name="records">The array.</param>
    /// <param name="output">Where the answer goes.</param>
    public void CheckAll(JsonElement records, IBufferWriter<byte> output)
    {
        output.Write("{\"results\":["u8);
        var (number, written) = (0, 0);
        foreach (var chunk in records.EnumerateArray().Chunk(RecordChunk.MostRecords))
        {
            for (var i = 0; i < chunk.Length; i++)
                Read(i, JsonMarshal.GetRawUtf8Value(chunk[i]), "Record", ++number, DeepestRecord);
            Judge(chunk.Length);
            for (var i = 0; i < chunk.Length; i++)
            {
                if (written++ > 0)
                    output.Write(","u8);
                Answer(_slots[i], output);
            }
        }
        output.Write("]}"u8);
    }

    /// <summary>Checks the lines of a chunk; a line that is no JSON object gets an answer that says so.</summary>
    public void CheckLines(RecordChunk chunk)
    {
        for (var i = 0; i < chunk.Count; i++)
        {
            var (line, number, tooLong) = chunk[i];
            if (tooLong)
                SlotOf(i).Refusal = $"Line {number} is longer than {RecordLines.Longest:N0} bytes.";
            else
                Read(i, line.Span, "Line", number, DeepestLine);
        }
        Judge(chunk.Count);
        for (var i = 0; i < chunk.Count; i++)
        {
            Answer(_slots[i], chunk.Answers);
            chunk.Answers.Write("\n"u8);
        }
    }

    private Slot SlotOf(int at)
    {
        while (_slots.Count <= at)
            _slots.Add(new Slot(type.Width));
        _slots[at].Refusal = null;
        return _slots[at];
    }

    private void Read(int at, ReadOnlySpan<byte> json, string what, int number, int deepest)
    {
        var slot = SlotOf(at);
        slot.Name = (what, number);
        Array.Clear(slot.Record.Texts);
        slot.Unread.Clear();
        try
        {
            var reader = new Utf8JsonReader(json, new JsonReaderOptions { MaxDepth = deepest });
            reader.Read();
            if (reader.TokenType == JsonTokenType.StartObject)
                ReadFields(ref reader, slot);
            else
            {
                reader.Skip();
                slot.Refusal = $"{what} {number} is not a JSON object.";
            }
            // Something behind the record is an error, too.
            reader.Read();
        }
        catch (JsonException e)
        {
            slot.Refusal = e.Message.Contains("depth", StringComparison.Ordinal)
                ? $"{what} {number} is nested too deep."
                : $"{what} {number} is not JSON.";
        }
        // Bytes that are no UTF-8, halves of pairs.
        catch (Exception e) when (e is InvalidOperationException or ArgumentException)
        {
            slot.Refusal = NoUnicode(what, number);
        }
    }

    private static string NoUnicode(string what, int number) => $"{what} {number} holds a text that is not valid Unicode.";

    private void ReadFields(ref Utf8JsonReader reader, Slot slot)
    {
        var expected = 0;
        while (reader.Read() && reader.TokenType == JsonTokenType.PropertyName)
        {
            // Fields mostly come in one order.
            var ordinal =
                expected < _names.Length && reader.ValueTextEquals(_names[expected].EncodedUtf8Bytes)
                    ? expected
                    : type.OrdinalOf(reader.GetString()!);
            var unknown = ordinal < 0 ? reader.GetString() : null;
            reader.Read();
            if (unknown is not null)
            {
                reader.Skip();
                slot.Unread.Add(new Problem(new UnknownField(unknown), Level.Must, unknown));
                continue;
            }
            expected = ordinal + 1;
            var field = type.Type.Fields[ordinal];
            switch (reader.TokenType)
            {
                case JsonTokenType.String:
                    slot.Record.Texts[ordinal] = reader.GetString();
                    break;
                case JsonTokenType.Null:
                    slot.Record.Texts[ordinal] = null;
                    break;
                case JsonTokenType.Number when field.Kind.Measure == Measure.Number:
                    var raw = Encoding.ASCII.GetString(reader.ValueSpan);
                    slot.Record.Texts[ordinal] = JsonNumber.Plain(raw) ?? raw;
                    break;
                default:
                    var value = JsonElement.ParseValue(ref reader);
                    if (Unfit(field, value) is { } problem)
                        slot.Unread.Add(problem);
                    else
                        slot.Record.Texts[ordinal] = TableText.Of(value);
                    break;
            }
        }
    }

    private void Judge(int count)
    {
        _judged.Clear();
        foreach (var slot in CollectionsMarshal.AsSpan(_slots)[..count])
            if (slot.Refusal is null)
                _judged.Add(slot.Record);
        if (_judged.Count > 0)
            RecordJudge.JudgeAll(connection, type, _judged, now, _folders);
    }

    // Booleans are for yes/no, numbers for numbers and amounts, arrays of objects for tables, arrays of texts for several terms.
    private static Problem? Unfit(Field field, JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.Null or JsonValueKind.String => null,
            JsonValueKind.True or JsonValueKind.False when field.Kind.Measure == Measure.Truth => null,
            JsonValueKind.Number when field.Kind.Measure == Measure.Number => null,
            JsonValueKind.Array when field.Kind.IsMultiple && value.EnumerateArray().All(v => v.ValueKind == JsonValueKind.String) => null,
            JsonValueKind.Array when field.Kind.HasRows => UnfitRow(field, value),
            _ => new Problem(new NotAValue(field.Label), Level.Must, field.Key),
        };

    private static Problem? UnfitRow(Field table, JsonElement rows)
    {
        var number = 0;
        foreach (var row in rows.EnumerateArray())
        {
            number++;
            if (row.ValueKind != JsonValueKind.Object)
                return new Problem(new NotOfKind(table.Kind, table.Label), Level.Must, table.Key);
            foreach (var cell in row.EnumerateObject())
                if (table.Columns.FirstOrDefault(c => c.Key == cell.Name) is not { } column)
                    return new Problem(new UnknownColumn(table.Label, cell.Name), Level.Must, table.Key) { Row = number };
                else if (Unfit(column, cell.Value) is { } problem)
                    return problem with { Field = table.Key, Row = number };
        }
        return null;
    }

    // An answer is written whole or, when it holds what cannot be written, as a refusal; never half of one.
    private void Answer(Slot slot, IBufferWriter<byte> output)
    {
        Begin();
        try
        {
            if (slot.Refusal is { } refusal)
                Refuse(refusal);
            else
                Write(slot);
        }
        catch (ArgumentException)
        {
            Begin();
            Refuse(NoUnicode(slot.Name.What, slot.Name.Number));
        }
        _writer.Flush();
        output.Write(_answer.WrittenSpan);
    }

    private void Begin()
    {
        _answer.ResetWrittenCount();
        _writer.Reset(_answer);
    }

    private void Write(Slot slot)
    {
        var record = slot.Record;
        _writer.WriteStartObject();
        _writer.WriteBoolean(
            "ok"u8,
            record.Placement.Problem is not { Level: Level.Must } && !slot.Unread.Exists(IsMust) && !record.Problems.Exists(IsMust)
        );
        _writer.WriteStartArray("problems"u8);
        foreach (var problem in slot.Unread)
            WriteProblem(problem);
        foreach (var problem in record.Problems)
            WriteProblem(problem);
        if (record.Placement.Problem is { } nowhere)
            WriteProblem(nowhere);
        _writer.WriteEndArray();
        _writer.WriteStartObject("record"u8);
        for (var i = 0; i < record.Values.Length; i++)
        {
            if (record.Values[i].IsEmpty)
                continue;
            if (!record.Values[i].IsGood)
                _writer.WriteString(_names[i], record.Values[i].Text);
            else
                WriteValue(_names[i], type.Type.Fields[i], record.Values[i]);
        }
        _writer.WriteEndObject();
        _writer.WriteString("folder"u8, record.Placement.Folder);
        _writer.WriteString("name"u8, record.Placement.Name);
        _writer.WriteEndObject();
    }

    private static bool IsMust(Problem problem) => problem.Level == Level.Must;

    // As the JSON Schema of the type says that a value is written, in a table's cells too.
    private void WriteValue(JsonEncodedText name, Field field, in FieldValue value)
    {
        switch (field.Kind)
        {
            case { IsNumeric: true }:
                _writer.WriteNumber(name, value.Number);
                break;
            case { Measure: Measure.Truth }:
                _writer.WriteBoolean(name, value.Number == 1);
                break;
            case { HasRows: true }:
                _writer.WriteStartArray(name);
                foreach (var row in value.Rows)
                {
                    _writer.WriteStartObject();
                    for (var i = 0; i < row.Length; i++)
                        if (row[i].IsGood)
                            WriteValue(
                                JsonEncodedText.Encode(field.Columns![i].Key, JavaScriptEncoder.UnsafeRelaxedJsonEscaping),
                                field.Columns[i],
                                row[i]
                            );
                        else if (!row[i].IsEmpty)
                            _writer.WriteString(field.Columns![i].Key, row[i].Text);
                    _writer.WriteEndObject();
                }
                _writer.WriteEndArray();
                break;
            case { IsMultiple: true }:
                _writer.WriteStartArray(name);
                foreach (var term in value.Text.Split("; "))
                    _writer.WriteStringValue(term);
                _writer.WriteEndArray();
                break;
            default:
                _writer.WriteString(name, value.Text);
                break;
        }
    }

    private void Refuse(string message)
    {
        _writer.WriteStartObject();
        _writer.WriteBoolean("ok"u8, false);
        _writer.WriteStartArray("problems"u8);
        WriteProblem(null, "not-a-record", Level.Must, message);
        _writer.WriteEndArray();
        _writer.WriteStartObject("record"u8);
        _writer.WriteEndObject();
        _writer.WriteString("folder"u8, "");
        _writer.WriteString("name"u8, "");
        _writer.WriteEndObject();
    }

    private void WriteProblem(Problem problem) => WriteProblem(problem.Field, problem.Code, problem.Level, problem.In(language));

    private void WriteProblem(string? field, string code, Level level, string message)
    {
        _writer.WriteStartObject();
        _writer.WriteString("field"u8, field);
        _writer.WriteString("code"u8, code);
        _writer.WriteString("level"u8, level == Level.Must ? "must"u8 : "should"u8);
        _writer.WriteString("message"u8, message);
        _writer.WriteEndObject();
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _writer.Dispose();
        connection.Dispose();
    }
}
