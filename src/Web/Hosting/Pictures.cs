using System.Security.Claims;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
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
        app.MapGet("/picture/document/{id:long}/{number:int}/small", SmallDocumentPage)
            .RequireAuthorization("desk")
            .ExcludeFromDescription();
        app.MapGet("/picture/aside/{id:long}", PageAside).RequireAuthorization("desk").ExcludeFromDescription();
        app.MapGet("/picture/stack/{file:long}/{number:int}", StackPage).RequireAuthorization("desk").ExcludeFromDescription();
        app.MapGet("/picture/stack/{file:long}/{number:int}/small", SmallStackPage).RequireAuthorization("desk").ExcludeFromDescription();
        app.MapGet("/original/{id:long}", Original).ExcludeFromDescription();
        app.MapGet("/picture/sample/{id:long}", SamplePage).RequireAuthorization("design").ExcludeFromDescription();
        app.MapGet("/picture/pile/{id:long}", PilePage).RequireAuthorization("design").ExcludeFromDescription();
        app.MapGet("/file/{id:long}", FiledPdf).ExcludeFromDescription();
    }

    private static IResult DocumentPage(
        long id,
        int number,
        ClaimsPrincipal person,
        DataFolder folder,
        Designs designs,
        DeskDocuments desk,
        Database database
    )
    {
        var document = database.Read(c => DocumentStore.Find(c, id));
        var page = database.Read(c => DocumentStore.PagesAndSheet(c, id)).FirstOrDefault(p => p.Number == number);
        if (document is null || page is null || !person.Rights().Sees(document) || !desk.Sees(document, person.Identity?.Name ?? ""))
            return Results.NotFound();
        // The sheet before a document is no page of it: those who work at the desk see it.
        if (number == 0 && !person.Rights().WorksTheDesk)
            return Results.NotFound();
        return Png(page, Masks(document, page, person, designs), folder);
    }

    private static IResult SmallDocumentPage(
        long id,
        int number,
        ClaimsPrincipal person,
        DataFolder folder,
        DeskDocuments desk,
        Database database
    ) =>
        database.Read(c => (Document: DocumentStore.Find(c, id), Image: PageStore.ImageOf(c, id, number)))
            is { Document: { } document, Image: { } image }
        && desk.Sees(document, person.Identity?.Name ?? "")
            ? Small(image, folder)
            : Results.NotFound();

    private static IResult PageAside(long id, ClaimsPrincipal person, DataFolder folder, DeskDocuments desk, Database database) =>
        database.Read(c =>
            PageStore.FindAside(c, id) is { } aside ? (Document: DocumentStore.Find(c, aside.Document), aside.Image) : default
        )
            is { Document: { Filed: false } document, Image: { } image }
        && desk.Sees(document, person.Identity?.Name ?? "")
            ? Small(image, folder)
            : Results.NotFound();

    private static IResult Small(string image, DataFolder folder) =>
        PageReading.SmallOf(folder.Absolute(image)) is var small && File.Exists(small)
            ? Results.File(small, "image/jpeg")
            : Results.File(folder.Absolute(image), "image/png");

    /// <summary>What of a page is hidden from a person.</summary>
    internal static IReadOnlyList<Box> Masks(StoredDocument document, StoredPage page, ClaimsPrincipal person, Designs designs) =>
        Redaction(document, person, designs)?.Masks(page.Text, page.Number) ?? [];

    /// <summary>The picture of a page without what is hidden.</summary>
    internal static IResult Png(StoredPage page, IReadOnlyList<Box> masks, DataFolder folder) =>
        masks.Count == 0
            ? Results.File(folder.Absolute(page.Image), "image/png")
            : Results.Bytes(SearchablePdf.MaskedPng(folder.Absolute(page.Image), masks), "image/png");

    private static IResult StackPage(long file, int number, ClaimsPrincipal person, DataFolder folder, Database database) =>
        Found(file, number, person, database) is { } page ? Results.File(folder.Absolute(page.Image), "image/png") : Results.NotFound();

    private static IResult SmallStackPage(long file, int number, ClaimsPrincipal person, DataFolder folder, Database database) =>
        Found(file, number, person, database) is { } page ? Small(page.Image, folder) : Results.NotFound();

    private static StackedPage? Found(long file, int number, ClaimsPrincipal person, Database database) =>
        database.Read(c =>
            BatchStore.FindFile(c, file) is { } of && WaysIn.Sees(c, of.BatchId, person.Identity?.Name ?? "")
                ? StackStore.Find(c, file, number)
                : null
        );

    // The file that a document came in, byte for byte: for those from whom nothing of it is hidden.
    private static IResult Original(long id, ClaimsPrincipal person, DataFolder folder, Database database, Ledger ledger)
    {
        var document = database.Read(c => DocumentStore.Find(c, id));
        if (
            document?.SourceFile is not { } source
            || !person.Rights().Sees(document)
            || !person.Rights().SeesRestricted
            // It may hold other documents of its batch.
            || !database.Read(c => WaysIn.Sees(c, document.BatchId, person.Identity?.Name ?? ""))
            || !folder.Holds(source)
            || !File.Exists(folder.Absolute(source))
        )
            return Results.NotFound();
        var name = Path.GetFileName(folder.Absolute(source));
        ledger.Exported(person.Identity?.Name ?? "", name, LedgerSubject.Document(id), "as it came");
        return Results.File(folder.Absolute(source), "application/octet-stream", name);
    }

    private static IResult SamplePage(long id, DataFolder folder, TaughtReaders readers) =>
        readers.Sample(id) is { } sample ? Results.File(folder.Absolute(sample.Image), "image/png") : Results.NotFound();

    private static IResult PilePage(long id, DataFolder folder, PileSorting piles)
    {
        if (piles.Page(id) is not { } page)
            return Results.NotFound();
        var small = PageReading.SmallOf(folder.Absolute(page.Image));
        return File.Exists(small) ? Results.File(small, "image/jpeg") : Results.File(folder.Absolute(page.Image), "image/png");
    }

    private static IResult FiledPdf(long id, ClaimsPrincipal person, DataFolder folder, Designs designs, Database database)
    {
        if (database.Read(c => DocumentStore.Find(c, id)) is not { Filed: true, HasFile: true } document)
            return Results.NotFound();
        var pages = database.Read(c => DocumentStore.Pages(c, id));
        if (person.Rights().SeesRestricted)
            return Results.File(folder.InRepository(document.Folder!, document.Name!), "application/pdf", document.Name);
        // A file may tell more than its pages show: notes, attachments, text that nobody sees, what its metadata say. Who must not see all
        // gets what is seen, also where nothing is restricted.
        if (Redaction(document, person, designs) is not { } redaction || pages.Count == 0)
            return Results.NotFound();
        var drawn = RedactedCopy.Pages(pages, redaction, folder);
        var redacted = Path.Combine(folder.Drafts, $"redacted-{Guid.NewGuid():N}.pdf");
        RedactedCopy.Write(redacted, drawn, redaction, document.Name!);
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
