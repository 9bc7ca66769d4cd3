using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// A number carries a piece of another field, e.g. a statement number the year of its date. Case, accents and blanks do not matter.
/// Holds when either is missing: “must be filled” is another rule.
/// </summary>
public sealed class Repeats : IRuleKind
{
    private static readonly RuleParameter What = RuleParameter.Choice(
        "what",
        "holds",
        ("value", "the whole value"),
        ("year", "the year"),
        ("short-year", "the year in two digits")
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "repeats";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text holds a piece of another field";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier),
        What,
        new(
            "other",
            "of",
            ParameterKind.Field,
            [FieldKind.Date, FieldKind.Text, FieldKind.Identifier, FieldKind.WholeNumber, FieldKind.Term]
        ),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} holds {Words(rule, type)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        rule["what"] != "value" && type.Find(rule["other"]) is not DateField ? "Only a date has a year." : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        int at = scope.Type.OrdinalOf(rule["field"]),
            other = scope.Type.OrdinalOf(rule["other"]);
        var what = rule["what"];
        var words = Words(rule, scope.Type);
        return (record, _) =>
        {
            if (!record[at].IsGood || !record[other].IsGood)
                return null;
            var piece = Piece(record[other], what);
            return Folding.Fold(record[at].Text).Contains(Folding.Fold(piece), StringComparison.Ordinal)
                ? null
                : rule.Found(Code, rule["field"], record[at].Text, words, piece);
        };
    }

    private static string Piece(FieldValue value, string what) =>
        what switch
        {
            "year" => value.Date.ToString("yyyy", CultureInfo.InvariantCulture),
            "short-year" => value.Date.ToString("yy", CultureInfo.InvariantCulture),
            _ => value.Text,
        };

    private static string Words(Rule rule, TypeFields type) =>
        rule["what"] == "value" ? type.LabelOf(rule["other"]) : $"{What.Words(rule["what"])} of {type.LabelOf(rule["other"])}";
}
