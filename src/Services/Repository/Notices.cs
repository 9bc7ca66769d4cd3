using System.Globalization;
using System.Text.Json;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// Tells people of filed and changed documents. What happened is read from the ledger and from the history of values, behind the act
/// itself, so that nobody waits for it and no way of changing a document is forgotten. Each person is told only of what a question asked
/// with their own rights finds.
/// </summary>
public sealed class Notices(Database database, SearchRequests requests, TimeProvider clock)
{
    /// <summary>Most that is told in a list, and counted as new.</summary>
    public const int Most = 200;

    /// <summary>Events of the past that a dry run goes through at most.</summary>
    public const int MostTried = 5_000;

    private const int AtOnce = 200;
    private const int LongestName = 80;
    private const string PlaceKey = "notices: place";

    private sealed record Place(long Ledger, long History);

    /// <summary>All rules.</summary>
    public List<NoticeRule> Rules() => database.Read(NoticeStore.All);

    /// <summary>Why a rule cannot be kept as it is; null when it can.</summary>
    public string? WhyNot(NoticeRule rule, Rights rights)
    {
        if (rule.Name.Trim().Length is 0 or > LongestName)
            return $"It needs a name of up to {LongestName} characters.";
        if (!rule.OnFiled && !rule.OnChanged)
            return "Say whether somebody is told when one is filed, or when one is changed.";
        var asked = requests.For(rule.Asks, rights);
        if (asked.Fault is { } fault)
            return fault.Says;
        if (asked.Type is null)
            return "Choose a document type first: fields belong to types.";
        return database.Read(c => People(c, rule.ToWhom)).Count == 0 ? $"“{rule.ToWhom}” is neither a role nor a person’s name." : null;
    }

    /// <summary>Keeps a rule.</summary>
    /// <param name="rule">The rule; a new one has the id 0.</param>
    /// <param name="who">Who keeps it.</param>
    /// <param name="rights">What they may see.</param>
    /// <param name="guard">Says why it must not be saved over what is there; null when it may.</param>
    public Result Save(NoticeRule rule, string who, Rights rights, Func<NoticeRule?, string?>? guard = null)
    {
        if (WhyNot(rule, rights) is { } problem)
            return problem;
        return database.Write<Result>(c =>
        {
            var was = NoticeStore.All(c).Find(r => r.Id == rule.Id);
            if (rule.Id != 0 && was is null)
                return "Somebody has removed this rule in the meantime.";
            if (rule.Id != 0 && guard?.Invoke(was) is { } changed)
                return changed;
            NoticeStore.Put(c, rule with { Name = rule.Name.Trim(), MadeBy = who });
            // What happened before anybody asked to be told is told to nobody.
            if (SettingStore.Find(c, PlaceKey) is null)
                Keep(c, NoticeStore.Ends(c));
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "kept a notice",
                new LedgerSubject(SubjectKind.Notice, rule.Name.Trim()),
                rule.ToWhom
            );
            return Result.Done;
        });
    }

    /// <summary>Removes a rule with what was told by it.</summary>
    public Result Remove(long id, string who) =>
        database.Write<Result>(c =>
        {
            if (NoticeStore.All(c).FirstOrDefault(r => r.Id == id) is not { } rule)
                return "There is no such rule.";
            NoticeStore.Remove(c, id);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "removed a notice", new LedgerSubject(SubjectKind.Notice, rule.Name));
            return Result.Done;
        });

    /// <summary>How many notices a rule would have made in the last month, for everybody together; nothing is told.</summary>
    /// <returns>The number, and whether there may be more because more happened than is gone through.</returns>
    public FoundCount LastMonth(NoticeRule rule) =>
        database.Read(c =>
        {
            var (ledger, history) = NoticeStore.Since(c, clock.GetUtcNow().AddDays(-30), MostTried);
            var people = People(c, rule.ToWhom);
            var told = new HashSet<(long, long, string)>();
            foreach (var (document, what) in Events(c, ledger, history, MostTried).Events)
            foreach (var person in people.Where(_ => Wanted(rule, what)))
                if (IsFor(c, rule, person, document))
                    told.Add((document, person.Id, what));
            var ends = NoticeStore.Ends(c);
            return new FoundCount(told.Count, ends.Ledger - ledger >= MostTried || ends.History - history >= MostTried);
        });

    /// <summary>What a person was told, what is new first.</summary>
    public List<Notice> Of(string who) =>
        database.Read(c => PeopleStore.Find(c, who) is { } person ? NoticeStore.Of(c, person.Id, Most) : []);

    /// <summary>How much of it is new.</summary>
    public FoundCount New(string who) =>
        database.Read(c =>
            PeopleStore.Find(c, who) is { } person && NoticeStore.CountNew(c, person.Id, Most + 1) is var n
                ? new FoundCount(Math.Min(n, Most), n > Most)
                : default
        );

    /// <summary>Notes that a person has seen what they were told, up to one.</summary>
    public void SetSeen(string who, long upTo) =>
        database.Write(c =>
        {
            if (PeopleStore.Find(c, who) is { } person)
                NoticeStore.SetSeen(c, person.Id, upTo);
        });

    /// <summary>Tells what has happened since the last time.</summary>
    /// <returns>How much was told.</returns>
    public int Tick(CancellationToken cancel = default)
    {
        var told = 0;
        while (!cancel.IsCancellationRequested && database.Read(Next) is var (found, place))
        {
            database.Write(c =>
            {
                foreach (var (rule, document, person, what) in found)
                    NoticeStore.Tell(c, rule, document, person.Id, what, person.Email.Length > 0, clock.GetUtcNow());
                Keep(c, place);
            });
            told += found.Count;
        }
        return told;
    }

    // What is told next, and how far that goes; null when nothing has happened. Asked without the writer, so that nobody waits.
    private (List<(long Rule, long Document, Person Person, string What)> Found, (long, long) Place)? Next(SqliteConnection c)
    {
        if (SettingStore.Find(c, PlaceKey) is not { } kept)
            return null;
        var place = JsonSerializer.Deserialize<Place>(kept, Sql.Json)!;
        var (events, ledger, history) = Events(c, place.Ledger, place.History, AtOnce);
        if ((ledger, history) == (place.Ledger, place.History))
            return null;
        // People with the same roles are told the same.
        var rules = NoticeStore
            .All(c)
            .ConvertAll(r =>
                (Rule: r, People: People(c, r.ToWhom).GroupBy(p => string.Join(' ', p.Roles)).Select(g => g.ToList()).ToList())
            );
        return (
            [
                .. from e in events
                from r in rules
                where Wanted(r.Rule, e.What)
                from alike in r.People
                where IsFor(c, r.Rule, alike[0], e.Document)
                from person in alike
                select (r.Rule.Id, e.Document, person, e.What),
            ],
            (ledger, history)
        );
    }

    // One that was filed meanwhile is told as filed and not as changed.
    private static (List<(long Document, string What)> Events, long Ledger, long History) Events(
        SqliteConnection c,
        long ledger,
        long history,
        int most
    )
    {
        var (filed, reachedLedger) = NoticeStore.Filed(c, ledger, most);
        var (changed, reachedHistory) = NoticeStore.Changed(c, history, most);
        var fresh = filed.Select(f => f.Document).ToHashSet();
        return (
            [.. fresh.Select(d => (d, "filed")), .. changed.Where(d => !fresh.Contains(d.Document)).Select(d => (d.Document, "changed"))],
            reachedLedger,
            reachedHistory
        );
    }

    private static bool Wanted(NoticeRule rule, string what) => what == "filed" ? rule.OnFiled : rule.OnChanged;

    // Asked with the person's own rights: of what they may not see they are not told either.
    private bool IsFor(SqliteConnection c, NoticeRule rule, Person person, long document)
    {
        var rights = new Rights(person.Roles);
        var asked = requests.For(rule.Asks, rights);
        return asked.Fault is null
            && DocumentStore.Find(c, document) is { Filed: true } found
            && found.TypeCode == asked.Type?.Code
            && rights.Sees(found)
            && RepositorySearch.Count(c, asked.Query with { Only = document }).Number > 0;
    }

    private static List<Person> People(SqliteConnection c, string toWhom) =>
        Roles.All.Contains(toWhom) ? [.. PeopleStore.All(c).Where(p => p.Roles.Contains(toWhom))]
        : PeopleStore.Find(c, toWhom) is { } one ? [one]
        : [];

    private static void Keep(SqliteConnection c, (long Ledger, long History) place) =>
        SettingStore.Set(c, PlaceKey, Sql.ToJson(new Place(place.Ledger, place.History)));

    /// <summary>The first moment of today, as it is kept.</summary>
    internal Instant Today => new(clock.Begins(clock.Today()));
}
