using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Design;

/// <summary>Vocabularies and reference tables as a transaction under way sees them.</summary>
/// <param name="Vocabularies">Vocabularies by key.</param>
/// <param name="Tables">Reference tables by key.</param>
internal sealed record DesignContext(
    IReadOnlyDictionary<string, VocabularyIndex> Vocabularies,
    IReadOnlyDictionary<string, ReferenceTable> Tables
);

/// <summary>Designs under work: make types, change drafts, take changes back, publish.</summary>
public sealed class Drafts(Database database, Designs designs, Rebuilding rebuilding, TimeProvider clock)
{
    /// <summary>Findings of a draft.</summary>
    public List<Finding> Findings(DocumentType draft) => database.Read(c => Findings(c, draft, null));

    // Inside a larger whole, what it has made already is known to nobody else yet.
    private List<Finding> Findings(SqliteConnection c, DocumentType draft, DesignContext? known) =>
        [
            .. draft
                .Groups.Concat(draft.Refines is { } parent ? [parent] : [])
                .Where(code => DesignStore.Find(c, code) is { Version: 0 })
                .Select(code => new Finding(
                    "not-published",
                    Level.Must,
                    $"Publish “{DesignStore.Find(c, code)!.Draft.Name}” first; this type takes parts of it.",
                    "fields"
                )),
            .. DesignCheck.Findings(
                draft,
                new DesignSurroundings(
                    known?.Vocabularies ?? designs.Vocabularies,
                    known?.Tables ?? designs.Tables,
                    code => Designs.Source(c, code),
                    designs.Now(c, EntryChannel.Desk, "")
                )
                {
                    Readers = ReaderStore.All(c),
                    Published = [.. designs.Published.Values.Select(p => p.Type)],
                    Types = [.. DesignStore.All(c).Where(t => !t.Draft.IsGroup).Select(t => t.Draft.Code)],
                    Languages = [.. PeopleStore.All(c).Select(p => p.Language).Distinct()],
                }
            ),
        ];

    /// <summary>Makes an empty document type, or field group, and returns its code.</summary>
    public Result<string> Create(string name, string who, bool group = false, string? refines = null)
    {
        name = name.Trim();
        var code = ShortName.From(name);
        if (code.Length == 0 || name.Length > DesignCheck.LongestName)
            return Result<string>.Not($"Write a name with letters, of at most {DesignCheck.LongestName} characters.");
        return database.Write<Result<string>>(c =>
        {
            if (refines is not null && DesignStore.Find(c, refines) is not { Draft.IsGroup: false })
                return Result<string>.Not($"There is no document type “{refines}” to refine.");
            if (!DesignStore.Add(c, DocumentType.Empty(code, name) with { IsGroup = group, Refines = refines }))
                return Result<string>.Not($"“{name}” exists already.");
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                group ? "created a field group" : "created a document type",
                new LedgerSubject(SubjectKind.Type, code)
            );
            return code;
        });
    }

    /// <summary>Changes a draft; the change can be taken back until the next publishing.</summary>
    /// <param name="code">The document type.</param>
    /// <param name="change">What is being done, as undo will name it.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="edit">Makes the new draft of the one before, or says why not. It only computes: what else the edit needs is written by
    /// <paramref name="also"/>.</param>
    /// <param name="also">What else is written in the same transaction; when it is refused, nothing is kept.</param>
    public Result Change(
        string code,
        string change,
        string who,
        Func<DocumentType, Result<DocumentType>> edit,
        Func<SqliteConnection, Result>? also = null
    ) =>
        database.WriteIf<Result>(
            c =>
            {
                if (DesignStore.Find(c, code) is not { } state)
                    return $"There is no document type “{code}”.";
                var edited = edit(state.Draft);
                if (!edited.Ok)
                    return edited.Problem!;
                if (Sql.AreSame(edited.Value, state.Draft))
                    return Result.Done;
                DesignStore.SaveDraft(c, edited.Value!, change);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    who,
                    change,
                    new LedgerSubject(SubjectKind.Type, code),
                    what: LedgerEvent.Undoable
                );
                return also?.Invoke(c) ?? Result.Done;
            },
            static r => r.Ok
        );

    /// <summary>Takes the last change back; returns what it was.</summary>
    public string? Undo(string code, string who) =>
        database.Write(c =>
        {
            var undone = DesignStore.Undo(c, code);
            if (undone is not null)
                LedgerStore.Append(c, clock.GetUtcNow(), who, "undid: " + undone, new LedgerSubject(SubjectKind.Type, code));
            return undone;
        });

    /// <summary>
    /// Publishes the draft as the next version, unless a must-finding stands against it. Published types that take parts of it
    /// get a version of their own with the new parts; when one of them could not, nothing is published.
    /// </summary>
    /// <param name="code">The type or group.</param>
    /// <param name="who">Who publishes.</param>
    /// <param name="seen">The version that the person saw as the newest; when another one has come since, nothing is published.</param>
    /// <param name="also">What else is done in the same transaction, with the new version.</param>
    /// <returns>The version, and the names of the types that followed.</returns>
    public Result<(int Version, IReadOnlyList<string> Followed)> Publish(
        string code,
        string who,
        int? seen = null,
        Action<SqliteConnection, int>? also = null
    )
    {
        try
        {
            return database.WriteIf(c => Publish(c, code, who, seen, also), static r => r.Ok);
        }
        catch (RefusedException e)
        {
            return Not(e.Message);
        }
        finally
        {
            AfterPublishing();
        }
    }

    /// <summary>Starts what follows from what a transaction has published. Call outside of any transaction.</summary>
    internal void AfterPublishing() => rebuilding.StartDue();

    private static Result<(int Version, IReadOnlyList<string> Followed)> Not(string problem) =>
        Result<(int, IReadOnlyList<string>)>.Not(problem);

    /// <summary>Publishes in the transaction of a larger whole, which is dropped when this is refused.</summary>
    internal Result<(int Version, IReadOnlyList<string> Followed)> Publish(
        SqliteConnection c,
        string code,
        string who,
        int? seen = null,
        Action<SqliteConnection, int>? also = null,
        DesignContext? known = null
    )
    {
        if (DesignStore.Find(c, code) is not { } state)
            return Not($"There is no document type “{code}”.");
        if (seen is { } newest && newest != state.Version)
            return Not(
                $"{DesignStore.Versions(c, code)[0].PublishedBy} has published version {state.Version} in between. Look at the "
                    + "consequences again."
            );
        if (!state.DraftOpen)
            return Not($"Nothing has changed since version {state.Version}.");
        if (Findings(c, state.Draft, known).FirstOrDefault(f => f.Level == Level.Must) is { } finding)
            return Not(finding.Text);
        int Put(DocumentType source, bool draftStays)
        {
            var whole = Inheritance.Resolve(source, x => Designs.Source(c, x));
            Rebuilding.Mark(c, DesignStore.Versions(c, source.Code) is [var was, ..] ? was.Design : null, whole);
            return DesignStore.Publish(c, whole, source, draftStays, clock.GetUtcNow(), who);
        }
        var version = Put(state.Draft, draftStays: false);
        LedgerStore.Append(c, clock.GetUtcNow(), who, $"published version {version}", new LedgerSubject(SubjectKind.Type, code));
        var followed = new List<string>();
        var all = DesignStore.All(c);
        // Whoever takes parts of what was just published follows, and then whoever takes parts of those; a cycle is gone through once.
        var met = new HashSet<string>(StringComparer.Ordinal) { code };
        for (var waiting = new Queue<string>([code]); waiting.TryDequeue(out var changed); )
            foreach (
                var (dependent, source) in all.Select(t => (t, DesignStore.Versions(c, t.Draft.Code) is [var v, ..] ? v.Source : null))
            )
            {
                if (source is null || !(source.Groups.Contains(changed) || source.Refines == changed) || !met.Add(dependent.Draft.Code))
                    continue;
                if (Findings(c, source, known).FirstOrDefault(f => f.Level == Level.Must) is { } blocks)
                    return Not($"{dependent.Draft.Name} takes parts of this, and would no longer work: {blocks.Text}");
                var next = Put(source, draftStays: true);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    who,
                    $"published version {next}",
                    new LedgerSubject(SubjectKind.Type, dependent.Draft.Code),
                    $"with the parts of {code}"
                );
                followed.Add(dependent.Draft.Name);
                waiting.Enqueue(dependent.Draft.Code);
            }
        also?.Invoke(c, version);
        return (version, followed);
    }
}
