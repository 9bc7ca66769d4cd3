using System.Globalization;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>The kinds of rule there are.</summary>
public static class RuleKinds
{
    /// <summary>All kinds, in the order the editor offers them.</summary>
    public static IReadOnlyList<IRuleKind> All { get; } =
        [new DateNotAfter(), new AddsUp(), new ImoCheckDigit(), new OneFilledWhen(), new Unique()];

    /// <summary>The kind with a code, or null.</summary>
    public static IRuleKind? Find(string code) => All.FirstOrDefault(k => k.Code == code);

    /// <summary>Why a rule cannot be compiled for a type, in one sentence; null when it can.</summary>
    public static string? Fault(Rule rule, DocumentType type)
    {
        if (Find(rule.Kind) is not { } kind) return $"There is no rule kind “{rule.Kind}”.";
        foreach (var parameter in kind.Parameters)
        {
            var fault = parameter.Kind switch
            {
                ParameterKind.Number => rule[parameter.Name].Length == 0 || decimal.TryParse(rule[parameter.Name], NumberStyles.Number, CultureInfo.InvariantCulture, out _)
                    ? null : $"{parameter.Label}: “{rule[parameter.Name]}” is not a number.",
                ParameterKind.Text => rule[parameter.Name].Length > 0 ? null : $"{parameter.Label} is missing.",
                _ => FieldFault(rule, parameter, type),
            };
            if (fault is not null) return fault;
        }
        return null;
    }

    private static string? FieldFault(Rule rule, RuleParameter parameter, DocumentType type)
    {
        var keys = rule.Keys(parameter.Name);
        if (keys.Length < parameter.Least)
            return parameter.Least == 1 ? $"{parameter.Label}: choose a field." : $"{parameter.Label}: choose at least {parameter.Least} fields.";
        foreach (var key in keys)
        {
            if (type.Find(key) is not { } field) return $"{parameter.Label}: the field “{key}” is no longer in this document type.";
            if (parameter.FieldKinds.Count > 0 && !parameter.FieldKinds.Contains(field.Kind))
                return $"{parameter.Label}: {field.Label} is {FieldKindNames.Of(field.Kind)}, but this rule needs {string.Join(" or ", parameter.FieldKinds.Select(FieldKindNames.Of))}.";
        }
        return null;
    }
}

/// <summary>Field kinds in words.</summary>
public static class FieldKindNames
{
    /// <summary>The word for a kind.</summary>
    public static string Of(FieldKind kind) => kind switch
    {
        FieldKind.Text => "text",
        FieldKind.WholeNumber => "whole number",
        FieldKind.Decimal => "decimal",
        FieldKind.Date => "date",
        FieldKind.YesNo => "yes/no",
        _ => "term",
    };
}
