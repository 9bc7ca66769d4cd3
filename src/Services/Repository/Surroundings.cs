using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// What documents are judged with besides their records, in one reading: each thing is asked of the database once, however many documents
/// follow. It is not kept beyond that reading.
/// </summary>
/// <param name="c">The connection that reads.</param>
/// <param name="designs">What is published.</param>
/// <param name="who">Who asks.</param>
internal sealed class Surroundings(SqliteConnection c, Designs designs, string who)
{
    private readonly Dictionary<EntryChannel, CheckContext> _now = [];
    private readonly Dictionary<long, string> _batches = [];
    private readonly Dictionary<long, Dictionary<long, int>> _numbers = [];
    private Dictionary<long, int>? _pages;

    /// <summary>The design that a document is judged by; null while its type is unknown.</summary>
    public PublishedType? Of(StoredDocument document) =>
        document.TypeCode is { } code && designs.Published.TryGetValue(code, out var published) ? published : null;

    /// <summary>What surrounds a document of the desk or a filed one, as far as its type asks.</summary>
    public CheckContext Around(StoredDocument document, CompiledType type)
    {
        var now = Now(document.Filed ? EntryChannel.Edit : EntryChannel.Desk);
        return WithDefaults(document, type, type.Convention.UsesSystemValues ? Placing.Around(c, document, now) : now);
    }

    /// <summary>The same of a document of the desk, of many that are asked for.</summary>
    public CheckContext AroundOneOfMany(StoredDocument document, CompiledType type)
    {
        if (document.Naming is not null)
            return Around(document, type);
        var now = Now(EntryChannel.Desk);
        return WithDefaults(document, type, type.Convention.UsesSystemValues ? AmongMany(document, now) : now);
    }

    private CheckContext Now(EntryChannel channel)
    {
        if (!_now.TryGetValue(channel, out var now))
            _now[channel] = now = designs.Now(c, channel, who);
        return now;
    }

    private CheckContext WithDefaults(StoredDocument document, CompiledType type, CheckContext now)
    {
        if (document.BatchId is not { } batch)
            return now;
        if (type.Type.Fields.Any(f => f.DefaultFrom == DefaultSource.Batch) && now.Batch.Length == 0)
            now = now with { Batch = NameOf(batch) };
        if (type.Type.Fields.Any(f => f.DefaultFrom == DefaultSource.Previous))
            now = now with
            {
                Previous =
                    DocumentStore.Before(c, batch, document.Id) is { } before && before.TypeCode == document.TypeCode
                        ? before.Record
                        : null,
            };
        return now;
    }

    // As Placing.Around has it, asked once for all of the desk and for all of a batch.
    private CheckContext AmongMany(StoredDocument document, CheckContext now)
    {
        _pages ??= DocumentStore.PageCountsOnDesk(c);
        return Placing.OnDesk(
            document,
            now,
            _pages.GetValueOrDefault(document.Id),
            document.BatchId is { } batch ? (NameOf(batch), NumbersIn(batch).GetValueOrDefault(document.Id)) : null
        );
    }

    private string NameOf(long batch)
    {
        if (!_batches.TryGetValue(batch, out var name))
            _batches[batch] = name = BatchStore.NameOf(c, batch);
        return name;
    }

    private Dictionary<long, int> NumbersIn(long batch)
    {
        if (!_numbers.TryGetValue(batch, out var numbers))
            _numbers[batch] = numbers = DocumentStore
                .IdsIn(c, batch)
                .Select((id, i) => (id, Number: i + 1))
                .ToDictionary(d => d.id, d => d.Number);
        return numbers;
    }
}
