using System.Security.Claims;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Hosting;

/// <summary>Page pictures and filed PDFs. Who may not see restricted values gets them blacked out, in picture and text.</summary>
public static class Pictures
{
    /// <summary>Maps the addresses.</summary>
    public static void MapPictures(this IEndpointRouteBuilder app)
    {
        app.MapGet("/picture/document/{id:long}/{number:int}", DocumentPage).ExcludeFromDescription();
        app.MapGet("/picture/sample/{id:long}", SamplePage).RequireAuthorization("design").ExcludeFromDescription();
        app.MapGet("/file/{id:long}", FiledPdf).ExcludeFromDescription();
    }

    private static IResult DocumentPage(long id, int number, ClaimsPrincipal person, DataFolder folder, Designs designs, Database database)
    {
        var document = database.Read(c => DocumentStore.Find(c, id));
        var page = database.Read(c => DocumentStore.Pages(c, id)).FirstOrDefault(p => p.Number == number);
        if (document is null || page is null || !person.Rights().Sees(document))
            return Results.NotFound();
        var masks = Redaction(document, person, designs)?.Masks(page.Text, page.Number) ?? [];
        return masks.Count == 0
            ? Results.File(folder.Absolute(page.Image), "image/png")
            : Results.Bytes(SearchablePdf.MaskedPng(folder.Absolute(page.Image), masks), "image/png");
    }

    private static IResult SamplePage(long id, DataFolder folder, TaughtReaders readers) =>
        readers.Sample(id) is { } sample ? Results.File(folder.Absolute(sample.Image), "image/png") : Results.NotFound();

    private static IResult FiledPdf(long id, ClaimsPrincipal person, DataFolder folder, Designs designs, Database database)
    {
        if (database.Read(c => DocumentStore.Find(c, id)) is not { Filed: true, WaveId: null } document)
            return Results.NotFound();
        var pages = database.Read(c => DocumentStore.Pages(c, id));
        var redaction = Redaction(document, person, designs);
        var masks = pages.Select(p => redaction?.Masks(p.Text, p.Number) ?? []).ToList();
        if (masks.All(m => m.Count == 0))
            return Results.File(folder.InRepository(document.Folder!, document.Name!), "application/pdf", document.Name);
        var redacted = Path.Combine(folder.Drafts, $"redacted-{Guid.NewGuid():N}.pdf");
        SearchablePdf.Write(redacted, [.. pages.Select((p, i) => new PdfPage(folder.Absolute(p.Image), p.Text, masks[i]))], document.Name!);
        return Results.File(
            new FileStream(redacted, FileMode.Open, FileAccess.Read, FileShare.Read, 1 << 16, FileOptions.DeleteOnClose),
            "application/pdf",
            document.Name
        );
    }

    private static Redaction? Redaction(StoredDocument document, ClaimsPrincipal person, Designs designs) =>
        !person.Rights().SeesRestricted && document.TypeCode is { } code && designs.Published.TryGetValue(code, out var published)
            ? FullText.Redaction(document, published.Type)
            : null;
}
