using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Settings of the whole installation.</summary>
public static class SettingStore
{
    /// <summary>A setting, or null.</summary>
    public static string? Find(SqliteConnection c, string key) =>
        c.Scalar<string>("SELECT value FROM settings WHERE key = $key", ("$key", key));

    /// <summary>Keeps a setting.</summary>
    public static void Set(SqliteConnection c, string key, string value) =>
        c.Execute(
            "INSERT INTO settings (key, value) VALUES ($key, $value) ON CONFLICT (key) DO UPDATE SET value = $value",
            ("$key", key),
            ("$value", value)
        );

    /// <summary>Types of which something beside the documents has to be made anew: full text, unique keys, the index of values.</summary>
    public static List<string> Due(SqliteConnection c) =>
        c.Query("SELECT substr(key, 10) AS type FROM settings WHERE key LIKE 'rebuild: %' ORDER BY key", r => r.Text("type"));

    /// <summary>Those among them whose full text may still show what has become restricted.</summary>
    public static List<string> DueByWords(SqliteConnection c) =>
        c.Query(
            "SELECT substr(key, 10) AS type FROM settings WHERE key LIKE 'rebuild: %' AND value = 'due' ORDER BY key",
            r => r.Text("type")
        );

    /// <summary>Notes that those of a type have to be made anew.</summary>
    /// <param name="c">An open transaction.</param>
    /// <param name="typeCode">The type.</param>
    /// <param name="values">Whether only values are not found by yet; what has become restricted is none of it.</param>
    public static void SetDue(SqliteConnection c, string typeCode, bool values = false)
    {
        if (!values || Find(c, $"rebuild: {typeCode}") is null)
            Set(c, $"rebuild: {typeCode}", values ? "values" : "due");
    }

    /// <summary>Those of a type are as they should be.</summary>
    public static void RemoveDue(SqliteConnection c, string typeCode) =>
        c.Execute("DELETE FROM settings WHERE key = $key", ("$key", $"rebuild: {typeCode}"));
}
