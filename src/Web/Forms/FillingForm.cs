using ClearLexicon.Core.Rules;

namespace ClearLexicon.Web.Forms;

/// <summary>What a reference table fills, as it is read from its form.</summary>
/// <param name="form">What stands in the blanks.</param>
public sealed class FillingForm(Form form)
{
    /// <summary>The filling that the form describes.</summary>
    public Filling Read() => new(form["table"].Text, Pairs(form["keys"].Text), Pairs(form["targets"].Text), form.Ticked("always"));

    // “column = field, column = field”: the first of equal columns counts.
    private static Dictionary<string, string> Pairs(string text) =>
        text.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Select(p => p.Split('=', 2, StringSplitOptions.TrimEntries))
            .Where(p => p.Length == 2)
            .DistinctBy(p => p[0])
            .ToDictionary(p => p[0], p => p[1]);
}
