using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// Moves filed documents: file and record together or not at all, also when the process is killed. The intention is
/// journaled, the file moves without ever overwriting, then record and end of the intention are one transaction. A file that
/// was moved or changed by hand is never touched.
/// </summary>
public sealed class Moves(Database database, DataFolder folder, Designs designs, TimeProvider clock)
{
    private const int MostAttempts = 5;
    private const string Taken = " is taken.";

    private readonly Lock _oneAtATime = new();

    /// <summary>Called between the steps with their names; tests stop the process here.</summary>
    internal Action<string> Checkpoint { get; set; } = _ => { };

    /// <summary>Moves of a document, newest first.</summary>
    public List<Move> Of(long id) => database.Read(c => MoveStore.Of(c, id));

    /// <summary>
    /// Where a filed document belongs by its values now, when that is elsewhere; null when it stands right or has no place.
    /// </summary>
    public string? PathByValues(long id) =>
        database.Read(c =>
            DocumentStore.Find(c, id) is { Filed: true } d
            && Target(c, d) is { Place.At.Problem: null } target
            && !StandsAt(d, target.Place.At)
                ? $"{target.Place.At.Path}{Path.GetExtension(d.Name)}"
                : null
        );

    /// <summary>
    /// What the path of a filed document says otherwise than its record, read back by the convention: label and key of the field, what the
    /// path says, what the record says. Restricted fields and values that a path does not keep are not among them.
    /// </summary>
    public List<(string Label, string Field, string InPath, string InRecord)> PathSays(long id) =>
        database.Read(c => DocumentStore.Find(c, id) is { Filed: true } d ? PathSays(c, d) : []);

    internal List<(string Label, string Field, string InPath, string InRecord)> PathSays(
        SqliteConnection c,
        StoredDocument document,
        PathReader? reader = null
    )
    {
        if (document.TypeCode is not { } code || !designs.Published.TryGetValue(code, out var published))
            return [];
        var now = Around(c, designs, document);
        var path = $"{(document.Folder!.Length > 0 ? document.Folder + "/" : "")}{Path.GetFileNameWithoutExtension(document.Name)}";
        var values = published.Type.Read(RecordJudge.Texts(published.Type, document.Record), now);
        // A number that tells two documents apart may be read as part of a value; the record knows better.
        if (published.Type.Convention.Render(values, now, document.PlaceNumber).Path == path)
            return [];
        var reading = (reader ?? published.Type.PathReader()).Read(path, now);
        if (!reading.Fits)
            return [];
        return
        [
            .. from said in reading.Values
            where !reading.Unsure.Contains(said.Key)
            let field = published.Type.Type.Find(said.Key)
            let held = values[published.Type.OrdinalOf(said.Key)].Text
            where !field.Restricted && held != said.Value
            select (field.Label, said.Key, said.Value, held),
        ];
    }

    /// <summary>Moves a document where it belongs by its values; returns its new path, or the old one when it stands right.</summary>
    public Result<string> Follow(long id, string who)
    {
        lock (_oneAtATime)
        {
            if (database.Read(c => DocumentStore.Find(c, id)) is not { Filed: true } document)
                return Result<string>.Not("There is no such filed document.");
            for (var attempt = 1; ; attempt++)
            {
                if (database.Read(c => Target(c, document)) is not var (place, naming, key))
                    return Result<string>.Not("Its document type is no longer published.");
                if (place.At.Problem is { } problem)
                    return Result<string>.Not(problem.Message);
                var name = place.At.Name + Path.GetExtension(document.Name);
                if (StandsAt(document, place.At))
                    return $"{document.Folder}/{document.Name}";
                var moved = OnDisk(() => Move(null, document, place.At.Folder, name, naming, who, numberOf: key));
                if (moved.Ok)
                    return $"{place.At.Folder}/{name}";
                // Somebody else may have taken the place or the number between; the next ones are found then.
                if (attempt == MostAttempts || !moved.Problem!.EndsWith(Taken, StringComparison.Ordinal))
                    return Result<string>.Not(moved.Problem!);
            }
        }
    }

    /// <summary>Takes a move back.</summary>
    public Result Back(long moveId, long documentId, string who)
    {
        lock (_oneAtATime)
        {
            if (Of(documentId).FirstOrDefault() is not { State: MoveState.Done } last || last.Id != moveId)
                return "Only the last move of a document can be undone.";
            return OnDisk(() => Undo(last, who));
        }
    }

    private static Result OnDisk(Func<Result> move)
    {
        try
        {
            return move();
        }
        catch (Exception e) when (Failures.IsFromOutside(e))
        {
            return Failures.InWords(e);
        }
    }

    /// <summary>Takes one move back; the document must stand where the move has put it.</summary>
    internal Result Undo(Move move, string who)
    {
        if (database.Read(c => DocumentStore.Find(c, move.DocumentId)) is not { Filed: true } document)
            return $"Document {move.DocumentId} is no longer there.";
        if (document.Folder != move.ToFolder || document.Name != move.ToName)
            return $"“{document.Name}” has been moved again since.";
        return Move(null, document, move.FromFolder, move.FromName, move.NamingBefore, who, undoes: move.Id);
    }

    /// <summary>Moves one document to a place.</summary>
    /// <exception cref="IOException">The disk does not take it; nothing has moved.</exception>
    internal Result Move(
        long? run,
        StoredDocument document,
        string toFolder,
        string toName,
        Naming? naming,
        string who,
        string? numberOf = null,
        long? undoes = null
    )
    {
        var hasFile = document.HasFile;
        var from = hasFile ? folder.InRepository(document.Folder!, document.Name!) : "";
        var to = hasFile ? folder.InRepository(toFolder, toName) : "";
        if (hasFile)
        {
            if (!File.Exists(from))
                return $"The file of “{document.Folder}/{document.Name}” is not where its record says; it was moved or removed by hand.";
            if (document.FileHash is { Length: > 0 } hash && DataFolder.HashOf(from) != hash)
                return $"The file “{document.Folder}/{document.Name}” was changed by hand since it was filed; it is left as it is.";
            if (File.Exists(to))
                return $"There is a file at “{toFolder}/{toName}” that no record knows.";
        }
        // Place and number are taken in one transaction, so that nobody else gets them.
        var journal = database.Write(c =>
        {
            if (RepositoryStore.At(c, toFolder, toName, document.Id) is not null)
                return 0;
            if (numberOf is not null && naming!.Counter != document.Number && CounterStore.Last(c, numberOf) >= naming.Counter)
                return 0;
            if (numberOf is not null)
                CounterStore.Take(c, numberOf, naming!.Counter);
            return MoveStore.Begin(c, run, document, toFolder, toName, who, clock.GetUtcNow());
        });
        if (journal == 0)
            return $"“{toFolder}/{toName}”{Taken}";
        Checkpoint("journaled");
        if (hasFile)
        {
            try
            {
                folder.Disk.Move(from, to);
                folder.Disk.FlushFolders(Path.GetDirectoryName(to)!, folder.Root);
                folder.Disk.FlushFolders(Path.GetDirectoryName(from)!, folder.Root);
            }
            catch (IOException e)
            {
                if (!File.Exists(from) && File.Exists(to))
                    File.Move(to, from, overwrite: false);
                database.Write(c => MoveStore.Drop(c, journal));
                throw new PlacedIOException($"“{document.Name}” could not be moved, and stays where it was: {Failures.InWords(e)}", e);
            }
        }
        Checkpoint("moved");
        database.Write(c =>
        {
            Finish(c, journal, document.Id, toFolder, toName, naming, undoes);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                undoes is null ? "moved" : "moved back",
                LedgerSubject.Document(document.Id),
                $"{document.Folder}/{document.Name} → {toFolder}/{toName}"
            );
            Checkpoint("recording");
        });
        if (hasFile)
            RemoveEmptyFolders(Path.GetDirectoryName(from)!);
        return Result.Done;
    }

    private static void Finish(
        SqliteConnection c,
        long journal,
        long documentId,
        string toFolder,
        string toName,
        Naming? naming,
        long? undoes
    )
    {
        DocumentStore.SetPlace(c, documentId, toFolder, toName, naming);
        if (undoes is { } undone)
        {
            MoveStore.SetState(c, undone, MoveState.Undone);
            MoveStore.Drop(c, journal);
        }
        else
            MoveStore.SetState(c, journal, MoveState.Done);
    }

    /// <summary>Takes back moves that a stop left half done. Call once at start.</summary>
    public int Recover()
    {
        var begun = database.Read(MoveStore.Begun);
        foreach (var move in begun)
        {
            var (from, to) = (folder.InRepository(move.FromFolder, move.FromName), folder.InRepository(move.ToFolder, move.ToName));
            var document = database.Read(c => DocumentStore.Find(c, move.DocumentId));
            // The record did not follow, so the file goes back, if it is the one that was moved.
            if (
                document is { HasFile: true }
                && document.Folder == move.FromFolder
                && document.Name == move.FromName
                && !File.Exists(from)
                && File.Exists(to)
                && DataFolder.HashOf(to) == document.FileHash
            )
            {
                Directory.CreateDirectory(Path.GetDirectoryName(from)!);
                File.Move(to, from, overwrite: false);
                RemoveEmptyFolders(Path.GetDirectoryName(to)!);
            }
            database.Write(c =>
            {
                MoveStore.Drop(c, move.Id);
                LedgerStore.Append(c, clock.GetUtcNow(), "start-up", "undid an interrupted move", LedgerSubject.Document(move.DocumentId));
            });
        }
        return begun.Count;
    }

    // The place of a filed document by its values and its published convention, and the counter whose number it takes; null when its type
    // is not published.
    private (FreePlace Place, Naming Naming, string? NumberOf)? Target(SqliteConnection c, StoredDocument document)
    {
        if (document.TypeCode is not { } code || !designs.Published.TryGetValue(code, out var published))
            return null;
        var now = Around(c, designs, document);
        var values = published.Type.Read(RecordJudge.Texts(published.Type, document.Record), now);
        var place = Placing.Find(
            c,
            published.Type.Convention,
            values,
            now,
            new Placed(document.Id, Path.GetExtension(document.Name!), document.Number)
        );
        var numbered = place.TakesNumber(published.Type.Convention);
        return (place, Placing.Kept(now, numbered ? place.Number : 0), numbered ? published.Type.Convention.CounterKey(values, now) : null);
    }

    /// <summary>What surrounded a filed document when it was filed.</summary>
    internal static CheckContext Around(SqliteConnection c, Designs designs, StoredDocument document) =>
        Placing.Around(c, document, Filing(designs, document));

    /// <summary>Day and person of a filing, which the document itself tells.</summary>
    internal static CheckContext Filing(Designs designs, StoredDocument document) =>
        new(document.FiledAt is { } at ? designs.DayOf(at) : default, EntryChannel.Edit, Person: document.FiledBy ?? "");

    internal static bool StandsAt(StoredDocument document, Placement at) =>
        document.Folder == at.Folder && Path.GetFileNameWithoutExtension(document.Name) == at.Name;

    private void RemoveEmptyFolders(string path)
    {
        var root = Path.GetFullPath(folder.Repository);
        for (
            var at = Path.GetFullPath(path);
            at.Length > root.Length
                && at.StartsWith(root, StringComparison.Ordinal)
                && Directory.Exists(at)
                && !Directory.EnumerateFileSystemEntries(at).Any();
            at = Path.GetDirectoryName(at)!
        )
            try
            {
                Directory.Delete(at);
            }
            catch (IOException)
            {
                return;
            }
    }
}
