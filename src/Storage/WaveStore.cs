using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A part of an inventory applied together.</summary>
/// <param name="Id">Id.</param>
/// <param name="InventoryId">Its inventory.</param>
/// <param name="State">running, applied or undone.</param>
/// <param name="Tagged">Rows it tagged.</param>
/// <param name="AppliedBy">Who.</param>
/// <param name="AppliedAt">When.</param>
public sealed record Wave(long Id, long InventoryId, string State, long Tagged, string AppliedBy, string AppliedAt);

/// <summary>Waves and the records they make.</summary>
public static class WaveStore
{
    private const string Columns = "SELECT id, inventory_id, state, tagged, applied_by, applied_at FROM waves";

    /// <summary>Waves of an inventory, newest first.</summary>
    public static List<Wave> Of(SqliteConnection c, long inventoryId) => c.Query(Columns + " WHERE inventory_id = $id ORDER BY id DESC", Map, ("$id", inventoryId));

    /// <summary>One wave, or null.</summary>
    public static Wave? Find(SqliteConnection c, long id) => c.Query(Columns + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>Begins a wave.</summary>
    public static long Begin(SqliteConnection c, long inventoryId, string who, DateTimeOffset at) =>
        c.Scalar<long>("INSERT INTO waves (inventory_id, state, applied_by, applied_at) VALUES ($id, 'running', $who, $at) RETURNING id",
            ("$id", inventoryId), ("$who", who), ("$at", Sql.Stamp(at)));

    /// <summary>Ends a wave.</summary>
    public static void SetState(SqliteConnection c, long id, string state, long tagged) =>
        c.Execute("UPDATE waves SET state = $state, tagged = $tagged WHERE id = $id", ("$id", id), ("$state", state), ("$tagged", tagged));

    /// <summary>Rows of an inventory that a wave has tagged and not given back, by legacy path.</summary>
    public static HashSet<string> TaggedPaths(SqliteConnection c, long inventoryId) =>
        [.. c.Query("SELECT d.legacy_path FROM documents d JOIN waves w ON w.id = d.wave_id WHERE w.inventory_id = $id", r => r.GetString(0), ("$id", inventoryId))];

    /// <summary>Whether a person has changed documents of a wave since; those would be lost by undoing it.</summary>
    public static long ChangedSince(SqliteConnection c, long id) =>
        c.Scalar<long>("SELECT count(DISTINCT h.document_id) FROM value_history h JOIN documents d ON d.id = h.document_id WHERE d.wave_id = $id", ("$id", id));

    /// <summary>Takes every record of a wave away again.</summary>
    public static int RemoveDocuments(SqliteConnection c, long id)
    {
        c.Execute("DELETE FROM document_text WHERE rowid IN (SELECT id FROM documents WHERE wave_id = $id)", ("$id", id));
        return c.Execute("DELETE FROM documents WHERE wave_id = $id", ("$id", id));
    }

    private static Wave Map(SqliteDataReader r) => new(r.GetInt64(0), r.GetInt64(1), r.GetString(2), r.GetInt64(3), r.GetString(4), r.GetString(5));
}

/// <summary>Writes the records of a wave with prepared statements, inside the caller's transaction.</summary>
public sealed class WaveWriter : IDisposable
{
    private readonly SqliteCommand _document, _text, _key;

    /// <summary>Prepares for one wave.</summary>
    public WaveWriter(SqliteConnection c, long waveId, string typeCode, int version, string who, DateTimeOffset at)
    {
        _document = Sql.Command(c, """
            INSERT INTO documents (state, type_code, version, source_name, record, evidence, overrides, folder, name, filed_at, filed_by, wave_id, legacy_path, place_key, naming)
            VALUES ('filed', $type, $version, $source, $record, '{}', $overrides, $folder, $name, $at, $who, $wave, $legacy, $key, $naming) RETURNING id
            """,
            [("$type", typeCode), ("$version", version), ("$source", ""), ("$record", ""), ("$overrides", ""), ("$folder", ""), ("$name", ""),
                ("$at", Sql.Stamp(at)), ("$who", who), ("$wave", waveId), ("$legacy", ""), ("$key", ""), ("$naming", "")]);
        _text = Sql.Command(c, "INSERT INTO document_text (rowid, body, restricted) VALUES ($id, $body, $restricted)", [("$id", 0L), ("$body", ""), ("$restricted", "")]);
        _key = Sql.Command(c, "INSERT OR IGNORE INTO unique_keys (type_code, rule_id, key, document_id) VALUES ($type, $rule, $key, $id)",
            [("$type", typeCode), ("$rule", ""), ("$key", ""), ("$id", 0L)]);
        _document.Prepare();
        _text.Prepare();
        _key.Prepare();
    }

    /// <summary>Writes one record.</summary>
    public void Add(string sourceName, string legacyPath, string record, string overrides, string folder, string name, string body, string restricted, Naming naming, IEnumerable<(string RuleId, string Key)> keys)
    {
        var p = _document.Parameters;
        p["$source"].Value = sourceName;
        p["$record"].Value = record;
        p["$overrides"].Value = overrides;
        p["$folder"].Value = folder;
        p["$name"].Value = name;
        p["$legacy"].Value = legacyPath;
        p["$key"].Value = Database.PlaceKey(folder, name);
        p["$naming"].Value = Sql.ToJson(naming);
        var id = (long)_document.ExecuteScalar()!;
        _text.Parameters["$id"].Value = id;
        _text.Parameters["$body"].Value = body;
        _text.Parameters["$restricted"].Value = restricted;
        _text.ExecuteNonQuery();
        foreach (var (rule, key) in keys)
        {
            _key.Parameters["$rule"].Value = rule;
            _key.Parameters["$key"].Value = key;
            _key.Parameters["$id"].Value = id;
            _key.ExecuteNonQuery();
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _document.Dispose();
        _text.Dispose();
        _key.Dispose();
    }
}
