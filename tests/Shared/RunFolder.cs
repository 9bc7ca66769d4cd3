namespace ClearLexicon.TestSupport;

/// <summary>Folders that last as long as a run of tests.</summary>
public static class RunFolder
{
    /// <summary>An empty one, which is deleted when the run ends.</summary>
    public static string Made(string name)
    {
        var folder = Directory.CreateTempSubdirectory(name).FullName;
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(folder, recursive: true);
        return folder;
    }
}
