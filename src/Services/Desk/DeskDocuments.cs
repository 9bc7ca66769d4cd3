using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>A value on the desk, looked at beside those of other documents.</summary>
/// <param name="Document">The document.</param>
/// <param name="Text">The value; empty when there is none.</param>
/// <param name="Place">Where it was read; null when nowhere.</param>
/// <param name="Problems">What stands against it.</param>
public sealed record DeskValue(StoredDocument Document, string Text, Evidence? Place, IReadOnlyList<Problem> Problems)
{
    /// <summary>Whether nothing stands against it and it was read, or confirmed, with trust.</summary>
    public bool IsSure => Problems.Count == 0 && (Place is null ? Text.Length > 0 : Place.IsSure);

    internal static DeskValue Of(JudgedDocument judged, string field) =>
        new(
            judged.Document,
            judged.Document.Record.GetValueOrDefault(field, ""),
            judged.Document.Evidence.GetValueOrDefault(field),
            [.. judged.Judged!.All.Where(p => p.Field == field && !judged.Overridden.Contains(p.Id))]
        );
}

/// <summary>Checking documents before they are filed.</summary>
public sealed class DeskDocuments(Database database, Designs designs, DocumentWriter writer, TimeProvider clock)
{
    /// <summary>Documents on the desk, judged, in the order they came; those that are set aside are not among them.</summary>
    public List<JudgedDocument> Waiting(string who, long? batchId = null) =>
        database.Read(c =>
        {
            var apart = Apart(c);
            var waiting = DocumentStore.OnDesk(c, batchId).Where(d => !apart.Contains(d.Id)).Where(Seen(c, who));
            return JudgedDocument.OfDesk(c, designs, waiting, who);
        });

    // Whether a person sees documents of the desk: those of a way in that is kept to some people are seen by them only.
    internal static Func<StoredDocument, bool> Seen(SqliteConnection c, string who)
    {
        var isOpen = WaysIn.OpenTo(c, who);
        var batches = new Dictionary<long, bool>();
        return d =>
        {
            if (d.Filed || d.BatchId is not { } batch)
                return true;
            if (!batches.TryGetValue(batch, out var seen))
                batches[batch] = seen = isOpen(BatchStore.Find(c, batch)?.WayIn);
            return seen;
        };
    }

    /// <summary>One document as it is kept, unjudged; null when there is none, or the person does not see it.</summary>
    internal static StoredDocument? Find(SqliteConnection c, long id, string who) =>
        DocumentStore.Find(c, id) is { } document && Sees(c, document, who) ? document : null;

    private static bool Sees(SqliteConnection c, StoredDocument document, string who) =>
        document.Filed || WaysIn.Sees(c, document.BatchId, who);

    /// <summary>Whether a person sees a document as far as the way it came is asked.</summary>
    public bool Sees(StoredDocument document, string who) => database.Read(c => Sees(c, document, who));

    /// <summary>Name of a batch; empty when there is none.</summary>
    public string BatchName(long batch) => database.Read(c => BatchStore.NameOf(c, batch));

    /// <summary>How many stacks wait for a person to look at their separation.</summary>
    public int ToLookAt() => database.Read(BatchStore.CountToLookAt);

    /// <summary>Files that could not be taken in, the newest first.</summary>
    public List<BatchFile> Refused(int most) => database.Read(c => BatchStore.Refused(c, most));

    /// <summary>Ids of the documents on the desk in the order they came, unjudged: for counting and going through them.</summary>
    public List<long> Queue(string who) => database.Read(c => Queue(c, who));

    private static List<long> Queue(SqliteConnection c, string who)
    {
        var apart = Apart(c);
        return [.. DocumentStore.DeskIds(c).Where(d => !apart.Contains(d.Id)).Where(Seen(c, who)).Select(d => d.Id)];
    }

    // What is on the desk and does not wait there: it is parked, or was withdrawn from the repository for good.
    private static HashSet<long> Apart(SqliteConnection c) => [.. ParkingStore.Ids(c), .. WithdrawalStore.OutIds(c)];

    /// <summary>One document, judged; null when there is none.</summary>
    public JudgedDocument? Find(long id, string who) =>
        database.Read(c => Find(c, id, who) is { } d ? JudgedDocument.Of(c, designs, d, who) : null);

    /// <summary>One document as the person sees it who goes through the desk: with what they hold; null when there is none.</summary>
    public JudgedDocument? FindWithHeld(long id, string who) =>
        database.Read(c => Find(c, id, who) is { } d ? JudgedDocument.Of(c, designs, WithHeld(c, d, who), who) : null);

    // What a person holds stands in fields that hold nothing; it is written when the document is filed.
    private static StoredDocument WithHeld(SqliteConnection c, StoredDocument document, string who)
    {
        if (document is not { Filed: false, TypeCode: { } code } || Missing(c, document, code, who) is not { Count: > 0 } held)
            return document;
        return document with
        {
            Record = document.Record.Concat(held.Select(h => KeyValuePair.Create(h.Field, h.Text))).ToDictionary(StringComparer.Ordinal),
        };
    }

    private static List<HeldValue> Missing(SqliteConnection c, StoredDocument document, string code, string who) =>
        [.. HeldStore.Of(c, who, code).Where(h => !document.Record.ContainsKey(h.Field))];

    /// <summary>What a person holds for a type.</summary>
    public List<HeldValue> Held(string typeCode, string who) => database.Read(c => HeldStore.Of(c, who, typeCode));

    /// <summary>
    /// Keeps a value for the next documents of the type in which the field holds nothing; lets it go when it is held already.
    /// </summary>
    public Result Hold(long id, string field, string text, string who) =>
        database.Write<Result>(c =>
        {
            if (
                Find(c, id, who) is not { Filed: false, TypeCode: { } code }
                || !designs.Published.TryGetValue(code, out var published)
                || published.Type.Type.Find(field) is not { } known
            )
                return "This document is no longer on the desk, or does not have that field.";
            if (HeldStore.Of(c, who, code).Exists(h => h.Field == field && (h.Text == text.Trim() || text.Trim().Length == 0)))
                HeldStore.Release(c, who, code, field);
            else if (text.Trim().Length == 0)
                return $"{known.Label} holds nothing that could be kept.";
            else if (published.Type.IsUnique(field))
                return $"No two documents have the same {known.Label}.";
            else
                HeldStore.Hold(c, who, code, field, text.Trim());
            return Result.Done;
        });

    /// <summary>Writes what a person holds into the fields of a document that hold nothing.</summary>
    internal void KeepHeld(long id, string who) =>
        database.Write(c =>
        {
            if (Find(c, id, who) is not { Filed: false, TypeCode: { } code } document)
                return;
            foreach (var held in Missing(c, document, code, who))
                if (Set(c, id, held.Field, held.Text, null, who, "held").Ok)
                    HeldStore.Use(c, who, code, held.Field);
        });

    /// <summary>Takes a value over from the document before in the person's queue.</summary>
    public Result AsBefore(long id, string field, string who) =>
        database.Write<Result>(c =>
        {
            var queue = Queue(c, who);
            return queue.IndexOf(id) is not (> 0 and var at) ? "There is no document before this one."
                : Find(c, queue[at - 1], who)?.Record.GetValueOrDefault(field) is not { Length: > 0 } text
                    ? "The document before holds nothing in this field."
                : Set(c, id, field, text, null, who, "as in the document before");
        });

    /// <summary>Pages of a document.</summary>
    public List<StoredPage> Pages(long id) => database.Read(c => DocumentStore.Pages(c, id));

    /// <summary>Pages of a document, before them as page 0 the sheet that it came with, if any.</summary>
    public List<StoredPage> PagesAndSheet(long id) => database.Read(c => DocumentStore.PagesAndSheet(c, id));

    /// <summary>The verdict if a field held another text; nothing is kept.</summary>
    public JudgedDocument? WhatIf(long id, string field, string text, string who) =>
        database.Read(c =>
            Find(c, id, who) is { } d
                ? JudgedDocument.Of(c, designs, WithHeld(c, d with { Record = JudgedDocument.With(d.Record, field, text) }, who), who)
                : null
        );

    /// <summary>Sets a field of a desk document. Evidence is kept when the text comes from a place on the page.</summary>
    /// <param name="id">The document.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="text">The value.</param>
    /// <param name="evidence">The place that it comes from; null for what is typed.</param>
    /// <param name="who">Who sets it.</param>
    /// <param name="seen">The value that the person saw when they opened the document: what somebody else has set since is not written
    /// over; null for whoever saw none.</param>
    public Result SetValue(long id, string field, string text, Evidence? evidence, string who, string? seen = null) =>
        database.Write<Result>(c =>
        {
            // What the person has set before, or a reader has read, is no surprise.
            if (
                Find(c, id, who) is { } document
                && DocumentWriter.SetMeanwhile(c, document, field, seen, text) is var (other, now)
                && other != who
                && other != document.ReaderKey
            )
                return $"{other} has set it to “{now}” in the meantime. Open the document again to change that.";
            return Set(c, id, field, text, evidence, who);
        });

    private Result Set(SqliteConnection c, long id, string field, string text, Evidence? evidence, string who, string how = "typed")
    {
        if (Find(c, id, who) is not { Filed: false } document)
            return "This document is no longer on the desk.";
        if (document.TypeCode is not { } code || !designs.Published.TryGetValue(code, out var published))
            return "Say first what kind of document this is.";
        if (published.Type.Type.Find(field) is null)
            return $"This document type has no field “{field}”.";
        var before = document.Record.GetValueOrDefault(field, "");
        if (before == text.Trim() && evidence is null)
            return Result.Done;
        var evidences = Evidence.AfterTyping(document.Evidence, field);
        if (evidence is not null)
            evidences[field] = evidence.After(document.Evidence.GetValueOrDefault(field));
        var changed = document with
        {
            Record = JudgedDocument.With(document.Record, field, text),
            Evidence = evidences,
            Version = published.Version,
        };
        writer.Write(c, new DocumentChange(document, changed, evidence is null ? how : "picked on the page", who) { SeenField = field });
        return Result.Done;
    }

    /// <summary>
    /// Takes a value as a person says it is: the one that was read, which is sure from then on, or another one. One that the person has not
    /// seen, because it was changed in the meantime, is not taken.
    /// </summary>
    /// <param name="id">The document.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="seen">The value that the person saw.</param>
    /// <param name="text">The value that is right.</param>
    /// <param name="who">Who says so.</param>
    public Result Accept(long id, string field, string seen, string text, string who) =>
        database.Write<Result>(c =>
        {
            if (Find(c, id, who) is not { Filed: false } document)
                return "This document is no longer on the desk.";
            var now = document.Record.GetValueOrDefault(field, "");
            if (now != seen)
                return $"Somebody has changed it to “{now}” in the meantime.";
            if (text.Trim() != now)
                return Set(c, id, field, text, null, who);
            if (document.Evidence.GetValueOrDefault(field) is not { } evidence)
                return Result.Done;
            var evidences = document.Evidence.ToDictionary(StringComparer.Ordinal);
            evidences[field] = evidence.LookedAt();
            writer.Write(c, new DocumentChange(document, document with { Evidence = evidences }, "looked at", who) { SeenField = field });
            return Result.Done;
        });

    /// <summary>One field of all documents of a type on the desk: those that need a look first, equal values together.</summary>
    /// <param name="typeCode">Code of the type.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="who">Who asks.</param>
    /// <param name="batchId">Only of this batch.</param>
    public List<DeskValue> ByField(string typeCode, string field, string who, long? batchId = null) =>
        ByField(Waiting(who, batchId), typeCode, field);

    /// <summary>As <see cref="ByField(string, string, string, long?)"/>, of documents that are judged already.</summary>
    public static List<DeskValue> ByField(IEnumerable<JudgedDocument> waiting, string typeCode, string field) =>
        [
            .. waiting
                .Where(d => d.Document.TypeCode == typeCode && d.Judged is not null)
                .Select(d => DeskValue.Of(d, field))
                .GroupBy(v => v.Text, StringComparer.Ordinal)
                .OrderBy(g => g.All(v => v.IsSure))
                .ThenBy(g => g.Key, StringComparer.Ordinal)
                .SelectMany(g => g.OrderBy(v => v.IsSure)),
        ];

    /// <summary>One field of one document, as <see cref="ByField"/> lists it.</summary>
    public DeskValue? ValueOf(long id, string field, string who) =>
        Find(id, who) is { Document.Filed: false, Judged: not null } judged ? DeskValue.Of(judged, field) : null;

    /// <summary>Sets several fields of a desk document, all or none.</summary>
    public Result SetValues(long id, IReadOnlyDictionary<string, string> values, string who) =>
        database.WriteIf<Result>(
            c =>
            {
                foreach (var (field, text) in values)
                    if (Set(c, id, field, text ?? "", null, who) is { Ok: false } refused)
                        return refused;
                return Result.Done;
            },
            static r => r.Ok
        );

    /// <summary>Says what kind of document it is, for pages that no reader claims.</summary>
    public Result SetType(long id, string code, string who) =>
        database.Write<Result>(c =>
        {
            if (Find(c, id, who) is not { Filed: false } document)
                return "This document is no longer on the desk.";
            if (!designs.Published.TryGetValue(code, out var published))
                return $"There is no published document type “{code}”.";
            var said = document with { TypeCode = code, Version = published.Version, ReaderKey = null };
            writer.Write(c, new DocumentChange(document, said, null, who));
            LedgerStore.Append(c, clock.GetUtcNow(), who, "said what a document is", LedgerSubject.Document(id), code);
            return Result.Done;
        });

    /// <summary>Overrides a should-problem with a reason; must-problems cannot be overridden.</summary>
    public Result Override(long id, string problemId, string reason, string who) =>
        database.Write<Result>(c =>
        {
            if (Find(c, id, who) is not { } document)
                return "There is no such document.";
            if (string.IsNullOrWhiteSpace(reason))
                return "Write the reason.";
            var problem = JudgedDocument.Of(c, designs, document, who).Judged?.All.FirstOrDefault(p => p.Id == problemId);
            if (problem is null)
                return Result.Done;
            if (problem.Level == Level.Must)
                return "This must hold; it cannot be overridden.";
            var kept = document with { Overrides = JudgedDocument.With(document.Overrides, problemId, reason) };
            writer.Write(c, new DocumentChange(document, kept, null, who));
            var told = $"overridden: {reason.Trim()}";
            ValueHistoryStore.Add(c, id, new ValueChange(problem.Field ?? "", "", problem.Message, told, clock.Moment(), who));
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "overrode a should-problem",
                LedgerSubject.Document(id),
                $"{problem.Code}: {reason.Trim()}"
            );
            return Result.Done;
        });

    /// <summary>Takes a document off the desk for good; nothing of it was ever filed.</summary>
    public Result Discard(long id, string who) =>
        database.Write<Result>(c =>
        {
            if (Find(c, id, who) is not { Filed: false } document)
                return "This document is no longer on the desk.";
            if (WithdrawalStore.WasFiled(c, id))
                return "This document was filed before. Put it back where it stood, and withdraw it from there, so that it is kept.";
            DocumentStore.RemoveFromDesk(c, id);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "took a document off the desk", LedgerSubject.Document(id), document.SourceName);
            return Result.Done;
        });
}
