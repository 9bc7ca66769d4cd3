using ClearLexicon.Storage;

namespace ClearLexicon.Web.Pages;

public sealed class LedgerModel(Database database) : PlacePage
{
    private const int PageSize = 100;

    public List<LedgerEntry> Entries { get; private set; } = [];

    public long? FirstBroken { get; private set; }

    public int Skip { get; private set; }

    public bool More => Entries.Count == PageSize;

    public void OnGet(int skip = 0)
    {
        Skip = Math.Max(0, skip);
        Entries = database.Read(c => LedgerStore.Newest(c, PageSize, Skip));
        FirstBroken = database.Read(LedgerStore.FirstBroken);
    }
}
