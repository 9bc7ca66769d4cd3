using System.Diagnostics;
using ClearLexicon.Services;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Bench;

/// <summary>The real program over a data folder, as a process of its own, until it is disposed.</summary>
internal sealed class Served : IDisposable
{
    /// <summary>Where it serves.</summary>
    public const string Address = "http://127.0.0.1:5088";

    /// <summary>Who may be signed in to a folder that was filled here.</summary>
    public const string Steward = "Bench Steward",
        Password = "measuring-tape-7";

    private readonly Process _process;

    /// <summary>The repository's root folder.</summary>
    public static string Root { get; } = Path.GetFullPath(Path.Combine(AppContext.BaseDirectory, "../../../.."));

    /// <summary>Asks it; nothing is followed.</summary>
    public HttpClient Client { get; }

    private Served(Process process, Uri address)
    {
        _process = process;
        Client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseProxy = false })
        {
            BaseAddress = address,
            Timeout = TimeSpan.FromMinutes(10),
        };
    }

    /// <summary>
    /// Fills a data folder: the harbour's design, documents tagged by a wave of so many rows, an administrator and a steward.
    /// </summary>
    public static void Fill(DataFolder folder, int rows)
    {
        using var database = new Database(folder.DatabaseFile);
        var (designs, jobs) = (new Designs(database, TimeProvider.System), new Jobs(database, TimeProvider.System, e => throw e));
        var migrations = new Migrations(database, folder, designs, jobs, TimeProvider.System);
        var waves = new Waves(database, folder, designs, migrations, jobs, TimeProvider.System);
        jobs.Add(migrations);
        jobs.Add(waves);
        var id = DryRunRatio.Bring(database, folder, designs, migrations, rows);
        var people = new Accounts(database, TimeProvider.System);
        people.Add("Bench Administrator", Password, [Roles.Administrator], "bench");
        people.Add(Steward, Password, [Roles.Steward], "bench");
        var clock = Stopwatch.StartNew();
        waves.Start(id, "bench", "bench").Value!.Completion.Wait();
        Console.WriteLine($"wave of {rows:N0} rows: {waves.Of(id)[0].Tagged:N0} tagged in {clock.Elapsed.TotalSeconds:0.0} s");
    }

    /// <summary>Starts it and waits until it serves.</summary>
    public static async Task<Served> StartAsync(string data)
    {
        var web = Path.Combine(Root, "src/Web");
        var start = new ProcessStartInfo(
            "dotnet",
            [Path.Combine(web, "bin/Release/net10.0/ClearLexicon.Web.dll"), "--data", data, $"--urls={Address}", $"--contentRoot={web}"]
        )
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
