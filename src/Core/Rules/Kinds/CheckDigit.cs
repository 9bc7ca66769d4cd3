using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Rules;

/// <summary>A number passes its check digit by a published scheme or the house's own. The message says what is wrong with it.</summary>
public sealed class CheckDigit : IRuleKind
{
    private static readonly RuleParameter Scheme = RuleParameter.Choice(
        "scheme",
        "by",
        [.. CheckSchemes.All.Select(s => (s.Code, $"{s.Name} ({s.Standard})")), (CheckSchemes.House, "Own scheme: weights and modulus")]
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "check-digit";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number passes its check digit";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        RuleParameter.Field("Number", FieldKind.Text, FieldKind.WholeNumber, FieldKind.Identifier),
        Scheme,
        new("house", "own scheme", ParameterKind.OptionalText, []) { Hint = "7 6 5 4 3 2 modulus 11" },
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{type.LabelOf(rule["field"])} passes the check digit of {Find(rule)?.Name ?? rule["scheme"]}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        rule["scheme"] == CheckSchemes.House && !HouseScheme.TryParse(rule["house"], out _, out var problem) ? problem : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var scheme = Find(rule)!;
        return (record, _) =>
            record[at].IsGood && scheme.Problem(record[at].Text) is { } problem
                ? rule.Found(problem.Code, rule["field"], record[at].Text, problem.A, problem.B ?? scheme.Name)
                : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var right = Find(rule)!.Example;
        yield return (rule["field"], right);
        yield return (rule["field"], right[..^1] + (right[^1] == '0' ? '1' : '0'));
        yield return (rule["field"], right[..^1]);
    }

    private static CheckScheme? Find(Rule rule) =>
        CheckSchemes.Find(rule["scheme"] == CheckSchemes.House ? $"{CheckSchemes.House} {rule["house"]}" : rule["scheme"]);
}
