using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Trouble.Tests;

/// <summary>The program as a process of its own over the harbour, so that it can be killed, starved and locked out.</summary>
/// <param name="data">An empty data folder; a temporary one when not said.</param>
public sealed partial class RealProgram(string? data = null) : IAsyncDisposable
{
    /// <summary>The document type that everything happens to.</summary>
    public const string Code = "vessel-call-record";

    private readonly int _port = FreePort();
    private Process? _process;
    private long _given;
    private int _page;

    public string Data { get; } = data ?? Directory.CreateTempSubdirectory("program").FullName;

    public HttpClient Indexer { get; private set; } = null!;

    public HttpClient Steward { get; private set; } = null!;

    /// <summary>How often each act was answered, and with which refusal.</summary>
    public ConcurrentDictionary<string, int> Answers { get; } = new(StringComparer.Ordinal);

    /// <summary>Whether it runs.</summary>
    public bool Runs => _process is { HasExited: false };

    private static readonly Lazy<Task<string>> Harbour = new(FillAsync);

    /// <summary>Fills the folder with the harbour, whose vessel calls are numbered; it is made once for all.</summary>
    public Task SeedAsync() => SeedAsync(Data);

    /// <summary>Fills any empty data folder so.</summary>
    public static async Task SeedAsync(string folder) => Copy(await Harbour.Value, folder);

    private static async Task<string> FillAsync()
    {
        await using var app = new App();
        await app.SeedAsync(new DemoSize(InventoryRows: 3_000, SamplePdfs: 1, SampleScans: 0, Waiting: false));
        var drafts = app.Services.GetRequiredService<Drafts>();
        Assert.Null(
            drafts
                .Change(
                    Code,
                    "numbered",
                    "test",
                    type =>
                        type with
                        {
                            Convention = type.Convention with
                            {
                                Name =
                                [
                                    .. type.Convention.Name,
                                    Piece.Literal(" "),
                                    new Piece(PieceKind.Counter) { Digits = 5, Scope = CounterScope.Everywhere },
                                ],
                            },
                        }
                )
                .Problem
        );
        Assert.Null(drafts.Publish(Code, "test").Problem);
        using (var database = new Database(new DataFolder(app.Data).DatabaseFile))
            database.Read(c => c.Execute("PRAGMA wal_checkpoint(TRUNCATE)"));
        var kept = RunFolder.Made("harbour");
        Copy(app.Data, kept);
        return kept;
    }

    private HttpClient Client() =>
        new(new HttpClientHandler { AllowAutoRedirect = false })
        {
            BaseAddress = new Uri($"http://127.0.0.1:{_port}"),
            Timeout = TimeSpan.FromSeconds(60),
        };

    /// <summary>Signs an indexer and a steward in.</summary>
    public async Task SignIn()
    {
        (Indexer, Steward) = (Client(), Client());
        foreach (var (client, role) in new[] { (Indexer, Roles.Indexer), (Steward, Roles.Steward) })
        {
            var person = HarbourSeed.People.First(p => p.Role == role);
            using var answer = await PageForms.Post(client, "/SignIn", "/SignIn", ("name", person.Name), ("password", person.Password));
            Assert.Equal("/", answer.Headers.Location?.ToString());
        }
    }

    /// <summary>Starts it and waits until it serves.</summary>
    public void Start()
    {
        if (Try() is { } said)
            Assert.Fail(said);
    }

    /// <summary>Starts it; what it said when it does not serve.</summary>
    public string? Try()
    {
        var start = new ProcessStartInfo("dotnet")
        {
            UseShellExecute = false,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (
            var argument in (string[])
                [
                    typeof(Program).Assembly.Location,
                    "--data",
                    Data,
                    $"--urls=http://127.0.0.1:{_port}",
                    $"--contentRoot={Path.Combine(SourceTree.Root, "src/Web")}",
                ]
        )
            start.ArgumentList.Add(argument);
        // It is started often and serves for seconds: what matters is how soon it begins.
        start.Environment["DOTNET_TC_QuickJit"] = "1";
        _process = Process.Start(start)!;
        var (said, serving) = (new List<string>(), new ManualResetEventSlim());
        void Heard(object _, DataReceivedEventArgs e)
        {
            if (e.Data is null)
                return;
            lock (said)
                said.Add(e.Data);
            if (e.Data.StartsWith("Clear Lexicon serves", StringComparison.Ordinal))
                serving.Set();
        }
        _process.OutputDataReceived += Heard;
        _process.ErrorDataReceived += Heard;
        _process.BeginOutputReadLine();
        _process.BeginErrorReadLine();
        for (var waited = Stopwatch.StartNew(); !serving.Wait(50); )
        {
            if (!_process.HasExited && waited.Elapsed < TimeSpan.FromSeconds(60))
                continue;
            _process.WaitForExit();
            lock (said)
                return string.Join('\n', said);
        }
        return null;
    }

    /// <summary>Ends it by SIGKILL.</summary>
    public async Task KillAsync()
    {
        if (_process is not { HasExited: false })
            return;
        _process.Kill();
        await _process.WaitForExitAsync();
    }

    /// <summary>
    /// Everything that has to hold when nothing is under way: file, record, journal, full text, counters, jobs and ledger.
    /// </summary>
    /// <param name="failed">Whether jobs may have failed, as they do on a disk that was full.</param>
    public void Agree(bool failed = false)
    {
        var folder = new DataFolder(Data);
        using var database = Open();
        database.Read(c =>
        {
            Assert.Equal("ok", c.Scalar<string>("PRAGMA integrity_check"));
            Assert.Empty(c.Query("PRAGMA foreign_key_check", r => r.Text("table")));
            Assert.Equal(0L, c.Scalar<long>("SELECT count(*) FROM filing_journal"));
            Assert.Empty(c.Query("SELECT id FROM moves WHERE state NOT IN ('done', 'undone')", r => r.Long("id")));
            var filed = c.Query(
                "SELECT folder, name, file_hash FROM documents WHERE state = 'filed' AND wave_id IS NULL",
                r => (Path: r.Text("folder") + "/" + r.Text("name"), Hash: r.Text("file_hash"))
            );
            var files = Directory
                .GetFiles(folder.Repository, "*", SearchOption.AllDirectories)
                .ToDictionary(f => Path.GetRelativePath(folder.Repository, f), DataFolder.HashOf);
            Assert.Equal(
                filed.Select(f => $"{f.Path} {f.Hash}").Order(StringComparer.Ordinal),
                files.Select(f => $"{f.Key} {f.Value}").Order(StringComparer.Ordinal)
            );
            Assert.Empty(Directory.GetFiles(folder.Drafts));
            Assert.Empty(
                c.Query(
                    "SELECT lower(folder || '/' || name) AS place FROM documents WHERE state = 'filed' GROUP BY 1 HAVING count(*) > 1",
                    r => r.Text("place")
                )
            );
            Assert.Equal(
                0L,
                c.Scalar<long>("SELECT count(*) FROM documents WHERE state = 'filed' AND id NOT IN (SELECT rowid FROM document_text)")
            );
            Assert.Equal(
                0L,
                c.Scalar<long>("SELECT count(*) FROM document_text WHERE rowid NOT IN (SELECT id FROM documents WHERE state = 'filed')")
            );
            // What documents are found by, and what is counted.
            Assert.Equal(
                0L,
                c.Scalar<long>("SELECT count(*) FROM documents WHERE state = 'filed' AND id NOT IN (SELECT document_id FROM found_in)")
            );
            Assert.Equal(
                0L,
                c.Scalar<long>("SELECT count(*) FROM found_in WHERE document_id NOT IN (SELECT id FROM documents WHERE state = 'filed')")
            );
            Assert.Empty(
                c.Query(
                    "SELECT folder, count(*) FROM documents WHERE state = 'filed' GROUP BY folder EXCEPT SELECT path, here FROM folders",
                    r => r.Text("folder")
                )
            );
            Assert.Equal(
                c.Scalar<long>("SELECT count(*) FROM documents WHERE state = 'filed'"),
                c.Scalar<long>("SELECT below FROM folders WHERE path = ''")
            );
            Assert.Equal(
                c.Scalar<long>("SELECT count(*) FROM documents WHERE state = 'filed'"),
                c.Scalar<long>("SELECT sum(filed) FROM filed_types")
            );
            // Of a wave that was taken back nothing is left but what somebody has changed meanwhile.
            Assert.Empty(
                c.Query(
                    """
                    SELECT 'wave ' || id || ' is ' || state || ': ' || tagged || ' tagged, ' || rows || ' there' AS wrong FROM (
                      SELECT w.*, r.state, (SELECT count(*) FROM documents d WHERE d.wave_id = w.id
                      AND (r.state <> 'undone' OR NOT EXISTS (SELECT 1 FROM value_history h WHERE h.document_id = d.id))) AS rows
                      FROM waves w JOIN runs r ON r.kind = 'wave' AND r.id = w.id)
                    WHERE state NOT IN ('applied', 'applying', 'undone') AND NOT (state = 'undoing'
                    AND $failed) OR rows <> CASE state WHEN 'undone' THEN 0 ELSE tagged END AND state <> 'undoing'
                    """,
                    r => r.Text("wrong"),
                    ("$failed", failed)
                )
            );
            // A bulk edit has changed each of its documents once, or not at all.
            Assert.Empty(
                c.Query(
                    """
                    SELECT 'bulk edit ' || id || ', document ' || document_id || ' is ' || state || ', changed ' || times || ' times' AS wrong FROM (
                      SELECT r.id, s.document_id, s.state, (SELECT count(*) FROM value_history h WHERE h.document_id = s.document_id
                        AND h.how = 'bulk edit ' || r.id) AS times
                      FROM run_steps s JOIN runs r ON r.key = s.run AND r.kind = 'bulk')
                    WHERE times <> CASE WHEN state IN ('moving', 'done', 'returning', 'undone', 'stays') THEN 1 ELSE 0 END
                    """,
                    r => r.Text("wrong")
                )
            );
            // The newest export that is complete is whole, and nothing half stands beside it.
            foreach (
                var (run, to) in c.Query(
                    "SELECT key, what ->> '$.folder' AS folder FROM runs WHERE kind = 'export' AND state = 'applied' ORDER BY id DESC LIMIT 1",
                    r => (r.Long("key"), r.Text("folder"))
                )
            )
            {
                var exported = Path.Combine(folder.Exports, to);
                Assert.Equal(
                    ExportStore.Files(c, run, "", 100_000).Select(f => $"{f.Path} {f.Sha256}"),
                    Directory
                        .GetFiles(exported, "*", SearchOption.AllDirectories)
                        .Select(f => $"{Path.GetRelativePath(exported, f)} {DataFolder.HashOf(f)}")
                        .Order(StringComparer.Ordinal)
                );
            }
            Assert.Empty(c.Query("SELECT batch_id FROM batch_files WHERE state = 'waiting'", r => r.Long("batch_id")));
            Assert.Equal(0L, c.Scalar<long>("SELECT count(*) FROM jobs WHERE state = 'running'"));
            if (!failed)
                Assert.Empty(c.Query("SELECT kind || ': ' || problem AS wrong FROM jobs WHERE state = 'failed'", r => r.Text("wrong")));
            Assert.Empty(
                c.Query(
                    "SELECT naming ->> 'counter' AS counter FROM documents WHERE state = 'filed' AND type_code = $type "
                        + "AND naming ->> 'counter' > 0 GROUP BY 1 HAVING count(*) > 1",
                    r => r.Long("counter"),
                    ("$type", Code)
                )
            );
            var (given, highest) = (
                c.Scalar<long?>("SELECT last FROM counters WHERE key = $key", ("$key", $"type:{Code}")) ?? 0,
                c.Scalar<long?>("SELECT max(naming ->> 'counter') FROM documents WHERE type_code = $type", ("$type", Code)) ?? 0
            );
            Assert.True(
                given >= highest && given >= _given,
                $"number {highest} was given, and {_given} before; the counter stands at {given}"
            );
            _given = given;
            Assert.True(LedgerStore.Verify(c).Sound);
            return 0;
        });
        // What the full text and the unique keys say is what the records say.
        var filedWords = database.Read(c =>
            c.Query(
                "SELECT d.record ->> 'vessel' AS vessel, t.body FROM documents d JOIN document_text t ON t.rowid = d.id "
                    + "WHERE d.state = 'filed' AND d.type_code = $type",
                r => (Vessel: r.TextOrNone("vessel") ?? "", Body: r.Text("body")),
                ("$type", Code)
            )
        );
        Assert.All(filedWords, f => Assert.Contains(Folding.Fold(f.Vessel), f.Body, StringComparison.Ordinal));
    }

    /// <summary>Its database, from outside.</summary>
    public Database Open() => new(new DataFolder(Data).DatabaseFile);

    /// <summary>Waits until nothing is under way and nothing waits to be read.</summary>
    public async Task Quiet()
    {
        using var database = Open();
        for (var clock = Stopwatch.StartNew(); ; )
        {
            var (jobs, files) = database.Read(c =>
                (
                    c.Scalar<long>("SELECT count(*) FROM jobs WHERE state = 'running'"),
                    c.Scalar<long>("SELECT count(*) FROM batch_files WHERE state = 'waiting'")
                )
            );
            if (jobs == 0 && files == 0)
                return;
            Assert.False(_process!.HasExited, "the program ended by itself");
            Assert.True(clock.Elapsed < TimeSpan.FromMinutes(2), $"{jobs} jobs and {files} files are still under way after two minutes");
            await Task.Delay(100);
        }
    }

    /// <summary>Posts a form. What is refused is an answer, and is counted; anything else but a page is not.</summary>
    public async Task<HttpStatusCode> Send(HttpClient client, string page, string handler, params (string, string)[] fields)
    {
        using var answer = await PageForms.Post(client, page, handler.Length == 0 ? page : $"{page}?handler={handler}", fields);
        Assert.NotEqual(HttpStatusCode.Redirect, answer.StatusCode);
        Assert.True(
            (int)answer.StatusCode < 500 || answer.StatusCode is HttpStatusCode.ServiceUnavailable or HttpStatusCode.InsufficientStorage,
            $"{page} {handler}: {(int)answer.StatusCode}"
        );
        var act = $"{(page.Split('/') is [_, var only] ? only : page.Split('/')[^2])} {handler.Split('&')[0]}";
        if (ProblemShown().Match(await answer.Content.ReadAsStringAsync()) is { Success: true } refused)
            act += $": {WebUtility.HtmlDecode(refused.Groups[1].Value)}";
        Answers.AddOrUpdate(act, 1, (_, times) => times + 1);
        return answer.StatusCode;
    }

    /// <summary>
    /// The steward's next step with waves: applies one, goes on with a stopped one, takes an applied one back; waits while one is under
    /// way.
    /// </summary>
    public async Task<HttpStatusCode> StepWave()
    {
        using var database = Open();
        var (inventory, wave, state) = database.Read(c =>
            c.Query(
                """
                SELECT i.id AS inventory, w.id AS wave, iif(EXISTS (SELECT 1 FROM jobs j WHERE j.subject = r.subject AND j.state = 'running'), 'under way', r.state) AS state
                FROM inventories i LEFT JOIN waves w ON w.inventory_id = i.id LEFT JOIN runs r ON r.kind = 'wave' AND r.id = w.id
                ORDER BY w.id DESC LIMIT 1
                """,
                r => (r.Long("inventory"), r.IsNull("wave") ? 0 : r.Long("wave"), r.TextOrNone("state"))
            )
        )[0];
        var page = $"/Migration/Inventory/{inventory}";
        return state switch
        {
            "applied" => await Send(Steward, page, $"Undo&wave={wave}"),
            "applying" => await Send(Steward, page, $"Resume&wave={wave}"),
            null or "undone" => await Send(Steward, page, "Apply", ("take-questionable", "on"), ("reason", "trial")),
            _ => HttpStatusCode.OK,
        };
    }

    [GeneratedRegex("class=\"notice problem\".*?<span>([^<]*)</span></div>", RegexOptions.Singleline)]
    private static partial Regex ProblemShown();

    /// <summary>Puts a page that nobody has brought yet into the tray; whole before it is there.</summary>
    public void Draw()
    {
        var pages = HarbourDocuments.AlreadyFiled().Where(p => p.Design.TypeCode == Code).ToList();
        var page = pages[_page % pages.Count];
        var (old, number) = (page.Truth["call-number"], $"VC-2023-{20_000 + _page:00000}");
        HarbourDocuments.Draw(
            page with
            {
                FileName = $"{number}.pdf",
                Printed = page.Printed.ToDictionary(p => p.Key, p => p.Value == old ? number : p.Value),
            },
            Data
        );
        File.Move(Path.Combine(Data, $"{number}.pdf"), Path.Combine(Data, "tray", $"{number}.pdf"));
        _page++;
    }

    private static void Copy(string from, string to)
    {
        foreach (var folder in Directory.GetDirectories(from, "*", SearchOption.AllDirectories))
            Directory.CreateDirectory(folder.Replace(from, to, StringComparison.Ordinal));
        foreach (var file in Directory.GetFiles(from, "*", SearchOption.AllDirectories).Where(f => Path.GetFileName(f) != ".held"))
            File.Copy(file, file.Replace(from, to, StringComparison.Ordinal), overwrite: true);
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    public async ValueTask DisposeAsync()
    {
        await KillAsync();
        Indexer?.Dispose();
        Steward?.Dispose();
        if (data is null)
            Directory.Delete(Data, recursive: true);
    }
}
