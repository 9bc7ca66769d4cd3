using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Folders as far as they are unfolded, a table with the type's own fields, search in fields or anywhere.</summary>
public sealed class RepositoryIndexModel(FiledSearch search, Designs designs, Rebuilding rebuilding, Ledger ledger) : PlacePage
{
    public const int PageSize = 50;

    public SearchedRepository Sheet { get; private set; } = null!;

    public FoundPage Found => Sheet.Found;

    /// <summary>Whether values of this type are still being put into the index.</summary>
    public bool Indexing { get; private set; }

    public DocumentType? Type { get; private set; }

    public IEnumerable<Field> Columns =>
        (Type?.Fields ?? []).Where(f => Rights.Sees(f) && !f.NotInResults && f.Kind != FieldKind.Table).Take(8);

    public IEnumerable<DocumentType> Types => designs.Published.Values.Select(p => p.Type.Type);

    public RepositoryQuery Asked { get; private set; } = new();

    public IActionResult OnGet(long? after, long? before)
    {
        Ask();
        Indexing = Type is not null && rebuilding.Due.Contains(Type.Code);
        Sheet = search.Page(Asked, PageSize, after, before);
        return Page();
    }

    /// <summary>All that was found, as CSV: sent as it is read, so that a million rows take no more memory than one.</summary>
    public async Task<IActionResult> OnGetCsvAsync()
    {
        Ask();
        var fields = (Type?.Fields ?? []).Where(Rights.Sees).ToList();
        ledger.Exported(Who, "repository.csv", Type is null ? Request.Path : $"{Request.Path} of {Type.Code}");
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = "attachment; filename=repository.csv";
        await using var writer = new StreamWriter(
            Response.BodyWriter.AsStream(leaveOpen: true),
            new System.Text.UTF8Encoding(false),
            1 << 16
        );
        SafeCsv.WriteLine(writer, ["folder", "name", .. fields.Select(f => f.Key)]);
        foreach (var d in search.All(Asked))
        {
            SafeCsv.WriteLine(writer, [d.Folder!, d.Name!, .. fields.Select(f => d.Record.GetValueOrDefault(f.Key, ""))]);
            if (Response.BodyWriter.UnflushedBytes > 1 << 16)
                await Response.BodyWriter.FlushAsync(HttpContext.RequestAborted);
        }
        return new EmptyResult();
    }

    /// <summary>What stands in the fields of the search: a condition a row.</summary>
    public List<(string Field, Look How, string Text, string To)> Rows { get; } = [];

    /// <summary>This page with some of what was asked for changed.</summary>
    public string With(
        string? folder = null,
        string? sort = null,
        bool? desc = null,
        long? after = null,
        long? before = null,
        string? handler = null
    )
    {
        var query = new List<KeyValuePair<string, string?>>
        {
            new("handler", handler),
            new("folder", folder ?? Asked.Folder),
            new("type", Type?.Code),
            new("anywhere", Asked.Anywhere),
            new("sort", sort ?? Asked.Sort),
            new("desc", (desc ?? Asked.Descending) ? "true" : null),
            new("after", after?.ToString()),
            new("before", before?.ToString()),
        };
        foreach (var row in Rows.Where(r => r.Text.Length > 0 || r.To.Length > 0))
            query.AddRange([
                new("field", row.Field),
                new("how", row.How.ToString()),
                new("text", row.Text),
                new("to", row.To.Length > 0 || Rows.Count > 1 ? row.To : null),
            ]);
        return Microsoft.AspNetCore.WebUtilities.QueryHelpers.AddQueryString(
            "/Repository",
            query.Where(q => !string.IsNullOrEmpty(q.Value) || (Rows.Count > 1 && q.Key == "to" && q.Value is not null))
        );
    }

    /// <summary>What the documents are sorted by, in words.</summary>
    public string OrderInWords =>
        Found.Order switch
        {
            RepositorySearch.ByPath => "by folder and name",
            RepositorySearch.Newest => "newest first",
            var key => $"by {Type?.LabelOf(key) ?? key}{(Asked.Descending ? ", largest first" : "")}",
        };

    private string Sent(string name, int at) => Request.Query[name] is var values && at < values.Count ? values[at] ?? "" : "";

    private void Ask()
    {
        var (type, sort) = (Sent("type", 0), Sent("sort", 0));
        var fields = Request.Query["field"].Count;
        Type =
            designs.Published.TryGetValue(type, out var published) ? published.Type.Type
            : Types.Count() == 1 || Sent("field", 0).Length > 0 || sort.Length > 0 ? Types.FirstOrDefault()
            : null;
        // A restricted field cannot be searched or sorted by those who may not see it.
        Field? Visible(string key) => Type?.Find(key) is { } f && Rights.Sees(f) && f.Kind != FieldKind.Table ? f : null;
        var conditions = new List<FieldCondition>();
        for (var i = 0; i < Math.Max(1, Math.Min(fields, 4)); i++)
        {
            var how = Enum.TryParse<Look>(Sent("how", i), out var look) ? look : Look.Holds;
            Rows.Add((Sent("field", i), how, Sent("text", i), Sent("to", i)));
            if (Visible(Rows[i].Field) is { } field)
                conditions.Add(new FieldCondition(field.Key, field.Kind, how, Rows[i].Text, Rows[i].To));
        }
        Asked = new RepositoryQuery
        {
            Folder = Sent("folder", 0).Trim('/'),
            TypeCode = Type?.Code,
            Conditions = [.. conditions.Where(condition => !condition.IsEmpty)],
            Anywhere = Sent("anywhere", 0),
            IncludeRestricted = SeesRestricted,
            NotByWords = SeesRestricted ? [] : rebuilding.DueByWords,
            Sort = Visible(sort)?.Key,
            Descending = string.Equals(Sent("desc", 0), "true", StringComparison.OrdinalIgnoreCase),
        };
    }
}
