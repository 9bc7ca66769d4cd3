using System.Text;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A text holds allowed characters only.</summary>
public sealed class Characters : IRuleKind
{
    private enum Allowed
    {
        Digits,
        Capitals,
        Letters,
        LettersAndDigits,
        CapitalsAndDigits,
        Following,
    }

    private static readonly FieldBlank Subject = new("field", "Text", FieldKinds.Written);
    private static readonly ChoiceBlank<Allowed> Set = new(
        "set",
        "may hold",
        (Allowed.Digits, "digits", "digits 0–9"),
        (Allowed.Capitals, "capitals", "capital letters A–Z"),
        (Allowed.Letters, "letters", "letters"),
        (Allowed.LettersAndDigits, "letters-digits", "letters and digits"),
        (Allowed.CapitalsAndDigits, "capitals-digits", "capital letters and digits"),
        (Allowed.Following, "none", "only the following")
    );
    private static readonly TextBlank Also = new("also", "and also");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "characters";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text holds allowed characters only";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Set, Also];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{Subject.LabelIn(rule, type)} holds {Set.Words(rule)}{(Also.Of(rule).Length > 0 ? $" and “{Also.Of(rule)}”" : "")}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        Set.Of(rule) == Allowed.Following && Also.Of(rule).Length == 0 ? "and also: write the characters that are allowed." : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var also = Also.Of(rule);
        Func<Rune, bool> allowed = Set.Of(rule) switch
        {
            Allowed.Digits => static c => c.IsAscii && char.IsAsciiDigit((char)c.Value),
            Allowed.Capitals => static c => c.IsAscii && char.IsAsciiLetterUpper((char)c.Value),
            Allowed.Letters => Rune.IsLetter,
            Allowed.LettersAndDigits => Rune.IsLetterOrDigit,
            Allowed.CapitalsAndDigits => static c =>
                c.IsAscii && (char.IsAsciiLetterUpper((char)c.Value) || char.IsAsciiDigit((char)c.Value)),
            _ => static _ => false,
        };
        var more = also.EnumerateRunes().ToHashSet();
        var label = Subject.LabelIn(rule, scope.Type);
        return (record, _) =>
        {
            if (!record[at].IsGood)
                return null;
            var number = 0;
            foreach (var rune in record[at].Text.EnumerateRunes())
            {
                number++;
                if (!allowed(rune) && !more.Contains(rune))
                    return rule.Found(new CharacterRefused(label, rune.ToString(), number), Subject.Of(rule));
            }
            return null;
        };
    }
}

/// <summary>A text holds a character that is not allowed; positions count from 1.</summary>
public sealed record CharacterRefused(string Label, string Character, int Position) : ProblemKind("characters")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} darf „{Character}“ nicht enthalten (Zeichen {Position}).",
            "fr" => $"{Label} ne peut pas contenir « {Character} » (caractère {Position}).",
            _ => $"{Label} may not contain “{Character}” (character {Position}).",
        };
}
