using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A change of a value.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Before">Text before.</param>
/// <param name="After">Text after.</param>
/// <param name="How">read, picked, typed, overridden …</param>
/// <param name="At">When.</param>
/// <param name="Who">Who.</param>
public sealed record ValueChange(string Field, string Before, string After, string How, Instant At, string Who);

/// <summary>The history of the values of documents.</summary>
public static class ValueHistoryStore
{
    /// <summary>Puts a change of a value into its history.</summary>
    public static void Add(SqliteConnection c, long id, ValueChange change) =>
        c.Execute(
            "INSERT INTO value_history (document_id, field, before, after, how, at, who) "
                + "VALUES ($id, $field, $before, $after, $how, $at, $who)",
            ("$id", id),
            ("$field", change.Field),
            ("$before", change.Before),
            ("$after", change.After),
            ("$how", change.How),
            ("$at", change.At.ToString()),
            ("$who", change.Who)
        );

    /// <summary>The history of a document's values, oldest first.</summary>
    /// <param name="c">Connection.</param>
    /// <param name="id">The document.</param>
    /// <param name="after">Only what came behind a line; 0 for all.</param>
    public static List<ValueChange> Of(SqliteConnection c, long id, long after = 0) =>
        c.Query(
            "SELECT field, before, after, how, at, who FROM value_history WHERE document_id = $id AND id > $after ORDER BY id",
            r => new ValueChange(r.Text("field"), r.Text("before"), r.Text("after"), r.Text("how"), r.Moment("at"), r.Text("who")),
            ("$id", id),
            ("$after", after)
        );

    /// <summary>Whether a field of a document was set after it was read.</summary>
    public static bool IsTouched(SqliteConnection c, long id, string field) =>
        c.Scalar<long>(
            """
            SELECT EXISTS (SELECT 1 FROM value_history WHERE document_id = $id AND field = $field
              AND who <> (SELECT coalesce(reader_key, '') FROM documents WHERE id = $id))
            """,
            ("$id", id),
            ("$field", field)
        ) == 1;
}
