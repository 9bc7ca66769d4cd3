using System.Globalization;
using ClearLexicon.Formats;
using ClearLexicon.Web.Api;
using ClearLexicon.Web.Hosting;
using Serilog;
using Serilog.Events;

// Numbers and dates are written the same on every machine; what people read is set where it is shown.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;

if (args is [FileWorker.Switch, ..])
    return await FileWorker.RunAsync();

var start = StartOptions.Read(args);
var builder = WebApplication.CreateBuilder(
    new WebApplicationOptions { Args = StartOptions.ForHost(args), ContentRootPath = StartOptions.ContentRoot(args) }
);

builder.Host.UseSerilog(
    (_, log) =>
        log
            .MinimumLevel.Warning()
            .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Error)
            .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
            .WriteTo.Console(formatProvider: null)
);
builder.WebHost.ConfigureKestrel(k =>
{
    k.Limits.MaxRequestBodySize = UploadLimits.RequestBytes;
    // What is pasted into a search is told that it is too long, by a page that says so.
    k.Limits.MaxRequestLineSize = UploadLimits.AddressBytes;
});
builder.Services.AddClearLexicon(start);
builder.Services.AddSignIn(start);
builder.Services.AddPlaces();
builder.Services.AddCompression();
builder.Services.AddApi();

try
{
    var app = builder.Build();

    app.UseErrors();
    app.UseOwnFiles();
    app.UseSecurityHeaders();
    app.UseResponseCompression();
    app.UseStaticFiles(OwnFiles.Options);
    app.UseRouting();
    app.UseRateLimiter();
    app.UseFirstStart();
    app.UseAuthentication();
    app.UseSmallBodiesBeforeSignIn();
    app.UseAuthorization();
    app.UsePasswordFirst();
    app.UseReadableForms();
    app.UseAntiforgery();

    app.MapRazorPages();
    app.MapPictures();
    app.MapApi();
    app.MapDesignApi();
    app.MapDocumentApi();
    app.MapViewApi();
    app.MapRegisterStandIn(start);

    await app.PrepareAsync(start);
    await app.RunAsync();
    return 0;
}
catch (Exception e) when (StartException.InWords(e, start) is { } words)
{
    Console.Error.WriteLine(words);
    return 1;
}

/// <summary>The entry point, visible so that tests can start the whole application.</summary>
public partial class Program;
