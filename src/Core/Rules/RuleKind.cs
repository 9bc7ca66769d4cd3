using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>What a parameter of a rule takes.</summary>
public enum ParameterKind
{
    /// <summary>One field.</summary>
    Field,

    /// <summary>One or more fields.</summary>
    Fields,

    /// <summary>One or more fields, or number columns of tables written <c>table.column</c>, which stand for their sum.</summary>
    Parts,

    /// <summary>A decimal number; may stay empty.</summary>
    Number,

    /// <summary>A text that may stay empty.</summary>
    OptionalText,

    /// <summary>A pattern of a whole value, see <see cref="SafePattern"/>.</summary>
    Pattern,

    /// <summary>A formula over fields in brackets.</summary>
    Formula,

    /// <summary>A date; may stay empty.</summary>
    Date,

    /// <summary>One of <see cref="RuleParameter.Options"/>.</summary>
    Choice,

    /// <summary>Key of a reference table.</summary>
    Table,

    /// <summary>Pairs <c>field=column</c>, separated by commas.</summary>
    Pairs,
}

/// <summary>One blank of a rule's sentence, to be filled by the steward.</summary>
/// <param name="Name">Its name in <see cref="Rule.Parameters"/>.</param>
/// <param name="Label">What the editor line calls it.</param>
/// <param name="Kind">What may stand in it.</param>
/// <param name="FieldKinds">Field kinds it accepts; empty for any.</param>
/// <param name="Least">Least number of fields; 0 when it may stay empty.</param>
public sealed record RuleParameter(string Name, string Label, ParameterKind Kind, IReadOnlyList<FieldKind> FieldKinds, int Least = 1)
{
    /// <summary>What a choice offers: value and words.</summary>
    public IReadOnlyList<(string Value, string Words)> Options { get; init; } = [];

    /// <summary>What may stand in it, as an example; null when the label says enough.</summary>
    public string? Hint { get; init; }

    /// <summary>Whether it names several fields.</summary>
    public bool NamesSeveral => Kind is ParameterKind.Fields or ParameterKind.Parts;

    /// <summary>A blank for one field.</summary>
    public static RuleParameter Field(string label, params FieldKind[] kinds) => new("field", label, ParameterKind.Field, kinds);

    /// <summary>A blank that offers choices.</summary>
    public static RuleParameter Choice(string name, string label, params (string, string)[] options) =>
        new(name, label, ParameterKind.Choice, []) { Options = options };

    /// <summary>A blank for a number.</summary>
    public static RuleParameter Number(string name, string label) => new(name, label, ParameterKind.Number, []);

    /// <summary>The words of a chosen value.</summary>
    public string Words(string value) => Options.FirstOrDefault(o => o.Value == value).Words ?? value;
}

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
}
