using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Designs;

/// <summary>How a type narrows a field that it inherits. What is null stays as inherited; nothing can be loosened.</summary>
/// <param name="Field">Key of the inherited field.</param>
public sealed record Tightening(string Field)
{
    /// <summary>Makes it required.</summary>
    public bool Required { get; init; }

    /// <summary>A greater least value.</summary>
    public string? Min { get; init; }

    /// <summary>A smaller greatest value.</summary>
    public string? Max { get; init; }

    /// <summary>A greater least length.</summary>
    public int? MinLength { get; init; }

    /// <summary>A smaller greatest length.</summary>
    public int? MaxLength { get; init; }

    /// <summary>A branch of the vocabulary, by term id.</summary>
    public string? Branch { get; init; }

    /// <summary>Accepts leaf terms only.</summary>
    public bool LeavesOnly { get; init; }

    /// <summary>Hides it from people who only search.</summary>
    public bool Restricted { get; init; }

    /// <summary>Another default.</summary>
    public string? Default { get; init; }

    /// <summary>Another help text.</summary>
    public string? Help { get; init; }

    /// <summary>The field as narrowed.</summary>
    public Field Apply(Field field) =>
        OfKind(field) with
        {
            Required = field.Required || Required,
            RequiredWhen = Required ? null : field.RequiredWhen,
            Restricted = field.Restricted || Restricted,
            Default = Default ?? field.Default,
            Help = Help ?? field.Help,
        };

    private Field OfKind(Field field) =>
        field switch
        {
            TextField text => text with { MinLength = MinLength ?? text.MinLength, MaxLength = MaxLength ?? text.MaxLength },
            RangedField ranged => ranged with { Min = Min ?? ranged.Min, Max = Max ?? ranged.Max },
            VocabularyField terms => terms with { Branch = Branch ?? terms.Branch, LeavesOnly = terms.LeavesOnly || LeavesOnly },
            _ => field,
        };

    /// <summary>Why this would loosen a field, in one sentence; null when it narrows it.</summary>
    public string? Finding(Field field)
    {
        if (field is TextField text)
        {
            if (MinLength < text.MinLength)
                return $"{field.Label} already needs at least {text.MinLength} characters; {MinLength} would loosen it.";
            if (MaxLength > text.MaxLength)
                return $"{field.Label} may already have {text.MaxLength} characters at most; {MaxLength} would loosen it.";
        }
        if (field is not RangedField ranged)
            return null;
        if (Compare(field, Min, ranged.Min) < 0)
            return $"{field.Label} already begins at {ranged.Min}; {Min} would loosen it.";
        return Compare(field, Max, ranged.Max) > 0 ? $"{field.Label} already ends at {ranged.Max}; {Max} would loosen it." : null;
    }

    private static int Compare(Field field, string? now, string? inherited) =>
        field.Kind.Order(now) is { } a && field.Kind.Order(inherited) is { } b ? a.CompareTo(b) : 0;
}

/// <summary>Makes whole document types from what a type says itself, what it refines and the groups it places.</summary>
public static class Inheritance
{
    /// <summary>Deepest chain of refinement that stays readable.</summary>
    public const int Deepest = 5;

    /// <summary>
    /// The whole type: fields of what it refines, its own, then those of its groups; inherited rules before its own; its own
    /// convention, or the inherited one when it has none. Inherited parts say where they are <see cref="Field.From"/>.
    /// </summary>
    /// <param name="type">The type as its steward wrote it.</param>
    /// <param name="find">Gives the type or group with a code, or null.</param>
    public static DocumentType Resolve(DocumentType type, Func<string, DocumentType?> find) => Resolve(type, find, Deepest);

    private static DocumentType Resolve(DocumentType type, Func<string, DocumentType?> find, int depth)
    {
        var parent = type.Refines is { } code && depth > 0 && find(code) is { } refined ? Resolve(refined, find, depth - 1) : null;
        List<Field> fields = [.. parent?.Fields.Select(f => f with { From = f.From ?? parent.Code }) ?? [], .. type.Fields];
        List<Rule> rules = [.. parent?.Rules.Select(r => Inherited(r, parent.Code)) ?? []];
        foreach (var group in type.Groups.Select(find).OfType<DocumentType>().Where(g => g.IsGroup))
        {
            fields.AddRange(
                group
                    .Fields.Where(f => fields.All(known => known.Key != f.Key || known.From != group.Code))
                    .Select(f => f with { From = group.Code })
            );
            rules.AddRange(group.Rules.Select(r => Inherited(r, group.Code)).Where(r => rules.All(known => known.Id != r.Id)));
        }
        foreach (var tightening in type.Tightened)
            if (fields.FindIndex(f => f.Key == tightening.Field && f.From is not null) is var at and >= 0)
                fields[at] = tightening.Apply(fields[at]);
        return type with
        {
            Fields = fields,
            Rules = [.. rules, .. type.Rules],
            Convention = type.Convention.Name.Count > 0 || parent is null ? type.Convention : parent.Convention,
            Fillings = [.. parent?.Fillings ?? [], .. type.Fillings],
            Lineage = [type.Code, .. parent?.Lineage ?? []],
        };
    }

    /// <summary>Findings of a type's inheritance, each with the key it is about.</summary>
    public static IEnumerable<(string Place, string Text)> Findings(DocumentType type, Func<string, DocumentType?> find)
    {
        var seen = new HashSet<string>(StringComparer.Ordinal) { type.Code };
        for (var (at, depth) = (type, 0); at.Refines is { } code; depth++)
        {
            if (find(code) is not { IsGroup: false } refined)
            {
                yield return ("fields", $"The document type “{code}” that {at.Name} refines no longer exists.");
                break;
            }
            if (!seen.Add(code))
            {
                yield return ("fields", $"{type.Name} refines itself by way of {refined.Name}.");
                yield break;
            }
            if (depth >= Deepest)
            {
                yield return (
                    "fields",
                    $"Types may refine one another {Deepest} times in a row; this is the limit for a design that can be read."
                );
                break;
            }
            at = refined;
        }
        foreach (var code in type.Groups)
            if (find(code) is not { IsGroup: true })
                yield return ("fields", $"The field group “{code}” no longer exists.");
        var bare = Resolve(type with { Tightened = [] }, find);
        foreach (var tightening in type.Tightened)
        {
            if (bare.Fields.FirstOrDefault(f => f.Key == tightening.Field && f.From is not null) is not { } field)
                yield return (tightening.Field, $"“{tightening.Field}” is tightened, but no longer inherited.");
            else if (tightening.Finding(field) is { } finding)
                yield return (field.Key, finding);
        }
    }

    private static Rule Inherited(Rule rule, string code) =>
        rule.From is not null ? rule : rule with { Id = $"{code}.{rule.Id}", From = code };
}
