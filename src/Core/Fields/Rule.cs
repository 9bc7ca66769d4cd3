namespace ClearLexicon.Core.Fields;

/// <summary>How binding a requirement is (the words of RFC 2119).</summary>
public enum Level
{
    /// <summary>Blocks filing.</summary>
    Must,

    /// <summary>Can be overridden with a reason.</summary>
    Should,
}

/// <summary>A record that a rule must accept or must refuse.</summary>
/// <param name="Passes">Whether the rule must hold for it.</param>
/// <param name="Record">Texts by field key; other fields are empty.</param>
public sealed record RuleExample(bool Passes, IReadOnlyDictionary<string, string> Record);

/// <summary>A rule as the steward wrote it.</summary>
/// <param name="Id">Unique within its document type.</param>
/// <param name="Kind">Code of its <see cref="IRuleKind"/>.</param>
/// <param name="Level">Whether it blocks filing.</param>
/// <param name="Parameters">What the kind's editor line asks for; several field keys are separated by commas.</param>
/// <param name="Message">The steward's own message in English, if any.</param>
public sealed record Rule(string Id, string Kind, Level Level, IReadOnlyDictionary<string, string> Parameters, string? Message = null)
{
    /// <summary>When the rule applies; null for always.</summary>
    public Condition? When { get; init; }

    /// <summary>The steward's own messages in other languages.</summary>
    public IReadOnlyDictionary<string, string>? Translations { get; init; }

    /// <summary>Records that it must accept or refuse.</summary>
    public IReadOnlyList<RuleExample> Examples { get; init; } = [];

    /// <summary>Code of the type or group it is inherited from; null for the type's own.</summary>
    public string? From { get; init; }

    /// <summary>A parameter, or an empty text when it was not given.</summary>
    public string this[string name] => Parameters.GetValueOrDefault(name) ?? "";

    /// <summary>A parameter that names several fields.</summary>
    public string[] Keys(string name) => this[name].Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
}
