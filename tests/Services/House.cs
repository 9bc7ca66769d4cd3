using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Tests;

/// <summary>
/// The clock of tests: it goes as the machine's does, from one moment on, whatever day it is; and where it hangs, the day has begun that
/// elsewhere is still to come.
/// </summary>
public sealed class TestClock : TimeProvider
{
    private static readonly DateTimeOffset Beginning = new(2027, 2, 26, 13, 0, 0, TimeSpan.Zero);
    private readonly long _begun = System.GetTimestamp();

    public override TimeZoneInfo LocalTimeZone { get; } = TimeZoneInfo.FindSystemTimeZoneById("Pacific/Auckland");

    public override DateTimeOffset GetUtcNow() => Beginning + System.GetElapsedTime(_begun);
}

/// <summary>All services over a data folder of their own, deleted afterwards.</summary>
public sealed class House : IDisposable
{
    public TimeProvider Clock { get; }

    public House(string? root = null, IFileReader? files = null, TimeProvider? clock = null)
    {
        Folder = new DataFolder(root ?? Directory.CreateTempSubdirectory("house").FullName);
        // One key for all, so that a ledger that is copied is still signed.
        Directory.CreateDirectory(Folder.Keys);
        if (Path.Combine(Folder.Keys, "ledger.key") is var key && !File.Exists(key))
            File.WriteAllBytes(key, new byte[32]);
        Database = new Database(Folder.DatabaseFile);
        clock ??= new TestClock();
        Clock = clock;
        Jobs = new Jobs(Database, clock, e => Failures.Add(e.ToString()));
        People = new Accounts(Database, clock);
        Designs = new Designs(Database, clock);
        Rebuilding = new Rebuilding(Database, Designs, Jobs);
        Drafts = new Drafts(Database, Designs, Rebuilding, clock);
        files ??= new RememberingReader();
        Readers = new TaughtReaders(Database, Folder, Designs, files, clock);
        Proofs = new SampleProofs(Database, Designs, Readers, Jobs);
        WaysIn = new WaysIn(Database, Folder, Designs, clock);
        Sheets = new Sheets(Database, Folder, Designs, clock);
        var writer = new DocumentWriter(Designs, clock);
        var making = new StackDocuments(Database, Folder, Designs, Sheets, writer, clock);
        Stacks = new Stacks(Database, Folder, Designs, making, writer, clock);
        Intake = new Intake(Database, Folder, Stacks, files, Jobs, clock);
        Following = new Following(Database, Designs, Jobs, writer, clock);
        Vocabularies = new Vocabularies(Database, Designs, Following, Folder, files, clock);
        FromPages = new FieldsFromPages(Designs, new NewFields(Drafts, Vocabularies));
        Services = new ServiceAddresses(Database, clock);
        Tables = new ReferenceTables(Database, Designs, Folder, files, Services, new PlainClients(), clock);
        Files = new DesignFiles(Database, Designs, Drafts, Services, clock);
        Desk = new DeskDocuments(Database, Designs, writer, clock);
        Parked = new ParkedDocuments(Database, clock);
        Pages = new DocumentPages(Database, Folder, Designs, Desk, files, Jobs, writer, clock);
        Filed = new FiledDocuments(Database, Designs, writer, clock);
        Filer = new Filer(Database, Folder, Desk, writer, clock);
        Withdrawals = new Withdrawals(Database, Folder, Designs, clock);
        FilingRuns = new FilingRuns(Database, Desk, Filer, Withdrawals, Jobs, clock);
        Migrations = new Migrations(Database, Folder, Designs, Jobs, clock);
        Waves = new Waves(Database, Folder, Designs, Migrations, Jobs, clock);
        Moves = new Moves(Database, Folder, Designs, clock);
        IntegrityCheck = new IntegrityCheck(Database, Folder, Designs, Moves, Jobs, clock);
        Refiling = new Refiling(Database, Designs, Moves, Jobs, clock);
        Carrying = new Carrying(Database, Designs, Jobs, writer, clock);
        Publishing = new Publishing(Database, Folder, Designs, Drafts, Carrying, Jobs, clock);
        Preview = new ConventionPreview(Database, Folder, Designs, clock);
        Proposals = new ConventionProposals(Designs, Drafts, Vocabularies);
        Asking = new Asking(Designs, Rebuilding, clock);
        Rereadings = new Rereadings(Database, Folder, Designs, Asking, files, Jobs, writer, clock);
        Views = new Views(Database, Asking, clock);
        BulkEdits = new BulkEdits(Database, Designs, Asking, Moves, Jobs, writer, clock);
        Retyping = new Retyping(Database, Folder, Designs, Asking, Moves, Jobs, writer, clock);
        Notices = new Notices(Database, Asking, clock);
        Mail = new NoticeMail(Database, Folder, Notices, clock);
        Plans = new ExportPlans(Database, Folder, Designs, Asking, clock);
        Exports = new Exports(Database, Folder, Designs, Asking, Plans, Jobs, clock);
        Packages = new Packages(Database, Folder, Files, Jobs, clock);
        Takeovers = new Takeovers(Database, Folder, Files, Designs, Jobs, clock);
    }

    public List<string> Failures { get; } = [];
    public DataFolder Folder { get; }
    public Database Database { get; }
    public Jobs Jobs { get; }
    public Accounts People { get; }
    public Designs Designs { get; }
    public Drafts Drafts { get; }
    public Vocabularies Vocabularies { get; }

    public FieldsFromPages FromPages { get; }
    public ReferenceTables Tables { get; }
    public DesignFiles Files { get; }
    public TaughtReaders Readers { get; }
    public SampleProofs Proofs { get; }
    public Intake Intake { get; }
    public WaysIn WaysIn { get; }
    public Sheets Sheets { get; }
    public Stacks Stacks { get; }
    public DeskDocuments Desk { get; }
    public ParkedDocuments Parked { get; }
    public DocumentPages Pages { get; }
    public FiledDocuments Filed { get; }
    public Filer Filer { get; }
    public Withdrawals Withdrawals { get; }
    public FilingRuns FilingRuns { get; }
    public Migrations Migrations { get; }
    public Waves Waves { get; }
    public Following Following { get; }
    public ServiceAddresses Services { get; }
    public Moves Moves { get; }
    public Refiling Refiling { get; }
    public Rereadings Rereadings { get; }
    public IntegrityCheck IntegrityCheck { get; }
    public Carrying Carrying { get; }
    public Publishing Publishing { get; }

    public Asking Asking { get; }
    public Views Views { get; }
    public BulkEdits BulkEdits { get; }
    public Retyping Retyping { get; }
    public Notices Notices { get; }
    public NoticeMail Mail { get; }
    public ExportPlans Plans { get; }
    public Exports Exports { get; }
    public Packages Packages { get; }
    public Takeovers Takeovers { get; }

    /// <summary>A person of a role, by whose rights long work is done.</summary>
    public string Person(string role) =>
        Database.Write(c =>
        {
            if (PeopleStore.Find(c, role) is null)
                PeopleStore.Add(c, role, "x", [role]);
            return role;
        });

    /// <summary>The sound pages of the harbour, brought and filed, in a house where nothing has happened; ids of the documents of a
    /// type.</summary>
    public async Task<List<long>> FiledAsync(string typeCode)
    {
        Take(await WithFiled.Value);
        return Database.Read(c =>
            RepositorySearch.Find(c, new RepositoryQuery { TypeCode = typeCode }, 100).Documents.ConvertAll(d => d.Id)
        );
    }

    /// <summary>An inventory of the harbour, profiled, with its crosswalk and passes.</summary>
    public async Task<long> InventoryAsync(int rows)
    {
        var path = Path.Combine(Folder.Root, "list.csv");
        HarbourInventory.Write(path, rows);
        var id = (await Migrations.ImportAsync(new BroughtFile("list.csv", () => File.OpenRead(path)), "me")).Value;
        await Migrations.StartProfile(id).Ended();
        var lines = Migrations
            .Suggest(Migrations.Find(id)!, HarbourDesign.VesselCall.Code)
            .Select(s => s.Line)
            .Where(l => HarbourSeed.LinesByHand.All(h => h.Field != l.Field))
            .Concat(HarbourSeed.LinesByHand)
            .ToList();
        Assert.Contains(lines, l => l is { Source: "Ref", Field: "call-number" });
        Assert.Contains(lines, l => l is { Source: "LR no", Field: "imo" });
        Assert.True(Migrations.SetPlan(id, new MigrationPlan(HarbourDesign.VesselCall.Code, lines, HarbourSeed.Passes), "me").Ok);
        return id;
    }

    /// <summary>A document as it is kept.</summary>
    public StoredDocument Get(long id) => Database.Read(c => DocumentStore.Find(c, id))!;

    public Rebuilding Rebuilding { get; }
    public ReaderClues Clues => new(Readers, Folder);
    public ReaderSources Sources => new(Readers);
    public ConventionPreview Preview { get; }
    public ConventionProposals Proposals { get; }

    /// <summary>The same data folder as a process finds it that was started after this one was killed.</summary>
    public House Restarted()
    {
        Database.Dispose();
        return new House(Folder.Root);
    }

    /// <summary>A few weeks and three more, lived through by the clock of the house.</summary>
    public HarbourYear Year(DemoClock clock) =>
        new(clock, Folder, Database, WaysIn, Intake, Desk, Parked, Filer, Filed, Withdrawals, Views, Notices, Plans, Exports, Drafts)
        {
            Weeks = 10,
        };

    public HarbourSeed Seed => new(Folder, People, Files, Readers, Intake, Desk, Filed, Filer, Migrations, WaysIn, Sheets, Database);

    /// <summary>The harbour's designs, vocabularies and readers without samples.</summary>
    public House WithDesigns()
    {
        if (Database.Read(c => LedgerStore.Newest(c, 1).Count) == 0)
            Take(Designed.Value.GetAwaiter().GetResult());
        else
            Design();
        return this;
    }

    private void Design()
    {
        Assert.Null(Files.Import(HarbourSeed.Design, "test").Problem);
        foreach (var design in PageDesigns.Known)
            Teach(HarbourReaders.Teach(design));
    }

    // What most tests begin with is made once in a run and copied: making it takes longer than most of what is tested.
    private static readonly Lazy<Task<string>> Designed = new(() =>
        KeptAsync(house =>
        {
            house.Design();
            return Task.CompletedTask;
        })
    );

    private static readonly Lazy<Task<string>> WithFiled = new(() =>
        KeptAsync(async house =>
        {
            house.WithDesigns();
            foreach (var page in HarbourDocuments.AlreadyFiled())
                HarbourDocuments.Draw(page, house.Folder.Tray);
            await (await house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
            foreach (var id in house.Desk.Queue("me"))
                house.Filer.File(id, "me");
        })
    );

    private static async Task<string> KeptAsync(Func<House, Task> fill)
    {
        var house = new House(RunFolder.Made("kept"));
        await fill(house);
        await house.Jobs.DrainAsync(TimeSpan.FromSeconds(20));
        house.Database.Dispose();
        // Read by many at once, and never written again.
        using var kept = new SqliteConnection($"Data Source={house.Folder.DatabaseFile};Pooling=False");
        kept.Open();
        Assert.Equal("delete", kept.Scalar<string>("PRAGMA journal_mode = DELETE"));
        return house.Folder.Root;
    }

    // Everything of a house that is kept, in this one, where nothing has happened.
    private void Take(string kept)
    {
        Assert.Empty(Database.Read(c => LedgerStore.Newest(c, 1)));
        using (var from = new SqliteConnection($"Data Source={new DataFolder(kept).DatabaseFile};Pooling=False"))
        using (var to = new SqliteConnection($"Data Source={Folder.DatabaseFile};Pooling=False"))
        {
            from.Open();
            to.Open();
            from.BackupDatabase(to);
        }
        foreach (var file in Directory.GetFiles(kept, "*", SearchOption.AllDirectories))
            if (Path.GetDirectoryName(file) != kept)
            {
                var target = Path.Combine(Folder.Root, Path.GetRelativePath(kept, file));
                Directory.CreateDirectory(Path.GetDirectoryName(target)!);
                File.Copy(file, target, overwrite: true);
            }
        // What was there is another database's: nobody wrote it here.
        Database.Write(_ => { });
    }

    /// <summary>A reader that reads what comes in.</summary>
    public void Teach(Reader reader) =>
        Database.Write(c =>
        {
            ReaderStore.Save(c, reader);
            ReaderStore.Publish(c, reader, Clock.GetUtcNow(), "test");
        });

    public void Dispose()
    {
        // What was begun must not write into a folder that is being removed.
        Jobs.DrainAsync(TimeSpan.FromSeconds(20)).GetAwaiter().GetResult();
        Database.Dispose();
        if (Directory.Exists(Folder.Root))
            Directory.Delete(Folder.Root, recursive: true);
    }
}

public static class JobsInTests
{
    /// <summary>The job, ended.</summary>
    public static async Task<Job> Ended(this Result<Job> started)
    {
        Assert.Null(started.Problem);
        await started.Value!.Completion;
        return started.Value;
    }
}

/// <summary>HTTP clients as they come.</summary>
public sealed class PlainClients : IHttpClientFactory
{
    public HttpClient CreateClient(string name) => new();
}
