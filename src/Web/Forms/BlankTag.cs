using Microsoft.AspNetCore.Razor.TagHelpers;

namespace ClearLexicon.Web.Forms;

/// <summary>An input that shows a <see cref="Forms.Blank"/>: its name, what stands in it, and what is wrong with it.</summary>
[HtmlTargetElement("input", Attributes = "blank", TagStructure = TagStructure.WithoutEndTag)]
public sealed class BlankTag : TagHelper
{
    /// <summary>The blank.</summary>
    public required Blank Blank { get; set; }

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.Attributes.SetAttribute("name", Blank.Name);
        if (output.Attributes["type"]?.Value?.ToString() == "checkbox")
        {
            if (Blank.Ticked)
                output.Attributes.SetAttribute(new TagHelperAttribute("checked"));
            return;
        }
        output.Attributes.SetAttribute("value", Blank.Text);
        if (Blank.Problem is null)
            return;
        var id = $"{output.Attributes["id"]?.Value}-problem";
        output.Attributes.SetAttribute("aria-invalid", "true");
        output.Attributes.SetAttribute("aria-describedby", id);
        output.PostElement.AppendHtml($"<span class=\"said small d-block\" id=\"{id}\">").Append(Blank.Problem).AppendHtml("</span>");
    }
}
