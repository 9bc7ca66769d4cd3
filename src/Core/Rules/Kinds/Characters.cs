using System.Text;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A text holds allowed characters only.</summary>
public sealed class Characters : IRuleKind
{
    private static readonly RuleParameter Set = RuleParameter.Choice(
        "set",
        "may hold",
        ("digits", "digits 0–9"),
        ("capitals", "capital letters A–Z"),
        ("letters", "letters"),
        ("letters-digits", "letters and digits"),
        ("capitals-digits", "capital letters and digits"),
        ("none", "only the following")
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "characters";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text holds allowed characters only";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier), Set, new("also", "and also", ParameterKind.OptionalText, [])];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{type.LabelOf(rule["field"])} holds {Set.Words(rule["set"])}{(rule["also"].Length > 0 ? $" and “{rule["also"]}”" : "")}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        rule["set"] == "none" && rule["also"].Length == 0 ? "and also: write the characters that are allowed." : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var also = rule["also"];
        Func<Rune, bool> allowed = rule["set"] switch
        {
            "digits" => static c => c.IsAscii && char.IsAsciiDigit((char)c.Value),
            "capitals" => static c => c.IsAscii && char.IsAsciiLetterUpper((char)c.Value),
            "letters" => Rune.IsLetter,
            "letters-digits" => Rune.IsLetterOrDigit,
            "capitals-digits" => static c => c.IsAscii && (char.IsAsciiLetterUpper((char)c.Value) || char.IsAsciiDigit((char)c.Value)),
            _ => static _ => false,
        };
        var more = also.EnumerateRunes().ToHashSet();
        var label = scope.Type.LabelOf(rule["field"]);
        return (record, _) =>
        {
            if (!record[at].IsGood)
                return null;
            var number = 0;
            foreach (var rune in record[at].Text.EnumerateRunes())
            {
                number++;
                if (!allowed(rune) && !more.Contains(rune))
                    return rule.Found(Code, rule["field"], label, rune.ToString(), number.ToString());
            }
            return null;
        };
    }
}
