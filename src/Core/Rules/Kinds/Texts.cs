using System.Text;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>A text has a length within borders, counted in code points as JSON Schema counts.</summary>
public sealed class TextLength : IRuleKind
{
    private const int LongestExample = 2_000;

    /// <inheritdoc/>
    public string Code => "length";

    /// <inheritdoc/>
    public string Title => "A text has a length";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier), RuleParameter.Number("least", "from, characters"), RuleParameter.Number("most", "to, characters")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} has {Within.Signs(rule["least"], rule["most"])} characters";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => Within.CountFault(rule);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (least, most) = (RuleKinds.Number(rule["least"]) ?? 0, RuleKinds.Number(rule["most"]) ?? int.MaxValue);
        var found = rule.Found("length", rule["field"], scope.Type.LabelOf(rule["field"]), Within.Signs(rule["least"], rule["most"]));
        return (record, _) => record[at].IsGood && CodePoints.Count(record[at].Text) is var length && (length < least || length > most) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var limits = new JsonObject();
        if (RuleKinds.Number(rule["least"]) is { } least) limits["minLength"] = (int)least;
        if (RuleKinds.Number(rule["most"]) is { } most) limits["maxLength"] = (int)most;
        return new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = limits } };
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        foreach (var (border, outward) in new[] { (rule["least"], -1), (rule["most"], 1) })
            if (RuleKinds.Number(border) is { } number)
                foreach (var length in new[] { (int)number, (int)number + outward })
                    if (length is > 0 and <= LongestExample) yield return (rule["field"], new string('x', length));
    }
}

/// <summary>A text holds allowed characters only.</summary>
public sealed class Characters : IRuleKind
{
    private static readonly RuleParameter Set = RuleParameter.Choice("set", "may hold", ("digits", "digits 0–9"), ("capitals", "capital letters A–Z"), ("letters", "letters"), ("letters-digits", "letters and digits"), ("capitals-digits", "capital letters and digits"), ("none", "only the following"));

    /// <inheritdoc/>
    public string Code => "characters";

    /// <inheritdoc/>
    public string Title => "A text holds allowed characters only";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier), Set, new("also", "and also", ParameterKind.OptionalText, [])];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{type.LabelOf(rule["field"])} holds {Set.Words(rule["set"])}{(rule["also"].Length > 0 ? $" and “{rule["also"]}”" : "")}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => rule["set"] == "none" && rule["also"].Length == 0 ? "and also: write the characters that are allowed." : null;

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
            if (!record[at].IsGood) return null;
            var number = 0;
            foreach (var rune in record[at].Text.EnumerateRunes())
            {
                number++;
                if (!allowed(rune) && !more.Contains(rune)) return rule.Found(Code, rule["field"], label, rune.ToString(), number.ToString());
            }
            return null;
        };
    }
}

/// <summary>A text matches a pattern as a whole. Patterns are checked in linear time, see <see cref="SafePattern"/>.</summary>
public sealed class Pattern : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "matches";

    /// <inheritdoc/>
    public string Title => "A text matches a pattern";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier), new("pattern", "pattern", ParameterKind.Text, [])];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} is {PatternPieces.InWords(rule["pattern"])}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => SafePattern.TryWhole(rule["pattern"], out _, out var problem) ? null : problem;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (matches, example) = FieldChecks.Matcher(rule["pattern"]);
        return (record, _) => record[at].IsGood && !matches(record[at].Text) ? rule.Found("pattern", rule["field"], scope.Type.LabelOf(rule["field"]), record[at].Text, example) : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope) => scope.Type.Find(rule["field"])!.Kind == FieldKind.Identifier || PatternDialect.Read(rule["pattern"]).Ecma is not { } ecma ? null
        : new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = new JsonObject { ["pattern"] = $"^(?:{ecma})$" } } };

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        if (PatternShape.Parse(rule["pattern"]) is not { } shape) yield break;
        yield return (rule["field"], shape.Example());
        yield return (rule["field"], shape.Example() + "0");
        yield return (rule["field"], shape.Example()[..^1]);
    }
}
