using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Desk;

/// <summary>Where what arrived stands.</summary>
/// <param name="WaitingFiles">Files that were not read yet.</param>
/// <param name="Oldest">When the oldest of them came; null when none waits.</param>
/// <param name="ToLookAt">Batches whose separation a person looks at first.</param>
/// <param name="OnDesk">Documents on the desk.</param>
/// <param name="PagesAMinute">Pages read in the last ten minutes, by the minute; null when none was.</param>
/// <param name="Batches">The newest batches that the person sees.</param>
/// <param name="Refused">The newest files that were refused.</param>
public sealed record ArrivalState(
    int WaitingFiles,
    Instant? Oldest,
    int ToLookAt,
    int OnDesk,
    double? PagesAMinute,
    IReadOnlyList<BatchStatus> Batches,
    IReadOnlyList<BatchFile> Refused
);

/// <summary>What arrives, by whichever way: its state, another try, and the stand-in for a copier.</summary>
public sealed class Arrivals(Database database, DataFolder folder, WaysIn ways, Intake intake, TimeProvider clock)
{
    /// <summary>Where things stand.</summary>
    public ArrivalState State(string who, int mostBatches, int mostRefused)
    {
        return database.Read(c =>
        {
            var sees = WaysIn.OpenTo(c, who);
            var (waiting, oldest) = BatchStore.Backlog(c);
            var batches = BatchStore.Newest(c, mostBatches).Where(b => sees(b.Batch.WayIn)).ToList();
            return new ArrivalState(
                waiting,
                oldest,
                batches.Count(b => b.Batch.State == BatchState.Look),
                BatchStore.OnDesk(c).Sum(b => b.Documents),
                intake.PagesAMinute,
                batches,
                [.. BatchStore.Refused(c, mostRefused).Where(f => sees(BatchStore.Find(c, f.BatchId)?.WayIn))]
            );
        });
    }

    /// <summary>Tries a refused file once more.</summary>
    public Result Retry(long fileId, string who)
    {
        var result = database.Write<Result>(c =>
        {
            if (BatchStore.FindFile(c, fileId) is not { State: FileState.Refused } file)
                return "This file was not refused, or is already being tried again.";
            if (BatchStore.Find(c, file.BatchId) is not { } batch || !WaysIn.Sees(c, batch.Id, who))
                return "There is no such file.";
            if (batch.State == BatchState.GivenUp)
                return "Its batch was given up.";
            if (!File.Exists(folder.Absolute(file.Stored)))
                return "The file was not kept, because it could not be read at all; add it again.";
            BatchStore.Retry(c, fileId);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "tried a refused file again",
                new LedgerSubject(SubjectKind.File, file.Id),
                file.Name
            );
            return Result.Done;
        });
        if (result.Ok)
            intake.Start(who);
        return result;
    }

    /// <summary>Stacks in the stand-in for a copier, for one way in.</summary>
    public int InCopier(string way) => Stacks(way).Length;

    private string[] Stacks(string way) =>
        Path.Combine(folder.Copier, DataFolder.SafeName(way)) is var path && Directory.Exists(path) ? Directory.GetFiles(path) : [];

    /// <summary>Lets the stand-in for a copier put its next stack into a watched folder.</summary>
    /// <returns>The name of the file.</returns>
    public Result<string> Copy(string way)
    {
        if (ways.Find(way) is not { Folder.Length: > 0 } found)
            return Result<string>.Not("This way in has no folder.");
        var next = Stacks(found.Key).Order(StringComparer.Ordinal).FirstOrDefault();
        if (next is null)
            return Result<string>.Not("The copier has no more stacks for this folder.");
        var target = Path.Combine(ways.PathOf(found), Path.GetFileName(next));
        if (File.Exists(target))
            return Result<string>.Not($"“{Path.GetFileName(next)}” is in the folder already.");
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        File.Move(next, target);
        return Path.GetFileName(next);
    }
}
