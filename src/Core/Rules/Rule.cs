using System.Text.Json.Nodes;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>A rule as the steward wrote it.</summary>
/// <param name="Id">Unique within its document type.</param>
/// <param name="Kind">Code of its <see cref="IRuleKind"/>.</param>
/// <param name="Level">Whether it blocks filing.</param>
/// <param name="Parameters">What the kind's editor line asks for; several field keys are separated by commas.</param>
/// <param name="Message">The steward's own message, if any.</param>
public sealed record Rule(string Id, string Kind, Level Level, IReadOnlyDictionary<string, string> Parameters, string? Message = null)
{
    /// <summary>A parameter, or an empty text when it was not given.</summary>
    public string this[string name] => Parameters.GetValueOrDefault(name) ?? "";

    /// <summary>A parameter that names several fields.</summary>
    public string[] Keys(string name) => this[name].Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
}

/// <summary>What a parameter of a rule takes.</summary>
public enum ParameterKind
{
    /// <summary>One field.</summary>
    Field,

    /// <summary>One or more fields.</summary>
    Fields,

    /// <summary>A decimal number.</summary>
    Number,

    /// <summary>Any text.</summary>
    Text,
}

/// <summary>One blank of a rule's sentence, to be filled by the steward.</summary>
/// <param name="Name">Its name in <see cref="Rule.Parameters"/>.</param>
/// <param name="Label">What the editor line calls it.</param>
/// <param name="Kind">What may stand in it.</param>
/// <param name="FieldKinds">Field kinds it accepts; empty for any.</param>
/// <param name="Least">Least number of fields.</param>
public sealed record RuleParameter(string Name, string Label, ParameterKind Kind, IReadOnlyList<FieldKind> FieldKinds, int Least = 1);

/// <summary>One check of a compiled type: null when it holds. Pure, thread-safe, called once a record.</summary>
public delegate Problem? Check(ReadOnlySpan<FieldValue> record);

/// <summary>
/// A kind of rule: its sentence, its blanks, its check and what JSON Schema can say of it. Adding a kind means one file
/// here, one line in <see cref="RuleKinds.All"/>, one test; editor, API and export follow from these members.
/// </summary>
public interface IRuleKind
{
    /// <summary>Stable code.</summary>
    string Code { get; }

    /// <summary>What the list of kinds shows.</summary>
    string Title { get; }

    /// <summary>The blanks of the sentence in order.</summary>
    IReadOnlyList<RuleParameter> Parameters { get; }

    /// <summary>The rule as a sentence, with field labels.</summary>
    string Sentence(Rule rule, DocumentType type);

    /// <summary>Compiles the rule; null when it is not answered by the record alone. Called only for rules without <see cref="RuleKinds.Fault"/>.</summary>
    Check? Compile(Rule rule, DocumentType type);

    /// <summary>The constraint as a JSON Schema 2020-12 subschema, or null when that standard cannot say it.</summary>
    JsonObject? ToJsonSchema(Rule rule, DocumentType type) => null;
}
