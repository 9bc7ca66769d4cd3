using System.Diagnostics;
using ClearLexicon.Core.Migration;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Bench;

/// <summary>
/// A dry run as the Migration place starts it, left rows kept, against its floor: reading the same CSV with Sep and inserting the rows into
/// SQLite unjudged. Alternating runs in one process, the best of three of each; peak memory
/// up to the first dry run, before any floor run.
/// </summary>
internal static class DryRunRatio
{
    public static void Measure(int rows)
    {
        var folder = new DataFolder(Directory.CreateTempSubdirectory("bench").FullName);
        using var database = new Database(folder.DatabaseFile);
        var designs = new Designs(database, TimeProvider.System);
        var jobs = new Jobs(database, TimeProvider.System, e => throw e);
        var migrations = new Migrations(database, folder, designs, jobs, TimeProvider.System);
        jobs.Add(migrations);
        var id = Bring(database, folder, designs, migrations, rows);
        // One to warm up, and for the memory of dry runs alone.
        migrations.StartDryRun(id, "bench").Value!.Completion.Wait();
        var peak = Process.GetCurrentProcess().PeakWorkingSet64 / 1024 / 1024;
        var inventory = migrations.Find(id)!;
        double dry = double.MaxValue,
            floor = double.MaxValue;
        for (var i = 0; i < 3; i++)
        {
            floor = Math.Min(
                floor,
                Timed(() => Insert(folder.Absolute(inventory.File), inventory.Shape, Path.Combine(folder.Root, $"floor{i}.db")))
            );
            dry = Math.Min(dry, Timed(() => migrations.StartDryRun(id, "bench").Value!.Completion.Wait()));
        }
        var run = migrations.Find(id)!.DryRun!;
        Console.WriteLine(
            $"{rows:N0} rows: {run.Ready:N0} ready, {run.Questionable:N0} questionable, {run.Held:N0} held, {run.Collisions:N0} collisions"
        );
        Console.WriteLine(
            $"floor (read with Sep, insert unjudged) {floor:0.00} s; dry run {dry:0.00} s; ratio {dry / floor:0.00}; peak memory {peak} MB"
        );
        database.Dispose();
        Directory.Delete(folder.Root, recursive: true);
    }

    internal static long Bring(Database database, DataFolder folder, Designs designs, Migrations migrations, int rows)
    {
        var jobs = new Jobs(database, TimeProvider.System, e => throw e);
        var rebuilding = new Rebuilding(database, designs, jobs);
        jobs.Add(rebuilding);
        var drafts = new Drafts(database, designs, rebuilding, TimeProvider.System);
        var imported = new DesignFiles(
            database,
            designs,
            drafts,
            new ServiceAddresses(database, TimeProvider.System),
            TimeProvider.System
        ).Import(HarbourSeed.Design, "bench");
        if (!imported.Ok)
            throw new InvalidOperationException(imported.Problem);
        var source = Path.Combine(folder.Root, "source.csv");
        HarbourInventory.Write(source, rows);
        var id = migrations.ImportAsync(new BroughtFile("source.csv", () => File.OpenRead(source)), "bench").Result.Value;
        migrations.StartProfile(id).Value!.Completion.Wait();
        var lines = migrations
            .Suggest(migrations.Find(id)!, HarbourDesign.VesselCall.Code)
            .Select(s => s.Line)
            .Where(l => HarbourSeed.LinesByHand.All(h => h.Field != l.Field))
            .Concat(HarbourSeed.LinesByHand);
        var kept = migrations.SetPlan(id, new MigrationPlan(HarbourDesign.VesselCall.Code, [.. lines], HarbourSeed.Passes), "bench");
        return kept.Ok ? id : throw new InvalidOperationException(kept.Problem);
    }

    private static void Insert(string csv, StoredShape shape, string path)
    {
        using var database = new Database(path);
        database.Write(c =>
        {
            c.Execute($"CREATE TABLE rows ({string.Join(", ", shape.Columns.Select((_, i) => $"c{i} TEXT"))})");
            using var insert = c.CreateCommand();
            insert.CommandText = $"INSERT INTO rows VALUES ({string.Join(", ", shape.Columns.Select((_, i) => $"$c{i}"))})";
            var parameters = shape.Columns.Select((_, i) => insert.Parameters.Add($"$c{i}", SqliteType.Text)).ToArray();
            insert.Prepare();
            using var reader = InventoryCsv.Open(csv, shape.Separator);
            foreach (var line in reader)
            {
                for (var i = 0; i < parameters.Length; i++)
                    parameters[i].Value = line[i].ToString();
                insert.ExecuteNonQuery();
            }
        });
    }

    private static double Timed(Action work)
    {
        GC.Collect();
        var watch = Stopwatch.StartNew();
        work();
        return watch.Elapsed.TotalSeconds;
    }
}
