using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;
using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;

namespace ClearLexicon.Web.Hosting;

/// <summary>
/// A stand-in for an outside vessel register, served with the demo only: <c>/stand-in/register?IMO number=9074729</c> answers a
/// JSON list of rows. <c>mode=slow</c> answers after five seconds, <c>mode=failing</c> with an error, <c>mode=broken</c> with no JSON.
/// </summary>
public static class RegisterStandIn
{
    /// <summary>Address of the stand-in, below the application's own.</summary>
    public const string Address = "/stand-in/register";

    /// <summary>Maps the stand-in, and tells look-ups where the application listens.</summary>
    public static void MapRegisterStandIn(this WebApplication app, StartOptions start)
    {
        app.Services.GetRequiredService<ReferenceTables>().OwnAddress = () =>
            app.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()?.Addresses.FirstOrDefault();
        if (!start.Demo)
            return;
        app.MapGet(
                Address,
                async (HttpRequest request, CancellationToken cancel) =>
                {
                    switch (request.Query["mode"].ToString())
                    {
                        case "slow":
                            await Task.Delay(TimeSpan.FromSeconds(5), cancel);
                            break;
                        case "failing":
                            return Results.Problem("The register is closed.", statusCode: 503);
                        case "broken":
                            return Results.Text("no list");
                    }
                    var register = HarbourTables.Register;
                    var asked = request.Query.Where(q => register.ColumnOf(q.Key) >= 0).ToList();
                    return Results.Json(
                        register
                            .Rows.Where(r =>
                                asked.Count > 0
                                && asked.All(q => Folding.Fold(r[register.ColumnOf(q.Key)]) == Folding.Fold(q.Value.ToString()))
                            )
                            .Select(r => register.Columns.Select((c, i) => (c, r[i])).ToDictionary(c => c.c, c => c.Item2))
                    );
                }
            )
            .AllowAnonymous()
            .ExcludeFromDescription();
    }
}
