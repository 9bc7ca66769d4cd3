using System.Globalization;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Reading;

namespace ClearLexicon.Formats;

/// <summary>A place on a page that gets a square around it.</summary>
/// <param name="Page">The page, from 1.</param>
/// <param name="Box">The place on the upright page.</param>
/// <param name="Title">What it is: the field.</param>
/// <param name="Says">What was read, and how surely.</param>
public sealed record MarkedPlace(int Page, Box Box, string Title, string Says);

/// <summary>How squares look.</summary>
/// <param name="Colour">Six hexadecimal digits, red, green, blue.</param>
/// <param name="Width">Width of the line in points, 0.25 to 10.</param>
/// <param name="Dashed">Whether the line is dashed.</param>
/// <param name="Margin">Margin around the place in points, 0 to 40.</param>
public sealed record MarkLook(string Colour, double Width, bool Dashed, double Margin)
{
    /// <summary>A thin solid line in the colour of what should be looked at.</summary>
    public static MarkLook Usual { get; } = new("B8431F", 1, false, 2);

    /// <summary>Why it cannot be drawn so; null when it can.</summary>
    public string? Finding =>
        Colour.Length != 6 || !Colour.All(char.IsAsciiHexDigit) ? "A colour is six digits, such as B8431F."
        : Width is not (>= 0.25 and <= 10) ? "A line is 0.25 to 10 points wide."
        : Margin is not (>= 0 and <= 40) ? "A margin is 0 to 40 points."
        : null;
}

/// <summary>
/// Copies of PDFs with square annotations (ISO 32000-1, 12.5.6.8) on the places of values. Pages themselves are not touched; qpdf adds the
/// annotations.
/// </summary>
public static class MarkedPdf
{
    private static readonly TimeSpan Limit = TimeSpan.FromMinutes(2);

    /// <summary>Writes the copy.</summary>
    /// <param name="source">The PDF.</param>
    /// <param name="lays">How each page lay when it came; places stand on the upright page.</param>
    /// <param name="places">The places.</param>
    /// <param name="look">How squares look.</param>
    /// <param name="target">The copy; files beside it are made and removed.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>Why not, in words; null when it was written.</returns>
    public static async Task<string?> WriteAsync(
        string source,
        IReadOnlyList<PageOrientation> lays,
        IReadOnlyList<MarkedPlace> places,
        MarkLook look,
        string target,
        CancellationToken cancel
    )
    {
        var (plain, update) = (target + ".plain.pdf", target + ".json");
        try
        {
            // As pages of a new file each page tells its own size.
            if (!await Qpdf.RunAsync(["--empty", "--pages", source, "--", plain], Limit, cancel))
                return "It cannot be read.";
            var shown = await ExternalProgram.RunAsync(
                "qpdf",
                ["--json=2", "--json-key=pages", "--json-key=qpdf", "--decode-level=none", plain],
                Limit,
                cancel
            );
            if (
                JsonNode.Parse(shown.Output) is not { } json
                || json["pages"] is not JsonArray pages
                || json["qpdf"]?[1] is not JsonObject objects
            )
                return "It cannot be read.";
            var next = json["qpdf"]![0]!["maxobjectid"]!.GetValue<int>() + 1;
            var changed = new JsonObject();
            foreach (var group in places.GroupBy(p => p.Page).Where(g => g.Key >= 1 && g.Key <= pages.Count))
            {
                var at = $"obj:{pages[group.Key - 1]!["object"]}";
                var page = objects[at]!["value"]!.DeepClone().AsObject();
                var box = Numbers(Resolved(page["/CropBox"] ?? page["/MediaBox"], objects));
                if (box.Length != 4)
                    continue;
                var turned =
                    page["/Rotate"] is JsonValue rotate && rotate.TryGetValue<int>(out var degrees) ? (degrees % 360 + 360) % 360 : 0;
                var notes = Resolved(page["/Annots"], objects)?.DeepClone() as JsonArray ?? [];
                foreach (var place in group)
                {
                    var rectangle = OnPage(place.Box, box, turned, lays.ElementAtOrDefault(group.Key - 1), look.Margin);
                    changed[$"obj:{next} 0 R"] = new JsonObject
                    {
                        ["value"] = Square(rectangle, place, look, pages[group.Key - 1]!["object"]!.ToString()),
                    };
                    notes.Add($"{next++} 0 R");
                }
                page["/Annots"] = notes;
                changed[at] = new JsonObject { ["value"] = page };
            }
            await File.WriteAllTextAsync(
                update,
                new JsonObject
                {
                    ["qpdf"] = new JsonArray(
                        new JsonObject
                        {
                            ["jsonversion"] = 2,
                            ["pushedinheritedpageresources"] = false,
                            ["calledgetallpages"] = false,
                            ["maxobjectid"] = next,
                        },
                        changed
                    ),
                }.ToJsonString(),
                cancel
            );
            return await Qpdf.RunAsync([plain, $"--update-from-json={update}", target], Limit, cancel)
                ? null
                : "The squares could not be added.";
        }
        catch (Exception e) when (e is TimeoutException or InvalidDataException)
        {
            return "It takes too long to be marked.";
        }
        finally
        {
            File.Delete(plain);
            File.Delete(update);
        }
    }

    private static JsonObject Square((double Left, double Low, double Right, double High) at, MarkedPlace place, MarkLook look, string page)
    {
        double Part(int from) =>
            Math.Round(int.Parse(look.Colour.AsSpan(from, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255.0, 3);
        var line = new JsonObject
        {
            ["/Type"] = "/Border",
            ["/W"] = look.Width,
            ["/S"] = look.Dashed ? "/D" : "/S",
        };
        if (look.Dashed)
            line["/D"] = new JsonArray(3, 2);
        return new JsonObject
        {
            ["/Type"] = "/Annot",
            ["/Subtype"] = "/Square",
            ["/Rect"] = new JsonArray(Round(at.Left), Round(at.Low), Round(at.Right), Round(at.High)),
            ["/C"] = new JsonArray(Part(0), Part(2), Part(4)),
            ["/BS"] = line,
            ["/F"] = 4,
            ["/P"] = page,
            ["/T"] = $"u:{place.Title}",
            ["/Contents"] = $"u:{place.Says}",
        };
    }

    private static double Round(double value) => Math.Round(value, 2);

    // From shares of the upright page to points of the page as it stands in the file, which its entry turns when it is shown.
    private static (double, double, double, double) OnPage(Box place, double[] box, int turned, PageOrientation lay, double margin)
    {
        var (width, height) = (box[2] - box[0], box[3] - box[1]);
        var (shownWidth, shownHeight) = turned % 180 == 0 ? (width, height) : (height, width);
        // Words stand on the straightened picture; on the page as it came they lie askew by as much as it did.
        var angle = lay.Skew * Math.PI / 180;
        var (dx, dy) = ((place.CentreX - 0.5) * shownWidth, (place.CentreY - 0.5) * shownHeight);
        var (x, y) = (
            dx * Math.Cos(angle) - dy * Math.Sin(angle) + shownWidth / 2,
            dx * Math.Sin(angle) + dy * Math.Cos(angle) + shownHeight / 2
        );
        var (w, h) = (place.W * shownWidth / 2 + margin, place.H * shownHeight / 2 + margin);
        (double X, double Y) Point(double px, double py) =>
            turned switch
            {
                90 => (py, px),
                180 => (width - px, py),
                270 => (width - py, height - px),
                _ => (px, height - py),
            };
        var (a, b) = (Point(x - w, y - h), Point(x + w, y + h));
        return (
            box[0] + Math.Clamp(Math.Min(a.X, b.X), 0, width),
            box[1] + Math.Clamp(Math.Min(a.Y, b.Y), 0, height),
            box[0] + Math.Clamp(Math.Max(a.X, b.X), 0, width),
            box[1] + Math.Clamp(Math.Max(a.Y, b.Y), 0, height)
        );
    }

    private static JsonNode? Resolved(JsonNode? node, JsonObject objects) =>
        node is JsonValue value && value.TryGetValue<string>(out var text) && text.EndsWith(" R", StringComparison.Ordinal)
            ? objects[$"obj:{text}"]?["value"]
            : node;

    private static double[] Numbers(JsonNode? node) =>
        node is JsonArray { Count: 4 } all && all.All(n => n is JsonValue v && v.TryGetValue<double>(out _))
            ? [.. all.Select(n => n!.GetValue<double>())]
            : [];
}
