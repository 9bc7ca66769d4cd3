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
/// <param name="Followed">How many values of documents followed.</param>
public sealed record VocabularyStep(long Id, string Change, IReadOnlyList<Term> Before, IReadOnlyList<string> Added, int Followed);

/// <summary>Vocabularies, their terms and the history of their changes.</summary>
public static class VocabularyStore
{
    private const int UndoSteps = 50;

    private sealed record More(
        string? LabelLanguage,
        string? Note,
        IReadOnlyDictionary<string, TermWords>? Words,
        IReadOnlyList<string>? Broader,
        IReadOnlyList<string>? Related,
        string? ReplacedBy
    );

    /// <summary>Keys of all vocabularies with their revisions, by name.</summary>
    public static List<(string Key, long Revision)> Revisions(SqliteConnection c) =>
        c.Query("SELECT key, revision FROM vocabularies ORDER BY name", r => (r.Text("key"), r.Long("revision")));

    /// <summary>One vocabulary with its terms, or null.</summary>
    public static Vocabulary? Find(SqliteConnection c, string key) =>
        c.Query(
                "SELECT key, name, growth, language FROM vocabularies WHERE key = $key",
                r => new Vocabulary(r.Text("key"), r.Text("name"), Terms(c, key))
                {
                    Growth = Enum.Parse<Growth>(r.Text("growth")),
                    Language = r.Text("language"),
                },
                ("$key", key)
            )
            .FirstOrDefault();

    /// <summary>Adds a vocabulary; false when its key is taken.</summary>
    public static bool Add(SqliteConnection c, Vocabulary vocabulary) =>
        c.Execute(
            "INSERT INTO vocabularies (key, name, growth, language) VALUES ($key, $name, $growth, $language) ON CONFLICT DO NOTHING",
            ("$key", vocabulary.Key),
            ("$name", vocabulary.Name),
            ("$growth", vocabulary.Growth.ToString()),
            ("$language", vocabulary.Language)
        ) == 1;

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
        using var command = Sql.Command(
            c,
            """
            INSERT INTO terms (vocabulary_key, id, position, label, variants, code, status, more)
            VALUES ($key, $id, $position, $label, $variants, $code, $status, $more)
            ON CONFLICT (vocabulary_key, id) DO UPDATE SET label = $label, variants = $variants, code = $code, status = $status, more = $more
            """,
            [
                ("$key", key),
                ("$id", ""),
                ("$position", 0),
                ("$label", ""),
                ("$variants", ""),
                ("$code", null),
                ("$status", ""),
                ("$more", ""),
            ]
        );
        foreach (var term in terms)
        {
            command.Parameters["$id"].Value = term.Id;
            command.Parameters["$position"].Value = ++position;
            command.Parameters["$label"].Value = term.Label;
            command.Parameters["$variants"].Value = Sql.ToJson(term.Variants);
            command.Parameters["$code"].Value = (object?)term.Code ?? DBNull.Value;
            command.Parameters["$status"].Value = term.Status.ToString();
            command.Parameters["$more"].Value = Sql.ToJson(
                new More(
                    term.LabelLanguage,
                    term.Note,
                    term.Words.Count > 0 ? term.Words : null,
                    term.Broader.Count > 0 ? term.Broader : null,
                    term.Related.Count > 0 ? term.Related : null,
                    term.ReplacedBy
                )
            );
            command.ExecuteNonQuery();
        }
        Touch(c, key);
    }

    /// <summary>Removes terms.</summary>
    public static void Remove(SqliteConnection c, string key, IEnumerable<string> ids)
    {
        foreach (var id in ids)
            c.Execute("DELETE FROM terms WHERE vocabulary_key = $key AND id = $id", ("$key", key), ("$id", id));
        Touch(c, key);
    }

    /// <summary>Keeps what a change needs to be taken back, and gives its id.</summary>
    public static long Remember(SqliteConnection c, string key, string change, IReadOnlyList<Term> before, IReadOnlyList<string> added)
    {
        var id = c.Scalar<long>(
            "INSERT INTO vocabulary_history (vocabulary_key, change, before, added) VALUES ($key, $change, $before, $added) RETURNING id",
            ("$key", key),
            ("$change", change),
            ("$before", Sql.ToJson(before)),
            ("$added", Sql.ToJson(added))
        );
        // Steps with documents are forgotten by Prune, chunk by chunk.
        c.Execute(
            """
            DELETE FROM vocabulary_history WHERE vocabulary_key = $key AND id <= (SELECT max(id) FROM vocabulary_history
            WHERE vocabulary_key = $key) - $keep
              AND NOT EXISTS (SELECT 1 FROM vocabulary_followed f WHERE f.step_id = vocabulary_history.id)
            """,
            ("$key", key),
            ("$keep", UndoSteps)
        );
        return id;
    }

    /// <summary>Forgets some documents of steps that are too old to be taken back; returns how many.</summary>
    public static int Prune(SqliteConnection c, string key, int most) =>
        c.Execute(
            """
            DELETE FROM vocabulary_followed WHERE (step_id, document_id, field) IN (
              SELECT f.step_id, f.document_id, f.field FROM vocabulary_history h JOIN vocabulary_followed f ON f.step_id = h.id
              WHERE h.vocabulary_key = $key AND h.id <= (SELECT max(id) FROM vocabulary_history WHERE vocabulary_key = $key) - $keep
              LIMIT $most)
            """,
            ("$key", key),
            ("$keep", UndoSteps),
            ("$most", most)
        );

    /// <summary>Keeps that a document followed a step.</summary>
    public static void AddFollowed(SqliteConnection c, long step, FollowedDocument document) =>
        c.Execute(
            "INSERT INTO vocabulary_followed (step_id, document_id, field, before, after) "
                + "VALUES ($step, $id, $field, $before, $after) ON CONFLICT DO UPDATE SET after = $after",
            ("$step", step),
            ("$id", document.Id),
            ("$field", document.Field),
            ("$before", document.Before),
            ("$after", document.After)
        );

    /// <summary>Takes the next documents that followed a step out of its list.</summary>
    public static List<FollowedDocument> TakeFollowed(SqliteConnection c, long step, int most)
    {
        var taken = c.Query(
            "SELECT document_id, field, before, after FROM vocabulary_followed WHERE step_id = $step ORDER BY document_id, field "
                + "LIMIT $most",
            r => new FollowedDocument(r.Long("document_id"), r.Text("field"), r.Text("before"), r.Text("after")),
            ("$step", step),
            ("$most", most)
        );
        foreach (var document in taken)
            c.Execute(
                "DELETE FROM vocabulary_followed WHERE step_id = $step AND document_id = $id AND field = $field",
                ("$step", step),
                ("$id", document.Id),
                ("$field", document.Field)
            );
        return taken;
    }

    /// <summary>Keeps how far documents have followed a step; null when they have all.</summary>
    public static void Reach(SqliteConnection c, long step, string? following, long lastId) =>
        c.Execute(
            "UPDATE vocabulary_history SET following = $following, last_id = $last WHERE id = $step",
            ("$step", step),
            ("$following", following),
            ("$last", lastId)
        );

    /// <summary>How far documents have followed a step.</summary>
    public static long Reached(SqliteConnection c, long step) =>
        c.Scalar<long>("SELECT last_id FROM vocabulary_history WHERE id = $step", ("$step", step));

    /// <summary>The newest change that can be taken back, or null.</summary>
    public static VocabularyStep? LastStep(SqliteConnection c, string key) =>
        c.Query(
                """
                SELECT id, change, before, added, (SELECT count(*) FROM vocabulary_followed f WHERE f.step_id = h.id) AS followed
                FROM vocabulary_history h
                WHERE vocabulary_key = $key AND following IS NOT 'back' ORDER BY id DESC LIMIT 1
                """,
                r => new VocabularyStep(
                    r.Long("id"),
                    r.Text("change"),
                    r.FromJson<Term[]>("before"),
                    r.FromJson<string[]>("added"),
                    r.Int("followed")
                ),
                ("$key", key)
            )
            .FirstOrDefault();

    /// <summary>What the newest change was, or null.</summary>
    public static string? LastChange(SqliteConnection c, string key) =>
        c.Scalar<string>(
            "SELECT change FROM vocabulary_history WHERE vocabulary_key = $key AND following IS NOT 'back' ORDER BY id DESC LIMIT 1",
            ("$key", key)
        );

    /// <summary>Forgets a change that has been taken back.</summary>
    public static void ForgetStep(SqliteConnection c, long id) => c.Execute("DELETE FROM vocabulary_history WHERE id = $id", ("$id", id));

    private static List<Term> Terms(SqliteConnection c, string key) =>
        c.Query(
            "SELECT id, label, variants, code, status, more FROM terms WHERE vocabulary_key = $key ORDER BY position",
            r =>
            {
                var more = r.Text("more") is { Length: > 2 } json
                    ? System.Text.Json.JsonSerializer.Deserialize<More>(json, Sql.Json)
                    : null;
                var variants = r.Text("variants");
                return new Term(
                    r.Text("label"),
                    variants == "[]" ? [] : r.FromJson<string[]>("variants"),
                    r.TextOrNone("code"),
                    Enum.Parse<TermStatus>(r.Text("status"))
                )
                {
                    Id = r.Text("id"),
                    LabelLanguage = more?.LabelLanguage,
                    Note = more?.Note,
                    Words = more?.Words ?? new Dictionary<string, TermWords>(),
                    Broader = more?.Broader ?? [],
                    Related = more?.Related ?? [],
                    ReplacedBy = more?.ReplacedBy,
                };
            },
            ("$key", key)
        );

    private static void Touch(SqliteConnection c, string key) =>
        c.Execute("UPDATE vocabularies SET revision = revision + 1 WHERE key = $key", ("$key", key));
}
