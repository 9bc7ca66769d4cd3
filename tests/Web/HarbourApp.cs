using System.Net;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.TestSupport;
using ClearLexicon.Web.Tests;
using Microsoft.AspNetCore.Mvc.Testing.Handlers;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Sdk;
using Xunit.v3;

[assembly: AssemblyFixture(typeof(HarbourApp))]
// One of the tests brings a whole design, over which another one may just be working.
[assembly: Parallelization(Mode = ParallelMode.None)]

namespace ClearLexicon.Web.Tests;

/// <summary>One application for all tests of this project.</summary>
public sealed class HarbourApp : IAsyncLifetime
{
    public App App { get; } = new();

    public string Token { get; private set; } = "";

    public T Get<T>()
        where T : notnull => App.Services.GetRequiredService<T>();

    public async ValueTask InitializeAsync()
    {
        await App.SeedAsync(new DemoSize(InventoryRows: 120, SamplePdfs: 1, SampleScans: 0, Waiting: false));
        Token = Get<Accounts>().MakeToken(Get<Accounts>().All().First(p => p.Roles.Contains(Roles.Steward)), "tests");
    }

    /// <summary>A client with the API token.</summary>
    public HttpClient Api()
    {
        var client = App.CreateClient(new() { AllowAutoRedirect = false });
        client.DefaultRequestHeaders.Authorization = new("Bearer", Token);
        return client;
    }

    // Signing in is slow, as it has to be: a session that is still good is gone on with.
    private readonly Dictionary<string, (string Stamp, CookieContainer Cookies)> _sessions = new(StringComparer.Ordinal);

    /// <summary>A client signed in as the demo's person of a role.</summary>
    public async Task<HttpClient> SignedIn(string role)
    {
        var person = HarbourSeed.People.First(p => p.Role == role);
        var stamp = Get<Accounts>().Find(person.Name)!.Stamp;
        if (
            _sessions.TryGetValue(role, out var known)
            && known.Stamp == stamp
            && known.Cookies.GetAllCookies()["clear-lexicon"] is not null
        )
            return App.CreateDefaultClient(new AsRead(), new CookieContainerHandler(known.Cookies));
        var cookies = new CookieContainer();
        var client = App.CreateDefaultClient(new AsRead(), new CookieContainerHandler(cookies));
        var answer = await PageForms.Post(client, "/SignIn", "/SignIn", ("name", person.Name), ("password", person.Password));
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        _sessions[role] = (stamp, cookies);
        return client;
    }

    public ValueTask DisposeAsync() => App.DisposeAsync();
}
