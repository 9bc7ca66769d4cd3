using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Readers;

/// <summary>A value as a document of another type would hold it.</summary>
/// <param name="Field">Field of the new type.</param>
/// <param name="Text">Its value; empty for none.</param>
/// <param name="From">Where it comes from: label of the field of before, or <c>read again</c>; empty for none.</param>
public sealed record RetypedValue(Field Field, string Text, string From);

/// <summary>What another type would make of a document.</summary>
/// <param name="Changed">The document with its new type and values.</param>
/// <param name="Values">Its values, in the order of the new type.</param>
/// <param name="Lost">What the new type has no place for.</param>
/// <param name="Judged">What the new type's rules say.</param>
/// <param name="Path">Where it belongs then, with extension; empty when it has no place.</param>
/// <param name="Reader">Name of the reader of the new type that read it; null when none claims it, or none was asked.</param>
public sealed record RetypeLook(
    StoredDocument Changed,
    IReadOnlyList<RetypedValue> Values,
    IReadOnlyList<LostValue> Lost,
    Judgement Judged,
    string Path,
    string? Reader
);

/// <summary>Works out what another type would make of a document; nothing is changed.</summary>
internal sealed class RetypePlanning(DataFolder folder, Designs designs)
{
    // Of a document of hundreds of pages the first ones say which reader knows it.
    private const int MostPages = 50;

    /// <summary>
    /// What stands against it, when it is filed: it must stand as its new type demands; what should hold needs a reason.
    /// </summary>
    public static ChangeVerdict Of(RetypeLook look, string reason) =>
        ChangePolicy.Retyping.Of(look.Judged.All, null, look.Changed.Overrides.Keys, reason: reason);

    /// <summary>What the new type makes of a document; null when it is of that type, or came by a migration.</summary>
    public RetypeLook? Look(SqliteConnection c, StoredDocument document, string toType, bool rereads, string who)
    {
        if (
            document.TypeCode == toType
            || document is { Filed: true, HasFile: false }
            || !designs.Published.TryGetValue(toType, out var published)
        )
            return null;
        var to = published.Type.Type;
        var from = document.TypeCode is { } code && designs.Published.TryGetValue(code, out var before) ? before.Type.Type : null;
        var lines = from is null ? [] : CompiledCarrying.Suggest(from, to);
        var carrying = from is null ? null : new CompiledCarrying(lines, from, to);
        var carried = carrying?.Carry(document.Record) ?? document.Record;
        var places = carrying?.Carry(document.Evidence) ?? document.Evidence;
        var (record, evidence, sources) = (
            new Dictionary<string, string>(StringComparer.Ordinal),
            new Dictionary<string, Evidence>(StringComparer.Ordinal),
            new Dictionary<string, string>(StringComparer.Ordinal)
        );
        foreach (var (field, i) in to.Fields.Select((f, i) => (f, i)))
            // A value fits when the field can hold it; one that is restricted goes into no open field.
            if (
                carried.GetValueOrDefault(field.Key, "") is { Length: > 0 } text
                && published.Type.ReaderOf(i).Read(text).IsGood
                && (from?.Find(SourceOf(field.Key)) is not { Restricted: true } || field.Restricted)
            )
            {
                (record[field.Key], sources[field.Key]) = (text, SourceOf(field.Key));
                if (places.GetValueOrDefault(field.Key) is { } place)
                    evidence[field.Key] = place;
            }
        string SourceOf(string key) => lines.FirstOrDefault(l => l.Field == key && !document.Record.ContainsKey(key))?.From[0] ?? key;

        var reader = rereads ? Reread(c, document, to, record, evidence, sources) : null;
        var kept = sources.Values.ToHashSet(StringComparer.Ordinal);
        var lost = document
            .Record.Where(r => r.Value.Length > 0 && !kept.Contains(r.Key) && !record.ContainsValue(r.Value))
            .Select(r => new LostValue(from?.LabelOf(r.Key) ?? r.Key, r.Value))
            .ToList();
        var changed = document with
        {
            TypeCode = toType,
            Version = published.Version,
            ReaderKey = reader?.Reader.Key,
            ReaderVersion = reader?.Version,
            Record = record,
            Evidence = evidence,
            Overrides = new Dictionary<string, string>(),
            // Another convention counts for itself.
            Naming = document.Naming is { } naming ? naming with { Counter = 0 } : null,
        };
        var judged = JudgedDocument.Of(c, designs, changed, who).Judged!;
        return new RetypeLook(
            changed,
            [
                .. to.Fields.Select(f => new RetypedValue(
                    f,
                    record.GetValueOrDefault(f.Key, ""),
                    sources.GetValueOrDefault(f.Key) is { } source
                        ? source.Length == 0
                            ? "read again"
                            : from?.LabelOf(source) ?? source
                        : ""
                )),
            ],
            lost,
            judged,
            judged.Placement.Problem is null
                ? judged.Placement.Path + (Path.GetExtension(document.Name) ?? CompiledConvention.Extension)
                : "",
            reader?.Reader.Name
        );
    }

    // The reader of the new type that claims a page best, and what it reads; what a person has set stays.
    private ReaderVersion? Reread(
        SqliteConnection c,
        StoredDocument document,
        DocumentType to,
        Dictionary<string, string> record,
        Dictionary<string, Evidence> evidence,
        Dictionary<string, string> sources
    )
    {
        var pages = DocumentStore.PagesAndSheet(c, document.Id);
        using var ink = folder.PicturesOf(pages);
        var best = ReaderStore
            .Published(c)
            .Where(v => v.Reader.TypeCode == to.Code)
            .SelectMany(v =>
                pages
                    .Where(p => p.Number > 0)
                    .Take(MostPages)
                    .Select(p => (Version: v, p.Number, Claim: Recognition.Try(p.Text, v.Reader, ink, p.Number)))
            )
            .Where(t => t.Claim.Holds)
            .OrderByDescending(t => t.Claim.Score)
            .FirstOrDefault();
        if (best.Version is null)
            return null;
        var read = DocumentReading.Read(
            [.. pages.Select(p => (p.Number, p.Text))],
            best.Number,
            best.Claim,
            to,
            designs.Finders(ink, document)
        );
        var places = ZoneReading.Places(read.Values, best.Number);
        foreach (var (field, text) in read.Record)
        {
            if (sources.TryGetValue(field, out var source) && ValueHistoryStore.IsTouched(c, document.Id, source))
                continue;
            (record[field], sources[field]) = (text, "");
            evidence.Remove(field);
            if (places.GetValueOrDefault(field) is { } place)
                evidence[field] = place;
        }
        foreach (var (field, place) in places)
            evidence.TryAdd(field, place);
        return best.Version;
    }
}
