using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Migration;

/// <summary>What was found in a package.</summary>
/// <param name="Documents">How many documents.</param>
/// <param name="Bytes">How large its files are together.</param>
/// <param name="Types">Documents by the name of their type.</param>
/// <param name="Design">Vocabularies, tables and readers in words.</param>
/// <param name="Problems">What is wrong with it; while there is anything, it is not taken over.</param>
public sealed record PackageLook(
    long Documents,
    long Bytes,
    IReadOnlyDictionary<string, long> Types,
    string Design,
    IReadOnlyList<string> Problems
);

/// <summary>A package that is taken over.</summary>
/// <param name="Folder">Its folder in <c>packages/</c>.</param>
public sealed record PackageOrder(string Folder)
{
    /// <summary>What was found; null until it was looked at to the end.</summary>
    public PackageLook? Look { get; init; }

    /// <summary>The batch of the files that its documents came as; null while not even the design is here.</summary>
    public long? Batch { get; init; }
}

/// <summary>
/// Takes over a package of a whole repository that lies in <c>packages/</c>, into an installation that holds nothing yet. A look checks
/// every file against the package's manifests and reads every document; taking over brings the design, then documents in chunks, under the
/// numbers that they had: files are copied first, then a transaction makes the records, so that after a kill it goes on where it was. As
/// long as nobody has touched a document it can be taken away again.
/// </summary>
public sealed class Takeovers(Database database, DataFolder folder, DesignFiles files, Designs designs, Jobs jobs, TimeProvider clock)
    : IWorksInJobs
{
    private const int MostListed = 20;

    private readonly PackageContents _contents = new(folder, files);

    private Runs<PackageOrder, DocumentAlone> Runs =>
        field ??= new(
            database,
            jobs,
            clock,
            new(
                "takeover",
                "design",
                _ => "/Migration/Packages",
                ("Looking through the package", "Importing the package", "Removing the documents again")
            )
            {
                LookAll = Look,
                DoAll = Take,
                UndoAll = TakeAway,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Runs.Kinds;

    /// <summary>What its jobs have as their subject.</summary>
    public const string Subject = "takeover";

    /// <summary>Called before each chunk; tests stop here.</summary>
    internal Action<string> Checkpoint { get; set; } = _ => { };

    /// <summary>Folders in <c>packages/</c> that can be looked at, by name.</summary>
    public List<string> Waiting() =>
        Directory.Exists(folder.Packages)
            ? [.. Directory.GetDirectories(folder.Packages).Select(f => Path.GetFileName(f)).Order(StringComparer.Ordinal)]
            : [];

    /// <summary>Packages that were looked at, the newest first.</summary>
    public List<Run<PackageOrder>> Newest() => Runs.Newest(MostListed);

    /// <summary>
    /// Why a package cannot be taken over here; null when it can. What was brought with it and removed again has left the design, which is
    /// no hindrance as long as it is the same.
    /// </summary>
    /// <param name="package">Its folder; null for one that is not known yet.</param>
    public string? WhyNot(string? package = null) =>
        database.Read(TakeoverStore.IsEmpty) || package is not null && !database.Read(TakeoverStore.HasDocuments) && HasSameDesign(package)
            ? null
            : "This installation holds documents or other document types already. A whole repository can only be imported into an empty "
                + "one, or into one without documents whose design is the same.";

    private bool HasSameDesign(string package) =>
        WholePackage.Design(Path.Combine(folder.Packages, package)) is var design
        && File.Exists(design)
        && File.ReadAllText(design) == DesignFileJson.Write(files.Export());

    /// <summary>Looks through a package.</summary>
    public Result<Job> StartLook(string package, string who)
    {
        if (!Waiting().Contains(package))
            return Result<Job>.Not("This folder is no longer in packages/.");
        return Runs.Begin(Subject, new PackageOrder(package), who).With(b => b.Job);
    }

    /// <summary>Takes over what was looked at, or goes on with it after a stop.</summary>
    public Result<Job> StartTake(long id, string who) =>
        Runs.Find(id) switch
        {
            { State: RunState.Looked, Order.Look.Problems.Count: > 0 } => Result<Job>.Not(
                "Something is wrong with this package, so it is not imported."
            ),
            { State: RunState.Looked } looked when WhyNot(looked.Order.Folder) is { } problem => Result<Job>.Not(problem),
            { State: RunState.Looked or RunState.Applying } => Runs.Apply(id, who),
            _ => Result<Job>.Not("This package was taken over, or the check of it was not finished."),
        };

    /// <summary>Takes the documents of a package away again; those that somebody has touched since stay.</summary>
    public Result<Job> StartTakeAway(long id, string who) => Runs.Undo(id, who);

    private string PathOf(Run<PackageOrder> takeover) => Path.Combine(folder.Packages, takeover.Order.Folder);

    private void Look(Run<PackageOrder> takeover, Job job, CancellationToken cancel)
    {
        var package = PathOf(takeover);
        var house = WholePackage.Find(package);
        var bytes = 0L;
        (job.Total, job.Done) = (0, 0);
        // By what it holds when it is sound; what is not is told first.
        List<string> problems =
        [
            .. BagItPackage.Problems(
                package,
                read =>
                {
                    bytes += read;
                    job.Step();
                },
                cancel
            ),
        ];
        var (types, design) = (new Dictionary<string, long>(StringComparer.Ordinal), "");
        if (problems.Count == 0 && house is null)
            problems.Add(
                "It is a package, but not one of a whole repository of this version: house.json is missing or says something else."
            );
        if (problems.Count == 0)
        {
            try
            {
                problems.AddRange(_contents.Problems(package, house!, database.Read(TakeoverStore.IsEmpty), types, out design, cancel));
            }
            catch (RefusedException e)
            {
                problems.Add(e.Message);
            }
        }
        var look = new PackageLook(types.Values.Sum(), bytes, types, design, [.. problems.Take(BagItPackage.MostProblems)]);
        database.Write(c => RunStore.SetOrder(c, takeover.Key, takeover.Order with { Look = look }));
    }

    private void Take(Run<PackageOrder> takeover, Job job, CancellationToken cancel)
    {
        var package = PathOf(takeover);
        var house = WholePackage.Find(package) ?? throw new RefusedException("The package is no longer there, or was changed.");
        job.Total = house.Documents;
        var batch = takeover.Order.Batch ?? TakeDesign(takeover, package, house, job.Who);
        var known = database.Read(c => BatchStore.ByPath(c, batch));
        var published = designs.Published.ToDictionary(p => p.Key, p => p.Value.Type.Type.Name);
        var size = new ChunkSize(first: 20);
        using var documents = WholePackage.Read(package, takeover.Reached).GetEnumerator();
        for (var more = true; more; )
        {
            cancel.ThrowIfCancellationRequested();
            var chunk = new List<PackagedDocument>();
            while (chunk.Count < size.Now && (more = documents.MoveNext()))
                chunk.Add(documents.Current);
            if (chunk.Count == 0)
                break;
            foreach (var packaged in chunk)
            {
                // As it was looked at: what was changed since is not taken.
                if (_contents.Wrong(package, packaged, published) is { } wrong)
                    throw new RefusedException($"Document {packaged.Document.Id}: {wrong}");
                CopyFiles(package, packaged);
            }
            Checkpoint("copied");
            jobs.Chunk(
                job,
                size,
                c =>
                {
                    foreach (var packaged in chunk)
                        Make(c, packaged, batch, known);
                    RunStore.Reach(c, takeover.Key, chunk[^1].Document.Id, chunk.Count);
                    job.Done += chunk.Count;
                    return chunk.Count;
                }
            );
            Checkpoint("made");
        }
        // A later version may stand before the one that it is a version of.
        foreach (var packaged in WholePackage.Read(package, 0).Where(p => p.Document.VersionOf > p.Document.Id))
            database.Write(c => TakeoverStore.Complete(c, packaged.Document));
        Tell(
            job,
            takeover,
            $"took over {Counted.Of((int)house.Documents, "document")} of a whole repository",
            DataFolder.HashOf(Path.Combine(package, "manifest-sha256.txt"))
        );
    }

    private void Tell(Job job, Run<PackageOrder> takeover, string act, string detail) =>
        database.Write(c =>
            LedgerStore.Append(c, clock.GetUtcNow(), job.Who, act, new LedgerSubject(SubjectKind.Package, takeover.Order.Folder), detail)
        );

    // The design, and the batch that its documents belong to.
    private long TakeDesign(Run<PackageOrder> takeover, string package, PackagedHouse house, string who)
    {
        var file = DesignFileJson.Read(File.ReadAllText(WholePackage.Design(package)));
        if (!file.Ok)
            throw new RefusedException(file.Problem!);
        // A kill may have come behind it.
        if (file.Value!.Types.Any(t => designs.Find(t.Design.Code) is null) && files.Import(file.Value, who).Problem is { } problem)
            throw new RefusedException(problem);
        var batch = database.Write(c =>
        {
            foreach (var (key, number) in house.Counters)
                CounterStore.Take(c, key, number);
            var batch = BatchStore.Add(c, CodePoints.First(takeover.Order.Folder, 80), who, clock.GetUtcNow());
            RunStore.SetOrder(c, takeover.Key, takeover.Order with { Batch = batch });
            return batch;
        });
        Checkpoint("design");
        return batch;
    }

    private void CopyFiles(string package, PackagedDocument packaged)
    {
        var payload = WholePackage.Payload(package);
        var document = packaged.Document;
        if (document.HasFile)
        {
            var to = folder.InRepository(document.Folder!, document.Name!);
            Copy(Path.Combine(payload, WholePackage.PathOf(document)), to);
            if (DataFolder.HashOf(to) != document.FileHash)
            {
                File.Delete(to);
                throw new RefusedException($"The file of document {document.Id} is not what its record says; the package was changed.");
            }
            folder.Disk.FlushFolders(Path.GetDirectoryName(to)!, folder.Root);
        }
        foreach (var file in WholePackage.FilesOf(packaged).Where(WholePackage.IsOwn))
            if (File.Exists(Path.Combine(payload, file)))
                Copy(Path.Combine(payload, file), folder.Absolute(file));
    }

    // Under its name only when it is whole. One that stands there is the copy that a kill has left, or another file, which stays.
    private void Copy(string from, string to)
    {
        if (File.Exists(to))
        {
            if (DataFolder.HashOf(to) != DataFolder.HashOf(from))
                throw new RefusedException($"“{folder.Relative(to)}” is there already, and is another file.");
            return;
        }
        var draft = Path.Combine(folder.Drafts, $"{Guid.NewGuid():N}.copy");
        folder.Disk.Copy(from, draft);
        folder.Disk.FlushFile(draft);
        folder.Disk.Move(draft, to);
    }

    private void Make(SqliteConnection c, PackagedDocument packaged, long batch, Dictionary<string, long> known)
    {
        var published = designs.Published[packaged.Document.TypeCode!];
        var document = packaged.Document with { BatchId = batch, Version = published.Version, WaveId = null, ReaderVersion = null };
        long? FileOf(PackagedPage page)
        {
            if (page.File is not { } stored)
                return null;
            if (!known.TryGetValue(stored, out var id))
                known[stored] = id = BatchStore.AddTaken(
                    c,
                    batch,
                    stored,
                    page.IsWholeFile ? packaged.Pages.Count(p => p.Number > 0 && p.File == stored) : null
                );
            return id;
        }
        List<StoredPage> pages =
        [
            .. packaged.Pages.Select(p => new StoredPage(p.Number, p.Image, p.Text, p.Notice)
            {
                FileId = FileOf(p),
                FilePage = p.FilePage,
            }),
        ];
        DocumentStore.Add(c, document, pages);
        DocumentStore.MarkFiled(c, document with { VersionOf = null }, document.FiledAt!.Value.Utc, document.FiledBy!);
        TakeoverStore.Complete(c, document);
        foreach (var h in packaged.History)
            ValueHistoryStore.Add(c, document.Id, h);
        Rebuilding.Keep(c, document, published.Type, [.. pages.Where(p => p.Number > 0)]);
    }

    private void TakeAway(Run<PackageOrder> takeover, Job job, CancellationToken cancel)
    {
        var package = PathOf(takeover);
        (job.Total, job.Done) = (WholePackage.Find(package)?.Documents ?? 0, 0);
        var stays = 0;
        foreach (var packaged in WholePackage.Read(package, 0).TakeWhile(p => p.Document.Id <= takeover.Reached))
        {
            cancel.ThrowIfCancellationRequested();
            var was = packaged.Document;
            var gone = database.Write(c =>
            {
                var now = DocumentStore.Find(c, was.Id);
                if (now is not null && !IsUntouched(c, packaged, now))
                    return false;
                if (now is not null)
                    TakeoverStore.Remove(c, now);
                return true;
            });
            // Also behind a kill that came between record and file.
            if (gone && was.HasFile && folder.InRepository(was.Folder!, was.Name!) is var file && File.Exists(file))
            {
                if (DataFolder.HashOf(file) == was.FileHash)
                    File.Delete(file);
            }
            else if (!gone)
                stays++;
            jobs.Step(job);
        }
        Tell(
            job,
            takeover,
            "removed the documents of a package again",
            stays == 0 ? "" : $"{Counted.Of(stays, "document")} stay, which were changed since"
        );
    }

    private static bool IsUntouched(SqliteConnection c, PackagedDocument packaged, StoredDocument now) =>
        now.Filed
        && (now.Folder, now.Name, now.FileHash, now.Parked)
            == (packaged.Document.Folder, packaged.Document.Name, packaged.Document.FileHash, packaged.Document.Parked)
        && Sql.AreSame(now.Record, packaged.Document.Record)
        && ValueHistoryStore.Of(c, now.Id).Count == packaged.History.Count;
}
