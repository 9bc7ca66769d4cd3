using ClearLexicon.Core.Fields;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>Documents that are set aside on the desk until somebody can complete them.</summary>
public sealed class ParkedDocuments(Database database, TimeProvider clock)
{
    internal const int LongestReason = 200;

    /// <summary>Documents that are set aside, the oldest first, with what they are called.</summary>
    public List<(Parking Parking, StoredDocument Document)> All(string who) => database.Read(c => All(c, who));

    internal static List<(Parking Parking, StoredDocument Document)> All(SqliteConnection c, string who)
    {
        var seen = DeskDocuments.Seen(c, who);
        return ParkingStore.All(c).Select(p => (p, Document: DocumentStore.Find(c, p.Document)!)).Where(p => seen(p.Document)).ToList();
    }

    /// <summary>How a document is set aside; null when it is not.</summary>
    public Parking? Find(long id) => database.Read(c => ParkingStore.Find(c, id));

    /// <summary>Sets a document aside until it can be completed.</summary>
    /// <param name="id">The document.</param>
    /// <param name="reason">Why.</param>
    /// <param name="forWhom">Name of a person, or a role, that completes it; empty for whoever does.</param>
    /// <param name="due">Until when: a day, or empty.</param>
    /// <param name="who">Who sets it aside.</param>
    public Result Park(long id, string reason, string forWhom, string due, string who) =>
        database.Write<Result>(c =>
        {
            if (DeskDocuments.Find(c, id, who) is not { Filed: false })
                return "This document is no longer on the desk.";
            (reason, forWhom) = (reason.Trim(), forWhom.Trim());
            if (reason.Length is 0 or > LongestReason)
                return $"Say why, in up to {LongestReason} characters.";
            if (!WorksThere(c, forWhom))
                return $"“{forWhom}” is not a role, and nobody of that name works at the desk.";
            var today = clock.Today();
            var day = RelativeDate.On(due, today) ?? (FieldParsing.TryDate(due.Trim(), out var date) ? date : null);
            if (due.Trim().Length > 0 && (day is null || day < today))
                return $"“{due.Trim()}” is not a day from today on. Write 2024-03-05, tomorrow, or in 2 weeks.";
            ParkingStore.Park(c, new Parking(id, reason, forWhom, day, clock.Moment(), who));
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "parked",
                LedgerSubject.Document(id),
                forWhom.Length > 0 ? $"{reason} (for {forWhom})" : reason
            );
            return Result.Done;
        });

    // Whether somebody can complete what is parked for them: whoever does, a role, or a person who works at the desk.
    internal static bool WorksThere(SqliteConnection c, string forWhom) =>
        forWhom.Length == 0
        || Roles.All.Contains(forWhom)
        || PeopleStore.Find(c, forWhom)?.Roles.Any(r => r is Roles.Steward or Roles.Indexer) == true;

    /// <summary>Puts a document back among the others on the desk.</summary>
    public Result Release(long id, string who) =>
        database.Write<Result>(c =>
        {
            if (DeskDocuments.Find(c, id, who) is not { Filed: false } || ParkingStore.Find(c, id) is null)
                return "This document is not parked.";
            ParkingStore.Release(c, id);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "took out of the parked", LedgerSubject.Document(id));
            return Result.Done;
        });
}
