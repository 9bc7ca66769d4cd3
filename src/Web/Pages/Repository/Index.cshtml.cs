using ClearLexicon.Core.Schemas;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A folder with everything below it.</summary>
/// <param name="Name">Its own name.</param>
/// <param name="Path">From the root.</param>
/// <param name="Inside">Folders in it.</param>
public sealed record FolderNode(string Name, string Path, SortedDictionary<string, FolderNode> Inside)
{
    /// <summary>Documents in it and below.</summary>
    public int Count { get; set; }
}

/// <summary>Tree, table with the type's own fields, search in a field or anywhere.</summary>
public sealed class RepositoryIndexModel(Database database, Designs designs, Rebuilding rebuilding, Ledger ledger) : PlacePage
{
    public const int PageSize = 50;

    public FolderNode Tree { get; } = new("Repository", "", []);

    public List<StoredDocument> Found { get; private set; } = [];

    public long Total { get; private set; }

    /// <summary>How many documents hold the text in the field, and how many hold it anywhere.</summary>
    public (long InField, long Anywhere)? Compared { get; private set; }

    public DocumentType? Type { get; private set; }

    public IEnumerable<Field> Columns => (Type?.Fields ?? []).Where(f => Rights.Sees(f) && !f.NotInResults && f.Kind != FieldKind.Table).Take(8);

    public IEnumerable<DocumentType> Types => designs.Published.Values.Select(p => p.Type.Type);

    public RepositoryQuery Asked { get; private set; } = new();

    public int Skip { get; private set; }

    public IActionResult OnGet(string? folder, string? type, string? field, string? text, string? anywhere, string? sort, bool desc, int skip)
    {
        Ask(folder, type, field, text, anywhere, sort, desc);
        Skip = Math.Max(0, skip);
        database.Read(c =>
        {
            foreach (var (path, count) in RepositoryStore.Folders(c)) Place(path, count);
            Found = RepositoryStore.Find(c, Asked, PageSize, Skip);
            Total = RepositoryStore.Count(c, Asked);
            if (Asked.Field is not null && Asked.FieldText.Trim().Length > 0)
                Compared = (Total, RepositoryStore.Count(c, Asked with { Field = null, FieldText = "", Anywhere = Asked.FieldText }));
            return 0;
        });
        return Page();
    }

    /// <summary>What is shown, as CSV: the same documents, the same columns a person may see.</summary>
    /// <summary>All that was found, as CSV: sent as it is read, so that a million rows take no more memory than one.</summary>
    public async Task<IActionResult> OnGetCsvAsync(string? folder, string? type, string? field, string? text, string? anywhere, string? sort, bool desc)
    {
        Ask(folder, type, field, text, anywhere, sort, desc);
        var fields = (Type?.Fields ?? []).Where(Rights.Sees).ToList();
        ledger.Exported(Who, "repository.csv", Type is null ? Request.Path : $"{Request.Path} of {Type.Code}");
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = "attachment; filename=repository.csv";
        await using var writer = new StreamWriter(Response.BodyWriter.AsStream(leaveOpen: true), new System.Text.UTF8Encoding(false), 1 << 16);
        SafeCsv.WriteLine(writer, ["folder", "name", .. fields.Select(f => f.Key)]);
        using var reading = database.Connect();
        foreach (var d in RepositoryStore.FindAll(reading, Asked))
        {
            SafeCsv.WriteLine(writer, [d.Folder!, d.Name!, .. fields.Select(f => d.Record.GetValueOrDefault(f.Key, ""))]);
            if (Response.BodyWriter.UnflushedBytes > 1 << 16) await Response.BodyWriter.FlushAsync(HttpContext.RequestAborted);
        }
        return new EmptyResult();
    }

    /// <summary>This page with some of what was asked for changed.</summary>
    public string With(string? folder = null, string? sort = null, bool? desc = null, int skip = 0, string? handler = null)
    {
        var query = new Dictionary<string, string?>
        {
            ["handler"] = handler,
            ["folder"] = folder ?? Asked.Folder,
            ["type"] = Type?.Code,
            ["field"] = Asked.Field,
            ["text"] = Asked.FieldText,
            ["anywhere"] = Asked.Anywhere,
            ["sort"] = sort ?? Asked.Sort,
            ["desc"] = (desc ?? Asked.Descending) ? "true" : null,
            ["skip"] = skip > 0 ? skip.ToString() : null,
        };
        return Microsoft.AspNetCore.WebUtilities.QueryHelpers.AddQueryString("/Repository", query.Where(q => !string.IsNullOrEmpty(q.Value)));
    }

    private void Ask(string? folder, string? type, string? field, string? text, string? anywhere, string? sort, bool desc)
    {
        Type = type is not null && designs.Published.TryGetValue(type, out var published) ? published.Type.Type
            : Types.Count() == 1 || field is not null || sort is not null ? Types.FirstOrDefault() : null;
        // A restricted field cannot be searched or sorted by those who may not see it.
        Field? Visible(string? key) => Type?.Find(key) is { } f && Rights.Sees(f) ? f : null;
        Asked = new RepositoryQuery
        {
            Folder = folder ?? "",
            TypeCode = Type?.Code,
            Field = Visible(field)?.Key,
            FieldText = text ?? "",
            Anywhere = anywhere ?? "",
            IncludeRestricted = SeesRestricted,
            NotByWords = SeesRestricted ? [] : rebuilding.Due,
            Sort = Visible(sort)?.Key,
            SortAsNumber = Visible(sort)?.Kind is FieldKind.Decimal or FieldKind.WholeNumber or FieldKind.Amount,
            Descending = desc,
        };
    }

    private void Place(string path, int count)
    {
        var node = Tree;
        node.Count += count;
        var at = "";
        foreach (var name in path.Split('/', StringSplitOptions.RemoveEmptyEntries))
        {
            at = at.Length == 0 ? name : $"{at}/{name}";
            if (!node.Inside.TryGetValue(name, out var inside)) node.Inside[name] = inside = new FolderNode(name, at, []);
            node = inside;
            node.Count += count;
        }
    }
}
