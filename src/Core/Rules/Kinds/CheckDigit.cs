using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Rules;

/// <summary>A number passes its check digit by a published scheme or the house's own. The message says what is wrong with it.</summary>
public sealed class CheckDigit : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Number", FieldKinds.Numbered);
    private static readonly TextBlank Scheme = new("scheme", "by", ParameterKind.Choice)
    {
        Options =
        [
            .. CheckSchemes.All.Select(s => (s.Code, $"{s.Name} ({s.Standard})")),
            (CheckSchemes.House, "Own scheme: weights and modulus"),
        ],
    };
    private static readonly TextBlank House = new("house", "own scheme") { Hint = "7 6 5 4 3 2 modulus 11" };

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "check-digit";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number passes its check digit";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Scheme, House];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{Subject.LabelIn(rule, type)} passes the check digit of {Find(rule)?.Name ?? Scheme.Of(rule)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        Scheme.Of(rule) == CheckSchemes.House && !HouseScheme.TryParse(House.Of(rule), out _, out var problem) ? problem : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var scheme = Find(rule)!;
        return (record, _) =>
            record[at].IsGood && scheme.Problem(record[at].Text) is { } problem
                ? rule.Found(CheckDigitProblems.Of(record[at].Text, problem), Subject.Of(rule))
                : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var right = Find(rule)!.Example;
        yield return (Subject.Of(rule), right);
        yield return (Subject.Of(rule), right[..^1] + (right[^1] == '0' ? '1' : '0'));
        yield return (Subject.Of(rule), right[..^1]);
    }

    private static CheckScheme? Find(Rule rule) =>
        CheckSchemes.Find(Scheme.Of(rule) == CheckSchemes.House ? $"{CheckSchemes.House} {House.Of(rule)}" : Scheme.Of(rule));
}
