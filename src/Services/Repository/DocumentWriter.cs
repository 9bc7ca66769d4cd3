using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>A change of one document: its type, values, places, overrides, or that it is filed.</summary>
/// <param name="Before">The document as it was read.</param>
/// <param name="After">As it is from then on.</param>
/// <param name="How">How its history tells of each value that becomes another one; null where values only take the form in which they
/// are kept.</param>
/// <param name="Who">Whom its history names: a person, or the reader that read it.</param>
internal sealed record DocumentChange(StoredDocument Before, StoredDocument After, string? How, string Who)
{
    /// <summary>How the history tells of a value that goes, where that is told otherwise.</summary>
    public string? HowGone { get; init; }

    /// <summary>Key of the field that a person has looked at: the history tells so even of a value that stays.</summary>
    public string? SeenField { get; init; }

    /// <summary>What the engine said of it, for a document that people find: then the terms that it brings are kept, and it is parked no
    /// longer when it is as it must be.</summary>
    public Judgement? Judged { get; init; }

    /// <summary>The design that it follows from then on; the published one when not said.</summary>
    public CompiledType? Type { get; init; }

    /// <summary>Its pages, when they are known.</summary>
    public IReadOnlyList<StoredPage>? Pages { get; init; }
}

/// <summary>
/// The one writer of documents. It looks whether a document is still what it was when it was read, and saves it with all that follows
/// from it: history, keys of unique rules, the index of its values, full text, counts. Whether a change may be made says
/// <see cref="ChangePolicy"/>.
/// </summary>
public sealed class DocumentWriter(Designs designs, TimeProvider clock)
{
    /// <summary>Writes a change; the document with its new revision.</summary>
    /// <exception cref="ChangedMeanwhileException">It has been changed since <see cref="DocumentChange.Before"/> was read.</exception>
    internal StoredDocument Write(SqliteConnection c, DocumentChange change)
    {
        var (before, at) = (change.Before, clock.GetUtcNow());
        var after = DocumentStore.Save(c, change.After with { Revision = before.Revision });
        if (after.Filed && !before.Filed)
        {
            DocumentStore.MarkFiled(c, after, at, change.Who);
            after = after with { Revision = after.Revision + 1 };
        }
        if (before.Filed && after.TypeCode != before.TypeCode)
        {
            FolderStore.CountType(c, before.TypeCode!, -1);
            FolderStore.CountType(c, after.TypeCode!, 1);
        }
        foreach (var (field, old, text) in Changed(before, after, change.SeenField))
            if ((text.Length == 0 ? change.HowGone ?? change.How : change.How) is { } how)
                ValueHistoryStore.Add(c, after.Id, new ValueChange(field, old, text, how, new Instant(at), change.Who));
        if ((change.Type ?? TypeOf(after)) is not { } type)
            return after;
        // A reason alone changes nothing that is found.
        if (
            after.Filed != before.Filed
            || after.TypeCode != before.TypeCode
            || !ReferenceEquals(after.Record, before.Record)
            || !ReferenceEquals(after.Evidence, before.Evidence)
        )
            Rebuilding.Keep(c, after, type, change.Pages);
        if (change.Judged is not { } judged)
            return after;
        GrowingTerms.Grow(c, type.NewTerms(judged.Values), change.Who, clock);
        if (before.Parked is null || judged.Problems.Any(p => p.Level == Core.Fields.Level.Must))
            return after;
        DocumentStore.Park(c, after.Id, null);
        return after with { Parked = null, Revision = after.Revision + 1 };
    }

    /// <summary>Adds a document to the desk; the document with its id.</summary>
    /// <param name="c">The connection of the transaction.</param>
    /// <param name="document">The document.</param>
    /// <param name="pages">Its pages.</param>
    /// <param name="how">How its history tells where the value of a field came from; null where it does not.</param>
    internal StoredDocument Add(SqliteConnection c, StoredDocument document, IEnumerable<StoredPage> pages, Func<string, string?> how)
    {
        var added = document with { Id = DocumentStore.Add(c, document, pages) };
        foreach (var (field, text) in added.Record)
            if (how(field) is { } told)
                ValueHistoryStore.Add(c, added.Id, new ValueChange(field, "", text, told, clock.Moment(), added.ReaderKey ?? ""));
        if (TypeOf(added) is { } type)
            RecordJudge.KeepKeys(c, added, type);
        return added;
    }

    /// <summary>What stands against a change of one field, by a policy; and the document with what the reason overrides.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="change">The change, judged.</param>
    /// <param name="policy">What such a change may do.</param>
    /// <param name="field">Key of the field that is changed.</param>
    /// <param name="reason">Why it is changed all the same.</param>
    internal (ChangeVerdict Verdict, StoredDocument After) Weigh(
        SqliteConnection c,
        DocumentChange change,
        ChangePolicy policy,
        string field,
        string reason = ""
    )
    {
        var before = JudgedDocument.Of(c, designs, change.Before, change.Who).Judged!.Problems;
        var known = before.Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        var verdict = policy.Of(change.Judged!.Problems, known, change.After.Overrides.Keys, field, reason);
        return (verdict, Overridden(change.After, verdict, reason));
    }

    /// <summary>A document with what the reason of a change overrides.</summary>
    internal static StoredDocument Overridden(StoredDocument document, ChangeVerdict verdict, string reason) =>
        verdict.Overridden.Aggregate(document, (d, id) => d with { Overrides = JudgedDocument.With(d.Overrides, id, reason) });

    /// <summary>
    /// Who has set a field to something else since a person saw it, and to what; null when nobody has, or to what that person sets it to.
    /// </summary>
    /// <param name="c">An open connection.</param>
    /// <param name="document">The document as it is.</param>
    /// <param name="field">Key of the field.</param>
    /// <param name="seen">The value that the person saw; null for whoever saw none.</param>
    /// <param name="text">What the person sets it to.</param>
    internal static (string Who, string Now)? SetMeanwhile(
        SqliteConnection c,
        StoredDocument document,
        string field,
        string? seen,
        string text
    ) =>
        seen is not null && document.Record.GetValueOrDefault(field, "") is var now && now != seen && now != text.Trim()
            ? (ValueHistoryStore.Of(c, document.Id).LastOrDefault(h => h.Field == field)?.Who ?? "Somebody", now)
            : null;

    private CompiledType? TypeOf(StoredDocument document) =>
        document.TypeCode is { } code && designs.Published.TryGetValue(code, out var published) ? published.Type : null;

    private static IEnumerable<(string Field, string Before, string After)> Changed(
        StoredDocument before,
        StoredDocument after,
        string? lookedAt
    ) =>
        after
            .Record.Keys.Union(before.Record.Keys)
            .Select(f => (Field: f, Before: before.Record.GetValueOrDefault(f, ""), After: after.Record.GetValueOrDefault(f, "")))
            .Where(f => f.Before != f.After || f.Field == lookedAt);
}
