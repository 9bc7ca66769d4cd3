using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>A label that documents carry, and what they carry afterwards.</summary>
/// <param name="Old">The label now.</param>
/// <param name="New">The label afterwards.</param>
public sealed record Relabelling(string Old, string New);

/// <summary>
/// Lets documents follow a change of a vocabulary. Where few documents are concerned they follow in the transaction of the change; many
/// follow in a job, chunk by chunk, and return the same way. Until then a document's old label is read as a variant of the new one.
/// </summary>
public sealed class Following(Database database, Designs designs, Jobs jobs, DocumentWriter writer, TimeProvider clock) : IWorksInJobs
{
    /// <summary>Documents of the types concerned up to which they follow at once.</summary>
    public const int Few = 1_000;

    private const int ReadAtOnce = 2_000;

    private sealed record OfStep(string Key, long Step, IReadOnlyList<Relabelling> Labels);

    private sealed record BackFrom(string Key, long Step, string Change);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("follow", "Documents follow the vocabulary", "design", Follow),
            JobKind.Of("follow-back", "Documents return to their old terms", "design", Back),
        ];

    /// <summary>What a job of a vocabulary has as its subject.</summary>
    public static string Subject(string key) => $"vocabulary {key}";

    /// <summary>Why a vocabulary cannot be changed now; null when it can.</summary>
    public string? UnderWay(string key) =>
        jobs.Running(Subject(key)) is { } job ? $"“{job.Title}” is running; change the vocabulary when it is finished." : null;

    /// <summary>Fields, and columns of tables, that take their terms from a vocabulary.</summary>
    public IEnumerable<(string Type, string Field, string? Column)> Places(string key) =>
        designs.Published.Values.SelectMany(p =>
            p.Type.Type.Fields.SelectMany(f =>
                f.Columns.Where(col => col.Vocabulary == key)
                    .Select(col => (p.Type.Type.Code, f.Key, (string?)col.Key))
                    .Concat(f.Vocabulary == key ? [(p.Type.Type.Code, f.Key, null)] : [])
            )
        );

    /// <summary>Labels that a text of a field holds.</summary>
    public static IEnumerable<string> Labels(string text, string? column) =>
        column is null
            ? text.Split("; ").Append(text).Distinct()
            : (TableText.Rows(text) ?? []).Select(r => r.GetValueOrDefault(column, "")).Distinct();

    /// <summary>Whether the documents concerned are so few that they follow at once.</summary>
    public bool FewDocuments(string key)
    {
        var types = Places(key).Select(p => p.Type).Distinct().ToList();
        return database.Read(c => types.Sum(t => DocumentStore.CountAfter(c, t, 0))) <= Few;
    }

    /// <summary>Lets all documents follow in the transaction of the change; returns how many values did.</summary>
    public int FollowNow(SqliteConnection c, string key, long step, IReadOnlyList<Relabelling> labels, string who) =>
        Places(key)
            .Select(p => p.Type)
            .Distinct()
            .ToList()
            .Sum(type => DocumentStore.After(c, type, 0, Few).Sum(d => Follow(c, key, step, d, labels, who)));

    /// <summary>Keeps a job that lets the documents follow; <see cref="Begin"/> starts it.</summary>
    public string Enlist(SqliteConnection c, string key, long step, IReadOnlyList<Relabelling> labels, string who) =>
        jobs.Enlist(c, "follow", Subject(key), $"/Design/Vocabulary/{key}", new OfStep(key, step, labels), who);

    /// <summary>Keeps a job that lets the documents return; <see cref="Begin"/> starts it.</summary>
    public string EnlistBack(SqliteConnection c, string key, VocabularyStep step, string who)
    {
        VocabularyStore.Reach(c, step.Id, "back", 0);
        return jobs.Enlist(c, "follow-back", Subject(key), $"/Design/Vocabulary/{key}", new BackFrom(key, step.Id, step.Change), who);
    }

    /// <summary>Starts a job that was kept.</summary>
    public void Begin(string job) => jobs.Begin(job);

    /// <summary>Lets the next documents return; returns how many were looked at.</summary>
    public int BackNow(SqliteConnection c, VocabularyStep step, string who, int most) => BackNow(c, step.Id, step.Change, who, most);

    private int BackNow(SqliteConnection c, long step, string change, string who, int most)
    {
        var taken = VocabularyStore.TakeFollowed(c, step, most);
        foreach (var d in taken)
            if (DocumentStore.Find(c, d.Id) is { } document && document.Record.GetValueOrDefault(d.Field) == d.After)
                Set(c, document, d.Field, d.Before, $"followed the vocabulary back: {change}", who);
        return taken.Count;
    }

    private void Follow(Job job, CancellationToken cancel)
    {
        var given = job.Given<OfStep>();
        while (database.Write(c => VocabularyStore.Prune(c, given.Key, ReadAtOnce)) > 0)
            cancel.ThrowIfCancellationRequested();
        // One walk over the documents of all types in the order of their ids, so that one number says how far it has come.
        var places = Places(given.Key).ToList();
        var types = places.Select(p => p.Type).Distinct().ToHashSet(StringComparer.Ordinal);
        var last = database.Read(c => VocabularyStore.Reached(c, given.Step));
        job.Total = database.Read(c => types.Sum(t => DocumentStore.CountAfter(c, t, 0)));
        var size = new ChunkSize();
        while (true)
        {
            cancel.ThrowIfCancellationRequested();
            // Looked for without holding up anybody; written only where something changes.
            var (looked, holding, reached) = database.Read(c =>
            {
                var chunk = types.SelectMany(t => DocumentStore.After(c, t, last, ReadAtOnce)).OrderBy(d => d.Id).Take(ReadAtOnce).ToList();
                return (
                    chunk.Count,
                    chunk
                        .Where(d => places.Any(p => p.Type == d.TypeCode && Changed(d, p.Field, p.Column, given.Labels) is not null))
                        .Select(d => d.Id)
                        .ToList(),
                    chunk.Count > 0 ? chunk[^1].Id : 0
                );
            });
            if (looked == 0)
                break;
            for (var at = 0; at < holding.Count; )
            {
                cancel.ThrowIfCancellationRequested();
                var part = holding.Skip(at).Take(size.Now).ToList();
                jobs.Chunk(
                    job,
                    size,
                    c =>
                        part.Sum(id =>
                            DocumentStore.Find(c, id) is { } document
                                ? Follow(c, given.Key, given.Step, document, given.Labels, job.Who)
                                : 0
                        )
                );
                at += part.Count;
            }
            job.Done += looked;
            last = reached;
            database.Write(c =>
            {
                VocabularyStore.Reach(c, given.Step, "on", last);
                Jobs.Reach(c, job);
            });
        }
        database.Write(c =>
        {
            VocabularyStore.Reach(c, given.Step, null, 0);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                job.Who,
                "documents have followed",
                new LedgerSubject(SubjectKind.Vocabulary, given.Key),
                $"{job.Done} looked at"
            );
        });
    }

    private void Back(Job job, CancellationToken cancel)
    {
        var given = job.Given<BackFrom>();
        var size = new ChunkSize();
        for (var done = 1; done > 0; job.Done += done)
        {
            cancel.ThrowIfCancellationRequested();
            done = jobs.Chunk(job, size, c => BackNow(c, given.Step, given.Change, job.Who, size.Now));
        }
        database.Write(c => VocabularyStore.ForgetStep(c, given.Step));
    }

    private int Follow(SqliteConnection c, string key, long step, StoredDocument document, IReadOnlyList<Relabelling> labels, string who)
    {
        var followed = 0;
        foreach (var (_, field, column) in Places(key).Where(p => p.Type == document.TypeCode))
        {
            if (Changed(document, field, column, labels) is not { } after)
                continue;
            var before = document.Record[field];
            document = Set(
                c,
                document,
                field,
                after,
                $"followed the vocabulary: "
                    + $"{string.Join(", ", labels.Where(l => Labels(before, column).Contains(l.Old)).Select(l => $"{l.Old} → {l.New}"))}",
                who
            );
            VocabularyStore.AddFollowed(c, step, new FollowedDocument(document.Id, field, before, after));
            followed++;
        }
        return followed;
    }

    // The text of a field with new labels; null when it holds none of the old ones.
    private static string? Changed(StoredDocument document, string field, string? column, IReadOnlyList<Relabelling> labels)
    {
        if (!document.Record.TryGetValue(field, out var before) || !labels.Any(l => before.Contains(l.Old, StringComparison.Ordinal)))
            return null;
        string New(string label) => labels.Aggregate(label, (now, l) => now == l.Old ? l.New : now);
        var after = column is null
            ? New(before) is var whole && whole != before
                ? whole
                : string.Join("; ", before.Split("; ").Select(New).Distinct())
            : Sql.ToJson(
                (TableText.Rows(before) ?? []).Select(r =>
                    r.ToDictionary(cell => cell.Key, cell => cell.Key == column ? New(cell.Value) : cell.Value)
                )
            );
        return after == before ? null : after;
    }

    private StoredDocument Set(SqliteConnection c, StoredDocument document, string field, string text, string how, string who)
    {
        var changed = document with
        {
            Record = document.Record.Where(r => r.Key != field).Append(new(field, text)).ToDictionary(StringComparer.Ordinal),
        };
        return writer.Write(c, new DocumentChange(document, changed, how, who));
    }
}
