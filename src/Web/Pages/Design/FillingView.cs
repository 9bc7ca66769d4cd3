using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Web.Forms;

namespace ClearLexicon.Web.Pages;

/// <summary>The columns of one filling as its form shows them.</summary>
/// <param name="Id">What tells its blanks from those of others: its position, or “new”.</param>
/// <param name="Form">What stands in it.</param>
/// <param name="Fields">Fields that can be chosen.</param>
/// <param name="Table">The table; null while none is chosen, or when it is gone.</param>
public sealed record FillingView(string Id, Form Form, IReadOnlyList<Field> Fields, ReferenceTable? Table)
{
    /// <summary>Whether the table still has a column.</summary>
    public bool Has(string column) => Table is null || Table.ColumnOf(column) >= 0;
}
