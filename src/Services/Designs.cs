using System.Globalization;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services;

/// <summary>A published design, compiled.</summary>
/// <param name="Type">The compiled type.</param>
/// <param name="Version">Its version.</param>
/// <param name="Revision">Revision of the whole design that it was compiled from (<see cref="DesignStore.Revision"/>).</param>
public sealed record PublishedType(CompiledType Type, int Version, long Revision);

/// <summary>Hands out designs: what is published, compiled once, and the drafts as they stand.</summary>
public sealed class Designs(Database database, TimeProvider clock)
{
    /// <summary>What jobs that work on a type and its documents have as their subject.</summary>
    public static string Subject(string code) => $"type {code}";

    private readonly Lock _lock = new();
    private readonly Dictionary<string, (long Revision, VocabularyIndex Index)> _vocabularyCache = new(StringComparer.Ordinal);
    private readonly Dictionary<string, (long Revision, ReferenceTable Table)> _tableCache = new(StringComparer.Ordinal);
    private readonly Dictionary<PublishedType, CompiledType> _limited = new(ReferenceEqualityComparer.Instance);

    // How much had been written when the design was last looked at, and its revision then.
    private long _writes = -1;
    private long _revision = -1;
    private Dictionary<string, PublishedType> _published = [];
    private Dictionary<string, VocabularyIndex> _vocabularies = [];
    private Dictionary<string, ReferenceTable> _tables = [];

    /// <summary>All vocabularies, compiled, by key.</summary>
    public IReadOnlyDictionary<string, VocabularyIndex> Vocabularies
    {
        get
        {
            lock (_lock)
            {
                Follow();
                return _vocabularies;
            }
        }
    }

    /// <summary>All reference tables by key.</summary>
    public IReadOnlyDictionary<string, ReferenceTable> Tables
    {
        get
        {
            lock (_lock)
            {
                Follow();
                return _tables;
            }
        }
    }

    /// <summary>What documents are checked against, by type code; field groups are not among them.</summary>
    public IReadOnlyDictionary<string, PublishedType> Published
    {
        get
        {
            lock (_lock)
            {
                Follow();
                return _published;
            }
        }
    }

    // Nobody says that a design has changed: its revision does. What has not changed is not compiled anew.
    private void Follow()
    {
        var writes = database.Writes;
        if (writes == _writes)
            return;
        database.Read(c =>
        {
            if (DesignStore.Revision(c) is var revision && revision != _revision)
            {
                Compile(c, revision);
                _revision = revision;
            }
            return 0;
        });
        _writes = writes;
    }

    private void Compile(SqliteConnection c, long revision)
    {
        _vocabularies = Latest(VocabularyStore.Revisions(c), _vocabularyCache, key => new VocabularyIndex(VocabularyStore.Find(c, key)!));
        _tables = Latest(ReferenceStore.Revisions(c), _tableCache, key => ReferenceStore.Find(c, key)!);
        _published = DesignStore
            .Published(c)
            .Where(v => !v.Design.IsGroup)
            .ToDictionary(
                v => v.Design.Code,
                v => new PublishedType(new CompiledType(v.Design, _vocabularies, _tables), v.Version, revision),
                StringComparer.Ordinal
            );
        _limited.Clear();
    }

    private static Dictionary<string, T> Latest<T>(
        List<(string Key, long Revision)> revisions,
        Dictionary<string, (long Revision, T Made)> made,
        Func<string, T> make
    )
    {
        foreach (var (key, revision) in revisions)
            if (!made.TryGetValue(key, out var known) || known.Revision != revision)
                made[key] = (revision, make(key));
        return revisions.ToDictionary(r => r.Key, r => made[r.Key].Made, StringComparer.Ordinal);
    }

    /// <summary>
    /// A published type as somebody may have records judged by it from outside. Who sees no restricted values is not told what reference
    /// tables would fill into restricted fields, nor whether another document has a combination with one.
    /// </summary>
    public CompiledType JudgedBy(PublishedType published, Rights rights)
    {
        var type = published.Type.Type;
        bool Closed(string? key) => !rights.Sees(type.Find(key));
        if (rights.SeesRestricted || type.Fields.All(rights.Sees))
            return published.Type;
        lock (_lock)
            return _limited.TryGetValue(published, out var known)
                ? known
                : _limited[published] = new CompiledType(
                    type with
                    {
                        Fillings =
                        [
                            .. type.Fillings.Select(f =>
                                f with
                                {
                                    Targets = f.Targets.Where(t => !Closed(t.Value)).ToDictionary(StringComparer.Ordinal),
                                }
                            ),
                        ],
                        Rules =
                        [
                            .. type.Rules.Where(r =>
                                r.Kind is not (Unique.Kind or InTable.Kind) || !RuleExamples.Fields(r, type).Any(Closed)
                            ),
                        ],
                    },
                    Vocabularies,
                    Tables
                );
    }

    /// <summary>All document types and field groups with their drafts.</summary>
    public List<TypeState> All() => database.Read(DesignStore.All);

    /// <summary>One document type or field group, or null.</summary>
    public TypeState? Find(string code) => database.Read(c => DesignStore.Find(c, code));

    /// <summary>Published versions, newest first.</summary>
    public List<TypeVersion> Versions(string code) => database.Read(c => DesignStore.Versions(c, code));

    /// <summary>A draft with everything it inherits.</summary>
    public DocumentType Resolve(DocumentType draft) => database.Read(c => Inheritance.Resolve(draft, code => Source(c, code)));

    /// <summary>What surrounds a record judged now.</summary>
    public CheckContext Now(EntryChannel channel, string who) => database.Read(c => Now(c, channel, who));

    internal CheckContext Now(SqliteConnection c, EntryChannel channel, string who) =>
        new(clock.Today(), channel, who.Length == 0 ? [] : PeopleStore.Find(c, who)?.Roles ?? [], who)
        {
            Closed = ClosedDayStore.All(c).Select(d => d.Day).ToHashSet(),
        };

    // What others take parts of is its published state; a draft only as long as nothing is published.
    internal static DocumentType? Source(SqliteConnection c, string code) =>
        DesignStore.Versions(c, code) is [var newest, ..] ? newest.Source : DesignStore.Find(c, code)?.Draft;

    /// <summary>The day of a moment, in the zone of the installation.</summary>
    internal DateOnly DayOf(Instant at) => clock.DayOf(at);

    /// <summary>Who did what last to a type, as half a sentence.</summary>
    public string LastDone(string code) =>
        database.Read(c => LedgerStore.LastAbout(c, new LedgerSubject(SubjectKind.Type, code))) is { } last
            ? $"{last.Who} {last.Action} at {last.At[11..16]} UTC"
            : "nobody has changed it";

    /// <summary>Label of a field of a type; its key when the type or the field is gone.</summary>
    public string LabelOf(string typeCode, string field) =>
        (Published.TryGetValue(typeCode, out var published) ? published.Type.Type : Find(typeCode)?.Draft)?.LabelOf(field) ?? field;

    /// <summary>How a document came, as far as its batch says.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="path">Sub-folder and name of its file.</param>
    /// <param name="batchId">Its batch; null for none.</param>
    internal Arrival ArrivalOf(SqliteConnection c, string path, long? batchId)
    {
        if (batchId is not { } id || BatchStore.Find(c, id) is not { } batch)
            return new Arrival(path);
        var way = (batch.WayIn is { } key ? WayInStore.Find(c, key) : null) ?? WayIn.Upload;
        return new Arrival(path, DayOf(batch.BroughtAt), batch.BroughtBy, way.Name);
    }

    /// <summary>What readers' finders know of a document besides the page.</summary>
    /// <param name="pictures">Its pages as pictures.</param>
    /// <param name="document">The document.</param>
    public FinderContext Finders(IPagePictures? pictures, StoredDocument document) =>
        Finders(pictures, database.Read(c => ArrivalOf(c, document.SourceName, document.BatchId)));

    /// <summary>What readers' finders know besides the page.</summary>
    /// <param name="pictures">The pages as pictures.</param>
    /// <param name="arrival">How the document came.</param>
    public FinderContext Finders(IPagePictures? pictures, Arrival arrival)
    {
        var tables = Tables;
        return new FinderContext
        {
            Vocabularies = Vocabularies,
            Tables = key => tables.GetValueOrDefault(key),
            Pictures = pictures,
            Arrival = arrival,
        };
    }
}
