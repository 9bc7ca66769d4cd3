using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;

namespace ClearLexicon.Web.Forms;

/// <summary>How a value is found, as its form writes and reads it; several words or headings stand on a line each.</summary>
public static class FinderForm
{
    private const string Heading = "heading.";

    /// <summary>The blanks filled with a finder.</summary>
    public static Form Write(Finder finder)
    {
        var form = new Form();
        form.Put("finder", finder.Key);
        form.Put("kind", finder.Kind);
        form.Put("words", Lines(finder.Words));
        form.Put("side", finder.Side.ToString());
        form.Put("shape", finder.Shape);
        form.Put("pattern", finder.Pattern);
        form.Put("which", finder.Which.ToString());
        form.Put("page", finder.Page?.ToString(CultureInfo.InvariantCulture));
        form.Put("list", finder.List);
        form.Put("left-out", Lines(finder.LeftOut));
        form.Put("text", finder.Text);
        foreach (var column in finder.Columns)
            form.Put(Heading + column.Column, Lines(column.Headings));
        return form;
    }

    /// <summary>The finder that a form gives; what cannot be read is noted in the form.</summary>
    public static Finder Read(Form form)
    {
        int? page = null;
        if (form.Text("page") is { } typed)
        {
            if (int.TryParse(typed, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number))
                page = number;
            else
                form.Refuse("page", $"“{typed}” is not a page number; -1 is the last page.");
        }
        return new Finder(form.Text("finder") ?? "", form.Text("kind") ?? "")
        {
            Words = Many(form, "words"),
            Side = form.Choice("side", Side.Right),
            Shape = form.Text("shape") ?? "",
            Pattern = form["pattern"].Text,
            Which = form.Choice("which", Which.First),
            Page = page,
            List = form.Text("list") ?? "",
            LeftOut = Many(form, "left-out"),
            Text = form.Text("text") ?? "",
            Columns =
            [
                .. form
                    .Names.Where(n => n.StartsWith(Heading, StringComparison.Ordinal))
                    .Select(n => new RowColumn(n[Heading.Length..], Many(form, n)))
                    .Where(c => c.Headings.Count > 0),
            ],
        };
    }

    private static string Lines(IEnumerable<string> words) => string.Join('\n', words);

    private static IReadOnlyList<string> Many(Form form, string name) =>
        form[name].Text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
}
