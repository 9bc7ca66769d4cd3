using System.Globalization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>A field guessed from a heading and the values under it.</summary>
/// <param name="Field">The field as it would be added.</param>
/// <param name="Because">Why it was guessed so, in one sentence.</param>
/// <param name="Values">The first values under the heading.</param>
/// <param name="NewTerms">Values that would make a new vocabulary when the field holds terms; empty otherwise.</param>
public sealed record GuessedField(Field Field, string Because, IReadOnlyList<string> Values, IReadOnlyList<string> NewTerms);

/// <summary>Reads a pasted list of names, or a spreadsheet's header row with sample rows, into fields with guessed kinds.</summary>
public static class PastedFields
{
    /// <summary>Most fields of one paste.</summary>
    public const int Most = 60;

    private static readonly string[] DateFormats =
    [
        "d/M/yyyy",
        "M/d/yyyy",
        "d.M.yyyy",
        "d-M-yyyy",
        "d-MMM-yyyy",
        "d-MMM-yy",
        "d MMM yyyy",
        "d MMMM yyyy",
        "yyyyMMdd",
        "yyMMdd",
    ];

    /// <summary>
    /// Reads a paste: several lines with tabs (or ; or ,) are a header row with samples; several lines without are one name each.
    /// </summary>
    /// <param name="text">What was pasted.</param>
    /// <param name="vocabularies">Vocabularies that values may turn out to come from.</param>
    /// <returns>Guesses, or why the paste cannot be read.</returns>
    public static (IReadOnlyList<GuessedField> Fields, string? Problem) Read(
        string text,
        IReadOnlyDictionary<string, VocabularyIndex> vocabularies
    )
    {
        var lines = text.ReplaceLineEndings("\n").Split('\n').Where(l => !string.IsNullOrWhiteSpace(l)).ToArray();
        if (lines.Length == 0)
            return ([], "Paste field names, one per line, or the header row of a spreadsheet with some rows below it.");
        var separator = new[] { '\t', ';', ',' }.FirstOrDefault(s => lines[0].Contains(s));
        var names =
            separator == default ? lines.Select(l => l.Trim()).ToArray() : lines[0].Split(separator, StringSplitOptions.TrimEntries);
        if (names.Length > Most)
            return ([], $"These are {names.Length} fields; at most {Most} can be pasted at once.");
        if (Array.FindIndex(names, n => ShortName.From(n).Length == 0) is >= 0 and var nameless)
            return ([], $"Column {nameless + 1} has no name with letters in it.");
        if (names.FirstOrDefault(n => n.Length > DesignCheck.LongestName) is { } endless)
            return ([], $"“{CodePoints.First(endless, 40)}…” is longer than {DesignCheck.LongestName} characters.");
        if (names.GroupBy(ShortName.From).FirstOrDefault(g => g.Count() > 1) is { } twice)
            return ([], $"“{twice.First()}” appears twice.");
        var rows =
            separator == default ? [] : lines.Skip(1).Take(500).Select(l => l.Split(separator, StringSplitOptions.TrimEntries)).ToArray();
        return ([.. names.Select((name, i) => Guess(name, [.. rows.Select(r => i < r.Length ? r[i] : "")], vocabularies))], null);
    }

    /// <summary>Guesses one field.</summary>
    public static GuessedField Guess(string name, IReadOnlyList<string> cells, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        var values = cells.Where(v => v.Length > 0).ToList();
        var (key, text) = (ShortName.From(name), new TextField(ShortName.From(name), name));
        var shown = values.Take(3).ToList();
        if (values.Count == 0)
            return new GuessedField(
                text,
                cells.Count == 0 ? "No values were pasted; text takes anything." : "All its cells are empty; text takes anything.",
                shown,
                []
            );
        var required = values.Count == cells.Count && cells.Count >= 3;
        GuessedField As(Field guess, string because, IReadOnlyList<string>? terms = null) =>
            new(
                guess with
                {
                    Required = required,
                    Example = guess.Kind.IsWritten ? values[0] : null,
                },
                because + (required ? " Every row has one, so it must be filled." : ""),
                shown,
                terms ?? []
            );

        if (values.All(v => FieldKind.YesNo.Parse(v).IsGood && !char.IsAsciiDigit(v[0])))
            return As(new YesNoField(key, name), "Every value is yes or no.");
        if (values.All(v => FieldParsing.TryDate(v, out _)))
            return As(new DateField(key, name), "Every value is a date.");
        var formats = DateFormats.Where(f => values.All(v => DateReading.Reader(f)(v) != v)).ToList();
        if (
            formats.Count > 0
            && (values.Any(v => v.Any(c => !char.IsAsciiDigit(c))) || name.Contains("date", StringComparison.OrdinalIgnoreCase))
        )
        {
            var both =
                formats.Contains("d/M/yyyy")
                && formats.Contains("M/d/yyyy")
                && values.Any(v => DateReading.Ambiguous(v, "d/M/yyyy|M/d/yyyy") is not null);
            return As(
                new DateField(key, name) { Cleaning = [new CleaningStep("read-date", formats[0])] },
                both
                    ? "Every value is a date; day before month was assumed, but month before day fits as well: check this."
                    : $"Every value is a date written {formats[0]}."
            );
        }
        if (values.All(v => FieldParsing.TryTime(v, out _)))
            return As(new TimeField(key, name), "Every value is a time of day.");
        foreach (
            var scheme in CheckSchemes.All.Where(s =>
                s.Code is "iban" or "imo" or "container" or "lei" or "isin" or "issn" or "isbn-13" or "orcid" or "eu-vat"
            )
        )
            if (values.Count >= 2 && values.All(v => scheme.Problem(v) is null))
                return As(new IdentifierField(key, name) { Scheme = scheme.Code }, $"Every value passes the check digit of {scheme.Name}.");
        if (
            values.All(v =>
                v.Length > 4
                && char.IsAsciiLetter(v[^1])
                && Currencies.PlacesOf(v[^3..]) is not null
                && FieldKind.Decimal.Parse(v[..^3].Trim()).IsGood
            )
        )
            return As(
                new AmountField(key, name) { Currencies = [.. values.Select(v => v[^3..]).Distinct()] },
                "Every value is an amount with its currency."
            );
        if (values.All(v => FieldKind.WholeNumber.Parse(v).IsGood && (v.Length == 1 || v[0] != '0')))
            return As(new WholeNumberField(key, name), "Every value is a whole number.");
        if (values.All(v => FieldKind.Decimal.Parse(v).IsGood && (v.Length == 1 || v[0] != '0' || v[1] == '.')))
            return As(new DecimalField(key, name), "Every value is a number.");
        foreach (var sign in ".,")
            if (values.All(v => v.Any(c => c is '.' or ',' or ' ') && FieldKind.Decimal.Parse(TextCleaning.ReadNumber(v, sign)).IsGood))
                return As(
                    new DecimalField(key, name)
                    {
                        Cleaning = [new CleaningStep("read-number", sign.ToString(CultureInfo.InvariantCulture))],
                    },
                    $"Every value is a number with {(sign == ',' ? "a comma" : "a point")} before its decimals."
                );
        if (vocabularies.Values.FirstOrDefault(v => values.All(x => v.IndexOf(x) >= 0)) is { } vocabulary)
            return As(
                new TermField(key, name) { Vocabulary = vocabulary.Vocabulary.Key },
                $"Every value is a term of {vocabulary.Vocabulary.Name}."
            );
        var distinct = values.Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        var shapes = values.Select(v => PatternPieces.Write(PatternPieces.FromExample(v))).Distinct().ToList();
        if (shapes is [var only] && values.Count >= 2 && values.Any(v => v.Any(char.IsAsciiDigit)))
            return As(text with { Pattern = only }, $"Every value has the same form: {PatternPieces.InWords(only)}.");
        if (values.Count >= 4 && distinct.Count <= Math.Max(2, values.Count / 2) && distinct.All(d => d.Length <= 40))
            return As(
                new TermField(key, name),
                $"Only {distinct.Count} different words in {values.Count} rows: a vocabulary of its own.",
                distinct
            );
        return As(text, distinct.Count == values.Count ? "Every value is different text." : "Text of many kinds.");
    }
}
