using System.Text.Json.Nodes;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>A text has a length within borders, counted in UTF-16 code units as JSON Schema validators on .NET count.</summary>
public sealed class TextLength : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "length";

    /// <inheritdoc/>
    public string Title => "A text has a length";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier), RuleParameter.Number("least", "from, characters"), RuleParameter.Number("most", "to, characters")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, DocumentType type) => $"{type.LabelOf(rule["field"])} has {Within.Signs(rule["least"], rule["most"])} characters";

    /// <inheritdoc/>
    public string? Fault(Rule rule, DocumentType type) => Within.Fault(rule["least"], rule["most"], RuleKinds.Number(rule["least"]) > RuleKinds.Number(rule["most"]));

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (least, most) = (RuleKinds.Number(rule["least"]) ?? 0, RuleKinds.Number(rule["most"]) ?? int.MaxValue);
        var found = rule.Found("length", rule["field"], scope.Type.LabelOf(rule["field"]), Within.Signs(rule["least"], rule["most"]));
        return (record, _) => record[at].IsGood && (record[at].Text.Length < least || record[at].Text.Length > most) ? found : null;
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
                    if (length > 0) yield return (rule["field"], new string('x', length));
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
    public string Sentence(Rule rule, DocumentType type) =>
        $"{type.LabelOf(rule["field"])} holds {Set.Words(rule["set"])}{(rule["also"].Length > 0 ? $" and “{rule["also"]}”" : "")}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, DocumentType type) => rule["set"] == "none" && rule["also"].Length == 0 ? "and also: write the characters that are allowed." : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var also = rule["also"];
        Func<char, bool> allowed = rule["set"] switch
        {
            "digits" => char.IsAsciiDigit,
            "capitals" => char.IsAsciiLetterUpper,
            "letters" => char.IsLetter,
            "letters-digits" => char.IsLetterOrDigit,
            "capitals-digits" => static c => char.IsAsciiLetterUpper(c) || char.IsAsciiDigit(c),
            _ => static _ => false,
        };
        var label = scope.Type.LabelOf(rule["field"]);
        return (record, _) =>
        {
            if (!record[at].IsGood) return null;
            var text = record[at].Text;
            for (var i = 0; i < text.Length; i++)
                if (!allowed(text[i]) && !also.Contains(text[i], StringComparison.Ordinal)) return rule.Found(Code, rule["field"], label, text[i].ToString(), (i + 1).ToString());
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
    public string Sentence(Rule rule, DocumentType type) => $"{type.LabelOf(rule["field"])} is {PatternPieces.InWords(rule["pattern"])}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, DocumentType type) => SafePattern.TryWhole(rule["pattern"], out _, out var problem) ? null : problem;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (matches, example) = FieldChecks.Matcher(rule["pattern"]);
        return (record, _) => record[at].IsGood && !matches(record[at].Text) ? rule.Found("pattern", rule["field"], scope.Type.LabelOf(rule["field"]), record[at].Text, example) : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope) => scope.Type.Find(rule["field"])!.Kind == FieldKind.Identifier ? null
        : new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = new JsonObject { ["pattern"] = $"^(?:{rule["pattern"]})$" } } };

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        if (PatternShape.Parse(rule["pattern"]) is not { } shape) yield break;
        yield return (rule["field"], shape.Example());
        yield return (rule["field"], shape.Example() + "0");
        yield return (rule["field"], shape.Example()[..^1]);
    }
}
