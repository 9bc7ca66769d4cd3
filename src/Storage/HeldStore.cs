using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A value that a person keeps for the next documents of a type.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Text">The value.</param>
/// <param name="Used">Into how many documents it went.</param>
public sealed record HeldValue(string Field, string Text, int Used);

/// <summary>Values that people hold.</summary>
public static class HeldStore
{
    /// <summary>What a person holds for a type.</summary>
    public static List<HeldValue> Of(SqliteConnection c, string who, string typeCode) =>
        c.Query(
            "SELECT field, text, used FROM held_values WHERE who = $who AND type_code = $type ORDER BY field",
            r => new HeldValue(r.Text("field"), r.Text("text"), r.Int("used")),
            ("$who", who),
            ("$type", typeCode)
        );

    /// <summary>Holds a value, in place of one that is held in the field.</summary>
    public static void Hold(SqliteConnection c, string who, string typeCode, string field, string text) =>
        c.Execute(
            "INSERT OR REPLACE INTO held_values (who, type_code, field, text) VALUES ($who, $type, $field, $text)",
            ("$who", who),
            ("$type", typeCode),
            ("$field", field),
            ("$text", text)
        );

    /// <summary>Lets a value go.</summary>
    public static void Release(SqliteConnection c, string who, string typeCode, string field) =>
        c.Execute(
            "DELETE FROM held_values WHERE who = $who AND type_code = $type AND field = $field",
            ("$who", who),
            ("$type", typeCode),
            ("$field", field)
        );

    /// <summary>Counts one document more that a held value went into.</summary>
    public static void Use(SqliteConnection c, string who, string typeCode, string field) =>
        c.Execute(
            "UPDATE held_values SET used = used + 1 WHERE who = $who AND type_code = $type AND field = $field",
            ("$who", who),
            ("$type", typeCode),
            ("$field", field)
        );
}
