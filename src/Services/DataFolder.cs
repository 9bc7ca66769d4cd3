using ClearLexicon.Formats;
using ClearLexicon.Storage;

namespace ClearLexicon.Services;

/// <summary>Where everything lies on disk. Paths kept in the database are relative to <see cref="Root"/>.</summary>
public sealed class DataFolder : IDisposable
{
    // What systems say of a file that another process holds: Windows, Linux, macOS.
    private const int SharingViolation = 32,
        WouldBlock = 11,
        WouldBlockOnMac = 35;

    private FileStream? _hold;

    /// <summary>Opens or makes the folder.</summary>
    public DataFolder(string root)
    {
        Root = Path.GetFullPath(root);
        foreach (var folder in new[] { Repository, Pages, Brought, Tray, Inventories, Drafts })
            Directory.CreateDirectory(folder);
    }

    /// <summary>What filing asks of the disk.</summary>
    public Disk Disk { get; set; } = new();

    /// <summary>
    /// Holds the folder until the process ends, so that no other one recovers or writes in it; false when another one holds it.
    /// </summary>
    public bool Hold()
    {
        try
        {
            _hold ??= new FileStream(Path.Combine(Root, ".held"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
            return true;
        }
        catch (IOException e) when ((e.HResult & 0xFFFF) is SharingViolation or WouldBlock or WouldBlockOnMac)
        {
            return false;
        }
    }

    /// <summary>Lets the folder go.</summary>
    public void Dispose()
    {
        _hold?.Dispose();
        _hold = null;
    }

    /// <summary>The folder itself.</summary>
    public string Root { get; }

    /// <summary>The database file.</summary>
    public string DatabaseFile => Path.Combine(Root, "clear-lexicon.db");

    /// <summary>Filed documents, foldered and named by convention.</summary>
    public string Repository => Path.Combine(Root, "repository");

    /// <summary>Page pictures.</summary>
    public string Pages => Path.Combine(Root, "pages");

    /// <summary>Files as they were brought.</summary>
    public string Brought => Path.Combine(Root, "brought");

    /// <summary>The scanner's tray: pages that <i>Scan</i> takes.</summary>
    public string Tray => Path.Combine(Root, "tray");

    /// <summary>Stacks that the stand-in for a copier sends into a watched folder.</summary>
    public string Copier => Path.Combine(Root, "copier");

    /// <summary>Inventories as UTF-8.</summary>
    public string Inventories => Path.Combine(Root, "inventories");

    /// <summary>Files of documents that were withdrawn from the repository.</summary>
    public string Withdrawn => Path.Combine(Root, "withdrawn");

    /// <summary>What leaves the house by export plans.</summary>
    public string Exports => Path.Combine(Root, "exports");

    /// <summary>Packages of whole repositories that are to be taken over.</summary>
    public string Packages => Path.Combine(Root, "packages");

    /// <summary>Mail, while no mail server is set.</summary>
    public string Outbox => Path.Combine(Root, "outbox");

    /// <summary>Secrets: keys of cookies and of the ledger, the password of the mail server.</summary>
    public string Keys => Path.Combine(Root, "keys");

    /// <summary>Files being written.</summary>
    public string Drafts => Path.Combine(Root, "drafts");

    /// <summary>Pages of a document as pictures, by their numbers in it.</summary>
    public PagePictures PicturesOf(List<StoredPage> pages) =>
        new(number => pages.Find(p => p.Number == number) is { } page ? Absolute(page.Image) : null);

    /// <summary>The absolute path of one kept relative to <see cref="Root"/>.</summary>
    public string Absolute(string relative) => Path.Combine(Root, relative);

    /// <summary>Whether a kept path is one below <see cref="Root"/>; one that leads elsewhere is never touched.</summary>
    public bool Holds(string kept) =>
        Path.GetFullPath(Path.Combine(Root, kept)).StartsWith(Root + Path.DirectorySeparatorChar, StringComparison.Ordinal);

    /// <summary>The path to keep for an absolute one.</summary>
    public string Relative(string absolute) => Path.GetRelativePath(Root, absolute);

    /// <summary>SHA-256 of a file's content, in lower-case hexadecimal.</summary>
    public static string HashOf(string path)
    {
        using var file = File.OpenRead(path);
        return Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(file));
    }

    /// <summary>A file name that is safe inside a folder of ours, whatever a browser sent.</summary>
    public static string SafeName(string name)
    {
        var safe = string.Concat(Path.GetFileName(name.Replace('\\', '/')).Select(c => c < ' ' || "<>:\"/|?*".Contains(c) ? '-' : c))
            .Trim(' ', '.');
        return safe.Length == 0 ? "unnamed"
            : safe.Length > 120 ? safe[^120..]
            : safe;
    }

    /// <summary>
    /// The absolute place of a filed document, which can never lie outside the repository, whatever folder and name say.
    /// </summary>
    public string InRepository(string folder, string name)
    {
        var path = Path.GetFullPath(Path.Combine(Repository, folder, name));
        return path.StartsWith(Repository + Path.DirectorySeparatorChar, StringComparison.Ordinal)
            ? path
            : throw new InvalidOperationException($"“{folder}/{name}” leads out of the repository.");
    }
}
