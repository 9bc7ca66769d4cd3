using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

public sealed class FilingTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    private static readonly HarbourPage Sound = HarbourDocuments.AlreadyFiled()[0];

    private async Task<List<JudgedDocument>> Bring(params HarbourPage[] pages)
    {
        foreach (var page in pages)
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        var (batch, job) = (await _house.Intake.ScanAsync("me"))!.Value;
        await job!.Completion;
        Assert.Empty(_house.Failures);
        return _house.Desk.Waiting("me", batch);
    }

    private string[] Files => Directory.GetFiles(_house.Folder.Repository, "*", SearchOption.AllDirectories);

    [Fact]
    public async Task A_document_is_read_checked_filed_and_found()
    {
        var document = Assert.Single(await Bring(Sound));
        Assert.Equal(Readiness.Ready, document.State);
        var path = _house.Filer.File(document.Document.Id, "me");
        Assert.True(path.Ok, path.Problem);
        Assert.Equal(
            $"Vessel calls/2023/{DateOnly.Parse(Sound.Truth["arrived"]):MM MMMM}/{Sound.Truth["call-number"]} {Sound.Truth["vessel"]}.pdf",
            path.Value
        );
        Assert.Equal(path.Value, Path.GetRelativePath(_house.Folder.Repository, Assert.Single(Files)));
        Assert.Contains(PageReading.TextLayer(Files[0], 1).Words, w => w.Text == Sound.Truth["call-number"]);
        var stored = _house.Desk.Find(document.Document.Id, "me")!.Document;
        Assert.True(stored.Filed);
        Assert.Equal(Sound.Truth.OrderBy(v => v.Key), stored.Record.Where(v => Sound.Truth.ContainsKey(v.Key)).OrderBy(v => v.Key));
        // What no page says: the person and the day, and the flag from the vessel register.
        Assert.Equal("me", stored.Record["entered-by"]);
        Assert.Equal(
            HarbourTables.Register.Rows.Single(r => r[0] == Sound.Truth["imo"])[2],
            _house.Designs.Vocabularies["flags"].Find(stored.Record["flag"])!.Code
        );
        Assert.Equal(Sound.Truth.Count, _house.Database.Read(c => ValueHistoryStore.Of(c, stored.Id)).Count);
        Assert.False(_house.Filer.File(stored.Id, "me").Ok);
    }

    [Fact]
    public async Task What_is_ready_is_filed_as_one_act_that_goes_on_after_a_stop_and_is_taken_back_but_for_what_somebody_touched()
    {
        var waiting = await Bring([.. HarbourDocuments.AlreadyFiled()]);
        var look = _house.FilingRuns.Look("me", null);
        Assert.Equal(waiting.Count(d => d.State == Readiness.Ready), look.Ready.Count);
        Assert.Equal(look.Ready.Count, look.Tree.Root.AddedAll);
        Assert.True(look.Tree.Find(look.Ready[0].Judged!.Placement.Folder)!.AddedHere > 0);
        Assert.Contains("look again", _house.FilingRuns.Start("me", null, "another mark").Problem);

        // The program ends while the second one is filed.
        var stopped = 0;
        _house.Filer.Checkpoint = step =>
        {
            if (step == "recording" && ++stopped == 2)
                throw new OperationCanceledException("killed");
        };
        var started = _house.FilingRuns.Start("me", null, look.Mark);
        await started.Value.Job.Completion;
        var again = _house.Restarted();
        again.Filer.Recover();
        again.Jobs.ResumeAll();
        var run = started.Value.Run;
        if (again.Jobs.Running(FilingRuns.Subject) is { } going)
            await going.Completion;
        else
            await again.FilingRuns.Resume(run, "me").Ended();
        List<RunStep<DocumentAlone>> Documents() => again.FilingRuns.Find(run, "me")!.Value.Documents;
        Assert.All(
            Documents(),
            d => Assert.Equal((StepState.Done, true), (d.State, File.Exists(Path.Combine(again.Folder.Repository, d.ToPath!))))
        );
        Assert.Equal(look.Ready.Select(d => d.Document.Id).Order(), Documents().Select(d => d.Document).Order());
        Assert.Equal(look.Ready.Select(d => d.Judged!.Placement.Path + ".pdf").Order(), Documents().Select(d => d.ToPath!).Order());
        Assert.Contains("Nothing is ready", again.FilingRuns.Start("me", null, null).Problem);

        var touched = Documents().First(d => again.Get(d.Document).Record.ContainsKey("agent")).Document;
        Assert.Null(again.Filed.Edit(touched, "agent", "Somebody else", "", "bob").Problem);
        await again.FilingRuns.StartUndo(run, "me").Ended();
        Assert.Equal(StepState.Stays, Documents().Single(d => d.Document == touched).State);
        Assert.All(Documents().Where(d => d.Document != touched), d => Assert.Equal(StepState.Undone, d.State));
        Assert.Single(Files);
        Assert.Equal(look.Ready.Count - 1, again.FilingRuns.Look("me", null).Ready.Count);
        // It is filed anew where it stood, with the values it had.
        Assert.Equal(look.Ready.Count - 1, again.Filer.FileReady(null, "me").Filed);
        Assert.Equal(look.Ready.Count, Files.Length);
        again.Dispose();
    }

    [Fact]
    public async Task The_same_place_gets_a_counter_and_nothing_is_overwritten()
    {
        var first = (await Bring(Sound))[0];
        var path = _house.Filer.File(first.Document.Id, "me").Value!;
        // A stray file on disk where the second would go is left alone too.
        var stray = _house.Folder.InRepository(Path.GetDirectoryName(path)!, Path.GetFileNameWithoutExtension(path) + " (2).pdf");
        File.WriteAllText(stray, "stray");
        var second = (await Bring(Sound))[0];
        Assert.Equal(Readiness.Should, second.State);
        Assert.Contains(Path.GetFileName(path), second.Judged!.Problems[0].Message);
        Assert.False(_house.Filer.File(second.Document.Id, "me").Ok);
        Assert.Equal("Write the reason.", _house.Desk.Override(second.Document.Id, second.Judged.Problems[0].Id, " ", "me").Problem);
        Assert.True(_house.Desk.Override(second.Document.Id, second.Judged.Problems[0].Id, "corrected copy", "me").Ok);
        Assert.EndsWith(" (3).pdf", _house.Filer.File(second.Document.Id, "me").Value);
        Assert.Equal("stray", File.ReadAllText(stray));
        Assert.Equal(3, Files.Length);
    }

    /// <summary>Stops the process at every step of filing; afterwards file and record are both there or both not.</summary>
    [Theory]
    [InlineData("journaled", false)]
    [InlineData("moved", false)]
    [InlineData("recording", false)]
    [InlineData("never", true)]
    public async Task A_kill_at_any_step_leaves_both_or_neither(string step, bool filed)
    {
        var id = (await Bring(Sound))[0].Document.Id;
        _house.Filer.Checkpoint = at =>
        {
            if (at == step)
                throw new OperationCanceledException("killed");
        };
        if (filed)
            Assert.True(_house.Filer.File(id, "me").Ok);
        else
            Assert.Throws<OperationCanceledException>(() => _house.Filer.File(id, "me"));

        using var database = new Database(_house.Folder.DatabaseFile);
        var writer = new DocumentWriter(_house.Designs, _house.Clock);
        var again = new Filer(
            database,
            _house.Folder,
            new DeskDocuments(database, _house.Designs, writer, _house.Clock),
            writer,
            _house.Clock
        );
        Assert.Equal(filed ? 0 : 1, again.Recover());
        Assert.Equal(filed, database.Read(c => DocumentStore.Find(c, id))!.Filed);
        Assert.Equal(filed ? 1 : 0, Files.Length);
        Assert.Empty(Directory.GetFiles(_house.Folder.Drafts));
        if (!filed)
            Assert.True(again.File(id, "me").Ok);
        Assert.Single(Files);
        Assert.True(database.Read(c => LedgerStore.Verify(c)).Sound);
    }

    /// <summary>
    /// The same for a power cut, after which the disk has nothing but what was waited for; once it is said to be filed, it is there whole.
    /// </summary>
    [Theory]
    [InlineData("journaled", false)]
    [InlineData("moved", false)]
    [InlineData("recording", false)]
    [InlineData("never", true)]
    public async Task A_power_cut_at_any_step_leaves_both_or_neither(string step, bool filed)
    {
        var disk = new FragileDisk();
        _house.Folder.Disk = disk;
        var id = (await Bring(Sound))[0].Document.Id;
        _house.Filer.Checkpoint = at =>
        {
            if (at == step)
                throw new OperationCanceledException("power");
        };
        try
        {
            _house.Filer.File(id, "me");
        }
        catch (OperationCanceledException) { }
        disk.Cut();
        using var again = _house.Restarted();
        again.Filer.Recover();
        var document = again.Database.Read(c => DocumentStore.Find(c, id))!;
        Assert.Equal(filed, document.Filed);
        Assert.Equal(filed ? [document.FileHash!] : [], Files.Select(DataFolder.HashOf));
        if (!filed)
            Assert.True(again.Filer.File(id, "me").Ok);
        Assert.Single(Files);
    }

    [Fact]
    public async Task The_planted_mistakes_are_found_by_the_rules()
    {
        var pdfs = HarbourDocuments.Incoming().Where(p => !p.Scan).ToArray();
        foreach (var page in pdfs)
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        while (await _house.Intake.ScanAsync("me") is { } load)
            await load.Job!.Completion;
        var waiting = _house.Desk.Waiting("me");
        Assert.Equal(pdfs.Length, waiting.Count);
        var codes = waiting.SelectMany(d => d.Judged?.Problems.Select(p => p.Code) ?? ["unknown"]).Order().ToList();
        Assert.Equal(["adds-up", "check-digit", "compare", "unique", "unknown", "unknown-term"], codes);
        var (filed, problems) = _house.Filer.FileReady(null, "me");
        Assert.Empty(problems);
        Assert.Equal(pdfs.Length - 6, filed);
    }

    [Fact]
    public async Task A_page_no_reader_claims_is_filled_by_hand()
    {
        var document = (await Bring(HarbourDocuments.Incoming()[^1]))[0].Document;
        Assert.Null(document.TypeCode);
        Assert.Contains("what kind", _house.Desk.SetValue(document.Id, "vessel", "x", null, "me").Problem);
        Assert.True(_house.Desk.SetType(document.Id, "harbour-dues-statement", "me").Ok);
        foreach (
            var (field, text) in new[]
            {
                ("statement-number", "HD-000001"),
                ("payer", "Ebbwell Lines"),
                ("issued", "2024-01-02"),
                ("due", "2 February 2024"),
                ("total", "12.50"),
                ("berth-dues", "12.50"),
            }
        )
            Assert.True(_house.Desk.SetValue(document.Id, field, text, null, "me").Ok);
        Assert.Equal("Harbour dues/Ebbwell Lines/2024/2024-01-02 HD-000001.pdf", _house.Filer.File(document.Id, "me").Value);
        Assert.Equal("2024-02-02", _house.Desk.Find(document.Id, "me")!.Document.Record["due"]);
    }

    [Fact]
    public async Task Bad_files_are_refused_by_name_and_the_others_go_on()
    {
        HarbourDocuments.Draw(Sound, _house.Folder.Tray);
        File.WriteAllText(Path.Combine(_house.Folder.Tray, "000 empty.pdf"), "");
        File.WriteAllText(Path.Combine(_house.Folder.Tray, "001 letter.pdf"), "Dear harbour master");
        var (batch, job) = (await _house.Intake.ScanAsync("me"))!.Value;
        await job!.Completion;
        Assert.Single(_house.Desk.Waiting("me", batch));
        Assert.Equal(2, _house.Database.Read(c => BatchStore.Files(c, FileState.Refused, batch)).Count);
    }

    [Fact]
    public async Task Edits_of_a_filed_document_obey_the_same_rules_and_leave_a_history()
    {
        var id = (await Bring(Sound))[0].Document.Id;
        Assert.True(_house.Filer.File(id, "me").Ok);
        Assert.Contains("fails its check", _house.Filed.Edit(id, "imo", "9074720", "", "you").Problem);
        Assert.Contains("not in the vocabulary", _house.Filed.Edit(id, "berth", "West Basin 9", "", "you").Problem);
        Assert.True(_house.Filed.Edit(id, "berth", "old coal staith", "", "you").Ok);
        Assert.Equal("North Quay 1", _house.Desk.Find(id, "me")!.Document.Record["berth"]);
        var change = _house.Database.Read(c => ValueHistoryStore.Of(c, id))[^1];
        Assert.Equal((Sound.Truth["berth"], "North Quay 1", "you"), (change.Before, change.After, change.Who));
        Assert.Equal(
            1,
            _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery().Holding("berth", "north quay 1")).Number)
        );
    }

    [Fact]
    public async Task Restricted_values_are_kept_apart_in_full_text_and_masked_on_the_page()
    {
        var id = (await Bring(Sound))[0].Document.Id;
        Assert.True(_house.Filer.File(id, "me").Ok);
        var master = Sound.Truth["master"].Split(' ')[^1];
        long Found(bool all) =>
            _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery { Anywhere = master, IncludeRestricted = all }).Number);
        Assert.Equal(0, Found(false));
        Assert.Equal(1, Found(true));
        var page = _house.Desk.Pages(id)[0];
        var document = _house.Desk.Find(id, "me")!.Document;
        var masks = FullText.Redaction(document, _house.Designs.Published[HarbourDesign.VesselCall.Code].Type).Masks(page.Text, 1);
        var word = Assert.Single(page.Text.Words, w => w.Text == master);
        Assert.Contains(masks, m => m.Overlaps(word.Box));
        var copy = Path.Combine(_house.Folder.Root, "copy.pdf");
        SearchablePdf.Write(copy, [new PdfPage(_house.Folder.Absolute(page.Image), page.Text, masks)], "copy");
        Assert.DoesNotContain(PageReading.TextLayer(copy, 1).Words, w => w.Text == master);
        Assert.Contains(PageReading.TextLayer(copy, 1).Words, w => w.Text == Sound.Truth["call-number"]);
    }

    public void Dispose() => _house.Dispose();
}
