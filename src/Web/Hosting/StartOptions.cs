namespace ClearLexicon.Web.Hosting;

/// <summary>What the command line says: <c>--data DIR</c> (or <c>--data=DIR</c>), <c>--demo</c>, <c>--rows N</c>.</summary>
/// <param name="Data">The data folder.</param>
/// <param name="Demo">Fills an empty data folder with the harbour, and shows its people at sign-in.</param>
/// <param name="Rows">Rows of the demo's legacy inventory.</param>
public sealed record StartOptions(string Data, bool Demo, int Rows)
{
    /// <summary>The folder that holds wwwroot: where the command line says, here, or the project that the program was built from.</summary>
    public static string ContentRoot(IReadOnlyList<string> args) =>
        args.FirstOrDefault(a => a.StartsWith("--contentRoot=", StringComparison.Ordinal)) is { } said ? said["--contentRoot=".Length..]
        : Directory.Exists(Path.Combine(Directory.GetCurrentDirectory(), "wwwroot")) ? Directory.GetCurrentDirectory()
        : Path.GetFullPath(Path.Combine(AppContext.BaseDirectory, "../../.."));

    /// <summary>The arguments that are not ours; left in, a bare <c>--demo</c> would take the next argument for its value.</summary>
    public static string[] ForHost(IReadOnlyList<string> args) =>
        [.. args.Where((a, i) => a is not ("--demo" or "--data" or "--rows") && (i == 0 || args[i - 1] is not ("--data" or "--rows")))];

    /// <summary>Reads the command line; the data folder may also come from <c>CLEARLEXICON_DATA</c>.</summary>
    public static StartOptions Read(IReadOnlyList<string> args)
    {
        string? After(string name) =>
            args.FirstOrDefault(a => a.StartsWith(name + "=", StringComparison.Ordinal)) is { } said ? said[(name.Length + 1)..]
            : args.Contains(name) && args.ToList().IndexOf(name) + 1 is var i && i < args.Count ? args[i]
            : null;
        return new StartOptions(
            After("--data") ?? Environment.GetEnvironmentVariable("CLEARLEXICON_DATA") ?? "data",
            args.Contains("--demo"),
            int.TryParse(After("--rows"), out var rows) && rows > 0 ? rows : 2_000
        );
    }
}

/// <summary>How much may be sent at once.</summary>
public static class UploadLimits
{
    /// <summary>One request: a stack of page files, or an inventory of a million rows.</summary>
    public const long RequestBytes = 512L * 1024 * 1024;

    /// <summary>The first line of a request, its address.</summary>
    public const int AddressBytes = 256 * 1024;

    /// <summary>One text of a form: a listing of some hundred thousand paths.</summary>
    public const int TextCharacters = 32 * 1024 * 1024;
}
