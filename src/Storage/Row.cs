using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text.Json;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>
/// A row of a statement's answer, read by the names of its columns, so that a column can be added in the middle of a statement. Where each
/// one stands is looked up once a statement, not once an answer.
/// </summary>
/// <exception cref="KeyNotFoundException">Thrown by every reading: the statement has no column of that name.</exception>
public sealed class Row
{
    // By the statement's text itself, not by what it says: one that is put together each time is forgotten with it.
    private static readonly ConditionalWeakTable<string, Dictionary<string, int>> Statements = [];

    private readonly SqliteDataReader _reader;
    private readonly Dictionary<string, int> _columns;

    /// <summary>The row at which a reader stands, and each one it goes on to.</summary>
    internal Row(SqliteDataReader reader, string statement)
    {
        _reader = reader;
        _columns = Statements.GetValue(
            statement,
            _ => Enumerable.Range(0, reader.FieldCount).ToDictionary(reader.GetName, StringComparer.Ordinal)
        );
    }

    /// <summary>The names of its columns.</summary>
    public IReadOnlyCollection<string> Columns => _columns.Keys;

    /// <summary>Whether a column is null.</summary>
    public bool IsNull(string column) => _reader.IsDBNull(_columns[column]);

    /// <summary>A text.</summary>
    public string Text(string column) => _reader.GetString(_columns[column]);

    /// <summary>A text, or null.</summary>
    public string? TextOrNone(string column) => IsNull(column) ? null : Text(column);

    /// <summary>A whole number.</summary>
    public int Int(string column) => _reader.GetInt32(_columns[column]);

    /// <summary>A whole number, or null.</summary>
    public int? IntOrNone(string column) => IsNull(column) ? null : Int(column);

    /// <summary>A long whole number, such as an id.</summary>
    public long Long(string column) => _reader.GetInt64(_columns[column]);

    /// <summary>A long whole number, or null.</summary>
    public long? LongOrNone(string column) => IsNull(column) ? null : Long(column);

    /// <summary>A number with a fraction.</summary>
    public double Double(string column) => _reader.GetDouble(_columns[column]);

    /// <summary>Whether the column holds 1.</summary>
    public bool Flag(string column) => _reader.GetBoolean(_columns[column]);

    /// <summary>Bytes.</summary>
    public byte[] Bytes(string column) => _reader.GetFieldValue<byte[]>(_columns[column]);

    /// <summary>Whatever the column holds: a long, a double, a text, bytes, or <see cref="DBNull"/>.</summary>
    public object Value(string column) => _reader.GetValue(_columns[column]);

    /// <summary>What is kept as JSON; taken as it is stored, in UTF-8, since pages are long.</summary>
    public T FromJson<T>(string column) => JsonSerializer.Deserialize<T>(Bytes(column), Sql.Json)!;

    /// <summary>What is kept as JSON, or null.</summary>
    public T? FromJsonOrNone<T>(string column)
        where T : class => IsNull(column) ? null : FromJson<T>(column);

    /// <summary>A state, see <see cref="Sql.Code{T}(T)"/>.</summary>
    public T Code<T>(string column)
        where T : struct, Enum => Sql.OfCode<T>(Text(column));

    /// <summary>A moment.</summary>
    /// <exception cref="FormatException">The column holds something else.</exception>
    public Instant Moment(string column) => MomentOrNone(column) ?? throw new FormatException($"“{Text(column)}” is no moment.");

    /// <summary>A moment; null when there is none.</summary>
    public Instant? MomentOrNone(string column) => Instant.Read(TextOrNone(column));

    /// <summary>A day; null when there is none.</summary>
    public DateOnly? DayOrNone(string column) =>
        TextOrNone(column) is { } day ? DateOnly.ParseExact(day, "O", CultureInfo.InvariantCulture) : null;
}
