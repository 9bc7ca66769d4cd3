using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// Takes filed documents back to the desk, or out of the repository, and puts them back where they stood. The intention is written first,
/// then the file moves into <c>withdrawn/</c>, then the record follows; what a stop leaves between is taken back at the next start. The
/// number that a document had is given to no other.
/// </summary>
public sealed class Withdrawals(Database database, DataFolder folder, Designs designs, TimeProvider clock)
{
    private const int LongestReason = 200;

    private readonly Lock _oneAtATime = new();

    /// <summary>Called between the steps with their names; tests stop the process here.</summary>
    internal Action<string> Checkpoint { get; set; } = _ => { };

    /// <summary>Documents that are out of the repository, the newest first.</summary>
    public List<Withdrawal> Out(int most) => database.Read(c => WithdrawalStore.Out(c, most));

    /// <summary>How a document on the desk, or out of the repository, was withdrawn; null when it was not.</summary>
    public Withdrawal? Of(long document) =>
        database.Read(c => WithdrawalStore.Of(c, document)) is { State: WithdrawalState.Done } done ? done : null;

    /// <summary>Withdraws a filed document.</summary>
    /// <param name="id">The document.</param>
    /// <param name="isOut">Whether it leaves the repository; else it goes back to the desk.</param>
    /// <param name="reason">Why.</param>
    /// <param name="who">Who.</param>
    public Result Withdraw(long id, bool isOut, string reason, string who)
    {
        if (reason.Trim().Length is 0 or > LongestReason)
            return $"Say why, in up to {LongestReason} characters.";
        lock (_oneAtATime)
        {
            if (database.Read(c => DocumentStore.Find(c, id)) is not { Filed: true } document)
                return "There is no such filed document.";
            if (!document.HasFile)
                return "It came by a migration, which has its file; undo its wave instead.";
            var from = folder.InRepository(document.Folder!, document.Name!);
            if (!File.Exists(from) || DataFolder.HashOf(from) != document.FileHash)
                return "The file is not where its record says, or was changed by hand. See the integrity check.";
            var kept = folder.Relative(Path.Combine(folder.Withdrawn, $"{id}-{Guid.NewGuid():N}{Path.GetExtension(document.Name)}"));
            var withdrawal = database.Write(c => WithdrawalStore.Begin(c, document, kept, isOut, reason.Trim(), clock.GetUtcNow(), who));
            return OnDisk(
                withdrawal,
                from,
                folder.Absolute(kept),
                "It stays where it was: ",
                c =>
                {
                    WithdrawalStore.TakeOut(c, document);
                    WithdrawalStore.SetState(c, withdrawal, WithdrawalState.Done);
                    LedgerStore.Append(
                        c,
                        clock.GetUtcNow(),
                        who,
                        isOut ? "withdrew from the repository" : "took back to the desk",
                        LedgerSubject.Document(id),
                        $"{document.Folder}/{document.Name}: {reason.Trim()}"
                    );
                },
                c => WithdrawalStore.Drop(c, withdrawal)
            );
        }
    }

    /// <summary>Puts a document back where it stood, as long as it has not been filed anew.</summary>
    public Result PutBack(long id, string who)
    {
        lock (_oneAtATime)
        {
            var (document, withdrawal) = database.Read(c => (DocumentStore.Find(c, id), WithdrawalStore.Of(c, id)));
            if (document is not { Filed: false, TypeCode: { } code } || withdrawal is not { State: WithdrawalState.Done } before)
                return "This document is not withdrawn, or has been filed again.";
            if (!designs.Published.TryGetValue(code, out var published))
                return "Its document type is no longer published.";
            if (database.Read(c => PageStore.NewestAct(c, id)) is not null)
                return "Its pages were changed since, so that its file is another one; file it from the desk.";
            var (from, to) = (folder.Absolute(before.Kept), folder.InRepository(before.Folder, before.Name));
            if (!File.Exists(from) || DataFolder.HashOf(from) != document.FileHash)
                return "Its file is no longer kept, or was changed by hand.";
            if (File.Exists(to) || database.Read(c => RepositoryStore.At(c, before.Folder, before.Name, id)) is not null)
                return $"Another document is at “{before.Folder}/{before.Name}” now; file it from the desk.";
            var judged = database.Read(c => JudgedDocument.Of(c, designs, document, who));
            if (judged.Judged?.Problems.FirstOrDefault(p => p.Level == Level.Must) is { } problem)
                return problem.In(Messages.English);
            database.Write(c => WithdrawalStore.SetState(c, before.Id, WithdrawalState.Returning));
            return OnDisk(
                before.Id,
                from,
                to,
                "It stays withdrawn: ",
                c =>
                {
                    WithdrawalStore.PutBack(c, document, before);
                    Rebuilding.Keep(c, DocumentStore.Find(c, id)!, published.Type);
                    WithdrawalStore.SetState(c, before.Id, WithdrawalState.Undone);
                    LedgerStore.Append(
                        c,
                        clock.GetUtcNow(),
                        who,
                        "put back into the repository",
                        LedgerSubject.Document(id),
                        $"{before.Folder}/{before.Name}",
                        LedgerEvent.Filed
                    );
                },
                c => WithdrawalStore.SetState(c, before.Id, WithdrawalState.Done)
            );
        }
    }

    private Result OnDisk(
        long withdrawal,
        string from,
        string to,
        string stays,
        Action<SqliteConnection> record,
        Action<SqliteConnection> not
    )
    {
        Checkpoint("journaled");
        try
        {
            Directory.CreateDirectory(Path.GetDirectoryName(to)!);
            folder.Disk.Move(from, to);
            folder.Disk.FlushFolders(Path.GetDirectoryName(to)!, folder.Root);
            folder.Disk.FlushFolders(Path.GetDirectoryName(from)!, folder.Root);
            Checkpoint("moved");
            database.Write(c =>
            {
                record(c);
                Checkpoint("recording");
            });
            return Result.Done;
        }
        catch (Exception e) when (Failures.IsFromOutside(e))
        {
            if (!File.Exists(from) && File.Exists(to))
                File.Move(to, from, overwrite: false);
            database.Write(not);
            return stays + Failures.InWords(e);
        }
    }

    /// <summary>Takes back what a stop left half done. Call once at start.</summary>
    public int Recover()
    {
        var unfinished = database.Read(WithdrawalStore.Unfinished);
        foreach (var one in unfinished)
        {
            var (kept, place) = (folder.Absolute(one.Kept), folder.InRepository(one.Folder, one.Name));
            var hash = database.Read(c => DocumentStore.Find(c, one.Document))?.FileHash;
            // The record did not follow, so the file goes back where it was, if it is the one that moved.
            var (was, now) = one.State == WithdrawalState.Begun ? (place, kept) : (kept, place);
            if (!File.Exists(was) && File.Exists(now) && DataFolder.HashOf(now) == hash)
            {
                Directory.CreateDirectory(Path.GetDirectoryName(was)!);
                File.Move(now, was, overwrite: false);
            }
            database.Write(c =>
            {
                if (one.State == WithdrawalState.Begun)
                    WithdrawalStore.Drop(c, one.Id);
                else
                    WithdrawalStore.SetState(c, one.Id, WithdrawalState.Done);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    "start-up",
                    "undid an interrupted withdrawal",
                    LedgerSubject.Document(one.Document)
                );
            });
        }
        return unfinished.Count;
    }
}
