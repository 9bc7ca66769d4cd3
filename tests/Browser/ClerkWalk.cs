using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>What a clerk does all day, by keyboard alone and counted: ten documents, and the pages of one of them.</summary>
public class ClerkWalk(HarbourFixture harbour)
{
    // Ten documents: six as they are, two with one correction, one with a new term, one parked.
    private const int MostKeys = 70,
        MostPointerMoves = 1;

    private readonly Screen _screen = new(harbour);
    private int _keys;

    private DeskDocuments Desk => harbour.Get<DeskDocuments>();

    private ParkedDocuments Parked => harbour.Get<ParkedDocuments>();

    private StoredDocument Get(long id) => harbour.Get<Database>().Read(c => DocumentStore.Find(c, id))!;

    private void Type(string text)
    {
        _keys += text.Length;
        _screen.Keys(text);
    }

    private void Key(string key, int times = 1)
    {
        _keys += times;
        _screen.Keys([.. Enumerable.Repeat(key, times)]);
    }

    private void Chord(string modifier, string key)
    {
        _keys += 2;
        _screen.Chord(modifier, key);
    }

    private List<long> Bring(params HarbourPage[] pages)
    {
        var place = Directory.CreateTempSubdirectory("clerk").FullName;
        foreach (var page in pages)
            HarbourDocuments.Draw(page, place);
        var before = Desk.Queue("Maren Holt").ToHashSet();
        _screen.Go("/Desk");
        _screen.Press("#files", string.Join('\n', Directory.GetFiles(place).Order(StringComparer.Ordinal)));
        _screen.Click("form[data-drop] button[type=submit]");
        _screen.Until(
            () => Desk.Queue("Maren Holt").Count(id => !before.Contains(id)) == pages.Length && !_screen.Has("#progress"),
            "the pages were not read"
        );
        return [.. Desk.Queue("Maren Holt").Where(id => !before.Contains(id))];
    }

    private static HarbourPage[] Calls(int year) =>
        [
            .. HarbourDocuments
                .Samples(PageDesigns.CallOffice, 10, 0)
                .Select(
                    (p, i) => p with { Printed = new Dictionary<string, string>(p.Printed) { ["call-number"] = $"VC-{year}-0077{i}" } }
                ),
        ];

    private void Shows(long id) =>
        _screen.Until(
            () => _screen.Script("return document.activeElement.closest('[data-desk]')?.dataset.desk") as string == $"/Desk/Document/{id}",
            $"document {id} did not come up"
        );

    [Fact]
    public void Ten_documents_take_few_keystrokes_and_the_pointer_once()
    {
        _screen.SignIn(Roles.Indexer);
        var pages = Calls(2021);
        var imo = pages[2].Printed["imo"];
        foreach (var at in new[] { 2, 5 })
            pages[at] = pages[at] with
            {
                Printed = new Dictionary<string, string>(pages[at].Printed)
                {
                    ["imo"] = pages[at].Printed["imo"][..^1] + (char)('0' + (pages[at].Printed["imo"][^1] - '0' + 3) % 10),
                },
            };
        pages[7] = pages[7] with { Printed = new Dictionary<string, string>(pages[7].Printed) { ["master"] = "" } };
        var ids = Bring(pages);
        var right = Calls(2021).Select(p => p.Printed["imo"].Split(' ')[^1]).ToList();

        var pointer = 1;
        _screen.Click($"#waiting a[href='/Desk/Document/{ids[0]}']");
        for (var at = 0; at < ids.Count; at++)
        {
            Shows(ids[at]);
            switch (at)
            {
                case 2:
                case 5:
                    // The value that is wrong has the focus and is typed over.
                    Assert.Equal("f-imo", _screen.Script("return document.activeElement.id"));
                    Type(right[at]);
                    Chord(Keys.Control, Keys.Enter);
                    break;
                case 3:
                    var fields = (long)
                        _screen.Script(
                            "return [...document.querySelectorAll('.field input:not([type=hidden])')].findIndex(i => i.id === 'f-cargo')"
                        )!;
                    Key(Keys.Enter, (int)fields);
                    Assert.Equal("f-cargo", _screen.Script("return document.activeElement.id"));
                    Type("Kelp");
                    Chord(Keys.Control, Keys.Enter);
                    break;
                case 7:
                    Chord(Keys.Alt, "k");
                    Type("Master missing");
                    Key(Keys.Enter);
                    break;
                default:
                    Chord(Keys.Control, Keys.Enter);
                    break;
            }
            var id = ids[at];
            _screen.Until(() => at == 7 ? Parked.Find(id) is not null : Get(id).Filed, $"document {at + 1} was not done");
        }
        Console.WriteLine($"Ten documents at the desk: {_keys} keystrokes (at most {MostKeys}), {pointer} pointer move");
        Assert.Equal("Kelp", Get(ids[3]).Record["cargo"]);
        Assert.Equal(right[2], Get(ids[2]).Record["imo"]);
        Assert.Equal("Master missing", Parked.Find(ids[7])!.Reason);
        Assert.InRange(_keys, 1, MostKeys);
        Assert.InRange(pointer, 0, MostPointerMoves);

        // The parked one is completed and filed where it belongs.
        _screen.Go("/Desk");
        _screen.Click($"#parked a[href='/Desk/Document/{ids[7]}']");
        Shows(ids[7]);
        _screen.Fill("#f-master", "Frida Lund");
        _screen.Chord(Keys.Control, Keys.Enter);
        _screen.Until(() => Get(ids[7]).Filed, "the parked one was not filed");
    }

    [Fact]
    public void Pages_are_moved_turned_taken_out_cut_off_and_taken_back_by_keys()
    {
        _screen.SignIn(Roles.Indexer);
        var ids = Bring([.. Calls(2020).Take(3)]);
        var pages = harbour.Get<DocumentPages>();
        List<string> Images(long id) => [.. pages.Look(id, "Maren Holt")!.Pages.Select(p => p.Image)];
        var images = ids.ConvertAll(id => Images(id)[0]);
        _screen.Go($"/Desk/Document/{ids[0]}");
        Chord(Keys.Alt, "g");
        foreach (var other in ids.Skip(1))
        {
            _screen.Script("document.getElementById('other').value = arguments[0]", $"{other}");
            _screen.Click("form[hx-post*=Join] button");
        }
        Assert.Equal(images, Images(ids[0]));
        void At(int page) => _screen.Script("document.querySelector(arguments[0]).focus()", $"[data-page='{page}']");
        At(3);
        Chord(Keys.Alt, Keys.ArrowLeft);
        _screen.Until(() => Images(ids[0]).SequenceEqual([images[0], images[2], images[1]]), "the page did not move");
        // The page keeps the focus where it went.
        _screen.Until(() => _screen.Script("return document.activeElement.dataset.page") as string == "2", "the focus did not follow");
        Key("r");
        _screen.Until(() => Images(ids[0])[1].Contains("/turned/", StringComparison.Ordinal), "the page did not turn");
        At(1);
        Key(Keys.Delete);
        _screen.Until(() => Images(ids[0]).Count == 2, "the page was not taken out");
        _screen.Sees("#aside figure");
        At(2);
        Key("c");
        _screen.Reads(".notice", "Another document begins there now");
        Assert.Single(Images(ids[0]));
        Assert.Empty(_screen.Violations());
        for (var left = 4; left > 0; left--)
        {
            var shown = _screen.Text("#undo");
            Chord(Keys.Control, "z");
            _screen.Until(() => !_screen.Has("#undo") || _screen.Text("#undo") != shown, "nothing was undone");
        }
        Assert.Equal(images, Images(ids[0]));

        // Beside the fields all pages are small; one brings its page into view, and nothing else moves.
        _screen.Go($"/Desk/Document/{ids[0]}");
        _screen.Sees("[data-thumbs] a:nth-child(1)[aria-current]");
        _screen.Click("[data-thumbs] a:nth-child(3)");
        _screen.Sees("[data-thumbs] a:nth-child(3)[aria-current]");
        Assert.Equal(0L, _screen.Script("return window.scrollY"));
        Assert.Empty(_screen.Violations());
        foreach (var id in ids.Where(id => Desk.Find(id, "Maren Holt") is not null))
            Desk.Discard(id, "Maren Holt");
    }
}
