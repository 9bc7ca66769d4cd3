using System.IO.Compression;

namespace ClearLexicon.Formats;

/// <summary>Looks at what a zip container would come to before anything in it is read.</summary>
internal static class ZipLimits
{
    private const int MostEntries = 2_000;
    private const long MostBytes = 600_000_000,
        MostShared = 100_000_000;

    /// <summary>What is wrong with a container, as the end of a sentence; null when nothing is.</summary>
    public static string? Error(string path)
    {
        try
        {
            using var zip = ZipFile.OpenRead(path);
            if (zip.Entries.Count > MostEntries)
                return "holds too many parts.";
            // Lengths are what the container claims; what is longer than it claims is cut by the library that unpacks it.
            if (zip.Entries.Sum(e => Math.Max(0, e.Length)) > MostBytes || zip.Entries.Any(e => e.Length < 0))
                return $"comes to more than {MostBytes / 1_000_000} MB unpacked.";
            return zip.Entries.Any(e =>
                e.Length > MostShared && e.FullName.EndsWith("sharedStrings.xml", StringComparison.OrdinalIgnoreCase)
            )
                ? $"has more than {MostShared / 1_000_000} MB of texts."
                : null;
        }
        catch (InvalidDataException)
        {
            return "is damaged and cannot be read as a table.";
        }
    }
}
