using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Browser.Tests;

/// <summary>
/// An empty installation: from the set-up code to the first filed document, of pages that nobody has described, in fewer than twelve acts.
/// An act is a button or link that is pressed, or files that are chosen.
/// </summary>
public sealed class FirstRunWalk(HarbourFixture harbour)
{
    private const int MostActs = 11;

    [Fact]
    public async Task From_the_set_up_code_to_the_first_filed_documents()
    {
        await using var app = new App();
        var screen = new Screen(harbour.Driver, app.Serve());
        harbour.Driver.Manage().Cookies.DeleteAllCookies();
        var acts = 0;
        void Press(string css)
        {
            screen.Click(css);
            acts++;
        }
        void Choose(string css, IEnumerable<string> files)
        {
            screen.Press(css, string.Join('\n', files.Order()));
            acts++;
        }
        var shelf = Directory.CreateTempSubdirectory("shelf").FullName;
        for (var n = 0; n < 6; n++)
            PileWalk.DrawThing(Path.Combine(shelf, $"found {n}.pdf"), n);

        // The account, with all that one person does alone.
        screen.Go("/");
        screen.Fill("#name", "Femke Aulder");
        screen.Fill("#word", app.Services.GetRequiredService<Accounts>().SetUpWord);
        screen.Fill("#password", "four plain harbour words");
        Press("main button.primary");

        // Of the roads that are offered, the one from a pile.
        screen.Sees("#roads");
        Press("#roads a[href='/Readers#piles']");
        Choose("#pile-files", Directory.GetFiles(shelf));
        Press("#piles button.plain");
        screen.Reads("main", "6 pages");
        Press("a[href*='group=1']");
        Press("#make-and-bring");

        // What was brought is read by the new reader, and filed.
        screen.Reads("h1", "Desk");
        screen.Until(
            () =>
            {
                if (screen.Text("h1 + span").Contains("6 left, 6 of them ready", StringComparison.Ordinal))
                    return true;
                Thread.Sleep(300);
                screen.Go(new Uri(harbour.Driver.Url).PathAndQuery);
                return false;
            },
            "the pages were not read"
        );
        Press(".heading a.primary, .heading button.primary");
        Press("#file-these");
        var filed = 0L;
        screen.Until(
            () =>
            {
                filed = app.Services.GetRequiredService<Database>().Read(c => RepositorySearch.Count(c, new RepositoryQuery()).Number);
                return filed == 6;
            },
            "they are not filed"
        );
        Assert.InRange(acts, 1, MostActs);
        Assert.Empty(screen.Complaints());

        // Each with what stands on it.
        screen.Go("/Repository");
        screen.Reads("main", "6 documents");
        Assert.Empty(app.Services.GetRequiredService<DeskDocuments>().Queue("Femke Aulder"));
        Directory.Delete(shelf, recursive: true);
        harbour.Driver.Manage().Cookies.DeleteAllCookies();
    }
}
