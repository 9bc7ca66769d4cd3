using System.Runtime.InteropServices;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Migration;

/// <summary>How a field fares over an inventory.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Filled">Rows in which it is filled and understood.</param>
/// <param name="Refused">Rows in which something stands that is not understood.</param>
public sealed record FieldCoverage(string Field, long Filled, long Refused);

/// <summary>How often one problem occurs.</summary>
/// <param name="Code">Problem code.</param>
/// <param name="Level">Its level.</param>
/// <param name="Field">Field it is shown at.</param>
/// <param name="Rule">Id of the rule; null for the field's own demand.</param>
/// <param name="Count">Rows.</param>
/// <param name="Example">The message of the first row that has it.</param>
/// <param name="ExampleRow">Number of that row.</param>
public sealed record ProblemCount(string Code, Level Level, string? Field, string? Rule, long Count, string Example, int ExampleRow);

/// <summary>One sample row with before and after.</summary>
/// <param name="Number">Row number from 1.</param>
/// <param name="Verdict">What becomes of it.</param>
/// <param name="Before">The cells by column.</param>
/// <param name="After">The values by field ordinal.</param>
/// <param name="SetBy">What set each value.</param>
/// <param name="Folder">Folder it would get.</param>
/// <param name="Name">Name it would get.</param>
/// <param name="Collided">Whether the plain name was taken.</param>
/// <param name="Messages">What stands against it.</param>
public sealed record SampleRow(
    int Number,
    RowVerdict Verdict,
    IReadOnlyList<string> Before,
    IReadOnlyList<string> After,
    IReadOnlyList<string?> SetBy,
    string Folder,
    string Name,
    bool Collided,
    IReadOnlyList<string> Messages
);

/// <summary>The result of a dry run.</summary>
/// <param name="Rows">Rows judged.</param>
/// <param name="Ready">Rows that would be tagged.</param>
/// <param name="Questionable">Rows with should-problems only.</param>
/// <param name="Held">Rows held back by a must-problem.</param>
/// <param name="Collisions">Rows whose plain name was taken, so that a counter was added.</param>
/// <param name="Coverage">By field.</param>
/// <param name="Problems">By problem, commonest first.</param>
/// <param name="Samples">Sample rows of every verdict.</param>
public sealed record DryRun(
    long Rows,
    long Ready,
    long Questionable,
    long Held,
    long Collisions,
    IReadOnlyList<FieldCoverage> Coverage,
    IReadOnlyList<ProblemCount> Problems,
    IReadOnlyList<SampleRow> Samples
)
{
    /// <summary>Rows whose legacy file is tagged already; they were not judged again.</summary>
    public long Tagged { get; init; }
}

/// <summary>Counts what a <see cref="RowJudge"/> finds, in memory that does not grow with the rows.</summary>
public sealed class DryRunTally(CompiledType type)
{
    /// <summary>Sample rows kept of each verdict, and of collisions.</summary>
    public const int SamplesEach = 6;

    private readonly long[] _filled = new long[type.Width];
    private readonly long[] _refused = new long[type.Width];
    private readonly long[] _verdicts = new long[3];
    private readonly int[] _sampled = new int[4];
    private readonly Dictionary<(string Code, string? Field, string? Rule), (ProblemCount First, long Count)> _problems = [];
    private readonly List<SampleRow> _samples = [];
    private long _collisions,
        _tagged;

    /// <summary>Takes a row whose legacy file is tagged already.</summary>
    public void Pass() => _tagged++;

    /// <summary>Takes the row that was judged last.</summary>
    public void Add(ReadOnlySpan<string> row, int number, RowVerdict verdict, RowJudge judge)
    {
        _verdicts[(int)verdict]++;
        if (judge.Collided)
            _collisions++;
        for (var i = 0; i < _filled.Length; i++)
        {
            if (judge.Values[i].IsGood)
                _filled[i]++;
            else if (!judge.Values[i].IsEmpty)
                _refused[i]++;
        }
        foreach (var problem in judge.Problems)
        {
            ref var entry = ref CollectionsMarshal.GetValueRefOrAddDefault(
                _problems,
                (problem.Code, problem.Field, problem.Rule),
                out var known
            );
            if (!known)
                entry.First = new ProblemCount(problem.Code, problem.Level, problem.Field, problem.Rule, 0, problem.Message, number);
            entry.Count++;
        }
        var kind = judge.Collided ? 3 : (int)verdict;
        if (_sampled[kind] >= SamplesEach)
            return;
        _sampled[kind]++;
        _samples.Add(
            new SampleRow(
                number,
                verdict,
                [.. row],
                [.. judge.Values.Select(v => v.Text)],
                [.. judge.SetBy],
                judge.Placement.Folder,
                judge.Placement.Name,
                judge.Collided,
                [.. judge.Problems.Select(p => p.Message)]
            )
        );
    }

    /// <summary>Takes a row that is held back without being judged.</summary>
    public void Hold(string code, int number, string message)
    {
        _verdicts[(int)RowVerdict.Held]++;
        ref var entry = ref CollectionsMarshal.GetValueRefOrAddDefault(_problems, (code, null, null), out var known);
        if (!known)
            entry.First = new ProblemCount(code, Level.Must, null, null, 0, message, number);
        entry.Count++;
    }

    /// <summary>The result.</summary>
    public DryRun Finish() =>
        new(
            _verdicts.Sum(),
            _verdicts[0],
            _verdicts[1],
            _verdicts[2],
            _collisions,
            [.. type.Type.Fields.Select((f, i) => new FieldCoverage(f.Key, _filled[i], _refused[i]))],
            [.. _problems.Values.Select(p => p.First with { Count = p.Count }).OrderByDescending(p => p.Count)],
            [.. _samples.OrderBy(s => s.Number)]
        )
        {
            Tagged = _tagged,
        };
}
