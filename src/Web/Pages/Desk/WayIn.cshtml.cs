using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>One way in: how its stacks become documents and what they get.</summary>
public sealed class DeskWayInModel(WaysIn ways, TaughtReaders readers, Designs designs, Accounts people) : PlacePage
{
    /// <summary>Key of the way in; empty for a new one.</summary>
    [BindProperty(SupportsGet = true)]
    public string Key { get; set; } = "";

    public string Name { get; private set; } = "";

    public Form Form { get; private set; } = new();

    /// <summary>The way in as the form is opened with.</summary>
    public string SeenAs { get; private set; } = "";

    public IReadOnlyList<Reader> Readers => readers.All();

    public IReadOnlyList<DocumentType> Types => [.. designs.Published.Values.Select(p => p.Type.Type)];

    public IReadOnlyList<string> People => [.. people.All().Where(p => new Rights(p.Roles).WorksTheDesk).Select(p => p.Name)];

    public bool MayRemove => Key.Length > 0 && Key != WayIn.Upload.Key;

    /// <summary>With a method asked for, the blanks are those that were typed, with what that method needs.</summary>
    public IActionResult OnGet() => Load(Queried.Has("method") ? Queried : null);

    public IActionResult OnPostSave()
    {
        var way = WayInForm.Read(Posted, Key, Key.Length > 0 ? ways.Find(Key) : null);
        if (Posted.Problem is { } wrong)
        {
            Problem = wrong;
            return Load(Posted);
        }
        var saved = ways.Save(way, Who, AsSeen<WayIn>("way in", Key));
        if (!saved.Ok)
        {
            Problem = saved.Problem;
            return Load(Posted);
        }
        Key = saved.Value!;
        Done = "Saved. It applies to what arrives from now on.";
        return Load(null);
    }

    public IActionResult OnPostRemove()
    {
        var result = ways.Remove(Key, Who);
        return result.Ok ? RedirectToPage("/Desk/WaysIn") : NotFound();
    }

    private IActionResult Load(Form? typed)
    {
        var way =
            Key.Length == 0
                ? new WayIn("", "")
                {
                    Separation = new Separation { Method = "patch", Blanks = BlankPages.Drop },
                }
                : ways.Find(Key);
        if (way is null)
            return NotFound();
        Name = way.Name;
        Form = typed ?? WayInForm.Write(way);
        // What is typed on stays what it was opened with.
        SeenAs =
            Queried.Has("seen") ? Queried["seen"].Text
            : Key.Length == 0 ? ""
            : Seen.Of(way);
        return Page();
    }
}
