using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>
/// The index by which filed documents are found and sorted by their values. Each value of a field is kept once; its id holds the id of the
/// field, so that a range of ids is a field.
/// </summary>
public static class FoundStore
{
    internal const int FieldShift = 40;

    /// <summary>The id of a field; null when no document of the type has been indexed with it.</summary>
    public static List<long> Fields(SqliteConnection c, string? typeCode, string field) =>
        c.Query(
            "SELECT id FROM found_fields WHERE field = $field AND ($type IS NULL OR type_code = $type)",
            r => r.Long("id"),
            ("$field", field),
            ("$type", typeCode)
        );

    /// <summary>Puts the values of a document into the index in place of those that it had.</summary>
    /// <param name="c">An open transaction.</param>
    /// <param name="documentId">The document.</param>
    /// <param name="typeCode">Its type.</param>
    /// <param name="keys">Keys of fields with the forms that are compared.</param>
    public static void Put(SqliteConnection c, long documentId, string typeCode, IEnumerable<(string Field, object Key)> keys)
    {
        Remove(c, documentId);
        using var writer = new FoundWriter(c, new FoundCache());
        writer.Add(documentId, typeCode, keys);
    }

    /// <summary>Takes a document out of the index.</summary>
    public static void Remove(SqliteConnection c, long documentId) =>
        c.Execute("DELETE FROM found_in WHERE document_id = $id", ("$id", documentId));

    /// <summary>How many filed documents of a type have each value of a field.</summary>
    public static List<(object Key, long Documents)> Counts(SqliteConnection c, string typeCode, string field) =>
        c.Query(
            """
            SELECT v.value, count(*) AS documents FROM found_fields f CROSS JOIN found_values v ON v.field_id = f.id CROSS
            JOIN found_in i ON i.value_id = v.id
            WHERE f.type_code = $type AND f.field = $field GROUP BY v.id
            """,
            r => (r.Value("value"), r.Long("documents")),
            ("$type", typeCode),
            ("$field", field)
        );

    /// <summary>How many of some documents have each value of a field, the commonest first; empty values are not among them.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="documents">Ids of the documents.</param>
    /// <param name="typeCode">Their type.</param>
    /// <param name="field">The field.</param>
    /// <param name="first">How many characters of a value count; 0 for all.</param>
    /// <param name="most">Most values.</param>
    public static List<(string Key, long Documents)> CountsAmong(
        SqliteConnection c,
        IReadOnlyList<long> documents,
        string typeCode,
        string field,
        int first,
        int most
    )
    {
        if (Fields(c, typeCode, field) is not [var id])
            return [];
        var value = first > 0 ? "substr(v.value, 1, $first)" : "v.value";
        return c.Query(
            $"""
            SELECT {value} AS value, count(*) AS documents FROM json_each($ids) s
            CROSS JOIN found_in i ON i.document_id = s.value AND i.value_id > $from AND i.value_id < $to
            CROSS JOIN found_values v ON v.id = i.value_id AND typeof(v.value) = 'text'
            GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT $most
            """,
            r => (r.Text("value"), r.Long("documents")),
            ("$ids", Sql.ToJson(documents)),
            ("$from", id << FieldShift),
            ("$to", (id + 1) << FieldShift),
            ("$first", first),
            ("$most", most)
        );
    }

    /// <summary>The id of a value of a field; null when no document has it.</summary>
    public static long? Value(SqliteConnection c, string typeCode, string field, object key) =>
        c.Query(
                """
                SELECT v.id FROM found_fields f CROSS JOIN found_values v ON v.field_id = f.id AND v.value = $key
                WHERE f.type_code = $type AND f.field = $field
                """,
                r => (long?)r.Long("id"),
                ("$type", typeCode),
                ("$field", field),
                ("$key", key)
            )
            .FirstOrDefault();

    /// <summary>How many filed documents have one of some values; each is counted once.</summary>
    public static long Number(SqliteConnection c, IReadOnlyList<long> values) =>
        c.Scalar<long>(
            $"SELECT count({(values.Count > 1 ? "DISTINCT document_id" : "*")}) FROM found_in WHERE value_id IN (SELECT value FROM "
                + "json_each($values))",
            ("$values", Sql.ToJson(values))
        );

    /// <summary>Whether a document has one of some values.</summary>
    public static bool Has(SqliteConnection c, long documentId, IReadOnlyList<long> values) =>
        c.Scalar<long>(
            "SELECT EXISTS (SELECT 1 FROM json_each($values) v JOIN found_in i ON i.document_id = $id AND i.value_id = v.value)",
            ("$id", documentId),
            ("$values", Sql.ToJson(values))
        ) == 1;

    /// <summary>Removes values that no document has any more, some at a time.</summary>
    /// <returns>The last value that was looked at; null when there are no more.</returns>
    public static long? Sweep(SqliteConnection c, long after, int most)
    {
        var values = c.Query(
            "SELECT id, typeof(value) = 'text' AS is_text, EXISTS (SELECT 1 FROM found_in i WHERE i.value_id = v.id) AS is_used "
                + "FROM found_values v "
                + "WHERE id > $after ORDER BY id LIMIT $most",
            r => (Id: r.Long("id"), Text: r.Flag("is_text"), Used: r.Flag("is_used")),
            ("$after", after),
            ("$most", most)
        );
        foreach (var (id, text, used) in values)
        {
            if (used)
                continue;
            if (text)
                c.Execute(
                    "INSERT INTO found_pieces (found_pieces, rowid, value) SELECT 'delete', id, value FROM found_values WHERE id = $id",
                    ("$id", id)
                );
            c.Execute("DELETE FROM found_values WHERE id = $id", ("$id", id));
        }
        return values.Count > 0 ? values[^1].Id : null;
    }
}

/// <summary>Ids of fields and values that are known already; good as long as no transaction that it was used in is dropped.</summary>
public sealed class FoundCache
{
    // About 20 MB at most; unique values fill it and are forgotten again.
    private const int Most = 100_000;

    internal Dictionary<(string Type, string Field), long> Fields { get; } = [];

    internal Dictionary<(long Field, object Key), long> Values { get; } = [];

    internal void Keep(long field, object key, long id)
    {
        if (Values.Count >= Most)
            Values.Clear();
        Values[(field, key)] = id;
    }
}

/// <summary>Writes values into the index with prepared statements, inside the caller's transaction.</summary>
public sealed class FoundWriter : IDisposable
{
    private readonly SqliteConnection _c;
    private readonly FoundCache _known;
    private readonly Dictionary<long, long> _last = [];
    private readonly SqliteCommand _find,
        _add,
        _pieces,
        _in;

    /// <summary>Prepares the statements.</summary>
    public FoundWriter(SqliteConnection c, FoundCache known)
    {
        (_c, _known) = (c, known);
        _find = Sql.Command(c, "SELECT id FROM found_values WHERE field_id = $field AND value = $value", [("$field", 0L), ("$value", "")]);
        // Ids are given here: RETURNING would have the database keep every page as it was for the statement's sake.
        _add = Sql.Command(
            c,
            "INSERT INTO found_values (id, field_id, value) VALUES ($id, $field, $value)",
            [("$id", 0L), ("$field", 0L), ("$value", "")]
        );
        _pieces = Sql.Command(c, "INSERT INTO found_pieces (rowid, value) VALUES ($id, $value)", [("$id", 0L), ("$value", "")]);
        _in = Sql.Command(
            c,
            "INSERT OR IGNORE INTO found_in (document_id, value_id) VALUES ($document, $value)",
            [("$document", 0L), ("$value", 0L)]
        );
    }

    /// <summary>Adds the values of a document that has none in the index.</summary>
    public void Add(long documentId, string typeCode, IEnumerable<(string Field, object Key)> keys)
    {
        foreach (var (field, key) in keys)
        {
            _in.Parameters["$document"].Value = documentId;
            _in.Parameters["$value"].Value = ValueId(FieldId(typeCode, field), key);
            _in.ExecuteNonQuery();
        }
    }

    private long FieldId(string typeCode, string field)
    {
        if (_known.Fields.TryGetValue((typeCode, field), out var id))
            return id;
        id = _c.Scalar<long>(
            "INSERT INTO found_fields (type_code, field) VALUES ($type, $field) ON CONFLICT DO UPDATE "
                + "SET field = excluded.field RETURNING id",
            ("$type", typeCode),
            ("$field", field)
        );
        return _known.Fields[(typeCode, field)] = id;
    }

    private long NextId(long field)
    {
        if (!_last.TryGetValue(field, out var last))
            last =
                _c.Scalar<long?>(
                    "SELECT id FROM found_values WHERE id > $from AND id < $to ORDER BY id DESC LIMIT 1",
                    ("$from", field << FoundStore.FieldShift),
                    ("$to", (field + 1) << FoundStore.FieldShift)
                )
                ?? field << FoundStore.FieldShift;
        return _last[field] = last + 1;
    }

    private long ValueId(long field, object key)
    {
        // Arrays are compared by place; there is one that stands for nothing.
        if (_known.Values.TryGetValue((field, key), out var id))
            return id;
        _find.Parameters["$field"].Value = _add.Parameters["$field"].Value = field;
        _find.Parameters["$value"].Value = _add.Parameters["$value"].Value = key;
        if (_find.ExecuteScalar() is long known)
            id = known;
        else
        {
            _add.Parameters["$id"].Value = id = NextId(field);
            _add.ExecuteNonQuery();
            if (key is string text)
            {
                _pieces.Parameters["$id"].Value = id;
                _pieces.Parameters["$value"].Value = text;
                _pieces.ExecuteNonQuery();
            }
        }
        _known.Keep(field, key, id);
        return id;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _find.Dispose();
        _add.Dispose();
        _pieces.Dispose();
        _in.Dispose();
    }
}
