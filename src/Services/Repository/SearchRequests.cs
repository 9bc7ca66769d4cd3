using System.Globalization;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>A question as a person with certain rights may put it.</summary>
/// <param name="Type">The document type; null when it goes to all.</param>
/// <param name="Fields">Fields that the person may ask.</param>
/// <param name="Question">What was read of the question.</param>
/// <param name="Fault">Why it could not be read; null when it could.</param>
/// <param name="Query">What is looked for; nothing is found while there is a fault.</param>
/// <param name="Columns">Fields that are shown.</param>
public sealed record SearchRequest(
    DocumentType? Type,
    TypeFields Fields,
    Question Question,
    QuestionFault? Fault,
    RepositoryQuery Query,
    IReadOnlyList<Field> Columns
)
{
    /// <summary>The question as it is written.</summary>
    public string Ask => QuestionText.Write(Question, Fields);
}

/// <summary>
/// Turns what a view asks into what the index is asked. A field that a person may not see cannot be asked, sorted by or shown; to them it
/// is a field that is not there.
/// </summary>
public sealed class SearchRequests(Designs designs, Rebuilding rebuilding, TimeProvider clock)
{
    /// <summary>Characters that words looked for in the text may have.</summary>
    public const int LongestWords = 1_000;

    private const int MostColumns = 8;

    /// <summary>Today, by which relative days are reckoned.</summary>
    public DateOnly Today => clock.Today();

    /// <summary>The question of a view, for a person.</summary>
    public SearchRequest For(ViewDefinition asks, Rights rights)
    {
        var type = designs.Published.TryGetValue(asks.Type, out var published) ? published.Type.Type : null;
        var fields = Seen(type, rights);
        var question = Question.Nothing;
        QuestionFault? fault = null;
        if (asks.Ask.Trim().Length > 0)
            if (asks.Type.Length > 0 && type is null)
                fault = new QuestionFault(0, $"The document type “{asks.Type}” is no longer published.");
            else if (type is null)
                fault = new QuestionFault(0, "Choose a document type first: fields belong to types.");
            else
                question = QuestionText.Read(asks.Ask, fields, out fault);
        // Signs alone would find everything, and whatever is done to what is found.
        if (asks.Anywhere.Length > LongestWords)
            fault ??= new QuestionFault(
                0,
                $"“{CodePoints.First(asks.Anywhere.Trim(), 40)}…” is {asks.Anywhere.Length:N0} characters long; words of at most "
                    + $"{LongestWords:N0} characters are looked for in the text."
            );
        else if (asks.Anywhere.Trim().Length > 0 && !Folding.Fold(asks.Anywhere).Any(char.IsLetterOrDigit))
            fault ??= new QuestionFault(
                0,
                $"“{CodePoints.First(asks.Anywhere.Trim(), 40)}” holds no letter or digit to look for in the text."
            );
        var sort = fields.Find(asks.Sort) is { Kind.HasRows: false } by ? by.Key : null;
        var columns = asks.Columns.Select(fields.Find).OfType<Field>().ToList();
        return new SearchRequest(
            type,
            fields,
            question,
            fault,
            new RepositoryQuery
            {
                Folder = asks.Folder.Trim('/'),
                TypeCode = type?.Code,
                Conditions = question.On(fields, designs.Vocabularies, Today).Conditions,
                Any = question.Any,
                Anywhere = asks.Anywhere,
                IncludeRestricted = rights.SeesRestricted,
                NotByWords = rights.SeesRestricted ? [] : rebuilding.DueByWords,
                Sort = sort,
                Descending = asks.Descending && sort is not null,
            },
            columns.Count > 0 ? columns : [.. fields.Fields.Where(f => !f.NotInResults && !f.Kind.HasRows).Take(MostColumns)]
        );
    }

    /// <summary>
    /// The documents that a question finds for a person, with the rights that they have today; their number is the job's total.
    /// </summary>
    /// <exception cref="RefusedException">The question can no longer be asked.</exception>
    internal IEnumerable<StoredDocument> Found(SqliteConnection c, ViewDefinition asks, string who, Job job)
    {
        var asked = For(asks, new Rights(PeopleStore.Find(c, who)?.Roles ?? []));
        if (asked.Fault is { } fault)
            throw new RefusedException(fault.Says);
        job.Total = RepositorySearch.Count(c, asked.Query).Number;
        return RepositorySearch.All(c, asked.Query);
    }

    /// <summary>Fields of a type that a person may ask, with the columns of its tables.</summary>
    public static TypeFields Seen(DocumentType? type, Rights rights) =>
        new(
            type?.Code ?? "",
            [
                .. (type?.Fields ?? [])
                    .Where(rights.Sees)
                    .Select(f => f is TableField table ? table with { Columns = [.. table.Columns.Where(rights.Sees)] } : f),
            ]
        );

    /// <summary>The view of the documents of a type whose fields are some values, as an address names them.</summary>
    /// <param name="typeCode">Code of the type.</param>
    /// <param name="values">Keys of fields with their values.</param>
    /// <param name="rights">What the person may ask.</param>
    public Result<ViewDefinition> At(string typeCode, IEnumerable<(string Field, string Value)> values, Rights rights)
    {
        if (!designs.Published.TryGetValue(typeCode, out var published))
            return Result<ViewDefinition>.Not($"There is no document type “{CodePoints.First(typeCode, 60)}”.");
        var fields = Seen(published.Type.Type, rights);
        var conditions = new List<FieldCondition>();
        foreach (var (key, value) in values)
        {
            if (fields.FindPart(key) is not { Kind.HasRows: false } field)
                return Result<ViewDefinition>.Not($"{published.Type.Type.Name} has no field “{CodePoints.First(key, 60)}”.");
            if (string.IsNullOrWhiteSpace(value) || value.Length > SearchKey.Longest)
                return Result<ViewDefinition>.Not($"The address needs a value for {field.Label}, of up to {SearchKey.Longest} characters.");
            conditions.Add(new FieldCondition(key, field.Kind, Look.Is, value.Trim()));
        }
        if (conditions.Count is 0 or > Question.Most)
            return Result<ViewDefinition>.Not("The address names no field: write ?field=value behind the type.");
        var ask = QuestionText.Write(new Question(false, conditions), fields);
        QuestionText.Read(ask, fields, out var fault);
        return fault is null ? new ViewDefinition { Type = typeCode, Ask = ask } : Result<ViewDefinition>.Not(fault.Says);
    }

    /// <summary>How a question could go on from where it ends.</summary>
    public IReadOnlyList<string> Complete(string typeCode, string ask, Rights rights) =>
        designs.Published.TryGetValue(typeCode, out var published)
            ? QuestionText.Complete(ask, Seen(published.Type.Type, rights), Values)
            : [];

    private IEnumerable<string> Values(Field field, string typed)
    {
        if (field.Kind.Measure == Measure.Day)
        {
            string[] days = ["today", "yesterday", "30 days ago", "a year ago", Today.Year.ToString(CultureInfo.InvariantCulture)];
            return days.Where(d => d.StartsWith(typed, StringComparison.OrdinalIgnoreCase));
        }
        if (field.Kind.Measure == Measure.Truth)
            return ["yes", "no"];
        return designs.Vocabularies.GetValueOrDefault(field.Vocabulary ?? "") is { } terms
            ? terms.Complete(typed, 12).Select(t => t.Label)
            : [];
    }
}
