using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Api;

/// <summary>A document that an address by value leads to.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Folder">Its folder.</param>
/// <param name="Name">Its name.</param>
/// <param name="Address">Where it is looked at.</param>
public sealed record FoundAnswer(long Id, string Folder, string Name, string Address);

/// <summary>Views, links by value, and strips of pages over the API.</summary>
public static class ViewEndpoints
{
    private const int MostFound = 100;

    /// <summary>Maps the addresses.</summary>
    public static void MapViewApi(this WebApplication app)
    {
        app.MapGet("/api/v1/views/{name}", View)
            .WithTags("Views")
            .RequireAuthorization("api-read")
            .WithSummary("The documents of a saved view as JSON Lines, CSV (?as=csv), XLSX (?as=xlsx) or XML (?as=xml)")
            .Produces<string>(200, "application/x-ndjson", "text/csv", "application/xml")
            .ProducesProblem(400)
            .ProducesProblem(404)
            .ProducesProblem(409);
        app.MapGet("/api/v1/at/{type}", At)
            .WithTags("Views")
            .RequireAuthorization("api-read")
            .WithSummary("The documents of a type with a value: ?field=value")
            .Produces<IReadOnlyList<FoundAnswer>>()
            .ProducesProblem(404);
        app.MapGet("/api/v1/documents/{id:long}/strips/{field}", Strip)
            .WithTags("Documents")
            .RequireAuthorization("api-read")
            .WithSummary("A picture of nothing but the place a value was read from")
            .WithDescription(
                "PNG at the page's own resolution, with a margin and an outline; ?margin= in thousandths of the page's width, up to 50."
            )
            .Produces<byte[]>(200, "image/png")
            .ProducesProblem(404);
    }

    private static IResult View(
        string name,
        [FromQuery(Name = "as")] string? format,
        HttpContext context,
        [FromServices] Views views,
        [FromServices] SearchRequests requests,
        [FromServices] FiledSearch search,
        [FromServices] DataFolder folder,
        [FromServices] Ledger ledger
    )
    {
        if (!ExportPlans.Formats.TryGetValue(format ?? "jsonl", out var known))
            return ApiEndpoints.Problem(400, "as= is one of csv, xlsx, jsonl, xml.");
        var (who, rights) = (context.User.Identity?.Name ?? "", context.User.Rights());
        if (views.Find(name, who, rights) is not { } view)
            return ApiEndpoints.Problem(404, $"There is no view “{name}”.");
        var asked = requests.For(view.Asks, rights);
        if (asked.Fault is { } fault)
            return ApiEndpoints.Problem(409, $"The view no longer works: {fault.Says}");
        RecordColumn Column(Field f) => new(f.Key, f.Key, f.Kind, [.. f.Columns.Select(Column)]);
        List<RecordColumn> columns =
        [
            new("id", "@id", FieldKind.WholeNumber),
            new("folder", "@folder", FieldKind.Text),
            new("name", "@name", FieldKind.Text),
            .. asked.Columns.Select(Column),
        ];
        var type = asked.Type?.Code ?? "documents";
        // Into a file of ours first: a format that cannot hold it says so before anything is sent.
        var written = Path.Combine(folder.Drafts, $"view-{Guid.NewGuid():N}");
        try
        {
            RecordFiles.Write(
                written,
                known,
                type,
                columns,
                new RecordShape(),
                search
                    .All(asked.Query)
                    .Select(d =>
                    {
                        context.RequestAborted.ThrowIfCancellationRequested();
                        return new RecordRow(
                            d.Id,
                            [$"{d.Id}", d.Folder ?? "", d.Name ?? "", .. asked.Columns.Select(f => d.Record.GetValueOrDefault(f.Key, ""))]
                        );
                    })
            );
        }
        catch (Exception e)
        {
            File.Delete(written);
            if (e is InvalidDataException)
                return ApiEndpoints.Problem(409, e.Message);
            throw;
        }
        ledger.Exported(who, $"the view {view.Name}", new LedgerSubject(SubjectKind.Type, type));
        return Results.File(
            new FileStream(written, FileMode.Open, FileAccess.Read, FileShare.Read, 1 << 16, FileOptions.DeleteOnClose),
            known switch
            {
                RecordFormat.Csv => "text/csv; charset=utf-8",
                RecordFormat.Xlsx => "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
                RecordFormat.Xml => "application/xml",
                _ => "application/x-ndjson",
            },
            $"{DataFolder.SafeName(view.Name)}{RecordFiles.Extension(known)}"
        );
    }

    private static IResult At(string type, HttpContext context, [FromServices] SearchRequests requests, [FromServices] FiledSearch search)
    {
        var rights = context.User.Rights();
        var asked = requests.At(type, context.Request.Query.SelectMany(q => q.Value.Select(v => (q.Key, v ?? ""))), rights);
        if (!asked.Ok)
            return ApiEndpoints.Problem(404, asked.Problem!);
        var found = search.First(requests.For(asked.Value!, rights).Query, MostFound);
        return found.Count == 0
            ? ApiEndpoints.Problem(404, $"No filed document is found where {asked.Value!.Ask}.")
            : Results.Ok(found.Select(d => new FoundAnswer(d.Id, d.Folder!, d.Name!, $"/Repository/Document/{d.Id}")));
    }

    // Whoever may see the value may see its place, and nothing else of the page.
    private static IResult Strip(
        long id,
        string field,
        int? margin,
        HttpContext context,
        [FromServices] Designs designs,
        [FromServices] DataFolder folder,
        [FromServices] Services.Desk.DeskDocuments desk,
        [FromServices] Storage.Database database
    )
    {
        var rights = context.User.Rights();
        if (
            database.Read(c => DocumentStore.Find(c, id)) is not { TypeCode: { } code } document
            || !rights.Sees(document)
            || !desk.Sees(document, context.User.Identity?.Name ?? "")
            || !designs.Published.TryGetValue(code, out var published)
            || published.Type.Type.Find(field) is not { } known
            || !rights.Sees(known)
            || document.Evidence.GetValueOrDefault(field) is not { Page: > 0 } evidence
            || database.Read(c => DocumentStore.Pages(c, id)).Find(p => p.Number == evidence.Page) is not { } page
        )
            return ApiEndpoints.Problem(404, "There is no such value, or it was read from no place.");
        IReadOnlyList<Box> masks = rights.SeesRestricted ? [] : FullText.Redaction(document, published.Type).Masks(page.Text, page.Number);
        return Results.Bytes(
            EvidenceStrip.Png(folder.Absolute(page.Image), evidence.Box, Math.Clamp(margin ?? 8, 0, 50) / 1_000.0, masks),
            "image/png"
        );
    }
}
