using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services;

/// <summary>A document with what the engine says of it now.</summary>
/// <param name="Document">The document.</param>
/// <param name="Published">The design it is judged by; null while its type is unknown.</param>
/// <param name="Judged">The verdict; null while its type is unknown.</param>
public sealed record JudgedDocument(StoredDocument Document, PublishedType? Published, Judgement? Judged)
{
    /// <summary>Ready, open should-problems, or held: the mark and word that lists show.</summary>
    public string State =>
        Judged is null ? "unknown"
        : Judged.All.Any(p => p.Level == Level.Must) ? "must"
        : Judged.Ready(Overridden) ? "ready" : "should";

    /// <summary>Ids of problems that a person has overridden.</summary>
    public IReadOnlySet<string> Overridden => Document.Overrides.Keys.ToHashSet(StringComparer.Ordinal);
}

/// <summary>Checking documents before they are filed.</summary>
public sealed class Desk(Database database, Designs designs, Vocabularies vocabularies, TimeProvider clock)
{
    /// <summary>Documents on the desk, judged, in the order they came.</summary>
    public List<JudgedDocument> Waiting(string who, long? batchId = null) =>
        database.Read(c => DocumentStore.OnDesk(c, batchId).Select(d => Judge(c, d, who)).ToList());

    /// <summary>Ids of the documents on the desk in the order they came, unjudged: for counting and going through them.</summary>
    public List<long> Queue() => database.Read(DocumentStore.DeskIds);

    /// <summary>One document, judged; null when there is none.</summary>
    public JudgedDocument? Find(long id, string who) => database.Read(c => DocumentStore.Find(c, id) is { } d ? Judge(c, d, who) : null);

    /// <summary>Pages of a document.</summary>
    public List<StoredPage> Pages(long id) => database.Read(c => DocumentStore.Pages(c, id));

    /// <summary>The verdict if a field held another text; nothing is kept.</summary>
    public JudgedDocument? WhatIf(long id, string field, string text, string who) => database.Read(c =>
        DocumentStore.Find(c, id) is { } d ? Judge(c, d with { Record = With(d.Record, field, text) }, who) : null);

    /// <summary>Sets a field of a desk document. Evidence is kept when the text comes from a place on the page.</summary>
    public Result SetValue(long id, string field, string text, Evidence? evidence, string who) => database.Write<Result>(c =>
    {
        if (DocumentStore.Find(c, id) is not { Filed: false } document) return "This document is no longer on the desk.";
        if (document.TypeCode is not { } code || !designs.Published.TryGetValue(code, out var published)) return "Say first what kind of document this is.";
        if (published.Type.Type.Find(field) is null) return $"This document type has no field “{field}”.";
        var before = document.Record.GetValueOrDefault(field, "");
        if (before == text.Trim() && evidence is null) return Result.Done;
        var evidences = document.Evidence.ToDictionary(StringComparer.Ordinal);
        if (evidence is not null) evidences[field] = evidence;
        var changed = document with { Record = With(document.Record, field, text), Evidence = evidences, Version = published.Version };
        DocumentStore.Save(c, changed);
        DocumentStore.AddChange(c, id, field, before, text.Trim(), evidence is null ? "typed" : "picked on the page", clock.GetUtcNow(), who);
        RecordJudge.KeepKeys(c, changed, published.Type);
        return Result.Done;
    });

    /// <summary>Says what kind of document it is, for pages that no reader claims.</summary>
    public Result SetType(long id, string code, string who) => database.Write<Result>(c =>
    {
        if (DocumentStore.Find(c, id) is not { Filed: false } document) return "This document is no longer on the desk.";
        if (!designs.Published.TryGetValue(code, out var published)) return $"There is no published document type “{code}”.";
        DocumentStore.Save(c, document with { TypeCode = code, Version = published.Version, ReaderKey = null });
        LedgerStore.Append(c, clock.GetUtcNow(), who, "said what a document is", $"document {id}", code);
        return Result.Done;
    });

    /// <summary>Overrides a should-problem with a reason; must-problems cannot be overridden.</summary>
    public Result Override(long id, string problemId, string reason, string who) => database.Write<Result>(c =>
    {
        if (DocumentStore.Find(c, id) is not { } document) return "There is no such document.";
        if (string.IsNullOrWhiteSpace(reason)) return "Write the reason.";
        var problem = Judge(c, document, who).Judged?.All.FirstOrDefault(p => p.Id == problemId);
        if (problem is null) return Result.Done;
        if (problem.Level == Level.Must) return "This must hold; it cannot be overridden.";
        DocumentStore.Save(c, document with { Overrides = With(document.Overrides, problemId, reason) });
        DocumentStore.AddChange(c, id, problem.Field ?? "", "", problem.Message, $"overridden: {reason.Trim()}", clock.GetUtcNow(), who);
        LedgerStore.Append(c, clock.GetUtcNow(), who, "overrode a should-problem", $"document {id}", $"{problem.Code}: {reason.Trim()}");
        return Result.Done;
    });

    /// <summary>Takes a document off the desk for good; nothing of it was ever filed.</summary>
    public Result Discard(long id, string who) => database.Write<Result>(c =>
    {
        if (DocumentStore.Find(c, id) is not { Filed: false } document) return "This document is no longer on the desk.";
        DocumentStore.RemoveFromDesk(c, id);
        LedgerStore.Append(c, clock.GetUtcNow(), who, "took a document off the desk", $"document {id}", document.SourceName);
        return Result.Done;
    });

    /// <summary>
    /// Changes a value of a filed document by the same rules. A change that breaks a must is refused; one that breaks a
    /// should needs a reason.
    /// </summary>
    public Result EditFiled(long id, string field, string text, string reason, string who)
    {
        var result = database.Write(c => EditFiled(c, id, field, text, reason, who));
        // A growing vocabulary may have taken a new term.
        designs.Forget();
        return result;
    }

    private Result EditFiled(SqliteConnection c, long id, string field, string text, string reason, string who)
    {
        if (DocumentStore.Find(c, id) is not { Filed: true, TypeCode: { } code } document) return "There is no such filed document.";
        if (!designs.Published.TryGetValue(code, out var published) || published.Type.Type.Find(field) is not { } asked) return $"This document type has no field “{field}”.";
        var before = document.Record.GetValueOrDefault(field, "");
        var changed = document with { Record = With(document.Record, field, text), Version = published.Version };
        // Of another value nobody has said yet that no page shows it.
        if (document.Evidence.GetValueOrDefault(field)?.Method == Evidence.NoPlace.Method) changed = changed with { Evidence = document.Evidence.Where(e => e.Key != field).ToDictionary(StringComparer.Ordinal) };
        var judged = Judge(c, changed, who).Judged!;
        var language = PeopleStore.Find(c, who)?.Language ?? Messages.English;
        var known = Judge(c, document, who).Judged!.Problems.Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        var stored = judged.Values[published.Type.OrdinalOf(field)];
        if (stored.IsGood) changed = changed with { Record = With(changed.Record, field, stored.Text) };
        foreach (var problem in judged.Problems)
        {
            if (problem.Level == Level.Must && (problem.Field == field || !known.Contains(problem.Id))) return problem.In(language);
            if (problem.Level == Level.Should && !changed.Overrides.ContainsKey(problem.Id))
            {
                if (string.IsNullOrWhiteSpace(reason)) return $"{problem.In(language)} Write a reason to keep it all the same.";
                changed = changed with { Overrides = With(changed.Overrides, problem.Id, reason) };
            }
        }
        var after = changed.Record.GetValueOrDefault(field, "");
        if (after == before) return Result.Done;
        DocumentStore.Save(c, changed);
        if (document.Parked is not null && judged.Problems.All(p => p.Level != Level.Must)) DocumentStore.Park(c, id, null);
        DocumentStore.AddChange(c, id, field, before, after, string.IsNullOrWhiteSpace(reason) ? "edited" : $"edited: {reason.Trim()}", clock.GetUtcNow(), who);
        Rebuilding.Keep(c, changed, published.Type);
        vocabularies.Grow(c, published.Type.NewTerms(judged.Values), who);
        LedgerStore.Append(c, clock.GetUtcNow(), who, $"edited {asked.Label}", $"document {id}");
        return Result.Done;
    }

    /// <summary>Says where on a filed document's pages a restricted value stands that was typed; or that no page shows it.</summary>
    /// <param name="id">The document.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="page">Number of the page, from 1; null when no page shows it.</param>
    /// <param name="box">The region, in shares of the page.</param>
    /// <param name="who">Who says so.</param>
    public Result Place(long id, string field, int? page, Box box, string who) => database.Write<Result>(c =>
    {
        if (DocumentStore.Find(c, id) is not { Filed: true, TypeCode: { } code } document || !designs.Published.TryGetValue(code, out var published)) return "There is no such filed document.";
        if (!FullText.Redaction(document, published.Type).Unplaced.Contains(field)) return "The place of this value is known already.";
        var pages = DocumentStore.Pages(c, id);
        if (page is not null && pages.All(p => p.Number != page)) return $"This document has no page {page}.";
        if (page is not null && (box.W <= 0 || box.H <= 0)) return "Drag a box around the value.";
        var place = page is { } number ? new Evidence(number, box, "", "marked", 1) : Evidence.NoPlace;
        var changed = document with { Evidence = document.Evidence.Append(new(field, place)).ToDictionary(StringComparer.Ordinal) };
        DocumentStore.Save(c, changed);
        FullText.Index(c, changed, published.Type, pages);
        var said = page is null ? "said that no page shows" : $"marked on page {page}";
        LedgerStore.Append(c, clock.GetUtcNow(), who, $"{said} {published.Type.Type.LabelOf(field)}", $"document {id}");
        return Result.Done;
    });

    internal JudgedDocument Judge(SqliteConnection c, StoredDocument document, string who)
    {
        if (document.TypeCode is not { } code || !designs.Published.TryGetValue(code, out var published)) return new JudgedDocument(document, null, null);
        var now = designs.Now(document.Filed ? Door.Edit : Door.Desk, who);
        var fields = published.Type.Type.Fields;
        if (published.Type.Convention.UsesSystemValues) now = Placing.Around(c, document, now);
        if (document.BatchId is { } batch)
        {
            if (fields.Any(f => f.DefaultFrom == DefaultSource.Batch) && now.Batch.Length == 0) now = now with { Batch = BatchStore.NameOf(c, batch) };
            if (fields.Any(f => f.DefaultFrom == DefaultSource.Previous)) now = now with { Previous = DocumentStore.Before(c, batch, document.Id) is { } before && before.TypeCode == code ? before.Record : null };
        }
        var texts = RecordJudge.Texts(published.Type, document.Record);
        var extension = document.Filed ? Path.GetExtension(document.Name!) : Core.Conventions.CompiledConvention.Extension;
        return new JudgedDocument(document, published, RecordJudge.Judge(c, published.Type, texts, document.Id, now, extension, document.Number));
    }

    private static Dictionary<string, string> With(IReadOnlyDictionary<string, string> record, string key, string text)
    {
        var changed = record.ToDictionary(StringComparer.Ordinal);
        if (text.Trim().Length == 0) changed.Remove(key);
        else changed[key] = text.Trim();
        return changed;
    }
}
