using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A document that was set aside on the desk.</summary>
/// <param name="Document">The document.</param>
/// <param name="Reason">Why.</param>
/// <param name="ForWhom">The person or role that completes it.</param>
/// <param name="Due">The last day until which it waits, in the zone of the installation; null for none.</param>
/// <param name="At">Since when.</param>
/// <param name="Who">Who set it aside.</param>
public sealed record Parking(long Document, string Reason, string ForWhom, DateOnly? Due, Instant At, string Who);

/// <summary>Documents that are set aside on the desk.</summary>
public static class ParkingStore
{
    private const string Parkings =
        "SELECT p.document_id, p.reason, p.for_whom, p.due, p.at, p.who FROM parkings p CROSS JOIN documents d ON d.id = "
        + "p.document_id AND d.state = 'desk'";

    /// <summary>All of them, the oldest first.</summary>
    public static List<Parking> All(SqliteConnection c) => c.Query(Parkings + " ORDER BY p.at, p.document_id", Map);

    /// <summary>Ids of all of them.</summary>
    public static HashSet<long> Ids(SqliteConnection c) => [.. c.Query("SELECT document_id FROM parkings", r => r.Long("document_id"))];

    /// <summary>That of one document; null when it is not set aside.</summary>
    public static Parking? Find(SqliteConnection c, long document) =>
        c.Query(Parkings + " WHERE p.document_id = $id", Map, ("$id", document)).FirstOrDefault();

    /// <summary>Sets a document aside.</summary>
    public static void Park(SqliteConnection c, Parking parking) =>
        c.Execute(
            "INSERT OR REPLACE INTO parkings (document_id, reason, for_whom, due, at, who) VALUES ($id, $reason, $for, $due, $at, $who)",
            ("$id", parking.Document),
            ("$reason", parking.Reason),
            ("$for", parking.ForWhom),
            ("$due", Sql.Day(parking.Due)),
            ("$at", parking.At.ToString()),
            ("$who", parking.Who)
        );

    /// <summary>Puts a document back among the others.</summary>
    public static void Release(SqliteConnection c, long document) =>
        c.Execute("DELETE FROM parkings WHERE document_id = $id", ("$id", document));

    private static Parking Map(Row r) =>
        new(r.Long("document_id"), r.Text("reason"), r.Text("for_whom"), r.DayOrNone("due"), r.Moment("at"), r.Text("who"));
}
