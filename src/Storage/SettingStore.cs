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
}
