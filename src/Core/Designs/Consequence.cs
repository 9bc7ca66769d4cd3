using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Designs;

/// <summary>What a changed design does to one record.</summary>
public enum Effect
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>It passed and would fail.</summary>
    NewlyFailing,

    /// <summary>It failed and would pass.</summary>
    NewlyPassing,

    /// <summary>It would stand elsewhere.</summary>
    OtherPath,
}

/// <summary>Records that one change affects alike.</summary>
/// <param name="Effect">What happens to them.</param>
/// <param name="Cause">The change, as a sentence of the comparison or as the problem it brings.</param>
/// <param name="Count">How many.</param>
/// <param name="Samples">Titles of the first few.</param>
public sealed record ConsequenceGroup(Effect Effect, string Cause, long Count, IReadOnlyList<string> Samples);

/// <summary>What a changed design does to all that exists.</summary>
/// <param name="Looked">Records looked at.</param>
/// <param name="Failing">Newly failing.</param>
/// <param name="Passing">Newly passing.</param>
/// <param name="Moved">With another path.</param>
/// <param name="Groups">By cause, the largest first.</param>
public sealed record Consequences(long Looked, long Failing, long Passing, long Moved, IReadOnlyList<ConsequenceGroup> Groups);

/// <summary>
/// Judges records by two designs and says what changes, one after another with reused buffers, so that memory does not grow
/// with their number. Not thread-safe.
/// </summary>
public sealed class ConsequenceJudge
{
    private const int MostGroups = 200;
    private const int Samples = 5;

    private readonly CompiledType _before,
        _after;
    private readonly CompiledCarrying? _carrying;
    private readonly FieldValue[] _old,
        _new;
    private readonly List<Problem> _oldProblems = [],
        _newProblems = [];
    private readonly Dictionary<(Effect, string), (long Count, List<string> Samples)> _groups = [];
    private readonly Dictionary<string, string> _causes;
    private long _looked,
        _failing,
        _passing,
        _moved;

    /// <summary>Prepares for a published design and the one that would follow it.</summary>
    /// <param name="before">The published design.</param>
    /// <param name="after">The one that would follow it.</param>
    /// <param name="carrying">How documents would be carried from one to the other; null for not at all.</param>
    public ConsequenceJudge(CompiledType before, CompiledType after, CompiledCarrying? carrying = null)
    {
        (_before, _after, _carrying) = (before, after, carrying);
        (_old, _new) = (new FieldValue[before.Width], new FieldValue[after.Width]);
        (OldTexts, NewTexts) = (new string?[before.Width], new string?[after.Width]);
        // A problem's cause is the change of the part that finds it.
        _causes = DesignDifference
            .InWords(before.Type, after.Type)
            .Where(c => c.Key.Length > 0)
            .GroupBy(c => c.Key)
            .ToDictionary(g => g.Key, g => string.Join(" ", g.Select(c => c.Text)), StringComparer.Ordinal);
    }

    /// <summary>Texts by ordinal of the old design, to be filled before each record.</summary>
    public string?[] OldTexts { get; }

    /// <summary>Texts by ordinal of the new design, to be filled before each record.</summary>
    public string?[] NewTexts { get; }

    /// <summary>The must-problems by the new design, valid until the next record.</summary>
    public IEnumerable<Problem> Fresh => _newProblems.Where(p => p.Level == Level.Must);

    /// <summary>Takes over a record's texts by field key.</summary>
    public void Take(IReadOnlyDictionary<string, string> record)
    {
        for (var i = 0; i < OldTexts.Length; i++)
            OldTexts[i] = record.GetValueOrDefault(_before.Type.Fields[i].Key);
        if (_carrying is not null)
            record = _carrying.Carry(record);
        for (var i = 0; i < NewTexts.Length; i++)
            NewTexts[i] = record.GetValueOrDefault(_after.Type.Fields[i].Key);
    }

    /// <summary>Judges the record whose texts were filled in; should-problems do not count, since they block nothing.</summary>
    /// <param name="now">What surrounds it.</param>
    /// <param name="title">What it is called.</param>
    /// <returns>What happens to it, the cause, and its path before and after.</returns>
    public (Effect Effect, string Cause, string Before, string After) Judge(CheckContext now, string title)
    {
        _looked++;
        var old = Verdict(_before, OldTexts, _old, _oldProblems, now, out var from);
        var would = Verdict(_after, NewTexts, _new, _newProblems, now, out var to);
        var (effect, cause) = (old, would) switch
        {
            (null, { } p) => (Effect.NewlyFailing, Cause(p)),
            ({ } p, null) => (Effect.NewlyPassing, Cause(p)),
            (null, null) when from != to => (
                Effect.OtherPath,
                _causes.GetValueOrDefault("folder") ?? _causes.GetValueOrDefault("name") ?? "The path is made differently."
            ),
            _ => (Effect.None, ""),
        };
        if (effect == Effect.None)
            return (effect, "", from, to);
        switch (effect)
        {
            case Effect.NewlyFailing:
                _failing++;
                break;
            case Effect.NewlyPassing:
                _passing++;
                break;
            default:
                _moved++;
                break;
        }
        Count(effect, cause, title);
        return (effect, cause, from, to);
    }

    private void Count(Effect effect, string cause, string title)
    {
        if (!_groups.TryGetValue((effect, cause), out var group))
        {
            if (_groups.Count >= MostGroups)
                return;
            group = (0, []);
        }
        if (group.Samples.Count < Samples)
            group.Samples.Add(title);
        _groups[(effect, cause)] = (group.Count + 1, group.Samples);
    }

    // What the part that finds the problem has changed into; a problem of an unchanged part comes with another value, and says so itself.
    private string Cause(Problem problem) =>
        problem.Rule is { } rule && _causes.TryGetValue(rule, out var byRule) ? byRule
        : problem.Field is { } field && _causes.TryGetValue(field, out var byField) ? byField
        : problem.Code.StartsWith("path-", StringComparison.Ordinal)
        && (_causes.GetValueOrDefault("folder") ?? _causes.GetValueOrDefault("name")) is { } byPath
            ? byPath
        : $"{problem.Code}: {WhatBreaks(problem)}";

    private string WhatBreaks(Problem problem) =>
        problem.Rule is { } id && _after.Type.Rules.FirstOrDefault(r => r.Id == id) is { } broken ? RuleKinds.Sentence(broken, _after.Type)
        : problem.Field is { } field ? _after.Type.LabelOf(field)
        : problem.Message;

    private static Problem? Verdict(
        CompiledType type,
        string?[] texts,
        FieldValue[] values,
        List<Problem> problems,
        CheckContext now,
        out string path
    )
    {
        problems.Clear();
        type.Parse(texts, values, now);
        type.CollectProblems(values, now, problems);
        var place = type.Convention.Render(values, now);
        path = place.Path;
        if (place.Problem is { } p)
            problems.Add(p);
        foreach (var problem in problems)
            if (problem.Level == Level.Must)
                return problem;
        return null;
    }

    /// <summary>What was found so far.</summary>
    public Consequences Finish() =>
        new(
            _looked,
            _failing,
            _passing,
            _moved,
            [
                .. _groups
                    .OrderByDescending(g => g.Value.Count)
                    .Select(g => new ConsequenceGroup(g.Key.Item1, g.Key.Item2, g.Value.Count, g.Value.Samples)),
            ]
        );
}
