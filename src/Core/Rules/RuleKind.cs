using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>One check of a compiled type: null when it holds. Pure, thread-safe, called once a record.</summary>
public delegate Problem? Check(ReadOnlySpan<FieldValue> record, CheckContext now);

/// <summary>What a rule is compiled with.</summary>
/// <param name="Type">The type whose fields it names.</param>
/// <param name="Vocabularies">Vocabularies by key.</param>
/// <param name="Tables">Reference tables by key.</param>
public sealed record RuleScope(
    TypeFields Type,
    IReadOnlyDictionary<string, VocabularyIndex> Vocabularies,
    IReadOnlyDictionary<string, ReferenceTable> Tables
)
{
    /// <summary>No reference tables.</summary>
    public static IReadOnlyDictionary<string, ReferenceTable> NoTables { get; } = new Dictionary<string, ReferenceTable>();
}

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

    /// <summary>What must hold, as a sentence with field labels.</summary>
    string Sentence(Rule rule, TypeFields type);

    /// <summary>
    /// Compiles the rule without its condition; null when it is not answered by the record alone. Called only for rules without <see
    /// cref="RuleKinds.Finding"/>.
    /// </summary>
    Check? Compile(Rule rule, RuleScope scope);

    /// <summary>What is wrong beyond its blanks, in one sentence; null when nothing is.</summary>
    string? Finding(Rule rule, TypeFields type) => null;

    /// <summary>The constraint as a JSON Schema 2020-12 subschema, or null when that standard cannot say it.</summary>
    JsonObject? ToJsonSchema(Rule rule, RuleScope scope) => null;

    /// <summary>Values of one field at the rule's border: just inside and just outside. Whether they pass is computed.</summary>
    IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope) => [];

    /// <summary>What the rule says as difference constraints, so that rules which can never hold together are found.</summary>
    IEnumerable<Bound> Bounds(Rule rule, TypeFields type, DateOnly today) => [];
}
