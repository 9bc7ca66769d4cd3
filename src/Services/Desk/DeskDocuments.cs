using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>Checking documents before they are filed.</summary>
public sealed class DeskDocuments(Database database, Designs designs, TimeProvider clock)
{
    /// <summary>Documents on the desk, judged, in the order they came.</summary>
    public List<JudgedDocument> Waiting(string who, long? batchId = null) =>
        database.Read(c =>
            DocumentStore.OnDesk(c, batchId).Where(Seen(c, who)).Select(d => JudgedDocument.Of(c, designs, d, who)).ToList()
        );

    // Whether a person sees documents of the desk: those of a way in that is kept to some people are seen by them only.
    private static Func<StoredDocument, bool> Seen(SqliteConnection c, string who)
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

    private static StoredDocument? Find(SqliteConnection c, long id, string who) =>
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
    public List<long> Queue(string who) => database.Read(c => DocumentStore.DeskIds(c).Where(Seen(c, who)).Select(d => d.Id).ToList());

    /// <summary>One document, judged; null when there is none.</summary>
    public JudgedDocument? Find(long id, string who) =>
        database.Read(c => Find(c, id, who) is { } d ? JudgedDocument.Of(c, designs, d, who) : null);

    /// <summary>Pages of a document.</summary>
    public List<StoredPage> Pages(long id) => database.Read(c => DocumentStore.Pages(c, id));

    /// <summary>Pages of a document, before them as page 0 the sheet that it came with, if any.</summary>
    public List<StoredPage> PagesAndSheet(long id) => database.Read(c => DocumentStore.PagesAndSheet(c, id));

    /// <summary>The verdict if a field held another text; nothing is kept.</summary>
    public JudgedDocument? WhatIf(long id, string field, string text, string who) =>
        database.Read(c =>
            Find(c, id, who) is { } d
                ? JudgedDocument.Of(c, designs, d with { Record = JudgedDocument.With(d.Record, field, text) }, who)
                : null
        );

    /// <summary>Sets a field of a desk document. Evidence is kept when the text comes from a place on the page.</summary>
    public Result SetValue(long id, string field, string text, Evidence? evidence, string who) =>
        database.Write<Result>(c => Set(c, id, field, text, evidence, who));

    private Result Set(SqliteConnection c, long id, string field, string text, Evidence? evidence, string who)
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
        var evidences = document.Evidence.ToDictionary(StringComparer.Ordinal);
        if (evidence is not null)
            evidences[field] = evidence;
        var changed = document with
        {
            Record = JudgedDocument.With(document.Record, field, text),
            Evidence = evidences,
            Version = published.Version,
        };
        DocumentStore.Save(c, changed);
        DocumentStore.AddChange(
            c,
            id,
            field,
            before,
            text.Trim(),
            evidence is null ? "typed" : "picked on the page",
            clock.GetUtcNow(),
            who
        );
        RecordJudge.KeepKeys(c, changed, published.Type);
        return Result.Done;
    }

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
            DocumentStore.Save(c, document with { TypeCode = code, Version = published.Version, ReaderKey = null });
            LedgerStore.Append(c, clock.GetUtcNow(), who, "said what a document is", $"document {id}", code);
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
            DocumentStore.Save(c, document with { Overrides = JudgedDocument.With(document.Overrides, problemId, reason) });
            DocumentStore.AddChange(
                c,
                id,
                problem.Field ?? "",
                "",
                problem.Message,
                $"overridden: {reason.Trim()}",
                clock.GetUtcNow(),
                who
            );
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "overrode a should-problem",
                $"document {id}",
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
            DocumentStore.RemoveFromDesk(c, id);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "took a document off the desk", $"document {id}", document.SourceName);
            return Result.Done;
        });
}
