using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Formats;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Readers;

/// <summary>What a changed reader makes of one page that it was tried on.</summary>
/// <param name="Name">The sample or document.</param>
/// <param name="Document">The document; null for a sample.</param>
/// <param name="Before">What is read now.</param>
/// <param name="After">What would be read.</param>
/// <param name="Truth">What is true.</param>
public sealed record TriedPage(string Name, long? Document, string Before, string After, string Truth)
{
    /// <summary>1 when it would be read right and is not now, -1 the other way round, 0 when nothing changes for the value.</summary>
    public int Effect { get; init; }
}

/// <summary>What a correction would change, before it is kept.</summary>
/// <param name="Field">The field.</param>
/// <param name="Way">How the value would be found.</param>
/// <param name="Pages">All samples that know the value, then documents the reader read.</param>
/// <param name="Claimed">Number of the page that the reader claims; null when it claims none any more.</param>
public sealed record CorrectionTrial(Field Field, TaughtWay Way, IReadOnlyList<TriedPage> Pages, int? Claimed)
{
    /// <summary>Pages read right that are not now.</summary>
    public int Better => Pages.Count(p => p.Effect > 0);

    /// <summary>Pages no longer read right.</summary>
    public int Worse => Pages.Count(p => p.Effect < 0);
}

/// <summary>Readers that learn from the desk: a value shown at another place, a page that nobody claims filled by hand.</summary>
public sealed class Corrections(Database database, DataFolder folder, Designs designs, TaughtReaders readers, TimeProvider clock)
{
    /// <summary>How many of the documents that a reader read last it is tried on.</summary>
    public const int MostDocuments = 50;

    /// <summary>Pages of a document that are looked at: what a reader claims stands on its first ones.</summary>
    private const int MostPages = 20;

    /// <summary>A way that spoils one page must mend more than this many.</summary>
    private const int Spoils = 3;

    // A page with what is true of it.
    private sealed record Known(string Name, long? Document, IReadOnlyList<(int, PageText)> Pages, string Truth, Func<int, string?> Image);

    /// <summary>What would change if a value were looked for, from now on, where a person showed it on a document.</summary>
    /// <param name="id">The document, on the desk.</param>
    /// <param name="field">Key of the field, whose value has its place on one of the pages.</param>
    public Result<CorrectionTrial> Try(long id, string field)
    {
        var (document, pages) = database.Read(c => (DocumentStore.Find(c, id), DocumentStore.Pages(c, id)));
        if (document is not { ReaderKey: { } key, TypeCode: { } code } || readers.PublishedOf(key)?.Reader is not { } reader)
            return Result<CorrectionTrial>.Not("No reader claims this document.");
        if (!designs.Published.TryGetValue(code, out var published) || published.Type.Type.Find(field) is not { } asked)
            return Result<CorrectionTrial>.Not($"This document type has no field “{field}”.");
        if (asked.Kind.HasRows)
            return Result<CorrectionTrial>.Not("The rows of a table are taught on the reader's page.");
        if (
            document.Evidence.GetValueOrDefault(field) is not { Page: > 0 } shown
            || pages.Find(p => p.Number == shown.Page) is not { } page
            || document.Record.GetValueOrDefault(field) is not { Length: > 0 } truth
        )
            return Result<CorrectionTrial>.Not($"First show where {asked.Label} is: click the word, or drag a box around it.");
        using var ink = folder.PicturesOf(pages);
        var claim = Recognition.Try(page.Text, reader, ink, page.Number);
        var samples = readers.Samples(key);
        var ways = Correcting.Ways(
            page.Text,
            shown.Box,
            truth,
            asked,
            claim,
            claim.Role,
            [.. samples.Select(s => s.Page)],
            reader.Crosswalk.FirstOrDefault(l => l.Field == field)?.Steps ?? []
        );
        var here = Of(document, pages, truth);
        var known = samples
            .Where(s => s.Truth.ContainsKey(field))
            .Select(s => new Known(s.Name, null, [(1, s.Page)], s.Truth[field], _ => folder.Absolute(s.Image)))
            .Append(here)
            .Concat(database.Read(c => Read(c, key, field, id)))
            .ToList();
        var now = known.ConvertAll(k => TextOf(reader, published.Type.Type, asked, k));
        var claimed = pages.Find(p => Recognition.Try(p.Text, reader, ink, p.Number).Holds)?.Number;
        CorrectionTrial? best = null;
        foreach (var way in ways)
        {
            var changed = way.Apply(reader);
            if (!IsSame(asked, TextOf(changed, published.Type.Type, asked, here), truth))
                continue;
            var tried = new CorrectionTrial(
                asked,
                way,
                [
                    .. known.Select(
                        (k, i) =>
                        {
                            var after = TextOf(changed, published.Type.Type, asked, k);
                            var (was, becomes) = (IsSame(asked, now[i], k.Truth), IsSame(asked, after, k.Truth));
                            return new TriedPage(k.Name, k.Document, now[i], after, k.Truth) { Effect = becomes.CompareTo(was) };
                        }
                    ),
                ],
                claimed
            );
            if (best is null || tried.Better - Spoils * tried.Worse > best.Better - Spoils * best.Worse)
                best = tried;
        }
        return best
            ?? Result<CorrectionTrial>.Not(
                $"No way was found by which the reader would find {asked.Label} here by itself; teach it on the reader's page."
            );
    }

    /// <summary>
    /// Keeps what <see cref="Try"/> shows, in the published reader as its next version and in the draft; the document becomes a sample.
    /// </summary>
    /// <param name="id">The document.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="says">The way that the person saw; when another one is best by now, nothing is kept.</param>
    /// <param name="who">Who decides.</param>
    /// <returns>The version.</returns>
    public Result<int> Keep(long id, string field, string says, string who)
    {
        var trial = Try(id, field);
        if (!trial.Ok)
            return Result<int>.Not(trial.Problem!);
        var way = trial.Value!.Way;
        if (way.Says != says)
            return Result<int>.Not("The documents it was tried on have changed in the meantime; look at it again.");
        var image = CopyOfPage(id, trial.Value.Claimed);
        return database.Write<Result<int>>(c =>
        {
            if (
                DocumentStore.Find(c, id) is not { ReaderKey: { } key } document
                || ReaderStore.Find(c, key) is not { } draft
                || ReaderStore.Newest(c, key) is not { } newest
            )
                return Result<int>.Not("The document or its reader has changed in the meantime; look at it again.");
            if (draft.Finders.Count >= ReaderSources.MostFinders)
                return Result<int>.Not($"A reader has at most {ReaderSources.MostFinders} finders.");
            var change = $"learned from {document.SourceName}: {trial.Value.Field.Label} {way.Says}";
            ReaderStore.SaveDraft(c, way.Apply(draft), change);
            var version = ReaderStore.Publish(c, way.Apply(newest.Reader), clock.GetUtcNow(), who);
            KeepSample(c, key, document, image);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                $"published version {version}",
                new LedgerSubject(SubjectKind.Reader, key),
                change
            );
            return version;
        });
    }

    /// <summary>Makes a reader of a page that none claims, from the values that a person typed.</summary>
    /// <returns>The reader's key, and what it would claim besides: names of readers whose samples it claims too.</returns>
    public Result<(string Key, IReadOnlyList<string> AlsoClaims)> Teach(long id, string name, string who)
    {
        var (document, pages) = database.Read(c => (DocumentStore.Find(c, id), DocumentStore.Pages(c, id)));
        if (document is not { Filed: false, TypeCode: { } code, ReaderKey: null } || pages.Count == 0)
            return Not("Say first what kind of document this is.");
        if (!designs.Published.TryGetValue(code, out var published))
            return Not($"There is no published document type “{code}”.");
        var (page, places) = pages
            .Select(p => (Page: p, Places: Correcting.Places(p.Text, document.Record, published.Type.Type)))
            .MaxBy(p => p.Places.Count);
        if (places.Count == 0)
            return Not("None of the values is on the page as it was typed. Fill in a few that are, such as a number or a date.");
        var made = readers.Create(name, code, who);
        if (!made.Ok)
            return Not(made.Problem!);
        var taught = places.Aggregate(
            new Reader(made.Value!, name.Trim(), code, Correcting.Clues(page.Text, places), [], []),
            (reader, place) => place.Ways[0].Apply(reader)
        );
        var image = CopyOfPage(id, page.Number);
        database.Write(c =>
        {
            ReaderStore.SaveDraft(c, taught, $"taught from {document.SourceName}");
            KeepSample(c, taught.Key, document, image);
        });
        var also = readers
            .All()
            .Where(r => r.Key != taught.Key && readers.Samples(r.Key).Exists(s => Recognition.Try(s.Page, taught).Holds))
            .Select(r => r.Name)
            .ToList();
        return (taught.Key, also);

        static Result<(string, IReadOnlyList<string>)> Not(string problem) => Result<(string, IReadOnlyList<string>)>.Not(problem);
    }

    private List<Known> Read(SqliteConnection c, string key, string field, long but) =>
        [
            .. DocumentStore
                .ReadBy(c, key, MostDocuments + 1)
                .Where(d => d.Id != but)
                .Take(MostDocuments)
                // What nobody has looked at yet says nothing of what is true.
                .Where(d => d.Filed || ValueHistoryStore.IsTouched(c, d.Id, field))
                .Select(d => Of(d, DocumentStore.Pages(c, d.Id), d.Record.GetValueOrDefault(field, ""))),
        ];

    private Known Of(StoredDocument document, List<StoredPage> pages, string truth) =>
        new(
            document.Name ?? document.SourceName,
            document.Id,
            [.. pages.Take(MostPages).Select(p => (p.Number, p.Text))],
            truth,
            n => pages.Find(p => p.Number == n) is { } page ? folder.Absolute(page.Image) : null
        );

    // Only the lines of the field are read: the rest of the reader says nothing of it.
    private string TextOf(Reader reader, DocumentType type, Field field, Known known)
    {
        var only = reader with { Crosswalk = [.. reader.Crosswalk.Where(l => l.Field == field.Key)] };
        var needsInk = only.Finders.Any(f => f.Kind is "mark" or "ink" && only.Crosswalk.Any(l => l.Source == f.Key));
        using var ink = new PagePictures(known.Image);
        foreach (var (number, text) in known.Pages)
            if (Recognition.Try(text, only, ink, number) is { Holds: true } claim)
                return DocumentReading
                        .Read(known.Pages, number, claim, type, designs.Finders(needsInk ? ink : null, new Arrival(known.Name)))
                        .Record.GetValueOrDefault(field.Key)
                    ?? "";
        return "";
    }

    private static bool IsSame(Field field, string read, string truth) =>
        Proof.Compare(field, new CapturedValue(field.Key, read, null), truth).Outcome == Outcome.Right;

    // A sample keeps its picture when the document leaves the desk.
    private (StoredPage Page, string Image)? CopyOfPage(long id, int? number = null)
    {
        var pages = database.Read(c => DocumentStore.Pages(c, id));
        if (pages.Find(p => number is null || p.Number == number) is not { } page || !File.Exists(folder.Absolute(page.Image)))
            return null;
        var copy = Path.Combine(folder.Pages, $"s{Guid.NewGuid():N}{Path.GetExtension(page.Image)}");
        File.Copy(folder.Absolute(page.Image), copy);
        return (page, folder.Relative(copy));
    }

    private static void KeepSample(SqliteConnection c, string key, StoredDocument document, (StoredPage Page, string Image)? copied)
    {
        if (copied is { } copy && ReaderStore.Samples(c, key).TrueForAll(s => s.Name != document.SourceName))
            ReaderStore.AddSample(c, key, document.SourceName, copy.Image, copy.Page.Text, document.Record);
    }
}
