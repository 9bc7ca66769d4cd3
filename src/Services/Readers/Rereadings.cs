using System.Runtime.CompilerServices;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Readers;

/// <summary>Which documents are read again, and by what.</summary>
/// <param name="Reader">Key of the reader.</param>
/// <param name="Version">Its published version.</param>
/// <param name="Scope"><c>desk</c>, <c>filed</c> or <c>both</c>.</param>
/// <param name="OnlyEmpty">Whether only fields are set that hold nothing.</param>
/// <param name="Asks">The question whose documents alone are read again; null for all of the scope.</param>
public sealed record RereadOrder(string Reader, int Version, string Scope, bool OnlyEmpty, ViewDefinition? Asks);

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
    private const int AtOnce = 20;
    private const int MostRuns = 20;

    private readonly DocumentRereading _reading = new(database, folder, designs, files);

    private Runs<RereadOrder, ChangedValue> Again =>
        field ??= new(
            database,
            jobs,
            clock,
            new(
                "reread",
                "design",
                run => $"/Readers/Again/{run.Order.Reader}",
                ("Looking at what reading again would set", "Setting what was read again", "Undoing what was read again")
            )
            {
                // What a page is read to costs more than keeping it.
                LookedAtOnce = 1,
                LooksInOrder = true,
                Look = LookAsync,
                Do = Set,
                Undo = Restore,
                Ended = End,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Again.Kinds;

    /// <summary>What its jobs have as their subject.</summary>
    public static string Subject(string reader) => $"reader {reader}";

    /// <summary>Runs of a reader, newest first.</summary>
    public List<Run<RereadOrder>> Runs(string reader) => Again.Of(Subject(reader), MostRuns);

    /// <summary>Values of a run in a state.</summary>
    public List<RunStep<ChangedValue>> Values(Run<RereadOrder> run, StepState state, int most) => Again.Steps(run, most, state);

    /// <summary>How many values of a run are in each state.</summary>
    public Dictionary<StepState, StepCount> Counts(Run<RereadOrder> run) => Again.Counts(run);

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
        return Again.Begin(Subject(reader), new RereadOrder(reader, newest.Version, scope, onlyEmpty, asks), who).With(b => b.Job);
    }

    /// <summary>Sets what a look has planned.</summary>
    public Result<Job> Start(long run, string who) => Again.Apply(run, who);

    /// <summary>Takes back what a run has set.</summary>
    public Result<Job> StartUndo(long run, string who) => Again.Undo(run, who);

    private async IAsyncEnumerable<LookedAt<ChangedValue>> LookAsync(
        Run<RereadOrder> run,
        Job job,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        var order = run.Order;
        var reader = database.Read(c => ReaderStore.Versions(c, order.Reader)).First(v => v.Version == order.Version).Reader;
        var others = database.Read(ReaderStore.Published).Select(v => v.Reader).Where(r => r.Key != reader.Key).ToList();
        // Those of the type, and on the desk those that nobody has claimed.
        (string? Type, string State)[] sources =
        [
            .. order.Scope == "filed" ? [] : new (string?, string)[] { (reader.TypeCode, "desk"), (null, "desk") },
            .. order.Scope == "desk" ? [] : new (string?, string)[] { (reader.TypeCode, "filed") },
        ];
        // By their ids: what is set changes what a question finds.
        var asked = order.Asks is { } asks
            ? database.Read(c => requests.Found(c, asks, run.Who, job).Select(d => d.Id).Where(id => id > run.Reached).Order().ToList())
            : null;
        job.Total =
            run.Looked + (asked?.Count ?? database.Read(c => sources.Sum(s => DocumentStore.CountIn(c, s.Type, s.State, run.Reached))));
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
                yield break;
            foreach (var document in documents)
            {
                cancel.ThrowIfCancellationRequested();
                last = document.Id;
                var read = await _reading.ReadAsync(document, reader, others, cancel);
                yield return new(
                    document.Id,
                    database.Read(c =>
                        read.Where(r => Wanted(c, document, r.Field, r.Text, order.OnlyEmpty))
                            .Select(r => Planned(document, r.Field, r.Text, r.Evidence))
                            .ToList()
                    )
                );
            }
        }
    }

    private static RunStep<ChangedValue> Planned(StoredDocument document, string field, string text, Evidence? evidence) =>
        new(
            document.Id,
            new ChangedValue(field, document.Record.GetValueOrDefault(field, ""), text)
            {
                EvidenceBefore = document.Evidence.GetValueOrDefault(field),
                EvidenceAfter = evidence,
            }
        );

    private static bool Wanted(SqliteConnection c, StoredDocument document, string field, string text, bool onlyEmpty)
    {
        var before = document.Record.GetValueOrDefault(field, "");
        return text.Length > 0
            && before != text
            && (before.Length == 0 || !onlyEmpty && !ValueHistoryStore.IsTouched(c, document.Id, field));
    }

    private StepWork<ChangedValue> Set(Run<RereadOrder> run) =>
        (c, step, who) =>
        {
            var (order, value) = (run.Order, step.What);
            if (DocumentStore.Find(c, step.Document) is not { } document)
                return step.As(StepState.Skipped, "the document is no longer there");
            if (document.Record.GetValueOrDefault(value.Field, "") != value.Before)
                return step.As(StepState.Skipped, "it was changed in the meantime");
            if (document.Filed && WhyNot(c, document, value, who) is { } problem)
                return step.As(StepState.Skipped, problem);
            var read = With(document, value.Field, value.After, value.EvidenceAfter);
            // A page that nobody claimed has a reader now.
            if (!document.Filed && (document.ReaderKey is null || document.ReaderKey == order.Reader))
                read = read with
                {
                    ReaderKey = order.Reader,
                    ReaderVersion = order.Version,
                    TypeCode = read.TypeCode ?? ReaderStore.Find(c, order.Reader)!.TypeCode,
                    Version = read.Version ?? designs.Published[ReaderStore.Find(c, order.Reader)!.TypeCode].Version,
                };
            writer.Write(c, new DocumentChange(document, read, $"read again by {order.Reader}, version {order.Version}", who));
            return step.As(StepState.Done);
        };

    // A filed record keeps to its rules: what would break one is left to a person.
    private string? WhyNot(SqliteConnection c, StoredDocument document, ChangedValue value, string who)
    {
        var after = document with { Record = JudgedDocument.With(document.Record, value.Field, value.After) };
        if (JudgedDocument.Of(c, designs, after, who).Judged is not { } judged)
            return null;
        var change = new DocumentChange(document, after, null, who) { Judged = judged };
        return writer.Weigh(c, change, ChangePolicy.Rereading, value.Field).Verdict.In(Messages.English);
    }

    private StepWork<ChangedValue> Restore(Run<RereadOrder> run) =>
        (c, step, who) =>
        {
            var value = step.What;
            if (
                DocumentStore.Find(c, step.Document) is not { } document
                || document.Record.GetValueOrDefault(value.Field, "") != value.After
            )
                return step.As(StepState.Stays, "it was changed after that");
            writer.Write(c, new DocumentChange(document, With(document, value.Field, value.Before, value.EvidenceBefore), "undone", who));
            return step.As(StepState.Undone);
        };

    private void End(SqliteConnection c, Run<RereadOrder> run, Job job) =>
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            job.Who,
            run.State == RunState.Applied ? "read documents again" : "undid what was read again",
            new LedgerSubject(SubjectKind.Reader, run.Order.Reader),
            $"{job.Done} values"
        );

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
            LedgerStore.Append(c, clock.GetUtcNow(), who, "read a document with another reader", LedgerSubject.Document(id), key);
            return Result.Done;
        });
    }
}
