using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using ClearLexicon.Services;
using ClearLexicon.Services.Migration;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>Files sent through the pages, and what the Migration place writes out.</summary>
public class MigrationPageTests(HarbourApp app)
{
    private static async Task<string> Upload(HttpClient client, string page, string name, byte[] content, params (string, string)[] fields)
    {
        var token = Regex.Match(WebUtility.HtmlDecode(await client.GetStringAsync(page)), "\"X-Antiforgery\":\"([^\"]+)\"").Groups[1].Value;
        using var form = new MultipartFormDataContent();
        var file = new ByteArrayContent(content);
        file.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        form.Add(file, page == "/Desk" ? "files" : "file", name);
        foreach (var (key, value) in fields)
            form.Add(new StringContent(value), key);
        using var request = new HttpRequestMessage(HttpMethod.Post, page) { Content = form };
        request.Headers.Add("X-Antiforgery", token);
        var answer = await client.SendAsync(request);
        return answer.StatusCode == HttpStatusCode.Redirect
            ? answer.Headers.Location!.OriginalString
            : WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task A_bad_inventory_is_refused_by_line_and_a_good_one_is_profiled_and_its_left_rows_saved()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var before = app.Get<Migrations>().All().Count;
        Assert.Contains(
            "“a.csv”, line 1: the heading “Path” appears twice",
            await Upload(steward, "/Migration", "a.csv", "Path,Path\nx,y\n"u8.ToArray())
        );
        Assert.Contains("not a text file", await Upload(steward, "/Migration", "b.csv", [80, 0, 1, 2, 44, 10]));
        Assert.Equal(before, app.Get<Migrations>().All().Count);

        var address = await Upload(
            steward,
            "/Migration",
            "good.csv",
            Encoding.UTF8.GetBytes(
                "Path,Ref,Vessel,Date arrived,IMO "
                    + "number,Berth\n=cmd|x.tif,VC-1999-00001,Corvina,3-Apr-98,9074720,NQ1\ny.tif,VC-1999-00002,Quillon,3-Apr-98,9074729,NQ2\n"
            )
        );
        Assert.StartsWith("/Migration/Inventory/", address);
        var id = long.Parse(address.Split('/')[^1]);
        await Until.Holds(() => app.Get<Migrations>().Find(id)!.Profile is not null);
        await PageForms.Post(steward, address, $"{address}?handler=Type", ("type", "vessel-call-record"));
        await PageForms.Post(steward, address, $"{address}?handler=DryRun");
        await Until.Holds(() => app.Get<Migrations>().Find(id)!.DryRun is not null);
        var run = app.Get<Migrations>().Find(id)!.DryRun!;
        var csv = await steward.GetStringAsync($"{address}?handler=Left");
        Assert.True((1, 1) == (run.Ready, run.Held), csv);
        Assert.Equal("row,verdict,path,reasons\r\n1,Held,'=cmd|x.tif,“9074720” fails its check: the check digit should be 9.\r\n", csv);
    }

    [Fact]
    public async Task The_plan_is_edited_line_by_line_and_pass_by_pass()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var address = await Upload(steward, "/Migration", "plan.csv", "Path,Ref\nx.tif,VC-1999-00001\n"u8.ToArray());
        var id = long.Parse(address.Split('/')[^1]);
        await Until.Holds(() => app.Get<Migrations>().Find(id)!.Profile is not null);
        async Task<string> Send(string handler, params (string, string)[] fields) =>
            WebUtility.HtmlDecode(
                await (await PageForms.Post(steward, address, $"{address}?handler={handler}", fields)).Content.ReadAsStringAsync()
            );
        Core.Migration.MigrationPlan Plan() => app.Get<Migrations>().Find(id)!.Plan!;

        await Send("Type", ("type", "vessel-call-record"));
        await Send(
            "Line",
            ("field", "agent"),
            ("source", "Path"),
            ("step", "drop-words"),
            ("argument", "tif"),
            ("step", ""),
            ("argument", "")
        );
        var line = Plan().Crosswalk.Single(l => l.Field == "agent");
        Assert.Equal(("Path", "drop-words", "tif"), (line.Source, line.Steps.Single().Kind, line.Steps.Single().Argument));
        Assert.Contains(
            "needs a day",
            await Send("Line", ("field", "arrived"), ("source", "Path"), ("step", "read-date"), ("argument", "MM"))
        );
        await Send("Line", ("field", "agent"), ("source", ""));
        Assert.DoesNotContain(Plan().Crosswalk, l => l.Field == "agent");

        await Send("Pass", ("kind", "constant"), ("field", "agent"), ("argument", "Holm Brokers"), ("only-empty", "on"));
        await Send(
            "Pass",
            ("kind", "path-piece"),
            ("field", "arrived"),
            ("source", "Path"),
            ("argument", @"(\d{6})"),
            ("formats", "yyMMdd")
        );
        Assert.Contains("holds no terms", await Send("Pass", ("kind", "words-to-term"), ("field", "agent"), ("source", "Path")));
        Assert.Equal(["agent", "arrived"], Plan().Passes.Select(p => p.Field));
        Assert.Equal((true, false), (Plan().Passes[0].OnlyEmpty, Plan().Passes[1].OnlyEmpty));
        await Send($"MovePass&pass={Plan().Passes[1].Id}");
        Assert.Equal(["arrived", "agent"], Plan().Passes.Select(p => p.Field));
        await Send($"RemovePass&pass={Plan().Passes[0].Id}");
        Assert.Equal(["agent"], Plan().Passes.Select(p => p.Field));
    }

    [Fact]
    public async Task A_bad_page_file_is_named_on_the_desk_and_at_the_readers()
    {
        var steward = await app.SignedIn(Roles.Steward);
        Assert.Contains("“letter.pdf” is called a PDF", await Upload(steward, "/Desk", "letter.pdf", "Dear harbour master"u8.ToArray()));
        var page = await Upload(steward, "/Readers", "empty.pdf", [], ("name", "Broken"), ("type", "vessel-call-record"));
        Assert.Contains("“empty.pdf” is empty.", page);
        Assert.Contains("already", await Upload(steward, "/Readers", "empty.pdf", [], ("name", "Broken"), ("type", "vessel-call-record")));
    }

    [Fact]
    public async Task Terms_complete_through_their_variants_at_the_desk()
    {
        var indexer = await app.SignedIn(Roles.Indexer);
        var options = await indexer.GetStringAsync("/Desk?handler=Terms&vocabulary=berths&text=herring");
        Assert.Contains("value=\"Fish Dock East\"", options);
        Assert.DoesNotContain("North Quay", options);
        Assert.DoesNotContain("<html", options);
        Assert.Equal("", await indexer.GetStringAsync("/Desk?handler=Terms&vocabulary=nothing&text=a"));
    }
}
