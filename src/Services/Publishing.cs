using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Core.Crosswalks;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Storage;

namespace ClearLexicon.Services;

/// <summary>What happens to documents that exist already when a version is published.</summary>
public enum ForExisting
{
    /// <summary>They keep the version they were checked against until they are next edited.</summary>
    Keep,

    /// <summary>They are checked against the new version at once, and those that fail are parked.</summary>
    Recheck,

    /// <summary>They are carried to the new version by the mapping, then checked, and those that fail are parked.</summary>
    Carry,
}

/// <summary>Shows what publishing a draft would do to what exists, and publishes with that known.</summary>
public sealed class Publishing(Database database, DataFolder folder, Designs designs, Carrying carrying, Jobs jobs, TimeProvider clock)
{
    private const int Chunk = 2_000;

    /// <summary>The last look, when it was at the draft as it is now and at the newest version; null otherwise.</summary>
    public LookedAt? Last(string code) => database.Read(c => ConsequenceStore.Find(c, code)) is { } looked && designs.Find(code) is { } state && looked.Version == state.Version && looked.DraftHash == Hash(designs.Resolve(state.Draft), database.Read(c => CarryStore.Lines(c, code))) ? looked : null;

    /// <summary>Records that the last look found.</summary>
    public List<AffectedRecord> Affected(string code, int take, int after = 0) => database.Read(c => ConsequenceStore.Rows(c, code, take, after));

    /// <summary>Works out in the background what publishing would do; nothing is changed. Memory does not grow with the records.</summary>
    public Result<Job> StartLook(string code)
    {
        if (designs.Find(code) is not { Draft.IsGroup: false } state) return Result<Job>.Not($"There is no document type “{code}”.");
        if (!designs.Published.TryGetValue(code, out var published)) return Result<Job>.Not("Nothing is published yet, so nothing exists that could change.");
        var whole = designs.Resolve(state.Draft);
        return jobs.Start("Looking at what would change", $"/Design/Publish/{code}", (job, cancel) =>
        {
            var compiled = new CompiledType(whole, designs.Vocabularies, designs.Tables);
            var lines = database.Read(c => CarryStore.Lines(c, code));
            var carried = new CompiledCarrying(lines, published.Type.Type, whole);
            var judge = new ConsequenceJudge(published.Type, compiled, carried);
            var inventories = database.Read(InventoryStore.All).Where(i => i.Plan?.TypeCode == code).ToList();
            job.Total = database.Read(RepositoryStore.CountByType).GetValueOrDefault(code) + inventories.Sum(i => i.Shape.Rows);
            database.Write(c => ConsequenceStore.Clear(c, code));
            var found = new List<AffectedRecord>(Chunk);
            var number = 1;
            void Keep(long? id, string title, (Effect Effect, string Cause, string Before, string After) verdict)
            {
                job.Step();
                if (job.Done % Chunk == 0) cancel.ThrowIfCancellationRequested();
                if (verdict.Effect == Effect.None) return;
                var after = verdict.Effect == Effect.NewlyFailing ? string.Join(" ", judge.Fresh.Select(p => p.Message)) : verdict.After;
                found.Add(new AffectedRecord(id, title, verdict.Effect, verdict.Cause, verdict.Before, after));
                if (found.Count == Chunk) Flush();
            }
            void Flush()
            {
                database.Write(c => ConsequenceStore.Add(c, code, number, found));
                number += found.Count;
                found.Clear();
            }
            // Batch and pages are asked of the database, a million times, only where something is made of them.
            var asks = new[] { published.Type, compiled }.Any(t => t.Convention.UsesSystemValues || t.Type.Fields.Any(f => f.DefaultFrom == DefaultSource.Batch));
            using (var reading = database.Connect())
                RepositoryStore.Each(reading, code, document =>
                {
                    judge.Take(document.Record);
                    var title = $"{document.Folder}/{document.Name}";
                    Keep(document.Id, title, judge.Judge(asks ? Moves.Around(reading, document) : Moves.Filing(document), title));
                });
            var now = designs.Now(Door.Migration, "");
            foreach (var inventory in inventories) EachRow(inventory, published.Type, compiled, carried, judge, now, Keep);
            Flush();
            database.Write(c => ConsequenceStore.Set(c, code, new LookedAt(Hash(whole, lines), published.Version, judge.Finish(), Sql.Stamp(clock.GetUtcNow()))));
            return Task.CompletedTask;
        });
    }

    private void EachRow(Inventory inventory, CompiledType before, CompiledType after, CompiledCarrying carried, ConsequenceJudge judge, Circumstances now, Action<long?, string, (Effect, string, string, string)> keep)
    {
        var columns = inventory.Shape.Columns;
        var (old, would) = (new CompiledPlan(inventory.Plan!, before, columns), new CompiledPlan(inventory.Plan!.Carried(carried), after, columns));
        var tagged = database.Read(c => WaveStore.TaggedPaths(c, inventory.Id));
        foreach (var (row, number) in InventoryRows.Of(inventory, folder))
        {
            var path = row[inventory.Shape.PathColumn];
            if (tagged.Contains(path)) continue;
            old.Fill(row, judge.OldTexts);
            would.Fill(row, judge.NewTexts);
            var title = $"row {number}: {path}";
            keep(null, title, judge.Judge(now with { Original = path }, title));
        }
    }

    /// <summary>Publishes the draft, in one transaction with what happens to the documents that exist.</summary>
    /// <param name="code">The type.</param>
    /// <param name="seen">The version that the person saw as the newest.</param>
    /// <param name="existing">What happens to existing documents.</param>
    /// <param name="who">Who.</param>
    public Result<(int Version, int Parked)> Publish(string code, int seen, ForExisting existing, string who)
    {
        if (existing != ForExisting.Keep && Last(code) is null) return Result<(int, int)>.Not("The draft or the documents have changed since the consequences were looked at. Look again.");
        // What was looked at is documents as the mapping makes them; checking them as they are would park by another verdict than the one seen.
        if (existing == ForExisting.Recheck && database.Read(c => CarryStore.Lines(c, code)).Count > 0)
            return Result<(int, int)>.Not("The consequences were looked at with the mapping. Carry the documents through, or remove its lines and look again.");
        var (parked, run) = (0, 0L);
        var result = designs.Publish(code, who, seen, (c, version) =>
        {
            if (existing == ForExisting.Recheck)
            {
                parked = ConsequenceStore.Park(c, code);
                var rechecked = ConsequenceStore.Recheck(c, code, version);
                LedgerStore.Append(c, clock.GetUtcNow(), who, $"checked filed documents against version {version}", code, $"{rechecked} pass, {parked} parked");
            }
            if (existing == ForExisting.Carry) run = carrying.Begin(c, code, seen, version, who);
            // The next version has a mapping of its own; the run keeps this one.
            CarryStore.SetLines(c, code, []);
            ConsequenceStore.Clear(c, code);
        });
        if (result.Ok && run > 0) carrying.Start(run, who);
        return result.Ok ? (result.Value.Version, parked) : Result<(int, int)>.Not(result.Problem!);
    }

    /// <summary>Parked documents of a type.</summary>
    public List<StoredDocument> Parked(string code) => database.Read(c => DocumentStore.Parked(c, code));

    // What was looked at: the draft, and the mapping that documents would be carried by.
    private static string Hash(DocumentType type, List<CarryLine> lines) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Sql.ToJson(type) + Sql.ToJson(lines))));
}
