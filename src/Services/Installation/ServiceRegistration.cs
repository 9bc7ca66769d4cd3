using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Today;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Services.Installation;

/// <summary>
/// The use cases, by place. Whoever runs them adds a clock (<see cref="TimeProvider"/>) and what reads files from outside (IFileReader).
/// </summary>
public static class ServiceRegistration
{
    /// <summary>Adds all services over a data folder.</summary>
    /// <param name="services">Where they are added.</param>
    /// <param name="data">The data folder.</param>
    /// <param name="failed">Told of what a job fails with.</param>
    public static IServiceCollection AddUseCases(this IServiceCollection services, string data, Action<Exception> failed)
    {
        services.AddSingleton(_ => new DataFolder(data));
        services.AddSingleton(p => new Database(p.GetRequiredService<DataFolder>().DatabaseFile));
        services.AddSingleton<Designs>();
        services.AddSingleton<Ledger>();

        // People.
        services.AddSingleton<Accounts>();

        // Work.
        services.AddSingleton(p => new Jobs(
            p.GetRequiredService<Database>(),
            p.GetRequiredService<TimeProvider>(),
            failed,
            p.GetServices<IWorksInJobs>
        ));

        // Repository.
        services.AddSingleton<DocumentWriter>();
        services.AddSingleton<FiledDocuments>();
        services.AddSingleton<FiledSearch>();
        services.AddSingleton<SearchRequests>();
        services.AddSingleton<Views>();
        services.AddSingleton<Facets>();
        services.AddSingleton<ExportPlans>();
        services.AddWorking<Exports>();
        services.AddWorking<BulkEdits>();
        services.AddSingleton<Withdrawals>();
        services.AddSingleton<Moves>();
        services.AddWorking<Refiling>();
        services.AddWorking<IntegrityCheck>();
        services.AddWorking<Carrying>();
        services.AddWorking<Following>();
        services.AddWorking<Rebuilding>();
        services.AddSingleton<Notices>();
        services.AddSingleton<NoticeMail>();

        // Design.
        services.AddSingleton<Drafts>();
        services.AddSingleton<NewFields>();
        services.AddSingleton<Vocabularies>();
        services.AddSingleton<ServiceAddresses>();
        services.AddSingleton<ReferenceTables>();
        services.AddSingleton<ClosedDays>();
        services.AddSingleton<DesignFiles>();
        services.AddWorking<Publishing>();
        services.AddSingleton<ConventionPreview>();
        services.AddSingleton<ConventionProposals>();
        services.AddSingleton<Threads>();

        // Readers.
        services.AddSingleton<TaughtReaders>();
        services.AddWorking<SampleProofs>();
        services.AddSingleton<ReaderClues>();
        services.AddSingleton<ReaderSources>();
        services.AddSingleton<Corrections>();
        services.AddWorking<Rereadings>();
        services.AddWorking<Retyping>();
        services.AddSingleton<FieldsFromPages>();
        services.AddWorking<PileSorting>();
        services.AddSingleton<PileReaders>();
        services.AddSingleton<ReaderWatch>();

        // Desk.
        services.AddSingleton<WaysIn>();
        services.AddSingleton<Sheets>();
        services.AddSingleton<StackDocuments>();
        services.AddSingleton<Stacks>();
        services.AddWorking<Intake>();
        services.AddSingleton<WatchedFolders>();
        services.AddSingleton<Arrivals>();
        services.AddSingleton<DeskDocuments>();
        services.AddSingleton<ParkedDocuments>();
        services.AddSingleton<DeskPresence>();
        services.AddWorking<DocumentPages>();
        services.AddSingleton<Filer>();
        services.AddWorking<FilingRuns>();
        services.AddSingleton<DeskLookUps>();

        // Migration.
        services.AddWorking<Migrations>();
        services.AddWorking<Waves>();
        services.AddWorking<Packages>();
        services.AddWorking<Takeovers>();

        services.AddSingleton<TodayWork>();
        return services;
    }

    // A service whose jobs are known from then on.
    private static void AddWorking<T>(this IServiceCollection services)
        where T : class, IWorksInJobs => services.AddSingleton<T>().AddSingleton<IWorksInJobs>(p => p.GetRequiredService<T>());
}
