using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>From paths as they should look to documents that stand there; a changed convention, applied and taken back.</summary>
public class ConventionWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private static readonly string[] Paths =
    [
        "Tow orders/2024/03 March/TW-2024-00042 Grey Heron.pdf",
        "Tow orders/2024/03 March/TW-2024-00043 Corvina.pdf",
        "Tow orders/2024/11 November/TW-2024-00197 Sea Lark of Merrow.pdf",
        "Tow orders/2023/01 January/TW-2023-00001 St Brannoc.pdf",
        "Tow orders/2023/12 December/TW-2023-00999 Grey Heron.pdf",
    ];

    private string[] OnDisk =>
        Directory.Exists(Root)
            ?
            [
                .. Directory
                    .GetFiles(Root, "*", SearchOption.AllDirectories)
                    .Select(f => Path.GetRelativePath(Path.Combine(harbour.Data, "repository"), f))
                    .Order(StringComparer.Ordinal),
            ]
            : [];

    private string Root => Path.Combine(harbour.Data, "repository", "Tow orders");

    private long Bring(string date, string number, string vessel)
    {
        var source = Path.Combine("brought", $"{Guid.NewGuid():N}.txt");
        File.WriteAllText(Path.Combine(harbour.Data, source), $"{number} {vessel}");
        return harbour
            .Get<Database>()
            .Write(c =>
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = $"{number}.txt",
                        SourceFile = source,
                        TypeCode = "tow-order",
                        Record = new Dictionary<string, string>
                        {
                            ["towed"] = date,
                            ["number"] = number,
                            ["tug"] = vessel,
                        },
                    },
                    []
                )
            );
    }

    [Fact]
    public void From_five_paths_to_documents_filed_there_and_a_changed_convention_applied_and_taken_back()
    {
        _screen.SignIn(Roles.Steward);
        _screen.Go("/Design");
        _screen.Fill("#type-name", "Tow Order");
        _screen.Keys(Keys.Enter);
        _screen.Click(".empty a[href*=Paths]");
        _screen.Fill("#lines", string.Join('\n', Paths));
        _screen.Click("#propose");
        _screen.Reads("#share", "gives all 5 paths");
        Assert.Equal(
            "Tow orders / Date 2024 (look at this) / Date 03 March",
            string.Join(' ', _screen.Text("#proposed-folder").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries))
        );
        _screen.Fill("[name=label-date]", "Towed");
        _screen.Fill("[name=label-title]", "Tug");
        Assert.Empty(_screen.Violations());
        _screen.Click("#take");
        _screen.Reads("h1", "Convention");
        _screen.Reads("#preview", "Tow orders / ");
        _screen.Reads("#losses", "Towed: the day cannot be read back");
        Assert.Empty(_screen.Violations());
        _screen.Go("/Design/Type/tow-order");
        _screen.Click("form[hx-post*=Publish] button");
        _screen.Reads("#version", "version 1, published");

        // Documents with the values of the examples stand exactly where the examples say.
        long[] brought =
        [
            Bring("2024-03-05", "42", "Grey Heron"),
            Bring("2024-03-06", "43", "Corvina"),
            Bring("2024-11-30", "197", "Sea Lark of Merrow"),
            Bring("2023-01-01", "1", "St Brannoc"),
            Bring("2023-12-24", "999", "Grey Heron"),
        ];
        _screen.Go("/Design/Convention/tow-order");
        _screen.Reads("#source", "the 5 documents on the desk");
        _screen.Click("[aria-label^='03 March']");
        _screen.Reads("#listed", "TW-2024-00042 Grey Heron.pdf");
        _screen.Reads("#listed .why", "2024-03-05 → 03 March");
        foreach (var (id, i) in brought.Select((id, i) => (id, i)))
        {
            _screen.Go($"/Desk/Document/{id}");
            _screen.Click("button.primary");
            _screen.Until(() => OnDisk.Length == i + 1, "the document was not filed");
        }
        Assert.Equal(Paths.Order(StringComparer.Ordinal), OnDisk);

        // 35 more, then another convention: seen beforehand, applied, taken back.
        for (var i = 0; i < 35; i++)
            Assert.Null(harbour.Get<Filer>().File(Bring($"2022-{1 + i % 12:00}-15", $"{5000 + i}", "Corvina"), "test").Problem);
        var before = OnDisk;
        _screen.Go("/Design/Convention/tow-order");
        _screen.Click("#piece-folder-4");
        _screen.Click("[hx-post*='RemovePiece&line=folder&at=4']");
        _screen.Until(() => !_screen.Has("#piece-folder-4"), "the piece is still there");
        _screen.Keys(Keys.Backspace);
        _screen.Until(() => !_screen.Has("#piece-folder-3"), "the folder is still there");
        _screen.Go("/Design/Type/tow-order");
        _screen.Click("#publish");
        _screen.Click("#look");
        _screen.Reads("#counts", "40would get another path");
        _screen.Reads("#causes", "The folder is now");
        Assert.Empty(_screen.Violations());
        _screen.Click("#publish button.primary");
        _screen.Reads(".notice", "Version 2 is published");
        _screen.Go("/Design/Convention/tow-order");
        _screen.Click("#refile");
        _screen.Reads("#would-move", "40");
        _screen.Reads("#moves", "Tow orders / 2024 / TW-2024-00042 Grey Heron.pdf");
        Assert.Equal(before, OnDisk);
        Assert.Empty(_screen.Violations());
        _screen.Click("#apply");
        _screen.Reads("#runs", "40 moved");
        Assert.Equal(
            before
                .Select(p => Path.Combine(Path.GetDirectoryName(Path.GetDirectoryName(p))!, Path.GetFileName(p)))
                .Order(StringComparer.Ordinal),
            OnDisk
        );
        _screen.Reads("h2", "Every document is where its convention puts it");
        _screen.Click("[id^=undo-]");
        _screen.Reads("#runs", "undone");
        Assert.Equal(before, OnDisk);

        // A publish that would break seven documents: seen beforehand, parked afterwards, and one of them completed.
        _screen.Go("/Design/Type/tow-order");
        _screen.Click("#row-number");
        _screen.Fill("#max-number", "5027");
        _screen.Click("#fields details[open] button.plain");
        _screen.Click("#publish");
        _screen.Click("#look");
        _screen.Reads("#counts", "7would newly fail");
        _screen.Reads("#causes", "Number now has a greatest value: 5027");
        _screen.Reads("#affected", "TW-2022-05034 Corvina.pdf");
        Assert.Empty(harbour.Get<Publishing>().Parked("tow-order"));
        _screen.Click("#recheck");
        _screen.Click("#publish button.primary");
        _screen.Reads(".notice", "7 documents fail it and are parked");
        _screen.Click("#parked a");
        _screen.Reads("#parked", "It fails the newest version");
        _screen.Click("#row-number");
        _screen.Fill("#text-number", "4028");
        _screen.Click("details[open] button.plain");
        _screen.Until(() => !_screen.Has("#parked"), "the document is still parked");
        Assert.Equal(6, harbour.Get<Publishing>().Parked("tow-order").Count);

        // A renamed field: the mapping carries what the documents hold, and takes it back.
        _screen.Go("/Design/Type/tow-order");
        _screen.Click("#row-tug");
        _screen.Script("document.querySelectorAll('#fields details[open] details').forEach(d => d.open = true)");
        _screen.Fill("#fields details[open] [name=new-key]", "towing-vessel");
        _screen.Fill("#label-tug", "Towing vessel");
        _screen.Click("#fields details[open] button.plain");
        _screen.Click("#publish");
        _screen.Click(".suggested button");
        _screen.Reads("#lines", "Towing vessel is what Tug was");
        _screen.Reads("#samples", "Grey Heron");
        Assert.Empty(_screen.Violations());
        _screen.Click("#look");
        _screen.Reads("#counts", "0would newly fail");
        _screen.Click("#carry");
        _screen.Click("#publish button.primary");
        _screen.Reads("#runs", "To version 4: 40 documents");
        string? Towing(long id) => harbour.Get<Database>().Read(c => DocumentStore.Find(c, id))!.Record.GetValueOrDefault("towing-vessel");
        Assert.Equal("Grey Heron", Towing(brought[0]));
        _screen.Click("#runs form[hx-post*=Back] button");
        _screen.Reads("#runs", "undone");
        Assert.Null(Towing(brought[0]));
        _screen.Click("#runs form[hx-post*=Again] button");
        _screen.Until(() => Towing(brought[0]) == "Grey Heron", "it was not carried once more");

        // One document edited: it moves, and the page tells from where.
        var corvina = harbour
            .Get<Database>()
            .Read(c => RepositoryStore.At(c, "Tow orders/2024/03 March", "TW-2024-00043 Corvina.pdf"))!
            .Value;
        _screen.Go($"/Repository/Document/{corvina}");
        _screen.Reads("#belongs", "Tow orders / 2024 / TW-2024-00043 Corvina.pdf");
        _screen.Click("#row-towing-vessel");
        _screen.Fill("#text-towing-vessel", "Plover");
        _screen.Click("details[open] button.plain");
        _screen.Reads(
            ".notice",
            "moved from Tow orders/2024/03 March/TW-2024-00043 Corvina.pdf to Tow orders/2024/TW-2024-00043 Plover.pdf"
        );
        Assert.Contains("Tow orders/2024/TW-2024-00043 Plover.pdf", OnDisk);
        _screen.Click("#moves button");
        _screen.Reads("#belongs", "TW-2024-00043 Plover.pdf");
        Assert.Contains("Tow orders/2024/03 March/TW-2024-00043 Corvina.pdf", OnDisk);
        Assert.Empty(_screen.Complaints());
    }
}
