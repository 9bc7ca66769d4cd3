using ClearLexicon.Core.Designs;

namespace ClearLexicon.Web.Forms;

/// <summary>What a type narrows of an inherited field, as its form shows it and as it is read from one.</summary>
/// <param name="form">What stands in the blanks.</param>
public sealed class TighteningForm(Form form)
{
    /// <summary>The blanks.</summary>
    public Form Blanks => form;

    /// <summary>The form of a tightening.</summary>
    public static TighteningForm Of(Tightening own)
    {
        var form = new Form();
        form.Tick("required", own.Required);
        form.Tick("restricted", own.Restricted);
        form.Tick("leaves", own.LeavesOnly);
        form.Put("min", own.Min);
        form.Put("max", own.Max);
        form.Put("min-length", own.MinLength?.ToString());
        form.Put("max-length", own.MaxLength?.ToString());
        form.Put("branch", own.Branch);
        form.Put("default", own.Default);
        form.Put("help", own.Help);
        return new TighteningForm(form);
    }

    /// <summary>The tightening that the form describes; null when something in it cannot be read, which is noted.</summary>
    public Tightening? Read(string field)
    {
        var tightening = new Tightening(field)
        {
            Required = form.Ticked("required"),
            Restricted = form.Ticked("restricted"),
            LeavesOnly = form.Ticked("leaves"),
            Min = form.Text("min"),
            Max = form.Text("max"),
            MinLength = form.Number("min-length", "characters"),
            MaxLength = form.Number("max-length", "characters"),
            Branch = form.Text("branch"),
            Default = form.Text("default"),
            Help = form.Text("help"),
        };
        return form.Problem is null ? tightening : null;
    }
}
