using System.Net;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>The desk and the repository as their pages answer, without a browser.</summary>
public sealed class DeskPageTests(HarbourApp app) : IAsyncLifetime
{
    private static readonly HarbourPage Wrong = HarbourDocuments.Incoming().First(p => p.FileName == "003 call record.pdf");

    private static int _copies;

    private HttpClient _indexer = null!;
    private long _id;

    public async ValueTask InitializeAsync()
    {
        _indexer = await app.SignedIn(Roles.Indexer);
        var folder = Directory.CreateTempSubdirectory("desk").FullName;
        HarbourDocuments.Draw(Wrong, folder);
        var name = $"copy {Interlocked.Increment(ref _copies)}.pdf";
        var (batch, job, _) = await app.Get<Intake>()
            .BringAsync(name, [new BroughtFile(name, () => File.OpenRead(Path.Combine(folder, Wrong.FileName)))], "test");
        for (var i = 0; i < 200 && app.Get<DeskDocuments>().Waiting("Maren Holt", batch).Count == 0; i++)
        {
            await job!.Completion;
            app.Get<Intake>().Start();
            await Task.Delay(50);
        }
        _id = app.Get<DeskDocuments>().Waiting("Maren Holt", batch)[0].Document.Id;
        Directory.Delete(folder, recursive: true);
    }

    public ValueTask DisposeAsync()
    {
        app.Get<DeskDocuments>().Discard(_id, "test");
        return ValueTask.CompletedTask;
    }

    private string Address => $"/Desk/Document/{_id}";

    private async Task<string> Send(string handler, params (string, string)[] fields) =>
        WebUtility.HtmlDecode(
            await (await PageForms.Post(_indexer, Address, $"{Address}?handler={handler}", fields)).Content.ReadAsStringAsync()
        );

    private StoredDocument Document => app.Get<DeskDocuments>().Find(_id, "Maren Holt")!.Document;

    [Fact]
    public async Task What_is_typed_is_judged_before_it_is_kept()
    {
        var right = Wrong.Truth["imo"][..6] + Core.Fields.CheckDigits.TransportSchemes.ImoCheckDigit(Wrong.Truth["imo"]);
        Assert.Contains("fails its check", WebUtility.HtmlDecode(await _indexer.GetStringAsync(Address)));
        var page = WebUtility.HtmlDecode(await _indexer.GetStringAsync($"{Address}?handler=WhatIf&field=imo&text={right}"));
        Assert.DoesNotContain("fails its check", page);
        Assert.Equal(Wrong.Truth["imo"], Document.Record["imo"]);
        Assert.DoesNotContain("fails its check", await Send("Value&field=imo", ("text", right)));
        Assert.Equal(right, Document.Record["imo"]);
        var change = app.Get<Database>().Read(c => ValueHistoryStore.Of(c, _id))[^1];
        Assert.Equal((Wrong.Truth["imo"], right, "typed", "Tobias Finch"), (change.Before, change.After, change.How, change.Who));
    }

    [Fact]
    public async Task A_region_of_the_page_is_read_cleaned_and_kept_as_evidence()
    {
        await Send("Value&field=arrived", ("text", ""));
        Assert.DoesNotContain("arrived", Document.Record.Keys);
        var zone = Wrong.Design.Cells.First(c => c.Field == "arrived").Zone;
        string N(double share) => share.ToString("0.####");
        await Send("Pick", ("field", "arrived"), ("page", "1"), ("x", N(zone.X)), ("y", N(zone.Y)), ("w", N(zone.W)), ("h", N(zone.H)));
        // Printed with dots; the reader's own cleaning makes it a date.
        Assert.Equal(Wrong.Truth["arrived"], Document.Record["arrived"]);
        Assert.Equal(("picked", Wrong.Printed["arrived"]), (Document.Evidence["arrived"].Method, Document.Evidence["arrived"].Raw));
        Assert.Contains(
            "No word was recognised",
            await Send("Pick", ("field", "arrived"), ("page", "1"), ("x", "0.9"), ("y", "0.9"), ("w", "0.01"), ("h", "0.01"))
        );
        Assert.Equal(Wrong.Truth["arrived"], Document.Record["arrived"]);
    }

    [Fact]
    public async Task What_must_hold_cannot_be_overridden_or_filed_and_unknown_fields_are_refused()
    {
        var problem = app.Get<DeskDocuments>().Find(_id, "Maren Holt")!.Judged!.Problems.First(p => p.Code == "check-digit");
        Assert.Contains("cannot be overridden", await Send("Override", ("problem", problem.Id), ("reason", "I say so")));
        Assert.Contains("fails its check", await Send("File"));
        Assert.False(Document.Filed);
        Assert.Contains("has no field “nothing”", await Send("Value&field=nothing", ("text", "x")));
        Assert.Contains("no published document type", await Send("Type", ("type", "nothing")));
    }

    [Fact]
    public async Task What_was_just_filed_is_told_above_what_comes_next_and_can_be_taken_back_there()
    {
        var right = Wrong.Truth["imo"][..6] + Core.Fields.CheckDigits.TransportSchemes.ImoCheckDigit(Wrong.Truth["imo"]);
        await Send("Value&field=imo", ("text", right));
        await Send("Value&field=call-number", ("text", $"VC-2031-{_id:00000}"));
        var filed = await PageForms.Post(_indexer, Address, $"{Address}?handler=File");
        Assert.EndsWith($"?filed={_id}", filed.Headers.Location?.OriginalString);
        Assert.True(Document.Filed);
        var next = WebUtility.HtmlDecode(await _indexer.GetStringAsync(filed.Headers.Location));
        Assert.Contains($"{Document.Folder}/{Document.Name}", next[next.IndexOf("just-filed", StringComparison.Ordinal)..]);
        await PageForms.Post(_indexer, "/Desk", $"/Repository/Document/{_id}?handler=Withdraw", ("reason", "filed by mistake"));
        Assert.False(Document.Filed);
        Assert.DoesNotContain("just-filed", await _indexer.GetStringAsync(filed.Headers.Location));
    }

    [Fact]
    public async Task A_document_taken_off_the_desk_is_gone_and_the_next_comes_up()
    {
        var before = app.Get<DeskDocuments>().Waiting("Maren Holt").Count;
        var answer = await PageForms.Post(_indexer, Address, $"{Address}?handler=Discard");
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        Assert.StartsWith("/Desk", answer.Headers.Location!.OriginalString);
        Assert.Equal(before - 1, app.Get<DeskDocuments>().Waiting("Maren Holt").Count);
        Assert.Equal(HttpStatusCode.NotFound, (await _indexer.GetAsync(Address)).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await _indexer.GetAsync("/Desk/Document/999999")).StatusCode);
    }

    [Fact]
    public async Task A_desk_document_is_not_shown_to_searchers()
    {
        var searcher = await app.SignedIn(Roles.Searcher);
        Assert.Equal(HttpStatusCode.NotFound, (await searcher.GetAsync($"/picture/document/{_id}/1")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await searcher.GetAsync($"/file/{_id}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await searcher.GetAsync($"/Repository/Document/{_id}")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await _indexer.GetAsync($"/picture/document/{_id}/1")).StatusCode);
    }
}
