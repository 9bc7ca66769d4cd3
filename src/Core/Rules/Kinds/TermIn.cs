using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>A term is reviewed, or lies within a branch of its vocabulary.</summary>
public sealed class TermIn : IRuleKind
{
    internal static readonly FieldBlank Subject = new("field", "Term", FieldKinds.OfTerms);

    /// <summary>A term, below which the value must lie; empty for anywhere.</summary>
    public static readonly TextBlank Branch = new("branch", "within (empty: any reviewed term)");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "term-in";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A term is reviewed and within a branch";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Branch];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        Branch.Of(rule).Length == 0
            ? $"{Subject.LabelIn(rule, type)} is a reviewed term"
            : $"{Subject.LabelIn(rule, type)} lies within {Branch.Of(rule)}";

    /// <inheritdoc/>
    public Check? Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        if (scope.Vocabularies.GetValueOrDefault(scope.Type.Fields[at].Vocabulary ?? "") is not { } terms)
            return null;
        var branch = Branch.Of(rule).Length == 0 ? -1 : terms.IndexOfAny(Branch.Of(rule));
        var label = Subject.LabelIn(rule, scope.Type);
        bool Holds(int term) =>
            Branch.Of(rule).Length == 0
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
                    Branch.Of(rule).Length == 0 ? new NotReviewed(record[at].Text) : new TermNotWithin(record[at].Text, Branch.Of(rule)),
                    Subject.Of(rule)
                );
        };
    }
}

/// <summary>A term is proposed and not reviewed.</summary>
public sealed record NotReviewed(string Term) : ProblemKind("term-not-reviewed")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Term}“ ist noch nicht geprüft.",
            "fr" => $"« {Term} » n’a pas encore été examiné.",
            _ => $"“{Term}” has not been reviewed yet.",
        };
}

/// <summary>A term does not lie within the branch stated.</summary>
public sealed record TermNotWithin(string Term, string Branch) : ProblemKind("term-not-within")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Term}“ liegt nicht in {Branch}.",
            "fr" => $"« {Term} » ne se trouve pas dans {Branch}.",
            _ => $"“{Term}” is not within {Branch}.",
        };
}
