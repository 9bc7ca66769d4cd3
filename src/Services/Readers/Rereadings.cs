using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Readers;

/// <summary>
/// Reads documents again with a new or changed reader: a look first, which keeps what would be set; then set; then, if wanted, taken back
/// as a whole, but for what somebody has changed since. A value that a person has set is never replaced.
/// </summary>
public sealed class Rereadings(
    Database database,
    DataFolder folder,
    Designs designs,
    SearchRequests requests,
    IFileReader files,
    Jobs jobs,
    DocumentWriter writer,
    TimeProvider clock
) : IWorksInJobs
{
    private sealed record OfRun(long Run);

    private const int AtOnce = 20;

    private readonly DocumentRereading _reading = new(database, folder, designs, files);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            new JobKind("reread-look", "Looking at what reading again would set", "design", LookAsync),
            JobKind.Of("reread-apply", "Setting what was read again", "design", Apply),
            JobKind.Of("reread-undo", "Undoing what was read again", "design", Undo),
        ];

    /// <summary>What its jobs have as their subject.</summary>
    public static string Subject(string reader) => $"reader {reader}";

    private static string Address(string reader) => $"/Readers/Again/{reader}";

    /// <summary>Runs of a reader, newest first.</summary>
    public List<Rereading> Runs(string reader) => database.Read(c => RereadStore.Of(c, reader));

    /// <summary>Values of a run in a state; see <see cref="RereadValue"/>.</summary>
    public List<RereadValue> Values(long run, string state, int most) => database.Read(c => RereadStore.Values(c, run, state, most));

    /// <summary>How many values of a run are in each state.</summary>
    public Dictionary<string, long> Counts(long run) => database.Read(c => RereadStore.Counts(c, run));

    /// <summary>Begins to look at what reading again would set; nothing is changed.</summary>
    /// <param name="reader">Key of the reader, in its published version.</param>
    /// <param name="scope"><c>desk</c>, <c>filed</c> or <c>both</c>.</param>
    /// <param name="onlyEmpty">Whether only fields are set that hold nothing.</param>
    /// <param name="who">Who asks.</param>
    /// <param name="asks">The question whose filed documents alone are read again; null for all.</param>
    /// <param name="rights">What the person may ask; only needed with a question.</param>
    public Result<Job> Look(string reader, string scope, bool onlyEmpty, string who, ViewDefinition? asks = null, Rights? rights = null)
    {
        if (scope is not ("desk" or "filed" or "both"))
            return Result<Job>.Not("Choose which documents are read again.");
        if (database.Read(c => ReaderStore.Newest(c, reader)) is not { } newest)
            return Result<Job>.Not("Publish the reader first: documents are read by a published version.");
        if (!designs.Published.ContainsKey(newest.Reader.TypeCode))
            return Result<Job>.Not("The document type it fills is not published.");
        if (asks is not null)
        {
            var asked = requests.For(asks, rights ?? Rights.None);
            if (asked.Fault is { } fault)
                return Result<Job>.Not(fault.Says);
            if (asked.Type?.Code != newest.Reader.TypeCode)
                return Result<Job>.Not("This reader fills another document type than that of the question.");
            scope = "filed";
        }
        return jobs.Start(
            "reread-look",
            Subject(reader),
            Address(reader),
            new OfRun(0),
            who,
            c => new OfRun(RereadStore.Begin(c, reader, newest.Version, scope, onlyEmpty, asks, clock.GetUtcNow(), who))
        );
    }

    /// <summary>Sets what a look has planned.</summary>
    public Result<Job> Start(long run, string who) => Go(run, "reread-apply", ["looked", "applying"], "applying", who);

    /// <summary>Takes back what a run has set.</summary>
    public Result<Job> StartUndo(long run, string who) => Go(run, "reread-undo", ["applied", "applying", "undoing"], "undoing", who);

    private Result<Job> Go(long run, string kind, string[] from, string state, string who) =>
        database.Read(c => RereadStore.Find(c, run)) is not { } found || !from.Contains(found.State)
            ? Result<Job>.Not("This run can no longer do that; look again.")
            : jobs.Resume(
                kind,
                Subject(found.Reader),
                Address(found.Reader),
                new OfRun(run),
                who,
                c => RereadStore.SetState(c, run, state)
            );

    private async Task LookAsync(Job job, CancellationToken cancel)
    {
        var given = job.Given<OfRun>();
        if (database.Read(c => RereadStore.Find(c, given.Run)) is not { } run)
            return;
        var reader = database.Read(c => ReaderStore.Versions(c, run.Reader)).First(v => v.Version == run.Version).Reader;
        var others = database.Read(ReaderStore.Published).Select(v => v.Reader).Where(r => r.Key != reader.Key).ToList();
        // Those of the type, and on the desk those that nobody has claimed.
        (string? Type, string State)[] sources =
        [
            .. run.Scope == "filed" ? [] : new (string?, string)[] { (reader.TypeCode, "desk"), (null, "desk") },
            .. run.Scope == "desk" ? [] : new (string?, string)[] { (reader.TypeCode, "filed") },
        ];
        var asked = run.Asks is { } asks ? AskedIds(asks, run) : null;
        job.Total =
            run.Looked + (asked?.Count ?? database.Read(c => sources.Sum(s => DocumentStore.CountIn(c, s.Type, s.State, run.Reached))));
        job.Done = run.Looked;
        for (var last = run.Reached; ; )
        {
            var documents = database.Read(c =>
                asked is not null
                    ? asked
                        .SkipWhile(id => id <= last)
                        .Take(AtOnce)
                        .Select(id => DocumentStore.Find(c, id))
                        .OfType<StoredDocument>()
                        .ToList()
                    : sources.SelectMany(s => DocumentStore.In(c, s.Type, s.State, last, AtOnce)).OrderBy(d => d.Id).Take(AtOnce).ToList()
            );
            if (documents.Count == 0)
                break;
            foreach (var document in documents)
            {
                cancel.ThrowIfCancellationRequested();
                var read = await _reading.ReadAsync(document, reader, others, cancel);
                last = document.Id;
                // What was looked at, and how far, in one transaction: a stop loses or doubles nothing.
                database.Write(c =>
                {
                    foreach (var (field, text, evidence) in read)
                        if (Wanted(c, document, field, text, run.OnlyEmpty))
                            RereadStore.Plan(
                                c,
                                run.Id,
                                document.Id,
                                field,
                                document.Record.GetValueOrDefault(field, ""),
                                text,
                                document.Evidence.GetValueOrDefault(field),
                                evidence
                            );
                    RereadStore.Reach(c, run.Id, last, 1);
                });
                job.Step();
            }
        }
        database.Write(c => RereadStore.SetState(c, run.Id, "looked"));
    }

    // The documents of a question that are still to be looked at, by their ids: what is set changes what it finds.
    private List<long> AskedIds(ViewDefinition asks, Rereading run) =>
        database.Read(c =>
        {
            var asked = requests.For(asks, new Rights(PeopleStore.Find(c, run.Who)?.Roles ?? []));
            if (asked.Fault is { } fault)
                throw new RefusedException(fault.Says);
            return RepositorySearch.All(c, asked.Query).Select(d => d.Id).Where(id => id > run.Reached).Order().ToList();
        });

    private static bool Wanted(SqliteConnection c, StoredDocument document, string field, string text, bool onlyEmpty)
    {
        var before = document.Record.GetValueOrDefault(field, "");
        return text.Length > 0
            && before != text
            && (before.Length == 0 || !onlyEmpty && !ValueHistoryStore.IsTouched(c, document.Id, field));
    }

    private void Apply(Job job, CancellationToken cancel)
    {
        var run = database.Read(c => RereadStore.Find(c, job.Given<OfRun>().Run))!;
        var reason = $"read again by {run.Reader}, version {run.Version}";
        job.Total = job.Done + Counts(run.Id).GetValueOrDefault("planned");
        jobs.Through(
            job,
            (c, most) => RereadStore.Values(c, run.Id, "planned", most),
            (c, value) => SetPlanned(c, run, value, reason, job.Who),
            cancel
        );
        database.Write(c =>
        {
            RereadStore.SetState(c, run.Id, "applied");
            LedgerStore.Append(c, clock.GetUtcNow(), job.Who, "read documents again", Subject(run.Reader), $"{job.Done} values");
        });
    }

    private void SetPlanned(SqliteConnection c, Rereading run, RereadValue value, string reason, string who)
    {
        if (DocumentStore.Find(c, value.Document) is not { } document)
            RereadStore.Settle(c, value.Id, "left", "the document is no longer there");
        else if (document.Record.GetValueOrDefault(value.Field, "") != value.Before)
            RereadStore.Settle(c, value.Id, "left", "it was changed in the meantime");
        else if (document.Filed && WhyNot(c, document, value, who) is { } problem)
            RereadStore.Settle(c, value.Id, "left", problem);
        else
        {
            var read = With(document, value.Field, value.After, value.EvidenceAfter);
            // A page that nobody claimed has a reader now.
            if (!document.Filed && (document.ReaderKey is null || document.ReaderKey == run.Reader))
                read = read with
                {
                    ReaderKey = run.Reader,
                    ReaderVersion = run.Version,
                    TypeCode = read.TypeCode ?? ReaderStore.Find(c, run.Reader)!.TypeCode,
                    Version = read.Version ?? designs.Published[ReaderStore.Find(c, run.Reader)!.TypeCode].Version,
                };
            writer.Write(c, new DocumentChange(document, read, reason, who));
            RereadStore.Settle(c, value.Id, "set");
        }
    }

    // A filed record keeps to its rules: what would break one is left to a person.
    private string? WhyNot(SqliteConnection c, StoredDocument document, RereadValue value, string who)
    {
        var after = document with { Record = JudgedDocument.With(document.Record, value.Field, value.After) };
        if (JudgedDocument.Of(c, designs, after, who).Judged is not { } judged)
            return null;
        var change = new DocumentChange(document, after, null, who) { Judged = judged };
        return writer.Weigh(c, change, ChangePolicy.Rereading, value.Field).Verdict.In(Messages.English);
    }

    private void Undo(Job job, CancellationToken cancel)
    {
        var run = database.Read(c => RereadStore.Find(c, job.Given<OfRun>().Run))!;
        job.Total = job.Done + Counts(run.Id).GetValueOrDefault("set");
        jobs.Through(
            job,
            (c, most) => RereadStore.Values(c, run.Id, "set", most),
            (c, value) =>
            {
                if (
                    DocumentStore.Find(c, value.Document) is not { } document
                    || document.Record.GetValueOrDefault(value.Field, "") != value.After
                )
                    RereadStore.Settle(c, value.Id, "stays", "it was changed after that");
                else
                {
                    var back = With(document, value.Field, value.Before, value.EvidenceBefore);
                    writer.Write(c, new DocumentChange(document, back, "undone", job.Who));
                    RereadStore.Settle(c, value.Id, "back");
                }
            },
            cancel
        );
        database.Write(c =>
        {
            RereadStore.SetState(c, run.Id, "undone");
            LedgerStore.Append(c, clock.GetUtcNow(), job.Who, "undid what was read again", Subject(run.Reader), $"{job.Done} values");
        });
    }

    private static StoredDocument With(StoredDocument document, string field, string text, Evidence? evidence)
    {
        var evidences = document.Evidence.Where(e => e.Key != field).ToDictionary(StringComparer.Ordinal);
        if (evidence is not null)
            evidences[field] = evidence;
        return document with { Record = JudgedDocument.With(document.Record, field, text), Evidence = evidences };
    }

    /// <summary>
    /// Reads one document on the desk with a reader that a person names, whether or not another claims it better. Whether the person sees
    /// the document is asked by the caller.
    /// </summary>
    public Result ReadWith(long id, string key, string who)
    {
        var (document, pages, version) = database.Read(c =>
            (DocumentStore.Find(c, id), DocumentStore.PagesAndSheet(c, id), ReaderStore.Newest(c, key))
        );
        if (document is not { Filed: false } || version is null)
            return "The document is no longer on the desk, or the reader is not published.";
        if (!designs.Published.TryGetValue(version.Reader.TypeCode, out var published))
            return "The document type that it fills is not published.";
        if (pages.All(p => p.Number == 0))
            return "The document has no pages.";
        using var ink = folder.PicturesOf(pages);
        var (number, claim) = pages
            .Where(p => p.Number > 0)
            .Select(p => (p.Number, Claim: Recognition.Try(p.Text, version.Reader, ink, p.Number)))
            .MaxBy(c => (c.Claim.Holds, c.Claim.Score));
        var read = DocumentReading.Read(
            [.. pages.Select(p => (p.Number, p.Text))],
            number,
            claim,
            published.Type.Type,
            designs.Finders(ink, document)
        );
        var places = ZoneReading.Places(read.Values, number);
        return database.Write<Result>(c =>
        {
            if (DocumentStore.Find(c, id) is not { Filed: false } now)
                return "This document is no longer on the desk.";
            // What a person has set stays; what another reader read goes.
            var kept = now.Record.Where(r => ValueHistoryStore.IsTouched(c, id, r.Key) && published.Type.Type.Find(r.Key) is not null);
            var record = read.Record.Concat(kept).GroupBy(r => r.Key).ToDictionary(g => g.Key, g => g.Last().Value, StringComparer.Ordinal);
            var changed = now with
            {
                TypeCode = version.Reader.TypeCode,
                Version = published.Version,
                ReaderKey = key,
                ReaderVersion = version.Version,
                Record = record,
                Evidence = places
                    .Where(p => !kept.Any(k => k.Key == p.Key))
                    .Concat(now.Evidence.Where(e => kept.Any(k => k.Key == e.Key)))
                    .ToDictionary(StringComparer.Ordinal),
            };
            writer.Write(c, new DocumentChange(now, changed, $"read with {version.Reader.Name}", key) { Type = published.Type });
            LedgerStore.Append(c, clock.GetUtcNow(), who, "read a document with another reader", $"document {id}", key);
            return Result.Done;
        });
    }
}
