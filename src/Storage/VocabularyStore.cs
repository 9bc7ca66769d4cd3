using ClearLexicon.Core.Vocabularies;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A document whose value followed a term.</summary>
/// <param name="Id">The document.</param>
/// <param name="Field">Key of the field.</param>
/// <param name="Before">Text before.</param>
/// <param name="After">Text after.</param>
public sealed record FollowedDocument(long Id, string Field, string Before, string After);

/// <summary>A change of a vocabulary that can be taken back.</summary>
/// <param name="Id">Id.</param>
/// <param name="Change">What was done.</param>
/// <param name="Before">Terms as they were.</param>
/// <param name="Added">Ids of terms that came new.</param>
/// <param name="Documents">Documents that followed.</param>
public sealed record VocabularyStep(long Id, string Change, IReadOnlyList<Term> Before, IReadOnlyList<string> Added, IReadOnlyList<FollowedDocument> Documents);

/// <summary>Vocabularies, their terms and the history of their changes.</summary>
public static class VocabularyStore
{
    private const int UndoSteps = 50;

    private sealed record More(string? LabelLanguage, string? Note, IReadOnlyDictionary<string, TermWords>? Words, IReadOnlyList<string>? Broader, IReadOnlyList<string>? Related, string? ReplacedBy);

    /// <summary>Keys of all vocabularies with their revisions, by name.</summary>
    public static List<(string Key, long Revision)> Revisions(SqliteConnection c) => c.Query("SELECT key, revision FROM vocabularies ORDER BY name", r => (r.GetString(0), r.GetInt64(1)));

    /// <summary>One vocabulary with its terms, or null.</summary>
    public static Vocabulary? Find(SqliteConnection c, string key) => c.Query("SELECT key, name, growth, language FROM vocabularies WHERE key = $key", r =>
        new Vocabulary(r.GetString(0), r.GetString(1), Terms(c, key)) { Growth = Enum.Parse<Growth>(r.GetString(2)), Language = r.GetString(3) }, ("$key", key)).FirstOrDefault();

    /// <summary>Adds a vocabulary; false when its key is taken.</summary>
    public static bool Add(SqliteConnection c, Vocabulary vocabulary) =>
        c.Execute("INSERT INTO vocabularies (key, name, growth, language) VALUES ($key, $name, $growth, $language) ON CONFLICT DO NOTHING",
            ("$key", vocabulary.Key), ("$name", vocabulary.Name), ("$growth", vocabulary.Growth.ToString()), ("$language", vocabulary.Language)) == 1;

    /// <summary>Sets how a vocabulary grows.</summary>
    public static void SetGrowth(SqliteConnection c, string key, Growth growth)
    {
        c.Execute("UPDATE vocabularies SET growth = $growth WHERE key = $key", ("$key", key), ("$growth", growth.ToString()));
        Touch(c, key);
    }

    /// <summary>Puts terms, new ones at the end.</summary>
    public static void Put(SqliteConnection c, string key, IEnumerable<Term> terms)
    {
        var position = c.Scalar<long>("SELECT coalesce(max(position), 0) FROM terms WHERE vocabulary_key = $key", ("$key", key));
        using var command = Sql.Command(c, """
            INSERT INTO terms (vocabulary_key, id, position, label, variants, code, status, more) VALUES ($key, $id, $position, $label, $variants, $code, $status, $more)
            ON CONFLICT (vocabulary_key, id) DO UPDATE SET label = $label, variants = $variants, code = $code, status = $status, more = $more
            """, [("$key", key), ("$id", ""), ("$position", 0), ("$label", ""), ("$variants", ""), ("$code", null), ("$status", ""), ("$more", "")]);
        foreach (var term in terms)
        {
            command.Parameters["$id"].Value = term.Id;
            command.Parameters["$position"].Value = ++position;
            command.Parameters["$label"].Value = term.Label;
            command.Parameters["$variants"].Value = Sql.ToJson(term.Variants);
            command.Parameters["$code"].Value = (object?)term.Code ?? DBNull.Value;
            command.Parameters["$status"].Value = term.Status.ToString();
            command.Parameters["$more"].Value = Sql.ToJson(new More(term.LabelLanguage, term.Note, term.Words.Count > 0 ? term.Words : null, term.Broader.Count > 0 ? term.Broader : null, term.Related.Count > 0 ? term.Related : null, term.ReplacedBy));
            command.ExecuteNonQuery();
        }
        Touch(c, key);
    }

    /// <summary>Removes terms.</summary>
    public static void Remove(SqliteConnection c, string key, IEnumerable<string> ids)
    {
        foreach (var id in ids) c.Execute("DELETE FROM terms WHERE vocabulary_key = $key AND id = $id", ("$key", key), ("$id", id));
        Touch(c, key);
    }

    /// <summary>Keeps what a change needs to be taken back.</summary>
    public static void Remember(SqliteConnection c, string key, string change, IReadOnlyList<Term> before, IReadOnlyList<string> added, IReadOnlyList<FollowedDocument> documents)
    {
        c.Execute("INSERT INTO vocabulary_history (vocabulary_key, change, before, added, documents) VALUES ($key, $change, $before, $added, $documents)",
            ("$key", key), ("$change", change), ("$before", Sql.ToJson(before)), ("$added", Sql.ToJson(added)), ("$documents", Sql.ToJson(documents)));
        c.Execute("DELETE FROM vocabulary_history WHERE vocabulary_key = $key AND id <= (SELECT max(id) FROM vocabulary_history WHERE vocabulary_key = $key) - $keep", ("$key", key), ("$keep", UndoSteps));
    }

    /// <summary>The newest change that can be taken back, or null.</summary>
    public static VocabularyStep? LastStep(SqliteConnection c, string key) =>
        c.Query("SELECT id, change, before, added, documents FROM vocabulary_history WHERE vocabulary_key = $key ORDER BY id DESC LIMIT 1",
            r => new VocabularyStep(r.GetInt64(0), r.GetString(1), r.FromJson<Term[]>(2), r.FromJson<string[]>(3), r.FromJson<FollowedDocument[]>(4)), ("$key", key)).FirstOrDefault();

    /// <summary>What the newest change was, or null.</summary>
    public static string? LastChange(SqliteConnection c, string key) => c.Scalar<string>("SELECT change FROM vocabulary_history WHERE vocabulary_key = $key ORDER BY id DESC LIMIT 1", ("$key", key));

    /// <summary>Forgets a change that has been taken back.</summary>
    public static void ForgetStep(SqliteConnection c, long id) => c.Execute("DELETE FROM vocabulary_history WHERE id = $id", ("$id", id));

    private static List<Term> Terms(SqliteConnection c, string key) => c.Query("SELECT id, label, variants, code, status, more FROM terms WHERE vocabulary_key = $key ORDER BY position", r =>
    {
        var more = r.GetString(5) is { Length: > 2 } json ? System.Text.Json.JsonSerializer.Deserialize<More>(json, Sql.Json) : null;
        var variants = r.GetString(2);
        return new Term(r.GetString(1), variants == "[]" ? [] : r.FromJson<string[]>(2), r.Text(3), Enum.Parse<TermStatus>(r.GetString(4)))
        {
            Id = r.GetString(0),
            LabelLanguage = more?.LabelLanguage,
            Note = more?.Note,
            Words = more?.Words ?? new Dictionary<string, TermWords>(),
            Broader = more?.Broader ?? [],
            Related = more?.Related ?? [],
            ReplacedBy = more?.ReplacedBy,
        };
    }, ("$key", key));

    private static void Touch(SqliteConnection c, string key) => c.Execute("UPDATE vocabularies SET revision = revision + 1 WHERE key = $key", ("$key", key));
}
