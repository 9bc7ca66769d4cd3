using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>Writes the files of one run of an export plan; each is noted with its hash when it is whole.</summary>
/// <param name="database">Where they are noted.</param>
/// <param name="folder">Where documents lie.</param>
/// <param name="jobs">Told of each document.</param>
/// <param name="run">The run.</param>
/// <param name="query">Which documents.</param>
/// <param name="leaving">How each leaves.</param>
/// <param name="payload">The folder to write into.</param>
/// <param name="job">The job that writes.</param>
/// <param name="cancel">Stops between documents.</param>
internal sealed class ExportWriting(
    Database database,
    DataFolder folder,
    Jobs jobs,
    Run<ExportOrder> run,
    RepositoryQuery query,
    Leaving leaving,
    string payload,
    Job job,
    CancellationToken cancel
)
{
    private const int AtOnce = 100;

    private readonly ExportDefinition _what = run.Order.What;

    /// <summary>
    /// Writes the files of each document, and its record where each has a file of its own; what is there already is passed over.
    /// </summary>
    public void EachDocument()
    {
        // Names alone may be equal; folders with names never are.
        var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        for (long? after = null; ; )
        {
            var page = database.Read(c => RepositorySearch.Find(c, query, AtOnce, after));
            foreach (var document in page.Documents)
            {
                cancel.ThrowIfCancellationRequested();
                var path = leaving.PathOf(document);
                if (!names.Add(path))
                    names.Add(
                        path = $"{CodePoints.First(Path.GetFileNameWithoutExtension(path), 50)} ({document.Id}){Path.GetExtension(path)}"
                    );
                if (!database.Read(c => ExportStore.IsSettled(c, run.Key, document.Id)))
                    Write(document, path);
                jobs.Step(job);
            }
            if (!page.After)
                return;
            after = page.Documents[^1].Id;
        }
    }

    private void Write(StoredDocument document, string path)
    {
        var pages = database.Read(c => DocumentStore.Pages(c, document.Id));
        var files = new List<ExportedFile>();
        if (leaving.WhyNot(document, pages) is { } reason)
        {
            database.Write(c =>
                RunStore.Tell(c, run.Key, new RunStep<DocumentAlone>(document.Id, new DocumentAlone()).As(StepState.Skipped, reason))
            );
            return;
        }
        try
        {
            if (_what.Files != "none")
                using (var copies = new DocumentCopies(_what, leaving, folder, document, pages))
                    foreach (var (name, write) in copies.Of(path))
                        files.Add(Written(_what.Package ? $"files/{name}" : name, document.Id, write));
        }
        catch (RefusedException e)
        {
            // All of its files, or none.
            foreach (var file in files)
                File.Delete(Path.Combine(payload, file.Path));
            database.Write(c =>
                RunStore.Tell(c, run.Key, new RunStep<DocumentAlone>(document.Id, new DocumentAlone()).As(StepState.Skipped, e.Message))
            );
            return;
        }
        if (_what.FileEach)
            files.Add(
                Written(
                    Path.ChangeExtension(path, RecordFiles.Extension(ExportPlans.Formats[_what.Format])),
                    document.Id,
                    target =>
                        RecordFiles.Write(
                            target,
                            ExportPlans.Formats[_what.Format],
                            document.TypeCode!,
                            leaving.Columns,
                            leaving.Shape,
                            [leaving.Row(document)]
                        )
                )
            );
        database.Write(c => files.ForEach(f => ExportStore.AddFile(c, run.Key, f)));
    }

    /// <summary>Writes the records of all documents into one file of each format.</summary>
    public void Records()
    {
        void Write(string format)
        {
            using var c = database.Connect();
            var begun = job.Done;
            var file = Written(
                "records" + RecordFiles.Extension(ExportPlans.Formats[format]),
                null,
                target =>
                    RecordFiles.Write(
                        target,
                        ExportPlans.Formats[format],
                        query.TypeCode!,
                        leaving.Columns,
                        leaving.Shape,
                        RepositorySearch
                            .All(c, query)
                            .Select(d =>
                            {
                                cancel.ThrowIfCancellationRequested();
                                job.Step();
                                return leaving.Row(d);
                            })
                    )
            );
            job.Total = Math.Max(job.Total, job.Done);
            database.Write(w => ExportStore.AddFile(w, run.Key, file));
            if (format != _what.Format)
                job.Done = begun;
        }
        // A package is taken up by other programs: both of the formats that they read.
        foreach (var also in _what.Package ? new[] { "jsonl", "csv" }.Where(f => f != _what.Format) : [])
            Write(also);
        Write(_what.Format);
    }

    /// <summary>Writes what stands beside records and says how they are to be read.</summary>
    /// <param name="type">Code of their type.</param>
    public void Beside(string type)
    {
        void Add(string name, Action<string> write)
        {
            var file = Written(name, null, write);
            database.Write(c => ExportStore.AddFile(c, run.Key, file));
        }
        if (_what.Files == "strips")
            Add("strips.csv", target => WriteIndex(target));
        if (_what.Format == "xml")
            Add("records.xsd", target => RecordSchema.Write(target, type, leaving.Columns));
        if (_what.Package)
            Add("records.csv-metadata.json", target => File.WriteAllText(target, RecordSchema.CsvMetadata(leaving.Columns).ToJsonString()));
    }

    // Which strip shows what: a line each, by the names that the strips bear.
    private void WriteIndex(string target)
    {
        using var writer = new StreamWriter(target);
        SafeCsv.WriteLine(writer, ["file", "document", "field", "page", "value"]);
        for (
            var after = "";
            database.Read(c => ExportStore.Files(c, run.Key, after, 1_000)) is { Count: > 0 } files;
            after = files[^1].Path
        )
            foreach (var file in files.Where(f => f.Document is not null && f.Path.EndsWith(".png", StringComparison.Ordinal)))
            {
                var (field, page) = DocumentCopies.StripOf(file.Path);
                var value = database.Read(c => DocumentStore.Find(c, file.Document!.Value))?.Record.GetValueOrDefault(field, "") ?? "";
                SafeCsv.WriteLine(writer, [file.Path, $"{file.Document}", leaving.LabelOf(field), page, value]);
            }
    }

    // A file is written under another name, and bears its own when it is whole.
    private ExportedFile Written(string path, long? document, Action<string> write)
    {
        var target = Path.GetFullPath(Path.Combine(payload, path));
        if (!target.StartsWith(payload + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            throw new RefusedException($"“{path}” leads out of the export.");
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var part = Path.Combine(payload, ".part");
        if (File.Exists(part))
            File.Delete(part);
        write(part);
        folder.Disk.FlushFile(part);
        File.Move(part, target, overwrite: true);
        return new ExportedFile(path, document, new FileInfo(target).Length, DataFolder.HashOf(target));
    }

    /// <summary>Sees that every file that was noted is there.</summary>
    /// <exception cref="RefusedException">One is gone, or was changed.</exception>
    public void CheckAllThere()
    {
        for (var after = ""; ; )
        {
            cancel.ThrowIfCancellationRequested();
            var files = database.Read(c => ExportStore.Files(c, run.Key, after, 1_000));
            if (files.Count == 0)
                return;
            foreach (var file in files)
                if (new FileInfo(Path.Combine(payload, file.Path)) is not { Exists: true } there || there.Length != file.Bytes)
                    throw new RefusedException($"“{file.Path}” is no longer there, or was changed. Start a new run.");
            after = files[^1].Path;
        }
    }
}
