using ClearLexicon.Core.Designs;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Two states of a document type compared in words.</summary>
public sealed class CompareModel(Designs designs) : PlacePage
{
    public TypeState State { get; private set; } = null!;

    public List<TypeVersion> Versions { get; private set; } = [];

    /// <summary>Number of the older version.</summary>
    public int From { get; private set; }

    /// <summary>Number of the newer version; 0 for the draft.</summary>
    public int To { get; private set; }

    public List<DesignChange> Changes { get; private set; } = [];

    public IActionResult OnGet(string code, int? from, int? to)
    {
        if (designs.Find(code) is not { } state)
            return NotFound();
        State = state;
        Versions = designs.Versions(code);
        if (Versions.Count == 0)
            return Redirect($"/Design/Type/{code}");
        To = to ?? (state.DraftOpen ? 0 : Versions[0].Version);
        From = from ?? (To == 0 ? Versions[0].Version : Math.Max(1, To - 1));
        var after = To == 0 ? designs.Resolve(state.Draft) : Versions.FirstOrDefault(v => v.Version == To)?.Design;
        if (after is null || Versions.FirstOrDefault(v => v.Version == From)?.Design is not { } before)
            return NotFound();
        Changes = [.. DesignDifference.InWords(before, after)];
        return Page();
    }
}
