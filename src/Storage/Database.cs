using System.Reflection;
using System.Runtime.CompilerServices;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>
/// The SQLite file: opens connections (WAL, foreign keys on), runs the numbered migrations, and lets one writer in at a
/// time. Stores take an open connection, so that a use case spans several of them in one transaction.
/// </summary>
public sealed class Database : IDisposable
{
    /// <summary>How long a write waits for another one before it gives up.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    private readonly string _connection;
    private readonly WriterGate _gate;
    private readonly Action<SqliteConnection>? _prepare;
    private long _writes;
    private long _opened;

    /// <summary>Where the file lies.</summary>
    public string Path { get; }

    /// <summary>Opens or creates the file and brings it to the newest migration.</summary>
    /// <param name="path">The database file; its folder must exist.</param>
    /// <param name="upTo">Stops after this migration; for tests of upgrading.</param>
    /// <param name="patience">How long a write waits for another one; <see cref="Patience"/> when not said.</param>
    public Database(string path, int upTo = int.MaxValue, TimeSpan? patience = null)
    {
        Path = path;
        _gate = new WriterGate(patience ?? Patience);
        var key = LedgerKey.Beside(path);
        _prepare = connection => connection.CreateFunction("ledger_sign", (string text) => key.Sign(text), isDeterministic: true);
        _connection = new SqliteConnectionStringBuilder
        {
            DataSource = path,
            ForeignKeys = true,
            DefaultTimeout = Math.Max(1, (int)(patience ?? Patience).TotalSeconds),
        }.ToString();
        using var connection = Open();
        connection.Execute("PRAGMA journal_mode = WAL");
        connection.CreateFunction("place_key", (string folder, string name) => PlaceKey(folder, name), isDeterministic: true);
        Migrate(connection, upTo);
    }

    /// <summary>The migrations that ship, by number.</summary>
    public static IReadOnlyList<(int Number, string Resource)> Migrations { get; } =
    [
        .. typeof(Database)
            .Assembly.GetManifestResourceNames()
            .Where(n => n.EndsWith(".sql", StringComparison.Ordinal))
            .Select(n => (int.Parse(n.Split('.')[^2].Split('_')[0]), n))
            .OrderBy(m => m.Item1),
    ];

    private static void Migrate(SqliteConnection connection, int upTo)
    {
        var at = (int)connection.Scalar<long>("PRAGMA user_version");
        if (at > Migrations[^1].Number)
            throw new InvalidOperationException(
                $"The database was made by a newer Clear Lexicon (migration {at}; this one knows {Migrations[^1].Number})."
            );
        foreach (var (number, resource) in Migrations)
        {
            if (number <= at || number > upTo)
                continue;
            using var reader = new StreamReader(Assembly.GetExecutingAssembly().GetManifestResourceStream(resource)!);
            using var transaction = connection.BeginTransaction();
            connection.Execute(reader.ReadToEnd());
            connection.Execute($"PRAGMA user_version = {number}");
            transaction.Commit();
        }
    }

    /// <summary>
    /// Folder and name as they are compared: names that differ in nothing but case or the normal form of Unicode are one place. Case is
    /// that of other systems too, which take <c>ς</c> for <c>σ</c>, <c>µ</c> (micro) for <c>μ</c> and <c>ı</c> for <c>I</c>.
    /// </summary>
    public static string PlaceKey(string folder, string name) =>
        Core
            .Vocabularies.CodePoints.Normal($"{folder}/{name}")
            .ToUpperInvariant()
            .ToLowerInvariant()
            .Replace('ı', 'i')
            .Replace('İ', 'i')
            .Replace("i\u0307", "i", StringComparison.Ordinal);

    /// <summary>A connection for reading as long as a stream lasts; the caller disposes of it.</summary>
    public SqliteConnection Connect() => Open(reading: true);

    // FULL: a commit is on disk before it is told of. Journals of files need it (what they say must be there before a file moves), and so
    // do numbers that are never given twice; in WAL mode it costs one flush a commit, and long work commits by the chunk.
    private SqliteConnection Open(bool reading = false)
    {
        var connection = new SqliteConnection(_connection);
        connection.Open();
        Interlocked.Increment(ref _opened);
        connection.Execute(
            $"PRAGMA synchronous = FULL; PRAGMA temp_store = MEMORY; PRAGMA cache_size = -32000; PRAGMA query_only = "
                + $"{(reading ? "ON" : "OFF")}"
        );
        _prepare?.Invoke(connection);
        return connection;
    }

    /// <summary>
    /// Reads one state of the database, however many statements that takes, without waiting for a writer. What writes here fails.
    /// </summary>
    public T Read<T>(Func<SqliteConnection, T> work)
    {
        using var connection = Open(reading: true);
        using var snapshot = connection.BeginTransaction(deferred: true);
        return work(connection);
    }

    /// <summary>Writes in one transaction; all or nothing.</summary>
    /// <exception cref="NestedWriteException">It was called inside another write.</exception>
    /// <exception cref="WriterBusyException">Another write did not end in time.</exception>
    public T Write<T>(Func<SqliteConnection, T> work, [CallerFilePath] string file = "", [CallerMemberName] string member = "") =>
        WriteIf(work, static _ => true, file, member);

    /// <summary>Writes in one transaction that is kept only when its result says so.</summary>
    /// <exception cref="NestedWriteException">It was called inside another write.</exception>
    /// <exception cref="WriterBusyException">Another write did not end in time.</exception>
    public T WriteIf<T>(
        Func<SqliteConnection, T> work,
        Func<T, bool> keep,
        [CallerFilePath] string file = "",
        [CallerMemberName] string member = ""
    ) =>
        _gate.Enter(
            $"{System.IO.Path.GetFileNameWithoutExtension(file)}.{member}",
            () =>
            {
                try
                {
                    using var transaction = (_writer ??= Open()).BeginTransaction(deferred: false);
                    var result = work(_writer);
                    if (!keep(result))
                        return result;
                    transaction.Commit();
                    Interlocked.Increment(ref _writes);
                    return result;
                }
                catch
                {
                    // Whatever it met, the next one begins on a connection that has seen nothing.
                    _writer?.Dispose();
                    _writer = null;
                    throw;
                }
            }
        );

    // Only within the gate. It stays open, so that its cache of pages outlives a chunk.
    private SqliteConnection? _writer;

    /// <summary>Writes in one transaction; all or nothing.</summary>
    /// <exception cref="NestedWriteException">It was called inside another write.</exception>
    /// <exception cref="WriterBusyException">Another write did not end in time.</exception>
    public void Write(Action<SqliteConnection> work, [CallerFilePath] string file = "", [CallerMemberName] string member = "") =>
        Write(
            c =>
            {
                work(c);
                return 0;
            },
            file,
            member
        );

    /// <summary>
    /// How many writes have been kept since the start; work in chunks sees by it whether anybody else wrote between two of them.
    /// </summary>
    public long Writes => Interlocked.Read(ref _writes);

    /// <summary>How many connections have been opened since the start: one a read, whatever it reads.</summary>
    public long Opened => Interlocked.Read(ref _opened);

    /// <inheritdoc/>
    public void Dispose()
    {
        _writer?.Dispose();
        _writer = null;
        using var any = new SqliteConnection(_connection);
        SqliteConnection.ClearPool(any);
    }
}
