using ClearLexicon.Core.Reading;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>
/// The pages of some documents while one act arranges them, in one transaction: which pages each is to have, and what follows for its
/// values.
/// </summary>
internal sealed class Arrangement(SqliteConnection c, Designs designs, DocumentWriter writer, TimeProvider clock, string who)
{
    private sealed record Part(StoredDocument? Before, StoredDocument Now, IReadOnlyList<PageAt> Had, List<string> Pages);

    private readonly Dictionary<long, Part> _parts = [];
    private readonly Dictionary<string, string> _replaced = new(StringComparer.Ordinal);

    /// <summary>The connection of the transaction.</summary>
    public SqliteConnection Connection => c;

    /// <summary>Takes a document in, as it is.</summary>
    public void Take(StoredDocument document)
    {
        var had = PageStore.Of(c, document.Id);
        _parts[document.Id] = new Part(document, document, had, [.. had.Where(p => p.Number > 0).Select(p => p.Image)]);
    }

    /// <summary>Takes a document in that this act has made.</summary>
    public void Begin(StoredDocument document) => _parts[document.Id] = new Part(null, document, [], []);

    /// <summary>Pictures of the pages that a document is to have, in order; the sheet before it stays what it is.</summary>
    public List<string> Of(long id) => _parts[id].Pages;

    /// <summary>A document as it is by now.</summary>
    public StoredDocument Document(long id) => _parts[id].Now;

    /// <summary>Gives a document other values.</summary>
    public void Change(StoredDocument document) => _parts[document.Id] = _parts[document.Id] with { Now = document };

    /// <summary>Says that a page has a picture in place of another.</summary>
    public void Replace(string image, string by) => _replaced[image] = by;

    /// <summary>Writes pages and values, and keeps what undo needs.</summary>
    /// <param name="id">The document on which it is undone; when all its pages went, the one to which they went.</param>
    /// <param name="says">What was done.</param>
    public void Keep(long id, string says)
    {
        if (_parts[id].Pages.Count == 0)
            id = _parts.Values.First(p => p.Pages.Count > 0).Now.Id;
        var before = _parts
            .Values.Where(p => p.Before is not null)
            .Select(p => new DocumentThen(p.Before!, p.Had, p.Pages.Count == 0 ? ValueHistoryStore.Of(c, p.Before!.Id) : []))
            .ToList();
        var numbers = _parts.Values.SelectMany(p => p.Pages.Select((image, i) => (image, (p.Now.Id, Number: i + 1)))).ToDictionary();
        var values = _parts.ToDictionary(p => p.Key, p => p.Value.Now);
        foreach (var part in _parts.Values)
            Follow(part, numbers, values);
        var sheets = _parts.Values.Where(p => p.Pages.Count == 0).SelectMany(p => p.Had.Where(h => h.Number == 0)).Select(h => h.Image);
        Arrange(_parts.Values.Select(p => (p.Now.Id, Wanted(p))).ToDictionary(), [.. _replaced.Keys, .. sheets]);
        foreach (var part in _parts.Values)
            if (part.Pages.Count > 0)
                Write(values[part.Now.Id], part.Now);
            else
                Remove(part.Now.Id, id);
        PageStore.AddAct(
            c,
            id,
            says,
            before,
            [.. _parts.Values.Select(p => new DocumentThen(values[p.Now.Id], p.Pages.Count == 0 ? [] : PageStore.Of(c, p.Now.Id), []))],
            clock.GetUtcNow(),
            who
        );
    }

    /// <summary>Goes back to the documents before an act; null when done, else why not. Values that were set since stay.</summary>
    public string? GoBack(PageAct act)
    {
        foreach (var then in act.After.Where(a => a.Pages.Count > 0))
        {
            if (DocumentStore.Find(c, then.Document.Id) is not { Filed: false } now)
                return $"Document {then.Document.Id} is no longer on the desk, so this cannot be undone.";
            if (!PageStore.Of(c, now.Id).SequenceEqual(then.Pages))
                return $"The pages of document {now.Id} were changed since; undo that first.";
            if (act.Before.All(b => b.Document.Id != now.Id) && now.Record.Keys.Any(f => ValueHistoryStore.IsTouched(c, now.Id, f)))
                return $"Somebody has worked on document {now.Id} since. Join it with this one instead.";
            _parts[now.Id] = new Part(now, now, then.Pages, []);
        }
        // What the act took away is there again first, so that pages can go to it.
        var ids = act.Before.ToDictionary(b => b.Document.Id, b => _parts.ContainsKey(b.Document.Id) ? b.Document.Id : Again(b));
        Arrange(
            act.Before.Select(b => (ids[b.Document.Id], b.Pages))
                .Concat(_parts.Keys.Where(id => !ids.ContainsValue(id)).Select(id => (id, (IReadOnlyList<PageAt>)[])))
                .ToDictionary(),
            []
        );
        // Pictures that the act made, and pages that it brought, are of no use any more but for those that stood beside the document
        // before.
        var stay = act.Before.SelectMany(b => b.Pages).Select(p => p.Image).ToHashSet(StringComparer.Ordinal);
        PageStore.ForgetAside(
            c,
            act.After.SelectMany(a => a.Pages)
                .Select(p => p.Image)
                .Where(i => !stay.Contains(i) && i.Contains("/turned/", StringComparison.Ordinal))
        );
        foreach (var then in act.Before)
        {
            var id = ids[then.Document.Id];
            if (!_parts.TryGetValue(id, out var part))
                continue;
            var after = act.After.First(a => a.Document.Id == id);
            Write(Back(part.Now, then, after), part.Now);
        }
        foreach (var made in _parts.Keys.Where(id => !ids.ContainsValue(id)))
            Remove(made, ids.Values.First());
        return null;
    }

    private long Again(DocumentThen then)
    {
        var id = writer.Add(c, then.Document, [], static _ => null).Id;
        foreach (var change in then.History)
            ValueHistoryStore.Add(c, id, change);
        return id;
    }

    // A field that is as the act left it gets back what it held before; one that somebody has set since keeps that, at the page where it
    // stands by then.
    private static StoredDocument Back(StoredDocument now, DocumentThen then, DocumentThen after)
    {
        var record = now.Record.ToDictionary(StringComparer.Ordinal);
        var places = now.Evidence.ToDictionary(StringComparer.Ordinal);
        var number = then.Pages.ToDictionary(p => p.Image, p => p.Number);
        foreach (
            var field in record.Keys.Concat(then.Document.Record.Keys).Concat(places.Keys).Concat(then.Document.Evidence.Keys).ToHashSet()
        )
        {
            if (record.GetValueOrDefault(field) == after.Document.Record.GetValueOrDefault(field))
            {
                Set(record, field, then.Document.Record.GetValueOrDefault(field));
                Set(places, field, then.Document.Evidence.GetValueOrDefault(field));
            }
            else if (places.TryGetValue(field, out var place))
                Set(
                    places,
                    field,
                    PageMoves.Follow(
                        place,
                        n =>
                            after.Pages.FirstOrDefault(p => p.Number == n) is { } at && number.TryGetValue(at.Image, out var old)
                                ? old
                                : null
                    )
                );
        }
        return now with { Record = record, Evidence = places };
    }

    private static void Set<T>(Dictionary<string, T> all, string key, T? value)
        where T : class
    {
        if (value is null)
            all.Remove(key);
        else
            all[key] = value;
    }

    // Evidence goes where its page goes. What a reader read there goes with it into a field of the same name that holds nothing.
    private void Follow(Part part, Dictionary<string, (long Id, int Number)> numbers, Dictionary<long, StoredDocument> values)
    {
        var document = part.Now;
        var images = part.Had.ToDictionary(p => p.Number, p => _replaced.GetValueOrDefault(p.Image, p.Image));
        (long Id, int Number)? At(int page) =>
            images.TryGetValue(page, out var image) && numbers.TryGetValue(image, out var at) ? at : null;
        var record = document.Record.ToDictionary(StringComparer.Ordinal);
        var places = document.Evidence.ToDictionary(StringComparer.Ordinal);
        foreach (var (field, place) in document.Evidence.Where(_ => part.Before is not null))
        {
            int? In(int page, long id) => At(page) is { } at && at.Id == id ? at.Number : null;
            Set(places, field, PageMoves.Follow(place, n => In(n, document.Id)));
            if (place.Page == 0 || places.ContainsKey(field) || !record.TryGetValue(field, out var text))
                continue;
            var touched = ValueHistoryStore.IsTouched(c, document.Id, field);
            var given = At(place.Page) is { } to && Give(values, to.Id, field, text, PageMoves.Follow(place, n => In(n, to.Id)), touched);
            if (given || !touched)
                record.Remove(field);
        }
        // What was typed into a document that goes altogether is not lost with it.
        if (
            part.Pages.Count == 0
            && part.Had.Where(p => p.Number > 0).Select(p => At(p.Number)).OfType<(long Id, int)>().FirstOrDefault() is { Id: > 0 } heir
        )
            foreach (var (field, text) in document.Record.Where(r => document.Evidence.GetValueOrDefault(r.Key) is null or { Page: 0 }))
                Give(values, heir.Id, field, text, null, false);
        // Another part may have given something to this one meanwhile.
        var got = values[document.Id];
        foreach (var (field, text) in got.Record)
            if (!document.Record.ContainsKey(field))
                record.TryAdd(field, text);
        foreach (var (field, place) in got.Evidence)
            if (!document.Evidence.ContainsKey(field))
                places.TryAdd(field, place);
        values[document.Id] = document with { Record = record, Evidence = places };
    }

    // What a reader read in a document that this act made gives way to what a person has set.
    private bool Give(Dictionary<long, StoredDocument> values, long to, string field, string text, Evidence? place, bool touched)
    {
        var document = values[to];
        if (
            document.Record.ContainsKey(field) && !(touched && _parts[to].Before is null)
            || document.TypeCode is not { } code
            || !designs.Published.TryGetValue(code, out var published)
            || published.Type.Type.Find(field) is null
        )
            return false;
        var places = document.Evidence.ToDictionary(StringComparer.Ordinal);
        Set(places, field, place);
        values[to] = document with { Record = JudgedDocument.With(document.Record, field, text), Evidence = places };
        return true;
    }

    private void Write(StoredDocument document, StoredDocument before) =>
        writer.Write(
            c,
            new DocumentChange(before, document, "came with its page", document.ReaderKey ?? "") { HowGone = "its page left the document" }
        );

    // What lay beside it lies beside the other one from then on, its sheet unseen.
    private void Remove(long id, long heir)
    {
        PageStore.Inherit(c, id, heir);
        DocumentStore.RemoveFromDesk(c, id, comesBack: true);
    }

    private static IReadOnlyList<PageAt> Wanted(Part part) =>
        [.. part.Had.Where(p => p.Number == 0 && part.Pages.Count > 0), .. part.Pages.Select((image, i) => new PageAt(i + 1, image))];

    private void Arrange(Dictionary<long, IReadOnlyList<PageAt>> wanted, HashSet<string> replaced)
    {
        PageStore.Arrange(c, [.. wanted.Select(w => new ArrangedPages(w.Key, w.Value))], replaced);
        foreach (var id in wanted.Keys)
            StackStore.Follow(c, id);
    }
}
