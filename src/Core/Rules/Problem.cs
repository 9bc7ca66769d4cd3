using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// What is wrong, with its parameters by name and type. Each kind is one small record that says itself in every language of <see
/// cref="Messages"/>; what a rule kind finds stands in that kind's own file. A value: equal when code and parameters are.
/// </summary>
/// <param name="Code">Stable machine code, e.g. <c>compare</c>.</param>
public abstract record ProblemKind(string Code)
{
    /// <summary>
    /// The message; English when the language is not known. Labels and values stand as the steward or the document wrote them.
    /// </summary>
    internal abstract string In(string language);
}

/// <summary>One thing that does not hold for a record. A value: two equal problems are the same finding.</summary>
/// <param name="Kind">What is wrong.</param>
/// <param name="Level">Whether it blocks filing.</param>
/// <param name="Field">Key of the field it is shown at; null for the record as a whole.</param>
/// <param name="Rule">Id of the rule that found it; null for what the field itself demands.</param>
/// <param name="Said">The steward's own messages by language, which take the place of the standard one.</param>
public sealed record Problem(
    ProblemKind Kind,
    Level Level,
    string? Field,
    string? Rule = null,
    IReadOnlyDictionary<string, string>? Said = null
)
{
    /// <summary>Stable machine code of its kind.</summary>
    public string Code => Kind.Code;

    /// <summary>Number of the table row it is about, from 1; 0 when it is about no row.</summary>
    public int Row { get; init; }

    /// <summary>Id of the other document that stands against this one (uniqueness).</summary>
    public long? Other { get; init; }

    /// <summary>The message in English.</summary>
    public string Message => In(Messages.English);

    /// <summary>The message in a language; English when there is no such language.</summary>
    public string In(string language)
    {
        var text = Said?.GetValueOrDefault(language) is { Length: > 0 } said ? said : Kind.In(language);
        return Row == 0 ? text : Messages.InRow(Row, text, language);
    }

    /// <summary>Tells this problem from every other of the same record; overrides refer to it.</summary>
    public string Id => (Rule is null ? $"{Code}:{Field}" : $"{Code}:{Field}:{Rule}") + (Row == 0 ? "" : $":{Row}");
}

/// <summary>What rules say when they do not hold.</summary>
public static class RuleProblems
{
    /// <summary>All own messages by language; null when there are none.</summary>
    public static IReadOnlyDictionary<string, string>? Said(this Rule rule)
    {
        if (rule.Message is null && rule.Translations is null)
            return null;
        var said = rule.Translations?.ToDictionary(StringComparer.Ordinal) ?? [];
        if (rule.Message is { Length: > 0 } message)
            said[Messages.English] = message;
        return said;
    }

    /// <summary>A problem found by this rule.</summary>
    public static Problem Found(this Rule rule, ProblemKind kind, string? field) => new(kind, rule.Level, field, rule.Id, rule.Said());
}
