using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Whether filed documents stand where their records say.</summary>
public sealed class IntegrityCheckModel(IntegrityCheck integrity, Jobs jobs) : PlacePage
{
    public IntegrityReport? Report => integrity.Last;

    public Job? Running => jobs.Running("repository");

    public void OnGet() { }

    public IActionResult OnPostLook()
    {
        Problem = integrity.Start(Who).Problem;
        return Page();
    }

    public IActionResult OnPostPutBack(long document)
    {
        Note(integrity.PutBack(Sent("path"), document, Who), "Put back where its record says.");
        return Page();
    }

    /// <summary>What is wrong, in words.</summary>
    public static string InWords(Misplacement what) =>
        what switch
        {
            Misplacement.Missing => "no file",
            Misplacement.Changed => "changed by hand",
            Misplacement.OtherValues => "path says otherwise",
            _ => "without a record",
        };
}
