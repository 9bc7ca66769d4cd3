using ClearLexicon.Storage;

namespace ClearLexicon.Services;

/// <summary>
/// Reads the ledger, and looks whether it is whole. What was found sound in this process is not hashed again at each look; everything is
/// when somebody asks for it.
/// </summary>
public sealed class Ledger(Database database, TimeProvider clock)
{
    private readonly Lock _lock = new();
    private LedgerVerdict? _known;

    /// <summary>Lines that a filter leaves, the newest first, before a number.</summary>
    public List<LedgerEntry> Find(LedgerFilter filter, int count, long before) =>
        database.Read(c => LedgerStore.Find(c, filter, count, before));

    /// <summary>All lines that a filter leaves, the newest first, read in portions.</summary>
    public IEnumerable<LedgerEntry> Each(LedgerFilter filter)
    {
        const int portion = 2_000;
        for (var before = long.MaxValue; Find(filter, portion, before) is { Count: > 0 } lines; before = lines[^1].Seq)
            foreach (var line in lines)
                yield return line;
    }

    /// <summary>Notes that somebody took records out.</summary>
    /// <param name="who">Who.</param>
    /// <param name="what">What, e.g. <c>the ledger as CSV</c>.</param>
    /// <param name="of">What it was of.</param>
    /// <param name="detail">What else is worth knowing.</param>
    public void Exported(string who, string what, LedgerSubject of, string detail = "") =>
        database.Write(c => LedgerStore.Append(c, clock.GetUtcNow(), who, $"exported {what}", of, detail));

    /// <summary>Whether the ledger is whole.</summary>
    /// <param name="fromTheBeginning">Hashes every line again, also those that were found sound before.</param>
    public LedgerVerdict Verify(bool fromTheBeginning = false)
    {
        lock (_lock)
            return _known = database.Read(c => LedgerStore.Verify(c, fromTheBeginning ? null : _known));
    }
}
