using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Today;

/// <summary>Something that waits for somebody.</summary>
/// <param name="What">What waits, as a link says it.</param>
/// <param name="Next">What there is to do.</param>
/// <param name="Since">Since when; null where no moment says so.</param>
/// <param name="Address">Where it is done.</param>
public sealed record WaitingWork(string What, string Next, Instant? Since, string Address);

/// <summary>Something that went wrong since yesterday.</summary>
/// <param name="What">What it was.</param>
/// <param name="Why">Why.</param>
/// <param name="At">When.</param>
/// <param name="Address">Where it is put right.</param>
public sealed record WentWrong(string What, string Why, Instant At, string Address);

/// <summary>Something that the person did.</summary>
/// <param name="Line">Its line in the ledger.</param>
/// <param name="Name">What it was done to, as people call it.</param>
/// <param name="Address">The page of what it was done to; null when there is none.</param>
/// <param name="Undo">Where it is taken back at once; null when it cannot, or something newer stands on it.</param>
public sealed record DoneLately(LedgerEntry Line, string Name, string? Address, string? Undo);

/// <summary>One day of the desk.</summary>
/// <param name="Day">The day, UTC.</param>
/// <param name="Filed">Documents that were filed from the desk.</param>
/// <param name="Waiting">Documents that waited at its end.</param>
public sealed record DeskDay(DateOnly Day, int Filed, int Waiting);

/// <summary>What a person works from: what waits, what went wrong, what runs, what was done last.</summary>
/// <param name="Waits">The oldest first; what has no moment stands behind.</param>
/// <param name="Wrong">The newest first.</param>
/// <param name="Running">Ids of jobs that run.</param>
/// <param name="Done">The newest first.</param>
/// <param name="Days">The last days, the oldest first; empty for who does not work at the desk.</param>
/// <param name="Filed">Documents in the repository.</param>
public sealed record TodaySheet(
    IReadOnlyList<WaitingWork> Waits,
    IReadOnlyList<WentWrong> Wrong,
    IReadOnlyList<string> Running,
    IReadOnlyList<DoneLately> Done,
    IReadOnlyList<DeskDay> Days,
    long Filed
);

/// <summary>
/// Gathers what concerns a person today. Nothing here is judged or opened, so that it costs the same in a house of a million documents.
/// </summary>
public sealed class TodayWork(Database database, Designs designs, ReaderWatch watch, TimeProvider clock)
{
    /// <summary>How many days the desk's chart shows.</summary>
    public const int Days = 14;

    private const int MostDone = 8,
        MostCounted = 10_000,
        MostBatches = 20;

    /// <summary>The sheet of a person.</summary>
    /// <param name="who">Name of the person.</param>
    /// <param name="rights">What the person may see.</param>
    public TodaySheet For(string who, Rights rights)
    {
        var (steward, desk) = (rights.Roles.Contains(Roles.Steward), rights.WorksTheDesk);
        var yesterday = clock.GetUtcNow().AddDays(-1);
        return database.Read(c =>
        {
            var sees = WaysIn.OpenTo(c, who);
            var batches = desk ? BatchStore.OnDesk(c) : [];
            batches = [.. batches.Where(b => b.Batch is not { } id || sees(BatchStore.Find(c, id)?.WayIn))];
            List<WaitingWork> waits = [.. batches.Take(MostBatches).Select(OnDesk)];
            if (desk)
                waits.AddRange(
                    BatchStore
                        .ToLookAt(c, MostBatches)
                        .Where(b => sees(b.WayIn))
                        .Select(b => new WaitingWork(b.Name, "a stack whose cuts are to be looked at", b.BroughtAt, $"/Desk/Stack/{b.Id}"))
                );
            if (batches.Count > MostBatches)
                waits.Add(
                    new(
                        $"{batches.Count - MostBatches:N0} later batches",
                        $"{Counted.Of(batches.Skip(MostBatches).Sum(b => b.Documents), "document")} to check and file",
                        batches[MostBatches].Since,
                        "/Desk"
                    )
                );
            if (desk)
                waits.AddRange(Parked(c, who, rights));
            if (rights.Roles.Contains(Roles.Administrator))
                waits.AddRange(ForAdministrator(c));
            if (steward)
                waits.AddRange(ForSteward(c));
            if (desk && waits.Count == 0)
                waits.Add(new("The desk is empty", "Add files, or scan.", null, "/Desk"));
            return new TodaySheet(
                [.. waits.OrderBy(w => w.Since is null).ThenBy(w => w.Since)],
                [.. Wrong(c, rights, sees, yesterday).OrderByDescending(w => w.At)],
                [.. JobStore.Running(c).Where(j => May(j, rights)).Select(j => j.Id)],
                [
                    .. LedgerStore
                        .LatestBy(c, who, MostDone * 4)
                        .Where(e => e.Event != LedgerEvent.SignedIn)
                        .Take(MostDone)
                        .Select(e => Lately(c, e, steward)),
                ],
                desk ? DeskDays(c, batches) : [],
                FolderStore.Below(c, "")
            );
        });
    }

    private static WaitingWork OnDesk(WaitingBatch batch) =>
        new(
            batch.Batch is null ? "Documents without a batch" : batch.Name,
            $"{Counted.Of(batch.Documents, "document")} to check and file",
            batch.Since,
            batch.Batch is { } id ? $"/Desk?batch={id}" : "/Desk"
        );

    // What is parked for the person, for their role, or for whoever completes it; as old as what is due first.
    private IEnumerable<WaitingWork> Parked(SqliteConnection c, string who, Rights rights)
    {
        var parked = ParkedDocuments
            .All(c, who)
            .ConvertAll(p => p.Parking)
            .FindAll(p =>
                p.ForWhom.Length == 0 || p.ForWhom.Equals(who, StringComparison.OrdinalIgnoreCase) || rights.Roles.Contains(p.ForWhom)
            );
        if (parked.Count == 0)
            yield break;
        var due = parked.Count(p => p.Due <= clock.Today());
        yield return new(
            "Parked",
            $"{Counted.Of(parked.Count, "document")} to complete{(due > 0 ? $", {due} due" : "")}",
            parked[0].At,
            "/Desk#parked"
        );
    }

    private static IEnumerable<WaitingWork> ForAdministrator(SqliteConnection c)
    {
        var people = PeopleStore.All(c);
        if (people.All(p => !p.Roles.Contains(Roles.Steward)))
            yield return new("Nobody designs yet", "Add a steward, who can make the first document type.", null, "/Settings");
        if (people.Count(p => p.Roles.Contains(Roles.Administrator)) < 2)
            yield return new("One administrator", "Add a second one, who can help when you are away.", null, "/Settings");
    }

    private IEnumerable<WaitingWork> ForSteward(SqliteConnection c)
    {
        var types = DesignStore.All(c);
        foreach (var type in types)
            if (DocumentStore.CountParked(c, type.Draft.Code, MostCounted + 1) is > 0 and var parked)
                yield return new(
                    $"Parked: {type.Draft.Name}",
                    $"{(parked > MostCounted ? $"More than {MostCounted:N0} documents" : Counted.Of(parked, "document"))} to complete "
                        + "for the new version",
                    null,
                    $"/Design/Publish/{type.Draft.Code}#parked"
                );
        foreach (var vocabulary in designs.Vocabularies.Values.Select(v => v.Vocabulary))
            if (vocabulary.Terms.Count(t => t.Status == TermStatus.Proposed) is > 0 and var proposed)
                yield return new(
                    $"New words: {vocabulary.Name}",
                    $"{Counted.Of(proposed, "word")} to review",
                    LedgerStore.LastAbout(c, new LedgerSubject(SubjectKind.Vocabulary, vocabulary.Key))?.Moment,
                    $"/Design/Review/{vocabulary.Key}"
                );
        foreach (var type in types.Where(t => t.DraftOpen))
            yield return new(
                $"Draft: {type.Draft.Name}",
                type.Version == 0 ? "Never published" : $"Changes since version {type.Version} to publish",
                LedgerStore.LastAbout(c, new LedgerSubject(SubjectKind.Type, type.Draft.Code))?.Moment,
                $"/Design/Type/{type.Draft.Code}"
            );
        foreach (var (reader, field) in watch.Falling(c))
            yield return new(
                $"{reader.Name} reads {designs.LabelOf(reader.TypeCode, field.Field)} worse",
                $"{field.Shares[^1]:P0} accepted as read in the last seven days; {Counted.Of(field.Documents, "document")} corrected",
                null,
                $"/Readers/Reader/{reader.Key}#watching"
            );
        if (types.Any(t => t.Version > 0) && ReaderStore.All(c).Count == 0)
            yield return new("No readers yet", "Teach one on a sample page.", null, "/Readers");
        foreach (var inventory in InventoryStore.All(c).Where(i => Waves.Of(c, i.Id).All(w => w.State == RunState.Undone)))
            yield return new($"Inventory: {inventory.Name}", "Not migrated yet", null, $"/Migration/Inventory/{inventory.Id}");
    }

    private static IEnumerable<WentWrong> Wrong(SqliteConnection c, Rights rights, Func<string?, bool> sees, DateTimeOffset since)
    {
        foreach (var (job, at) in JobStore.Failed(c, since).Where(f => May(f.Job, rights)))
            yield return new(
                job.State == JobState.Stopped ? $"Stopped: {job.Title}" : job.Title,
                job.Problem ?? $"{job.Done:N0} of {job.Total:N0} done",
                at,
                job.Page
            );
        if (!rights.WorksTheDesk)
            yield break;
        foreach (
            var (batch, name, at, refused, why) in BatchStore.WithRefusals(c, since).Where(b => sees(BatchStore.Find(c, b.Batch)?.WayIn))
        )
            yield return new($"{name}: {Counted.Of(refused, "file")} refused", why, at, $"/Desk?batch={batch}");
    }

    // What a line is about by its name, where it is found for whoever may go there, and whether its page can undo just that.
    private static DoneLately Lately(SqliteConnection c, LedgerEntry line, bool steward)
    {
        var subject = line.Subject ?? new LedgerSubject(SubjectKind.Records, line.Object);
        var number = subject.Number ?? 0;
        var (name, address) = subject.Kind switch
        {
            SubjectKind.Document => DocumentStore.Find(c, number) is { } document
                ? (document.Name ?? document.SourceName, $"/{(document.Filed ? "Repository" : "Desk")}/Document/{number}")
                : default,
            SubjectKind.Batch => (BatchStore.NameOf(c, number), $"/Desk?batch={number}"),
            SubjectKind.Type => (DesignStore.Find(c, subject.Id)?.Draft.Name, $"/Design/Type/{subject.Id}"),
            SubjectKind.Vocabulary => (VocabularyStore.Find(c, subject.Id)?.Name, $"/Design/Vocabulary/{subject.Id}"),
            SubjectKind.Reader => (ReaderStore.Find(c, subject.Id)?.Name, $"/Readers/Reader/{subject.Id}"),
            SubjectKind.Pile => (PileStore.Find(c, number)?.Name, $"/Readers/Pile/{number}"),
            SubjectKind.Inventory => (InventoryStore.Find(c, number)?.Name, $"/Migration/Inventory/{number}"),
            _ => default((string? Name, string? Address)),
        };
        if (string.IsNullOrEmpty(name))
            return new(line, line.Object, null, null);
        if (!steward && subject.Kind is not (SubjectKind.Document or SubjectKind.Batch))
            return new(line, name, null, null);
        var undoes = line.Event == LedgerEvent.Undoable && LedgerStore.LastAbout(c, subject)?.Seq == line.Seq;
        return new(line, name, address, undoes ? $"{address}?handler=Undo" : null);
    }

    // What waits now and came by a day's end, waited then; so did what was filed after it.
    private List<DeskDay> DeskDays(SqliteConnection c, List<WaitingBatch> batches)
    {
        var today = clock.Today();
        var filed = BatchStore
            .FiledByMinute(c, clock.Begins(today.AddDays(1 - Days)))
            .ConvertAll(f => (Filed: clock.DayOf(f.Filed), Brought: clock.DayOf(f.Brought), f.Documents));
        return
        [
            .. Enumerable
                .Range(1 - Days, Days)
                .Select(today.AddDays)
                .Select(day =>
                {
                    bool Waited(WaitingBatch b) => b.Since is not { } since || clock.DayOf(since) <= day;
                    return new DeskDay(
                        day,
                        filed.Where(f => f.Filed == day).Sum(f => f.Documents),
                        batches.Where(Waited).Sum(b => b.Documents)
                            + filed.Where(f => f.Brought <= day && f.Filed > day).Sum(f => f.Documents)
                    );
                }),
        ];
    }

    private static bool May(StoredJob job, Rights rights) =>
        job.Policy == "desk" ? rights.WorksTheDesk : rights.Roles.Contains(Roles.Steward);
}
