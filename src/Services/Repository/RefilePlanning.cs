using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>A document that a re-file run would move.</summary>
/// <param name="Id">The document.</param>
/// <param name="FromFolder">Its folder now.</param>
/// <param name="FromName">Its name now.</param>
/// <param name="ToFolder">Its folder afterwards.</param>
/// <param name="ToName">Its name afterwards.</param>
/// <param name="Naming">What it is named by besides its values.</param>
public sealed record PlannedMove(long Id, string FromFolder, string FromName, string ToFolder, string ToName, Naming Naming);

/// <summary>What a re-file run would do.</summary>
/// <param name="Version">The published version whose convention it follows.</param>
/// <param name="Moves">What would move.</param>
/// <param name="Stay">How many stay where they are.</param>
/// <param name="Held">Documents that have no place, with the reasons.</param>
/// <param name="Tree">The repository before and after.</param>
/// <param name="Numbers">Counters that it would take numbers from: the last number given, and the last that it takes.</param>
public sealed record RefilePlan(
    int Version,
    IReadOnlyList<PlannedMove> Moves,
    int Stay,
    IReadOnlyList<string> Held,
    PathTree Tree,
    IReadOnlyDictionary<string, (int Seen, int Last)> Numbers
);

/// <summary>Works out what a changed convention would move; nothing is changed.</summary>
internal sealed class RefilePlanning(Database database, Designs designs)
{
    /// <summary>
    /// Works out what would move; nothing is changed. Null when the type is not published. The documents are walked twice, first for the
    /// places that are left, then for the new ones, so that only what moves is kept in memory.
    /// </summary>
    /// <param name="code">The type.</param>
    /// <param name="job">Where its progress goes.</param>
    /// <param name="own">By counter, the last number before those that nobody else is given any more.</param>
    /// <param name="cancel">Stops it.</param>
    public RefilePlan? Plan(string code, Job? job, IReadOnlyDictionary<string, int>? own, CancellationToken cancel)
    {
        if (!designs.Published.TryGetValue(code, out var published))
            return null;
        var convention = published.Type.Convention;
        using var c = database.Connect();
        var tree = new PathTree();
        foreach (var (path, count) in RepositoryStore.Folders(c))
            tree.Has(path, count);
        var taken = new HashSet<string>(StringComparer.Ordinal);
        RepositoryStore.EachPlace(c, (f, n) => taken.Add(Database.PlaceKey(f, n)));
        var numbers = new Dictionary<string, (int Seen, int Last)>(StringComparer.Ordinal);
        var spelled = new TakenNames();
        var (stay, held, planned) = (0, new List<string>(), new List<PlannedMove>());
        Placement Render(FieldValue[] values, CheckContext now, int number)
        {
            var at = convention.Render(values, now, number);
            return at with { Folder = spelled.Spelled(at.Folder) };
        }
        void Each(Action<StoredDocument, FieldValue[], CheckContext, Placement> visit) =>
            RepositoryStore.Each(
                c,
                code,
                document =>
                {
                    cancel.ThrowIfCancellationRequested();
                    var now = Moves.Around(c, designs, document);
                    var values = published.Type.Read(RecordJudge.Texts(published.Type, document.Record), now);
                    visit(document, values, now, Render(values, now, document.PlaceNumber));
                    job?.Step();
                }
            );
        Each(
            (document, values, now, place) =>
            {
                // Numbers that documents have and keep are given to nobody else.
                if (
                    document.Number > 0
                    && convention.AlwaysCounts
                    && convention.CounterKey(values, now) is var kept
                    && own?.ContainsKey(kept) != true
                    && (!numbers.TryGetValue(kept, out var known) || known.Last < document.Number)
                )
                    numbers[kept] = (
                        known.Last > 0 ? known.Seen : CounterStore.Last(c, kept),
                        Math.Max(document.Number, CounterStore.Last(c, kept))
                    );
                if (place.Problem is { } problem)
                    held.Add($"{document.Folder}/{document.Name}: {problem.Message}");
                else if (Moves.StandsAt(document, place))
                    stay++;
                // The places that are left become free before the new ones are given.
                else
                    taken.Remove(Database.PlaceKey(document.Folder!, document.Name!));
            }
        );
        Each(
            (document, values, now, place) =>
            {
                if (place.Problem is not null || Moves.StandsAt(document, place))
                    return;
                var extension = Path.GetExtension(document.Name!);
                var number =
                    document.Number > 0 ? document.Number
                    : convention.AlwaysCounts ? 0
                    : 1;
                if (number == 0 || !taken.Add(Database.PlaceKey(place.Folder, place.Name + extension)))
                {
                    var key = convention.CounterKey(values, now);
                    var seen =
                        numbers.TryGetValue(key, out var counter) ? counter.Seen
                        : own?.TryGetValue(key, out var from) == true ? from
                        : CounterStore.Last(c, key);
                    var last = counter.Last > 0 ? counter.Last : Math.Max(seen, convention.AlwaysCounts ? 0 : 1);
                    do place = Render(values, now, number = ++last);
                    while (place.Problem is null && !taken.Add(Database.PlaceKey(place.Folder, place.Name + extension)));
                    numbers[key] = (seen, last);
                    if (place.Problem is { } problem)
                    {
                        held.Add($"{document.Folder}/{document.Name}: {problem.Message}");
                        return;
                    }
                    if (place.Folder == document.Folder && place.Name + extension == document.Name)
                    {
                        stay++;
                        return;
                    }
                }
                planned.Add(
                    new PlannedMove(
                        document.Id,
                        document.Folder!,
                        document.Name!,
                        place.Folder,
                        place.Name + extension,
                        Placing.Kept(now, convention.AlwaysCounts || number > 1 ? number : 0)
                    )
                );
                tree.Loses(document.Folder!);
                tree.Adds(place.Folder);
            }
        );
        return new RefilePlan(published.Version, planned, stay, held, tree, numbers);
    }
}
