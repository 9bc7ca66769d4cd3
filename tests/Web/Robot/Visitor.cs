using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>What came back.</summary>
/// <param name="Status">Status, after redirects.</param>
/// <param name="Address">Where it ended.</param>
/// <param name="Page">The page as it stands now: the answer, or the page into which it was swapped; null when it is no page.</param>
internal sealed record Answer(HttpStatusCode Status, string Address, IHtmlDocument? Page);

/// <summary>
/// Somebody with a browser and no screen: opens pages, presses what is on them as a browser with the application's scripts would, and swaps
/// what comes back as the page's attributes say.
/// </summary>
internal sealed class Visitor(HttpClient client)
{
    private static readonly HtmlParser Parser = new();

    /// <summary>Opens a page.</summary>
    public async Task<Answer> Open(string address)
    {
        using var answer = await client.GetAsync(address);
        return await Read(answer);
    }

    /// <summary>Presses something with what is typed.</summary>
    /// <param name="page">The page it is on.</param>
    /// <param name="address">Address of that page.</param>
    /// <param name="act">What is pressed.</param>
    /// <param name="typed">What each blank sends.</param>
    /// <param name="files">What each blank for files sends.</param>
    public async Task<Answer> Press(
        IHtmlDocument page,
        string address,
        Act act,
        IReadOnlyList<KeyValuePair<string, string>> typed,
        IReadOnlyList<(string Name, string FileName, byte[] Content)> files
    )
    {
        var sent = typed.ToList();
        if (act.ByScript && Act.Inherited(act.Element, "hx-vals") is { Value: var vals } && vals != "unset")
            foreach (var pair in JsonDocument.Parse(vals).RootElement.EnumerateObject().Where(p => act.Sends(p.Name)))
                sent.Add(new(pair.Name, pair.Value.ToString()));
        var to = act.Address.Length == 0 ? address : Resolved(address, act.Address);
        using var request = new HttpRequestMessage(new HttpMethod(act.Verb), to);
        if (act.Verb == "GET")
        {
            var query = await new FormUrlEncodedContent(sent).ReadAsStringAsync();
            // A browser puts a form in place of the query, htmx adds to it.
            var bare = act.ByScript ? to : to.Split('?')[0];
            request.RequestUri = new Uri(query.Length == 0 ? bare : bare + (bare.Contains('?') ? '&' : '?') + query, UriKind.Relative);
        }
        else if (
            files.Count > 0
            || (act.Form?.GetAttribute("enctype") ?? Act.Inherited(act.Element, "hx-encoding")?.Value) == "multipart/form-data"
        )
        {
            var content = new MultipartFormDataContent();
            foreach (var (name, value) in sent)
                content.Add(new StringContent(value), name);
            foreach (var (name, fileName, bytes) in files)
                content.Add(
                    new ByteArrayContent(bytes) { Headers = { ContentType = new MediaTypeHeaderValue("application/octet-stream") } },
                    name,
                    fileName
                );
            request.Content = content;
        }
        else
            request.Content = new FormUrlEncodedContent(sent);
        if (act.ByScript)
        {
            request.Headers.Add("HX-Request", "true");
            if (page.Body!.GetAttribute("hx-headers") is { } headers)
                foreach (var pair in JsonDocument.Parse(headers).RootElement.EnumerateObject())
                    request.Headers.Add(pair.Name, pair.Value.ToString());
        }
        using var answer = await client.SendAsync(request);
        var read = await Read(answer);
        // What an answer brings takes its place on the page it was asked from.
        return act.ByScript && read.Page is { } came && (int)answer.StatusCode < 400
            ? read with
            {
                Address = came.QuerySelector("body > header.bar") is null ? address : read.Address,
                Page = Swapped(page, act, came, read.Status),
            }
            : read;
    }

    // As htmx does: the piece that is asked for takes the place of the target.
    private static IHtmlDocument Swapped(IHtmlDocument page, Act act, IHtmlDocument came, HttpStatusCode status)
    {
        var how = (Act.Inherited(act.Element, "hx-swap")?.Value ?? "innerHTML").Split(' ')[0];
        if (status == HttpStatusCode.NoContent || how == "none")
            return page;
        var target = Act.Inherited(act.Element, "hx-target") switch
        {
            null => act.Element,
            ("this", var at) => at,
            (var css, _) when css.StartsWith("closest ", StringComparison.Ordinal) => act.Element.Closest(css[8..]),
            (var css, _) when css.StartsWith("find ", StringComparison.Ordinal) => act.Element.QuerySelector(css[5..]),
            ("next", _) => act.Element.NextElementSibling,
            (var css, _) => page.QuerySelector(css),
        };
        if (target is null)
            throw new SwapException($"{act.Words} has no target {Act.Inherited(act.Element, "hx-target")?.Value}");
        var select = Act.Inherited(act.Element, "hx-select")?.Value;
        var whole = came.QuerySelector("body > header.bar") is not null;
        if (whole && select is null or "unset")
            throw new SwapException($"{act.Words} puts a whole page into {target.LocalName}#{target.Id}");
        var pieces = select is null or "unset" ? came.Body!.ChildNodes.ToList() : came.QuerySelectorAll(select).Cast<INode>().ToList();
        if (select is not null and not "unset" && pieces.Count == 0)
            throw new SwapException($"{act.Words} finds no {select} in the answer");
        // The part that nearly every act brings anew: what came is the page as it stands then.
        if (whole && select == "#sheet" && target.Id == "sheet" && how == "outerHTML")
            return came;
        var into = page.Clone() as IHtmlDocument ?? throw new InvalidOperationException();
        var place = into.QuerySelector(PathOf(target)) ?? throw new SwapException($"{act.Words}: its target cannot be found again");
        var made = pieces.Select(p => into.Import(p, true)).ToArray();
        switch (how)
        {
            case "outerHTML":
                place.Replace(made);
                break;
            case "innerHTML":
                place.ReplaceChildren(made);
                break;
            case "beforeend":
                place.Append(made);
                break;
            case "afterend":
                place.After(made);
                break;
            default:
                throw new SwapException($"{act.Words} swaps by {how}, which is not known here");
        }
        return into;
    }

    // An element by its places among its siblings.
    private static string PathOf(IElement element)
    {
        var steps = new List<string>();
        for (var at = element; at.ParentElement is { } parent; at = parent)
            steps.Add($"{at.LocalName}:nth-child({parent.Children.Index(at) + 1})");
        steps.Reverse();
        return steps.Count == 0 ? "html" : "html > " + string.Join(" > ", steps);
    }

    private static async Task<Answer> Read(HttpResponseMessage answer)
    {
        var html = answer.Content.Headers.ContentType?.MediaType == "text/html";
        return new Answer(
            answer.StatusCode,
            answer.RequestMessage!.RequestUri!.PathAndQuery,
            html ? await Parser.ParseDocumentAsync(await answer.Content.ReadAsStringAsync()) : null
        );
    }

    /// <summary>An address of a page as a browser makes it whole.</summary>
    public static string Resolved(string page, string address) => new Uri(new Uri("http://localhost" + page), address).PathAndQuery;
}

/// <summary>What a page asks htmx to do with an answer cannot be done.</summary>
internal sealed class SwapException(string message) : Exception(message);
