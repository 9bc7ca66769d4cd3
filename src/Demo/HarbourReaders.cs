using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;

namespace ClearLexicon.Demo;

/// <summary>The readers that the demo ships: one a page design, as a careful steward would teach it from one clean page.</summary>
public static class HarbourReaders
{
    /// <summary>Teaches a reader on a clean page of its design.</summary>
    public static Reader Teach(PageDesign design)
    {
        var folder = Directory.CreateTempSubdirectory("teach").FullName;
        try
        {
            var page = HarbourDocuments.Samples(design, 1, 0)[0];
            HarbourDocuments.Draw(page, folder);
            var text = PageReading.TextLayer(Path.Combine(folder, page.FileName), 1);
            var labels = design.Cells.Select(c => c.Label).ToList();
            string[] clues = [design.Heading, labels[1], labels[labels.Count / 2], labels[^1]];
            return new Reader(
                design.Key,
                design.Name,
                design.TypeCode,
                [.. clues.Select(c => new Clue(c, Find(text, c)))],
                [.. design.Cells.Select(c => new Zone(c.Field, c.Zone))],
                [.. design.Cells.Select(c => new CrosswalkLine(c.Field, c.Field, [.. Steps(c.Field, design)]))]
            );
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    private static IEnumerable<CleaningStep> Steps(string field, PageDesign design) =>
        field switch
        {
            "imo" => [new("drop-words", "IMO"), new("look-alikes")],
            "gross-tonnage" => [new("drop-words", "GT"), new("read-number", "."), new("look-alikes")],
            "call-number" or "statement-number" or "pilot-certificate" => [new("look-alikes")],
            "arrived" or "sailed" or "issued" or "due" => [new("squeeze-blanks"), new("read-date", design.DateForm)],
            "berth-dues" or "pilotage" or "waste" or "tax" or "total" => [new("read-number", ".")],
            _ => [new("squeeze-blanks")],
        };

    private static Box Find(PageText page, string phrase)
    {
        var words = phrase.Split(' ').Select(Folding.Fold).ToArray();
        for (var at = 0; at + words.Length <= page.Words.Count; at++)
            if (words.Select((w, i) => Folding.Fold(page.Words[at + i].Text) == w).All(same => same))
                return Box.Around(page.Words.Skip(at).Take(words.Length).Select(w => w.Box))!.Value;
        throw new InvalidOperationException($"“{phrase}” is not on the page.");
    }
}
