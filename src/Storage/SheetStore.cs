using ClearLexicon.Core.Reading.Sheets;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Sheets that were printed here.</summary>
public static class SheetStore
{
    /// <summary>Keeps a print.</summary>
    public static void Add(SqliteConnection c, SheetPrint print, string who, DateTimeOffset at) =>
        c.Execute(
            "INSERT INTO sheet_prints (token, print, made_by, made_at) VALUES ($token, $print, $who, $at)",
            ("$token", print.Token),
            ("$print", Sql.ToJson(print)),
            ("$who", who),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>The newest print, or null.</summary>
    public static SheetPrint? Newest(SqliteConnection c) =>
        c.Query("SELECT print FROM sheet_prints ORDER BY rowid DESC LIMIT 1", r => r.FromJson<SheetPrint>("print")).FirstOrDefault();

    /// <summary>The print with a token, or null.</summary>
    public static SheetPrint? Find(SqliteConnection c, string token) =>
        c.Query("SELECT print FROM sheet_prints WHERE token = $token", r => r.FromJson<SheetPrint>("print"), ("$token", token))
            .FirstOrDefault();
}
