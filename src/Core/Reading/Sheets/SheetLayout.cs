namespace ClearLexicon.Core.Reading.Sheets;

/// <summary>A line of text on a sheet.</summary>
/// <param name="Text">The text.</param>
/// <param name="X">Left edge in points.</param>
/// <param name="Y">Baseline in points.</param>
/// <param name="Size">Size in points.</param>
/// <param name="Bold">Whether it is bold.</param>
public sealed record SheetLine(string Text, double X, double Y, double Size, bool Bold);

/// <summary>A box on a sheet.</summary>
/// <param name="Group">Which group, from 0.</param>
/// <param name="Option">Which of its boxes, from 0.</param>
/// <param name="Place">Where, in shares of the page.</param>
public sealed record SheetBox(int Group, int Option, Box Place);

/// <summary>
/// Where everything stands on a sheet of A4. The same print gives the same layout, so that a sheet that comes back is read by it.
/// </summary>
public static class SheetLayout
{
    /// <summary>Width of the sheet in points of 1/72 inch.</summary>
    public const double Width = 595;

    /// <summary>Height of the sheet in points.</summary>
    public const double Height = 842;

    /// <summary>Side of a corner mark in points.</summary>
    public const double MarkSide = 15;

    private const double FirstValue = 226,
        ValueIndent = 150;

    private const double Left = 64,
        Right = 531,
        BoxSide = 13,
        LineHeight = 17,
        Columns = 3,
        LabelLetters = 24;

    /// <summary>The filled squares in the four corners, by which a sheet is laid straight, clockwise from the top left.</summary>
    public static IReadOnlyList<Box> Marks { get; } =
    [.. new[] { (30.0, 30.0), (550, 30), (550, 797), (30, 797) }.Select(m => Share(m.Item1, m.Item2, MarkSide, MarkSide))];

    /// <summary>Where the code stands.</summary>
    public static Box Code { get; } = Share(401, 62, 130, 130);

    /// <summary>The patch code of a separator sheet: bars across, from its top.</summary>
    public static Box Patch { get; } = Share(137, 420, 320, 10 * Codes.PatchCode.Narrow * 72);

    /// <summary>The texts and boxes of a sheet.</summary>
    /// <param name="print">Its print.</param>
    /// <param name="row">Which of its sheets, from 1.</param>
    /// <returns>Lines and boxes, or why they do not fit on a sheet.</returns>
    public static (IReadOnlyList<SheetLine> Lines, IReadOnlyList<SheetBox> Boxes, string? Problem) Of(SheetPrint print, int row)
    {
        var lines = new List<SheetLine>
        {
            new(print.IsCover ? "Cover sheet" : "Separator sheet", Left, 86, 24, true),
            new(print.IsCover && print.TypeName.Length > 0 ? print.TypeName : "", Left, 112, 14, false),
            new(
                print.IsCover ? "Put this sheet before the pages of one document." : "Put this sheet between two documents.",
                Left,
                142,
                10,
                false
            ),
            new($"{print.Token}-{row}{(print.Version is { } v ? $" · version {v}" : "")}", Left, 160, 10, false),
        };
        var boxes = new List<SheetBox>();
        var y = FirstValue;
        foreach (var (field, text) in print.Rows[row - 1])
        {
            lines.Add(new SheetLine(Fit(print.Labels.GetValueOrDefault(field, field), 30), Left, y, 10, false));
            lines.Add(new SheetLine(Fit(text, 60), Left + ValueIndent, y, 11, true));
            y += LineHeight;
        }
        y += 8;
        foreach (var (group, g) in print.Groups.Select((group, g) => (group, g)))
        {
            lines.Add(new SheetLine(Fit(group.Label, 60) + (group.Asked ? ": fill one box" : ": fill one box or none"), Left, y, 11, true));
            y += 12;
            var width = (Right - Left) / Columns;
            foreach (var (option, o) in group.Options.Select((option, o) => (option, o)))
            {
                var (x, top) = (Left + o % (int)Columns * width, y + o / (int)Columns * (BoxSide + 9));
                boxes.Add(new SheetBox(g, o, Share(x, top, BoxSide, BoxSide)));
                lines.Add(new SheetLine(Fit(option.Label, (int)LabelLetters), x + BoxSide + 6, top + 10.5, 10, false));
            }
            y += Math.Ceiling(group.Options.Count / Columns) * (BoxSide + 9) + 20;
        }
        return (lines, boxes, y > 785 ? "These values and boxes do not fit on one sheet; choose fewer fields." : null);
    }

    /// <summary>Where a value stands on a sheet, about.</summary>
    /// <param name="index">Which of the sheet's values, from 0.</param>
    public static Box Value(int index) => Share(Left + ValueIndent - 4, FirstValue + index * LineHeight - 12, 300, LineHeight);

    private static string Fit(string text, int letters) => text.Length <= letters ? text : text[..(letters - 1)] + "…";

    private static Box Share(double x, double y, double w, double h) => new(x / Width, y / Height, w / Width, h / Height);
}
