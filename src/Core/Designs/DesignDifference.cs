using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>One difference between two states of a design.</summary>
/// <param name="Part">What it is about: fields, rules, convention, fillings or inheritance.</param>
/// <param name="Text">In words.</param>
public sealed record DesignChange(string Part, string Text)
{
    /// <summary>Key of the field, id of the rule, <c>folder</c> or <c>name</c>; empty for what is about no single one.</summary>
    public string Key { get; init; } = "";
}

/// <summary>Compares two states of a document type in words.</summary>
public static class DesignDifference
{
    /// <summary>All differences, in the order fields, rules, convention, fillings.</summary>
    public static IEnumerable<DesignChange> InWords(DocumentType before, DocumentType after)
    {
        if (before.Name != after.Name)
            yield return new("type", $"The type is now called {after.Name}, before {before.Name}.");
        if (before.Refines != after.Refines)
            yield return new(
                "type",
                after.Refines is null ? $"It no longer refines {before.Refines}." : $"It now refines {after.Refines}."
            );
        foreach (var group in after.Groups.Except(before.Groups))
            yield return new("fields", $"The field group {group} is placed.");
        foreach (var group in before.Groups.Except(after.Groups))
            yield return new("fields", $"The field group {group} is taken out.");
        foreach (var field in after.Fields.Where(f => before.Find(f.Key) is null))
            yield return new(
                "fields",
                $"{field.Label} is new: "
                    + field.Kind.Label
                    + (Required(field, after) is { } required ? $", required{required}" : "")
                    + (field.From is { } from ? $", from {from}." : ".")
            )
            {
                Key = field.Key,
            };
        foreach (var field in before.Fields.Where(f => after.Find(f.Key) is null))
            yield return new("fields", $"{field.Label} is gone.") { Key = field.Key };
        foreach (var field in after.Fields)
            if (before.Find(field.Key) is { } was)
                foreach (var text in Field(was, field, before, after))
                    yield return new("fields", text) { Key = field.Key };
        var order = before.Fields.Select(f => f.Key).Intersect(after.Fields.Select(f => f.Key));
        if (!order.SequenceEqual(after.Fields.Select(f => f.Key).Intersect(before.Fields.Select(f => f.Key))))
            yield return new("fields", "The order of the fields has changed.");
        foreach (var change in Rules(before, after))
            yield return change;
        foreach (
            var (name, was, now) in new[]
            {
                ("folder", Outline(before.Convention.Folder, before), Outline(after.Convention.Folder, after)),
                ("name", Outline(before.Convention.Name, before), Outline(after.Convention.Name, after)),
            }
        )
            if (was != now)
                yield return new(
                    "convention",
                    $"The {name} is now {(now.Length == 0 ? "empty" : now)}, before {(was.Length == 0 ? "empty" : was)}."
                )
                {
                    Key = name,
                };
        foreach (var f in after.Fillings.Where(f => before.Fillings.All(b => !Same(b, f))))
            yield return new(
                "fillings",
                $"{after.LabelsOf(f.Targets.Values)} is now filled from {f.Table} by {after.LabelsOf(f.Keys.Values)}."
            );
        foreach (var f in before.Fillings.Where(f => after.Fillings.All(b => !Same(b, f))))
            yield return new("fillings", $"{before.LabelsOf(f.Targets.Values)} is no longer filled from {f.Table}.");
    }

    private static IEnumerable<DesignChange> Rules(DocumentType before, DocumentType after)
    {
        foreach (var rule in after.Rules)
        {
            var now = RuleKinds.Sentence(rule, after);
            if (before.Rules.FirstOrDefault(r => r.Id == rule.Id) is not { } was)
            {
                yield return new("rules", $"New rule: {now} ({Word(rule.Level)}).") { Key = rule.Id };
                continue;
            }
            var then = RuleKinds.Sentence(was, before);
            if (then != now)
                yield return new("rules", $"The rule “{then}” now says “{now}”.") { Key = rule.Id };
            if (was.Level != rule.Level)
                yield return new("rules", $"“{now}” is now a {Word(rule.Level)}, before a {Word(was.Level)}.") { Key = rule.Id };
            if (was.Message != rule.Message || !Equal(was.Translations, rule.Translations))
                yield return new("rules", $"“{now}” has another message.");
            if (was.Examples.Count != rule.Examples.Count)
                yield return new("rules", $"“{now}” has {rule.Examples.Count} examples, before {was.Examples.Count}.");
        }
        foreach (var rule in before.Rules.Where(r => after.Rules.All(n => n.Id != r.Id)))
            yield return new("rules", $"Gone: {RuleKinds.Sentence(rule, before)}.") { Key = rule.Id };
    }

    private static IEnumerable<string> Field(Field was, Field now, DocumentType before, DocumentType after)
    {
        var name = now.Label;
        if (was.Label != now.Label)
            yield return $"{name} was called {was.Label}.";
        if (was.Kind != now.Kind)
            yield return $"{name} is now {now.Kind.Label}, before {was.Kind.Label}.";
        var (r, n) = (Required(was, before), Required(now, after));
        if (r != n)
            yield return n is null
                ? $"{name} may now stay empty."
                : $"{name} is now required{n}{(r is null ? "" : $", before{(r.Length == 0 ? " always" : r)}")}.";
        foreach (
            var (fact, a, b) in ((string, string?, string?)[])
                [
                    .. Options(was, now),
                    ("default", Default(was), Default(now)),
                    ("help text", was.Help, now.Help),
                    ("example", was.Example, now.Example),
                    ("standard term", was.Standard, now.Standard),
                    ("cleaning", Cleaning(was), Cleaning(now)),
                ]
        )
            if ((a ?? "") != (b ?? ""))
                yield return string.IsNullOrEmpty(b) ? $"{name} no longer has a {fact} (it was {a})."
                : string.IsNullOrEmpty(a) ? $"{name} now has a {fact}: {b.TrimEnd('.')}."
                : $"{name}: the {fact} is now {b}, before {a.TrimEnd('.')}.";
        if (was.Restricted != now.Restricted)
            yield return now.Restricted ? $"{name} is now restricted." : $"{name} is no longer restricted.";
        var (anyLevel, leaves) = (was is VocabularyField { LeavesOnly: true }, now is VocabularyField { LeavesOnly: true });
        if (anyLevel != leaves)
            yield return leaves ? $"{name} now takes leaf terms only." : $"{name} now takes terms of all levels.";
        foreach (var text in Columns(was, now))
            yield return $"{name}: {text}";
    }

    // What each kind alone has, in the order it is told; what a field no longer has because its kind changed is told too.
    private static IEnumerable<(string, string?, string?)> Options(Field was, Field now)
    {
        string? Of<T>(Field field, Func<T, object?> option)
            where T : Field => field is T kind ? option(kind)?.ToString() : null;
        (string, string?, string?) Both<T>(string fact, Func<T, object?> option)
            where T : Field => (fact, Of(was, option), Of(now, option));
        return
        [
            Both<RangedField>("least value", f => f.Min),
            Both<RangedField>("greatest value", f => f.Max),
            Both<TextField>("least length", f => f.MinLength),
            Both<TextField>("greatest length", f => f.MaxLength),
            Both<TextField>("pattern", f => f.Pattern),
            Both<VocabularyField>("vocabulary", f => f.Vocabulary),
            Both<VocabularyField>("branch", f => f.Branch),
            Both<VocabularyField>("level", f => f.OnlyLevel),
            Both<IdentifierField>("check-digit scheme", f => f.Scheme),
            Both<AmountField>("currencies", f => Listed(f.Currencies)),
        ];
    }

    private static IEnumerable<string> Columns(Field was, Field now)
    {
        if (now is not TableField)
            return [];
        return InWords(DocumentType.OfRows(was), DocumentType.OfRows(now)).Where(c => c.Part != "type").Select(c => c.Text);
    }

    private static string? Required(Field field, DocumentType type) =>
        field.Required ? ""
        : field.RequiredWhen is { Comparisons.Count: > 0 } when ? $" when {when.InWords(type)}"
        : null;

    private static string? Default(Field f) =>
        f.DefaultFrom == DefaultSource.Constant ? f.Default
        : f.DefaultFrom == DefaultSource.Formula ? $"computed, {f.Default}"
        : f.DefaultFrom.InWords();

    private static string? Listed(IReadOnlyList<string>? list) => list is null ? null : string.Join(", ", list);

    private static string? Cleaning(Field f) =>
        f.Cleaning is { Count: > 0 } steps
            ? string.Join(
                ", ",
                steps.Select(s => CleaningSteps.Find(s.Kind)?.Title.ToLowerInvariant() + (s.Argument.Length > 0 ? $" {s.Argument}" : ""))
            )
            : null;

    private static string Word(Level level) => level == Level.Must ? "must" : "should";

    private static bool Equal(IReadOnlyDictionary<string, string>? a, IReadOnlyDictionary<string, string>? b) =>
        (a ?? new Dictionary<string, string>())
            .OrderBy(p => p.Key)
            .SequenceEqual((b ?? new Dictionary<string, string>()).OrderBy(p => p.Key));

    private static bool Same(Filling a, Filling b) =>
        a.Table == b.Table
        && a.Always == b.Always
        && a.Keys.OrderBy(k => k.Key).SequenceEqual(b.Keys.OrderBy(k => k.Key))
        && a.Targets.OrderBy(k => k.Key).SequenceEqual(b.Targets.OrderBy(k => k.Key));

    /// <summary>A line of a convention in words.</summary>
    public static string Outline(IEnumerable<Piece> pieces, DocumentType type) =>
        string.Concat(
            pieces.Select(p =>
                p.Kind switch
                {
                    PieceKind.Text => p.Text,
                    PieceKind.Inside => " / ",
                    _ when string.Join(", ", PieceWords.Options(p, type)) is { Length: > 0 } options =>
                        $"‹{PieceWords.NameOf(p, type)}: {options}›",
                    _ => $"‹{PieceWords.NameOf(p, type)}›",
                }
            )
        );
}
