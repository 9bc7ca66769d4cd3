using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Migration;

/// <summary>What a wave tags.</summary>
/// <param name="Inventory">Its inventory.</param>
/// <param name="Reason">Why rows with should-problems were taken too; null when they were not.</param>
public sealed record WaveOrder(long Inventory, string? Reason);

/// <summary>A part of an inventory applied together.</summary>
/// <param name="Run">What was begun or done, by whom; its <c>Reached</c> is the last row that was looked at.</param>
/// <param name="Tagged">Rows it tagged.</param>
/// <param name="Left">Rows it left.</param>
public sealed record Wave(Run<WaveOrder> Run, long Tagged, long Left);

/// <summary>
/// Waves: the ready rows of an inventory tagged together, chunk by chunk. A wave that was stopped, by a person or by a kill, is gone on
/// with where it was or taken back; others write between its chunks, and what they took meanwhile is seen before a chunk is kept.
/// </summary>
public sealed class Waves : IWorksInJobs
{
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

    private Runs<WaveOrder, DocumentAlone> Runs =>
        field ??= new(
            _database,
            _jobs,
            _clock,
            new("wave", "design", wave => Migrations.Address(wave.Order.Inventory), ("", "Applying the wave", "Undoing the wave"))
            {
                WhyNotBegin = static (c, order) =>
                    Of(c, order.Inventory).Find(w => w.State is RunState.Applying or RunState.Undoing) is { } open
                        ? $"Wave {open.Id} is not finished. Continue it, or undo it."
                        : null,
                WhyNotUndo = WhyNotUndo,
                DoAll = Apply,
                UndoAll = Undo,
                Ended = End,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Runs.Kinds;

    /// <summary>Called before each chunk; tests stop here.</summary>
    internal Action Checkpoint { get; set; } = () => { };

    /// <summary>Waves of an inventory, newest first.</summary>
    public List<Wave> Of(long inventory) =>
        _database.Read(c =>
            Of(c, inventory)
                .ConvertAll(run =>
                {
                    var (tagged, left) = WaveStore.Counts(c, run.Id);
                    return new Wave(run, tagged, left);
                })
        );

    internal static List<Run<WaveOrder>> Of(SqliteConnection c, long inventory) =>
        RunStore.Of<WaveOrder>(c, "wave", Migrations.Subject(inventory), int.MaxValue);

    /// <summary>Tags the ready rows in one wave.</summary>
    /// <param name="inventoryId">The inventory.</param>
    /// <param name="reason">When given, rows with should-problems are taken too, overridden with it.</param>
    /// <param name="who">Who does it.</param>
    public Result<Job> Start(long inventoryId, string? reason, string who)
    {
        if (_migrations.Find(inventoryId) is not { Plan: { } plan } || !_designs.Published.ContainsKey(plan.TypeCode))
            return Result<Job>.Not("Choose first what the rows become.");
        return Runs.Begin(
                Migrations.Subject(inventoryId),
                new WaveOrder(inventoryId, string.IsNullOrWhiteSpace(reason) ? null : reason.Trim()),
                who,
                (c, wave) => WaveStore.Begin(c, wave.Id, inventoryId)
            )
            .With(b => b.Job);
    }

    /// <summary>Goes on with a wave that was stopped.</summary>
    public Result<Job> Resume(long wave, string who) => Runs.Apply(wave, who);

    /// <summary>Takes a wave back completely, or goes on with that.</summary>
    public Result<Job> StartUndo(long wave, string who) => Runs.Undo(wave, who);

    private static string? WhyNotUndo(SqliteConnection c, Run<WaveOrder> wave) =>
        WaveStore.ChangedSince(c, wave.Id) is var changed and > 0
            ? $"{changed:N0} documents of this wave have been edited since; undoing it would lose those edits."
        : WaveStore.LaterVersions(c, wave.Id) is var later and > 0
            ? $"{later:N0} documents are later versions of documents of this wave; they would lose what they follow."
        : null;

    private void Apply(Run<WaveOrder> wave, Job job, CancellationToken cancel)
    {
        var inventory = _migrations.Find(wave.Order.Inventory)!;
        if (inventory.Plan is not { } plan || !_designs.Published.TryGetValue(plan.TypeCode, out var published))
            throw new RefusedException("The document type of this wave is no longer published.");
        (job.Total, job.Done) = (inventory.Shape.Rows, wave.Reached);
        if (wave.Reached == 0)
            _migrations.ClearLeft(inventory.Id);
        var run = new InventoryRun(_database, _folder, _designs, inventory, published, wave.Who, (int)wave.Reached);
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
    }

    private void Undo(Run<WaveOrder> wave, Job job, CancellationToken cancel)
    {
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
    }

    private void End(SqliteConnection c, Run<WaveOrder> wave, Job job)
    {
        // What the dry run said of rows is done now.
        InventoryStore.SetDryRun(c, wave.Order.Inventory, null);
        var name = InventoryStore.Find(c, wave.Order.Inventory)!.Name;
        var ((tagged, left), stay) = (WaveStore.Counts(c, wave.Id), WaveStore.Count(c, wave.Id));
        var (act, detail) =
            wave.State == RunState.Applied ? ("applied", $"{tagged} rows tagged, {left} left")
            : stay > 0 ? ("undid", $"{job.Done - stay} rows, {stay} were edited meanwhile and stay")
            : ("undid", $"{job.Done} rows");
        LedgerStore.Append(
            c,
            _clock.GetUtcNow(),
            job.Who,
            $"{act} wave {wave.Id}",
            new LedgerSubject(SubjectKind.Inventory, wave.Order.Inventory),
            $"{name}: {detail}"
        );
    }

    /// <summary>Rows that are written in one transaction.</summary>
    private sealed class Chunk(Waves waves, Job job, Run<WaveOrder> wave, PublishedType published, InventoryRun run)
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
            if (row.Judged && (verdict == RowVerdict.Ready || verdict == RowVerdict.Questionable && wave.Order.Reason is not null))
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
                            wave.Who,
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
                        GrowingTerms.Grow(c, _ready.SelectMany(r => r.Terms), wave.Who, waves._clock);
                        InventoryStore.AddLeftRows(c, wave.Order.Inventory, _left);
                        WaveStore.Reach(c, wave.Id, tagged, _left.Count);
                        RunStore.Reach(c, wave.Key, _last, 0);
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
                    : Sql.ToJson(judge.Problems.DistinctBy(p => p.Id).ToDictionary(p => p.Id, _ => wave.Order.Reason!));
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
                    && (unique.Rule.Level == Level.Must || wave.Order.Reason is null)
                )
                    return (null, Unique.Found(unique.Rule, type.Type, other.Name, other.Id).Message);
            var free =
                RepositoryStore.At(c, row.At.Folder, row.At.Name + row.Extension) is null
                && (row.CounterKey is null || CounterStore.Last(c, row.CounterKey) < row.Counter);
            if (free)
                return (row, null);
            var place = Placing.Find(c, type.Convention, row.Values, row.Now, new Placed(0, row.Extension));
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
