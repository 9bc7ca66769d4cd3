using System.Net;
using System.Net.Http.Headers;
using System.Text;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>Pages of Design as a steward gets them without a browser, over a document type of the test's own.</summary>
public abstract class DesignPages(HarbourApp app) : IAsyncLifetime
{
    private static int _made;

    protected HarbourApp App => app;

    protected HttpClient Steward { get; private set; } = null!;

    /// <summary>Code of the document type.</summary>
    protected string Code { get; private set; } = "";

    protected DocumentType Draft => app.Get<Designs>().Find(Code)!.Draft;

    public async ValueTask InitializeAsync()
    {
        Steward = await app.SignedIn(Roles.Steward);
        Code = app.Get<Drafts>().Create($"Depth {Interlocked.Increment(ref _made)}", "test").Value!;
    }

    public ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        return ValueTask.CompletedTask;
    }

    protected async Task<string> At(string page, string address, params (string, string)[] fields)
    {
        var answer = await PageForms.Post(Steward, page, address, fields);
        return answer.StatusCode == HttpStatusCode.Redirect
            ? answer.Headers.Location!.OriginalString
            : WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
    }

    protected Task<string> Send(string handler, params (string, string)[] fields) =>
        At($"/Design/Type/{Code}", $"/Design/Type/{Code}?handler={handler}", fields);

    protected async Task<string> Page(string address) => WebUtility.HtmlDecode(await Steward.GetStringAsync(address));

    protected async Task<string> Upload(string page, string name, string text)
    {
        var token = System.Text.RegularExpressions.Regex.Match(await Page(page), "\"X-Antiforgery\":\"([^\"]+)\"").Groups[1].Value;
        using var form = new MultipartFormDataContent();
        var file = new ByteArrayContent(Encoding.UTF8.GetBytes(text));
        file.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        form.Add(file, "file", name);
        using var request = new HttpRequestMessage(HttpMethod.Post, page) { Content = form };
        request.Headers.Add("X-Antiforgery", token);
        return WebUtility.HtmlDecode(await (await Steward.SendAsync(request)).Content.ReadAsStringAsync());
    }

    protected static string Ticket(string page) =>
        System.Text.RegularExpressions.Regex.Match(page, "name=\"ticket\" value=\"([0-9a-f]+)\"").Groups[1].Value;
}
