using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>The few lines around ADO.NET that every store needs.</summary>
public static class Sql
{
    /// <summary>How designs, records and evidence are written into text columns and design files.</summary>
    public static JsonSerializerOptions Json { get; } =
        new(JsonSerializerDefaults.Web)
        {
            Converters = { new JsonStringEnumConverter() },
            DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
            Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
            // A field's kind stands where its steward or an earlier release wrote it.
            AllowOutOfOrderMetadataProperties = true,
        };

    /// <summary>Runs a statement and returns the number of rows it changed.</summary>
    public static int Execute(this SqliteConnection connection, string sql, params ReadOnlySpan<(string Name, object? Value)> parameters)
    {
        using var command = Command(connection, sql, parameters);
        return command.ExecuteNonQuery();
    }

    /// <summary>The first column of the first row; the default when there is none or it is null.</summary>
    public static T? Scalar<T>(this SqliteConnection connection, string sql, params ReadOnlySpan<(string Name, object? Value)> parameters)
    {
        using var command = Command(connection, sql, parameters);
        var value = command.ExecuteScalar();
        return value is null or DBNull ? default : (T)value;
    }

    /// <summary>All rows, mapped.</summary>
    public static List<T> Query<T>(
        this SqliteConnection connection,
        string sql,
        Func<Row, T> map,
        params ReadOnlySpan<(string Name, object? Value)> parameters
    )
    {
        using var command = Command(connection, sql, parameters);
        using var reader = command.ExecuteReader();
        var (row, rows) = (new Row(reader, sql), new List<T>());
        while (reader.Read())
            rows.Add(map(row));
        return rows;
    }

    /// <summary>Rows, mapped, as they come; the connection is busy until the last one is had or given up.</summary>
    internal static IEnumerable<T> Stream<T>(
        this SqliteConnection connection,
        string sql,
        Func<Row, T> map,
        IReadOnlyList<(string Name, object? Value)> parameters
    )
    {
        using var command = Command(connection, sql, [.. parameters]);
        using var reader = command.ExecuteReader();
        var row = new Row(reader, sql);
        while (reader.Read())
            yield return map(row);
    }

    /// <summary>A value as JSON text.</summary>
    public static string ToJson<T>(T value) => JsonSerializer.Serialize(value, Json);

    /// <summary>Whether two values are kept alike: what is saved as it was is not written, told of or taken back.</summary>
    public static bool AreSame<T>(T one, T other) => ToJson(one) == ToJson(other);

    /// <summary>A state as it is kept: the words of its name in small letters, such as <c>given up</c>.</summary>
    public static string Code<T>(T value)
        where T : struct, Enum => Codes<T>.Of[value];

    /// <summary>The state that <see cref="Code{T}"/> wrote.</summary>
    internal static T OfCode<T>(string code)
        where T : struct, Enum => Codes<T>.ByCode[code];

    private static class Codes<T>
        where T : struct, Enum
    {
        public static readonly Dictionary<T, string> Of = Enum.GetValues<T>()
            .ToDictionary(
                v => v,
                v => string.Concat(v.ToString().Select((ch, i) => char.IsUpper(ch) && i > 0 ? $" {ch}" : $"{ch}")).ToLowerInvariant()
            );

        public static readonly Dictionary<string, T> ByCode = Of.ToDictionary(p => p.Value, p => p.Key, StringComparer.Ordinal);
    }

    /// <summary>A moment as it is kept and shown: UTC, to the minute.</summary>
    public static string Stamp(DateTimeOffset at) => new Instant(at).ToString();

    /// <summary>A day as it is kept, ISO 8601; null stays null.</summary>
    public static string? Day(DateOnly? day) => day?.ToString("O", CultureInfo.InvariantCulture);

    [ThreadStatic]
    private static Action<string>? _listener;

    /// <summary>Tells every statement that this thread makes, until it is disposed of; for tests of query plans.</summary>
    internal static IDisposable ListenToStatements(Action<string> heard)
    {
        _listener = heard;
        return new StatementListener();
    }

    private sealed class StatementListener : IDisposable
    {
        public void Dispose() => _listener = null;
    }

    /// <summary>A statement with its parameters.</summary>
    public static SqliteCommand Command(SqliteConnection connection, string sql, ReadOnlySpan<(string Name, object? Value)> parameters)
    {
        _listener?.Invoke(sql);
        var command = connection.CreateCommand();
        command.CommandText = sql;
        foreach (var (name, value) in parameters)
            command.Parameters.AddWithValue(name, value ?? DBNull.Value);
        return command;
    }
}
