using System.Text;
using System.Text.RegularExpressions;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// Pages as a reader sees them: where a line of a page ends says nothing, so a line break is one blank within text and nothing beside a
/// tag. What stands in a text area stays as it is.
/// </summary>
public sealed partial class AsRead : DelegatingHandler
{
    protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        var answer = await base.SendAsync(request, cancellationToken);
        if (answer.Content.Headers is { ContentType.MediaType: "text/html", ContentEncoding.Count: 0 })
            answer.Content = new StringContent(
                Flowing(await answer.Content.ReadAsStringAsync(cancellationToken)),
                Encoding.UTF8,
                "text/html"
            );
        return answer;
    }

    private static string Flowing(string html) =>
        Breaks()
            .Replace(
                html,
                m =>
                    m.Groups["kept"].Success ? m.Value
                    : m.Groups["before"].Value is [.., '>'] before
                        ? before + (m.Groups["after"].Value is "<" || !before.StartsWith("</", StringComparison.Ordinal) ? "" : " ")
                    : m.Groups["after"].Value == "<" && Closes(html, m.Index + m.Length) ? m.Groups["before"].Value
                    : m.Groups["before"].Value + " "
            );

    private static bool Closes(string html, int at) => html.AsSpan(at).StartsWith("</", StringComparison.Ordinal);

    [GeneratedRegex(
        @"(?<kept><textarea.*?</textarea>)|(?<before></?[a-z][^<>]*>|[^\s>])\s*\n\s*(?=(?<after><|.))",
        RegexOptions.Singleline
    )]
    private static partial Regex Breaks();
}
