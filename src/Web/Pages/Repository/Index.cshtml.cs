using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Folders as far as they are unfolded, a table with the type's own fields, a question in one sentence, saved views.</summary>
public sealed class RepositoryIndexModel(
    FiledSearch search,
    SearchRequests requests,
    Services.Repository.Views views,
    Facets facets,
    Designs designs,
    Rebuilding rebuilding,
    Ledger ledger
) : PlacePage
{
    public const int PageSize = 50;

    public SearchedRepository? Sheet { get; private set; }

    public FoundPage Found => Sheet!.Found;

    /// <summary>Whether values of this type are still being put into the index.</summary>
    public bool Indexing { get; private set; }

    public SearchRequest Asked { get; private set; } = null!;

    public RepositoryQuery Query => Asked.Query;

    public DocumentType? Type => Asked.Type;

    /// <summary>What the address asks.</summary>
    public ViewDefinition Asks { get; private set; } = new();

    public IEnumerable<DocumentType> Types => designs.Published.Values.Select(p => p.Type.Type);

    /// <summary>Values to narrow by, where the page comes with them; null where a script asks for them.</summary>
    public FoundFacets? Facets { get; private set; }

    public List<StoredView> Views { get; private set; } = [];

    /// <summary>The saved view whose question this is.</summary>
    public StoredView? View => Views.Find(v => Address(v.Asks) == Address(Asks));

    /// <summary>A view that was just taken away.</summary>
    public long? Removed { get; private set; }

    public IActionResult OnGet(long? after, long? before)
    {
        if (Added() is { } whole)
            return Redirect(whole);
        Show(after, before);
        return Page();
    }

    /// <summary>Sentences that go on from the one that is typed.</summary>
    public IActionResult OnGetComplete() => Partial("_Completed", requests.Complete(Queried["type"].Text, Queried["ask"].Text, Rights));

    /// <summary>The commonest values of what was found.</summary>
    public IActionResult OnGetFacets()
    {
        if (!ByScript)
        {
            Show(null, null);
            Facets = facets.Of(Asked, Queried["over"].Text);
            return Page();
        }
        Ask();
        return Partial("_Facets", new FacetsPart(this, facets.Of(Asked, Queried["over"].Text)));
    }

    /// <summary>All that was found, as CSV: sent as it is read, so that a million rows take no more memory than one.</summary>
    public async Task<IActionResult> OnGetCsvAsync()
    {
        Ask();
        if (Asked.Fault is not null)
            return OnGet(null, null);
        var fields = Asks.Columns.Count > 0 ? Asked.Columns : Asked.Fields.Fields;
        ledger.Exported(
            Who,
            "repository.csv",
            new LedgerSubject(SubjectKind.Records, Request.Path),
            Type is null ? "" : $"of type {Type.Code}"
        );
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = "attachment; filename=repository.csv";
        await using var writer = new StreamWriter(
            Response.BodyWriter.AsStream(leaveOpen: true),
            new System.Text.UTF8Encoding(false),
            1 << 16
        );
        SafeCsv.WriteLine(writer, ["folder", "name", .. fields.Select(f => f.Key)]);
        foreach (var d in search.All(Query))
        {
            SafeCsv.WriteLine(writer, [d.Folder!, d.Name!, .. fields.Select(f => d.Record.GetValueOrDefault(f.Key, ""))]);
            if (Response.BodyWriter.UnflushedBytes > 1 << 16)
                await Response.BodyWriter.FlushAsync(HttpContext.RequestAborted);
        }
        return new EmptyResult();
    }

    /// <summary>Saves the question as a view.</summary>
    public IActionResult OnPostSaveView()
    {
        Ask();
        var columns = Services.Repository.Views.Columns(Sent("columns"), Asked.Fields);
        if (!columns.Ok)
            return Shown(columns.Problem);
        var saved = views.Save(Sent("name"), Sent("shared"), Asks with { Columns = columns.Value! }, Who, Rights);
        if (!saved.Ok)
            return Shown(saved.Problem);
        Asks = Asks with { Columns = columns.Value! };
        Asked = requests.For(Asks, Rights);
        Done = $"Saved as “{Sent("name").Trim()}”.";
        return Shown(null);
    }

    /// <summary>Takes a view away.</summary>
    public IActionResult OnPostRemoveView(long id)
    {
        Ask();
        var removed = views.Remove(id, Who);
        if (removed.Ok)
            (Done, Removed) = ($"Removed the view “{removed.Value}”.", id);
        return Shown(removed.Problem);
    }

    /// <summary>Puts a view back.</summary>
    public IActionResult OnPostPutViewBack(long id)
    {
        Ask();
        var back = views.PutBack(id, Who);
        if (back.Ok)
            Done = $"The view “{back.Value}” is back.";
        return Shown(back.Problem);
    }

    private IActionResult Shown(string? problem)
    {
        Problem = problem;
        Show(null, null);
        return Page();
    }

    private void Show(long? after, long? before)
    {
        if (Asked is null)
            Ask();
        Views = views.SeenBy(Who, Rights);
        Indexing = Type is not null && rebuilding.Due.Contains(Type.Code);
        Sheet = search.Page(Asked!.Fault is null ? Query : new RepositoryQuery { Folder = Query.Folder }, PageSize, after, before);
    }

    /// <summary>What an address asks.</summary>
    public static ViewDefinition AsksOf(Forms.Form asked) =>
        new()
        {
            Type = asked["type"].Text,
            Ask = asked["ask"].Text.Trim(),
            Anywhere = asked["anywhere"].Text,
            Folder = asked["folder"].Text.Trim('/'),
            Columns = asked["columns"].Text.Split(',', StringSplitOptions.RemoveEmptyEntries),
            Sort = asked["sort"].Text,
            Descending = asked["desc"].Text.Equals("true", StringComparison.OrdinalIgnoreCase),
        };

    private static IEnumerable<KeyValuePair<string, string?>> Parts(ViewDefinition asks) =>
        [
            new("folder", asks.Folder),
            new("type", asks.Type),
            new("ask", asks.Ask),
            new("anywhere", asks.Anywhere),
            new("columns", string.Join(',', asks.Columns)),
            new("sort", asks.Sort),
            new("desc", asks.Descending ? "true" : null),
        ];

    /// <summary>The address that asks a question.</summary>
    public static string Address(ViewDefinition asks, params KeyValuePair<string, string?>[] more) => AddressOn("/Repository", asks, more);

    /// <summary>The address of a page that takes up a question.</summary>
    public static string AddressOn(string page, ViewDefinition asks, params KeyValuePair<string, string?>[] more) =>
        Microsoft.AspNetCore.WebUtilities.QueryHelpers.AddQueryString(
            page,
            Parts(asks).Concat(more).Where(q => !string.IsNullOrEmpty(q.Value))
        );

    /// <summary>This page with some of what was asked for changed.</summary>
    public string With(
        string? folder = null,
        string? sort = null,
        bool? desc = null,
        string? ask = null,
        long? after = null,
        long? before = null,
        string? handler = null
    ) =>
        Address(
            Asks with
            {
                Folder = folder ?? Asks.Folder,
                Sort = sort ?? Asks.Sort,
                Descending = desc ?? Asks.Descending,
                Ask = ask ?? Asks.Ask,
            },
            new("after", after?.ToString()),
            new("before", before?.ToString()),
            new("handler", handler)
        );

    /// <summary>The question without one of its conditions, or joined the other way.</summary>
    public string Without(FieldCondition condition) =>
        With(
            ask: QuestionText.Write(
                Asked.Question with
                {
                    Conditions = [.. Asked.Question.Conditions.Where(c => c != condition)],
                },
                Asked.Fields
            )
        );

    /// <summary>The question joined the other way.</summary>
    public string Otherwise => With(ask: QuestionText.Write(Asked.Question with { Any = !Asked.Question.Any }, Asked.Fields));

    /// <summary>What the documents are sorted by, in words.</summary>
    public string OrderInWords =>
        Found.Order switch
        {
            RepositorySearch.ByPath => "by folder and name",
            RepositorySearch.Newest => "newest first",
            var key => $"by {Type?.LabelOf(key) ?? key}{(Query.Descending ? ", largest first" : "")}",
        };

    private void Ask()
    {
        var asked = Queried;
        var type = asked["type"].Text;
        if (type.Length == 0 && (Types.Count() == 1 || asked["field"].Text.Length > 0 || asked["sort"].Text.Length > 0))
            type = Types.FirstOrDefault()?.Code ?? "";
        Asks = AsksOf(asked) with { Type = type };
        Asked = requests.For(Asks, Rights);
    }

    // Conditions that were built in rows go into the sentence, so that the address is the whole question.
    private string? Added()
    {
        Ask();
        string Sent(string name, int at) => Request.Query[name] is var values && at < values.Count ? values[at]?.Trim() ?? "" : "";
        var sentences = new List<string>();
        for (var i = 0; i < Math.Min(Request.Query["field"].Count, Question.Most); i++)
        {
            if (Asked.Fields.FindPart(Sent("field", i)) is not { } field || field.Kind.HasRows)
                continue;
            var how = Enum.TryParse<Look>(Sent("how", i), out var look) && Enum.IsDefined(look) ? look : Look.Holds;
            var condition = new FieldCondition(Sent("field", i), field.Kind, how, Sent("text", i), Sent("to", i))
            {
                Values =
                    how == Look.OneOf
                        ? [.. Sent("text", i).Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)]
                        : [],
            };
            if (!condition.IsEmpty)
                sentences.Add(QuestionText.Write(condition, Asked.Fields));
        }
        if (sentences.Count == 0)
            return null;
        return With(ask: string.Join(Asked.Question.Any ? " or " : " and ", sentences.Prepend(Asks.Ask).Where(s => s.Length > 0)));
    }
}
