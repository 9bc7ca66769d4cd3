using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>The whole repository as a package: made here for another installation, or taken over from one.</summary>
public sealed class PackagesModel(Packages packages, Takeovers takeovers, Jobs jobs) : PlacePage
{
    public List<(string Folder, long Documents)> Made { get; private set; } = [];

    public List<string> Waiting { get; private set; } = [];

    public List<Run<PackageOrder>> Looked { get; private set; } = [];

    /// <summary>Why a package that is not known yet cannot be taken over here; null when it can.</summary>
    public string? WhyNot { get; private set; }

    /// <summary>Why one of those that were looked at cannot be taken over here.</summary>
    public string? WhyNotOf(Run<PackageOrder> one) => WhyNot is null ? null : takeovers.WhyNot(one.Order.Folder);

    public Job? Packing => jobs.Running(Packages.Subject);

    public Job? Running => jobs.Running(Takeovers.Subject);

    public void OnGet() => Load();

    public IActionResult OnPostPack() => Started(packages.Start(Who));

    public IActionResult OnPostLook() => Started(takeovers.StartLook(Sent("package"), Who));

    public IActionResult OnPostTake(long id) => Started(takeovers.StartTake(id, Who));

    public IActionResult OnPostTakeAway(long id) => Started(takeovers.StartTakeAway(id, Who));

    private IActionResult Started(Services.Result<Job> started)
    {
        Problem = started.Problem;
        Load();
        return Page();
    }

    private void Load() => (Made, Waiting, Looked, WhyNot) = (packages.Made(), takeovers.Waiting(), takeovers.Newest(), takeovers.WhyNot());

    /// <summary>What became of a package, in words.</summary>
    public static string InWords(Run<PackageOrder> one) =>
        one.State switch
        {
            RunState.Looking => "the check of it was not finished",
            RunState.Looked => one.Order.Look!.Problems.Count == 0 ? "sound" : "not imported: something is wrong with it",
            RunState.Applying => "imported in part",
            RunState.Applied => "taken over",
            RunState.Undoing => "removed again in part",
            _ => "removed again",
        };
}
