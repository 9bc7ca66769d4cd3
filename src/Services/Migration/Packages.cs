using System.Globalization;
using ClearLexicon.Formats;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Migration;

/// <summary>
/// Packs the whole repository, so that another installation can take it over with nothing lost: the design, each filed document with its
/// pages, its values, where they were read and how they changed, and all of its files. It is written into a hidden folder of
/// <c>exports/</c> and gets its name there when it is complete; after a stop it is begun anew.
/// </summary>
public sealed class Packages(Database database, DataFolder folder, DesignFiles files, Jobs jobs, TimeProvider clock) : IWorksInJobs
{
    private const int AtOnce = 100;
    private const string Unfinished = ".package-";

    private sealed record Into(string Folder);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => [JobKind.Of("package", "Packing the whole repository", "design", Pack)];

    /// <summary>What its job has as its subject.</summary>
    public const string Subject = "package";

    /// <summary>Packages of the whole repository that lie in <c>exports/</c>, the newest name first.</summary>
    public List<(string Folder, long Documents)> Made() =>
        Directory.Exists(folder.Exports)
            ?
            [
                .. Directory
                    .GetDirectories(folder.Exports)
                    .Where(f => !Path.GetFileName(f).StartsWith('.'))
                    .Select(f => (Path.GetFileName(f), WholePackage.Find(f)?.Documents))
                    .Where(f => f.Item2 is not null)
                    .Select(f => (f.Item1, f.Item2!.Value))
                    .OrderByDescending(f => f.Item1, StringComparer.Ordinal),
            ]
            : [];

    /// <summary>Starts to pack everything.</summary>
    public Result<Job> Start(string who)
    {
        var name = string.Create(CultureInfo.InvariantCulture, $"Whole repository {clock.GetLocalNow():yyyy-MM-dd HHmm}");
        return Path.Exists(Path.Combine(folder.Exports, name))
            ? Result<Job>.Not($"exports/{name} is there already; try again in a minute.")
            : jobs.Start("package", Subject, "/Migration/Packages", new Into(name), who);
    }

    private void Pack(Job job, CancellationToken cancel)
    {
        var (work, final) = (Path.Combine(folder.Exports, Unfinished + job.Id), Path.Combine(folder.Exports, job.Given<Into>().Folder));
        // After a kill behind the last step it stands in its place already.
        if (!Directory.Exists(final))
        {
            if (Directory.Exists(work))
                Directory.Delete(work, recursive: true);
            try
            {
                Fill(job, work, final, cancel);
                Directory.Move(work, final);
            }
            catch
            {
                if (Directory.Exists(work))
                    Directory.Delete(work, recursive: true);
                throw;
            }
        }
        database.Write(c =>
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                job.Who,
                $"packed the whole repository into exports/{Path.GetFileName(final)}",
                new LedgerSubject(SubjectKind.Package),
                DataFolder.HashOf(Path.Combine(final, "manifest-sha256.txt"))
            )
        );
    }

    private void Fill(Job job, string work, string final, CancellationToken cancel)
    {
        Directory.CreateDirectory(WholePackage.Payload(work));
        job.Total = database.Read(c => RepositorySearch.Count(c, new RepositoryQuery())).Number;
        var count = 0L;
        using (var lines = new StreamWriter(WholePackage.Documents(work)))
            for (var last = 0L; ; )
            {
                var ids = database.Read(c => DocumentStore.FiledIds(c, last, AtOnce));
                if (ids.Count == 0)
                    break;
                foreach (var id in ids)
                {
                    cancel.ThrowIfCancellationRequested();
                    if (Copied(id, WholePackage.Payload(work)) is { } packaged)
                    {
                        lines.WriteLine(WholePackage.Write(packaged));
                        count++;
                    }
                    job.Step();
                }
                last = ids[^1];
            }
        // Behind the documents, so that it has every type that one of them has.
        File.WriteAllText(WholePackage.Design(work), DesignFileJson.Write(files.Export()));
        var counters = new Dictionary<string, int>(StringComparer.Ordinal);
        database.Read(c =>
        {
            CounterStore.Each(c, (key, number) => counters[key] = number);
            return 0;
        });
        File.WriteAllText(WholePackage.House(work), WholePackage.Write(new PackagedHouse(WholePackage.FormatName, 1, count, counters)));
        BagItPackage.Close(
            work,
            [
                ("Source-Organization", "Clear Lexicon"),
                ("External-Identifier", Path.GetFileName(final)),
                ("Bagging-Date", clock.GetUtcNow().ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)),
            ],
            cancel
        );
    }

    private static PackagedDocument Packaged(Microsoft.Data.Sqlite.SqliteConnection c, StoredDocument d) =>
        new(
            // Batches, waves and versions stay here; they would name others elsewhere.
            d with
            {
                BatchId = null,
                WaveId = null,
                Version = null,
                ReaderVersion = null,
            },
            [
                .. DocumentStore
                    .PagesAndSheet(c, d.Id)
                    .Select(p => new PackagedPage(p.Number, p.Image, p.Text, p.Notice, p.FileStored, p.FilePage, p.IsWholeFile)),
            ],
            ValueHistoryStore.Of(c, d.Id)
        );

    // A document as it is now, with its files; null when it is filed no more. People go on working meanwhile, so one that was moved since
    // it was read is read once more.
    private PackagedDocument? Copied(long id, string payload)
    {
        for (var tries = 2; ; tries--)
        {
            var packaged = database.Read(c => DocumentStore.Find(c, id) is { Filed: true } d ? Packaged(c, d) : null);
            if (packaged is null)
                return null;
            if (CopyFiled(packaged.Document, payload))
            {
                // Several documents may have come as one file.
                foreach (var file in WholePackage.FilesOf(packaged).Where(WholePackage.IsOwn))
                    if (File.Exists(folder.Absolute(file)) && !File.Exists(Path.Combine(payload, file)))
                        Copy(folder.Absolute(file), Path.Combine(payload, file));
                return packaged;
            }
            if (tries == 1)
                throw new RefusedException(
                    $"“{packaged.Document.Folder}/{packaged.Document.Name}” is not where its record says, or was changed by hand. "
                        + "The integrity check says more; nothing was packed."
                );
        }
    }

    private bool CopyFiled(StoredDocument document, string payload)
    {
        if (!document.HasFile)
            return true;
        var (from, to) = (folder.InRepository(document.Folder!, document.Name!), Path.Combine(payload, WholePackage.PathOf(document)));
        if (!File.Exists(from))
            return false;
        Copy(from, to);
        if (DataFolder.HashOf(to) == document.FileHash)
            return true;
        File.Delete(to);
        return false;
    }

    private static void Copy(string from, string to)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        File.Copy(from, to);
    }
}
