using System.Net;
using System.Text.RegularExpressions;

namespace ClearLexicon.TestSupport;

/// <summary>Forms sent as a browser without scripts sends them.</summary>
public static partial class PageForms
{
    /// <summary>Posts a form with the antiforgery token of a page.</summary>
    public static async Task<HttpResponseMessage> Post(HttpClient client, string page, string address, params (string, string)[] fields)
    {
        var token = await AntiforgeryOf(client, page);
        using var form = new FormUrlEncodedContent(fields.Select(f => new KeyValuePair<string, string>(f.Item1, f.Item2)));
        using var request = new HttpRequestMessage(HttpMethod.Post, address) { Content = form };
        request.Headers.Add("X-Antiforgery", token);
        return await client.SendAsync(request);
    }

    /// <summary>The antiforgery token that a page gives its forms.</summary>
    public static async Task<string> AntiforgeryOf(HttpClient client, string page) =>
        TokenField().Match(WebUtility.HtmlDecode(await client.GetStringAsync(page))).Groups[1].Value;

    [GeneratedRegex("\"X-Antiforgery\":\"([^\"]+)\"")]
    private static partial Regex TokenField();
}
