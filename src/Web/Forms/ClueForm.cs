using ClearLexicon.Core.Reading;

namespace ClearLexicon.Web.Forms;

/// <summary>How a clue is asked for, as its form writes and reads it.</summary>
public static class ClueForm
{
    /// <summary>The blanks filled with a clue.</summary>
    public static Form Write(Clue clue)
    {
        var form = new Form();
        form.Put("text", clue.Text);
        form.Put("or", string.Join('\n', clue.Or));
        form.Put("on", clue.On.ToString());
        form.Tick("absent", clue.Absent);
        form.Tick("here", clue.InRegion);
        form.Tick("exact", clue.Exact);
        return form;
    }

    /// <summary>The clue as the form asks for it; what the form does not hold stays.</summary>
    public static Clue Read(Form form, Clue clue) =>
        clue with
        {
            Text = form.Text("text") ?? "",
            Or = [.. form["or"].Text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)],
            On = Enum.TryParse<PageRole>(form["on"].Text, out var on) && Enum.IsDefined(on) ? on : clue.On,
            Absent = form.Ticked("absent"),
            InRegion = form.Ticked("here"),
            Exact = form.Ticked("exact"),
        };
}
