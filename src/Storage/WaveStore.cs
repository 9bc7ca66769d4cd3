using ClearLexicon.Core.Vocabularies;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Waves and the records they make.</summary>
public static class WaveStore
{
    /// <summary>Begins to count what a wave does.</summary>
    public static void Begin(SqliteConnection c, long id, long inventoryId) =>
        c.Execute("INSERT INTO waves (id, inventory_id) VALUES ($id, $inventory)", ("$id", id), ("$inventory", inventoryId));

    /// <summary>How many rows a wave has tagged, and how many it has left.</summary>
    public static (long Tagged, long Left) Counts(SqliteConnection c, long id) =>
        c.Query("SELECT tagged, rows_left FROM waves WHERE id = $id", r => (r.Long("tagged"), r.Long("rows_left")), ("$id", id))
            .FirstOrDefault();

    /// <summary>Counts the rows of a chunk that a wave has tagged and left.</summary>
    public static void Reach(SqliteConnection c, long id, int tagged, int left) =>
        c.Execute(
            "UPDATE waves SET tagged = tagged + $tagged, rows_left = rows_left + $left WHERE id = $id",
            ("$id", id),
            ("$tagged", tagged),
            ("$left", left)
        );

    /// <summary>Rows of an inventory that a wave has tagged and not given back, by legacy path.</summary>
    public static HashSet<string> TaggedPaths(SqliteConnection c, long inventoryId) =>
        [
            .. c.Query(
                "SELECT d.legacy_path FROM waves w CROSS JOIN documents d ON d.wave_id = w.id WHERE w.inventory_id = $id",
                r => r.Text("legacy_path"),
                ("$id", inventoryId)
            ),
        ];

    /// <summary>Documents of a wave that a person has changed since; those edits would be lost by undoing it.</summary>
    public static long ChangedSince(SqliteConnection c, long id) =>
        c.Scalar<long>(
            "SELECT count(*) FROM documents d WHERE d.wave_id = $id AND EXISTS (SELECT 1 FROM value_history h WHERE h.document_id = d.id)",
            ("$id", id)
        );

    /// <summary>Documents that do not belong to a wave but are later versions of one of it.</summary>
    public static long LaterVersions(SqliteConnection c, long id) =>
        c.Scalar<long>(
            "SELECT count(*) FROM documents v JOIN documents d ON d.id = v.version_of WHERE v.version_of IS NOT NULL "
                + "AND d.wave_id = $id AND v.wave_id IS NOT $id",
            ("$id", id)
        );

    /// <summary>How many records of a wave are there.</summary>
    public static long Count(SqliteConnection c, long id) =>
        c.Scalar<long>("SELECT count(*) FROM documents WHERE wave_id = $id", ("$id", id));

    /// <summary>
    /// Takes the newest records of a wave away, later versions before those they follow; those that a person has changed stay.
    /// </summary>
    /// <returns>How many were looked at and how many were removed, and the smallest id that was looked at.</returns>
    public static (int Looked, int Removed, long Last) RemoveDocuments(SqliteConnection c, long id, long below, int most)
    {
        var ids = c.Query(
            "SELECT id, EXISTS (SELECT 1 FROM value_history h WHERE h.document_id = d.id) AS changed, folder, type_code FROM documents d "
                + "WHERE wave_id = $wave AND id < $below ORDER BY id DESC LIMIT $most",
            r => (Id: r.Long("id"), Changed: r.Flag("changed"), Folder: r.Text("folder"), Type: r.Text("type_code")),
            ("$wave", id),
            ("$below", below),
            ("$most", most)
        );
        using var text = Sql.Command(c, "DELETE FROM document_text WHERE rowid = $id", [("$id", 0L)]);
        using var document = Sql.Command(c, "DELETE FROM documents WHERE id = $id", [("$id", 0L)]);
        foreach (var (one, changed, _, _) in ids)
        {
            if (changed)
                continue;
            text.Parameters["$id"].Value = document.Parameters["$id"].Value = one;
            text.ExecuteNonQuery();
            document.ExecuteNonQuery();
        }
        var removed = ids.Where(d => !d.Changed).ToList();
        foreach (var folder in removed.GroupBy(d => d.Folder, StringComparer.Ordinal))
            FolderStore.Count(c, folder.Key, -folder.Count());
        foreach (var type in removed.GroupBy(d => d.Type, StringComparer.Ordinal))
            FolderStore.CountType(c, type.Key, -type.Count());
        return (ids.Count, removed.Count, ids.Count > 0 ? ids[^1].Id : 0);
    }
}

/// <summary>Writes the records of a wave with prepared statements, inside the caller's transaction.</summary>
public sealed class WaveWriter : IDisposable
{
    private readonly SqliteCommand _document,
        _text,
        _key;
    private readonly FoundWriter _found;
    private readonly SqliteConnection _c;
    private readonly string _typeCode;
    private readonly Dictionary<string, int> _folders = new(StringComparer.Ordinal);

    /// <summary>Prepares for one wave.</summary>
    public WaveWriter(SqliteConnection c, FoundCache known, long waveId, string typeCode, int version, string who, DateTimeOffset at)
    {
        (_c, _typeCode, _found) = (c, typeCode, new FoundWriter(c, known));
        _document = Sql.Command(
            c,
            """
            INSERT INTO documents (state, type_code, version, source_name, record, evidence, overrides, folder, name, filed_at, filed_by, wave_id, legacy_path, place_key, naming)
            VALUES ('filed', $type, $version, $source, $record, '{}', $overrides, $folder, $name, $at, $who, $wave, $legacy, $key, $naming)
            """,
            [
                ("$type", typeCode),
                ("$version", version),
                ("$source", ""),
                ("$record", ""),
                ("$overrides", ""),
                ("$folder", ""),
                ("$name", ""),
                ("$at", Sql.Stamp(at)),
                ("$who", who),
                ("$wave", waveId),
                ("$legacy", ""),
                ("$key", ""),
                ("$naming", ""),
            ]
        );
        _text = Sql.Command(
            c,
            "INSERT INTO document_text (rowid, body, restricted) VALUES ($id, $body, $restricted)",
            [("$id", 0L), ("$body", ""), ("$restricted", "")]
        );
        _key = Sql.Command(
            c,
            "INSERT OR IGNORE INTO unique_keys (type_code, rule_id, key, document_id) VALUES ($type, $rule, $key, $id)",
            [("$type", typeCode), ("$rule", ""), ("$key", ""), ("$id", 0L)]
        );
        _document.Prepare();
        _text.Prepare();
        _key.Prepare();
    }

    /// <summary>Writes one record.</summary>
    public void Add(
        string sourceName,
        string legacyPath,
        string record,
        string overrides,
        string folder,
        string name,
        string body,
        string restricted,
        Naming naming,
        IEnumerable<(string RuleId, string Key)> keys,
        IEnumerable<(string Field, object Key)> found
    )
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
        _document.ExecuteNonQuery();
        var id = SQLitePCL.raw.sqlite3_last_insert_rowid(_c.Handle);
        _text.Parameters["$id"].Value = id;
        _text.Parameters["$body"].Value = Folding.Fold(body);
        _text.Parameters["$restricted"].Value = Folding.Fold(restricted);
        _text.ExecuteNonQuery();
        foreach (var (rule, key) in keys)
        {
            _key.Parameters["$rule"].Value = rule;
            _key.Parameters["$key"].Value = key;
            _key.Parameters["$id"].Value = id;
            _key.ExecuteNonQuery();
        }
        _found.Add(id, _typeCode, found);
        _folders[folder] = _folders.GetValueOrDefault(folder) + 1;
    }

    /// <summary>Counts what was written; call once, at the end.</summary>
    public void Count()
    {
        foreach (var (folder, documents) in _folders)
            FolderStore.Count(_c, folder, documents);
        FolderStore.CountType(_c, _typeCode, _folders.Values.Sum());
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _document.Dispose();
        _text.Dispose();
        _key.Dispose();
        _found.Dispose();
    }
}
