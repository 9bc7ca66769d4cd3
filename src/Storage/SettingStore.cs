using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Settings of the whole installation.</summary>
public static class SettingStore
{
    /// <summary>A setting, or null.</summary>
    public static string? Find(SqliteConnection c, string key) => c.Scalar<string>("SELECT value FROM settings WHERE key = $key", ("$key", key));

    /// <summary>Keeps a setting.</summary>
    public static void Set(SqliteConnection c, string key, string value) =>
        c.Execute("INSERT INTO settings (key, value) VALUES ($key, $value) ON CONFLICT (key) DO UPDATE SET value = $value", ("$key", key), ("$value", value));

    /// <summary>Types whose full text and unique keys have to be made anew.</summary>
    public static List<string> Due(SqliteConnection c) => c.Query("SELECT substr(key, 10) FROM settings WHERE key LIKE 'rebuild: %' ORDER BY key", r => r.GetString(0));

    /// <summary>Notes that those of a type have to be made anew.</summary>
    public static void SetDue(SqliteConnection c, string typeCode) => Set(c, $"rebuild: {typeCode}", "due");

    /// <summary>Those of a type are as they should be.</summary>
    public static void RemoveDue(SqliteConnection c, string typeCode) => c.Execute("DELETE FROM settings WHERE key = $key", ("$key", $"rebuild: {typeCode}"));
}
