using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Design;

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
public sealed class Publishing(
    Database database,
    DataFolder folder,
    Designs designs,
    Drafts drafts,
    Carrying carrying,
    Jobs jobs,
    TimeProvider clock
) : IWorksInJobs
{
    private const int Chunk = 1_000;

    private sealed record OfType(string Code);

    private sealed record OfVersion(string Code, int Version);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("look", "Looking at what would change", "design", Look),
            JobKind.Of("recheck", "Checking documents against the new version", "design", Recheck),
        ];

    private static string Address(string code) => $"/Design/Publish/{code}";

    /// <summary>Called before each chunk of checking documents again; tests stop here.</summary>
    internal Action Checkpoint { get; set; } = () => { };

    /// <summary>The last look, when it was at the draft as it is now and at the newest version; null otherwise.</summary>
    public LookedAt? Last(string code) =>
        database.Read(c => ConsequenceStore.Find(c, code)) is { } looked
        && designs.Find(code) is { } state
        && looked.Version == state.Version
        && looked.DraftHash == Hash(designs.Resolve(state.Draft), database.Read(c => CarryStore.Lines(c, code)))
            ? looked
            : null;

    /// <summary>Records that the last look found.</summary>
    public List<AffectedRecord> Affected(string code, int take, int after = 0) =>
        database.Read(c => ConsequenceStore.Rows(c, code, take, after));

    /// <summary>Works out in the background what publishing would do; nothing is changed. Memory does not grow with the records.</summary>
    public Result<Job> StartLook(string code, string who = "")
    {
        if (designs.Find(code) is not { Draft.IsGroup: false })
            return Result<Job>.Not($"There is no document type “{code}”.");
        if (!designs.Published.ContainsKey(code))
            return Result<Job>.Not("Nothing is published yet, so there is nothing that could change.");
        return jobs.Start("look", Designs.Subject(code), Address(code), new OfType(code), who);
    }

    private void Look(Job job, CancellationToken cancel)
    {
        var code = job.Given<OfType>().Code;
        if (designs.Find(code) is not { } state || !designs.Published.TryGetValue(code, out var published))
            throw new RefusedException("Nothing is published here.");
        var whole = designs.Resolve(state.Draft);
        var compiled = new CompiledType(whole, designs.Vocabularies, designs.Tables);
        var lines = database.Read(c => CarryStore.Lines(c, code));
        var carried = new CompiledCarrying(lines, published.Type.Type, whole);
        var judge = new ConsequenceJudge(published.Type, compiled, carried);
        var inventories = database.Read(InventoryStore.All).Where(i => i.Plan?.TypeCode == code).ToList();
        job.Total = database.Read(RepositoryStore.CountByType).GetValueOrDefault(code) + inventories.Sum(i => i.Shape.Rows);
        job.Done = 0;
        database.Write(c => ConsequenceStore.Forget(c, code));
        while (database.Write(c => ConsequenceStore.RemoveRows(c, code, Chunk)) > 0)
            cancel.ThrowIfCancellationRequested();
        var found = new List<AffectedRecord>(Chunk);
        var number = 1;
        void Keep(long? id, string title, (Effect Effect, string Cause, string Before, string After) verdict)
        {
            job.Step();
            if (job.Done % Chunk == 0)
                cancel.ThrowIfCancellationRequested();
            if (verdict.Effect == Effect.None)
                return;
            var after = verdict.Effect == Effect.NewlyFailing ? string.Join(" ", judge.Fresh.Select(p => p.Message)) : verdict.After;
            found.Add(new AffectedRecord(id, title, verdict.Effect, verdict.Cause, verdict.Before, after));
            if (found.Count == Chunk)
                Flush();
        }
        void Flush()
        {
            database.Write(c => ConsequenceStore.Add(c, code, number, found));
            number += found.Count;
            found.Clear();
        }
        // Batch and pages are asked of the database, a million times, only where something is made of them.
        var asks = new[] { published.Type, compiled }.Any(t =>
            t.Convention.UsesSystemValues || t.Type.Fields.Any(f => f.DefaultFrom == DefaultSource.Batch)
        );
        using (var reading = database.Connect())
            RepositoryStore.Each(
                reading,
                code,
                document =>
                {
                    judge.Take(document.Record);
                    var title = $"{document.Folder}/{document.Name}";
                    var filed = asks ? Moves.Around(reading, designs, document) : Moves.Filing(designs, document);
                    Keep(document.Id, title, judge.Judge(filed, title));
                }
            );
        var now = designs.Now(EntryChannel.Migration, "");
        foreach (var inventory in inventories)
            EachRow(inventory, published.Type, compiled, carried, judge, now, Keep);
        Flush();
        var looked = new LookedAt(Hash(whole, lines), published.Version, judge.Finish(), clock.Moment());
        database.Write(c => ConsequenceStore.Set(c, code, looked));
    }

    private void EachRow(
        Inventory inventory,
        CompiledType before,
        CompiledType after,
        CompiledCarrying carried,
        ConsequenceJudge judge,
        CheckContext now,
        Action<long?, string, (Effect, string, string, string)> keep
    )
    {
        var columns = inventory.Shape.Columns;
        var (old, would) = (
            new CompiledPlan(inventory.Plan!, before, columns),
            new CompiledPlan(inventory.Plan!.Carried(carried), after, columns)
        );
        var tagged = database.Read(c => WaveStore.TaggedPaths(c, inventory.Id));
        foreach (var (row, number) in InventoryRows.Of(inventory, folder))
        {
            var path = row[inventory.Shape.PathColumn];
            if (tagged.Contains(path))
                continue;
            old.Fill(row, judge.OldTexts);
            would.Fill(row, judge.NewTexts);
            var title = $"row {number}: {path}";
            keep(null, title, judge.Judge(now with { Original = path }, title));
        }
    }

    /// <summary>Publishes the draft, in one transaction with the job that sees to the documents that exist.</summary>
    /// <param name="code">The type.</param>
    /// <param name="seen">The version that the person saw as the newest.</param>
    /// <param name="existing">What happens to existing documents.</param>
    /// <param name="who">Who.</param>
    public Result<(int Version, int Parked)> Publish(string code, int seen, ForExisting existing, string who)
    {
        if (existing != ForExisting.Keep && Last(code) is null)
            return Result<(int, int)>.Not("The draft or the documents have changed since the consequences were looked at. Look again.");
        // What was looked at is documents as the mapping makes them; checking them as they are would park by another verdict than the one
        // seen.
        if (existing == ForExisting.Recheck && database.Read(c => CarryStore.Lines(c, code)).Count > 0)
            return Result<(int, int)>.Not(
                "The consequences were looked at with the mapping. Carry the documents through, or remove its lines and look again."
            );
        // A look or a run under way holds the type; it would be judged by another version than the one it began with.
        if (jobs.Running(Designs.Subject(code)) is { } running)
            return Result<(int, int)>.Not($"“{running.Title}” is running for this type. Wait until it is finished, or stop it.");
        var parked = 0;
        string? enlisted = null;
        var result = drafts.Publish(
            code,
            who,
            seen,
            (c, version) =>
            {
                if (existing == ForExisting.Recheck)
                {
                    parked = ConsequenceStore.CountFailing(c, code);
                    enlisted = jobs.Enlist(c, "recheck", Designs.Subject(code), Address(code), new OfVersion(code, version), who);
                }
                if (existing == ForExisting.Carry)
                    enlisted = carrying.Begin(c, code, seen, version, who);
                // The next version has a mapping of its own; the run keeps this one.
                CarryStore.SetLines(c, code, []);
                ConsequenceStore.Forget(c, code);
            }
        );
        if (result.Ok && enlisted is not null)
            jobs.Begin(enlisted);
        return result.Ok ? (result.Value.Version, parked) : Result<(int, int)>.Not(result.Problem!);
    }

    // Documents that fail are parked with what was found against them, the others count as checked; chunk by chunk in the order of their
    // ids.
    private void Recheck(Job job, CancellationToken cancel)
    {
        var given = job.Given<OfVersion>();
        job.Total = database.Read(RepositoryStore.CountByType).GetValueOrDefault(given.Code);
        job.Done = 0;
        var size = new ChunkSize();
        int parked = 0,
            passed = 0;
        for (long last = 0; ; )
        {
            cancel.ThrowIfCancellationRequested();
            Checkpoint();
            var chunk = jobs.Chunk(job, size, c => ConsequenceStore.Recheck(c, given.Code, given.Version, last, size.Now));
            if (chunk.Looked == 0)
                break;
            (last, parked, passed) = (chunk.Last, parked + chunk.Parked, passed + chunk.Looked - chunk.Parked);
            job.Done += chunk.Looked;
        }
        database.Write(c =>
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                job.Who,
                $"checked filed documents against version {given.Version}",
                new LedgerSubject(SubjectKind.Type, given.Code),
                $"{passed} pass, {parked} parked"
            )
        );
    }

    /// <summary>Parked documents of a type.</summary>
    public List<StoredDocument> Parked(string code) => database.Read(c => DocumentStore.Parked(c, code));

    // What was looked at: the draft, and the mapping that documents would be carried by.
    private static string Hash(DocumentType type, List<CarryLine> lines) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Sql.ToJson(type) + Sql.ToJson(lines))));
}
