using System.Net.Sockets;
using ClearLexicon.Demo;
using ClearLexicon.Storage;

namespace ClearLexicon.Trouble.Tests;

/// <summary>
/// The real program, killed (SIGKILL) at random moments while people file, apply waves and take them back, publish, carry, re-file,
/// rename terms, edit in bulk and export; after each start everything that belongs together is together. A few rounds here;
/// <c>scripts/kill-rounds</c> runs as many as asked.
/// </summary>
public sealed class KillTests : IAsyncLifetime
{
    private static readonly int Rounds = int.TryParse(Environment.GetEnvironmentVariable("KILL_ROUNDS"), out var rounds) ? rounds : 4;

    private readonly Random _random = new(Environment.GetEnvironmentVariable("KILL_SEED") is { } seed ? int.Parse(seed) : 9);
    private readonly RealProgram _program = new();
    private int _round,
        _step;

    // A wave whose documents were carried or followed a term is not taken back; that comes in the later rounds.
    private bool Late => _round * 5 > Rounds * 3;

    public async ValueTask InitializeAsync() => await _program.SeedAsync();

    [Fact]
    public async Task Killed_at_any_moment_file_record_journal_full_text_counters_and_ledger_agree()
    {
        var output = TestContext.Current.TestOutputHelper!;
        for (var round = 0; round <= Rounds; round++)
        {
            _round = round;
            _program.Start();
            await _program.Quiet();
            _program.Agree();
            if (round == Rounds)
                break;
            for (var i = 0; i < 3; i++)
                _program.Draw();
            using var stop = new CancellationTokenSource();
            // Sessions outlive the program.
            if (round == 0)
                await _program.SignIn();
            var people = new[]
            {
                Act(Indexer, stop.Token),
                Act(Wave, stop.Token),
                Act(Design, stop.Token),
                Act(Terms, stop.Token),
                Act(Sending, stop.Token),
            };
            var wait = _random.Next(300, Rounds > 10 ? 8_000 : 4_500);
            await Task.Delay(wait);
            await _program.KillAsync();
            await stop.CancelAsync();
            await Task.WhenAll(people);
            output.WriteLine($"round {round + 1}: killed after {wait} ms");
        }
        foreach (var (answer, times) in _program.Answers.OrderByDescending(a => a.Value))
            output.WriteLine($"{times, 6} × {answer}");
        using var database = _program.Open();
        var done = database
            .Read(c =>
                c.Query(
                    $"SELECT {Kind} AS act, count(*) AS times FROM ledger GROUP BY 1 ORDER BY 2 DESC",
                    r => (Act: r.Text("act"), Times: r.Int("times"))
                )
            )
            .ToDictionary(d => d.Act, d => d.Times);
        foreach (var (act, times) in done)
            output.WriteLine($"{times, 6} × {act}");
        // Many rounds prove something only if everything was under way in them.
        if (Rounds >= 50)
            Assert.All(
                new[]
                {
                    "filed",
                    "applied wave",
                    "undid wave",
                    "checked filed documents against version",
                    "carried documents through to version",
                    "ended re-file run",
                    "undid re-file run",
                    "edited in bulk",
                    "undid a bulk edit",
                },
                act => Assert.Contains(act, done.Keys)
            );
    }

    // What was done, without its number.
    private const string Kind = "CASE WHEN action GLOB '*[0-9]' THEN trim(rtrim(action, '0123456789')) ELSE action END";

    private async Task Act(Func<HttpClient, CancellationToken, Task> act, CancellationToken stop)
    {
        var client = act == Indexer ? _program.Indexer : _program.Steward;
        try
        {
            while (!stop.IsCancellationRequested)
                await act(client, stop);
        }
        catch (Exception e) when (e is HttpRequestException or SocketException or OperationCanceledException or IOException)
        {
            // Killed under our hands.
        }
    }

    private async Task Indexer(HttpClient client, CancellationToken stop)
    {
        await _program.Send(client, "/Desk", "Scan");
        await Task.Delay(400, stop);
        await _program.Send(client, "/Desk/Filing", "Start");
    }

    private async Task Wave(HttpClient client, CancellationToken stop)
    {
        await _program.StepWave();
        await Task.Delay(150, stop);
    }

    // One step of the steward's round: a change, a look, publishing, and the paths that follow. A kill does not lose the place in it.
    private async Task Design(HttpClient client, CancellationToken stop)
    {
        using var database = _program.Open();
        var (publish, refile) = ($"/Design/Publish/{RealProgram.Code}", $"/Design/Refile/{RealProgram.Code}");
        if (
            database.Read(c => c.Scalar<long>("SELECT count(*) FROM jobs WHERE state = 'running' AND kind NOT IN ('wave', 'wave-undo')"))
            > 0
        )
        {
            await Task.Delay(50, stop);
            return;
        }
        var version = database.Read(c => DesignStore.Versions(c, RealProgram.Code))[0].Version;
        switch (_step)
        {
            // The month in the folder is written in another way, or the vessels in other letters: either way the paths follow by a re-file.
            case 0:
                await _program.Send(
                    client,
                    $"/Design/Convention/{RealProgram.Code}",
                    "PieceOptions&line=folder&at=4",
                    ("date-form", version % 2 == 0 ? "MM" : "MM MMMM")
                );
                break;
            case 1 when Late:
                await _program.Send(
                    client,
                    publish,
                    "Line",
                    ("field", "vessel"),
                    ("how", "Whole"),
                    ("from", "vessel"),
                    ("step-kind", version % 2 == 0 ? "upper-case" : "capitalise"),
                    ("step-argument", "")
                );
                break;
            case 2:
                await _program.Send(client, publish, "Look");
                break;
            case 3:
                await _program.Send(client, publish, "", ("seen", $"{version}"), ("existing", Late ? "Carry" : "Recheck"));
                break;
            case 4:
                await _program.Send(client, refile, "Look");
                break;
            case 5:
                await _program.Send(client, refile, "Apply", ("version", $"{version}"));
                break;
            case 6
                when database.Read(c =>
                    c.Query(
                        "SELECT id FROM runs WHERE kind = 'refile' AND state IN ('applied', 'applying') ORDER BY id DESC LIMIT 1",
                        r => r.Long("id")
                    )
                )
                    is [var run]
                    && _random.Next(2) == 0:
                await _program.Send(client, refile, $"Undo&run={run}");
                break;
        }
        _step = (_step + 1) % 7;
    }

    // Somebody changes an agent in bulk and takes it back, and sends out what was filed.
    private async Task Sending(HttpClient client, CancellationToken stop)
    {
        await Task.Delay(120, stop);
        using var database = _program.Open();
        var (plan, edit, state) = database.Read(c =>
            (
                c.Scalar<long>("SELECT coalesce(max(id), 0) FROM export_plans"),
                c.Scalar<long>("SELECT coalesce(max(id), 0) FROM runs WHERE kind = 'bulk'"),
                c.Scalar<string>("SELECT state FROM runs WHERE kind = 'bulk' ORDER BY id DESC LIMIT 1")
            )
        );
        if (plan == 0)
            await _program.Send(
                client,
                "/Repository/Export",
                "Save",
                ("name", "Out"),
                ("type", RealProgram.Code),
                ("ask", "Arrived is from 2023"),
                ("columns", "Vessel"),
                ("format", "xml"),
                ("dates", "yyyy-MM-dd"),
                ("files", "filed"),
                ("naming", "tree"),
                ("folder", "Out"),
                ("taken", "replace")
            );
        else if (_random.Next(2) == 0)
            await _program.Send(client, $"/Repository/Export/{plan}", "Run");
        else if (state is "looked" or "applied" or "applying" or "undoing")
            await _program.Send(client, "/Repository/BulkEdit", $"{(state is "looked" or "applying" ? "Apply" : "Undo")}&edit={edit}");
        else
            await _program.Send(
                client,
                "/Repository/BulkEdit",
                $"Look&type={RealProgram.Code}&ask=Arrived+is+from+2023",
                ("field", "agent"),
                ("act", "Set"),
                ("text", $"Agents {_random.Next(1_000)}")
            );
    }

    private async Task Terms(HttpClient client, CancellationToken stop)
    {
        await Task.Delay(300, stop);
        if (!Late)
            return;
        using var database = _program.Open();
        var (id, label) = database.Read(c =>
            c.Query("SELECT id, label FROM terms WHERE vocabulary_key = 'berths' ORDER BY label", r => (r.Text("id"), r.Text("label")))
        )
            is { Count: > 0 } terms
            ? terms[_random.Next(terms.Count)]
            : ("", "");
        await _program.Send(
            client,
            "/Design/Vocabulary/berths",
            $"Term&term={Uri.EscapeDataString(id)}",
            ("label", label.EndsWith(" renamed", StringComparison.Ordinal) ? label[..^8] : label + " renamed")
        );
    }

    public ValueTask DisposeAsync() => _program.DisposeAsync();
}
