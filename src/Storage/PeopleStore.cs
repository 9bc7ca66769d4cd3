using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Somebody with an account.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">Name, unique regardless of case.</param>
/// <param name="PasswordHash">As ASP.NET Core Identity's hasher writes it.</param>
/// <param name="Role">steward, indexer, searcher or administrator.</param>
/// <param name="Language">Language of the messages they read (BCP 47).</param>
public sealed record Person(long Id, string Name, string PasswordHash, string Role, string Language);

/// <summary>A bearer token of the API. Only its hash is kept.</summary>
/// <param name="Id">Id.</param>
/// <param name="Label">What it is for.</param>
/// <param name="Person">Whose rights it carries.</param>
/// <param name="CreatedAt">When it was made.</param>
public sealed record Token(long Id, string Label, string Person, string CreatedAt);

/// <summary>People and their API tokens.</summary>
public static class PeopleStore
{
    /// <summary>Everybody who can sign in.</summary>
    public static List<Person> All(SqliteConnection c) =>
        c.Query("SELECT id, name, password_hash, role, language FROM people WHERE removed = 0 ORDER BY name", Map);

    /// <summary>The person with a name, or null.</summary>
    public static Person? Find(SqliteConnection c, string name) =>
        c.Query("SELECT id, name, password_hash, role, language FROM people WHERE removed = 0 AND name = $name", Map, ("$name", name)).FirstOrDefault();

    /// <summary>Whether anybody can sign in at all.</summary>
    public static bool Any(SqliteConnection c) => c.Scalar<long>("SELECT count(*) FROM people WHERE removed = 0") > 0;

    /// <summary>Adds a person, or brings a removed one back under the same name.</summary>
    public static void Add(SqliteConnection c, string name, string passwordHash, string role) =>
        c.Execute("INSERT INTO people (name, password_hash, role) VALUES ($name, $hash, $role) ON CONFLICT (name) DO UPDATE SET password_hash = $hash, role = $role, removed = 0",
            ("$name", name), ("$hash", passwordHash), ("$role", role));

    /// <summary>Takes a person's access away; what they did stays in the ledger.</summary>
    public static void Remove(SqliteConnection c, long id)
    {
        c.Execute("UPDATE people SET removed = 1 WHERE id = $id", ("$id", id));
        c.Execute("UPDATE tokens SET revoked = 1 WHERE person_id = $id", ("$id", id));
    }

    /// <summary>Keeps a token's hash.</summary>
    public static void AddToken(SqliteConnection c, long personId, string label, string hash, DateTimeOffset at) =>
        c.Execute("INSERT INTO tokens (person_id, label, hash, created_at) VALUES ($person, $label, $hash, $at)",
            ("$person", personId), ("$label", label), ("$hash", hash), ("$at", at.UtcDateTime.ToString("yyyy-MM-dd")));

    /// <summary>The person a token belongs to, or null.</summary>
    public static Person? ByToken(SqliteConnection c, string hash) =>
        c.Query("SELECT p.id, p.name, p.password_hash, p.role, p.language FROM tokens t JOIN people p ON p.id = t.person_id WHERE t.hash = $hash AND t.revoked = 0 AND p.removed = 0",
            Map, ("$hash", hash)).FirstOrDefault();

    /// <summary>Sets the language of a person's messages.</summary>
    public static void SetLanguage(SqliteConnection c, string name, string language) =>
        c.Execute("UPDATE people SET language = $language WHERE name = $name", ("$name", name), ("$language", language));

    /// <summary>Tokens in use.</summary>
    public static List<Token> Tokens(SqliteConnection c) =>
        c.Query("SELECT t.id, t.label, p.name, t.created_at FROM tokens t JOIN people p ON p.id = t.person_id WHERE t.revoked = 0 ORDER BY t.id",
            r => new Token(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetString(3)));

    /// <summary>Ends a token.</summary>
    public static void Revoke(SqliteConnection c, long id) => c.Execute("UPDATE tokens SET revoked = 1 WHERE id = $id", ("$id", id));

    private static Person Map(SqliteDataReader r) => new(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetString(4));
}
