using ClearLexicon.Core.Reading.Codes;

namespace ClearLexicon.Web.Forms;

/// <summary>Which codes a reader takes values from, as their form writes and reads it.</summary>
public static class CodeSourceForm
{
    /// <summary>The blanks filled with a source; null for a new one.</summary>
    public static Form Write(CodeSource? source)
    {
        var form = new Form();
        form.Put("name", source?.Key);
        SeparationForm.Write(form, source?.Filter ?? new CodeFilter());
        form.Put("way", source?.Division.Way ?? CodeDivision.Whole.Way);
        form.Put("with", source?.Division.With);
        form.Put("between", source?.Between ?? " ");
        return form;
    }

    /// <summary>The source that a form gives; what cannot be read is noted in the form.</summary>
    public static CodeSource Read(Form form) =>
        new(
            form.Text("name") ?? "",
            SeparationForm.ReadFilter(form),
            new CodeDivision(form.Text("way") ?? "whole", form["with"].Text),
            form.Has("between") ? form["between"].Text : " "
        );
}
