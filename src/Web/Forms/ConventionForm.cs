using ClearLexicon.Core.Conventions;

namespace ClearLexicon.Web.Forms;

/// <summary>Options of a piece of a convention, and the limits of its names, as their forms are read.</summary>
public static class ConventionForm
{
    private const int Longest = 300;

    /// <summary>A piece with the options that a form gives it.</summary>
    public static Piece Read(Piece piece, Form form)
    {
        int? Number(string name) => form.Number(name, "characters") is > 0 and <= Longest and var number ? number : null;
        string? Raw(string name) => form[name].Text is { Length: > 0 } text ? text : null;
        var empty = form["empty"].Text;
        return piece with
        {
            Text = piece.Kind == PieceKind.Text ? Raw("text") ?? piece.Text : "",
            DateForm = Raw("date-form"),
            Language = Raw("language") is not "en" and var language ? language : null,
            Case = form.Choice<LetterCase>("case"),
            Extract = form.Choice<Extract>("extract"),
            Ascii = form.Ticked("ascii"),
            Part = Number("part") ?? 0,
            Blanks = form["blanks"].Text switch
            {
                "none" => "",
                "_" or "-" or "." => form["blanks"].Text,
                _ => null,
            },
            MaxLength = Number("max-length"),
            Digits = Number("digits"),
            ShortenTo = Number("shorten-to"),
            LeaveOut = empty == "out",
            IfEmpty = empty == "text" ? Raw("if-empty") : null,
            OnlyWhenFilled = Raw("only-filled"),
            OnlyForType = Raw("only-type"),
            Scope = form.Choice<CounterScope>("scope"),
            OnlyWhenTaken = form.Ticked("when-taken"),
        };
    }

    /// <summary>
    /// A convention with the limits and the answer to taken names that a form gives; null when they contradict themselves.
    /// </summary>
    public static Convention? ReadLimits(Convention convention, Form form)
    {
        var limits =
            PathLimits.All.FirstOrDefault(l => l.Key == form["profile"].Text) ?? Own(convention.Limits ?? PathLimits.FileShare, form);
        limits = limits with
        {
            Substitute = form["substitute"].Text switch
            {
                "none" => "",
                { Length: 1 } one => one,
                _ => limits.Substitute,
            },
        };
        if (limits.Contradiction() is { } finding)
            form.Refuse("segment", finding);
        if (form.Problem is not null)
            return null;
        return convention with { Limits = limits == PathLimits.FileShare ? null : limits, Collision = form.Choice<Collision>("collision") };
    }

    private static PathLimits Own(PathLimits before, Form form) =>
        before with
        {
            Key = PathLimits.Own,
            Name = "own limits",
            Characters = form.Choice<NameCharacters>("characters"),
            Refused = form["refused"].Text.Replace(" ", "", StringComparison.Ordinal),
            Segment = form.Number("segment", "characters") ?? 120,
            Whole = form.Number("whole", "characters") ?? 240,
            Depth = form.Number("depth", "folders") ?? 0,
            Upper = form.Ticked("upper"),
            Ascii = form.Ticked("ascii"),
            Decomposed = form.Ticked("decomposed"),
            NoDeviceNames = !form.Ticked("devices"),
        };
}
