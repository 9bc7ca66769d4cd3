namespace ClearLexicon.TestSupport;

/// <summary>The source that the tests were built from.</summary>
public static class SourceTree
{
    /// <summary>Its folder.</summary>
    public static string Root { get; } = FindRoot();

    private static string FindRoot()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "ClearLexicon.slnx")))
            folder = Path.GetDirectoryName(folder)!;
        return folder;
    }
}
