using ClearLexicon.Demo;
using ClearLexicon.Services;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.AspNetCore.TestHost;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace ClearLexicon.TestSupport;

/// <summary>The whole application over a data folder of its own, with a small harbour in it.</summary>
/// <param name="clock">Its clock; the machine's when not said.</param>
/// <param name="year">Whether the harbour has a year behind it, as the demo has.</param>
public class App(TimeProvider? clock = null, bool year = false) : WebApplicationFactory<Program>
{
    private readonly string _data = Directory.CreateTempSubdirectory("app").FullName;

    /// <summary>The data folder.</summary>
    public string Data => _data;

    /// <summary>Fills the harbour.</summary>
    public Task SeedAsync(DemoSize size) =>
        Services.GetRequiredService<HarbourSeed>().RunAsync(size, _ => { }, year ? Services.GetRequiredService<HarbourYear>() : null);

    /// <summary>Serves it on a port of its own; its address, for a browser.</summary>
    public string Serve()
    {
        UseKestrel(0);
        StartServer();
        return ClientOptions.BaseAddress.ToString().TrimEnd('/').Replace("localhost", "127.0.0.1", StringComparison.Ordinal);
    }

    // Said on the command line: a variable would be one for all that start at once.
    protected override IHost CreateHost(IHostBuilder builder) =>
        base.CreateHost(builder.ConfigureHostConfiguration(c => c.AddInMemoryCollection([new("data", _data)])));

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        builder.UseEnvironment("Production");
        if (clock is not null)
            builder.ConfigureTestServices(services => services.AddSingleton(clock));
        if (year)
            builder.ConfigureTestServices(services =>
                services
                    .AddSingleton<DemoClock>()
                    .AddSingleton<HouseClock>(p => p.GetRequiredService<DemoClock>())
                    .AddSingleton<HarbourYear>()
            );
    }

    protected override void Dispose(bool disposing)
    {
        base.Dispose(disposing);
        if (disposing && Directory.Exists(_data))
            Directory.Delete(_data, recursive: true);
    }
}
