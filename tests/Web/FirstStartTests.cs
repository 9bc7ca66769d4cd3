using System.Net;
using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Web.Tests;

/// <summary>Pages as people meet them on an installation with and without anything in it.</summary>
public class FirstStartTests(HarbourApp app)
{
    [Fact]
    public async Task An_empty_installation_leads_to_the_first_administrator_and_then_says_what_comes_first()
    {
        await using var empty = new TestSupport.App();
        var client = empty.CreateClient(new() { AllowAutoRedirect = false, HandleCookies = true });

        foreach (var address in new[] { "/", "/Design", "/SignIn" })
            Assert.Equal("/FirstAdministrator", (await client.GetAsync(address)).Headers.Location?.OriginalString);
        var page = await client.GetStringAsync("/FirstAdministrator");
        Assert.DoesNotContain("demo-people", page);
        Assert.Contains(
            "at least 10",
            WebUtility.HtmlDecode(
                await (
                    await PageForms.Post(
                        client,
                        "/FirstAdministrator",
                        "/FirstAdministrator",
                        ("name", "Ada"),
                        ("word", empty.Services.GetRequiredService<Accounts>().SetUpWord),
                        ("password", "short")
                    )
                ).Content.ReadAsStringAsync()
            )
        );
        Assert.Equal(
            "/",
            (
                await PageForms.Post(
                    client,
                    "/FirstAdministrator",
                    "/FirstAdministrator",
                    ("name", "Ada"),
                    ("word", empty.Services.GetRequiredService<Accounts>().SetUpWord),
                    ("password", "anchor-below-lamp-30")
                )
            )
                .Headers
                .Location
                ?.OriginalString
        );
        Assert.DoesNotContain("demo-people", await client.GetStringAsync("/SignIn"));
        // Signed in at once, as an administrator only, who then takes on a steward's work without being sent away.
        Assert.Contains("Add a steward", await client.GetStringAsync("/"));
        var ada = empty.Services.GetRequiredService<Accounts>().Find("Ada")!;
        await PageForms.Post(client, "/Settings", $"/Settings?handler=Roles&id={ada.Id}", ("role", "administrator"), ("role", "steward"));
        Assert.Contains("From a pile of pages", await client.GetStringAsync("/"));
        var roads = await PageForms.Post(client, "/", "/Design?handler=Type", ("name", "収支 2024"), ("then", "paths"));
        Assert.StartsWith("/Design/Paths/", roads.Headers.Location!.OriginalString);
        Assert.True((await client.GetAsync(roads.Headers.Location)).IsSuccessStatusCode);
        await PageForms.Post(client, "/Settings", $"/Settings?handler=Roles&id={ada.Id}", ("role", "administrator"));

        await PageForms.Post(
            client,
            "/Settings",
            "/Settings?handler=Add",
            ("name", "Sten"),
            ("password", "kettle-under-moss-71"),
            ("role", "steward")
        );
        await PageForms.Post(client, "/", "/SignIn?handler=Out");
        await PageForms.Post(client, "/SignIn", "/SignIn", ("name", "Sten"), ("password", "kettle-under-moss-71"));
        foreach (
            var (address, words) in new[]
            {
                ("/", "What you did last"),
                ("/Design", "収支 2024"),
                ("/Readers", "No readers yet"),
                ("/Desk", "Nothing is waiting to be checked"),
                ("/Repository", "Nothing filed yet"),
                ("/Migration", "No inventory yet"),
            }
        )
            Assert.Contains(words, WebUtility.HtmlDecode(await client.GetStringAsync(address)));
    }

    [Fact]
    public async Task A_wrong_password_says_nothing_about_the_name_and_no_one_is_sent_elsewhere()
    {
        var client = app.App.CreateClient(new() { AllowAutoRedirect = false, HandleCookies = true });
        async Task<HttpResponseMessage> SignIn(string name, string password) =>
            await PageForms.Post(
                client,
                "/SignIn",
                "/SignIn?returnUrl=https%3A%2F%2Felsewhere.example%2F",
                ("name", name),
                ("password", password)
            );
        string Said(HttpResponseMessage answer) => WebUtility.HtmlDecode(answer.Content.ReadAsStringAsync().Result);
        Assert.Contains("The name or the password is wrong", Said(await SignIn("Maren Holt", "wrong")));
        Assert.Contains("The name or the password is wrong", Said(await SignIn("Nobody", "wrong")));
        Assert.Equal("/", (await SignIn("Maren Holt", "quay-and-lantern")).Headers.Location?.OriginalString);
    }

    [Theory]
    [InlineData("--demo --data /tmp/x --urls http://127.0.0.1:1", "/tmp/x", true, 2_000)]
    [InlineData("--data /tmp/x --rows 50 --urls http://127.0.0.1:1 --demo", "/tmp/x", true, 50)]
    [InlineData("--urls http://127.0.0.1:1 --data /tmp/x --rows many", "/tmp/x", false, 2_000)]
    public void The_command_line_is_read_in_any_order_and_the_host_gets_the_rest(string line, string data, bool demo, int rows)
    {
        var args = line.Split(' ');
        Assert.Equal(new Hosting.StartOptions(data, demo, rows), Hosting.StartOptions.Read(args));
        Assert.Equal(["--urls", "http://127.0.0.1:1"], Hosting.StartOptions.ForHost(args));
    }

    [Fact]
    public async Task An_administrator_keeps_people_and_tokens_and_two_administrators_remain()
    {
        var administrator = await app.SignedIn(Roles.Administrator);
        async Task<string> Send(string handler, params (string, string)[] fields) =>
            WebUtility.HtmlDecode(
                await (await PageForms.Post(administrator, "/Settings", $"/Settings?handler={handler}", fields)).Content.ReadAsStringAsync()
            );
        var people = app.Get<Accounts>();
        Assert.Contains(
            "At least two administrators",
            await Send($"Remove&id={people.All().First(p => p.Roles.Contains(Roles.Administrator)).Id}")
        );
        Assert.Contains("can sign in now", await Send("Add", ("name", "Temp"), ("password", "anchor-below-lamp-30"), ("role", "searcher")));
        Assert.Contains(
            "There is no role",
            await Send("Add", ("name", "Temp2"), ("password", "anchor-below-lamp-30"), ("role", "captain"))
        );
        var page = await Send("Token", ("person", "Temp"), ("label", "night run"), ("scope", "check"));
        var token = System.Text.RegularExpressions.Regex.Match(page, "id=\"new-token\">([0-9a-f]+)<").Groups[1].Value;
        Assert.Equal("Temp", people.ByToken(token)!.Value.Person.Name);
        Assert.DoesNotContain(token, await administrator.GetStringAsync("/Settings"));
        await Send($"Remove&id={people.All().First(p => p.Name == "Temp").Id}");
        Assert.Null(people.ByToken(token));
        Assert.Contains("removed a person", app.Get<Database>().Read(c => LedgerStore.Newest(c, 3)).Select(e => e.Action));
        Assert.Contains("Every line follows", await administrator.GetStringAsync("/Ledger"));
    }
}
