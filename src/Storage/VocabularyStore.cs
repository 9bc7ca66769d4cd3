using ClearLexicon.Core.Vocabularies;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Vocabularies and their terms.</summary>
public static class VocabularyStore
{
    /// <summary>All vocabularies with their terms, by name.</summary>
    public static List<Vocabulary> All(SqliteConnection c)
    {
        var terms = c.Query("SELECT vocabulary_key, label, variants, code, status FROM terms ORDER BY vocabulary_key, position", r =>
            (Key: r.GetString(0), Term: new Term(r.GetString(1), r.FromJson<string[]>(2), r.Text(3), Enum.Parse<TermStatus>(r.GetString(4)))))
            .ToLookup(t => t.Key, t => t.Term, StringComparer.Ordinal);
        return c.Query("SELECT key, name FROM vocabularies ORDER BY name", r => new Vocabulary(r.GetString(0), r.GetString(1), [.. terms[r.GetString(0)]]));
    }

    /// <summary>Sum of all revisions: changes whenever any vocabulary does.</summary>
    public static long Revision(SqliteConnection c) => c.Scalar<long>("SELECT coalesce(sum(revision), 0) FROM vocabularies");

    /// <summary>Adds a vocabulary; false when its key is taken.</summary>
    public static bool Add(SqliteConnection c, string key, string name) =>
        c.Execute("INSERT INTO vocabularies (key, name) VALUES ($key, $name) ON CONFLICT DO NOTHING", ("$key", key), ("$name", name)) == 1;

    /// <summary>Appends terms at the end.</summary>
    public static void AddTerms(SqliteConnection c, string key, IEnumerable<Term> terms)
    {
        var position = c.Scalar<long>("SELECT coalesce(max(position), 0) FROM terms WHERE vocabulary_key = $key", ("$key", key));
        foreach (var term in terms)
            c.Execute("INSERT INTO terms (vocabulary_key, position, label, variants, code, status) VALUES ($key, $position, $label, $variants, $code, $status)",
                ("$key", key), ("$position", ++position), ("$label", term.Label), ("$variants", Sql.ToJson(term.Variants)), ("$code", term.Code), ("$status", term.Status.ToString()));
        Touch(c, key);
    }

    /// <summary>Retires a term or brings it back.</summary>
    public static void SetStatus(SqliteConnection c, string key, string label, TermStatus status)
    {
        c.Execute("UPDATE terms SET status = $status WHERE vocabulary_key = $key AND label = $label", ("$key", key), ("$label", label), ("$status", status.ToString()));
        Touch(c, key);
    }

    private static void Touch(SqliteConnection c, string key) => c.Execute("UPDATE vocabularies SET revision = revision + 1 WHERE key = $key", ("$key", key));
}
