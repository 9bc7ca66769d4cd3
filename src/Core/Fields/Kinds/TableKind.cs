using System.Buffers;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds rows; written as a JSON array of objects.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TableField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Table;

    /// <summary>Columns; each is a field, but not a table.</summary>
    public IReadOnlyList<Field> Columns { get; init; } = [];

    /// <summary>Rules that each row must hold; their fields are the columns.</summary>
    public IReadOnlyList<Rule> RowRules { get; init; } = [];
}

/// <summary>Rows of columns.</summary>
internal sealed class TableKind : FieldKind
{
    /// <summary>Most rows of a table in one record.</summary>
    internal const int MostRows = 2_000;

    private static readonly JsonWriterOptions Written = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    public override string Name => "Table";

    public override string Label => "table";

    public override bool HasRows => true;

    public override Field New(string key, string label) => new TableField(key, label);

    protected override FieldValue Read(string text) => new() { Text = text, State = ValueState.Good };

    internal override Func<string, FieldValue> Reader(
        Field field,
        VocabularyIndex? terms,
        IReadOnlyList<Func<string?, FieldValue>> columns
    ) => text => ReadRows(text, field.Columns, columns);

    private static FieldValue ReadRows(string text, IReadOnlyList<Field> columns, IReadOnlyList<Func<string?, FieldValue>> readers)
    {
        if (TableText.Rows(text) is not { } given || given.Count > MostRows)
            return Unreadable(text);
        var rows = new List<FieldValue[]>(given.Count);
        foreach (var texts in given)
        {
            if (texts.Values.All(string.IsNullOrWhiteSpace))
                continue;
            var row = new FieldValue[columns.Count];
            for (var i = 0; i < row.Length; i++)
                row[i] = readers[i]
                    (
                        texts.GetValueOrDefault(columns[i].Key)
                            ?? (columns[i].DefaultFrom == DefaultSource.Constant ? columns[i].Default : null)
                    );
            if (row.Any(v => !v.IsEmpty))
                rows.Add(row);
        }
        return rows.Count == 0
            ? FieldValue.Empty
            : new FieldValue
            {
                Text = Write(rows, columns),
                Part = rows.ToArray(),
                State = ValueState.Good,
            };
    }

    private static string Write(List<FieldValue[]> rows, IReadOnlyList<Field> columns)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(buffer, Written))
        {
            writer.WriteStartArray();
            foreach (var row in rows)
            {
                writer.WriteStartObject();
                for (var i = 0; i < row.Length; i++)
                    if (!row[i].IsEmpty)
                        writer.WriteString(columns[i].Key, row[i].Text);
                writer.WriteEndObject();
            }
            writer.WriteEndArray();
        }
        return Encoding.UTF8.GetString(buffer.WrittenSpan);
    }

    public override string UnreadableCode => "not-a-table";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"{text} lässt sich nicht als Zeilen lesen.",
            "fr" => $"{text} ne peut pas être lu comme des lignes.",
            _ => $"{text} cannot be read as rows.",
        };

    public override string Key(in FieldValue value) => value.Text;

    public override (string Base, string? Format) Csvw => ("json", null);

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        part.Property["type"] = "array";
        part.Property["maxItems"] = MostRows;
        if (field.Required)
            part.Property["minItems"] = 1;
        part.Property["items"] = part.Rows((TableField)field);
    }
}
