using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>A value of what was found.</summary>
/// <param name="Label">The value as people call it.</param>
/// <param name="Documents">How many of the looked-at documents have it.</param>
/// <param name="Narrowed">The question with this value besides.</param>
public sealed record FacetValue(string Label, long Documents, string Narrowed);

/// <summary>The commonest values of a field among what was found.</summary>
/// <param name="Field">The field.</param>
/// <param name="Values">Its values, the commonest first; of a date in the order of time.</param>
public sealed record Facet(Field Field, IReadOnlyList<FacetValue> Values);

/// <summary>What was found, looked at together.</summary>
/// <param name="Terms">Term fields.</param>
/// <param name="Dates">Date fields that could be shown over time.</param>
/// <param name="OverTime">The date field that is shown: years, or the months of the only one.</param>
/// <param name="Documents">How many documents were looked at.</param>
/// <param name="All">Whether they are all that was found; else they are some of them, spread evenly.</param>
public sealed record FoundFacets(IReadOnlyList<Facet> Terms, IReadOnlyList<Field> Dates, Facet? OverTime, int Documents, bool All);

/// <summary>The commonest values of what a question finds. Fields that the person may not see are not among them.</summary>
public sealed class Facets(Database database, Designs designs)
{
    /// <summary>Most values of a field.</summary>
    public const int MostValues = 6;

    private const int MostFields = 4,
        MostBars = 60;

    /// <summary>Looks at what a question finds.</summary>
    /// <param name="asked">The question.</param>
    /// <param name="over">Key of the date field to show over time; null for the first one.</param>
    public FoundFacets? Of(SearchRequest asked, string? over)
    {
        if (asked.Type is not { } type || asked.Fault is not null)
            return null;
        var dates = asked.Fields.Fields.Where(f => f.Kind.Measure == Measure.Day).ToList();
        var time = dates.Find(f => f.Key == over) ?? dates.FirstOrDefault();
        return database.Read(c =>
        {
            var (ids, all) = RepositorySearch.Sample(c, asked.Query);
            List<(string Key, long Documents)> Counts(Field field, int first, int most) =>
                FoundStore.CountsAmong(c, ids, type.Code, field.Key, first, most);
            var terms = asked
                .Fields.Fields.Where(f => f.Kind.HasTerms)
                .Take(MostFields)
                .Select(f => new Facet(
                    f,
                    [
                        .. Counts(f, 0, MostValues)
                            .Select(v => (Label: Label(f, v.Key), v.Documents))
                            .Select(v => new FacetValue(v.Label, v.Documents, Narrowed(asked, f, v.Label))),
                    ]
                ))
                // What all of them have narrows nothing.
                .Where(f => f.Values.Count > 1 || f.Values.Any(v => v.Documents < ids.Count));
            Facet? overTime = null;
            if (time is not null)
            {
                var bars = Counts(time, 4, MostBars);
                if (bars.Count == 1)
                    bars = Counts(time, 7, MostBars);
                overTime = new Facet(
                    time,
                    [.. Through(bars).Select(v => new FacetValue(v.Key, v.Documents, Narrowed(asked, time, v.Key)))]
                );
            }
            return new FoundFacets([.. terms], dates, overTime, ids.Count, all);
        });
    }

    // Years or months in their order, with those between that nothing was found of.
    private static List<(string Key, long Documents)> Through(List<(string Key, long Documents)> bars)
    {
        var known = bars.ToDictionary(b => b.Key, b => b.Documents, StringComparer.Ordinal);
        var keys = known.Keys.Order(StringComparer.Ordinal).ToList();
        var form = keys is [{ Length: 7 }, ..] ? "yyyy-MM" : "yyyy";
        if (keys.Count > 1 && Day(keys[0], form) is { } at && Day(keys[^1], form) is { } last)
            for (keys.Clear(); at <= last; at = form == "yyyy" ? at.AddYears(1) : at.AddMonths(1))
                if (keys.Count == MostBars)
                    return [.. bars.OrderBy(b => b.Key, StringComparer.Ordinal)];
                else
                    keys.Add(at.ToString(form, CultureInfo.InvariantCulture));
        return [.. keys.Select(k => (k, known.GetValueOrDefault(k)))];
    }

    private static DateOnly? Day(string key, string form) =>
        DateOnly.TryParseExact(key, form, CultureInfo.InvariantCulture, DateTimeStyles.None, out var day) && day.Year < 9999 ? day : null;

    private string Label(Field field, string key) =>
        designs.Vocabularies.GetValueOrDefault(field.Vocabulary ?? "")?.Find(key)?.Label ?? key;

    // With several conditions of which any is enough, narrowing would widen: it begins anew.
    private static string Narrowed(SearchRequest asked, Field field, string value)
    {
        var more = new FieldCondition(field.Key, field.Kind, Look.Is, value);
        var kept = asked.Question.Any && asked.Question.Conditions.Count > 1 ? [] : asked.Question.Conditions;
        return QuestionText.Write(
            new Question(false, [.. kept.Where(c => c.Field != field.Key || field.Kind.IsMultiple), more]),
            asked.Fields
        );
    }
}
