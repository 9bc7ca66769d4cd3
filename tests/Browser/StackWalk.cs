using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Browser.Tests;

/// <summary>
/// From the copier to the repository: cover sheets are printed; those that came back filled by pen become the right documents, which are
/// checked and filed; a stack is cut by hand, undone, and cut again.
/// </summary>
public class StackWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private DeskDocuments Desk => harbour.Get<DeskDocuments>();

    private long Batch(string name) =>
        harbour
            .Get<Database>()
            .Read(c => BatchStore.Newest(c, 50))
            .FirstOrDefault(b => b.Batch.Name.Contains(name, StringComparison.Ordinal))
            ?.Batch.Id
        ?? 0;

    // Pages are recognised meanwhile, beside whatever else the machine does.
    private static void Read(Func<bool> holds, string what)
    {
        for (var clock = System.Diagnostics.Stopwatch.StartNew(); !holds(); Thread.Sleep(300))
            Assert.True(clock.Elapsed < TimeSpan.FromMinutes(3), what);
    }

    [Fact]
    public void Cover_sheets_come_back_by_the_copier_and_a_stack_is_cut_by_hand()
    {
        _screen.SignIn(Roles.Steward);
        // What would be printed: a sheet a line, with boxes for the class.
        _screen.Go("/Desk/Sheets?type=pilotage-certificate");
        _screen.Sees("input[name=box][value=class]");
        Assert.True(_screen.Has("#rows"));

        _screen.Go("/Desk/WaysIn");
        _screen.Click("#copy-copier");
        Read(
            () => Batch("cover sheets") > 0 && Desk.Waiting("Maren Holt", Batch("cover sheets")).Count == 4,
            "the cover sheets did not come back"
        );
        _screen.Go("/Desk/WaysIn");
        _screen.Reads("#batches", "cover sheets filled by pen");
        var documents = Desk.Waiting("Maren Holt", Batch("cover sheets"));
        var first = documents[0].Document;
        Assert.Equal("pilotage-certificate", first.TypeCode);
        _screen.Go($"/Desk/Document/{documents[3].Document.Id}");
        _screen.Reads("#sheet", "where one is asked");
        // The class was marked with a pen: its strip shows the box on the sheet.
        _screen.Go($"/Desk/Document/{first.Id}");
        _screen.Sees("[data-field=class] svg.strip");
        Assert.Equal(first.Record["class"], _screen.Find("#f-class").GetAttribute("value"));
        foreach (
            var (field, text) in new[]
            {
                ("certificate-number", "PC-7301"),
                ("date-of-birth", "1980-05-06"),
                ("issued", "2024-03-01"),
                ("expires", "2029-03-01"),
                ("tonnage-limit", "5000"),
                ("examiner", "A. Reed"),
                ("sea-area", "Inner"),
            }
        )
            if (_screen.Has($"#f-{field}"))
                Desk.SetValue(first.Id, field, text, null, "Maren Holt");
        _screen.Go($"/Desk/Document/{first.Id}");
        _screen.Until(
            () => Desk.Find(first.Id, "Maren Holt")!.State == Readiness.Ready,
            string.Join(' ', Desk.Find(first.Id, "Maren Holt")!.Judged!.All.Select(p => p.Message))
        );
        _screen.Click("#file-this button");
        _screen.Until(() => Desk.Find(first.Id, "Maren Holt")!.Document.Filed, "it was not filed");

        // The notes on both sides wait for a person, as their way in says.
        _screen.Go("/Desk/WaysIn");
        _screen.Click("#copy-goods");
        Read(
            () =>
                Batch("notes on both sides") > 0
                && harbour.Get<Stacks>().Look(Batch("notes on both sides"), "Maren Holt")!.Pages.Count == 10,
            "the notes were not read"
        );
        var batch = Batch("notes on both sides");
        _screen.Go($"/Desk/Stack/{batch}");
        _screen.Reads("h1 + span", "2 documents");
        _screen.Click("#ribbon button[value^='cut']");
        _screen.Reads("h1 + span", "3 documents");
        _screen.Click(".heading form button.do");
        _screen.Reads("h1 + span", "2 documents");
        _screen.Choose("#method", "each file is one document");
        _screen.Reads("#sheet", "This is only a preview");
        _screen.Reads("h1 + span", "1 document");
        _screen.Go($"/Desk/Stack/{batch}");
        _screen.Click("#ribbon button[value^='cut']");
        _screen.Reads("h1 + span", "3 documents");
        _screen.Click(".heading button.primary");
        _screen.Reads("#sheet", "3 documents are on the desk");
        Assert.Equal(3, Desk.Waiting("Maren Holt", batch).Count);
        Assert.Empty(_screen.Complaints());
    }
}
