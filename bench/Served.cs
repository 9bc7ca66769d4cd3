using System.Diagnostics;

namespace ClearLexicon.Bench;

/// <summary>The real program over a data folder, as a process of its own, until it is disposed.</summary>
internal sealed class Served : IDisposable
{
    /// <summary>Where it serves.</summary>
    public const string Address = "http://127.0.0.1:5088";

    private readonly Process _process;

    /// <summary>The repository's root folder.</summary>
    public static string Root { get; } = Path.GetFullPath(Path.Combine(AppContext.BaseDirectory, "../../../.."));

    /// <summary>Asks it; nothing is followed.</summary>
    public HttpClient Client { get; }

    private Served(Process process, Uri address)
    {
        _process = process;
        Client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseProxy = false }) { BaseAddress = address, Timeout = TimeSpan.FromMinutes(10) };
    }

    /// <summary>Starts it and waits until it serves.</summary>
    public static async Task<Served> StartAsync(string data)
    {
        var web = Path.Combine(Root, "src/Web");
        var start = new ProcessStartInfo("dotnet", [Path.Combine(web, "bin/Release/net10.0/ClearLexicon.Web.dll"), "--data", data, $"--urls={Address}", $"--contentRoot={web}"])
        {
            UseShellExecute = false,
            RedirectStandardOutput = true,
        };
        var process = Process.Start(start)!;
        while (await process.StandardOutput.ReadLineAsync() is { } line && !line.Contains("serves", StringComparison.Ordinal)) { }
        return new Served(process, new Uri(Address));
    }

    /// <summary>The most memory that it has had, in MB.</summary>
    public long PeakMegabytes
    {
        get
        {
            _process.Refresh();
            return _process.PeakWorkingSet64 / 1_000_000;
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        Client.Dispose();
        _process.Kill(entireProcessTree: true);
        _process.Dispose();
    }
}
