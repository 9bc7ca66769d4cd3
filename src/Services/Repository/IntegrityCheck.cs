using ClearLexicon.Core.Conventions;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>What is not as the record says.</summary>
public enum Misplacement
{
    /// <summary>No file stands where the record says.</summary>
    Missing,

    /// <summary>The file is not the one that was filed.</summary>
    Changed,

    /// <summary>The path says other values than the record.</summary>
    OtherValues,

    /// <summary>A file without a record.</summary>
    Stray,
}

/// <summary>One document or file that does not stand right.</summary>
/// <param name="What">What is wrong.</param>
/// <param name="Path">Folder and name.</param>
/// <param name="Detail">More of it, in words.</param>
/// <param name="DocumentId">The document; for a stray file the missing one whose file it is. Null when there is none.</param>
public sealed record Misplaced(Misplacement What, string Path, string Detail, long? DocumentId);

/// <summary>What a look over the repository found.</summary>
/// <param name="At">When.</param>
/// <param name="Looked">Filed documents looked at.</param>
/// <param name="Counts">How many of each.</param>
/// <param name="Found">The first of them.</param>
public sealed record IntegrityReport(
    Instant At,
    long Looked,
    IReadOnlyDictionary<Misplacement, long> Counts,
    IReadOnlyList<Misplaced> Found
);

/// <summary>
/// Looks whether every filed document still stands where its record says and is what was filed, and whether its path, read back by the
/// convention, says what the record says. A file that was moved by hand is known by its content and can be put back.
/// </summary>
public sealed class IntegrityCheck(Database database, DataFolder folder, Designs designs, Moves moves, Jobs jobs, TimeProvider clock)
    : IWorksInJobs
{
    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => [JobKind.Of("standing", "Integrity check", "desk", Look)];

    /// <summary>Address of the page that shows it.</summary>
    public const string Page = "/Repository/IntegrityCheck";

    private const int MostFound = 1_000;

    /// <summary>The last look of this process; null when there was none.</summary>
    public IntegrityReport? Last { get; private set; }

    /// <summary>Looks in the background; nothing is changed.</summary>
    public Result<Job> Start(string who = "") => jobs.Start("standing", "repository", Page, new { }, who);

    private void Look(Job job, CancellationToken cancel)
    {
        job.Done = 0;
        var counts = Enum.GetValues<Misplacement>().ToDictionary(m => m, _ => 0L);
        var found = new List<Misplaced>();
        var missing = new Dictionary<string, StoredDocument>(StringComparer.Ordinal);
        void Found(Misplaced misplaced)
        {
            counts[misplaced.What]++;
            if (found.Count < MostFound)
                found.Add(misplaced);
        }
        var types = designs.Published;
        job.Total = database.Read(RepositoryStore.CountByType).Where(t => types.ContainsKey(t.Key)).Sum(t => (long)t.Value);
        using var reading = database.Connect();
        foreach (var (code, published) in types)
        {
            var reader = published.Type.PathReader();
            RepositoryStore.Each(
                reading,
                code,
                document =>
                {
                    cancel.ThrowIfCancellationRequested();
                    var path = $"{document.Folder}/{document.Name}";
                    if (document.HasFile)
                    {
                        var file = folder.InRepository(document.Folder!, document.Name!);
                        if (!File.Exists(file))
                        {
                            missing.TryAdd(document.FileHash ?? "", document);
                            Found(new Misplaced(Misplacement.Missing, path, "there is no file", document.Id));
                        }
                        else if (DataFolder.HashOf(file) != document.FileHash)
                            Found(new Misplaced(Misplacement.Changed, path, "its content is not what was filed", document.Id));
                    }
                    if (moves.PathSays(reading, document, reader) is { Count: > 0 } says)
                        Found(
                            new Misplaced(
                                Misplacement.OtherValues,
                                path,
                                string.Join(
                                    "; ",
                                    says.Select(s =>
                                        $"the path says {s.Label} {s.InPath}, the record "
                                        + $"{(s.InRecord.Length == 0 ? "nothing" : s.InRecord)}"
                                    )
                                ),
                                document.Id
                            )
                        );
                    job.Step();
                }
            );
        }
        Strays(missing, Found, cancel);
        Last = new IntegrityReport(clock.Moment(), job.Done, counts, found);
    }

    private void Strays(Dictionary<string, StoredDocument> missing, Action<Misplaced> found, CancellationToken cancel)
    {
        if (!Directory.Exists(folder.Repository))
            return;
        using var reading = database.Connect();
        foreach (var file in Directory.EnumerateFiles(folder.Repository, "*", SearchOption.AllDirectories))
        {
            cancel.ThrowIfCancellationRequested();
            var path = Path.GetRelativePath(folder.Repository, file).Replace(Path.DirectorySeparatorChar, '/');
            var (inside, name) = Split(path);
            if (RepositoryStore.At(reading, inside, name) is not null)
                continue;
            var of = missing.Count > 0 ? missing.GetValueOrDefault(DataFolder.HashOf(file)) : null;
            found(
                new Misplaced(Misplacement.Stray, path, of is null ? "no document has it" : $"is the file of {of.Folder}/{of.Name}", of?.Id)
            );
        }
    }

    private static (string Folder, string Name) Split(string path) =>
        path.LastIndexOf('/') is >= 0 and var at ? (path[..at], path[(at + 1)..]) : ("", path);

    /// <summary>Moves a stray file back where the record of its document says; nothing is overwritten.</summary>
    /// <param name="path">Where it stands, below the repository.</param>
    /// <param name="documentId">The document whose file it is.</param>
    /// <param name="who">Who.</param>
    public Result PutBack(string path, long documentId, string who)
    {
        if (database.Read(c => DocumentStore.Find(c, documentId)) is not { Filed: true, HasFile: true } document)
            return "There is no such filed document.";
        var (inside, name) = Split(path);
        var (from, to) = (folder.InRepository(inside, name), folder.InRepository(document.Folder!, document.Name!));
        if (!File.Exists(from))
            return $"“{path}” is no longer there. Look again.";
        if (DataFolder.HashOf(from) != document.FileHash)
            return $"“{path}” is not the file that was filed.";
        if (database.Read(c => RepositoryStore.At(c, inside, name)) is not null)
            return $"“{path}” is the place of another document.";
        try
        {
            folder.Disk.Move(from, to);
            folder.Disk.FlushFolders(Path.GetDirectoryName(to)!, folder.Root);
        }
        catch (Exception e) when (Failures.IsFromOutside(e))
        {
            return $"It could not be put back: {Failures.InWords(e)}";
        }
        database.Write(c =>
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "put a file back",
                LedgerSubject.Document(documentId),
                $"{path} → {document.Folder}/{document.Name}"
            )
        );
        if (Last is { } last)
            Last = last with
            {
                Found =
                [
                    .. last.Found.Where(f => f.DocumentId != documentId || f.What is not (Misplacement.Stray or Misplacement.Missing)),
                ],
            };
        return Result.Done;
    }
}
