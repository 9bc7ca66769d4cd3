using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Desk;

/// <summary>
/// Makes the record of one document of a stack: which reader claims it, what it reads, what the way in and the sheet add.
/// </summary>
/// <param name="readers">Readers of published types that may claim it.</param>
/// <param name="published">Published types by code.</param>
/// <param name="way">The way it came.</param>
/// <param name="look">What finders know of a document: of its pictures, and the file it came in.</param>
internal sealed class StackReading(
    IReadOnlyList<ReaderVersion> readers,
    IReadOnlyDictionary<string, PublishedType> published,
    WayIn way,
    Func<IPagePictures, Arrival, FinderContext> look
)
{
    /// <summary>The document, not yet kept, and what a person should know of it.</summary>
    /// <param name="pages">Its pages with their numbers, from 1; the page that came before it and vanished is number 0.</param>
    /// <param name="sheet">What its cover sheet says; null without one.</param>
    /// <param name="arrival">How it came.</param>
    /// <param name="ink">Its pages as pictures.</param>
    public (StoredDocument Document, IReadOnlyList<string> Notices) Read(
        IReadOnlyList<(int Number, PageText Text)> pages,
        SheetValues? sheet,
        Arrival arrival,
        IPagePictures ink
    )
    {
        var document = new StoredDocument { SourceName = "" };
        var notices = new List<string>(sheet?.Doubts ?? []);
        var able = readers.Where(v => sheet?.TypeCode is not { } said || v.Reader.TypeCode == said).Select(v => v.Reader).ToList();
        foreach (var (number, text) in pages.Where(p => p.Number > 0))
        {
            if (Recognition.Claims(text, able, ink, number) is not [var claim, .. var others])
                continue;
            if (others.FirstOrDefault(o => claim.Score - o.Score < Recognition.TooClose) is { } rival)
                notices.Add(
                    $"{claim.Reader.Name} and {rival.Reader.Name} both claim page {number} ({claim.Score:0.0} and {rival.Score:0.0} "
                        + "clues); "
                        + $"it was read as {claim.Reader.Name}. Read it with the other if that is wrong."
                );
            var read = DocumentReading.Read(pages, number, claim, published[claim.Reader.TypeCode].Type.Type, look(ink, arrival));
            document = document with
            {
                TypeCode = claim.Reader.TypeCode,
                ReaderKey = claim.Reader.Key,
                ReaderVersion = readers.First(v => v.Reader.Key == claim.Reader.Key).Version,
                Record = read.Record,
                Evidence = ZoneReading.Places(read.Values, number),
            };
            notices.AddRange(read.Notices);
            break;
        }
        if ((document.TypeCode ?? sheet?.TypeCode ?? way.TypeCode) is not { } code || !published.TryGetValue(code, out var type))
            return (document, notices);
        document = document with { TypeCode = code, Version = type.Version };
        // What a person wrote on the sheet goes before what was read; names and constants fill what is left.
        foreach (var value in sheet?.Values ?? [])
            if (type.Type.Type.Find(value.Field) is not null)
                document = With(document, value.Field, value.Text, value.Evidence);
        foreach (var (field, text) in NameTemplate.Read(way.Names, arrival.Path).Concat(way.Constants))
            if (type.Type.Type.Find(field) is not null && !document.Record.ContainsKey(field) && text.Trim().Length > 0)
                document = With(document, field, text.Trim(), null);
        return (document, notices);
    }

    private static StoredDocument With(StoredDocument document, string field, string text, Evidence? evidence)
    {
        var evidences = document.Evidence.ToDictionary(StringComparer.Ordinal);
        if (evidence is null)
            evidences.Remove(field);
        else
            evidences[field] = evidence;
        return document with { Record = Repository.JudgedDocument.With(document.Record, field, text), Evidence = evidences };
    }
}

/// <summary>What a cover sheet says of the document behind it.</summary>
/// <param name="TypeCode">Its document type; null when it says none.</param>
/// <param name="Values">Values with their places on the sheet, page 0.</param>
/// <param name="Doubts">What is wrong with the sheet, in sentences.</param>
public sealed record SheetValues(string? TypeCode, IReadOnlyList<CapturedValue> Values, IReadOnlyList<string> Doubts);
