using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// The real program, killed (SIGKILL) at random moments while people file, apply waves and take them back, publish, carry, re-file and rename
/// terms; after each start everything that belongs together is together. A few rounds here; <c>scripts/kill-rounds</c> runs as many as asked.
/// </summary>
public sealed class KillTests : IAsyncLifetime
{
    private const string Code = "vessel-call-record";
    private static readonly int Rounds = int.TryParse(Environment.GetEnvironmentVariable("KILL_ROUNDS"), out var rounds) ? rounds : 4;

    private readonly Random _random = new(Environment.GetEnvironmentVariable("KILL_SEED") is { } seed ? int.Parse(seed) : 9);
    private readonly string _data = Directory.CreateTempSubdirectory("killed").FullName;
    private readonly int _port = FreePort();
    private HttpClient _indexer = null!, _steward = null!;
    private Process? _process;
    private int _page, _round;

    // A wave whose documents were carried or followed a term is not taken back; that comes in the later rounds.
    private bool Late => _round * 5 > Rounds * 3;

    public async ValueTask InitializeAsync()
    {
        await using var app = new App();
        await app.SeedAsync(new DemoSize(InventoryRows: 3_000, SamplePdfs: 1, SampleScans: 0));
        using (var database = new Database(new DataFolder(app.Data).DatabaseFile)) database.Read(c => c.Execute("PRAGMA wal_checkpoint(TRUNCATE)"));
        Copy(app.Data, _data);
    }

    [Fact]
    public async Task Killed_at_any_moment_file_record_journal_full_text_counters_and_ledger_agree()
    {
        var output = TestContext.Current.TestOutputHelper!;
        for (var round = 0; round <= Rounds; round++)
        {
            _round = round;
            Start();
            await Quiet();
            Agree();
            if (round == Rounds) break;
            for (var i = 0; i < 3; i++) Draw();
            using var stop = new CancellationTokenSource();
            // Sessions outlive the program.
            if (round == 0) await SignIn();
            var people = new[] { Act(Indexer, stop.Token), Act(Wave, stop.Token), Act(Design, stop.Token), Act(Terms, stop.Token) };
            var wait = _random.Next(300, 4_500);
            await Task.Delay(wait);
            _process!.Kill();
            await _process.WaitForExitAsync();
            await stop.CancelAsync();
            await Task.WhenAll(people);
            output.WriteLine($"round {round + 1}: killed after {wait} ms");
        }
        using var database = Open();
        foreach (var (action, count) in database.Read(c => c.Query("SELECT CASE WHEN action LIKE 'published version%' THEN 'published' WHEN action LIKE 'checked filed documents%' THEN 'checked again' ELSE action END AS a, count(*) FROM ledger GROUP BY a ORDER BY 2 DESC LIMIT 40", r => (r.GetString(0), r.GetInt32(1)))))
            output.WriteLine($"{count,6} × {action}");
    }

    private HttpClient Client() => new(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri($"http://127.0.0.1:{_port}"), Timeout = TimeSpan.FromSeconds(60) };

    private async Task SignIn()
    {
        (_indexer, _steward) = (Client(), Client());
        foreach (var (client, role) in new[] { (_indexer, Roles.Indexer), (_steward, Roles.Steward) })
        {
            var person = HarbourSeed.People.First(p => p.Role == role);
            using var answer = await HarbourApp.Post(client, "/SignIn", "/SignIn", ("name", person.Name), ("password", person.Password));
            Assert.Equal("/", answer.Headers.Location?.ToString());
        }
    }

    // Everything that has to hold when nothing is under way.
    private void Agree()
    {
        var folder = new DataFolder(_data);
        using var database = Open();
        database.Read(c =>
        {
            Assert.Equal("ok", c.Scalar<string>("PRAGMA integrity_check"));
            Assert.Empty(c.Query("PRAGMA foreign_key_check", r => r.GetString(0)));
            Assert.Equal(0L, c.Scalar<long>("SELECT count(*) FROM filing_journal"));
            Assert.Empty(c.Query("SELECT id FROM moves WHERE state NOT IN ('done', 'undone')", r => r.GetInt64(0)));
            var filed = c.Query("SELECT folder, name, file_hash FROM documents WHERE state = 'filed' AND wave_id IS NULL", r => (Path: r.GetString(0) + "/" + r.GetString(1), Hash: r.GetString(2)));
            var files = Directory.GetFiles(folder.Repository, "*", SearchOption.AllDirectories).ToDictionary(f => Path.GetRelativePath(folder.Repository, f), DataFolder.HashOf);
            Assert.Equal(filed.Select(f => $"{f.Path} {f.Hash}").Order(StringComparer.Ordinal), files.Select(f => $"{f.Key} {f.Value}").Order(StringComparer.Ordinal));
            Assert.Empty(Directory.GetFiles(folder.Drafts));
            Assert.Empty(c.Query("SELECT lower(folder || '/' || name) FROM documents WHERE state = 'filed' GROUP BY 1 HAVING count(*) > 1", r => r.GetString(0)));
            Assert.Equal(0L, c.Scalar<long>("SELECT count(*) FROM documents WHERE state = 'filed' AND id NOT IN (SELECT rowid FROM document_text)"));
            Assert.Equal(0L, c.Scalar<long>("SELECT count(*) FROM document_text WHERE rowid NOT IN (SELECT id FROM documents WHERE state = 'filed')"));
            Assert.Empty(c.Query("SELECT w.id FROM waves w WHERE state NOT IN ('applied', 'stopped', 'undone') OR (SELECT count(*) FROM documents d WHERE d.wave_id = w.id) <> CASE w.state WHEN 'undone' THEN 0 ELSE w.tagged END", r => r.GetInt64(0)));
            Assert.Empty(c.Query("SELECT batch_id FROM batch_files WHERE state = 'waiting'", r => r.GetInt64(0)));
            Assert.Equal(0L, c.Scalar<long>("SELECT count(*) FROM jobs WHERE state = 'running'"));
            Assert.Empty(c.Query("SELECT kind || ': ' || problem FROM jobs WHERE state = 'failed'", r => r.GetString(0)));
            Assert.True(LedgerStore.Verify(c).Sound);
            return 0;
        });
        // What the full text and the unique keys say is what the records say.
        var filedWords = database.Read(c => c.Query("SELECT d.record ->> 'vessel', t.body FROM documents d JOIN document_text t ON t.rowid = d.id WHERE d.state = 'filed' AND d.type_code = $type", r => (Vessel: r.Text(0) ?? "", Body: r.GetString(1)), ("$type", Code)));
        Assert.All(filedWords, f => Assert.Contains(f.Vessel, f.Body, StringComparison.Ordinal));
    }

    private Database Open() => new(new DataFolder(_data).DatabaseFile);

    // Until nothing is under way and nothing waits to be read.
    private async Task Quiet()
    {
        using var database = Open();
        for (var clock = Stopwatch.StartNew(); ;)
        {
            var (jobs, files) = database.Read(c => (c.Scalar<long>("SELECT count(*) FROM jobs WHERE state = 'running'"), c.Scalar<long>("SELECT count(*) FROM batch_files WHERE state = 'waiting'")));
            if (jobs == 0 && files == 0) return;
            Assert.False(_process!.HasExited, "the program ended by itself");
            Assert.True(clock.Elapsed < TimeSpan.FromMinutes(2), $"{jobs} jobs and {files} files are still under way after two minutes");
            await Task.Delay(100);
        }
    }

    private async Task Act(Func<HttpClient, CancellationToken, Task> act, CancellationToken stop)
    {
        var client = act == Indexer ? _indexer : _steward;
        try
        {
            while (!stop.IsCancellationRequested) await act(client, stop);
        }
        catch (Exception e) when (e is HttpRequestException or OperationCanceledException or IOException)
        {
            // Killed under our hands.
        }
    }

    private static async Task Send(HttpClient client, string page, string handler, params (string, string)[] fields)
    {
        using var answer = await HarbourApp.Post(client, page, $"{page}?handler={handler}", fields);
        // Refusals are answers; anything else is not.
        Assert.NotEqual(HttpStatusCode.Redirect, answer.StatusCode);
        Assert.True((int)answer.StatusCode < 500 || answer.StatusCode == HttpStatusCode.ServiceUnavailable, $"{page} {handler}: {(int)answer.StatusCode}");
    }

    private async Task Indexer(HttpClient client, CancellationToken stop)
    {
        await Send(client, "/Desk", "Scan");
        await Task.Delay(400, stop);
        await Send(client, "/Desk", "FileReady");
    }

    private async Task Wave(HttpClient client, CancellationToken stop)
    {
        using var database = Open();
        var (inventory, wave, state) = database.Read(c => c.Query("SELECT i.id, w.id, w.state FROM inventories i LEFT JOIN waves w ON w.inventory_id = i.id ORDER BY w.id DESC LIMIT 1", r => (r.GetInt64(0), r.IsDBNull(1) ? 0 : r.GetInt64(1), r.Text(2))))[0];
        var page = $"/Migration/Inventory/{inventory}";
        if (state is "applied") await Send(client, page, $"Undo&wave={wave}");
        else if (state is "stopped") await Send(client, page, $"GoOn&wave={wave}");
        else if (state is null or "undone") await Send(client, page, "Apply", ("take-questionable", "on"), ("reason", "trial"));
        await Task.Delay(150, stop);
    }

    private async Task Design(HttpClient client, CancellationToken stop)
    {
        using var database = Open();
        var publish = $"/Design/Publish/{Code}";
        async Task Idle() { while (database.Read(c => c.Scalar<long>("SELECT count(*) FROM jobs WHERE state = 'running' AND kind NOT IN ('wave', 'wave-undo')")) > 0) await Task.Delay(50, stop); }
        var version = database.Read(c => DesignStore.Versions(c, Code))[0].Version;
        switch (_random.Next(3))
        {
            case 0 or 1:
                // A change that says nothing of paths, then one that carries the vessels into other letters: their paths follow by a re-file.
                await Send(client, $"/Design/Type/{Code}", "Field", ("key", "agent"), ("label", "Agent"), ("kind", "Text"), ("max-length", $"{100 + version}"));
                var carry = Late && _random.Next(2) == 0;
                if (carry) await Send(client, publish, "Line", ("field", "vessel"), ("how", "Whole"), ("from", "vessel"), ("step-kind", version % 2 == 0 ? "upper-case" : "capitalise"), ("step-argument", ""));
                await Send(client, publish, "Look");
                await Idle();
                await Send(client, publish, "", ("seen", $"{version}"), ("existing", carry ? "Carry" : "Recheck"));
                await Idle();
                break;
            default:
                await Send(client, $"/Design/Refile/{Code}", "Look");
                await Idle();
                await Send(client, $"/Design/Refile/{Code}", "Apply", ("version", $"{version}"));
                await Idle();
                if (database.Read(c => c.Query("SELECT id FROM refile_runs ORDER BY id DESC LIMIT 1", r => r.GetInt64(0))) is [var run] && _random.Next(2) == 0) await Send(client, $"/Design/Refile/{Code}", $"Undo&run={run}");
                await Idle();
                break;
        }
    }

    private async Task Terms(HttpClient client, CancellationToken stop)
    {
        using var database = Open();
        var key = Late ? "berths" : "vessel-types";
        var (id, label) = database.Read(c => c.Query("SELECT id, label FROM terms WHERE vocabulary_key = $key ORDER BY label", r => (r.GetString(0), r.GetString(1)), ("$key", key))) is { Count: > 0 } terms ? terms[_random.Next(terms.Count)] : ("", "");
        await Send(client, $"/Design/Vocabulary/{key}", $"Term&term={Uri.EscapeDataString(id)}", ("label", label.EndsWith(" renamed", StringComparison.Ordinal) ? label[..^8] : label + " renamed"));
        await Task.Delay(300, stop);
    }

    // A page that nobody has brought yet, into the tray; whole before it is there.
    private void Draw()
    {
        var pages = HarbourDocuments.AlreadyFiled().Where(p => p.Design.TypeCode == Code).ToList();
        var page = pages[_page % pages.Count];
        var (old, number) = (page.Truth["call-number"], $"VC-2023-{20_000 + _page:00000}");
        HarbourDocuments.Draw(page with { FileName = $"{number}.pdf", Printed = page.Printed.ToDictionary(p => p.Key, p => p.Value == old ? number : p.Value) }, _data);
        File.Move(Path.Combine(_data, $"{number}.pdf"), Path.Combine(_data, "tray", $"{number}.pdf"));
        _page++;
    }

    private void Start()
    {
        var start = new ProcessStartInfo("dotnet") { UseShellExecute = false, RedirectStandardOutput = true, RedirectStandardError = true };
        foreach (var argument in (string[])[typeof(Program).Assembly.Location, "--data", _data, $"--urls=http://127.0.0.1:{_port}", $"--contentRoot={Path.Combine(HouseRulesTests.Root, "src/Web")}"]) start.ArgumentList.Add(argument);
        _process = Process.Start(start)!;
        var (said, serving) = (new List<string>(), new ManualResetEventSlim());
        void Heard(object _, DataReceivedEventArgs e)
        {
            if (e.Data is null) return;
            lock (said) said.Add(e.Data);
            if (e.Data.StartsWith("Clear Lexicon serves", StringComparison.Ordinal)) serving.Set();
        }
        _process.OutputDataReceived += Heard;
        _process.ErrorDataReceived += Heard;
        _process.BeginOutputReadLine();
        _process.BeginErrorReadLine();
        if (!serving.Wait(TimeSpan.FromSeconds(60))) lock (said) Assert.Fail(string.Join('\n', said));
    }

    private static void Copy(string from, string to)
    {
        foreach (var folder in Directory.GetDirectories(from, "*", SearchOption.AllDirectories)) Directory.CreateDirectory(folder.Replace(from, to, StringComparison.Ordinal));
        foreach (var file in Directory.GetFiles(from, "*", SearchOption.AllDirectories).Where(f => Path.GetFileName(f) != ".held")) File.Copy(file, file.Replace(from, to, StringComparison.Ordinal), overwrite: true);
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    public async ValueTask DisposeAsync()
    {
        if (_process is { HasExited: false })
        {
            _process.Kill();
            await _process.WaitForExitAsync();
        }
        _indexer?.Dispose();
        _steward?.Dispose();
        Directory.Delete(_data, recursive: true);
    }
}
