using System.Text.Json;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Mvc;
using Microsoft.OpenApi;

namespace ClearLexicon.Web.Api;

/// <summary>A document type as the API lists it.</summary>
/// <param name="Code">Its code in addresses.</param>
/// <param name="Name">Its name.</param>
/// <param name="Version">Newest published version.</param>
/// <param name="Fields">Keys of its fields in order.</param>
public sealed record DocumentTypeAnswer(string Code, string Name, int Version, IReadOnlyList<string> Fields);

/// <summary>The API, version 1: document types, their JSON Schema, and the engine's verdict on records.</summary>
public static class ApiEndpoints
{
    /// <summary>Most records of one JSON request; more go as application/x-ndjson, which is streamed.</summary>
    public const int MaxRecords = 10_000;

    /// <summary>Largest body of one JSON request or design file, in bytes.</summary>
    public const int MaxJsonBytes = 64_000_000;

    /// <summary>Tokens, problem details (RFC 9457) and the OpenAPI description.</summary>
    public static void AddApi(this IServiceCollection services)
    {
        services.AddProblemDetails();
        services.AddOpenApi(
            "v1",
            o =>
                o.AddDocumentTransformer(
                        (document, _, _) =>
                        {
                            document.Info.Title = "Clear Lexicon";
                            document.Info.Description =
                                "Checks records against published document types. Send a bearer token from People and tokens. "
                                + "Keys are field keys; dates are ISO 8601; a term is its preferred label, a variant or its code.";
                            document.Components ??= new OpenApiComponents();
                            document.Components.SecuritySchemes = new Dictionary<string, IOpenApiSecurityScheme>
                            {
                                ["token"] = new OpenApiSecurityScheme
                                {
                                    Type = SecuritySchemeType.Http,
                                    Scheme = "bearer",
                                    Description = "A token with the scope that an address asks for: check, read or design.",
                                },
                            };
                            return Task.CompletedTask;
                        }
                    )
                    .AddOperationTransformer(
                        (operation, context, _) =>
                        {
                            var asked = context.Description.ActionDescriptor.EndpointMetadata;
                            if (asked.OfType<Microsoft.AspNetCore.Authorization.IAllowAnonymous>().Any())
                                operation.Security = [];
                            else
                            {
                                operation.Security =
                                [
                                    new OpenApiSecurityRequirement { [new OpenApiSecuritySchemeReference("token", context.Document)] = [] },
                                ];
                                operation.Responses!.TryAdd("401", Problem("No token, or one that is withdrawn or has expired."));
                                operation.Responses.TryAdd("403", Problem("The token has not the scope, or its person not the role."));
                            }
                            operation.Responses!.TryAdd("429", Problem("Too many requests."));
                            operation.Responses.TryAdd("503", Problem("Somebody else writes; try again."));
                            return Task.CompletedTask;

                            static OpenApiResponse Problem(string why) =>
                                new()
                                {
                                    Description = why,
                                    Content = new Dictionary<string, OpenApiMediaType> { ["application/problem+json"] = new() },
                                };
                        }
                    )
        );
        services
            .AddAuthentication()
            .AddScheme<Microsoft.AspNetCore.Authentication.AuthenticationSchemeOptions, TokenHandler>(TokenHandler.SchemeName, null);
        services
            .AddAuthorizationBuilder()
            .AddPolicy(
                "api",
                p =>
                    p.AddAuthenticationSchemes(TokenHandler.SchemeName)
                        .RequireAuthenticatedUser()
                        .RequireAssertion(c => For(c.User, Scopes.Check))
            )
            .AddPolicy(
                "api-design",
                p =>
                    p.AddAuthenticationSchemes(TokenHandler.SchemeName, CookieAuthenticationDefaults.AuthenticationScheme)
                        .RequireRole(Roles.Steward)
                        .RequireAssertion(c => For(c.User, Scopes.Design))
            )
            .AddPolicy(
                "api-bring",
                p =>
                    p.AddAuthenticationSchemes(TokenHandler.SchemeName)
                        .RequireRole(Roles.Steward, Roles.Indexer)
                        .RequireAssertion(c => For(c.User, Scopes.Bring))
            )
            .AddPolicy(
                "api-desk",
                p =>
                    p.AddAuthenticationSchemes(TokenHandler.SchemeName, CookieAuthenticationDefaults.AuthenticationScheme)
                        .RequireRole(Roles.Steward, Roles.Indexer)
                        .RequireAssertion(c => For(c.User, Scopes.Read) || For(c.User, Scopes.Bring))
            )
            .AddPolicy(
                "api-read",
                p =>
                    p.AddAuthenticationSchemes(TokenHandler.SchemeName, CookieAuthenticationDefaults.AuthenticationScheme)
                        .RequireAuthenticatedUser()
                        .RequireAssertion(c => For(c.User, Scopes.Read))
            );
    }

    // Who came by cookie has no scopes and is bound by roles alone.
    private static bool For(System.Security.Claims.ClaimsPrincipal person, string scope) =>
        !person.HasClaim(c => c.Type == TokenHandler.Scope) || person.HasClaim(TokenHandler.Scope, scope);

    /// <summary>Maps the addresses.</summary>
    public static void MapApi(this WebApplication app)
    {
        app.MapOpenApi().AllowAnonymous();
        // An address that there is not is told as such, also to who has no token.
        app.MapFallback("/api/{**rest}", () => Results.Problem("There is no such address.", statusCode: 404)).AllowAnonymous();
        var api = app.MapGroup("/api/v1/document-types").WithTags("Document types");

        // A record is as the type's own JSON Schema says; here it is any object.
        static OpenApiSchema AnyObject() => new() { Type = JsonSchemaType.Object };

        api.MapGet(
                "",
                (Designs designs) =>
                    designs.Published.Values.Select(p => new DocumentTypeAnswer(
                        p.Type.Type.Code,
                        p.Type.Type.Name,
                        p.Version,
                        [.. p.Type.Type.Fields.Select(f => f.Key)]
                    ))
            )
            .RequireAuthorization("api-read")
            .WithSummary("Published document types");

        api.MapGet(
                "{code}/json-schema",
                (string code, bool? given, Designs designs) =>
                    designs.Published.TryGetValue(code, out var published)
                        ? Results.Text(
                            JsonSchemaExport
                                .Write(published.Type, given == true)
                                .ToJsonString(new JsonSerializerOptions { WriteIndented = true }),
                            "application/schema+json"
                        )
                        : NoSuchType(code)
            )
            .RequireAuthorization("api-read")
            .WithSummary("JSON Schema 2020-12 of one record")
            .WithDescription("As it may be sent; with given=true as a sound one is given back.")
            .Produces<object>(200, "application/schema+json")
            .ProducesProblem(404);

        api.MapGet(
                "{code}/csvw",
                (string code, Designs designs) =>
                    designs.Published.TryGetValue(code, out var published)
                        ? Results.Text(
                            CsvwExport
                                .Write(published.Type.Type, $"{code}.csv")
                                .ToJsonString(new JsonSerializerOptions { WriteIndented = true }),
                            "application/csvm+json"
                        )
                        : NoSuchType(code)
            )
            .RequireAuthorization("api-read")
            .WithSummary("CSVW metadata of exported records")
            .Produces<object>(200, "application/csvm+json")
            .ProducesProblem(404);

        api.MapPost("{code}/check", CheckAsync)
            .RequireAuthorization("api")
            .DisableAntiforgery()
            .WithSummary("What the engine says of each record")
            .WithDescription(
                "Send {\"records\":[…]} as application/json, or one record a line as application/x-ndjson, which is streamed both ways."
            )
            // Described here and not by Accepts: the endpoint itself answers other media types, with problem details.
            .AddOpenApiOperationTransformer(
                async (operation, context, cancel) =>
                {
                    var schema = await context.GetOrCreateSchemaAsync(typeof(CheckRequest), cancellationToken: cancel);
                    operation.RequestBody = new OpenApiRequestBody
                    {
                        Required = true,
                        Content = new Dictionary<string, OpenApiMediaType>
                        {
                            ["application/json"] = new() { Schema = schema },
                            ["application/x-ndjson"] = new() { Schema = AnyObject() },
                        },
                    };
                    // The stream answers one verdict a line.
                    if (operation.Responses?.GetValueOrDefault("200") is OpenApiResponse { Content: { } content })
                        content["application/x-ndjson"] = new() { Schema = AnyObject() };
                }
            )
            .Produces<CheckResponse>()
            .ProducesProblem(400)
            .ProducesProblem(401)
            .ProducesProblem(404)
            .ProducesProblem(413)
            .ProducesProblem(415);
    }

    /// <summary>Whole designs: export, schema, import.</summary>
    public static void MapDesignApi(this WebApplication app)
    {
        var design = app.MapGroup("/api/v1/design").WithTags("Design");

        design
            .MapGet(
                "",
                (bool? byReference, HttpContext context, DesignFiles files, Ledger ledger) =>
                {
                    ledger.Exported(
                        context.User.Identity?.Name ?? "",
                        "design.json",
                        new LedgerSubject(SubjectKind.Records, context.Request.Path)
                    );
                    return Results.Text(DesignFileJson.Write(files.Export(byReference == true)), "application/json");
                }
            )
            .RequireAuthorization("api-design")
            .Produces<object>(200, "application/json")
            .WithSummary("The whole design as one file")
            .WithDescription("byReference=true names vocabularies and reference tables without their contents.");

        design
            .MapGet(
                "schema",
                () =>
                    Results.Text(
                        DesignFileJson.Schema().ToJsonString(new JsonSerializerOptions { WriteIndented = true }),
                        "application/schema+json"
                    )
            )
            .AllowAnonymous()
            .Produces<object>(200, "application/schema+json")
            .WithSummary("JSON Schema 2020-12 of a design file");

        design
            .MapPut(
                "",
                async (HttpRequest request, bool? plan, DesignFiles files) =>
                {
                    if (await BodyAsync(request.HttpContext, MaxJsonBytes) is not { } body)
                        return Problem(413, $"A design file may have {MaxJsonBytes / 1_000_000} MB.");
                    var file = DesignFileJson.Read(body);
                    if (!file.Ok)
                        return Problem(400, file.Problem!);
                    var made = files.Plan(file.Value!);
                    if (plan == true)
                        return Results.Json(made);
                    if (made.Problems.Count > 0)
                        return Results.Problem(
                            "Nothing was imported.",
                            statusCode: 422,
                            extensions: new Dictionary<string, object?> { ["problems"] = made.Problems }
                        );
                    var brought = files.Import(file.Value!, request.HttpContext.User.Identity?.Name ?? "");
                    return brought.Ok ? Results.Json(made) : Problem(422, brought.Problem!);
                }
            )
            .RequireAuthorization("api-design")
            .DisableAntiforgery()
            .WithSummary("Imports a design file as a whole")
            .WithDescription("plan=true only says what would change.")
            .AddOpenApiOperationTransformer(
                (operation, _, _) =>
                {
                    operation.RequestBody = new OpenApiRequestBody
                    {
                        Required = true,
                        Description = "A design file; its schema is at /api/v1/design/schema.",
                        Content = new Dictionary<string, OpenApiMediaType>
                        {
                            ["application/json"] = new() { Schema = new OpenApiSchema { Type = JsonSchemaType.Object } },
                        },
                    };
                    return Task.CompletedTask;
                }
            )
            .Produces<DesignPlan>()
            .ProducesProblem(400)
            .ProducesProblem(413)
            .ProducesProblem(422);
    }

    private static async Task CheckAsync(
        string code,
        HttpContext context,
        [FromServices] Designs designs,
        [FromServices] Accounts people,
        [FromServices] Storage.Database database
    )
    {
        if (!designs.Published.TryGetValue(code, out var published))
        {
            await NoSuchType(code).ExecuteAsync(context);
            return;
        }
        var who = context.User.Identity?.Name ?? "";
        var (type, now, language) = (
            designs.JudgedBy(published, context.User.Rights()),
            designs.Now(EntryChannel.Api, who),
            people.LanguageOf(who)
        );
        RecordChecker Checker() => new(type, database.Connect(), now, language);
        var media = context.Request.ContentType?.Split(';')[0].Trim();
        if (string.Equals(media, "application/x-ndjson", StringComparison.OrdinalIgnoreCase))
        {
            context.Response.ContentType = "application/x-ndjson";
            using var records = new RecordStream(Checker);
            await records.RunAsync(context.Request.Body, context.Response.BodyWriter, context.RequestAborted);
        }
        else if (string.Equals(media, "application/json", StringComparison.OrdinalIgnoreCase))
        {
            using var checker = Checker();
            await AnswerAsync(context, checker);
        }
        else
            await Problem(415, "Send application/json or application/x-ndjson.").ExecuteAsync(context);
    }

    private static async Task AnswerAsync(HttpContext context, RecordChecker checker)
    {
        if (await BodyAsync(context, MaxJsonBytes) is not { } body)
        {
            await Problem(413, $"The body is larger than {MaxJsonBytes / 1_000_000} MB; send records as application/x-ndjson.")
                .ExecuteAsync(context);
            return;
        }
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(body);
        }
        catch (JsonException e)
        {
            await Problem(400, $"The body is not JSON: line {e.LineNumber + 1}, position {e.BytePositionInLine + 1}.")
                .ExecuteAsync(context);
            return;
        }
        using (document)
        {
            if (
                document.RootElement.ValueKind != JsonValueKind.Object
                || !document.RootElement.TryGetProperty("records", out var records)
                || records.ValueKind != JsonValueKind.Array
            )
            {
                await Problem(400, "The body must be an object with an array “records”.").ExecuteAsync(context);
                return;
            }
            if (records.GetArrayLength() > MaxRecords)
            {
                await Problem(413, $"{records.GetArrayLength()} records are more than {MaxRecords}; send them as application/x-ndjson.")
                    .ExecuteAsync(context);
                return;
            }
            context.Response.ContentType = "application/json";
            checker.CheckAll(records, context.Response.BodyWriter);
            await context.Response.BodyWriter.FlushAsync(context.RequestAborted);
        }
    }

    // The whole body up to a bound; null when there is more.
    private static async Task<byte[]?> BodyAsync(HttpContext context, int most)
    {
        if (context.Request.ContentLength > most)
            return null;
        using var body = new MemoryStream();
        var buffer = new byte[64 * 1024];
        for (int read; (read = await context.Request.Body.ReadAsync(buffer, context.RequestAborted)) > 0; )
        {
            if (body.Length + read > most)
                return null;
            body.Write(buffer, 0, read);
        }
        return body.ToArray();
    }

    private static IResult NoSuchType(string code) => Problem(404, $"There is no published document type “{code}”.");

    internal static IResult Problem(int status, string detail) => Results.Problem(detail, statusCode: status);
}
