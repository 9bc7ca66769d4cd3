using ClearLexicon.Core.Migration;
using ClearLexicon.Formats;
using ClearLexicon.Storage;
using nietras.SeparatedValues;

namespace ClearLexicon.Services;

/// <summary>Bulk tagging: inventories, profiles, plans, dry runs, waves.</summary>
public sealed class Migrations(Database database, DataFolder folder, Designs designs, Vocabularies vocabularies, Jobs jobs, TimeProvider clock)
{
    private const int CountEvery = 1_000;

    /// <summary>All inventories, newest first.</summary>
    public List<Inventory> All() => database.Read(InventoryStore.All);

    /// <summary>One inventory, or null.</summary>
    public Inventory? Find(long id) => database.Read(c => InventoryStore.Find(c, id));

    /// <summary>Paths that an inventory lists, from the first row on.</summary>
    public List<string> Paths(long id, int most)
    {
        if (Find(id) is not { } inventory) return [];
        return [.. InventoryRows.Of(inventory, folder).Take(most).Select(r => r.Cells[inventory.Shape.PathColumn])];
    }

    /// <summary>Waves of an inventory, newest first.</summary>
    public List<Wave> Waves(long id) => database.Read(c => WaveStore.Of(c, id));

    /// <summary>Rows that the last dry run left.</summary>
    public List<LeftRow> Left(long id, int take, int after = 0) => database.Read(c => InventoryStore.LeftRows(c, id, take, after));

    /// <summary>Checks and keeps an inventory; nothing is kept when anything is wrong with it.</summary>
    public async Task<Result<long>> ImportAsync(BroughtFile file, string who)
    {
        var upload = Path.Combine(folder.Drafts, $"{Guid.NewGuid():N}.csv");
        var stored = Path.Combine(folder.Inventories, $"{Guid.NewGuid():N}.csv");
        await using (var from = file.Open())
        await using (var to = File.Create(upload)) await from.CopyToAsync(to);
        try
        {
            var (shape, problem) = await Task.Run(() => InventoryCsv.Import(upload, file.Name, stored));
            if (shape is null) return Result<long>.Not(problem!);
            return database.Write(c =>
            {
                LedgerStore.Append(c, clock.GetUtcNow(), who, "brought an inventory", file.Name, $"{shape.Rows} rows");
                return InventoryStore.Add(c, file.Name, folder.Relative(stored), new StoredShape(shape.Encoding, shape.Separator, shape.Columns, shape.Rows), who, clock.GetUtcNow());
            });
        }
        finally
        {
            File.Delete(upload);
        }
    }

    /// <summary>Profiles every column.</summary>
    public Job StartProfile(long id) => jobs.Start("Profiling the columns", $"/Migration/Inventory/{id}", (job, cancel) =>
    {
        var inventory = Find(id)!;
        job.Total = inventory.Shape.Rows;
        var profile = Profile(folder.Absolute(inventory.File), inventory.Shape, job, cancel);
        database.Write(c => InventoryStore.SetProfile(c, id, profile));
        return Task.CompletedTask;
    });

    /// <summary>Suggests a crosswalk for a document type.</summary>
    public IReadOnlyList<CrosswalkSuggestion> Suggest(Inventory inventory, string typeCode) =>
        inventory.Profile is { } profile && designs.Published.TryGetValue(typeCode, out var published) ? CrosswalkSuggestion.For(profile, published.Type) : [];

    /// <summary>Saves a changed plan.</summary>
    public Result SetPlan(long id, MigrationPlan plan, string who)
    {
        if (!designs.Published.TryGetValue(plan.TypeCode, out var published)) return $"There is no published document type “{plan.TypeCode}”.";
        if (Find(id) is not { } inventory) return "There is no such inventory.";
        foreach (var (pass, number) in plan.Passes.Select((p, i) => (p, i + 1)))
            if (PassKinds.Fault(pass, published.Type.Type, inventory.Shape.Columns) is { } fault) return $"Pass {number}: {fault}";
        if (plan.Crosswalk.SelectMany(l => l.Steps).Select(Core.Crosswalks.Cleaning.Fault).FirstOrDefault(f => f is not null) is { } wrong) return wrong;
        database.Write(c =>
        {
            InventoryStore.SetPlan(c, id, plan);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "changed a migration plan", inventory.Name);
        });
        return Result.Done;
    }

    /// <summary>Works out what would happen; nothing is changed.</summary>
    public Job StartDryRun(long id, string who) => jobs.Start("Dry run", $"/Migration/Inventory/{id}", (job, cancel) =>
    {
        var inventory = Find(id)!;
        job.Total = inventory.Shape.Rows;
        var pathColumn = inventory.Shape.PathColumn;
        var left = new List<LeftRow>();
        var result = Run(inventory, who, job, cancel, (row, number, verdict, judge) =>
        {
            if (verdict != RowVerdict.Ready) left.Add(new LeftRow(number, verdict, row[pathColumn], [.. judge.Problems.Select(p => p.Message)]));
        });
        database.Write(c =>
        {
            InventoryStore.SetDryRun(c, id, result);
            InventoryStore.ReplaceLeftRows(c, id, left);
        });
        return Task.CompletedTask;
    });

    /// <summary>
    /// Tags the ready rows in one wave: one transaction, so that a stop leaves either the whole wave or nothing of it.
    /// </summary>
    /// <param name="id">The inventory.</param>
    /// <param name="reason">When given, rows with should-problems are taken too, overridden with it.</param>
    /// <param name="who">Who does it.</param>
    public Job StartWave(long id, string? reason, string who) => jobs.Start("Applying the wave", $"/Migration/Inventory/{id}", (job, cancel) =>
    {
        var inventory = Find(id)!;
        var published = designs.Published[inventory.Plan!.TypeCode];
        job.Total = inventory.Shape.Rows;
        var pathColumn = inventory.Shape.PathColumn;
        var left = new List<LeftRow>();
        database.Write(c =>
        {
            var now = clock.GetUtcNow();
            var tagged = WaveStore.TaggedPaths(c, id);
            var done = tagged.ToHashSet(StringComparer.Ordinal);
            var wave = WaveStore.Begin(c, id, who, now);
            long count = 0;
            var grown = new HashSet<(string, string)>();
            using var writer = new WaveWriter(c, wave, published.Type.Type.Code, published.Version, who, now);
            Run(inventory, who, job, cancel, (row, number, verdict, judge) =>
            {
                var path = row[pathColumn];
                if (!done.Add(path))
                {
                    left.Add(new LeftRow(number, RowVerdict.Questionable, path, ["An earlier row names the same legacy file."]));
                    return;
                }
                if (verdict == RowVerdict.Held || (verdict == RowVerdict.Questionable && string.IsNullOrWhiteSpace(reason)))
                {
                    left.Add(new LeftRow(number, verdict, path, [.. judge.Problems.Select(p => p.Message)]));
                    return;
                }
                Tag(writer, published, path, judge, reason);
                foreach (var term in published.Type.NewTerms(judge.Values)) grown.Add(term);
                count++;
            }, tagged, numbers =>
            {
                foreach (var (key, last) in numbers) CounterStore.Take(c, key, last);
            });
            vocabularies.Grow(c, grown, who);
            WaveStore.SetState(c, wave, "applied", count);
            InventoryStore.ReplaceLeftRows(c, id, left);
            LedgerStore.Append(c, now, who, $"applied wave {wave}", inventory.Name, $"{count} rows tagged, {left.Count} left");
        });
        designs.Forget();
        return Task.CompletedTask;
    });

    /// <summary>Takes a wave back completely.</summary>
    public Result Undo(long waveId, string who) => database.Write<Result>(c =>
    {
        if (WaveStore.Find(c, waveId) is not { State: "applied" } wave) return "This wave is not applied.";
        if (WaveStore.ChangedSince(c, waveId) is var changed and > 0)
            return $"{changed} documents of this wave have been edited since; undoing it would lose those edits.";
        var removed = WaveStore.RemoveDocuments(c, waveId);
        WaveStore.SetState(c, waveId, "undone", wave.Tagged);
        InventoryStore.SetDryRun(c, wave.InventoryId, null);
        LedgerStore.Append(c, clock.GetUtcNow(), who, $"took back wave {waveId}", $"inventory {wave.InventoryId}", $"{removed} rows");
        return Result.Done;
    });

    private static void Tag(WaveWriter writer, PublishedType published, string path, RowJudge judge, string? reason)
    {
        var type = published.Type.Type;
        var record = new Dictionary<string, string>(type.Fields.Count);
        List<string> open = [path], closed = [];
        for (var i = 0; i < type.Fields.Count; i++)
        {
            if (!judge.Values[i].IsGood) continue;
            record[type.Fields[i].Key] = judge.Values[i].Text;
            (type.Fields[i].Restricted ? closed : open).Add(judge.Values[i].Text);
        }
        var overrides = judge.Problems.Count == 0 ? "{}" : Sql.ToJson(judge.Problems.ToDictionary(p => p.Id, _ => reason!));
        var extension = Path.GetExtension(path.Replace('\\', '/')).ToLowerInvariant();
        if (extension.Length is 0 or > 6 || !extension.AsSpan(1).ContainsOnlyLettersOrDigits()) extension = ".dat";
        writer.Add(DataFolder.SafeName(path), path, Sql.ToJson(record), overrides, judge.Placement.Folder, judge.Placement.Name + extension,
            string.Join(' ', open), string.Join(' ', closed),
            Placing.Kept(judge.Now, judge.Number), judge.UniqueKeys);
    }

    private delegate void EachRow(string[] row, int number, RowVerdict verdict, RowJudge judge);

    private DryRun Run(Inventory inventory, string who, Job job, CancellationToken cancel, EachRow each, IReadOnlySet<string>? skip = null, Action<IReadOnlyDictionary<string, int>>? keepNumbers = null)
    {
        var published = designs.Published[inventory.Plan!.TypeCode];
        var taken = database.Read(c =>
        {
            var names = Placing.Taken(c, keepNumbers is not null);
            foreach (var (rule, key) in DocumentStore.UniqueKeys(c, published.Type.Type.Code)) names.TakeUnique(rule, key, 0);
            return names;
        });
        var plan = new CompiledPlan(inventory.Plan, published.Type, inventory.Shape.Columns);
        var judge = new RowJudge(plan, taken, designs.Now(Core.Rules.Door.Migration, who));
        var tally = new DryRunTally(plan.Type);
        var last = 0;
        var pathColumn = inventory.Shape.PathColumn;
        foreach (var (row, number) in InventoryRows.Of(inventory, folder))
        {
            last = number;
            if (skip is null || !skip.Contains(row[pathColumn]))
            {
                var verdict = judge.Judge(row, number, row[pathColumn]);
                tally.Add(row, number, verdict, judge);
                each(row, number, verdict, judge);
            }
            if (number % CountEvery != 0) continue;
            cancel.ThrowIfCancellationRequested();
            job.Done = number;
        }
        job.Done = last;
        keepNumbers?.Invoke(taken.Given!);
        return tally.Finish();
    }

    private static List<ColumnProfile> Profile(string file, StoredShape shape, Job job, CancellationToken cancel)
    {
        var profilers = shape.Columns.Select(name => new ColumnProfiler(name)).ToArray();
        var number = 0;
        using var reader = InventoryCsv.Open(file, shape.Separator);
        foreach (var line in reader)
        {
            for (var i = 0; i < profilers.Length; i++) profilers[i].Add(line[i].Span);
            if (++number % CountEvery != 0) continue;
            cancel.ThrowIfCancellationRequested();
            job.Done = number;
        }
        job.Done = number;
        return [.. profilers.Select(p => p.Finish())];
    }
}

internal static class CharSpans
{
    /// <summary>Whether a span holds nothing but ASCII letters and digits.</summary>
    public static bool ContainsOnlyLettersOrDigits(this ReadOnlySpan<char> text)
    {
        foreach (var c in text)
            if (!char.IsAsciiLetterOrDigit(c)) return false;
        return true;
    }
}
