using Microsoft.AspNetCore.Html;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace ClearLexicon.Web.Pages;

/// <summary>
/// A form that a script sends works before the scripts have started, and without them: it has the method, the address and the token that a
/// browser needs to send it by itself. Every handler ends in its whole page.
/// </summary>
[HtmlTargetElement("form", Attributes = Sends)]
public sealed class PostingForm(IHtmlGenerator generator) : TagHelper
{
    private const string Sends = "hx-post";

    /// <summary>The page that is being written.</summary>
    [HtmlAttributeNotBound]
    [ViewContext]
    public ViewContext ViewContext { get; set; } = null!;

    /// <summary>After the framework's own, which gives a token to forms without an address.</summary>
    public override int Order => 0;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.Attributes.SetAttribute("method", "post");
        if (string.IsNullOrEmpty(output.Attributes["action"]?.Value?.ToString()))
        {
            // An empty address would be that of the last act, its handler included.
            var sent = context.AllAttributes[Sends].Value?.ToString();
            var address = new HtmlString(string.IsNullOrEmpty(sent) ? ViewContext.HttpContext.Request.Path.ToUriComponent() : sent);
            output.Attributes.SetAttribute("action", address);
            output.Attributes.SetAttribute(Sends, address);
        }
        if (context.AllAttributes.ContainsName("hx-encoding"))
            output.Attributes.SetAttribute("enctype", "multipart/form-data");
        if (output.PostContent.IsEmptyOrWhiteSpace && generator.GenerateAntiforgery(ViewContext) is { } token)
            output.PostContent.AppendHtml(token);
    }
}
