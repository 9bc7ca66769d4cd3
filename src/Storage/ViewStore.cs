using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What a view asks and shows.</summary>
public sealed record ViewDefinition
{
    /// <summary>Document type; empty for all.</summary>
    public string Type { get; init; } = "";

    /// <summary>The question, as a sentence (<see cref="Core.Fields.QuestionText"/>).</summary>
    public string Ask { get; init; } = "";

    /// <summary>Words that stand anywhere in the document.</summary>
    public string Anywhere { get; init; } = "";

    /// <summary>Folder, and everything below.</summary>
    public string Folder { get; init; } = "";

    /// <summary>Keys of the fields that are shown, in their order; empty for those that the type shows.</summary>
    public IReadOnlyList<string> Columns { get; init; } = [];

    /// <summary>Key of the field to sort by; empty for none.</summary>
    public string Sort { get; init; } = "";

    /// <summary>Largest first.</summary>
    public bool Descending { get; init; }
}

/// <summary>A saved question to the repository.</summary>
/// <param name="Id">Id.</param>
/// <param name="Owner">Who saved it.</param>
/// <param name="Name">Its name.</param>
/// <param name="SharedWith">The role that sees it too, or <c>everyone</c>; null when only its owner does.</param>
/// <param name="Asks">What it asks and shows.</param>
public sealed record StoredView(long Id, string Owner, string Name, string? SharedWith, ViewDefinition Asks);

/// <summary>Saved views.</summary>
public static class ViewStore
{
    /// <summary>Shared with all who may sign in.</summary>
    public const string Everyone = "everyone";

    private const string Views = "SELECT id, owner, name, shared_with, definition FROM views";

    /// <summary>Views that a person sees, their own first.</summary>
    public static List<StoredView> SeenBy(SqliteConnection c, string who, IReadOnlyList<string> roles) =>
        c.Query(
            Views
                + " WHERE removed_at IS NULL AND (owner = $who OR shared_with IN (SELECT value FROM json_each($roles))) ORDER BY "
                + "owner <> $who, name_key, id LIMIT 200",
            Map,
            ("$who", who),
            ("$roles", Sql.ToJson(roles.Append(Everyone)))
        );

    /// <summary>Keeps a view under a name of its owner, in place of the one that has it.</summary>
    public static long Save(
        SqliteConnection c,
        string owner,
        string name,
        string nameKey,
        string? sharedWith,
        ViewDefinition asks,
        DateTimeOffset at
    ) =>
        c.Scalar<long>(
            """
            INSERT INTO views (owner, name, name_key, shared_with, definition, changed_at) VALUES ($owner, $name, $key, $shared, $asks, $at)
            ON CONFLICT (owner, name_key) DO UPDATE
              SET name = $name, shared_with = $shared, definition = $asks, changed_at = $at, removed_at = NULL
            RETURNING id
            """,
            ("$owner", owner),
            ("$name", name),
            ("$key", nameKey),
            ("$shared", sharedWith),
            ("$asks", Sql.ToJson(asks)),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>Takes a view away, or puts it back.</summary>
    /// <returns>Its name; null when the person has none such.</returns>
    public static string? SetRemoved(SqliteConnection c, long id, string owner, DateTimeOffset? at) =>
        c.Scalar<string>(
            "UPDATE views SET removed_at = $at WHERE id = $id AND owner = $owner RETURNING name",
            ("$id", id),
            ("$owner", owner),
            ("$at", at is { } moment ? Sql.Stamp(moment) : null)
        );

    private static StoredView Map(Row r) =>
        new(r.Long("id"), r.Text("owner"), r.Text("name"), r.TextOrNone("shared_with"), r.FromJson<ViewDefinition>("definition"));
}
