using ClearLexicon.Core.Designs;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Mappings between versions of types, as they are drafted.</summary>
public static class CarryStore
{
    /// <summary>The mapping of a type.</summary>
    public static List<CarryLine> Lines(SqliteConnection c, string typeCode) =>
        c.Query("SELECT lines FROM carry_lines WHERE type_code = $type", r => r.FromJson<List<CarryLine>>("lines"), ("$type", typeCode))
            .FirstOrDefault()
        ?? [];

    /// <summary>Keeps the mapping of a type.</summary>
    public static void SetLines(SqliteConnection c, string typeCode, IReadOnlyList<CarryLine> lines) =>
        c.Execute(
            "INSERT INTO carry_lines (type_code, lines) VALUES ($type, $lines) ON CONFLICT (type_code) DO UPDATE SET lines = $lines",
            ("$type", typeCode),
            ("$lines", Sql.ToJson(lines))
        );
}
