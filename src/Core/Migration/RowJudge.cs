using System.IO.Hashing;
using System.Runtime.InteropServices;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Migration;

/// <summary>What becomes of a legacy row.</summary>
public enum RowVerdict
{
    /// <summary>Nothing stands against tagging it.</summary>
    Ready,

    /// <summary>Only should-problems stand against it.</summary>
    Questionable,

    /// <summary>A must-problem holds it back.</summary>
    Held,
}

/// <summary>Names and combinations already taken: those of the repository, and those of the rows judged so far.</summary>
public sealed class TakenNames
{
    private readonly HashSet<UInt128> _paths = [];
    private readonly Dictionary<UInt128, int> _numbers = [];
    private readonly Dictionary<UInt128, string> _folders = [];
    private readonly Dictionary<UInt128, int> _uniques = [];

    /// <summary>Takes a path; false when it was taken. Paths that differ only in case are the same.</summary>
    public bool TakePath(string folder, string name) => _paths.Add(HashPath(folder, name));

    /// <summary>A folder as it was spelled when it was met first; folders that differ only in case are one.</summary>
    public string Spelled(string folder)
    {
        ref var known = ref CollectionsMarshal.GetValueRefOrAddDefault(_folders, HashPath(folder, ""), out _);
        return known ??= folder;
    }

    /// <summary>Notes the last number that a counter has given; a smaller one than is known already does not count.</summary>
    public void SetNumber(string key, int last)
    {
        ref var known = ref CollectionsMarshal.GetValueRefOrAddDefault(_numbers, Hash("", key), out _);
        known = Math.Max(known, last);
    }

    private int NextNumber(string key, int least)
    {
        ref var last = ref CollectionsMarshal.GetValueRefOrAddDefault(_numbers, Hash("", key), out _);
        last = Math.Max(last + 1, least);
        return last;
    }

    /// <summary>The free place of a record, which is taken with it: its plain one, or a numbered one as the convention says.</summary>
    /// <param name="convention">The convention.</param>
    /// <param name="values">Values by ordinal.</param>
    /// <param name="now">What surrounds it.</param>
    /// <param name="plain">Its place without a number, which has no problem.</param>
    /// <returns>The place, or why there is none; its number; whether the plain one was taken.</returns>
    public (Placement At, int Number, bool Collided) Place(
        CompiledConvention convention,
        FieldValue[] values,
        CheckContext now,
        Placement plain
    )
    {
        plain = plain with { Folder = Spelled(plain.Folder) };
        if (!convention.AlwaysCounts)
        {
            if (TakePath(plain.Folder, plain.Name))
                return (plain, 1, false);
            if (convention.Convention.Collision == Collision.Refuse)
                return (plain with { Problem = new Problem(new PathTaken(plain.Name), Level.Must, null) }, 1, true);
        }
        var key = convention.CounterKey(values, now);
        while (true)
        {
            var number = NextNumber(key, convention.AlwaysCounts ? 1 : 2);
            var at = convention.Render(values, now, number) with { Folder = plain.Folder };
            if (at.Problem is not null || TakePath(at.Folder, at.Name))
                return (at, number, !convention.AlwaysCounts);
        }
    }

    /// <summary>
    /// Takes a unique combination for a row; returns the row that had it before, or null. Row 0 stands for the repository.
    /// </summary>
    public int? TakeUnique(string ruleId, string key, int row)
    {
        ref var owner = ref CollectionsMarshal.GetValueRefOrAddDefault(_uniques, Hash(ruleId, key), out var known);
        if (known)
            return owner;
        owner = row;
        return null;
    }

    private static UInt128 HashPath(string folder, string name)
    {
        Span<char> lower = folder.Length + name.Length < 512 ? stackalloc char[512] : new char[folder.Length + name.Length + 1];
        var n = folder.AsSpan().ToLowerInvariant(lower);
        lower[n++] = '/';
        n += name.AsSpan().ToLowerInvariant(lower[n..]);
        return XxHash128.HashToUInt128(MemoryMarshal.AsBytes(lower[..n]));
    }

    private static UInt128 Hash(string ruleId, string key) =>
        XxHash128.HashToUInt128(MemoryMarshal.AsBytes(key.AsSpan()), XxHash3Seed(ruleId));

    private static long XxHash3Seed(string text) => (long)XxHash3.HashToUInt64(MemoryMarshal.AsBytes(text.AsSpan()));
}

/// <summary>
/// Judges legacy rows one after another with reused buffers: fills, reads, checks, asks for uniqueness, names. Not
/// thread-safe; what it exposes is valid until the next row.
/// </summary>
/// <param name="plan">The plan.</param>
/// <param name="taken">What is taken already.</param>
/// <param name="now">What surrounds the rows.</param>
public sealed class RowJudge(CompiledPlan plan, TakenNames taken, CheckContext now)
{
    private readonly string?[] _texts = new string?[plan.Type.Width];
    private readonly string?[] _setBy = new string?[plan.Type.Width];

    /// <summary>The row's values by field ordinal.</summary>
    public FieldValue[] Values { get; } = new FieldValue[plan.Type.Width];

    /// <summary>What stands against the row.</summary>
    public List<Problem> Problems { get; } = [];

    /// <summary>The row's unique combinations by rule, also of rules that do not apply to it.</summary>
    public IEnumerable<(string RuleId, string Key)> UniqueKeys => plan.Type.UniqueKeys(Values);

    /// <summary>Where it would go.</summary>
    public Placement Placement { get; private set; }

    /// <summary>Its number of the counter, from 1.</summary>
    public int Number { get; private set; }

    /// <summary>What surrounds the row.</summary>
    public CheckContext Now { get; private set; } = now;

    /// <summary>What set each field: a column or a pass; null for a default or nothing.</summary>
    public IReadOnlyList<string?> SetBy => _setBy;

    /// <summary>Whether the plain name was taken, so that <see cref="Placement"/> holds a counter.</summary>
    public bool Collided { get; private set; }

    /// <summary>Judges a row and, unless it is held, takes its name and its unique combinations.</summary>
    /// <param name="row">Cells by column position.</param>
    /// <param name="number">Row number in the inventory, from 1.</param>
    /// <param name="path">The legacy path, for system values.</param>
    public RowVerdict Judge(ReadOnlySpan<string> row, int number, string path = "")
    {
        if (plan.Type.Convention.UsesSystemValues)
            Now = Now with { Original = path };
        Array.Clear(_setBy);
        Problems.Clear();
        Collided = false;
        var type = plan.Type;
        plan.Fill(row, _texts, _setBy);
        type.Parse(_texts, Values, Now);
        type.CollectProblems(Values, Now, Problems);
        Placement = type.Convention.Render(Values, Now);
        if (Placement.Problem is { } pathProblem)
            Problems.Add(pathProblem);
        var verdict = Verdict();
        if (verdict == RowVerdict.Held)
            return verdict;

        foreach (var unique in type.Uniques)
            if (
                unique.Applies(Values, Now)
                && unique.KeyOf(Values) is { } key
                && taken.TakeUnique(unique.Rule.Id, key, number) is { } owner
                && owner != number
            )
                Problems.Add(Unique.Found(unique.Rule, type.Type, owner == 0 ? "one in the repository" : $"row {owner}"));
        verdict = Verdict();
        if (verdict == RowVerdict.Held)
            return verdict;
        (Placement, Number, Collided) = taken.Place(type.Convention, Values, Now, Placement);
        if (Placement.Problem is { } unplaced)
            Problems.Add(unplaced);
        return Verdict();
    }

    private RowVerdict Verdict()
    {
        var verdict = RowVerdict.Ready;
        foreach (var problem in Problems)
        {
            if (problem.Level == Level.Must)
                return RowVerdict.Held;
            verdict = RowVerdict.Questionable;
        }
        return verdict;
    }
}
