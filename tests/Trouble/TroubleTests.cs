using System.Diagnostics;
using System.Net;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Trouble.Tests;

/// <summary>
/// What comes from outside: a disk that fills at any write, a folder that cannot be written, a database that another program holds, a clock
/// that is set back. The real program on a real small disk; it says what is wrong, ends by nothing, and goes on when the trouble is over.
/// </summary>
public sealed class TroubleTests
{
    [Fact]
    public async Task A_disk_that_fills_at_any_write_gives_a_message_and_ends_nothing()
    {
        using var disk = SmallDisk.Mounted(160);
        await using var program = new RealProgram(disk.Folder);
        await program.SeedAsync();
        for (var i = 0; i < 20; i++)
            program.Draw();
        program.Start();
        await program.SignIn();
        var refused = 0;
        foreach (var room in (int[])[0, 40, 800])
        {
            disk.Fill(leave: room * 1024);
            // Posts that begin work, and work that begins in the middle of what the others take.
            var acts = new[]
            {
                program.Send(program.Indexer, "/Desk", "Scan"),
                program.StepWave(),
                program.Send(
                    program.Steward,
                    $"/Design/Convention/{RealProgram.Code}",
                    "PieceOptions&line=folder&at=4",
                    ("date-form", room % 100 == 0 ? "MM" : "MMMM")
                ),
                Rename(program),
                program.Send(program.Indexer, "/Desk/Filing", "Start"),
            };
            refused += (await Task.WhenAll(acts)).Count(a => a == HttpStatusCode.InsufficientStorage);
            using var page = await program.Steward.GetAsync("/Repository", TestContext.Current.CancellationToken);
            Assert.Equal(HttpStatusCode.OK, page.StatusCode);
            Assert.True(program.Runs);
            disk.Empty();
            await program.Quiet();
            program.Agree(failed: true);
        }
        Assert.True(
            refused > 0 || program.Answers.Keys.Any(a => a.Contains("disk", StringComparison.Ordinal)),
            string.Join('\n', program.Answers)
        );
        // With room, everything that stood still goes on without a new start.
        using var database = program.Open();
        Assert.All(
            database.Read(c => c.Query("SELECT kind || ': ' || problem AS wrong FROM jobs WHERE state = 'failed'", r => r.Text("wrong"))),
            p => Assert.Contains("disk", p, StringComparison.Ordinal)
        );
        var before = Filed(database);
        await program.Send(program.Indexer, "/Desk", "Scan");
        await program.Quiet();
        await program.Send(program.Indexer, "/Desk/Filing", "Start");
        await program.Quiet();
        Assert.True(Filed(database) > before);
        await program.KillAsync();
        program.Start();
        await program.Quiet();
        program.Agree(failed: true);
    }

    private static long Filed(Database database) =>
        database.Read(c => c.Scalar<long>("SELECT count(*) FROM documents WHERE state = 'filed' AND wave_id IS NULL"));

    private static async Task<HttpStatusCode> Rename(RealProgram program)
    {
        using var database = program.Open();
        var (id, label) = database.Read(c =>
            c.Query("SELECT id, label FROM terms WHERE vocabulary_key = 'berths' ORDER BY id LIMIT 1", r => (r.Text("id"), r.Text("label")))
        )[0];
        return await program.Send(
            program.Steward,
            "/Design/Vocabulary/berths",
            $"Term&term={Uri.EscapeDataString(id)}",
            ("label", label.EndsWith('X') ? label[..^1] : label + "X")
        );
    }

    [Fact]
    public async Task A_folder_that_cannot_be_written_or_is_held_is_named_at_start()
    {
        using var disk = SmallDisk.Mounted(160);
        await using var program = new RealProgram(disk.Folder);
        await program.SeedAsync();
        disk.ReadOnly(true);
        Assert.Equal(
            $"Clear Lexicon cannot write in {disk.Folder}: give it the right to, make room there, or name another folder with --data.",
            program.Try()
        );
        disk.ReadOnly(false);
        program.Start();
        await using var second = new RealProgram(disk.Folder);
        Assert.Equal($"Another Clear Lexicon is running on {disk.Folder}.", second.Try());
        await program.Quiet();
        program.Agree();
    }

    [Fact]
    public async Task A_database_that_another_program_holds_keeps_writers_waiting_and_nobody_else()
    {
        await using var program = new RealProgram();
        await program.SeedAsync();
        program.Start();
        await program.SignIn();
        using var other = new SqliteConnection($"Data Source={new DataFolder(program.Data).DatabaseFile};Pooling=False");
        other.Open();
        var held = other.BeginTransaction(deferred: false);
        var rename = Rename(program);
        for (var i = 0; i < 5; i++)
        {
            using var page = await program.Indexer.GetAsync(i % 2 == 0 ? "/Repository" : "/Desk", TestContext.Current.CancellationToken);
            Assert.Equal(HttpStatusCode.OK, page.StatusCode);
        }
        await Task.Delay(1_500, TestContext.Current.CancellationToken);
        Assert.False(rename.IsCompleted);
        held.Dispose();
        Assert.Equal(HttpStatusCode.OK, await rename);
        await program.Quiet();
        program.Agree();
    }

    [Fact]
    public async Task A_clock_set_back_locks_nobody_out_and_mixes_nothing_up()
    {
        var clock = new SetClock();
        await using var app = new App(clock);
        await RealProgram.SeedAsync(app.Data);
        var people = app.Services.GetRequiredService<Accounts>();
        var (tobias, word) = HarbourSeed.People.Where(p => p.Role == Roles.Indexer).Select(p => (p.Name, p.Password)).First();
        for (var i = 0; i < 40; i++)
            people.SignIn(tobias, "wrong", "here");
        Assert.Contains("Too many attempts", people.SignIn(tobias, word, "here").Problem);
        clock.Offset = TimeSpan.FromDays(-40);
        Assert.Null(people.SignIn(tobias, word, "here").Problem);
        var (waves, database) = (app.Services.GetRequiredService<Waves>(), app.Services.GetRequiredService<Database>());
        var inventory = database.Read(InventoryStore.All)[0].Id;
        for (var i = 0; i < 3; i++)
        {
            await waves.Start(inventory, "trial", tobias).Value!.Completion;
            clock.Offset -= TimeSpan.FromHours(7);
            var wave = waves.Of(inventory)[0];
            Assert.Equal(RunState.Applied, wave.Run.State);
            await waves.StartUndo(wave.Run.Id, tobias).Value!.Completion;
            Assert.Equal((RunState.Undone, 0L), (waves.Of(inventory)[0].Run.State, database.Read(c => WaveStore.Count(c, wave.Run.Id))));
            clock.Offset -= TimeSpan.FromHours(7);
        }
        Assert.Equal(6, database.Read(c => c.Scalar<long>("SELECT count(*) FROM jobs WHERE kind LIKE 'wave%' AND state = 'ended'")));
        Assert.True(database.Read(c => LedgerStore.Verify(c)).Sound);
        Assert.StartsWith("undid wave", database.Read(c => LedgerStore.Newest(c, 1))[0].Action);
    }

    private sealed class SetClock : TimeProvider
    {
        public TimeSpan Offset { get; set; }

        public override DateTimeOffset GetUtcNow() => base.GetUtcNow() + Offset;
    }

    /// <summary>A disk of its own in memory, which can be filled to the last byte and made read-only.</summary>
    private sealed class SmallDisk : IDisposable
    {
        private readonly string _mount = Directory.CreateTempSubdirectory("disk").FullName;

        private SmallDisk() { }

        public string Folder => Path.Combine(_mount, "data");

        private string Ballast => Path.Combine(_mount, "ballast");

        public static SmallDisk Mounted(int megabytes)
        {
            var disk = new SmallDisk();
            Assert.SkipUnless(
                Run("mount", "-t", "tmpfs", "-o", $"size={megabytes}m", "none", disk._mount),
                "A disk can only be mounted by root."
            );
            Directory.CreateDirectory(disk.Folder);
            return disk;
        }

        public void Fill(long leave)
        {
            using var ballast = new FileStream(Ballast, FileMode.Create, FileAccess.Write, FileShare.ReadWrite, bufferSize: 0);
            var block = new byte[4096];
            try
            {
                while (new DriveInfo(_mount).AvailableFreeSpace > leave)
                    ballast.Write(block);
            }
            catch (IOException)
            {
                // To the last byte.
            }
        }

        public void Empty() => File.Delete(Ballast);

        public void ReadOnly(bool on) => Assert.True(Run("mount", "-o", on ? "remount,ro" : "remount,rw", _mount));

        private static bool Run(string program, params string[] arguments)
        {
            try
            {
                using var process = Process.Start(
                    new ProcessStartInfo(program, arguments) { UseShellExecute = false, RedirectStandardError = true }
                )!;
                process.WaitForExit();
                return process.ExitCode == 0;
            }
            catch (System.ComponentModel.Win32Exception)
            {
                return false;
            }
        }

        public void Dispose()
        {
            Run("umount", _mount);
            Directory.Delete(_mount, recursive: true);
        }
    }
}
