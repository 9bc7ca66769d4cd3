using System.Collections.Concurrent;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Formats;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Desk;

/// <summary>How a watched folder is doing.</summary>
/// <param name="Waiting">Files in it that were not taken yet.</param>
/// <param name="Problem">Why it cannot be taken from; null when it can.</param>
/// <param name="Oldest">When the oldest of the waiting files was written; null when none waits.</param>
public sealed record FolderState(int Waiting, string? Problem, DateTimeOffset? Oldest);

/// <summary>
/// Takes files out of watched folders. A file is taken when it has stopped growing, once for all by its content; when its pages were read
/// it is moved to <c>done</c>, and when it cannot be read to <c>refused</c>, beside a text that says why. What is taken and what is noted
/// is one transaction, so that a kill at any moment loses and doubles nothing.
/// </summary>
public sealed class WatchedFolders(Database database, WaysIn ways, Intake intake, TimeProvider clock)
{
    /// <summary>Where files go that were read.</summary>
    public const string DoneFolder = "done";

    /// <summary>Where files go that were refused.</summary>
    public const string RefusedFolder = "refused";

    /// <summary>Most files of one batch.</summary>
    public const int MostAtOnce = 50;

    private const int MostLooked = 10_000;
    private const int MostWaiting = 500;
    private const int Deepest = 6;

    /// <summary>How long a file must have stayed as it is before it is taken.</summary>
    internal TimeSpan Quiet { get; init; } = TimeSpan.FromSeconds(2);

    /// <summary>How long an empty file may become one with content.</summary>
    internal TimeSpan QuietEmpty { get; init; } = TimeSpan.FromSeconds(30);

    private static readonly string[] Unfinished = [".part", ".partial", ".tmp", ".crdownload", ".filepart"];

    private sealed record Seen(long Length, DateTime Written, DateTimeOffset Since);

    private sealed record ReadyFile(FileInfo File, string Name, string Hash);

    private readonly Dictionary<string, Seen> _seen = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, FolderState> _states = new(StringComparer.Ordinal);
    private int _looking;

    /// <summary>How the folder of a way in is doing, as of the last look.</summary>
    public FolderState? StateOf(string key) => _states.GetValueOrDefault(key);

    /// <summary>Looks into every watched folder once.</summary>
    public async Task LookAsync(CancellationToken cancel)
    {
        if (Interlocked.Exchange(ref _looking, 1) == 1)
            return;
        try
        {
            var watched = ways.All().Where(w => w.Folder.Length > 0 && w.Watches).ToList();
            foreach (var gone in _states.Keys.Except(watched.Select(w => w.Key)))
                _states.TryRemove(gone, out _);
            foreach (var way in watched)
            {
                try
                {
                    _states[way.Key] = await LookAsync(way, ways.PathOf(way), cancel);
                }
                catch (Exception e) when (Failures.IsFromOutside(e))
                {
                    _states[way.Key] = new FolderState(0, $"The folder cannot be read now: {Failures.InWords(e)}", null);
                }
            }
        }
        finally
        {
            _looking = 0;
        }
    }

    private async Task<FolderState> LookAsync(WayIn way, string root, CancellationToken cancel)
    {
        if (!Directory.Exists(root))
            return new FolderState(0, "The folder is not there. Files are taken again when it is back.", null);
        PutAway(way, root);
        if (!intake.HasRoom)
            return new FolderState(0, "The disk of the program is full; files are taken again when there is room.", null);
        // What waits to be read is not doubled on the disk by what waits to be taken.
        if (database.Read(c => BatchStore.Count(c, FileState.Waiting)) >= MostWaiting)
            return new FolderState(Files(root).Count, null, null);
        var pending = database.Read(c => WayInStore.ToPutAway(c, way.Key)).ToDictionary(t => t.Name, StringComparer.Ordinal);
        var files = Files(root);
        var (ready, waiting) = (new List<ReadyFile>(), new List<FileInfo>());
        foreach (var file in files)
        {
            cancel.ThrowIfCancellationRequested();
            var name = Path.GetRelativePath(root, file.FullName);
            if (pending.ContainsKey(name) && !HasChanged(file))
                continue;
            // As many as are taken now; the rest is neither opened nor hashed before its turn.
            if (ready.Count >= MostAtOnce)
            {
                HasChanged(file);
                waiting.Add(file);
                continue;
            }
            try
            {
                if (Judge(way, root, file, name) is { } hash)
                    ready.Add(new ReadyFile(file, name, hash));
                else
                    waiting.Add(file);
            }
            catch (FileNotFoundException)
            {
                // Renamed or taken away while it was looked at.
            }
        }
        foreach (
            var path in _seen
                .Keys.Where(k => k.StartsWith(root + "/", StringComparison.Ordinal))
                .Except(files.Select(f => f.FullName))
                .ToList()
        )
            _seen.Remove(path);
        // A picture and the text beside it wait for each other.
        var unready = waiting
            .Where(f => !RecognisedText.IsCalledSo(f.Name) || clock.GetUtcNow() - _seen[f.FullName].Since < Quiet)
            .Select(f => Stem(f.FullName))
            .ToHashSet(StringComparer.Ordinal);
        var taken = ready.Where(r => !unready.Contains(Stem(r.Name, root))).Take(MostAtOnce).ToList();
        await TakeAsync(way, root, taken);
        waiting.AddRange(ready.Except(taken).Select(r => r.File));
        return new FolderState(
            waiting.Count,
            files.Count >= MostLooked ? $"More than {MostLooked:N0} files lie in the folder; they are taken little by little." : null,
            waiting.Count == 0 ? null : waiting.Min(f => (DateTimeOffset)f.LastWriteTimeUtc)
        );
    }

    // The oldest first; neither hidden ones nor what we put away, and never through a link to another folder.
    private static List<FileInfo> Files(string root)
    {
        var how = new EnumerationOptions
        {
            RecurseSubdirectories = true,
            MaxRecursionDepth = Deepest,
            IgnoreInaccessible = true,
            AttributesToSkip = FileAttributes.Hidden,
            ReturnSpecialDirectories = false,
        };
        var enumerated = new System.IO.Enumeration.FileSystemEnumerable<FileInfo>(
            root,
            static (ref System.IO.Enumeration.FileSystemEntry e) => new FileInfo(e.ToFullPath()),
            how
        )
        {
            ShouldIncludePredicate = static (ref System.IO.Enumeration.FileSystemEntry e) => !e.IsDirectory,
            ShouldRecursePredicate = (ref System.IO.Enumeration.FileSystemEntry e) =>
                !e.Attributes.HasFlag(FileAttributes.ReparsePoint)
                && !(e.Directory.SequenceEqual(root) && (e.FileName is DoneFolder or RefusedFolder)),
        };
        return [.. enumerated.Take(MostLooked).OrderBy(f => f.LastWriteTimeUtc).ThenBy(f => f.FullName, StringComparer.Ordinal)];
    }

    // The hash of a file that can be taken now, else null; one that never can is refused.
    private string? Judge(WayIn way, string root, FileInfo file, string name)
    {
        if (file.LinkTarget is not null)
            return Refuse(root, name, "It is a link to another place; put the file itself into the folder.");
        if (Unfinished.Contains(file.Extension.ToLowerInvariant()))
            return null;
        if (HasChanged(file))
            return null;
        var since = clock.GetUtcNow() - _seen[file.FullName].Since;
        if (file.Length == 0)
            return since >= QuietEmpty ? Refuse(root, name, "It is empty.") : null;
        if (since < Quiet)
            return null;
        if (RecognisedText.IsCalledSo(name))
            return since >= QuietEmpty && !Beside(file).Any()
                ? Refuse(root, name, "There is no picture beside this text, with the same name.")
                : null;
        if (file.Length > IntakeCheck.MaxBytes)
            return Refuse(
                root,
                name,
                $"It is {file.Length / 1024 / 1024:N0} MB; at most {IntakeCheck.MaxBytes / 1024 / 1024} MB are taken."
            );
        string hash;
        try
        {
            hash = DataFolder.HashOf(file.FullName);
        }
        catch (Exception e) when (e is UnauthorizedAccessException or IOException and not FileNotFoundException)
        {
            // Locked, or not ours to read: it waits, and is seen waiting.
            return null;
        }
        if (database.Read(c => WayInStore.Taken(c, way.Key, hash)) is not { } before)
            return hash;
        // Taken, but the program ended before it was put away; or the very same once more.
        return before.IsPutAway ? Refuse(root, name, $"The same file was taken in before, as “{before.Name}”, on {before.At} UTC.") : null;
    }

    // Files of the same name but for their ending.
    private static IEnumerable<string> Beside(FileInfo file) =>
        Directory.EnumerateFiles(file.DirectoryName!).Where(f => f != file.FullName && Stem(f) == Stem(file.FullName));

    private static string Stem(string path, string root = "") => Path.ChangeExtension(Path.Combine(root, path), null);

    private bool HasChanged(FileInfo file)
    {
        file.Refresh();
        var before = _seen.GetValueOrDefault(file.FullName);
        if (before is not null && before.Length == file.Length && before.Written == file.LastWriteTimeUtc)
            return false;
        _seen[file.FullName] = new Seen(file.Length, file.LastWriteTimeUtc, clock.GetUtcNow());
        return true;
    }

    private async Task TakeAsync(WayIn way, string root, List<ReadyFile> ready)
    {
        // Two of the same content at once: the second is judged again, when the first is put away.
        var files = ready.DistinctBy(r => r.Hash).Where(r => File.Exists(r.File.FullName)).ToList();
        if (files.Count == 0)
            return;
        List<BroughtFile> texts =
        [
            .. files
                .SelectMany(f => Beside(f.File).Where(RecognisedText.IsCalledSo))
                .Select(t => new BroughtFile(
                    Path.GetRelativePath(root, t).Replace(Path.DirectorySeparatorChar, '/'),
                    () => File.OpenRead(t)
                )),
        ];
        await intake.BringAsync(
            files.Count == 1 ? $"{way.Name}: {files[0].Name}" : $"{way.Name}: {files[0].Name} and {files.Count - 1} more",
            [
                .. files.Select(f => new BroughtFile(
                    f.Name.Replace(Path.DirectorySeparatorChar, '/'),
                    () => File.OpenRead(f.File.FullName)
                )),
                .. texts,
            ],
            way.Name,
            way.Key,
            (c, i, id, hash) =>
            {
                if (WayInStore.Taken(c, way.Key, hash) is null)
                    WayInStore.Take(c, way.Key, hash, files[i].Name, id, clock.GetUtcNow());
            }
        );
    }

    private void PutAway(WayIn way, string root)
    {
        foreach (var taken in database.Read(c => WayInStore.ToPutAway(c, way.Key)).Where(t => t.State != FileState.Waiting))
        {
            var path = Path.Combine(root, taken.Name);
            try
            {
                // Another content under the same name stays, and is taken as what it is.
                if (File.Exists(path) && DataFolder.HashOf(path) == taken.Hash)
                {
                    var texts = Beside(new FileInfo(path)).Where(RecognisedText.IsCalledSo).ToList();
                    if (taken.State == FileState.Taken)
                        Move(root, taken.Name, DoneFolder);
                    else
                        Refuse(root, taken.Name, taken.Message ?? "");
                    foreach (var text in texts)
                        Move(root, Path.GetRelativePath(root, text), taken.State == FileState.Taken ? DoneFolder : RefusedFolder);
                }
            }
            catch (Exception e) when (Failures.IsFromOutside(e))
            {
                continue;
            }
            database.Write(c => WayInStore.PutAway(c, way.Key, taken.Hash));
        }
    }

    // The reason is written first: a file in refused never lies there without one. Gives null, so that it is not taken.
    private static string? Refuse(string root, string name, string why)
    {
        var target = Free(root, name, RefusedFolder);
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        File.WriteAllText(target + ".txt", $"“{Path.GetFileName(name)}” was not taken in.{Environment.NewLine}{why}{Environment.NewLine}");
        File.Move(Path.Combine(root, name), target);
        return null;
    }

    private static void Move(string root, string name, string to)
    {
        var target = Free(root, name, to);
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        File.Move(Path.Combine(root, name), target);
    }

    // Nothing is overwritten: a taken name gets a number.
    private static string Free(string root, string name, string to)
    {
        var target = Path.Combine(root, to, name);
        for (var i = 2; File.Exists(target); i++)
            target = Path.Combine(
                root,
                to,
                Path.GetDirectoryName(name) ?? "",
                $"{Path.GetFileNameWithoutExtension(name)} {i}{Path.GetExtension(name)}"
            );
        return target;
    }
}
