namespace ClearLexicon.Core.Reading.Sheets;

/// <summary>How full a box is.</summary>
/// <param name="Box">The box.</param>
/// <param name="Ink">Share of its inside that is dark, 0 to 1.</param>
/// <param name="Place">Where it stands on the page that came, in shares.</param>
public sealed record MeasuredBox(SheetBox Box, double Ink, Box Place);

/// <summary>What the boxes of a sheet say.</summary>
public static class SheetValue
{
    /// <summary>Method of a value that was typed when the sheet was printed.</summary>
    public const string Typed = "typed on the sheet";

    /// <summary>Method of a value whose box was filled.</summary>
    public const string Box = "marked box";

    /// <summary>From this much ink a box is filled: a thin tick has more, a speck and the edge of the frame less.</summary>
    public const double Filled = 0.09;

    /// <summary>From this much ink it is doubtful whether a box is filled.</summary>
    public const double Faint = 0.04;

    /// <summary>The filled box of each group, and what is doubtful, in sentences.</summary>
    /// <param name="print">The print.</param>
    /// <param name="measured">Its boxes; empty when the sheet could not be laid straight.</param>
    public static (IReadOnlyList<(BoxGroup Group, SheetOption Option, MeasuredBox Box)> Chosen, IReadOnlyList<string> Doubts) Read(
        SheetPrint print,
        IReadOnlyList<MeasuredBox> measured
    )
    {
        var (chosen, doubts) = (new List<(BoxGroup, SheetOption, MeasuredBox)>(), new List<string>());
        if (print.Groups.Count > 0 && measured.Count == 0)
            return ([], ["The boxes of the cover sheet could not be read: fewer than three of its corner marks were found."]);
        foreach (var (group, g) in print.Groups.Select((group, g) => (group, g)))
        {
            var boxes = measured.Where(m => m.Box.Group == g).ToList();
            var filled = boxes.Where(b => b.Ink >= Filled).ToList();
            var faint = boxes.Where(b => b.Ink is >= Faint and < Filled).ToList();
            string Names(IEnumerable<MeasuredBox> some) => string.Join(" and ", some.Select(b => group.Options[b.Box.Option].Label));
            if (filled.Count == 1)
            {
                chosen.Add((group, group.Options[filled[0].Box.Option], filled[0]));
                // Half-filled beside a filled one may be a correction.
                if (faint.Count > 0)
                    doubts.Add($"{group.Label}: besides {Names(filled)}, {Names(faint)} may be filled on the cover sheet.");
            }
            else if (filled.Count > 1)
                doubts.Add($"{group.Label}: {Names(filled)} are filled on the cover sheet, where one is asked.");
            else if (faint.Count > 0)
                doubts.Add($"{group.Label}: {Names(faint)} may be filled on the cover sheet; it is too faint to tell.");
            else if (group.Asked)
                doubts.Add($"{group.Label}: no box is filled on the cover sheet.");
        }
        return (chosen, doubts);
    }
}
