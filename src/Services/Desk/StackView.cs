using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Desk;

/// <summary>One thing that a person decided about a separation: another method, or something done by hand.</summary>
/// <param name="Separation">The method from here on; what was done by hand before it no longer counts.</param>
/// <param name="Edit">What was done by hand.</param>
public sealed record CuttingStep(Separation? Separation, HandEdit? Edit);

/// <summary>A stack as a person looks at it.</summary>
/// <param name="Batch">Its batch.</param>
/// <param name="Way">The way it came.</param>
/// <param name="Separation">The separation that is planned.</param>
/// <param name="Pages">Its pages in order.</param>
/// <param name="Files">Its files by id.</param>
/// <param name="Plan">What becomes of them.</param>
/// <param name="Made">Whether the documents on the desk, or filed, are those of the plan.</param>
/// <param name="Fixed">Why the separation can no longer be changed; null while it can.</param>
/// <param name="Steps">How many steps can be undone.</param>
/// <param name="Reading">Files that are still being read.</param>
public sealed record StackView(
    OneBatch Batch,
    WayIn Way,
    Separation Separation,
    IReadOnlyList<StackedPage> Pages,
    IReadOnlyDictionary<long, BatchFile> Files,
    StackPlan Plan,
    bool Made,
    string? Fixed,
    int Steps,
    int Reading
);
