using ClearLexicon.Core.Fields;
using ClearLexicon.Web.Forms;

namespace ClearLexicon.Web.Pages;

/// <summary>One finder with the blanks of its form.</summary>
/// <param name="Form">The blanks.</param>
/// <param name="Field">The field it fills.</param>
/// <param name="Sample">The sample that is shown.</param>
/// <param name="Lists">Columns of reference tables, as <c>table/column</c>.</param>
/// <param name="Others">Fields that it may be filled from.</param>
/// <param name="SeenAs">What it is as the form is opened (<see cref="Seen"/>); empty for a new one.</param>
public sealed record FinderView(
    Form Form,
    Field Field,
    long Sample,
    IReadOnlyList<string> Lists,
    IReadOnlyList<Field> Others,
    string SeenAs
)
{
    /// <summary>What tells its blanks from those of others on the page.</summary>
    public string Id => Form["finder"].Text is { Length: > 0 } key ? key : "new-finder";
}
