using ClearLexicon.Services;
using ClearLexicon.Storage;

namespace ClearLexicon.Browser.Tests;

/// <summary>Step 7: an inventory profiled, mapped, tried, applied and taken back.</summary>
public class MigrationWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private long Filed => harbour.Get<Database>().Read(c => RepositorySearch.Count(c, new RepositoryQuery()).Number);

    [Fact]
    public void A_steward_bulk_tags_an_inventory_and_takes_the_wave_back()
    {
        _screen.SignIn(Roles.Steward);
        _screen.Go("/Migration");
        Bring("torn.csv", "Path,Ref\nx,\"torn\ny,z\n");
        _screen.Reads(".notice.problem", "“torn.csv”, line 2: a quote is opened and never closed");
        Bring("uneven.csv", "Path,Ref\nx\n");
        _screen.Reads(".notice.problem", "line 2 has 1");
        Bring("none.csv", "Path,Ref\n");
        _screen.Reads(".notice.problem", "no rows");

        var rows = Enumerable
            .Range(1, 40)
            .Select(i =>
                $@"R:\calls\98{i % 12 + 1:00}03 {(i % 4 == 0 ? "Herring Market" : "Deal Wharf")} {i}.tif;{(i == 7 ? "lost" : $"VC-1998-{i:00000}")};Corvina;{(i == 9 ? "9074720" : "9074729")}"
            );
        Bring("share.csv", "Path;Ref;Vessel;IMO number\n" + string.Join('\n', rows));
        _screen.Reads("#shape", "40 rows · UTF-8 · separated by semicolon");
        _screen.Until(() => _screen.Text("#profile").Contains("AA-9999-99999"), "the profile did not appear");
        _screen.Choose("#type", "Vessel Call Record");
        _screen.Click("#crosswalk form button");
        _screen.Reads("#walk-call-number", "← Ref");
        _screen.Reads("#walk-imo", "← IMO number");
        _screen.Reads("#walk-vessel", "← Vessel");

        Pass("A piece of the path, by pattern", "Arrived", ("argument", "(a+"));
        _screen.Reads(".notice.problem", "cannot be read at character");
        Pass("A piece of the path, by pattern", "Arrived", ("argument", @"(\d{6})"), ("formats", "yyMMdd"));
        Pass("Words in the path or title → term", "Berth");
        Pass("The same value in every row", "Pilot used", ("argument", "no"));
        var before = Filed;
        _screen.Click("#start-dry-run");
        _screen.Until(() => _screen.Has("#problems"), "the dry run did not end");
        _screen.Reads(".counts", "38");
        _screen.Reads("#problems", "“9074720” fails its check");
        _screen.Reads("#problems", "“lost” does not have the form");
        _screen.Reads("#dry-run", "VC-1998-00001 Corvina");
        Assert.Equal(before, Filed);

        _screen.Click("#apply");
        _screen.Until(() => _screen.Text("#wave-list").Contains("applied"), "the wave was not applied");
        Assert.Equal(before + 38, Filed);
        _screen.Reads("#left-rows", "“lost” does not have the form");
        _screen.Go("/Repository?type=vessel-call-record&field=berth&text=Fish+Dock+East");
        _screen.Reads(".fields-table", "tagged in wave");

        _screen.Go("/Migration");
        _screen.Click("tbody a");
        _screen.Click("form[hx-post*=Undo] button");
        _screen.Reads("#wave-list", "undone");
        Assert.Equal(before, Filed);

        // From here to another installation.
        _screen.Go("/Migration");
        _screen.Click("aside a[href='/Migration/Packages']");
        _screen.Click("#pack");
        _screen.Reads("main", "exports/Whole repository");
        Assert.Empty(_screen.Violations());
        Assert.Empty(_screen.SidewaysScrolling());
        Assert.Empty(_screen.Complaints());
    }

    private void Bring(string name, string content)
    {
        _screen.Press("#file", Screen.File(name, content));
        _screen.Click("main form button.primary");
    }

    private void Pass(string kind, string field, params (string Name, string Text)[] blanks)
    {
        _screen.Script("document.getElementById('row-new-pass').parentElement.open = true");
        _screen.Choose("#pass-kind", kind);
        _screen.Choose("#pass-field", field);
        foreach (var (name, text) in blanks)
            _screen.Fill($"#pass-{name}", text);
        _screen.Click("form[hx-post*='handler=Pass'] button.plain");
    }
}
