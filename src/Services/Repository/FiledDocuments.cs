using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>Changing what is filed.</summary>
public sealed class FiledDocuments(Database database, Designs designs, DocumentWriter writer, TimeProvider clock)
{
    /// <summary>One document, judged; null when there is none.</summary>
    public JudgedDocument? Find(long id, string who) =>
        database.Read(c => DocumentStore.Find(c, id) is { } d ? JudgedDocument.Of(c, designs, d, who) : null);

    /// <summary>Folder and name of a document; null when there is none.</summary>
    public string? PathOf(long id) =>
        database.Read(c => DocumentStore.Find(c, id)) is { } document ? $"{document.Folder}/{document.Name}" : null;

    /// <summary>What became of its values, the newest first.</summary>
    public List<ValueChange> Changes(long id) => database.Read(c => ValueHistoryStore.Of(c, id));

    /// <summary>
    /// The changes that a person may see. Who does not see what is restricted sees those of open fields since the document was filed as
    /// what it is: before, and with another type, what is open now may have been restricted.
    /// </summary>
    /// <param name="document">The filed document.</param>
    /// <param name="type">Its type.</param>
    /// <param name="rights">What the person may see.</param>
    public List<ValueChange> Changes(StoredDocument document, CompiledType type, Rights rights)
    {
        if (rights.SeesRestricted)
            return Changes(document.Id);
        var redaction = FullText.Redaction(document, type);
        return database.Read(c =>
            ValueHistoryStore
                .Of(c, document.Id, RunStore.LastChangeBy(c, Readers.Retyping.Code, document.Id))
                .FindAll(h =>
                    h.At >= document.FiledAt
                    && !h.How.StartsWith(Readers.Retyping.TypeChanged, StringComparison.Ordinal)
                    && rights.Sees(type.Type.Find(h.Field))
                    && !redaction.Hides(h.Before)
                    && !redaction.Hides(h.After)
                    && !redaction.Hides(h.How)
                )
        );
    }

    /// <summary>Pages of a document.</summary>
    public List<StoredPage> Pages(long id) => database.Read(c => DocumentStore.Pages(c, id));

    /// <summary>
    /// Changes a value of a filed document by the same rules. A change that breaks a must is refused; one that breaks a
    /// should needs a reason. One of a value that somebody else has set since it was seen is refused, and says what it is now.
    /// </summary>
    /// <param name="id">The document.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="text">Its text.</param>
    /// <param name="reason">Why, where a rule says that it should be otherwise.</param>
    /// <param name="who">Who changes it.</param>
    /// <param name="seen">The text that the person saw; null for whatever it is.</param>
    public Result Edit(long id, string field, string text, string reason, string who, string? seen = null) =>
        database.Write(c => Edit(c, id, field, text, reason, who, seen));

    private Result Edit(SqliteConnection c, long id, string field, string text, string reason, string who, string? seen)
    {
        if (DocumentStore.Find(c, id) is not { Filed: true, TypeCode: { } code } document)
            return "There is no such filed document.";
        if (!designs.Published.TryGetValue(code, out var published) || published.Type.Type.Find(field) is not { } asked)
            return $"This document type has no field “{field}”.";
        var before = document.Record.GetValueOrDefault(field, "");
        if (DocumentWriter.SetMeanwhile(c, document, field, seen, text) is var (other, now))
            return $"{other} has set {asked.Label} to “{now}” in the meantime. "
                + $"Save once more to set it to “{text.Trim()}” all the same.";
        var changed = document with
        {
            Record = JudgedDocument.With(document.Record, field, text),
            Evidence = Evidence.AfterTyping(document.Evidence, field),
            Version = published.Version,
        };
        var judged = JudgedDocument.Of(c, designs, changed, who).Judged!;
        var how = string.IsNullOrWhiteSpace(reason) ? "edited" : $"edited: {reason.Trim()}";
        var change = new DocumentChange(document, changed, how, who) { Judged = judged };
        var (verdict, kept) = writer.Weigh(c, change, ChangePolicy.Edit, field, reason);
        if (verdict.In(PeopleStore.Find(c, who)?.Language ?? Messages.English) is { } against)
            return against;
        var stored = judged.Values[published.Type.OrdinalOf(field)];
        if (stored.IsGood)
            kept = kept with { Record = JudgedDocument.With(kept.Record, field, stored.Text) };
        if (kept.Record.GetValueOrDefault(field, "") == before)
            return Result.Done;
        writer.Write(c, change with { After = kept });
        LedgerStore.Append(c, clock.GetUtcNow(), who, $"edited {asked.Label}", LedgerSubject.Document(id));
        return Result.Done;
    }

    /// <summary>Says where on a filed document's pages a restricted value stands that was typed; or that no page shows it.</summary>
    /// <param name="id">The document.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="page">Number of the page, from 1; null when no page shows it.</param>
    /// <param name="box">The region, in shares of the page.</param>
    /// <param name="who">Who says so.</param>
    public Result Place(long id, string field, int? page, Box box, string who) =>
        database.Write<Result>(c =>
        {
            if (
                DocumentStore.Find(c, id) is not { Filed: true, TypeCode: { } code } document
                || !designs.Published.TryGetValue(code, out var published)
            )
                return "There is no such filed document.";
            // Of an open field it is asked when a copy shall hide it.
            var known = document.Evidence.GetValueOrDefault(field);
            var unplaced = known is null or { Replaced: true } && document.Record.ContainsKey(field);
            if (!unplaced || published.Type.Type.Find(field) is null)
                return "The place of this value is known already.";
            var pages = DocumentStore.Pages(c, id);
            if (page is not null && pages.All(p => p.Number != page))
                return $"This document has no page {page}.";
            if (page is not null && (box.W <= 0 || box.H <= 0))
                return "Drag a box around the value.";
            var place = page is { } number ? new Evidence(number, box, "", "marked", 1) : Evidence.NoPlace;
            var places = document.Evidence.ToDictionary(StringComparer.Ordinal);
            places[field] = place.After(known);
            var changed = document with { Evidence = places };
            writer.Write(c, new DocumentChange(document, changed, null, who) { Pages = pages });
            var said = page is null ? "said that no page shows" : $"marked on page {page}";
            LedgerStore.Append(c, clock.GetUtcNow(), who, $"{said} {published.Type.Type.LabelOf(field)}", LedgerSubject.Document(id));
            return Result.Done;
        });
}
