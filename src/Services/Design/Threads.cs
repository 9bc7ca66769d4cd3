using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Designs.Threads;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Rules;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Design;

/// <summary>A document that threads can be drawn with.</summary>
/// <param name="Key"><c>document-</c> or <c>sample-</c> with an id, or <c>made-up</c>.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Read">Reads its values and evidence; a sample is read by its reader only when it is chosen.</param>
public sealed record ThreadSubject(string Key, string Title, Func<StoredDocument> Read)
{
    private StoredDocument? _document;

    /// <summary>Its values and evidence.</summary>
    public StoredDocument Document => _document ??= Read();
}

/// <summary>The threads of a type's draft with one document.</summary>
/// <param name="Subject">The document.</param>
/// <param name="Picture">Its ends and threads.</param>
/// <param name="Pages">Its pages.</param>
public sealed record WovenDocument(ThreadSubject Subject, ThreadPicture Picture, IReadOnlyList<StoredPage> Pages);

/// <summary>Threads: the draft of one type shown with one document.</summary>
public sealed class Threads(Database database, DataFolder folder, Designs designs)
{
    private const int MostSubjects = 60;

    /// <summary>Documents to choose from: what came in of the type, then samples of its readers, then a made-up record.</summary>
    public List<ThreadSubject> Subjects(DocumentType type) =>
        database.Read(c =>
        {
            var samples = ReaderStore
                .All(c)
                .Where(r => r.TypeCode == type.Code)
                .SelectMany(r => ReaderStore.Samples(c, r.Key).Select(s => Sample(r, s, type)));
            var madeUp = SampleRecords.For(type, designs.Vocabularies)[0];
            return (List<ThreadSubject>)
                [
                    .. DocumentStore
                        .WithPages(c, type.Code, MostSubjects)
                        .Select(d => new ThreadSubject($"document-{d.Id}", d.Filed ? d.Name! : $"{d.SourceName}, on the desk", () => d)),
                    .. samples.Take(MostSubjects),
                    new ThreadSubject(
                        "made-up",
                        "a made-up record, without a page",
                        () =>
                            new StoredDocument
                            {
                                SourceName = "made-up.pdf",
                                Record = type
                                    .Fields.Select((f, i) => (f.Key, Text: madeUp[i]))
                                    .Where(f => f.Text is not null)
                                    .ToDictionary(f => f.Key, f => f.Text!),
                            }
                    ),
                ];
        });

    /// <summary>The threads of a resolved draft with one of its subjects.</summary>
    public WovenDocument Weave(DocumentType type, ThreadSubject subject, string who)
    {
        var compiled = new CompiledType(type, designs.Vocabularies, designs.Tables);
        var document = subject.Document;
        var now = database.Read(c => Placing.Around(c, document, designs.Now(c, EntryChannel.Desk, who)));
        var readers = database.Read(ReaderStore.All);
        return new WovenDocument(
            subject,
            Weaving.Weave(compiled, readers, new ThreadedDocument(document.Record, document.Evidence, now, document.PlaceNumber)),
            Pages(subject)
        );
    }

    /// <summary>
    /// A page picture for showing around: whatever is restricted is blacked out, for everybody. Null when there is no such page.
    /// </summary>
    public byte[]? Page(DocumentType type, ThreadSubject subject, int number)
    {
        if (Pages(subject).FirstOrDefault(p => p.Number == number) is not { } page)
            return null;
        var masks = FullText
            .Redaction(subject.Document, new CompiledType(type, designs.Vocabularies, designs.Tables))
            .Masks(page.Text, page.Number);
        return masks.Count == 0
            ? File.ReadAllBytes(folder.Absolute(page.Image))
            : SearchablePdf.MaskedPng(folder.Absolute(page.Image), masks);
    }

    private IReadOnlyList<StoredPage> Pages(ThreadSubject subject) =>
        database.Read(c =>
            subject.Key.StartsWith("sample-", StringComparison.Ordinal)
                ? ReaderStore.FindSample(c, -subject.Document.Id) is { } s
                    ? [new StoredPage(1, s.Image, s.Page, null)]
                    : []
                : DocumentStore.Pages(c, subject.Document.Id)
        );

    // What the reader makes of its sample. A sample's id is kept as a negative one, so that it is never taken for a document's.
    private ThreadSubject Sample(Reader reader, Sample sample, DocumentType type)
    {
        StoredDocument Read()
        {
            using var ink = new PagePictures(_ => folder.Absolute(sample.Image));
            var claim = Recognition.Try(sample.Page, reader, ink);
            var captured = claim.Role is { } role
                ? DocumentReading.Read([(1, sample.Page)], 1, claim, type, designs.Finders(ink, new Arrival(sample.Name)), role).Values
                : [];
            return new StoredDocument
            {
                Id = -sample.Id,
                SourceName = sample.Name,
                Record = captured.GroupBy(v => v.Field).ToDictionary(v => v.Key, v => v.First().Text),
                Evidence = ZoneReading.Places(captured, 1),
            };
        }
        return new ThreadSubject($"sample-{sample.Id}", $"{sample.Name}, sample of {reader.Name}", Read);
    }
}
