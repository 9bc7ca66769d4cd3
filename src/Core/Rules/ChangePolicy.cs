namespace ClearLexicon.Core.Rules;

/// <summary>What a change may do about a problem.</summary>
public enum OnProblem
{
    /// <summary>It is nobody's business here: it was there before, or a person looks at it afterwards.</summary>
    Passes,

    /// <summary>The change needs a reason, by which the problem is overridden.</summary>
    AsksReason,

    /// <summary>The change is not made.</summary>
    Refuses,
}

/// <summary>
/// What a change of a document may do about the problems that the document has after it, by their level and by whether it had them before.
/// An act that changes documents names its line of this table:
/// <code>
///               new must    old must    new should   old should
/// an edit       refuses     passes      asks         passes
/// reading again refuses     passes      refuses      passes
/// an upgrade    refuses     refuses     passes       passes
/// another type  refuses     refuses     asks         asks
/// filing        refuses     refuses     refuses      refuses
/// </code>
/// A must-problem of the very field that is changed is never an old one; a should-problem that was overridden is none.
/// </summary>
/// <param name="NewMust">A must-problem that the document did not have.</param>
/// <param name="OldMust">A must-problem that it had.</param>
/// <param name="NewShould">A should-problem that it did not have.</param>
/// <param name="OldShould">A should-problem that it had.</param>
public sealed record ChangePolicy(OnProblem NewMust, OnProblem OldMust, OnProblem NewShould, OnProblem OldShould)
{
    /// <summary>A person edits a filed document, or many by one order.</summary>
    public static ChangePolicy Edit { get; } = new(OnProblem.Refuses, OnProblem.Passes, OnProblem.AsksReason, OnProblem.Passes);

    /// <summary>A filed document is read again: nobody is there to give a reason.</summary>
    public static ChangePolicy Rereading { get; } = new(OnProblem.Refuses, OnProblem.Passes, OnProblem.Refuses, OnProblem.Passes);

    /// <summary>A filed document is carried through to another version, by which it must stand.</summary>
    public static ChangePolicy Carrying { get; } = new(OnProblem.Refuses, OnProblem.Refuses, OnProblem.Passes, OnProblem.Passes);

    /// <summary>A filed document gets another type, by which it must stand.</summary>
    public static ChangePolicy Retyping { get; } = new(OnProblem.Refuses, OnProblem.Refuses, OnProblem.AsksReason, OnProblem.AsksReason);

    /// <summary>A document is filed: what should hold was overridden at the desk before.</summary>
    public static ChangePolicy Filing { get; } = new(OnProblem.Refuses, OnProblem.Refuses, OnProblem.Refuses, OnProblem.Refuses);

    /// <summary>All that stands against a change that gives no reason, of a document of which nobody knows what it was before.</summary>
    /// <param name="problems">Problems after it.</param>
    public IEnumerable<Problem> AllAgainst(IEnumerable<Problem> problems) => problems.Where(p => On(p, isOld: false) != OnProblem.Passes);

    /// <summary>What stands against a change.</summary>
    /// <param name="problems">Problems after it.</param>
    /// <param name="before">Ids of the problems before it; null when all of them count as new.</param>
    /// <param name="overridden">Ids of the problems that were overridden.</param>
    /// <param name="field">Key of the field that is changed; null when more than one is.</param>
    /// <param name="reason">Why it is changed all the same; empty for no reason.</param>
    public ChangeVerdict Of(
        IEnumerable<Problem> problems,
        IReadOnlySet<string>? before,
        IEnumerable<string> overridden,
        string? field = null,
        string reason = ""
    )
    {
        var asked = new List<Problem>();
        foreach (var problem in problems)
        {
            var must = problem.Level == Fields.Level.Must;
            if (!must && overridden.Contains(problem.Id))
                continue;
            var on = On(problem, before?.Contains(problem.Id) == true && !(must && problem.Field == field));
            if (on == OnProblem.Refuses)
                return new ChangeVerdict(problem, NeedsReason: false, []);
            if (on == OnProblem.AsksReason)
                asked.Add(problem);
        }
        return asked.Count > 0 && string.IsNullOrWhiteSpace(reason)
            ? new ChangeVerdict(asked[0], NeedsReason: true, [])
            : new ChangeVerdict(null, NeedsReason: false, [.. asked.Select(p => p.Id)]);
    }

    private OnProblem On(Problem problem, bool isOld) =>
        (problem.Level, isOld) switch
        {
            (Fields.Level.Must, true) => OldMust,
            (Fields.Level.Must, false) => NewMust,
            (_, true) => OldShould,
            _ => NewShould,
        };
}

/// <summary>What stands against a change.</summary>
/// <param name="Against">The first problem that does; null when the change can be made.</param>
/// <param name="NeedsReason">Whether a reason would do.</param>
/// <param name="Overridden">Ids of the problems that the reason overrides.</param>
public sealed record ChangeVerdict(Problem? Against, bool NeedsReason, IReadOnlyList<string> Overridden)
{
    /// <summary>In words; null when nothing stands against it.</summary>
    /// <param name="language">Such as <see cref="Messages.English"/>.</param>
    public string? In(string language) =>
        Against is null ? null
        : NeedsReason ? $"{Against.In(language)} Write a reason to keep it all the same."
        : Against.In(language);
}
