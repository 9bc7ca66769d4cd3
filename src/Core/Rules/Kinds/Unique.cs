using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// A combination of fields occurs only once in the repository, the batch and the inventory. No record can answer this
/// alone: <see cref="Compile"/> is null, and whoever holds the other records asks <see cref="Key"/> in batches.
/// </summary>
public sealed class Unique : IRuleKind
{
    /// <summary>The fields whose combination stands only once.</summary>
    public static readonly FieldsBlank Named = new("fields", "Fields");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "unique";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A combination of fields occurs only once";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Named];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"No two documents have the same {Named.LabelsIn(rule, type)}";

    /// <inheritdoc/>
    public Check? Compile(Rule rule, RuleScope scope) => null;

    /// <summary>
    /// The combination by <see cref="ValueKey"/>; null when one of its fields is empty or unreadable, which is never a duplicate.
    /// </summary>
    public static string? Key(ReadOnlySpan<FieldValue> record, ReadOnlySpan<int> ordinals, ReadOnlySpan<FieldKind> kinds)
    {
        if (ordinals.Length == 1)
            return record[ordinals[0]].IsGood ? kinds[0].Key(record[ordinals[0]]) : null;
        var parts = new string[ordinals.Length];
        for (var i = 0; i < ordinals.Length; i++)
        {
            if (!record[ordinals[i]].IsGood)
                return null;
            parts[i] = kinds[i].Key(record[ordinals[i]]);
        }
        return string.Join('\u001f', parts);
    }

    /// <summary>The problem of a record whose combination another one has.</summary>
    /// <param name="rule">The rule.</param>
    /// <param name="type">Its document type.</param>
    /// <param name="other">How the other document is called.</param>
    /// <param name="otherId">Its id, when it has one.</param>
    public static Problem Found(Rule rule, TypeFields type, string other, long? otherId = null) =>
        rule.Found(new NotUnique(Named.LabelsIn(rule, type), other), Named.Of(rule)[^1]) with
        {
            Other = otherId,
        };
}

/// <summary>Another document has the same combination.</summary>
public sealed record NotUnique(string Labels, string Other) : ProblemKind("unique")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Ein anderes Dokument hat dies schon ({Labels}): {Other}.",
            "fr" => $"Un autre document l’a déjà ({Labels}) : {Other}.",
            _ => $"Another document already has this {Labels}: {Other}.",
        };
}
