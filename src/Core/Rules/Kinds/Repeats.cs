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
    private enum Held
    {
        Value,
        Year,
        ShortYear,
    }

    private static readonly FieldBlank Subject = new("field", "Text", FieldKinds.Written);
    private static readonly ChoiceBlank<Held> What = new(
        "what",
        "holds",
        (Held.Value, "value", "the whole value"),
        (Held.Year, "year", "the year"),
        (Held.ShortYear, "short-year", "the year in two digits")
    );
    private static readonly FieldBlank Other = new("other", "of", FieldKinds.Repeated);

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "repeats";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text holds a piece of another field";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, What, Other];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} holds {Words(rule, type)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        What.Of(rule) != Held.Value && Other.In(rule, type)?.Kind.Measure != Measure.Day ? "Only a date has a year." : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        int at = Subject.At(rule, scope.Type),
            other = Other.At(rule, scope.Type);
        var what = What.Of(rule);
        var words = Words(rule, scope.Type);
        return (record, _) =>
        {
            if (!record[at].IsGood || !record[other].IsGood)
                return null;
            var piece = Piece(record[other], what);
            return Folding.Fold(record[at].Text).Contains(Folding.Fold(piece), StringComparison.Ordinal)
                ? null
                : rule.Found(new DoesNotRepeat(record[at].Text, words, piece), Subject.Of(rule));
        };
    }

    private static string Piece(FieldValue value, Held what) =>
        what switch
        {
            Held.Year => value.Date.ToString("yyyy", CultureInfo.InvariantCulture),
            Held.ShortYear => value.Date.ToString("yy", CultureInfo.InvariantCulture),
            _ => value.Text,
        };

    private static string Words(Rule rule, TypeFields type) =>
        What.Of(rule) == Held.Value ? Other.LabelIn(rule, type) : $"{What.Words(rule)} of {Other.LabelIn(rule, type)}";
}

/// <summary>A text does not hold the piece of another field.</summary>
public sealed record DoesNotRepeat(string Text, string Source, string Piece) : ProblemKind("repeats")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ enthält {Source} nicht ({Piece}).",
            "fr" => $"« {Text} » ne contient pas {Source} ({Piece}).",
            _ => $"“{Text}” does not contain {Source} ({Piece}).",
        };
}
