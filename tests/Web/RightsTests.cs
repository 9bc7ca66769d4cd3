using System.Net;
using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// Who may do what: one line a page handler and API verb in rights.txt. A handler without a line fails, as does a line without a handler;
/// every role that a line does not name is sent there and has to be refused, every one it names has to be let in.
/// </summary>
public sealed class RightsTests(HarbourApp app)
{
    private sealed record Way(string Verb, string Path, string Handler, Endpoint Endpoint)
    {
        public override string ToString() => $"{Verb} {Path}{(Handler.Length > 0 ? " " + Handler : "")}";
    }

    private static readonly string File = Path.Combine(SourceTree.Root, "tests/Web/rights.txt");

    private async Task<List<Way>> Ways()
    {
        var loader = app.Get<PageLoader>();
        var ways = new List<Way>();
        foreach (var endpoint in app.Get<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>())
        {
            var path = "/" + endpoint.RoutePattern.RawText!.Trim('/');
            if (endpoint.Metadata.GetMetadata<PageActionDescriptor>() is { } page)
            {
                var compiled = await loader.LoadAsync(page, endpoint.Metadata);
                // “/Desk” and “/Desk/Index” are one page.
                if (path.EndsWith("/Index", StringComparison.Ordinal) || path == "/Index")
                    continue;
                ways.AddRange(
                    compiled.HandlerMethods.Select(h => new Way(
                        h.HttpMethod.ToUpperInvariant(),
                        path,
                        h.Name ?? "",
                        compiled.Endpoint ?? endpoint
                    ))
                );
            }
            else if (endpoint.Metadata.GetMetadata<IHttpMethodMetadata>() is { } methods)
                ways.AddRange(methods.HttpMethods.Select(m => new Way(m, path, "", endpoint)));
        }
        return
        [
            .. ways.DistinctBy(w => w.ToString())
                .OrderBy(w => w.Path, StringComparer.Ordinal)
                .ThenBy(w => w.Verb, StringComparer.Ordinal)
                .ThenBy(w => w.Handler, StringComparer.Ordinal),
        ];
    }

    private static Dictionary<string, string[]> Lines() =>
        System
            .IO.File.ReadAllLines(File)
            .Where(l => l.Length > 0 && l[0] != '#')
            .ToDictionary(
                l => l[..l.LastIndexOf(':')],
                l => l[(l.LastIndexOf(':') + 1)..].Split(' ', StringSplitOptions.RemoveEmptyEntries)
            );

    [Fact]
    public async Task Every_way_in_has_a_line_and_every_line_a_way()
    {
        var ways = (await Ways()).Select(w => w.ToString()).ToList();
        Assert.Equal(ways.Order(StringComparer.Ordinal), Lines().Keys.Order(StringComparer.Ordinal));
    }

    [Fact]
    public async Task Whoever_a_line_does_not_name_is_refused_and_whoever_it_names_is_not()
    {
        var lines = Lines();
        var database = app.Get<Database>();
        var (filed, desk) = database.Read(c =>
            (
                c.Scalar<long>("SELECT min(id) FROM documents WHERE state = 'filed' AND wave_id IS NULL"),
                c.Scalar<long>("SELECT min(id) FROM documents WHERE state <> 'filed'")
            )
        );
        var reader = database.Read(ReaderStore.All)[0].Key;
        string Address(Way way)
        {
            var path = System.Text.RegularExpressions.Regex.Replace(
                way.Path,
                @"\{([^}:?]+)[^}]*\}",
                m =>
                    m.Groups[1].Value switch
                    {
                        "id" => way.Path.StartsWith("/Desk", StringComparison.Ordinal) ? $"{desk}"
                        : way.Path.StartsWith("/Migration", StringComparison.Ordinal) ? "1"
                        : $"{filed}",
                        "number" => "1",
                        "code" => "vessel-call-record",
                        "key" => way.Path.StartsWith("/Design/Table", StringComparison.Ordinal) ? "vessel-register"
                        : way.Path.StartsWith("/Readers", StringComparison.Ordinal) ? reader
                        : "berths",
                        _ => "1",
                    }
            );
            // Values that a handler cannot do without, so that it is asked at all.
            return $"{path}?handler={way.Handler}&field=agent&move=1&run=1&wave=1";
        }
        var clients = new Dictionary<string, HttpClient>
        {
            ["nobody"] = app.App.CreateClient(new() { AllowAutoRedirect = false, HandleCookies = true }),
        };
        foreach (var role in Roles.All)
            clients[role] = await app.SignedIn(role);
        var tokens = new Dictionary<string, string>();
        foreach (var (role, client) in clients)
            tokens[role] = System
                .Text.RegularExpressions.Regex.Match(
                    WebUtility.HtmlDecode(await client.GetStringAsync(role == "nobody" ? "/SignIn" : "/Person")),
                    "\"X-Antiforgery\":\"([^\"]+)\""
                )
                .Groups[1]
                .Value;
        var (wrong, asked) = (new List<string>(), 0);
        foreach (var way in await Ways())
        {
            var named = lines[way.ToString()];
            foreach (var (role, client) in clients)
            {
                var mayEnter = named.Contains(role) || named.Contains("everybody");
                // Who is let in is not sent to write: the line is held against what the address asks for.
                if (mayEnter && way.Verb != "GET")
                {
                    if (role != "nobody" && !await Admits(way, role))
                        wrong.Add($"{way} shuts out {role}");
                    continue;
                }
                if (mayEnter && way.Handler.Length > 0)
                    continue;
                asked++;
                using var request = new HttpRequestMessage(new HttpMethod(way.Verb), Address(way));
                request.Headers.Add("X-Antiforgery", tokens[role]);
                if (way.Verb != "GET")
                    request.Content = new FormUrlEncodedContent([]);
                using var answer = await client.SendAsync(request);
                var refused =
                    answer.StatusCode is HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden
                    || answer.StatusCode is HttpStatusCode.Redirect
                        && answer.Headers.Location?.ToString() is { } to
                        && (to.Contains("/SignIn", StringComparison.Ordinal) || to.StartsWith("/Error", StringComparison.Ordinal))
                    // What is not there for somebody is not told apart from what is closed to them.
                    || answer.StatusCode is HttpStatusCode.NotFound && way.Path.StartsWith("/picture/document", StringComparison.Ordinal);
                if (refused == mayEnter)
                    wrong.Add($"{way} as {role}: {(int)answer.StatusCode} {answer.Headers.Location}");
            }
        }
        Assert.Equal("", string.Join('\n', wrong));
        Assert.True(asked > 400, $"only {asked} were asked");
    }

    private async Task<bool> Admits(Way way, string role)
    {
        var asked = way.Endpoint.Metadata.GetOrderedMetadata<IAuthorizeData>();
        // The API's tokens have tests of their own.
        if (way.Path.StartsWith("/api/", StringComparison.Ordinal) || asked.Count == 0)
            return true;
        var policy = await AuthorizationPolicy.CombineAsync(app.Get<IAuthorizationPolicyProvider>(), asked);
        var person = app.Get<Accounts>().All().First(p => p.Roles.SequenceEqual([role]));
        return (await app.Get<IAuthorizationService>().AuthorizeAsync(Hosting.Sessions.Principal(person, "Cookies"), policy!)).Succeeded;
    }
}
