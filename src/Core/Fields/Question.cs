using System.Globalization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// What is asked of the fields of documents: conditions, of which all or any must hold. <see cref="QuestionText"/> writes and reads it.
/// </summary>
/// <param name="Any">Whether one of them is enough.</param>
/// <param name="Conditions">The conditions; without any, everything is found.</param>
public sealed record Question(bool Any, IReadOnlyList<FieldCondition> Conditions)
{
    /// <summary>Most conditions of a question.</summary>
    public const int Most = 30;

    /// <summary>Most values that one condition names, or branch that it spreads to.</summary>
    public const int MostValues = 5_000;

    /// <summary>A question that asks for nothing.</summary>
    public static Question Nothing { get; } = new(false, []);

    /// <summary>
    /// The question as it is put to the index: relative days are days, a branch is its terms, terms are called by their labels. A date that
    /// is only a year or a month means all of it.
    /// </summary>
    /// <param name="fields">Fields of the type.</param>
    /// <param name="vocabularies">Vocabularies by code.</param>
    /// <param name="today">Today.</param>
    public Question On(TypeFields fields, IReadOnlyDictionary<string, VocabularyIndex> vocabularies, DateOnly today) =>
        this with
        {
            Conditions = [.. Conditions.Select(c => On(c, fields, vocabularies, today))],
        };

    private static FieldCondition On(
        FieldCondition condition,
        TypeFields fields,
        IReadOnlyDictionary<string, VocabularyIndex> vocabularies,
        DateOnly today
    )
    {
        if (condition.Kind == FieldKind.Date)
        {
            var dated = condition with { Text = Day(condition.Text, today), To = Day(condition.To, today) };
            return dated.How == Look.Is && dated.Text.Length < 10 ? dated with { How = Look.Between, To = dated.Text } : dated;
        }
        if (condition.Kind == FieldKind.Amount)
            return InCurrency(condition);
        if (condition.Kind == FieldKind.Time)
            return condition with { Text = Time(condition.Text), To = Time(condition.To) };
        if (
            condition.Kind is not (FieldKind.Term or FieldKind.Terms)
            || vocabularies.GetValueOrDefault(fields.FindPart(condition.Field)?.Vocabulary ?? "") is not { } terms
        )
            return condition.How == Look.Within ? condition with { How = Look.Is } : condition;
        string Label(string name) => terms.IndexOfAny(name) is >= 0 and var i ? terms.Vocabulary.Terms[i].Label : name;
        return condition.How switch
        {
            Look.Within => condition with { Values = Branch(terms, condition.Text) },
            Look.OneOf => condition with { Values = [.. condition.Values.Select(Label)] },
            Look.Is or Look.IsNot => condition with { Text = Label(condition.Text) },
            _ => condition,
        };
    }

    // An amount with a currency is asked among the amounts of that currency.
    private static FieldCondition InCurrency(FieldCondition condition)
    {
        string[] given = [condition.Text, condition.To, .. condition.Values];
        if (given.Select(g => Currencies.Divided(g).Currency).FirstOrDefault(c => c is not null) is not { } currency)
            return condition;
        var asked = condition with { Field = SearchKey.InCurrency(condition.Field), Kind = FieldKind.Text };
        string In(string text, int by = 0) =>
            SearchKey.OfAmount(Currencies.Divided(text).Currency is null ? $"{text} {currency}" : text, by) ?? "";
        var (least, most) = (In($"-1{Zeros} {currency}"), In($"1{Zeros} {currency}"));
        return condition.How switch
        {
            Look.OneOf => asked with { Values = [.. condition.Values.Select(v => In(v))] },
            Look.Between => asked with
            {
                Text = condition.Text.Length > 0 ? In(condition.Text) : least,
                To = condition.To.Length > 0 ? In(condition.To) : most,
            },
            Look.Before => asked with { How = Look.Between, Text = least, To = In(condition.Text, -1) },
            Look.After => asked with { How = Look.Between, Text = In(condition.Text, 1), To = most },
            Look.IsNot => asked with { Text = In(condition.Text) },
            _ => asked with { How = Look.Is, Text = In(condition.Text) },
        };
    }

    // Beyond every amount.
    private const string Zeros = "000000000000000000";

    private static string Time(string text) => FieldParsing.Parse(FieldKind.Time, text, null).Text;

    private static string Day(string text, DateOnly today) =>
        RelativeDate.On(text, today)?.ToString("O", CultureInfo.InvariantCulture)
        ?? (FieldParsing.TryDate(text.Trim(), out var date) ? date.ToString("O", CultureInfo.InvariantCulture) : text.Trim());

    // A term that is not in the vocabulary any more is still found under its name.
    private static List<string> Branch(VocabularyIndex terms, string name)
    {
        if (terms.IndexOfAny(name) is not (>= 0 and var top))
            return [name];
        var (seen, waiting) = (new HashSet<int> { top }, new Queue<int>([top]));
        var labels = new List<string>();
        while (labels.Count < MostValues && waiting.TryDequeue(out var term))
        {
            labels.Add(terms.Vocabulary.Terms[term].Label);
            foreach (var below in terms.Narrower(term))
                if (seen.Add(below))
                    waiting.Enqueue(below);
        }
        return labels;
    }
}
