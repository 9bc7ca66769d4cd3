using System.Globalization;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>What a field demands of its own value, as checks of the same shape as rules.</summary>
public static class FieldChecks
{
    /// <summary>The checks of one field.</summary>
    public static IEnumerable<Check> Of(Field field, int ordinal, VocabularyIndex? terms)
    {
        if (field.Required)
        {
            var missing = new Problem("required", Level.Must, field.Key, field.Label);
            yield return record => record[ordinal].IsEmpty ? missing : null;
        }
        yield return Readable(field, ordinal, terms);
        if (field.Kind == FieldKind.Term && terms is not null && terms.Vocabulary.Terms.Any(t => t.Status == TermStatus.Retired))
            yield return record => record[ordinal].IsGood && terms.Vocabulary.Terms[record[ordinal].Term].Status == TermStatus.Retired
                ? Found("retired-term", field, record[ordinal].Text, terms.Vocabulary.Name) : null;
        if (field.Kind == FieldKind.Text)
            foreach (var check in TextChecks(field, ordinal)) yield return check;
        if (field.Kind is FieldKind.WholeNumber or FieldKind.Decimal)
            foreach (var check in NumberChecks(field, ordinal)) yield return check;
        if (field.Kind == FieldKind.Date)
            foreach (var check in DateChecks(field, ordinal)) yield return check;
    }

    private static Check Readable(Field field, int ordinal, VocabularyIndex? terms)
    {
        var code = field.Kind switch
        {
            FieldKind.WholeNumber => "not-a-whole-number",
            FieldKind.Decimal => "not-a-number",
            FieldKind.Date => "not-a-date",
            FieldKind.YesNo => "not-yes-or-no",
            _ => "unknown-term",
        };
        var vocabulary = terms?.Vocabulary.Name ?? field.Vocabulary;
        return record => record[ordinal].State == ValueState.Unreadable ? Found(code, field, record[ordinal].Text, vocabulary) : null;
    }

    private static IEnumerable<Check> TextChecks(Field field, int ordinal)
    {
        if (field.MinLength is { } least)
        {
            var problem = Found("too-short", field, least.ToString());
            yield return record => record[ordinal].IsGood && record[ordinal].Text.Length < least ? problem : null;
        }
        if (field.MaxLength is { } most)
        {
            var problem = Found("too-long", field, most.ToString());
            yield return record => record[ordinal].IsGood && record[ordinal].Text.Length > most ? problem : null;
        }
        if (field.Pattern is { Length: > 0 } pattern && SafePattern.TryWhole(pattern, out var regex, out _))
        {
            var shape = PatternShape.Parse(pattern);
            yield return shape is null
                ? record => record[ordinal].IsGood && !regex!.IsMatch(record[ordinal].Text) ? Found("pattern", field, record[ordinal].Text, pattern) : null
                : record => record[ordinal].IsGood && !shape.Matches(record[ordinal].Text) ? Found("pattern", field, record[ordinal].Text, $"{pattern}, such as {shape.Example()}") : null;
        }
    }

    private static IEnumerable<Check> NumberChecks(Field field, int ordinal)
    {
        if (decimal.TryParse(field.Min, NumberStyles.Number, CultureInfo.InvariantCulture, out var least))
        {
            var problem = Found("below-least", field, field.Min);
            yield return record => record[ordinal].IsGood && record[ordinal].Number < least ? problem : null;
        }
        if (decimal.TryParse(field.Max, NumberStyles.Number, CultureInfo.InvariantCulture, out var most))
        {
            var problem = Found("above-greatest", field, field.Max);
            yield return record => record[ordinal].IsGood && record[ordinal].Number > most ? problem : null;
        }
    }

    private static IEnumerable<Check> DateChecks(Field field, int ordinal)
    {
        if (field.Min is { } from && FieldParsing.TryDate(from, out var least))
        {
            var problem = Found("below-least", field, from);
            yield return record => record[ordinal].IsGood && record[ordinal].Date < least ? problem : null;
        }
        if (field.Max is { } to && FieldParsing.TryDate(to, out var most))
        {
            var problem = Found("above-greatest", field, to);
            yield return record => record[ordinal].IsGood && record[ordinal].Date > most ? problem : null;
        }
    }

    private static Problem Found(string code, Field field, string? b, string? c = null) => new(code, Level.Must, field.Key, field.Label, b, c);
}
