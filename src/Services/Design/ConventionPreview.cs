using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Design;

/// <summary>A document that a preview places.</summary>
/// <param name="Folder">Its folder.</param>
/// <param name="Name">Its name with extension.</param>
/// <param name="From">Where it comes from: a document, a row.</param>
/// <param name="Texts">Texts by field ordinal, to say why it landed there.</param>
public sealed record PreviewedDocument(string Folder, string Name, string From, string?[] Texts);

/// <summary>What a convention would do to the repository.</summary>
/// <param name="Tree">Folders as they are and would be.</param>
/// <param name="Documents">The documents that would be added; at most <see cref="ConventionPreview.MostKept"/>.</param>
/// <param name="Added">How many would be added.</param>
/// <param name="Held">How many have no place.</param>
/// <param name="First">Where the first three go, or as far as that can be said.</param>
public sealed record PreviewedTree(
    PathTree Tree,
    IReadOnlyList<PreviewedDocument> Documents,
    int Added,
    int Held,
    IReadOnlyList<Placement> First
);

/// <summary>Shows a draft's convention on documents: those on the desk, an inventory, or made-up ones. Nothing is changed.</summary>
public sealed class ConventionPreview(Database database, DataFolder folder, Designs designs, TimeProvider clock)
{
    /// <summary>Documents that are kept for listing.</summary>
    public const int MostKept = 100_000;

    private readonly Lock _lock = new();
    private readonly Dictionary<string, (long At, PreviewedTree Tree)> _held = [];

    /// <summary>What a draft of a type can be shown on, as a key and a name; the first that has documents is the usual one.</summary>
    public List<(string Key, string Name)> Sources(string code) =>
        database.Read(c =>
        {
            var sources = new List<(string, string)>();
            var waiting = DocumentStore.OnDesk(c).Where(d => d.TypeCode == code).ToList();
            if (waiting.Count > 0)
                sources.Add(("desk", $"the {waiting.Count} documents on the desk"));
            foreach (var batch in waiting.Where(d => d.BatchId is not null).GroupBy(d => d.BatchId!.Value))
                sources.Add(($"batch-{batch.Key}", $"the batch {BatchStore.NameOf(c, batch.Key)}, {batch.Count()} documents"));
            sources.AddRange(
                InventoryStore.All(c).Where(i => i.Plan?.TypeCode == code).Select(i => ($"inventory-{i.Id}", $"the inventory {i.Name}"))
            );
            sources.Add(("samples", "made-up documents"));
            return sources;
        });

    /// <summary>
    /// The tree for a draft and a source. It is held while nothing changes, for a minute at most, so that unfolding it costs nothing.
    /// </summary>
    public PreviewedTree Of(DocumentType whole, string source, string who)
    {
        var key = $"{whole.Code} {source} {Sql.ToJson(whole).GetHashCode(StringComparison.Ordinal)} {database.Read(LedgerStore.State)}";
        lock (_lock)
        {
            if (_held.TryGetValue(key, out var known) && clock.GetElapsedTime(known.At) < TimeSpan.FromMinutes(1))
                return known.Tree;
        }
        var tree = Make(whole, source, who);
        lock (_lock)
        {
            if (_held.Count >= 6)
                _held.Remove(_held.MinBy(h => h.Value.At).Key);
            _held[key] = (clock.GetTimestamp(), tree);
        }
        return tree;
    }

    private PreviewedTree Make(DocumentType whole, string source, string who)
    {
        var compiled = new CompiledType(whole, designs.Vocabularies, designs.Tables);
        var tree = new PathTree();
        var taken = database.Read(c =>
        {
            foreach (var (path, count) in RepositoryStore.Folders(c))
                tree.Has(path, count);
            return Placing.Taken(c);
        });
        var documents = new List<PreviewedDocument>();
        var first = new List<Placement>();
        var (added, held) = (0, 0);
        void Take(Placement place, string extension, string from, Func<string?[]> texts)
        {
            // The first that has no place is shown too, with the reason.
            if (first.Count < 3 && (place.Problem is null || held == 0))
                first.Add(place);
            if (place.Problem is not null)
            {
                held++;
                return;
            }
            tree.Adds(place.Folder);
            added++;
            if (documents.Count < MostKept)
                documents.Add(new PreviewedDocument(place.Folder, place.Name + extension, from, texts()));
        }
        if (
            source.StartsWith("inventory-", StringComparison.Ordinal)
            && long.TryParse(source.AsSpan(10), out var id)
            && database.Read(c => InventoryStore.Find(c, id)) is { Plan: { } plan } inventory
        )
            EachRow(
                inventory,
                new RowJudge(new CompiledPlan(plan, compiled, inventory.Shape.Columns), taken, designs.Now(EntryChannel.Migration, who)),
                (row, number, judge) =>
                    Take(judge.Placement, Path.GetExtension(row), $"row {number}: {row}", () => [.. judge.Values.Select(v => v.Text)])
            );
        else
        {
            var now = designs.Now(EntryChannel.Desk, who);
            long? batch = source.StartsWith("batch-", StringComparison.Ordinal) && long.TryParse(source.AsSpan(6), out var b) ? b : null;
            var given =
                source == "desk" || batch is not null
                    ? database.Read(c =>
                        DocumentStore
                            .OnDesk(c, batch)
                            .Where(d => d.TypeCode == whole.Code)
                            .Select(d => (From: d.SourceName, Texts: RecordJudge.Texts(compiled, d.Record), Now: Placing.Around(c, d, now)))
                            .ToList()
                    )
                    :
                    [
                        .. SampleRecords
                            .For(whole, designs.Vocabularies)
                            .Select(
                                (texts, i) =>
                                    (
                                        From: i == 0 ? "a full record" : "a record with only what must be filled",
                                        Texts: texts,
                                        Now: now with
                                        {
                                            Person = who,
                                            Batch = "Monday post",
                                            NumberInBatch = i + 1,
                                            Pages = 2,
                                            Original = "scan 0042.pdf",
                                        }
                                    )
                            ),
                    ];
            foreach (var (from, texts, around) in given)
            {
                var values = compiled.Read(texts, around);
                var place = compiled.Convention.Render(values, around);
                Take(
                    place.Problem is null ? taken.Place(compiled.Convention, values, around, place).At : place,
                    CompiledConvention.Extension,
                    from,
                    () => texts
                );
            }
        }
        return new PreviewedTree(tree, documents, added, held, first);
    }

    private void EachRow(Inventory inventory, RowJudge judge, Action<string, int, RowJudge> each)
    {
        var tagged = database.Read(c => WaveStore.TaggedPaths(c, inventory.Id));
        foreach (var (row, number) in InventoryRows.Of(inventory, folder))
        {
            var path = row[inventory.Shape.PathColumn];
            if (tagged.Contains(path))
                continue;
            judge.Judge(row, number, path);
            each(path, number, judge);
        }
    }
}
