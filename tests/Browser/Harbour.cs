using ClearLexicon.Browser.Tests;
using ClearLexicon.Demo;
using ClearLexicon.TestSupport;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium.Chrome;
using Xunit.Sdk;
using Xunit.v3;

[assembly: AssemblyFixture(typeof(HarbourFixture))]
// One walk after another in one browser; walks of another collection have a browser of their own.
[assembly: CollectionBehavior(CollectionBehavior.CollectionPerAssembly)]

namespace ClearLexicon.Browser.Tests;

/// <summary>The application on a port of its own, with the demo in it, and one headless browser.</summary>
public sealed class HarbourFixture : IAsyncLifetime
{
    private readonly App _app = new(year: Screens.Folder is not null);

    public ChromeDriver Driver { get; private set; } = null!;

    public string Address { get; private set; } = "";

    public string Data => _app.Data;

    /// <summary>A copy of what the copier held at the beginning.</summary>
    public string Copier { get; } = Directory.CreateTempSubdirectory("copier").FullName;

    public T Get<T>()
        where T : notnull => _app.Services.GetRequiredService<T>();

    public async ValueTask InitializeAsync()
    {
        Address = _app.Serve();
        var pictures = Screens.Folder is not null;
        await _app.SeedAsync(pictures ? new DemoSize() : new DemoSize(InventoryRows: 400, SamplePdfs: 2, SampleScans: 0));
        // What the copier holds is brought by one walk and looked at by another, whichever comes first.
        foreach (var file in Directory.GetFiles(Path.Combine(Data, "copier"), "*", SearchOption.AllDirectories))
        {
            var kept = Path.Combine(Copier, Path.GetRelativePath(Path.Combine(Data, "copier"), file));
            Directory.CreateDirectory(Path.GetDirectoryName(kept)!);
            File.Copy(file, kept);
        }
        Driver = Browser();
    }

    /// <summary>A headless browser.</summary>
    public static ChromeDriver Browser(ChromeOptions? options = null) =>
        new(ChromeDriverService.CreateDefaultService("/usr/bin"), options ?? Options(), TimeSpan.FromSeconds(60));

    /// <summary>How a headless browser is started.</summary>
    public static ChromeOptions Options()
    {
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-software-rasterizer",
            "--force-prefers-reduced-motion",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--window-size=1280,939",
            "--force-device-scale-factor=1"
        );
        return options;
    }

    public async ValueTask DisposeAsync()
    {
        Driver?.Quit();
        await _app.DisposeAsync();
        Directory.Delete(Copier, recursive: true);
    }
}
