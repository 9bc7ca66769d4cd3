using System.IO.Pipelines;
using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Tests;

public class ApiTests(HarbourApp app)
{
    private const string Check = "/api/v1/document-types/vessel-call-record/check";

    private const string Sound =
        """{"call-number":"VC-2025-00001","vessel":"Grey Heron","imo":"9074729","berth":"old coal staith","arrived":"2025-03-05","gross-tonnage":1.2e3,"pilot-used":false}""";

    private static StringContent Body(string text, string media = "application/json") => new(text, Encoding.UTF8, media);

    private static async Task<JsonElement> Json(HttpResponseMessage answer) =>
        JsonDocument.Parse(await answer.Content.ReadAsStringAsync()).RootElement;

    [Fact]
    public async Task Published_types_are_listed()
    {
        var types = await Json(await app.Api().GetAsync("/api/v1/document-types"));
        // Other tests of this application publish types of their own.
        Assert.Superset(
            new HashSet<string?>
            {
                "dangerous-goods-note",
                "deep-sea-pilotage-certificate",
                "harbour-dues-statement",
                "hot-work-permit",
                "pilotage-certificate",
                "sounding-sheet",
                "vessel-call-record",
            },
            types.EnumerateArray().Select(t => t.GetProperty("code").GetString()).ToHashSet()
        );
        Assert.All(types.EnumerateArray(), t => Assert.InRange(t.GetProperty("version").GetInt32(), 1, 99));
    }

    [Fact]
    public async Task Records_are_cleaned_judged_and_named()
    {
        var bad = Sound.Replace("9074729", "9074720").Replace("\"vessel\"", "\"ship\"");
        var results = (await Json(await app.Api().PostAsync(Check, Body($$"""{"records":[{{Sound}},{{bad}},7]}""")))).GetProperty(
            "results"
        );
        Assert.Equal(
            """{"ok":true,"problems":[],"record":{"call-number":"VC-2025-00001","vessel":"Grey Heron","imo":"9074729","berth":"North Quay 1","arrived":"2025-03-05","gross-tonnage":1200,"pilot-used":false,"entered-by":"Maren Holt","entered-on":"TODAY","handling":"Open"},"folder":"Vessel calls/2025/03 March","name":"VC-2025-00001 Grey Heron"}""",
            Regex.Replace(results[0].GetRawText(), "\"entered-on\":\"[0-9-]{10}\"", "\"entered-on\":\"TODAY\"")
        );
        Assert.False(results[1].GetProperty("ok").GetBoolean());
        var problems = results[1].GetProperty("problems").EnumerateArray().ToDictionary(p => p.GetProperty("code").GetString()!);
        Assert.Equal(["check-digit", "path-hole", "required", "unknown-field"], problems.Keys.Order());
        Assert.Equal("imo", problems["check-digit"].GetProperty("field").GetString());
        Assert.Equal("must", problems["check-digit"].GetProperty("level").GetString());
        Assert.Equal("not-a-record", results[2].GetProperty("problems")[0].GetProperty("code").GetString());
    }

    [Fact]
    public async Task The_api_says_what_the_engine_says_and_knows_the_repository()
    {
        var filed = app.Get<Database>()
            .Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = "vessel-call-record" }, 1).Documents)[0];
        var result = (
            await Json(await app.Api().PostAsync(Check, Body(JsonSerializer.Serialize(new { records = new[] { filed.Record } }))))
        ).GetProperty("results")[0];
        var type = app.Get<Designs>().Published["vessel-call-record"].Type;
        var judged = app.Get<Database>()
            .Read(c =>
                RecordJudge.Judge(
                    c,
                    type,
                    RecordJudge.Texts(type, filed.Record),
                    app.Get<Designs>().Now(Core.Rules.EntryChannel.Api, "Maren Holt")
                )
            );
        Assert.Equal(
            judged.All.Select(p => p.Message),
            result.GetProperty("problems").EnumerateArray().Select(p => p.GetProperty("message").GetString())
        );
        Assert.Contains(judged.Problems, p => p.Code == "unique");
        Assert.True(result.GetProperty("ok").GetBoolean());
        Assert.EndsWith(" (2)", result.GetProperty("name").GetString());
    }

    [Fact]
    public async Task Lines_are_streamed_and_a_broken_line_stops_nothing()
    {
        var lines = new StringBuilder();
        for (var i = 0; i < 5_000; i++)
            lines.Append(i == 2_500 ? "{broken" : Sound.Replace("00001", $"{i:00000}")).Append('\n');
        var answer = await app.Api().PostAsync(Check, Body(lines.ToString(), "application/x-ndjson"));
        Assert.Equal("application/x-ndjson", answer.Content.Headers.ContentType!.MediaType);
        var results = (await answer.Content.ReadAsStringAsync())
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Select(l => JsonDocument.Parse(l).RootElement)
            .ToList();
        Assert.Equal(5_000, results.Count);
        Assert.Equal(4_999, results.Count(r => r.GetProperty("ok").GetBoolean()));
        Assert.Equal("Line 2501 is not JSON.", results[2_500].GetProperty("problems")[0].GetProperty("message").GetString());
        // Side by side, and yet in order.
        for (var i = 0; i < 5_000; i++)
            Assert.Equal(i == 2_500 ? "" : $"VC-2025-{i:00000} Grey Heron", results[i].GetProperty("name").GetString());
    }

    [Fact]
    public async Task Who_sends_one_record_at_a_time_is_answered_before_the_next()
    {
        var body = new Pipe();
        using var request = new HttpRequestMessage(HttpMethod.Post, Check)
        {
            Content = new StreamContent(body.Reader.AsStream()) { Headers = { ContentType = new("application/x-ndjson") } },
        };
        var asking = app.Api().SendAsync(request, HttpCompletionOption.ResponseHeadersRead, TestContext.Current.CancellationToken);
        using var writer = new StreamWriter(body.Writer.AsStream()) { AutoFlush = true };
        StreamReader? answers = null;
        for (var i = 1; i <= 3; i++)
        {
            await writer.WriteLineAsync(Sound.Replace("00001", $"{i:00000}"));
            answers ??= new StreamReader(await (await asking).Content.ReadAsStreamAsync(TestContext.Current.CancellationToken));
            Assert.Contains(
                $"\"name\":\"VC-2025-{i:00000} Grey Heron\"",
                await answers.ReadLineAsync(TestContext.Current.CancellationToken).AsTask().WaitAsync(TimeSpan.FromSeconds(30))
            );
        }
        await body.Writer.CompleteAsync();
        Assert.Null(await answers!.ReadLineAsync(TestContext.Current.CancellationToken));
    }

    [Theory]
    [InlineData("{", "application/json", HttpStatusCode.BadRequest)]
    [InlineData("{\"rows\":[]}", "application/json", HttpStatusCode.BadRequest)]
    [InlineData("x", "text/plain", HttpStatusCode.UnsupportedMediaType)]
    public async Task A_bad_request_is_answered_with_problem_details(string body, string media, HttpStatusCode status)
    {
        var answer = await app.Api().PostAsync(Check, Body(body, media));
        Assert.Equal(status, answer.StatusCode);
        Assert.Equal("application/problem+json", answer.Content.Headers.ContentType!.MediaType);
        Assert.NotEmpty((await Json(answer)).GetProperty("detail").GetString()!);
    }

    [Fact]
    public async Task Too_many_records_are_sent_to_the_stream_and_unknown_types_are_not_found()
    {
        var many = $$"""{"records":[{{string.Join(',', Enumerable.Repeat("{}", 10_001))}}]}""";
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, (await app.Api().PostAsync(Check, Body(many))).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await app.Api().PostAsync("/api/v1/document-types/nothing/check", Body("{}"))).StatusCode);
    }

    [Fact]
    public async Task Without_a_token_there_is_no_api_and_a_cookie_cannot_post_to_it()
    {
        var nobody = app.App.CreateClient(new() { AllowAutoRedirect = false });
        Assert.Equal(HttpStatusCode.Unauthorized, (await nobody.GetAsync("/api/v1/document-types")).StatusCode);
        nobody.DefaultRequestHeaders.Authorization = new("Bearer", "guess");
        Assert.Equal(HttpStatusCode.Unauthorized, (await nobody.PostAsync(Check, Body("{}"))).StatusCode);
        var steward = await app.SignedIn(Roles.Steward);
        Assert.Equal(HttpStatusCode.OK, (await steward.GetAsync("/api/v1/document-types/vessel-call-record/json-schema")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await steward.PostAsync(Check, Body($$"""{"records":[{{Sound}}]}"""))).StatusCode);
    }

    [Fact]
    public async Task It_is_described_by_openapi()
    {
        var answer = await app.App.CreateClient().GetAsync("/openapi/v1.json");
        var read = Microsoft.OpenApi.OpenApiDocument.Parse(await answer.Content.ReadAsStringAsync(), "json");
        Assert.Empty(read.Diagnostic!.Errors);
        Assert.Empty(read.Diagnostic.Warnings);
        // Every operation says who may call it, what may be sent and what comes back.
        foreach (var (path, item) in read.Document!.Paths)
        foreach (var (method, operation) in item.Operations!)
        {
            Assert.True(operation.Security is not null, path);
            Assert.Equal(path != "/api/v1/design/schema", operation.Security!.Count == 1);
            Assert.Equal(operation.Security.Count == 1, operation.Responses!.ContainsKey("401") && operation.Responses.ContainsKey("403"));
            // Filing says all by its address.
            Assert.Equal(
                method != HttpMethod.Get && !path.EndsWith("/file", StringComparison.Ordinal),
                operation.RequestBody?.Content?.Count > 0
            );
            Assert.True(
                operation.Responses!.First(r => r.Key[0] == '2').Value.Content is { Count: > 0 },
                $"{method} {path} says not what comes back"
            );
            Assert.All(
                operation.Responses.Where(r => r.Key[0] is '4' or '5'),
                r => Assert.Equal(["application/problem+json"], r.Value.Content!.Keys)
            );
            Assert.False(string.IsNullOrEmpty(operation.Summary));
        }
        var paths = (await Json(answer)).GetProperty("paths");
        Assert.Equal(
            [
                "/api/v1/at/{type}",
                "/api/v1/batches/{id}",
                "/api/v1/design",
                "/api/v1/design/schema",
                "/api/v1/document-types",
                "/api/v1/document-types/{code}/check",
                "/api/v1/document-types/{code}/csvw",
                "/api/v1/document-types/{code}/json-schema",
                "/api/v1/documents",
                "/api/v1/documents/{id}",
                "/api/v1/documents/{id}/file",
                "/api/v1/documents/{id}/pages/{number}",
                "/api/v1/documents/{id}/strips/{field}",
                "/api/v1/documents/{id}/values",
                "/api/v1/views/{name}",
            ],
            paths.EnumerateObject().Select(p => p.Name).Order()
        );
        Assert.True(
            paths
                .GetProperty("/api/v1/document-types/{code}/check")
                .GetProperty("post")
                .GetProperty("responses")
                .TryGetProperty("413", out _)
        );
    }
}
