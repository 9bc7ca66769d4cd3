using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;

namespace ClearLexicon.Demo;

/// <summary>The readers that the demo ships: one a page design, as a careful steward would teach it from one clean page.</summary>
public static class HarbourReaders
{
    /// <summary>Teaches a reader on a clean page of its design.</summary>
    public static Reader Teach(PageDesign design) => Teach(design, HarbourDocuments.Samples(design, 1, 0)[0].Printed);

    /// <summary>Teaches a reader on a page with given values.</summary>
    public static Reader Teach(PageDesign design, IReadOnlyDictionary<string, string> printed)
    {
        var folder = Directory.CreateTempSubdirectory("teach").FullName;
        try
        {
            var page = Path.Combine(folder, "page.pdf");
            PageDrawing.Pdf(page, design, printed);
            var text = PageReading.TextLayer(page, 1);
            var labels = design.Cells.Select(c => c.Label).ToList();
            string[] clues = [design.Heading, labels[1], labels[labels.Count / 2], labels[^1]];
            return new Reader(
                design.Key,
                design.Name,
                design.TypeCode,
                [.. clues.Distinct().Select(c => new Clue(c, Find(text, c)))],
                [.. design.Cells.Select(c => new Zone(c.Field, c.Zone))],
                [.. design.Cells.Select(c => new CrosswalkLine(c.Field, c.Field, [.. Steps(c.Field, design)]))]
            );
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    /// <summary>The slip's label: seven digits of the ship, five of the call; the number looks the rest up in the register.</summary>
    public static Reader LabelledSlip
    {
        get
        {
            var taught = Teach(PageDesigns.LabelledSlip, HarbourStacks.Slip(0).Printed);
            var label = new CodeSource(
                "label",
                new CodeFilter
                {
                    Kinds = ["Code 128"],
                    Shortest = 12,
                    Longest = 12,
                    Page = 1,
                },
                new CodeDivision("widths", "7,5")
            );
            return taught with
            {
                Codes = [label],
                Crosswalk =
                [
                    new CrosswalkLine("label/1", "imo", []),
                    new CrosswalkLine("label/2", "call-number", [new CleaningStep("put-before", "VC-2024-")]),
                    .. taught.Crosswalk,
                ],
            };
        }
    }

    /// <summary>The permit's code: five values with bars between.</summary>
    public static Reader Permit
    {
        get
        {
            var taught = Teach(PageDesigns.Permit, HarbourStacks.PermitPage(0).Printed);
            string[] fields = ["permit-number", "berth", "work", "valid-from", "responsible"];
            return taught with
            {
                Codes = [new CodeSource("permit", new CodeFilter { Kinds = ["QR"], Page = 1 }, new CodeDivision("separator", "|"))],
                Crosswalk = [.. fields.Select((f, i) => new CrosswalkLine($"permit/{i + 1}", f, [])), .. taught.Crosswalk],
            };
        }
    }

    private static IEnumerable<CleaningStep> Steps(string field, PageDesign design) =>
        field switch
        {
            "imo" => [new("drop-words", "IMO"), new("look-alikes")],
            "gross-tonnage" => [new("drop-words", "GT"), new("read-number", "."), new("look-alikes")],
            "call-number" or "statement-number" or "pilot-certificate" => [new("look-alikes")],
            "arrived" or "sailed" or "issued" or "due" or "loaded" or "valid-to" =>
            [
                new("squeeze-blanks"),
                new("read-date", design.DateForm),
            ],
            "berth-dues" or "pilotage" or "waste" or "tax" or "total" => [new("read-number", ".")],
            _ => [new("squeeze-blanks")],
        };

    internal static Box Find(PageText page, string phrase)
    {
        var words = phrase.Split(' ').Select(Folding.Letters).ToArray();
        for (var at = 0; at + words.Length <= page.Words.Count; at++)
            if (words.Select((w, i) => Folding.Letters(page.Words[at + i].Text) == w).All(same => same))
                return Box.Around(page.Words.Skip(at).Take(words.Length).Select(w => w.Box))!.Value;
        throw new InvalidOperationException($"“{phrase}” is not on the page.");
    }
}
