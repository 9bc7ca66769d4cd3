using ClearLexicon.Demo;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.AspNetCore.TestHost;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.TestSupport;

/// <summary>The whole application over a data folder of its own, with a small harbour in it.</summary>
/// <param name="clock">Its clock; the machine's when not said.</param>
public class App(TimeProvider? clock = null) : WebApplicationFactory<Program>
{
    private readonly string _data = Directory.CreateTempSubdirectory("app").FullName;

    /// <summary>The data folder.</summary>
    public string Data => _data;

    /// <summary>Fills the harbour.</summary>
    public Task SeedAsync(DemoSize size) => Services.GetRequiredService<HarbourSeed>().RunAsync(size, _ => { });

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        Environment.SetEnvironmentVariable("CLEARLEXICON_DATA", _data);
        builder.UseEnvironment("Production");
        if (clock is not null)
            builder.ConfigureTestServices(services => services.AddSingleton(clock));
    }

    protected override void Dispose(bool disposing)
    {
        base.Dispose(disposing);
        if (disposing && Directory.Exists(_data))
            Directory.Delete(_data, recursive: true);
    }
}
