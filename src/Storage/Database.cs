using System.Reflection;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>
/// The SQLite file: opens connections (WAL, foreign keys on), runs the numbered migrations, and lets one writer in at a
/// time. Stores take an open connection, so that a use case spans several of them in one transaction.
/// </summary>
public sealed class Database : IDisposable
{
    private readonly string _connection;
    private readonly SemaphoreSlim _writer = new(1, 1);

    /// <summary>Where the file lies.</summary>
    public string Path { get; }

    /// <summary>Opens or creates the file and brings it to the newest migration.</summary>
    /// <param name="path">The database file; its folder must exist.</param>
    /// <param name="upTo">Stops after this migration; for tests of upgrading.</param>
    public Database(string path, int upTo = int.MaxValue)
    {
        Path = path;
        _connection = new SqliteConnectionStringBuilder { DataSource = path, ForeignKeys = true, DefaultTimeout = 30 }.ToString();
        using var connection = Open();
        connection.Execute("PRAGMA journal_mode = WAL");
        connection.CreateFunction("place_key", (string folder, string name) => PlaceKey(folder, name), isDeterministic: true);
        Migrate(connection, upTo);
    }

    /// <summary>The migrations that ship, by number.</summary>
    public static IReadOnlyList<(int Number, string Resource)> Migrations { get; } =
        [.. typeof(Database).Assembly.GetManifestResourceNames()
            .Where(n => n.EndsWith(".sql", StringComparison.Ordinal))
            .Select(n => (int.Parse(n.Split('.')[^2].Split('_')[0]), n))
            .OrderBy(m => m.Item1)];

    private static void Migrate(SqliteConnection connection, int upTo)
    {
        var at = (int)connection.Scalar<long>("PRAGMA user_version");
        if (at > Migrations[^1].Number)
            throw new InvalidOperationException($"The database was made by a newer Clear Lexicon (migration {at}; this one knows {Migrations[^1].Number}).");
        foreach (var (number, resource) in Migrations)
        {
            if (number <= at || number > upTo) continue;
            using var reader = new StreamReader(Assembly.GetExecutingAssembly().GetManifestResourceStream(resource)!);
            using var transaction = connection.BeginTransaction();
            connection.Execute(reader.ReadToEnd());
            connection.Execute($"PRAGMA user_version = {number}");
            transaction.Commit();
        }
    }

    /// <summary>Folder and name as they are compared: names that differ in nothing but case or the normal form of Unicode are one place.</summary>
    public static string PlaceKey(string folder, string name) => $"{folder}/{name}".Normalize().ToLowerInvariant();

    /// <summary>A connection for reading as long as a stream lasts; the caller disposes of it.</summary>
    public SqliteConnection Connect() => Open();

    private SqliteConnection Open()
    {
        var connection = new SqliteConnection(_connection);
        connection.Open();
        connection.Execute("PRAGMA synchronous = NORMAL; PRAGMA temp_store = MEMORY; PRAGMA cache_size = -32000");
        return connection;
    }

    /// <summary>Reads without waiting for a writer.</summary>
    public T Read<T>(Func<SqliteConnection, T> work)
    {
        using var connection = Open();
        return work(connection);
    }

    /// <summary>Writes in one transaction; all or nothing.</summary>
    public T Write<T>(Func<SqliteConnection, T> work) => WriteIf(work, static _ => true);

    /// <summary>Writes in one transaction that is kept only when its result says so.</summary>
    public T WriteIf<T>(Func<SqliteConnection, T> work, Func<T, bool> keep)
    {
        _writer.Wait();
        try
        {
            using var connection = Open();
            using var transaction = connection.BeginTransaction(deferred: false);
            var result = work(connection);
            if (keep(result)) transaction.Commit();
            return result;
        }
        finally
        {
            _writer.Release();
        }
    }

    /// <summary>Writes in one transaction; all or nothing.</summary>
    public void Write(Action<SqliteConnection> work) => Write(c => { work(c); return 0; });

    /// <inheritdoc/>
    public void Dispose()
    {
        SqliteConnection.ClearPool(new SqliteConnection(_connection));
        _writer.Dispose();
    }
}
