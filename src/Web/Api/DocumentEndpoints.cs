using System.Text.Json;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.OpenApi;

namespace ClearLexicon.Web.Api;

/// <summary>Documents over the API: brought, looked at, corrected, filed.</summary>
public static class DocumentEndpoints
{
    private const int MostFiles = 500;
    private const int LongestKey = 200;
    private const long MostValues = 4_000_000;

    /// <summary>Maps the addresses.</summary>
    public static void MapDocumentApi(this WebApplication app)
    {
        var documents = app.MapGroup("/api/v1/documents").WithTags("Documents");
        documents
            .MapPost("", BringAsync)
            .RequireAuthorization("api-bring")
            .DisableAntiforgery()
            .WithSummary("Bring files as a batch")
            .WithDescription(
                "Send multipart/form-data with any number of files, or one file as the body with its name as ?name=. ?way-in= names "
                    + "the way in. "
                    + "A delivery that is sent again under the same Idempotency-Key is the same batch."
            )
            .Takes(("multipart/form-data", JsonSchemaType.Object), ("application/octet-stream", JsonSchemaType.String))
            .Produces<BatchAnswer>(202)
            .ProducesProblem(400)
            .ProducesProblem(404)
            .ProducesProblem(413);
        documents
            .MapGet("{id:long}", Document)
            .RequireAuthorization("api-read")
            .WithSummary("A document with its values and where they were read")
            .Produces<DocumentAnswer>()
            .ProducesProblem(404);
        documents
            .MapGet("{id:long}/pages/{number:int}", DocumentPage)
            .RequireAuthorization("api-read")
            .WithSummary("A page as ALTO 4 (?as=alto), hOCR (?as=hocr) or PNG")
            .Produces<string>(200, "image/png", "application/xml", "application/xhtml+xml")
            .ProducesProblem(400)
            .ProducesProblem(404);
        documents
            .MapPut("{id:long}/values", SetValuesAsync)
            .RequireAuthorization("api-bring")
            .DisableAntiforgery()
            .WithSummary("Set values of a document on the desk")
            .WithDescription("An object of texts by field key; an empty text takes a value out. All or none are set.")
            .Takes(("application/json", JsonSchemaType.Object))
            .Produces<DocumentAnswer>()
            .ProducesProblem(400)
            .ProducesProblem(404);
        documents
            .MapPost("{id:long}/file", FileDocument)
            .RequireAuthorization("api-bring")
            .DisableAntiforgery()
            .WithSummary("File a ready document")
            .Produces<FiledAnswer>()
            .ProducesProblem(404)
            .ProducesProblem(409);
        app.MapGet("/api/v1/batches/{id:long}", Batch)
            .WithTags("Documents")
            .RequireAuthorization("api-desk")
            .WithSummary("A batch: what was read, how it was separated and why, its documents")
            .Produces<BatchAnswer>()
            .ProducesProblem(404);
    }

    // Described here and not by Accepts: the endpoint itself answers other media types, with problem details.
    private static RouteHandlerBuilder Takes(this RouteHandlerBuilder endpoint, params (string Media, JsonSchemaType Type)[] bodies) =>
        endpoint.AddOpenApiOperationTransformer(
            (operation, _, _) =>
            {
                operation.RequestBody = new OpenApiRequestBody
                {
                    Required = true,
                    Content = bodies.ToDictionary(b => b.Media, b => new OpenApiMediaType { Schema = new OpenApiSchema { Type = b.Type } }),
                };
                return Task.CompletedTask;
            }
        );

    private static string Who(HttpContext context) => context.User.Identity?.Name ?? "";

    private static async Task<IResult> BringAsync(
        HttpContext context,
        [FromQuery(Name = "way-in")] string? wayIn,
        string? name,
        [FromServices] Intake intake,
        [FromServices] WaysIn ways,
        [FromServices] Stacks stacks,
        [FromServices] Storage.Database database
    )
    {
        var who = Who(context);
        if (wayIn is not null && (ways.Find(wayIn) is not { } way || !way.SeenBy(who)))
            return ApiEndpoints.Problem(404, $"There is no way in “{wayIn}”.");
        var key = context.Request.Headers["Idempotency-Key"].ToString();
        if (key.Length > LongestKey)
            return ApiEndpoints.Problem(400, $"The Idempotency-Key is longer than {LongestKey} characters.");
        if (key.Length > 0 && database.Read(c => BatchStore.Delivered(c, who, key)) is { } before)
            return Accepted(before, who, stacks);
        List<BroughtFile> files;
        if (context.Request.HasFormContentType)
        {
            IFormCollection form;
            try
            {
                form = await context.Request.ReadFormAsync(context.RequestAborted);
            }
            catch (Exception e) when (e is InvalidDataException or BadHttpRequestException)
            {
                return ApiEndpoints.Problem(e is BadHttpRequestException { StatusCode: 413 } ? 413 : 400, "The form cannot be read.");
            }
            files = [.. form.Files.Select(f => new BroughtFile(f.FileName, f.OpenReadStream))];
        }
        else if (string.IsNullOrWhiteSpace(name))
            return ApiEndpoints.Problem(400, "Say the file’s name as ?name=, or send multipart/form-data.");
        else
            files = [new BroughtFile(name, () => context.Request.Body)];
        if (files.Count is 0 or > MostFiles)
            return ApiEndpoints.Problem(400, files.Count == 0 ? "No file was sent." : $"At most {MostFiles} files are one delivery.");
        var (isTwice, batch) = (false, 0L);
        try
        {
            (batch, _, _) = await intake.BringAsync(
                files.Count == 1 ? files[0].Name : $"{files[0].Name} and {files.Count - 1} more",
                files,
                who,
                wayIn ?? "api",
                begun: (c, id) =>
                {
                    if (key.Length > 0 && !BatchStore.Deliver(c, who, key, id))
                    {
                        isTwice = true;
                        throw new InvalidOperationException("The same delivery is under way.");
                    }
                }
            );
        }
        catch (InvalidOperationException) when (isTwice)
        {
            batch = database.Read(c => BatchStore.Delivered(c, who, key)) ?? 0;
        }
        return Accepted(batch, who, stacks);
    }

    private static IResult Accepted(long batch, string who, Stacks stacks) =>
        stacks.Look(batch, who) is { } stack
            ? Results.Accepted($"/api/v1/batches/{batch}", Answer(stack))
            : ApiEndpoints.Problem(404, "There is no such batch.");

    private static IResult Batch(long id, HttpContext context, [FromServices] Stacks stacks) =>
        stacks.Look(id, Who(context)) is { } stack ? Results.Ok(Answer(stack)) : ApiEndpoints.Problem(404, "There is no such batch.");

    private static BatchAnswer Answer(StackView stack) =>
        new(
            stack.Batch.Id,
            stack.Batch.State == BatchState.Open
            && (stack.Reading > 0 || stack.Files.Values.Any(f => f is { State: FileState.Taken, Separated: false }))
                ? "reading"
                : Sql.Code(stack.Batch.State),
            stack.Batch.WayIn,
            [.. stack.Files.Values.Select(f => new BatchFileAnswer(f.Name, Sql.Code(f.State), f.Pages, f.Message))],
            [
                .. stack.Pages.Select(
                    (p, i) =>
                        new BatchPageAnswer(
                            stack.Files[p.FileId].Name,
                            p.Number,
                            stack.Plan.Pages[i].Cut,
                            stack.Plan.Pages[i].Gone,
                            stack.Plan.Pages[i].Doubt,
                            p.DocumentId
                        )
                ),
            ],
            [.. stack.Pages.Select(p => p.DocumentId).OfType<long>().Distinct()]
        );

    private static JudgedDocument? Seen(long id, HttpContext context, DeskDocuments desk) =>
        desk.Find(id, Who(context)) is { } judged && context.User.Rights().Sees(judged.Document) ? judged : null;

    private static IResult Document(long id, HttpContext context, [FromServices] DeskDocuments desk, [FromServices] Accounts people) =>
        Seen(id, context, desk) is { } judged
            ? Results.Ok(Answer(judged, context.User.Rights(), desk.Pages(id).Count, people.LanguageOf(Who(context))))
            : NoDocument();

    private static DocumentAnswer Answer(JudgedDocument judged, Rights rights, int pages, string language)
    {
        var document = judged.Document;
        var type = judged.Published?.Type.Type;
        // What stood on the page around an open value may hold a restricted one.
        Func<string, bool> hides =
            rights.SeesRestricted ? _ => false
            : judged.Published is { } published ? FullText.Redaction(document, published.Type).Hides
            : _ => true;
        ValueAnswer Value(string key, string text) =>
            new(
                text,
                document.Evidence.GetValueOrDefault(key) is { Raw.Length: > 0 } e
                    ? new EvidenceAnswer(
                        e.Page,
                        [e.Box.X, e.Box.Y, e.Box.W, e.Box.H],
                        hides(e.Raw) ? "" : e.Raw,
                        e.Confidence,
                        e.IsSure,
                        e.Method
                    )
                    : null
            );
        return new DocumentAnswer(
            document.Id,
            document.Filed ? "filed" : "desk",
            document.TypeCode,
            document.BatchId,
            pages,
            document.Record.Where(v => rights.Sees(type?.Find(v.Key))).ToDictionary(v => v.Key, v => Value(v.Key, v.Value)),
            [
                // A message may quote a restricted value.
                .. (rights.SeesRestricted ? judged.Judged?.All ?? [] : [])
                    .Where(p => !judged.Overridden.Contains(p.Id))
                    .Select(p => new DocumentProblem(p.Code, p.Level.ToString().ToLowerInvariant(), p.Field, p.In(language))),
            ],
            document.Folder ?? judged.Judged?.Placement.Folder,
            document.Name ?? judged.Judged?.Placement.Name
        );
    }

    private static IResult DocumentPage(
        long id,
        int number,
        [FromQuery(Name = "as")] string? form,
        HttpContext context,
        [FromServices] DeskDocuments desk,
        [FromServices] Designs designs,
        [FromServices] DataFolder folder
    )
    {
        if (Seen(id, context, desk) is not { } judged || desk.Pages(id).FirstOrDefault(p => p.Number == number) is not { } page)
            return NoDocument();
        // Who may not see restricted values gets neither the words nor the ink of them.
        var masks = Pictures.Masks(judged.Document, page, context.User, designs);
        var shown = page.Text with { Words = [.. page.Text.Words.Where(w => !masks.Any(m => m.Overlaps(w.Box)))] };
        var picture = $"{id}-{number}.png";
        return form?.ToLowerInvariant() switch
        {
            "alto" => Results.Text(RecognisedText.WriteAlto(shown, picture), "application/xml"),
            "hocr" => Results.Text(RecognisedText.WriteHocr(shown, picture), "application/xhtml+xml"),
            null or "png" => Pictures.Png(page, masks, folder),
            _ => ApiEndpoints.Problem(400, "A page is given as png, alto or hocr."),
        };
    }

    private static async Task<IResult> SetValuesAsync(
        long id,
        HttpContext context,
        [FromServices] DeskDocuments desk,
        [FromServices] Accounts people
    )
    {
        if (Seen(id, context, desk) is null)
            return NoDocument();
        if (context.Request.ContentLength > MostValues)
            return ApiEndpoints.Problem(413, $"The body is larger than {MostValues / 1_000_000} MB.");
        Dictionary<string, string>? values;
        try
        {
            values = await JsonSerializer.DeserializeAsync<Dictionary<string, string>>(
                context.Request.Body,
                cancellationToken: context.RequestAborted
            );
        }
        catch (JsonException e)
        {
            return ApiEndpoints.Problem(
                400,
                $"The body is no JSON object of texts: line {e.LineNumber + 1}, position {e.BytePositionInLine + 1}."
            );
        }
        if (values is null)
            return ApiEndpoints.Problem(400, "The body must be a JSON object of texts by field key.");
        return desk.SetValues(id, values, Who(context)) is { Ok: false } refused
            ? ApiEndpoints.Problem(400, refused.Problem!)
            : Document(id, context, desk, people);
    }

    private static IResult FileDocument(long id, HttpContext context, [FromServices] DeskDocuments desk, [FromServices] Filer filer)
    {
        if (Seen(id, context, desk) is null)
            return NoDocument();
        var filed = filer.File(id, Who(context));
        return filed.Ok ? Results.Ok(new FiledAnswer(filed.Value!)) : ApiEndpoints.Problem(409, filed.Problem!);
    }

    private static IResult NoDocument() => ApiEndpoints.Problem(404, "There is no such document or page.");
}
