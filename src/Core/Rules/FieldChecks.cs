using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>What a field demands of its own value, as checks of the same shape as rules.</summary>
public static class FieldChecks
{
    /// <summary>The checks of one field.</summary>
    /// <param name="reader">The field, compiled.</param>
    /// <param name="ordinal">Its place in the record.</param>
    /// <param name="scope">The type it stands in.</param>
    public static IEnumerable<Check> Of(FieldReader reader, int ordinal, RuleScope scope)
    {
        var (field, terms) = (reader.Field, reader.Terms);
        if (field.Required)
        {
            var missing = new Problem(new Required(field.Label), Level.Must, field.Key);
            yield return (record, _) => record[ordinal].IsEmpty ? missing : null;
        }
        else if (field.RequiredWhen is { Comparisons.Count: > 0 } when && when.Finding(scope.Type) is null)
        {
            var holds = when.Compile(scope.Type, scope.Vocabularies);
            var missing = new Problem(new RequiredWhen(field.Label, when.InWords(scope.Type)), Level.Must, field.Key);
            yield return (record, now) => record[ordinal].IsEmpty && holds(record, now) ? missing : null;
        }
        yield return Readable(field, ordinal, terms);
        var own = field switch
        {
            TextField text => TextChecks(text, ordinal),
            RangedField ranged => RangeChecks(ranged, ordinal),
            VocabularyField term when terms is not null => TermChecks(term, ordinal, terms),
            IdentifierField identifier => IdentifierChecks(identifier, ordinal),
            _ => [],
        };
        foreach (var check in own)
            yield return check;
    }

    /// <summary>
    /// A test of texts by what their field demands, alone on an empty record: the problem, or null. Compiled once for any number of texts;
    /// not thread-safe.
    /// </summary>
    public static Func<string, Problem?> Alone(FieldReader reader, int ordinal, RuleScope scope, CheckContext now)
    {
        var checks = Of(reader, ordinal, scope).ToArray();
        var record = new FieldValue[scope.Type.Fields.Count];
        Array.Fill(record, FieldValue.Empty);
        return text =>
        {
            record[ordinal] = reader.Read(text);
            foreach (var check in checks)
                if (check(record, now) is { } problem)
                    return problem;
            return null;
        };
    }

    /// <summary>The checks of a table's rows, each row judged as a record of the columns.</summary>
    public static IEnumerable<(int Ordinal, Check[] Checks)> OfRows(FieldReader reader, int ordinal, RuleScope scope)
    {
        if (reader.Field is not TableField table)
            yield break;
        var rows = scope with { Type = TypeFields.OfRows(table) };
        yield return (
            ordinal,
            [
                .. reader.Columns.SelectMany((c, i) => Of(c, i, rows)),
                .. table
                    .RowRules.Where(r => RuleKinds.Finding(r, rows.Type) is null)
                    .Select(r => RuleKinds.Compile(r, rows))
                    .OfType<Check>(),
            ]
        );
    }

    /// <summary>A test whether a whole text matches a pattern, and what a message shows of the pattern.</summary>
    internal static (Func<string, bool> Matches, string Shown) Matcher(string pattern)
    {
        if (PatternShape.Parse(pattern) is { } shape)
            return (shape.Matches, $"{PatternPieces.InWords(pattern)} ({shape.Example()})");
        // A pattern that cannot be compiled accepts nothing; publishing refuses it.
        if (!SafePattern.TryWhole(pattern, out var regex, out _))
            return (static _ => false, pattern);
        return (
            text => SafePattern.Matches(regex!, text) == true,
            PatternPieces.Read(pattern) is { } pieces ? $"{PatternPieces.InWords(pattern)} ({PatternPieces.Example(pieces)})" : pattern
        );
    }

    private static Check Readable(Field field, int ordinal, VocabularyIndex? terms)
    {
        var vocabulary = terms?.Vocabulary.Name ?? field.Vocabulary ?? "";
        ProblemKind Unread(string text) =>
            field.Kind.HasTerms ? new UnknownTerm(text, vocabulary) : new NotOfKind(field.Kind, field.Kind.HasRows ? field.Label : text);
        var unsound = Found(new NotUnicode(field.Label), field);
        var reading =
            field.Kind.Measure == Measure.Day
                ? field.Cleaning?.FirstOrDefault(s => s.Kind == "read-date" && CleaningSteps.Finding(s) is null)?.Argument
                : null;
        return (record, _) =>
        {
            if (record[ordinal].State != ValueState.Unreadable)
                return null;
            if (FieldReader.IsUnsound(record[ordinal]))
                return unsound;
            var text = record[ordinal].Text;
            if (reading is not null && DateReading.Ambiguous(text, reading) is { } two)
                return Found(new AmbiguousDate(text, two.First, two.Second), field);
            return Found(Unread(text), field);
        };
    }

    private static IEnumerable<Check> TermChecks(VocabularyField field, int ordinal, VocabularyIndex terms)
    {
        var vocabulary = terms.Vocabulary;
        var retired = vocabulary.Terms.Any(t => t.Status == TermStatus.Retired);
        var branch = field.Branch is { Length: > 0 } b ? terms.IndexOfAny(b) : -1;
        if (!retired && field.Branch is null && field.OnlyLevel is null && !field.LeavesOnly)
            yield break;
        Problem? Finding(int term)
        {
            if (term < 0)
                return null;
            var label = vocabulary.Terms[term].Label;
            if (vocabulary.Terms[term].Status == TermStatus.Retired)
                return vocabulary.Terms[term].ReplacedBy is { } id && terms.OfId(id) is >= 0 and var better
                    ? Found(new ReplacedTerm(label, vocabulary.Terms[better].Label), field)
                    : Found(new RetiredTerm(label, vocabulary.Name), field);
            if (field.Branch is { Length: > 0 } && (branch < 0 || !terms.IsWithin(term, branch) || term == branch))
                return Found(new NotInBranch(label, branch < 0 ? field.Branch : vocabulary.Terms[branch].Label), field);
            if (field.OnlyLevel is { } level && terms.Level(term) != level)
                return Found(new NotOnLevel(label, level), field);
            return field.LeavesOnly && terms.Narrower(term).Length > 0
                ? Found(new NotALeaf(label, vocabulary.Terms[terms.Narrower(term)[0]].Label), field)
                : null;
        }
        if (field is TermField)
            yield return (record, _) => record[ordinal].IsGood ? Finding(record[ordinal].Term) : null;
        else
            yield return (record, _) =>
            {
                foreach (var term in record[ordinal].Terms)
                    if (Finding(term) is { } finding)
                        return finding;
                return null;
            };
    }

    private static IEnumerable<Check> TextChecks(TextField field, int ordinal)
    {
        if (field.MinLength is { } least)
        {
            var problem = Found(new TooShort(field.Label, least), field);
            yield return (record, _) => record[ordinal].IsGood && CodePoints.Count(record[ordinal].Text) < least ? problem : null;
        }
        if (field.MaxLength is { } most)
        {
            var problem = Found(new TooLong(field.Label, most), field);
            yield return (record, _) => record[ordinal].IsGood && CodePoints.Count(record[ordinal].Text) > most ? problem : null;
        }
        if (field.Pattern is { Length: > 0 } pattern)
        {
            var (matches, shown) = Matcher(pattern);
            yield return (record, _) =>
                record[ordinal].IsGood && !matches(record[ordinal].Text) ? Found(new NotOfForm(record[ordinal].Text, shown), field) : null;
        }
    }

    private static IEnumerable<Check> IdentifierChecks(IdentifierField field, int ordinal)
    {
        if (CheckSchemes.Find(field.Scheme) is { } scheme)
            yield return (record, _) =>
                record[ordinal].IsGood && scheme.Problem(record[ordinal].Text) is { } problem
                    ? Found(CheckDigitProblems.Of(record[ordinal].Text, problem), field)
                    : null;
    }

    private static IEnumerable<Check> RangeChecks(RangedField field, int ordinal)
    {
        if (field.Kind.Order(field.Min) is { } least)
        {
            var problem = Found(new BelowLeast(field.Label, field.Min!), field);
            yield return (record, _) => record[ordinal].IsGood && field.Kind.Order(record[ordinal]) < least ? problem : null;
        }
        if (field.Kind.Order(field.Max) is { } most)
        {
            var problem = Found(new AboveGreatest(field.Label, field.Max!), field);
            yield return (record, _) => record[ordinal].IsGood && field.Kind.Order(record[ordinal]) > most ? problem : null;
        }
        if (field is not AmountField amount)
            yield break;
        yield return (record, _) =>
        {
            if (!record[ordinal].IsGood)
                return null;
            var currency = record[ordinal].Currency!;
            if (amount.Currencies is { Count: > 0 } taken && !taken.Contains(currency, StringComparer.Ordinal))
                return Found(new CurrencyNotTaken(field.Label, currency, string.Join(", ", taken)), field);
            if (Currencies.PlacesOf(currency) is not { } places)
                return Found(new UnknownCurrency(currency), field);
            return record[ordinal].Number.Scale > places && decimal.Round(record[ordinal].Number, places) != record[ordinal].Number
                ? Found(new AmountPlaces(currency, places), field)
                : null;
        };
    }

    private static Problem Found(ProblemKind kind, Field field) => new(kind, Level.Must, field.Key);
}
