using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>Saved questions to the repository.</summary>
public sealed class Views(Database database, SearchRequests requests, TimeProvider clock)
{
    /// <summary>Longest name, in characters.</summary>
    public const int LongestName = 80;

    /// <summary>Most views whose documents are counted on one page.</summary>
    public const int MostCounted = 12;

    /// <summary>
    /// Views that a person sees, their own first. A shared one that asks for what they may not see says it in its question, so it is none
    /// of theirs.
    /// </summary>
    public List<StoredView> SeenBy(string who, Rights rights) => database.Read(c => SeenBy(c, who, rights));

    private List<StoredView> SeenBy(Microsoft.Data.Sqlite.SqliteConnection c, string who, Rights rights)
    {
        var seen = ViewStore.SeenBy(c, who, rights.Roles);
        return rights.SeesRestricted ? seen : seen.FindAll(v => v.Owner == who || requests.For(v.Asks, rights).Fault is null);
    }

    /// <summary>The view of a name: a person's own before one that is shared with them.</summary>
    public StoredView? Find(string name, string who, Rights rights)
    {
        var key = Folding.Letters(name);
        return SeenBy(who, rights).Find(v => Folding.Letters(v.Name) == key);
    }

    /// <summary>How many documents the first views of a person find; null where a view cannot be asked any more.</summary>
    public List<(StoredView View, FoundCount? Count)> Counts(string who, Rights rights) =>
        database.Read(c =>
            SeenBy(c, who, rights)
                .Take(MostCounted)
                .Select(v =>
                    (v, requests.For(v.Asks, rights) is { Fault: null } asked ? RepositorySearch.Count(c, asked.Query) : (FoundCount?)null)
                )
                .ToList()
        );

    /// <summary>Saves a question under a name, in place of a person's view that has the name.</summary>
    /// <param name="name">The name.</param>
    /// <param name="sharedWith">A role, <see cref="ViewStore.Everyone"/>, or empty for only the person.</param>
    /// <param name="asks">The question.</param>
    /// <param name="who">Who.</param>
    /// <param name="rights">What they may do: only stewards share.</param>
    public Result<long> Save(string name, string sharedWith, ViewDefinition asks, string who, Rights rights)
    {
        name = name.Trim();
        if (Folding.Letters(name).Length == 0)
            return Result<long>.Not("Give the view a name.");
        if (name.Length > LongestName)
            return Result<long>.Not($"The name has {name.Length} characters; {LongestName} are the most.");
        if (sharedWith.Length > 0 && (!rights.Designs || sharedWith != ViewStore.Everyone && !Roles.All.Contains(sharedWith)))
            return Result<long>.Not("Only a steward shares a view, with a role or with everyone.");
        var asked = requests.For(asks, rights);
        if (asked.Fault is { } fault)
            return Result<long>.Not(fault.Says);
        return database.Write(c =>
        {
            var id = ViewStore.Save(
                c,
                who,
                name,
                Folding.Letters(name),
                sharedWith.Length > 0 ? sharedWith : null,
                asks with
                {
                    Ask = asked.Ask,
                },
                clock.GetUtcNow()
            );
            LedgerStore.Append(c, clock.GetUtcNow(), who, "saved a view", new LedgerSubject(SubjectKind.View, name));
            return id;
        });
    }

    /// <summary>The keys of fields that a person named by their labels, separated by commas.</summary>
    public static Result<List<string>> Columns(string named, TypeFields fields)
    {
        var keys = new List<string>();
        foreach (var name in named.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
            if (fields.FindNamed(name) is { } field)
                keys.Add(field.Key);
            else
                return Result<List<string>>.Not($"“{name}” is not a field of this document type.");
        return keys.Distinct(StringComparer.Ordinal).ToList();
    }

    /// <summary>Takes a view of a person away.</summary>
    public Result<string> Remove(long id, string who) => SetRemoved(id, who, clock.GetUtcNow(), "removed a view");

    /// <summary>Puts a view back that was taken away.</summary>
    public Result<string> PutBack(long id, string who) => SetRemoved(id, who, null, "put a view back");

    private Result<string> SetRemoved(long id, string who, DateTimeOffset? at, string act) =>
        database.Write(c =>
        {
            if (ViewStore.SetRemoved(c, id, who, at) is not { } name)
                return Result<string>.Not("You have no such view.");
            LedgerStore.Append(c, clock.GetUtcNow(), who, act, new LedgerSubject(SubjectKind.View, name));
            return name;
        });
}
