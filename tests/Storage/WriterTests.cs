using System.Diagnostics;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage.Tests;

/// <summary>One writer: not twice, not for ever, in turn; one state a read; an index behind every foreign key.</summary>
public sealed class WriterTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("writer").FullName;
    private readonly Database _db;

    public WriterTests() => _db = new Database(Path.Combine(_folder, "test.db"), patience: TimeSpan.FromMilliseconds(300));

    private static void Note(SqliteConnection c, string value) => SettingStore.Set(c, "note", value);

    private string? Noted => _db.Read(c => SettingStore.Find(c, "note"));

    [Fact]
    public async Task A_write_inside_a_write_is_refused_with_both_places_and_leaves_nothing()
    {
        var nested = Assert.Throws<NestedWriteException>(() =>
            _db.Write(c =>
            {
                Note(c, "outer");
                _db.Write(inner => Note(inner, "inner"));
            })
        );
        Assert.Contains(
            $"{nameof(WriterTests)}.{nameof(A_write_inside_a_write_is_refused_with_both_places_and_leaves_nothing)}",
            nested.Message
        );
        Assert.Null(Noted);
        // Also by way of other tasks and threads that the write waits for.
        Assert.Throws<NestedWriteException>(() => _db.Write(_ => Task.Run(() => _db.Write(c => Note(c, "task"))).GetAwaiter().GetResult()));
        // Work that a write started and that outlives it may write.
        Task later = Task.CompletedTask;
        _db.Write(c =>
        {
            later = Task.Run(async () =>
            {
                await Task.Delay(50);
                _db.Write(x => Note(x, "later"));
            });
        });
        await later;
        Assert.Equal("later", Noted);
    }

    [Fact]
    public async Task Who_waits_too_long_is_told_who_writes_and_the_writer_is_not_harmed()
    {
        using var begun = new ManualResetEventSlim();
        using var end = new ManualResetEventSlim();
        var slow = Task.Run(() =>
            _db.Write(c =>
            {
                begun.Set();
                end.Wait();
                Note(c, "slow");
            })
        );
        begun.Wait();
        var busy = Assert.Throws<WriterBusyException>(() => _db.Write(c => Note(c, "second")));
        Assert.Contains(nameof(WriterTests), busy.Message);
        Assert.Contains("Nothing was changed", busy.Message);
        end.Set();
        await slow;
        Assert.Equal("slow", Noted);
        _db.Write(c => Note(c, "third"));
        Assert.Equal("third", Noted);
    }

    /// <summary>Work that writes again and again as fast as it can never overtakes somebody who waits.</summary>
    [Fact]
    public async Task Writers_come_in_turn()
    {
        using var stop = new CancellationTokenSource();
        var turns = 0;
        var greedy = Task.Run(() =>
        {
            while (!stop.IsCancellationRequested)
                _db.Write(c =>
                {
                    Note(c, "greedy");
                    Thread.Sleep(5);
                    Interlocked.Increment(ref turns);
                });
        });
        while (Volatile.Read(ref turns) == 0)
            await Task.Delay(1);
        var most = 0;
        for (var i = 0; i < 20; i++)
        {
            var before = Volatile.Read(ref turns);
            _db.Write(c => Note(c, "patient"));
            most = Math.Max(most, Volatile.Read(ref turns) - before);
        }
        stop.Cancel();
        await greedy;
        // The turn that was under way, and at most one that stood before it in line.
        Assert.InRange(most, 0, 2);
    }

    [Fact]
    public void A_read_sees_one_state_and_cannot_write()
    {
        _db.Write(c => Note(c, "first"));
        _db.Read(c =>
        {
            Assert.Equal("first", SettingStore.Find(c, "note"));
            Task.Run(() => _db.Write(x => Note(x, "second"))).Wait();
            Assert.Equal("first", SettingStore.Find(c, "note"));
            return 0;
        });
        Assert.Equal("second", Noted);
        Assert.Equal(
            8,
            Assert
                .Throws<SqliteException>(() =>
                    _db.Read(c =>
                    {
                        Note(c, "third");
                        return 0;
                    })
                )
                .SqliteErrorCode
        );
        Assert.Equal("second", Noted);
    }

    [Fact]
    public void Every_foreign_key_has_an_index_on_the_referring_side()
    {
        var without = _db.Read(c =>
            c.Query("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'", r => r.Text("name"))
                .SelectMany(table =>
                {
                    // An index, or the primary key, that begins with the referring columns; a partial one only where it leaves out nothing
                    // but nulls.
                    var indexes = c.Query(
                            $"SELECT l.name, l.partial, (SELECT sql FROM sqlite_schema s WHERE s.name = l.name) AS sql FROM "
                                + $"pragma_index_list('{table}') l",
                            r => (Name: r.Text("name"), Partial: r.Flag("partial"), Sql: r.TextOrNone("sql"))
                        )
                        .Select(i =>
                            (
                                Columns: c.Query(
                                    $"SELECT name FROM pragma_index_info('{i.Name}') ORDER BY seqno",
                                    r => r.TextOrNone("name")
                                ),
                                i.Partial,
                                i.Sql
                            )
                        );
                    var key = c.Query($"SELECT name FROM pragma_table_info('{table}') WHERE pk > 0 ORDER BY pk", r => r.TextOrNone("name"));
                    return c.Query(
                            $"SELECT id, \"from\" FROM pragma_foreign_key_list('{table}') ORDER BY id, seq",
                            r => (Id: r.Int("id"), Column: r.Text("from"))
                        )
                        .GroupBy(k => k.Id, k => k.Column)
                        .Where(k =>
                            !key.Take(k.Count()).SequenceEqual(k)
                            && !indexes.Any(i =>
                                i.Columns.Take(k.Count()).SequenceEqual(k)
                                && (!i.Partial || i.Sql!.EndsWith($"WHERE {k.First()} IS NOT NULL", StringComparison.Ordinal))
                            )
                        )
                        .Select(k => $"{table}: {string.Join(", ", k)}");
                })
                .ToList()
        );
        Assert.Empty(without);
    }

    [Fact]
    public void A_ledger_that_was_cut_at_its_end_is_seen_and_only_new_lines_are_hashed_again()
    {
        var now = new DateTimeOffset(2024, 3, 5, 12, 0, 0, TimeSpan.Zero);
        _db.Write(c =>
        {
            for (var i = 0; i < 9; i++)
                LedgerStore.Append(c, now, "who", $"did {i}", new LedgerSubject(SubjectKind.Settings));
        });
        var sound = _db.Read(c => LedgerStore.Verify(c));
        Assert.Equal((9, true), (sound.Seq, sound.Sound));
        _db.Write(c => LedgerStore.Append(c, now, "who", "one more", new LedgerSubject(SubjectKind.Settings)));
        Assert.True(_db.Read(c => LedgerStore.Verify(c, sound)).Sound);
        _db.Write(c =>
        {
            c.Execute("DROP TRIGGER ledger_never_forgets; DELETE FROM ledger WHERE seq = 10");
        });
        Assert.Equal((null, true), _db.Read(c => LedgerStore.Verify(c)) is var cut ? (cut.FirstBroken, cut.EndIsCut) : default);
        // Setting the head back needs the key, which is not in the database.
        _db.Write(c =>
        {
            c.Execute("UPDATE ledger_head SET (seq, hash) = (SELECT seq, hash FROM ledger ORDER BY seq DESC LIMIT 1)");
        });
        Assert.True(_db.Read(c => LedgerStore.Verify(c)).EndIsCut);
    }

    public void Dispose()
    {
        _db.Dispose();
        SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, recursive: true);
    }
}
