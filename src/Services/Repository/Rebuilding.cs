using System.Globalization;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// Makes anew what is kept beside documents and follows from them: their words in the full text, their keys in unique rules, the index of
/// their values. It is due when a version restricts what was open before, changes a unique rule, has a field that was not there, or when
/// the program comes to write keys in another form. Until
/// it is done, those who see no restricted values find no document of the type by its words.
/// </summary>
public sealed class Rebuilding(Database database, Designs designs, Jobs jobs) : IWorksInJobs
{
    // What is kept is of this form; 1 was before keys were written by kind and restricted values found by every spelling, 2 before values
    // had an index, 3 before cells of tables were in it, 5 before full text was folded as values are.
    private static readonly string Form = string.Create(CultureInfo.InvariantCulture, $"{ValueKey.Form}.6");

    private const string FormSetting = "rebuilt-form";

    private sealed record OfType(string Code);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => [JobKind.Of("rebuild", "Bringing the search index up to date", "design", Rebuild)];

    /// <summary>Called before each chunk; tests stop here.</summary>
    internal Action Checkpoint { get; set; } = () => { };

    /// <summary>Types of which something is not yet what their design says.</summary>
    public IReadOnlyList<string> Due => database.Read(SettingStore.Due);

    /// <summary>Types whose full text may still show what has become restricted.</summary>
    public IReadOnlyList<string> DueByWords => database.Read(SettingStore.DueByWords);

    /// <summary>Starts what is due. Call once at start, too.</summary>
    public void StartDue()
    {
        if (database.Read(c => SettingStore.Find(c, FormSetting)) != Form)
            database.Write(c =>
            {
                foreach (var code in RepositoryStore.CountByType(c).Keys)
                    SettingStore.SetDue(c, code);
                SettingStore.Set(c, FormSetting, Form);
            });
        foreach (var code in Due)
            jobs.Start("rebuild", $"text {code}", $"/Design/Publish/{code}", new OfType(code), "");
    }

    /// <summary>Notes, in the transaction that publishes it, when what is kept beside a type's documents no longer fits.</summary>
    internal static void Mark(SqliteConnection c, DocumentType? before, DocumentType now)
    {
        if (before is null)
            return;
        var closed = before.Fields.Any(f => !f.Restricted && now.Find(f.Key) is null or { Restricted: true });
        static string Uniques(DocumentType type) => Sql.ToJson(type.Rules.Where(r => r.Kind == Unique.Kind));
        static IEnumerable<(string, FieldKind)> Found(DocumentType type) =>
            type.Fields.SelectMany(f => f.Columns.Select(c => ($"{f.Key}.{c.Key}", c.Kind)).Prepend((f.Key, f.Kind)));
        if (closed || Uniques(before) != Uniques(now))
            SettingStore.SetDue(c, now.Code);
        else if (Found(now).Except(Found(before)).Any())
            SettingStore.SetDue(c, now.Code, values: true);
    }

    /// <summary>Makes anew what follows from a document's values, in the transaction that changes them.</summary>
    internal static void Keep(SqliteConnection c, StoredDocument document, CompiledType type, IReadOnlyList<StoredPage>? pages = null)
    {
        RecordJudge.KeepKeys(c, document, type);
        if (!document.Filed)
            return;
        FullText.Index(c, document, type, pages ?? DocumentStore.Pages(c, document.Id));
        FoundStore.Put(c, document.Id, type.Type.Code, SearchKey.Of(type.Type, document.Record.GetValueOrDefault));
    }

    private void Rebuild(Job job, CancellationToken cancel)
    {
        var code = job.Given<OfType>().Code;
        job.Total = database.Read(c => DocumentStore.CountAfter(c, code, 0));
        var size = new ChunkSize();
        var last = 0L;
        for (job.Done = 0; ; )
        {
            cancel.ThrowIfCancellationRequested();
            Checkpoint();
            if (!designs.Published.TryGetValue(code, out var published))
                return;
            var chunk = jobs.Chunk(
                job,
                size,
                c =>
                {
                    var documents = DocumentStore.After(c, code, last, size.Now);
                    foreach (var document in documents)
                        Keep(c, document, published.Type);
                    // Another version may have come meanwhile, by which the first ones would be otherwise.
                    if (documents.Count == 0 && DesignStore.Versions(c, code)[0].Version == published.Version)
                        SettingStore.RemoveDue(c, code);
                    return documents;
                }
            );
            if (chunk.Count == 0)
            {
                if (!Due.Contains(code))
                    return;
                (last, job.Done) = (0, 0);
                continue;
            }
            last = chunk[^1].Id;
            job.Done += chunk.Count;
        }
    }
}
