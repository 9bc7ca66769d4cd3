using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Migration;

/// <summary>How an inventory becomes records: crosswalk first, then the passes in order.</summary>
/// <param name="TypeCode">Document type the rows become.</param>
/// <param name="Crosswalk">From columns to fields.</param>
/// <param name="Passes">Tagging passes in order.</param>
public sealed record MigrationPlan(string TypeCode, IReadOnlyList<CrosswalkLine> Crosswalk, IReadOnlyList<TaggingPass> Passes)
{
    /// <summary>The plan as it goes on after fields of its type were renamed.</summary>
    public MigrationPlan Carried(CompiledCarrying carrying) =>
        this with
        {
            Crosswalk = carrying.Follow(Crosswalk),
            Passes =
            [
                .. Passes.Select(p =>
                    carrying.Follow(p.Field, p.Steps) is var (field, steps) ? p with { Field = field, Steps = steps } : p
                ),
            ],
        };
}

/// <summary>
/// A plan compiled against a type and an inventory's columns: one array of steps from a column to a field. Immutable and
/// thread-safe.
/// </summary>
public sealed class CompiledPlan
{
    private readonly (int Column, int Ordinal, bool OnlyEmpty, Func<string, string?> Find, string By)[] _steps;

    /// <summary>The type the rows are judged by.</summary>
    public CompiledType Type { get; }

    /// <summary>Positions of the columns that the plan reads, each once, ascending.</summary>
    public IReadOnlyList<int> Columns { get; }

    /// <summary>Compiles. Lines to fields or columns that are gone and faulty passes are left out.</summary>
    public CompiledPlan(MigrationPlan plan, CompiledType type, IReadOnlyList<string> columns)
    {
        Type = type;
        var names = columns.ToList();
        var steps = new List<(int, int, bool, Func<string, string?>, string)>();
        foreach (var line in plan.Crosswalk)
        {
            int column = names.IndexOf(line.Source),
                ordinal = type.OrdinalOf(line.Field);
            if (column < 0 || ordinal < 0)
                continue;
            steps.Add((column, ordinal, true, CleaningSteps.Compile(line.Steps, type.Type.Fields[ordinal]), $"column {line.Source}"));
        }
        foreach (var (pass, number) in plan.Passes.Select((p, i) => (p, i + 1)))
        {
            if (PassKinds.Finding(pass, type.Type, columns) is not null)
                continue;
            var ordinal = type.OrdinalOf(pass.Field);
            var find = PassKinds.Find(pass.Kind)!.Make(pass, type);
            var clean = CleaningSteps.Compile(pass.Steps, type.Type.Fields[ordinal]);
            steps.Add(
                (
                    names.IndexOf(pass.Source),
                    ordinal,
                    pass.OnlyEmpty,
                    text => find(text) is { } found ? clean(found) : null,
                    $"pass {number}"
                )
            );
        }
        _steps = [.. steps];
        Columns = [.. _steps.Select(s => s.Column).Where(c => c >= 0).Distinct().Order()];
    }

    /// <summary>Fills a record's texts from a row.</summary>
    /// <param name="row">The row's cells by column position.</param>
    /// <param name="texts">Taken over completely, by field ordinal.</param>
    /// <param name="setBy">When given, what set each field.</param>
    public void Fill(ReadOnlySpan<string> row, Span<string?> texts, string?[]? setBy = null)
    {
        texts.Clear();
        foreach (var (column, ordinal, onlyEmpty, find, by) in _steps)
        {
            if (onlyEmpty && !string.IsNullOrEmpty(texts[ordinal]))
                continue;
            var source = column < 0 ? "" : row[column];
            if (column >= 0 && source.Length == 0)
                continue;
            if (find(source) is not { Length: > 0 } found)
                continue;
            texts[ordinal] = found;
            if (setBy is not null)
                setBy[ordinal] = by;
        }
    }
}
