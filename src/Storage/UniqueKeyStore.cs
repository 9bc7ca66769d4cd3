using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Combinations of values that only one document may have, by the rules that say so.</summary>
public static class UniqueKeyStore
{
    /// <summary>Replaces a document's unique combinations.</summary>
    public static void Set(SqliteConnection c, long id, string typeCode, IEnumerable<(string RuleId, string Key)> keys)
    {
        c.Execute("DELETE FROM unique_keys WHERE document_id = $id", ("$id", id));
        foreach (var (rule, key) in keys)
            c.Execute(
                "INSERT INTO unique_keys (type_code, rule_id, key, document_id) VALUES ($type, $rule, $key, $id)",
                ("$type", typeCode),
                ("$rule", rule),
                ("$key", key),
                ("$id", id)
            );
    }

    /// <summary>
    /// How other documents with the same combination are called. On the desk only earlier documents count, so that of two equal ones the
    /// later is the duplicate; of a record that is not kept (id 0), none on the desk.
    /// </summary>
    public static List<(string Name, long Id)> OthersWith(
        SqliteConnection c,
        string typeCode,
        string ruleId,
        string key,
        long exceptId,
        int most
    ) =>
        c.Query(
            """
            SELECT coalesce(d.name, d.source_name || ' on the desk') AS name, d.id FROM unique_keys k JOIN documents d ON d.id = k.document_id
            WHERE k.type_code = $type AND k.rule_id = $rule AND k.key = $key AND k.document_id <> $id
              AND (d.state = 'filed' OR k.document_id < $id) LIMIT $most
            """,
            r => (r.Text("name"), r.Long("id")),
            ("$type", typeCode),
            ("$rule", ruleId),
            ("$key", key),
            ("$id", exceptId),
            ("$most", most)
        );

    /// <summary>Which of many unique combinations documents have, and the one that has it; null where several do.</summary>
    public static Dictionary<string, long?> Owners(SqliteConnection c, string typeCode, string ruleId, IEnumerable<string?> keys) =>
        c.Query(
                "SELECT key, iif(count(*) = 1, max(document_id), NULL) AS owner FROM unique_keys WHERE type_code = $type "
                    + "AND rule_id = $rule AND key IN (SELECT value FROM json_each($keys)) GROUP BY key",
                r => (Key: r.Text("key"), Owner: r.LongOrNone("owner")),
                ("$type", typeCode),
                ("$rule", ruleId),
                ("$keys", Sql.ToJson(keys.OfType<string>()))
            )
            .ToDictionary(k => k.Key, k => k.Owner, StringComparer.Ordinal);

    /// <summary>All unique combinations of a type, for judging an inventory against them.</summary>
    public static List<(string RuleId, string Key, long DocumentId)> Of(SqliteConnection c, string typeCode) =>
        c.Query(
            "SELECT rule_id, key, document_id FROM unique_keys WHERE type_code = $type",
            r => (r.Text("rule_id"), r.Text("key"), r.Long("document_id")),
            ("$type", typeCode)
        );
}
