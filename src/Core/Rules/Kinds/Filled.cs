using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>How many of the fields are filled.</summary>
internal enum HowFilled
{
    All,
    One,
    ExactlyOne,
    None,
}

/// <summary>Fields are filled, or empty.</summary>
public sealed class Filled : IRuleKind
{
    internal static readonly FieldsBlank Named = new("fields", "Fields");
    internal static readonly ChoiceBlank<HowFilled> How = new(
        "how",
        "are",
        (HowFilled.All, "all", "all filled"),
        (HowFilled.One, "one", "filled, at least one"),
        (HowFilled.ExactlyOne, "exactly-one", "filled, exactly one"),
        (HowFilled.None, "none", "all empty")
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "filled";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Fields are filled, or empty";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Named, How];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var names = Named.LabelsIn(rule, type);
        return How.Of(rule) switch
        {
            HowFilled.One => $"one of {names} is filled",
            HowFilled.ExactlyOne => $"exactly one of {names} is filled",
            HowFilled.None => $"{names} stays empty",
            _ => $"{names} is filled",
        };
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var keys = Named.Of(rule);
        var fields = keys.Select(scope.Type.OrdinalOf).ToArray();
        var how = How.Of(rule);
        var names = scope.Type.LabelsOf(keys);
        var found = rule.Found(
            how switch
            {
                HowFilled.One => new NoneFilled(names),
                HowFilled.ExactlyOne => new NotExactlyOneFilled(names),
                HowFilled.None => new NotEmpty(names),
                _ => new NotFilled(names),
            },
            keys[0]
        );
        return how switch
        {
            HowFilled.One => (record, _) => Count(record, fields) > 0 ? null : found,
            HowFilled.ExactlyOne => (record, _) => Count(record, fields) == 1 ? null : found,
            HowFilled.None => (record, _) => First(record, fields, empty: false) is var i and >= 0 ? found with { Field = keys[i] } : null,
            // All that are empty are named; the first is where it is shown.
            _ => (record, _) =>
                First(record, fields, empty: true) is var i and >= 0
                    ? found with
                    {
                        Field = keys[i],
                        Kind = new NotFilled(Empty(record, fields, keys, scope)),
                    }
                    : null,
        };
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var each = Named.Of(rule).Select(k => (JsonNode)new JsonObject { ["required"] = new JsonArray(k) }).ToArray();
        return How.Of(rule) switch
        {
            HowFilled.One => new JsonObject { ["anyOf"] = new JsonArray(each) },
            HowFilled.ExactlyOne => new JsonObject { ["oneOf"] = new JsonArray(each) },
            HowFilled.None => new JsonObject { ["not"] = new JsonObject { ["anyOf"] = new JsonArray(each) } },
            _ => new JsonObject { ["required"] = new JsonArray([.. Named.Of(rule).Select(k => (JsonNode)k)]) },
        };
    }

    private static int Count(ReadOnlySpan<FieldValue> record, int[] fields)
    {
        var n = 0;
        foreach (var field in fields)
            if (!record[field].IsEmpty)
                n++;
        return n;
    }

    private static string Empty(ReadOnlySpan<FieldValue> record, int[] fields, string[] keys, RuleScope scope)
    {
        var empty = new List<string>();
        for (var i = 0; i < fields.Length; i++)
            if (record[fields[i]].IsEmpty)
                empty.Add(keys[i]);
        return scope.Type.LabelsOf(empty);
    }

    private static int First(ReadOnlySpan<FieldValue> record, int[] fields, bool empty)
    {
        for (var i = 0; i < fields.Length; i++)
            if (record[fields[i]].IsEmpty == empty)
                return i;
        return -1;
    }
}

/// <summary>Fields that must be filled are empty.</summary>
public sealed record NotFilled(string Labels) : ProblemKind("filled")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Labels} muss ausgefüllt sein.",
            "fr" => $"{Labels} doit être rempli.",
            _ => $"{Labels} must be filled.",
        };
}

/// <summary>None of several fields is filled.</summary>
public sealed record NoneFilled(string Labels) : ProblemKind("one-filled")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Eines von {Labels} muss ausgefüllt sein.",
            "fr" => $"L’un de {Labels} doit être rempli.",
            _ => $"One of {Labels} must be filled.",
        };
}

/// <summary>None, or more than one, of several fields is filled.</summary>
public sealed record NotExactlyOneFilled(string Labels) : ProblemKind("exactly-one-filled")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Genau eines von {Labels} muss ausgefüllt sein.",
            "fr" => $"Un seul de {Labels} doit être rempli.",
            _ => $"Exactly one of {Labels} must be filled.",
        };
}

/// <summary>A field is filled that must stay empty.</summary>
public sealed record NotEmpty(string Labels) : ProblemKind("stays-empty")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Labels} muss leer bleiben.",
            "fr" => $"{Labels} doit rester vide.",
            _ => $"{Labels} must stay empty.",
        };
}
