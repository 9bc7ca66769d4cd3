using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Days on which the office is closed.</summary>
public sealed class ClosedDaysModel(ClosedDays closed) : PlacePage
{
    public List<ClosedDay> Days { get; private set; } = [];

    /// <summary>What stays in the form: lines that were refused, or the day that was removed just now.</summary>
    public string Typed { get; private set; } = "";

    public void OnGet() => Days = closed.All();

    public IActionResult OnPostAdd()
    {
        var added = closed.Add(Sent("days"), Who);
        if (added.Ok)
            Done = added.Value == 1 ? "Saved." : $"Saved {added.Value} days.";
        else
            (Problem, Typed) = (added.Problem, Sent("days"));
        OnGet();
        return Page();
    }

    public IActionResult OnPostRemove()
    {
        var removed = FieldParsing.TryDate(Sent("day"), out var day)
            ? closed.Remove(day, Who)
            : Services.Result<string>.Not("Choose a day of the list.");
        if (removed.Ok)
            (Done, Typed) = ($"Removed {removed.Value}. It stands below, to be saved again.", removed.Value!);
        Problem = removed.Problem;
        OnGet();
        return Page();
    }
}
