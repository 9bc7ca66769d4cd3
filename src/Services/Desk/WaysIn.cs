using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>How documents arrive: the stored ways in, and the one of files that are dropped on the desk.</summary>
public sealed class WaysIn(Database database, DataFolder folder, Designs designs, TimeProvider clock)
{
    /// <summary>Most ways in.</summary>
    public const int Most = 100;

    /// <summary>All of them, the desk's own among them.</summary>
    public List<WayIn> All()
    {
        var stored = database.Read(WayInStore.All);
        return stored.Exists(w => w.Key == WayIn.Upload.Key) ? stored : [WayIn.Upload, .. stored];
    }

    /// <summary>One way in, or null.</summary>
    public WayIn? Find(string key) => database.Read(c => WayInStore.Find(c, key)) ?? (key == WayIn.Upload.Key ? WayIn.Upload : null);

    /// <summary>The way a batch came; the desk's own when that one is gone.</summary>
    public static WayIn Of(SqliteConnection c, string? key) => (key is null ? null : WayInStore.Find(c, key)) ?? WayIn.Upload;

    /// <summary>Whether a person sees a batch, as far as the way it came is kept to some people; what came in none is seen.</summary>
    public static bool Sees(SqliteConnection c, long? batch, string who) =>
        batch is not { } id || Of(c, BatchStore.Find(c, id)?.WayIn).SeenBy(who);

    /// <summary>Whether a person sees what came by a way in, asked by its key: for many batches at once.</summary>
    public static Func<string?, bool> OpenTo(SqliteConnection c, string who)
    {
        var closed = WayInStore.All(c).Where(w => !w.SeenBy(who)).Select(w => w.Key).ToHashSet(StringComparer.Ordinal);
        return key => key is null || !closed.Contains(key);
    }

    /// <summary>Where a watched folder lies on disk.</summary>
    public string PathOf(WayIn way) => Path.GetFullPath(Path.Combine(folder.Root, way.Folder));

    /// <summary>Adds a way in, or changes the one with its key.</summary>
    /// <param name="way">The way in.</param>
    /// <param name="who">Who saves it.</param>
    /// <param name="guard">Says why it must not be saved over what is there; null when it may.</param>
    /// <returns>Its key.</returns>
    public Result<string> Save(WayIn way, string who, Func<WayIn?, string?>? guard = null)
    {
        if (way.Finding is { } finding)
            return Result<string>.Not(finding);
        var key = way.Key.Length > 0 ? way.Key : ShortName.From(way.Name.Trim());
        if (key.Length == 0)
            return Result<string>.Not("Write a name with letters.");
        if (Outside(way) is { } outside)
            return Result<string>.Not(outside);
        if (way.Parks.FirstOrDefault(p => p.Reason.Length is 0 or > ParkedDocuments.LongestReason) is { } park)
            return Result<string>.Not($"{park.Field}: say why it is parked, in up to {ParkedDocuments.LongestReason} characters.");
        if (way.Parks.FirstOrDefault(p => !database.Read(c => ParkedDocuments.WorksThere(c, p.ForWhom))) is { } whose)
            return Result<string>.Not($"“{whose.ForWhom}” is not a role, and nobody of that name works at the desk.");
        var named = way with { Key = key, Name = way.Name.Trim() };
        // One that lies elsewhere may be a disk that is not there just now.
        if (named.Folder.Length > 0 && PathOf(named).StartsWith(folder.Root + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            Directory.CreateDirectory(PathOf(named));
        return database.Write<Result<string>>(c =>
        {
            var all = WayInStore.All(c);
            // Saved as it is, nothing happens.
            var was = all.Find(w => w.Key == key) ?? (key == WayIn.Upload.Key ? WayIn.Upload : null);
            if (was is not null && Sql.AreSame(was, named))
                return key;
            if (way.Key.Length > 0 && guard?.Invoke(was) is { } changed)
                return Result<string>.Not(changed);
            if (way.Key.Length == 0 && (key == WayIn.Upload.Key || all.Exists(w => w.Key == key)))
                return Result<string>.Not($"There is a way in called “{named.Name}” already.");
            if (all.Count >= Most && !all.Exists(w => w.Key == key))
                return Result<string>.Not($"There are {Most} ways in already; no more can be added.");
            if (
                named.Folder.Length > 0
                && all.Find(w => w.Key != key && w.Folder.Length > 0 && Nested(PathOf(w), PathOf(named))) is { } other
            )
                return Result<string>.Not($"“{other.Name}” watches this folder, or one above or below it.");
            WayInStore.Save(c, named);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "saved a way in", new LedgerSubject(SubjectKind.WayIn, key), named.Name);
            return key;
        });
    }

    /// <summary>Removes a way in. What came by it stays.</summary>
    public Result Remove(string key, string who) =>
        database.Write<Result>(c =>
        {
            if (WayInStore.Find(c, key) is not { } way)
                return "There is no such way in.";
            WayInStore.Remove(c, key);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "removed a way in", new LedgerSubject(SubjectKind.WayIn, key), way.Name);
            return Result.Done;
        });

    // A folder of ours is never watched, or what we write would come in again.
    private string? Outside(WayIn way)
    {
        if (way.TypeCode is { } type && !designs.Published.ContainsKey(type))
            return $"There is no published document type “{type}”.";
        if (way.Folder.Length == 0)
            return null;
        if (way.Folder.Length > 1_000 || way.Folder.Any(char.IsControl))
            return "This is not the name of a folder.";
        var path = PathOf(way);
        var ours = new[]
        {
            folder.Repository,
            folder.Pages,
            folder.Brought,
            folder.Inventories,
            folder.Drafts,
            folder.Tray,
            folder.Exports,
            folder.Outbox,
            folder.Withdrawn,
        };
        return Nested(path, folder.Root) && !path.StartsWith(folder.Root + Path.DirectorySeparatorChar, StringComparison.Ordinal)
                ? "A folder that holds the data folder cannot be watched."
            : ours.Any(o => Nested(o, path)) ? "The program keeps its own files in this folder; choose another one."
            : null;
    }

    // Whether one is the other or lies in it.
    private static bool Nested(string one, string other)
    {
        var (a, b) = (one.TrimEnd('/') + "/", other.TrimEnd('/') + "/");
        return a.StartsWith(b, StringComparison.Ordinal) || b.StartsWith(a, StringComparison.Ordinal);
    }
}
