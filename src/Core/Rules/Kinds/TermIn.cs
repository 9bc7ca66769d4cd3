using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>A term is reviewed, or lies within a branch of its vocabulary.</summary>
public sealed class TermIn : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "term-in";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A term is reviewed and lies within a branch";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        RuleParameter.Field("Term", FieldKind.Term, FieldKind.Terms),
        new("branch", "within (empty: any reviewed term)", ParameterKind.OptionalText, []),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        rule["branch"].Length == 0
            ? $"{type.LabelOf(rule["field"])} is a reviewed term"
            : $"{type.LabelOf(rule["field"])} lies within {rule["branch"]}";

    /// <inheritdoc/>
    public Check? Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        if (scope.Vocabularies.GetValueOrDefault(scope.Type.Fields[at].Vocabulary ?? "") is not { } terms)
            return null;
        var branch = rule["branch"].Length == 0 ? -1 : terms.IndexOfAny(rule["branch"]);
        var label = scope.Type.LabelOf(rule["field"]);
        bool Holds(int term) =>
            rule["branch"].Length == 0
                ? term >= 0 && terms.Vocabulary.Terms[term].Status == TermStatus.Current
                : branch >= 0 && terms.IsWithin(term, branch);
        return (record, _) =>
        {
            if (!record[at].IsGood)
                return null;
            var good = true;
            if (record[at].Terms.Length == 0)
                good = Holds(record[at].Term);
            else
                foreach (var term in record[at].Terms)
                    good &= Holds(term);
            return good
                ? null
                : rule.Found(
                    rule["branch"].Length == 0 ? "term-not-reviewed" : "term-not-within",
                    rule["field"],
                    label,
                    record[at].Text,
                    rule["branch"]
                );
        };
    }
}
