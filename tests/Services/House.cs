using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Installation;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;

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
    private readonly ServiceProvider _services;

    public TimeProvider Clock { get; }

    public House(string? root = null, IFileReader? files = null, TimeProvider? clock = null)
    {
        Folder = new DataFolder(root ?? Directory.CreateTempSubdirectory("house").FullName);
        // One key for all, so that a ledger that is copied is still signed.
        Directory.CreateDirectory(Folder.Keys);
        if (Path.Combine(Folder.Keys, "ledger.key") is var key && !File.Exists(key))
            File.WriteAllBytes(key, new byte[32]);
        Clock = clock ?? new TestClock();
        _services = new ServiceCollection()
            .AddUseCases(Folder.Root, e => Failures.Add(e.ToString()))
            .AddSingleton(Folder)
            .AddSingleton(Clock)
            .AddSingleton(files ?? new RememberingReader())
            .AddSingleton<IHttpClientFactory>(new PlainClients())
            .BuildServiceProvider();
        // Opened now, so that what stands against it is told here.
        _ = Database;
    }

    /// <summary>A service, as the program has it.</summary>
    public T Service<T>()
        where T : notnull => _services.GetRequiredService<T>();

    public List<string> Failures { get; } = [];
    public DataFolder Folder { get; }
    public Database Database => Service<Database>();
    public Jobs Jobs => Service<Jobs>();
    public Accounts People => Service<Accounts>();
    public Designs Designs => Service<Designs>();
    public Drafts Drafts => Service<Drafts>();
    public Vocabularies Vocabularies => Service<Vocabularies>();
    public FieldsFromPages FromPages => Service<FieldsFromPages>();
    public ReferenceTables Tables => Service<ReferenceTables>();
    public DesignFiles Files => Service<DesignFiles>();
    public TaughtReaders Readers => Service<TaughtReaders>();
    public SampleProofs Proofs => Service<SampleProofs>();
    public Intake Intake => Service<Intake>();
    public WaysIn WaysIn => Service<WaysIn>();
    public Sheets Sheets => Service<Sheets>();
    public Stacks Stacks => Service<Stacks>();
    public DeskDocuments Desk => Service<DeskDocuments>();
    public ParkedDocuments Parked => Service<ParkedDocuments>();
    public DocumentPages Pages => Service<DocumentPages>();
    public FiledDocuments Filed => Service<FiledDocuments>();
    public Filer Filer => Service<Filer>();
    public Withdrawals Withdrawals => Service<Withdrawals>();
    public FilingRuns FilingRuns => Service<FilingRuns>();
    public Migrations Migrations => Service<Migrations>();
    public Waves Waves => Service<Waves>();
    public Following Following => Service<Following>();
    public ServiceAddresses Services => Service<ServiceAddresses>();
    public Moves Moves => Service<Moves>();
    public Refiling Refiling => Service<Refiling>();
    public Rereadings Rereadings => Service<Rereadings>();
    public IntegrityCheck IntegrityCheck => Service<IntegrityCheck>();
    public Carrying Carrying => Service<Carrying>();
    public Publishing Publishing => Service<Publishing>();
    public SearchRequests SearchRequests => Service<SearchRequests>();
    public Views Views => Service<Views>();
    public BulkEdits BulkEdits => Service<BulkEdits>();
    public Retyping Retyping => Service<Retyping>();
    public Notices Notices => Service<Notices>();
    public NoticeMail Mail => Service<NoticeMail>();
    public ExportPlans Plans => Service<ExportPlans>();
    public Exports Exports => Service<Exports>();
    public Packages Packages => Service<Packages>();
    public Takeovers Takeovers => Service<Takeovers>();

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

    public Rebuilding Rebuilding => Service<Rebuilding>();
    public ReaderClues Clues => Service<ReaderClues>();
    public ReaderSources Sources => Service<ReaderSources>();
    public ConventionPreview Preview => Service<ConventionPreview>();
    public ConventionProposals Proposals => Service<ConventionProposals>();

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
