using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Installation;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Today;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.Features;
using Serilog;

namespace ClearLexicon.Web.Hosting;

/// <summary>Lets jobs end their chunk before the process ends.</summary>
internal sealed class Drain(Jobs jobs, DataFolder folder) : IHostedService
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);

    public Task StartAsync(CancellationToken cancellationToken) => Task.CompletedTask;

    public async Task StopAsync(CancellationToken cancellationToken)
    {
        await jobs.DrainAsync(Patience);
        folder.Dispose();
    }
}

/// <summary>What the application is made of.</summary>
public static class Registration
{
    private const string DemoToken = "demo start";

    /// <summary>The services of the job.</summary>
    public static void AddClearLexicon(this IServiceCollection services, StartOptions start)
    {
        services.AddSingleton(start);
        if (start.Demo)
            services.AddSingleton<DemoClock>().AddSingleton<HouseClock>(p => p.GetRequiredService<DemoClock>()).AddSingleton<HarbourYear>();
        else
            services.AddSingleton<HouseClock>();
        services.AddSingleton<TimeProvider>(p => p.GetRequiredService<HouseClock>());
        services.AddSingleton<TimeZones>();
        services.AddHttpContextAccessor();
        services.AddScoped<Times>();
        services.AddUseCases(start.Data, e => Log.Error(e, "A job failed"));
        services.AddSingleton<IFileReader>(p => new WorkerReader(Worker(p.GetRequiredService<DataFolder>())));
        services
            .AddHttpClient(ReferenceTables.Client)
            .ConfigurePrimaryHttpMessageHandler(static () =>
                new SocketsHttpHandler
                {
                    AllowAutoRedirect = false,
                    UseCookies = false,
                    MaxResponseHeadersLength = 16,
                }
            );
        services.AddHostedService<Drain>();
        services.AddHostedService<Watching>();
        services.AddHostedService<ScheduledWork>();
        services.AddSingleton<ExportNotes>();
        services.AddSingleton<HarbourSeed>();
    }

    // The same program once more, by the host that runs this one.
    private static WorkerStart Worker(DataFolder folder)
    {
        var program = typeof(Registration).Assembly.Location;
        var settings = Path.ChangeExtension(program, ".runtimeconfig.json");
        return new WorkerStart(
            Environment.ProcessPath is { } host && Path.GetFileNameWithoutExtension(host) == "dotnet" ? host : "dotnet",
            File.Exists(settings)
                ? [program, FileWorker.Switch]
                :
                [
                    "exec",
                    "--runtimeconfig",
                    Directory.GetFiles(AppContext.BaseDirectory, "*.runtimeconfig.json")[0],
                    program,
                    FileWorker.Switch,
                ],
            folder.Drafts
        );
    }

    /// <summary>Cookie sign-in; every page needs it unless it says otherwise; places are kept to roles.</summary>
    public static void AddSignIn(this IServiceCollection services, StartOptions start)
    {
        services
            .AddDataProtection()
            .PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(Path.GetFullPath(start.Data), "keys")))
            .SetApplicationName("ClearLexicon");
        services
            .AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme)
            .AddCookie(o =>
            {
                o.LoginPath = "/SignIn";
                o.AccessDeniedPath = "/Error";
                o.Cookie.Name = "clear-lexicon";
                o.Cookie.SameSite = SameSiteMode.Strict;
                o.ExpireTimeSpan = Sessions.Longest;
                // The API answers with a status, never with the sign-in page.
                o.Events.OnRedirectToLogin = context =>
                {
                    if (context.Response.HasStarted)
                        return Task.CompletedTask;
                    // Nor does a piece of a page get it instead of what it asked for.
                    if (context.Request.Path.StartsWithSegments("/api") || context.Request.Headers.ContainsKey("HX-Request"))
                        context.Response.StatusCode = StatusCodes.Status401Unauthorized;
                    // Never the host that the request claims to be for.
                    else
                        context.Response.Redirect(new Uri(context.RedirectUri).PathAndQuery);
                    return Task.CompletedTask;
                };
                o.Events.OnRedirectToAccessDenied = context =>
                {
                    if (context.Response.HasStarted)
                        return Task.CompletedTask;
                    if (context.Request.Path.StartsWithSegments("/api"))
                        context.Response.StatusCode = StatusCodes.Status403Forbidden;
                    else
                        context.Response.Redirect(new Uri(context.RedirectUri).PathAndQuery);
                    return Task.CompletedTask;
                };
                o.Events.OnValidatePrincipal = Sessions.ValidateAsync;
            });
        services
            .AddAuthorizationBuilder()
            .SetFallbackPolicy(new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build())
            .AddPolicy("design", p => p.RequireRole(Roles.Steward))
            .AddPolicy("desk", p => p.RequireRole(Roles.Steward, Roles.Indexer))
            .AddPolicy("ledger", p => p.RequireRole(Roles.Steward, Roles.Administrator))
            .AddPolicy("settings", p => p.RequireRole(Roles.Administrator));
        services.AddAntiforgery(o => o.HeaderName = "X-Antiforgery");
        services.AddSignInLimit();
    }

    /// <summary>The five places as Razor Pages.</summary>
    public static void AddPlaces(this IServiceCollection services)
    {
        services.Configure<FormOptions>(o =>
        {
            o.MultipartBodyLengthLimit = UploadLimits.RequestBytes;
            o.ValueCountLimit = 5_000;
            o.ValueLengthLimit = UploadLimits.TextCharacters;
        });
        var pages = services.AddRazorPages(o =>
        {
            o.Conventions.AuthorizeFolder("/Design", "design");
            o.Conventions.AuthorizeFolder("/Readers", "design");
            o.Conventions.AuthorizeFolder("/Migration", "design");
            o.Conventions.AuthorizeFolder("/Desk", "desk");
            o.Conventions.AuthorizePage("/Desk/WayIn", "design");
            o.Conventions.AuthorizePage("/Repository/IntegrityCheck", "desk");
            o.Conventions.AuthorizePage("/Repository/Exports", "desk");
            o.Conventions.AuthorizePage("/Repository/Withdrawn", "desk");
            o.Conventions.AuthorizePage("/Repository/Export", "desk");
            o.Conventions.AuthorizePage("/Repository/BulkEdit", "desk");
            o.Conventions.AuthorizePage("/Repository/Retype", "desk");
            o.Conventions.AuthorizePage("/Ledger", "ledger");
            o.Conventions.AuthorizePage("/Settings", "settings");
            o.Conventions.AllowAnonymousToPage("/SignIn");
            o.Conventions.AllowAnonymousToPage("/FirstAdministrator");
            o.Conventions.AllowAnonymousToPage("/Error");
            o.Conventions.ConfigureFilter(new GivenValues());
            o.Conventions.ConfigureFilter(new Microsoft.AspNetCore.Mvc.ServiceFilterAttribute<ExportNotes>());
        });
        pages.AddMvcOptions(o => o.ModelMetadataDetailsProviders.Add(new EmptyTexts()));
    }

    /// <summary>Takes back interrupted filings, fills the demo, goes on with files that were waiting.</summary>
    public static async Task PrepareAsync(this WebApplication app, StartOptions start)
    {
        if (!app.Services.GetRequiredService<DataFolder>().Hold())
            throw new StartException($"Another Clear Lexicon is running on {Path.GetFullPath(start.Data)}.");
        app.Services.GetRequiredService<Filer>().Recover();
        app.Services.GetRequiredService<Moves>().Recover();
        app.Services.GetRequiredService<Withdrawals>().Recover();
        var people = app.Services.GetRequiredService<Accounts>();
        if (start.Demo && people.NobodyYet)
        {
            Console.WriteLine("Filling the demo harbour; this takes about a minute.");
            var began = System.Diagnostics.Stopwatch.StartNew();
            await app
                .Services.GetRequiredService<HarbourSeed>()
                .RunAsync(
                    new DemoSize(start.Rows),
                    step => Console.WriteLine($"  {began.Elapsed.TotalSeconds, 3:0} s  {step}"),
                    app.Services.GetRequiredService<HarbourYear>()
                );
            Console.WriteLine($"Filled in {began.Elapsed.TotalSeconds:0} s");
        }
        if (start.Demo)
        {
            people.RevokeCalled(DemoToken);
            Console.WriteLine(
                $"API token for this start: {people.MakeToken(people.All().First(p => p.Roles.Contains(Roles.Steward)), DemoToken)}"
            );
        }
        if (people.NobodyYet)
            Console.WriteLine($"Set-up code for the first administrator: {people.SetUpWord}");
        // Sets the clock to the zone of the installation.
        app.Services.GetRequiredService<TimeZones>();
        app.Services.GetRequiredService<Jobs>().ResumeAll();
        app.Services.GetRequiredService<Rebuilding>().StartDue();
        var intake = app.Services.GetRequiredService<Intake>();
        if (intake.AnyWaiting)
            intake.Start();
        app.Lifetime.ApplicationStarted.Register(() =>
            Console.WriteLine($"Clear Lexicon serves {string.Join(", ", app.Urls)} from {Path.GetFullPath(start.Data)}")
        );
    }
}
