using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Somebody with an account.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">Name, unique regardless of case.</param>
/// <param name="PasswordHash">As ASP.NET Core Identity's hasher writes it.</param>
/// <param name="Roles">One or more of steward, indexer, searcher, administrator.</param>
/// <param name="Language">Language of the messages they read (BCP 47).</param>
/// <param name="Stamp">Changes whenever their rights or password do; sessions that carry another one have ended.</param>
/// <param name="OneTimeUntil">Until when their one-time password is good; null when they have a password of their own.</param>
public sealed record Person(
    long Id,
    string Name,
    string PasswordHash,
    IReadOnlyList<string> Roles,
    string Language,
    string Stamp,
    Instant? OneTimeUntil
)
{
    /// <summary>Mail address for notices; empty for none.</summary>
    public string Email { get; init; } = "";

    /// <summary>Time zone (IANA) in which they see times; empty for that of the installation.</summary>
    public string Zone { get; init; } = "";
}

/// <summary>A bearer token of the API. Only its hash is kept.</summary>
/// <param name="Id">Id.</param>
/// <param name="Label">What it is for.</param>
/// <param name="Person">Whose rights it carries.</param>
/// <param name="Made">The day on which it was made, in the zone of the installation.</param>
/// <param name="Scopes">What it may be used for: check, read, bring, design.</param>
/// <param name="Until">The last day on which it works, in the zone of the installation; null for no end.</param>
public sealed record Token(long Id, string Label, string Person, DateOnly Made, IReadOnlyList<string> Scopes, DateOnly? Until);

/// <summary>People and their API tokens.</summary>
public static class PeopleStore
{
    private const string Columns = """
        SELECT p.id, p.name, p.password_hash, (SELECT group_concat(role, ' ') FROM (SELECT role FROM person_roles r
        WHERE r.person_id = p.id ORDER BY role)) AS roles, p.language, p.stamp, p.one_time_until, p.email, p.zone FROM people p
        """;

    /// <summary>Everybody who can sign in.</summary>
    public static List<Person> All(SqliteConnection c) => c.Query(Columns + " WHERE p.removed = 0 ORDER BY p.name", Map);

    /// <summary>The person with a name, or null.</summary>
    public static Person? Find(SqliteConnection c, string name) =>
        c.Query(Columns + " WHERE p.removed = 0 AND p.name = $name", Map, ("$name", name)).FirstOrDefault();

    /// <summary>Whether anybody can sign in at all.</summary>
    public static bool Any(SqliteConnection c) => c.Scalar<long>("SELECT count(*) FROM people WHERE removed = 0") > 0;

    /// <summary>Adds a person, or brings a removed one back under the same name.</summary>
    public static void Add(SqliteConnection c, string name, string passwordHash, IReadOnlyList<string> roles)
    {
        var id = c.Scalar<long>(
            """
            INSERT INTO people (name, password_hash, stamp) VALUES ($name, $hash, lower(hex(randomblob(16))))
            ON CONFLICT (name) DO UPDATE SET name = $name, password_hash = $hash, removed = 0, one_time_until = NULL, stamp = lower(hex(randomblob(16))) RETURNING id
            """,
            ("$name", name),
            ("$hash", passwordHash)
        );
        SetRoles(c, id, roles);
    }

    /// <summary>Sets the roles of a person, which ends their sessions.</summary>
    public static void SetRoles(SqliteConnection c, long id, IReadOnlyList<string> roles)
    {
        c.Execute("DELETE FROM person_roles WHERE person_id = $id", ("$id", id));
        foreach (var role in roles)
            c.Execute("INSERT INTO person_roles (person_id, role) VALUES ($id, $role)", ("$id", id), ("$role", role));
        EndSessions(c, id);
    }

    /// <summary>Sets a password, or a one-time password, which ends the sessions of the person.</summary>
    public static void SetPassword(SqliteConnection c, long id, string hash, Instant? oneTimeUntil)
    {
        c.Execute(
            "UPDATE people SET password_hash = $hash, one_time_until = $until WHERE id = $id",
            ("$id", id),
            ("$hash", hash),
            ("$until", oneTimeUntil?.ToString())
        );
        EndSessions(c, id);
    }

    private static void EndSessions(SqliteConnection c, long id) =>
        c.Execute("UPDATE people SET stamp = lower(hex(randomblob(16))) WHERE id = $id", ("$id", id));

    /// <summary>Takes a person's access away; what they did stays in the ledger.</summary>
    public static void Remove(SqliteConnection c, long id)
    {
        c.Execute("UPDATE people SET removed = 1 WHERE id = $id", ("$id", id));
        c.Execute("UPDATE tokens SET revoked = 1 WHERE person_id = $id", ("$id", id));
        EndSessions(c, id);
    }

    /// <summary>Keeps a token's hash.</summary>
    public static void AddToken(
        SqliteConnection c,
        long personId,
        string label,
        string hash,
        IReadOnlyList<string> scopes,
        DateOnly? until,
        DateOnly today
    ) =>
        c.Execute(
            "INSERT INTO tokens (person_id, label, hash, created_at, scopes, expires_at) "
                + "VALUES ($person, $label, $hash, $at, $scopes, $expires)",
            ("$person", personId),
            ("$label", label),
            ("$hash", hash),
            ("$at", Sql.Day(today)),
            ("$scopes", string.Join(' ', scopes)),
            ("$expires", Sql.Day(until))
        );

    /// <summary>The person a token belongs to and what it may be used for; null when it does not work any more.</summary>
    public static (Person Person, IReadOnlyList<string> Scopes)? ByToken(SqliteConnection c, string hash, DateOnly today)
    {
        var found = c.Query(
                "SELECT p.name, t.scopes FROM tokens t JOIN people p ON p.id = t.person_id WHERE t.hash = $hash AND t.revoked = 0 "
                    + "AND p.removed = 0 AND (t.expires_at IS NULL OR t.expires_at >= $today)",
                r => (Name: r.Text("name"), Scopes: r.Text("scopes")),
                ("$hash", hash),
                ("$today", Sql.Day(today))
            )
            .FirstOrDefault();
        return found.Name is not null && Find(c, found.Name) is { } person ? (person, found.Scopes.Split(' ')) : null;
    }

    /// <summary>Sets the time zone of a person.</summary>
    public static void SetZone(SqliteConnection c, string name, string zone) =>
        c.Execute("UPDATE people SET zone = $zone WHERE name = $name", ("$name", name), ("$zone", zone));

    /// <summary>Sets the language of a person's messages.</summary>
    public static void SetLanguage(SqliteConnection c, string name, string language) =>
        c.Execute("UPDATE people SET language = $language WHERE name = $name", ("$name", name), ("$language", language));

    /// <summary>Sets a person's mail address.</summary>
    public static void SetEmail(SqliteConnection c, string name, string email) =>
        c.Execute("UPDATE people SET email = $email WHERE name = $name", ("$email", email), ("$name", name));

    /// <summary>Tokens in use.</summary>
    public static List<Token> Tokens(SqliteConnection c) =>
        c.Query(
            "SELECT t.id, t.label, p.name, t.created_at, t.scopes, t.expires_at FROM tokens t JOIN people p ON p.id = t.person_id "
                + "WHERE t.revoked = 0 ORDER BY t.id",
            r => new Token(
                r.Long("id"),
                r.Text("label"),
                r.Text("name"),
                r.DayOrNone("created_at")!.Value,
                r.Text("scopes").Split(' '),
                r.DayOrNone("expires_at")
            )
        );

    /// <summary>Ends a token.</summary>
    public static void Revoke(SqliteConnection c, long id) => c.Execute("UPDATE tokens SET revoked = 1 WHERE id = $id", ("$id", id));

    /// <summary>Ends all tokens with a label.</summary>
    public static void RevokeCalled(SqliteConnection c, string label) =>
        c.Execute("UPDATE tokens SET revoked = 1 WHERE label = $label", ("$label", label));

    /// <summary>Ends all tokens of a person.</summary>
    public static int RevokeOf(SqliteConnection c, long person) =>
        c.Execute("UPDATE tokens SET revoked = 1 WHERE person_id = $person AND revoked = 0", ("$person", person));

    /// <summary>Notes that a session has ended, until it would have ended by itself; what has by now is forgotten.</summary>
    public static void EndSession(SqliteConnection c, string id, DateTimeOffset now, DateTimeOffset until)
    {
        c.Execute(
            "DELETE FROM ended_sessions WHERE id IN (SELECT id FROM ended_sessions WHERE until < $now LIMIT 1000)",
            ("$now", Sql.Stamp(now))
        );
        c.Execute("INSERT OR IGNORE INTO ended_sessions (id, until) VALUES ($id, $until)", ("$id", id), ("$until", Sql.Stamp(until)));
    }

    /// <summary>Whether a session has ended.</summary>
    public static bool HasEnded(SqliteConnection c, string id) =>
        c.Scalar<long>("SELECT EXISTS (SELECT 1 FROM ended_sessions WHERE id = $id)", ("$id", id)) == 1;

    /// <summary>Failed sign-ins under a key, and when the last one was.</summary>
    public static (int Count, DateTimeOffset Last) Failures(SqliteConnection c, string key) =>
        c.Query(
                "SELECT count, last_at FROM sign_in_failures WHERE key = $key",
                r => (r.Int("count"), DateTimeOffset.Parse(r.Text("last_at"), System.Globalization.CultureInfo.InvariantCulture)),
                ("$key", key)
            )
            .FirstOrDefault();

    /// <summary>Notes a failed sign-in; those of days before count no more.</summary>
    public static void AddFailure(SqliteConnection c, string key, DateTimeOffset at)
    {
        c.Execute("DELETE FROM sign_in_failures WHERE last_at < $old", ("$old", Moment(at.AddDays(-1))));
        c.Execute(
            "INSERT INTO sign_in_failures (key, count, last_at) VALUES ($key, 1, $at) ON CONFLICT (key) DO UPDATE "
                + "SET count = count + 1, last_at = $at",
            ("$key", key),
            ("$at", Moment(at))
        );
    }

    /// <summary>Forgets failed sign-ins under a key.</summary>
    public static void ForgetFailures(SqliteConnection c, string key) =>
        c.Execute("DELETE FROM sign_in_failures WHERE key = $key", ("$key", key));

    private static string Moment(DateTimeOffset at) =>
        at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.fffZ", System.Globalization.CultureInfo.InvariantCulture);

    private static Person Map(Row r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.Text("password_hash"),
            (r.TextOrNone("roles") ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries),
            r.Text("language"),
            r.Text("stamp"),
            r.MomentOrNone("one_time_until")
        )
        {
            Email = r.Text("email"),
            Zone = r.Text("zone"),
        };
}
