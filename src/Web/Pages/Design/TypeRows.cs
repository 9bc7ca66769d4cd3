using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Web.Forms;

namespace ClearLexicon.Web.Pages;

/// <summary>A row of the design that is not open.</summary>
/// <param name="What">field, rule or inherited.</param>
/// <param name="Key">Key or id; empty for a row that adds one.</param>
/// <param name="Table">The table in which it stands; null for the type itself.</param>
/// <param name="Row">Its name among the rows.</param>
public sealed record UnopenedRow(string What, string Key, string? Table, string Row)
{
    /// <summary>How what stands in it is asked for.</summary>
    public string Asked => $"what={What}&key={Uri.EscapeDataString(Key)}{(Table is null ? "" : $"&table={Uri.EscapeDataString(Table)}")}";

    /// <summary>What the page is told to have it open.</summary>
    public string Opened => Table is null ? Row : $"{Table}|{Row}";
}

/// <summary>A rule in its opened row.</summary>
/// <param name="Form">Its form.</param>
/// <param name="Rule">The rule that the form describes; null while it has no kind.</param>
/// <param name="Named">Keys of the fields that its examples give.</param>
/// <param name="Examples">Its examples, and what becomes of each today.</param>
public sealed record RuleView(
    RuleForm Form,
    Rule? Rule,
    IReadOnlyList<string> Named,
    IReadOnlyList<(RuleExample Example, ExampleOutcome Today)> Examples
);
