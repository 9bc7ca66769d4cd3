using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Migration;

/// <summary>A row of an inventory as a run meets it.</summary>
/// <param name="Cells">Its cells; one array is reused for all rows.</param>
/// <param name="Number">Its number, from 1.</param>
/// <param name="Path">Its legacy path.</param>
/// <param name="Verdict">What the engine says; null for a row that is tagged already.</param>
/// <param name="Left">Why it is not ready; null when it is, or is tagged already.</param>
/// <param name="Judged">Whether the engine has judged it.</param>
internal readonly record struct JudgedRow(string[] Cells, int Number, string Path, RowVerdict? Verdict, LeftRow? Left, bool Judged);

/// <summary>
/// Walks an inventory and judges each row that is not tagged yet. Dry run and wave both walk this way, so that what the one says is ready
/// is what the other tags.
/// </summary>
internal sealed class InventoryRun
{
    /// <summary>Why a row is held back whose file an earlier row has named.</summary>
    public const string NamedBefore = "An earlier row names the same legacy file.";

    private readonly Inventory _inventory;
    private readonly DataFolder _folder;
    private readonly HashSet<string> _met;
    private readonly HashSet<string> _tagged;

    /// <summary>Learns what is taken already.</summary>
    public InventoryRun(
        Database database,
        DataFolder folder,
        Designs designs,
        Inventory inventory,
        PublishedType published,
        string who,
        int afterRow = 0
    )
    {
        (_inventory, _folder, AfterRow) = (inventory, folder, afterRow);
        WritesSeen = database.Writes;
        Plan = new CompiledPlan(inventory.Plan!, published.Type, inventory.Shape.Columns);
        (Taken, _tagged) = database.Read(c =>
        {
            var names = Placing.Taken(c);
            var now = designs.Now(c, EntryChannel.Migration, who);
            var conditional = published.Type.Uniques.Where(u => u.When is not null).ToDictionary(u => u.Rule.Id, StringComparer.Ordinal);
            foreach (var (rule, key, id) in UniqueKeyStore.Of(c, published.Type.Type.Code))
                // What a condition asks is asked of each document that has such a combination.
                if (
                    !conditional.TryGetValue(rule, out var unique)
                    || DocumentStore.Find(c, id) is { } d
                        && unique.Applies(published.Type.Read(RecordJudge.Texts(published.Type, d.Record), now), now)
                )
                    names.TakeUnique(rule, key, 0);
            return (names, WaveStore.TaggedPaths(c, inventory.Id));
        });
        _met = new HashSet<string>(_tagged, StringComparer.Ordinal);
        Judge = new RowJudge(Plan, Taken, designs.Now(EntryChannel.Migration, who));
    }

    /// <summary>The plan, compiled.</summary>
    public CompiledPlan Plan { get; }

    /// <summary>What is taken, by the repository and by rows before.</summary>
    public TakenNames Taken { get; }

    /// <summary>Judged the row that was met last.</summary>
    public RowJudge Judge { get; }

    /// <summary>The row after which it begins.</summary>
    public int AfterRow { get; }

    /// <summary>How many writes had been kept when it learnt what is taken.</summary>
    public long WritesSeen { get; }

    /// <summary>The rows in their order.</summary>
    public IEnumerable<JudgedRow> Rows()
    {
        var column = _inventory.Shape.PathColumn;
        foreach (var (cells, number) in InventoryRows.Of(_inventory, _folder))
        {
            var path = cells[column];
            if (number <= AfterRow)
            {
                _met.Add(path);
                continue;
            }
            if (_tagged.Contains(path))
            {
                yield return new JudgedRow(cells, number, path, null, null, false);
                continue;
            }
            if (!_met.Add(path))
            {
                yield return new JudgedRow(
                    cells,
                    number,
                    path,
                    RowVerdict.Held,
                    new LeftRow(number, RowVerdict.Held, path, [NamedBefore]),
                    false
                );
                continue;
            }
            var verdict = Judge.Judge(cells, number, path);
            yield return new JudgedRow(
                cells,
                number,
                path,
                verdict,
                verdict == RowVerdict.Ready ? null : new LeftRow(number, verdict, path, [.. Judge.Problems.Select(p => p.Message)]),
                true
            );
        }
    }
}
