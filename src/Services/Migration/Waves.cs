using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Migration;

/// <summary>
/// Waves: the ready rows of an inventory tagged together, chunk by chunk. A wave that was stopped, by a person or by a kill, is gone on
/// with where it was or taken back; others write between its chunks, and what they took meanwhile is seen before a chunk is kept.
/// </summary>
public sealed class Waves : IWorksInJobs
{
    private sealed record OfWave(long Id);

    /// <summary>A ready row with everything that is written of it; the engine's buffers are reused.</summary>
    private sealed record ReadyRow(
        int Number,
        string Path,
        string Record,
        string Overrides,
        Core.Conventions.Placement At,
        int Counter,
        string? CounterKey,
        string Extension,
        string Open,
        string Closed,
        CheckContext Now,
        FieldValue[] Values,
        IReadOnlyList<(string RuleId, string Key)> Keys,
        IReadOnlyList<(string Field, object Key)> Found,
        IReadOnlyList<(string Vocabulary, string Label)> Terms
    );

    private readonly Database _database;
    private readonly DataFolder _folder;
    private readonly Designs _designs;
    private readonly Migrations _migrations;
    private readonly Jobs _jobs;
    private readonly TimeProvider _clock;

    /// <summary>Waves of inventories.</summary>
    public Waves(Database database, DataFolder folder, Designs designs, Migrations migrations, Jobs jobs, TimeProvider clock)
    {
        (_database, _folder, _designs, _migrations, _jobs, _clock) = (database, folder, designs, migrations, jobs, clock);
    }

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("wave", "Applying the wave", "design", Apply) with
            {
                WhenUnfinished = static (c, job) => WaveStore.SetState(c, job.Given<OfWave>().Id, "stopped"),
            },
            JobKind.Of("wave-undo", "Undoing the wave", "design", Undo),
        ];

    /// <summary>Called before each chunk; tests stop here.</summary>
    internal Action Checkpoint { get; set; } = () => { };

    /// <summary>Waves of an inventory, newest first.</summary>
    public List<Wave> Of(long inventoryId) => _database.Read(c => WaveStore.Of(c, inventoryId));

    /// <summary>Tags the ready rows in one wave.</summary>
    /// <param name="inventoryId">The inventory.</param>
    /// <param name="reason">When given, rows with should-problems are taken too, overridden with it.</param>
    /// <param name="who">Who does it.</param>
    public Result<Job> Start(long inventoryId, string? reason, string who)
    {
        if (_migrations.Find(inventoryId) is not { Plan: { } plan } || !_designs.Published.ContainsKey(plan.TypeCode))
            return Result<Job>.Not("Choose first what the rows become.");
        reason = string.IsNullOrWhiteSpace(reason) ? null : reason.Trim();
        return Start(
            "wave",
            inventoryId,
            who,
            c =>
                WaveStore.Of(c, inventoryId).FirstOrDefault(w => w.State is "running" or "stopped" or "undoing") is { } open
                    ? Result<OfWave>.Not($"Wave {open.Id} is not finished. Continue it, or undo it.")
                    : new OfWave(WaveStore.Begin(c, inventoryId, reason, who, _clock.GetUtcNow()))
        );
    }

    /// <summary>Goes on with a wave that was stopped.</summary>
    public Result<Job> Resume(long waveId, string who)
    {
        if (_database.Read(c => WaveStore.Find(c, waveId)) is not { State: "running" or "stopped" } wave)
            return Result<Job>.Not("This wave is not one that was stopped.");
        return Start(
            "wave",
            wave.InventoryId,
            who,
            c =>
            {
                WaveStore.SetState(c, waveId, "running");
                return new OfWave(waveId);
            }
        );
    }

    /// <summary>Takes a wave back completely, or goes on with that.</summary>
    public Result<Job> StartUndo(long waveId, string who)
    {
        if (_database.Read(c => WaveStore.Find(c, waveId)) is not { State: "applied" or "stopped" or "running" or "undoing" } wave)
            return Result<Job>.Not("This wave is not applied.");
        return Start(
            "wave-undo",
            wave.InventoryId,
            who,
            c =>
            {
                if (WaveStore.ChangedSince(c, waveId) is var changed and > 0)
                    return Result<OfWave>.Not(
                        $"{changed:N0} documents of this wave have been edited since; undoing it would lose those edits."
                    );
                if (WaveStore.LaterVersions(c, waveId) is var later and > 0)
                    return Result<OfWave>.Not(
                        $"{later:N0} documents are later versions of documents of this wave; they would lose what they follow."
                    );
                WaveStore.SetState(c, waveId, "undoing");
                return new OfWave(waveId);
            }
        );
    }

    private Result<Job> Start(string kind, long inventoryId, string who, Func<SqliteConnection, Result<OfWave>> begin) =>
        _jobs.Start(kind, Migrations.Subject(inventoryId), Migrations.Address(inventoryId), new OfWave(0), who, begin);

    private void Apply(Job job, CancellationToken cancel)
    {
        var wave = _database.Read(c => WaveStore.Find(c, job.Given<OfWave>().Id))!;
        if (wave.State != "running")
            return;
        var inventory = _migrations.Find(wave.InventoryId)!;
        if (inventory.Plan is not { } plan || !_designs.Published.TryGetValue(plan.TypeCode, out var published))
            throw new RefusedException("The document type of this wave is no longer published.");
        (job.Total, job.Done) = (inventory.Shape.Rows, wave.LastRow);
        if (wave.LastRow == 0)
            _migrations.ClearLeft(inventory.Id);
        var run = new InventoryRun(_database, _folder, _designs, inventory, published, wave.AppliedBy, wave.LastRow);
        var chunk = new Chunk(this, job, wave, published, run);
        foreach (var row in run.Rows())
        {
            chunk.Take(row);
            if (!chunk.IsFull)
                continue;
            cancel.ThrowIfCancellationRequested();
            Checkpoint();
            chunk.Write();
        }
        chunk.Write();
        _database.Write(c =>
        {
            var done = WaveStore.Find(c, wave.Id)!;
            WaveStore.SetState(c, wave.Id, "applied");
            // What the dry run said of rows is done now.
            InventoryStore.SetDryRun(c, inventory.Id, null);
            LedgerStore.Append(
                c,
                _clock.GetUtcNow(),
                job.Who,
                $"applied wave {wave.Id}",
                inventory.Name,
                $"{done.Tagged} rows tagged, {done.Left} left"
            );
        });
    }

    private void Undo(Job job, CancellationToken cancel)
    {
        var wave = _database.Read(c => WaveStore.Find(c, job.Given<OfWave>().Id))!;
        if (wave.State != "undoing")
            return;
        job.Total = _database.Read(c => WaveStore.Count(c, wave.Id));
        job.Done = 0;
        var size = new ChunkSize();
        for (var below = long.MaxValue; ; )
        {
            cancel.ThrowIfCancellationRequested();
            Checkpoint();
            var (looked, _, last) = _jobs.Chunk(job, size, c => WaveStore.RemoveDocuments(c, wave.Id, below, size.Now));
            if (looked == 0)
                break;
            job.Done += looked;
            below = last;
        }
        // Values that nobody has any more would be walked by every sorting.
        for (long? swept = 0; swept is not null; )
        {
            cancel.ThrowIfCancellationRequested();
            swept = _jobs.Chunk(job, size, c => FoundStore.Sweep(c, swept.Value, size.Now));
        }
        _database.Write(c =>
        {
            var stay = WaveStore.Count(c, wave.Id);
            WaveStore.SetState(c, wave.Id, "undone");
            InventoryStore.SetDryRun(c, wave.InventoryId, null);
            LedgerStore.Append(
                c,
                _clock.GetUtcNow(),
                job.Who,
                $"undid wave {wave.Id}",
                $"inventory {wave.InventoryId}",
                $"{job.Done - stay} rows{(stay > 0 ? $", {stay} were edited meanwhile and stay" : "")}"
            );
        });
    }

    /// <summary>Rows that are written in one transaction.</summary>
    private sealed class Chunk(Waves waves, Job job, Wave wave, PublishedType published, InventoryRun run)
    {
        private readonly ChunkSize _size = new();
        private readonly FoundCache _known = new();
        private readonly List<ReadyRow> _ready = [];
        private readonly List<LeftRow> _left = [];
        private long _writesSeen = run.WritesSeen;
        private bool _alone = true;
        private int _rows,
            _last = run.AfterRow;

        public bool IsFull => _rows >= _size.Now;

        public void Take(JudgedRow row)
        {
            _rows++;
            _last = row.Number;
            if (row.Verdict is not { } verdict)
                return;
            if (row.Judged && (verdict == RowVerdict.Ready || verdict == RowVerdict.Questionable && wave.Reason is not null))
                _ready.Add(Ready(row));
            else if (row.Left is { } left)
                _left.Add(left);
        }

        public void Write()
        {
            if (_rows == 0)
                return;
            _writesSeen =
                1
                + waves._jobs.Chunk(
                    job,
                    _size,
                    c =>
                    {
                        var seen = waves._database.Writes;
                        // From the first write of somebody else on, what the engine holds as taken is no longer all.
                        _alone &= seen == _writesSeen;
                        var tagged = 0;
                        using var writer = new WaveWriter(
                            c,
                            _known,
                            wave.Id,
                            published.Type.Type.Code,
                            published.Version,
                            wave.AppliedBy,
                            waves._clock.GetUtcNow()
                        );
                        foreach (var row in _ready)
                        {
                            var (settled, why) = _alone ? (row, null) : Settle(c, row);
                            if (settled is null)
                            {
                                _left.Add(new LeftRow(row.Number, RowVerdict.Held, row.Path, [why!]));
                                continue;
                            }
                            if (settled.CounterKey is { } key)
                                CounterStore.Take(c, key, settled.Counter);
                            writer.Add(
                                DataFolder.SafeName(settled.Path),
                                settled.Path,
                                settled.Record,
                                settled.Overrides,
                                settled.At.Folder,
                                settled.At.Name + settled.Extension,
                                settled.Open,
                                settled.Closed,
                                Placing.Kept(settled.Now, settled.CounterKey is null ? 0 : settled.Counter),
                                settled.Keys,
                                settled.Found
                            );
                            tagged++;
                        }
                        writer.Count();
                        GrowingTerms.Grow(c, _ready.SelectMany(r => r.Terms), wave.AppliedBy, waves._clock);
                        InventoryStore.AddLeftRows(c, wave.InventoryId, _left);
                        WaveStore.Reach(c, wave.Id, _last, tagged, _left.Count);
                        job.Done = _last;
                        return seen;
                    }
                );
            _ready.Clear();
            _left.Clear();
            _rows = 0;
        }

        // A legacy path may tell what its record keeps back.
        private readonly bool _restricts = published.Type.Type.Fields.Any(f => f.Restricted);

        private static readonly Dictionary<string, Evidence> NoEvidence = [];

        private ReadyRow Ready(JudgedRow met)
        {
            var (type, judge) = (published.Type.Type, run.Judge);
            var record = new Dictionary<string, string>(type.Fields.Count);
            List<string> open = [],
                closed = [];
            for (var i = 0; i < type.Fields.Count; i++)
            {
                if (!judge.Values[i].IsGood)
                    continue;
                record[type.Fields[i].Key] = judge.Values[i].Text;
                if (!type.Fields[i].NotSearched)
                    (type.Fields[i].Restricted ? closed : open).Add(FullText.Words(type.Fields[i], judge.Values[i].Text));
            }
            (_restricts && published.Type.Restricted(record, NoEvidence).Hides(met.Path) ? closed : open).Add(met.Path);
            var overrides =
                judge.Problems.Count == 0
                    ? "{}"
                    : Sql.ToJson(judge.Problems.DistinctBy(p => p.Id).ToDictionary(p => p.Id, _ => wave.Reason!));
            var counts = published.Type.Convention.AlwaysCounts || judge.Number > 1;
            return new ReadyRow(
                met.Number,
                met.Path,
                Sql.ToJson(record),
                overrides,
                judge.Placement,
                judge.Number,
                counts ? published.Type.Convention.CounterKey(judge.Values, judge.Now) : null,
                ExtensionOf(met.Path),
                string.Join(' ', open),
                string.Join(' ', closed),
                judge.Now,
                [.. judge.Values],
                [.. judge.UniqueKeys],
                [.. SearchKey.Of(type, record.GetValueOrDefault)],
                [.. published.Type.NewTerms(judge.Values)]
            );
        }

        // Somebody has written since the run began: its place, its number or its combination may be taken by now.
        private (ReadyRow? Row, string? Why) Settle(SqliteConnection c, ReadyRow row)
        {
            var type = published.Type;
            foreach (var unique in type.Uniques)
                if (
                    unique.Applies(row.Values, row.Now)
                    && unique.KeyOf(row.Values) is { } key
                    && RecordJudge.Other(c, type, unique, key, long.MaxValue, row.Now) is { } other
                    && (unique.Rule.Level == Level.Must || wave.Reason is null)
                )
                    return (null, Unique.Found(unique.Rule, type.Type, other.Name, other.Id).Message);
            var free =
                RepositoryStore.At(c, row.At.Folder, row.At.Name + row.Extension) is null
                && (row.CounterKey is null || CounterStore.Last(c, row.CounterKey) < row.Counter);
            if (free)
                return (row, null);
            var place = Placing.Find(c, type.Convention, row.Values, row.Now, 0, row.Extension);
            if (place.At.Problem is { } problem)
                return (null, problem.Message);
            run.Taken.TakePath(place.At.Folder, place.At.Name);
            if (!place.TakesNumber(type.Convention))
                return (row with { At = place.At, Counter = place.Number, CounterKey = null }, null);
            var counter = type.Convention.CounterKey(row.Values, row.Now);
            run.Taken.SetNumber(counter, place.Number);
            return (row with { At = place.At, Counter = place.Number, CounterKey = counter }, null);
        }

        private static string ExtensionOf(string path)
        {
            var extension = Path.GetExtension(path.Replace('\\', '/')).ToLowerInvariant();
            return extension.Length is 0 or > 6 || !extension.Skip(1).All(char.IsAsciiLetterOrDigit) ? ".dat" : extension;
        }
    }
}
