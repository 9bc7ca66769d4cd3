using ClearLexicon.Core.Fields;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>What a search of the repository shows, all of one moment.</summary>
/// <param name="Tree">Folders in the root (key empty) and in each folder on the way to the one that is looked at.</param>
/// <param name="Filed">All documents of the repository.</param>
/// <param name="Found">The page that was found.</param>
/// <param name="Compared">How many documents hold the text in the field, and how many hold it anywhere; null where that was not
/// asked.</param>
public sealed record SearchedRepository(
    IReadOnlyDictionary<string, List<CountedFolder>> Tree,
    long Filed,
    FoundPage Found,
    (FoundCount InField, FoundCount Anywhere)? Compared
);

/// <summary>Looking into what is filed.</summary>
public sealed class FiledSearch(Database database)
{
    /// <summary>Most folders that are listed in one.</summary>
    public const int MostFolders = 300;

    // Two letters begin so many words that putting them together takes longer than the page.
    private const int ComparedFrom = 3;

    /// <summary>One page of a search, and the folders around it.</summary>
    /// <param name="asked">What is asked.</param>
    /// <param name="size">Documents of the page.</param>
    /// <param name="after">The last document of the page before; null for the first page.</param>
    /// <param name="before">The first document of the page behind; null when going forwards.</param>
    public SearchedRepository Page(RepositoryQuery asked, int size, long? after = null, long? before = null) =>
        database.Read(c =>
        {
            var found = RepositorySearch.Find(c, asked, size, after, before);
            // That more than are counted are found in either says nothing.
            (FoundCount, FoundCount)? compared =
                !found.Total.OrMore && asked.Conditions is [{ How: Look.Holds or Look.Is, Text.Length: >= ComparedFrom } only]
                    ? (found.Total, RepositorySearch.Count(c, asked with { Conditions = [], Anywhere = only.Text }))
                    : null;
            return new SearchedRepository(Unfolded(c, asked.Folder), FolderStore.Below(c, ""), found, compared);
        });

    /// <summary>The first documents that a search finds.</summary>
    public List<StoredDocument> First(RepositoryQuery asked, int most) =>
        database.Read(c => RepositorySearch.Find(c, asked, most).Documents);

    /// <summary>All that a search finds, streamed on a connection that is held as long as the sequence is read.</summary>
    public IEnumerable<StoredDocument> All(RepositoryQuery asked)
    {
        using var reading = database.Connect();
        foreach (var document in RepositorySearch.All(reading, asked))
            yield return document;
    }

    /// <summary>Some filed documents of a type, to show a design on.</summary>
    public List<StoredDocument> Some(string typeCode, int most) =>
        database.Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = typeCode }, most).Documents);

    /// <summary>How many documents of each type are filed.</summary>
    public Dictionary<string, int> CountByType() => database.Read(RepositoryStore.CountByType);

    /// <summary>Documents that stand right in a folder.</summary>
    public List<StoredDocument> In(string folder, int most) => database.Read(c => RepositoryStore.In(c, folder, most));

    private static Dictionary<string, List<CountedFolder>> Unfolded(SqliteConnection c, string folder)
    {
        var tree = new Dictionary<string, List<CountedFolder>>(StringComparer.Ordinal) { [""] = FolderStore.Inside(c, "", MostFolders) };
        for (var end = folder.IndexOf('/', StringComparison.Ordinal); folder.Length > 0; end = folder.IndexOf('/', end + 1))
        {
            var path = end < 0 ? folder : folder[..end];
            tree[path] = FolderStore.Inside(c, path, MostFolders);
            if (end < 0)
                break;
        }
        return tree;
    }
}
