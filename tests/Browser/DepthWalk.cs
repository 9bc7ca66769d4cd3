using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>Design in depth, by keyboard: paste, correct, group, table, rules, examples, publish, compare.</summary>
public class DepthWalk(HarbourFixture harbour)
{
    private const string R6 = "details:has(> #row-rule-r6) ";

    private readonly Screen _screen = new(harbour);

    private DocumentType Draft => harbour.Get<Designs>().Find("crane-log")!.Draft;

    [Fact]
    public void A_steward_designs_in_depth_by_keyboard_and_compares_two_versions()
    {
        _screen.SignIn(Roles.Steward);
        _screen.Go("/Design");
        _screen.Fill("#type-name", "Crane Log");
        _screen.Keys(Keys.Enter);
        _screen.Reads("h1", "Crane Log");

        // A header row with samples becomes fields; two guesses are corrected.
        Press("#row-paste");
        _screen.Press(
            "#pasted",
            "Log number;Crane;Lifted on;Weight;Sling;Hours\nCL-2024-001;Crane A;5.3.2024;12,50;chain;7\nCL-2024-002;Crane "
                + "B;6.3.2024;8,00;rope;8\nCL-2024-003;Crane A;16.3.2024;9,25;chain;8\nCL-2024-004;Crane B;17.3.2024;11,00;chain;6"
        );
        _screen.Keys(Keys.Tab, Keys.Enter);
        _screen.Reads("form[hx-post*=AddPasted]", "Every value has the same form: two capital letters, dash, year, dash, three digits.");
        _screen.Reads("form[hx-post*=AddPasted]", "Every value is a date written d.M.yyyy.");
        Assert.Equal("Term", _screen.Find("#guess-sling").GetDomProperty("value"));
        _screen.Choose("#guess-sling", "text");
        _screen.Choose("#guess-hours", "decimal");
        Press("#add-pasted");
        _screen.Reads(".notice", "6 fields added");
        Assert.Equal(
            [FieldKind.Text, FieldKind.Term, FieldKind.Date, FieldKind.Decimal, FieldKind.Text, FieldKind.Decimal],
            Draft.Fields.Select(f => f.Kind)
        );
        Assert.Equal("read-number", Draft.Find("weight")!.Cleaning![0].Kind);
        Assert.Equal(["Crane A", "Crane B"], harbour.Get<Designs>().Vocabularies["crane"].Vocabulary.Terms.Select(t => t.Label));

        // A group is placed and one of its fields tightened.
        _screen.Press("#group", "Filing");
        Press("form[hx-post*='handler=Group'] button");
        _screen.Reads("#sheet", "From the group Filing facts");
        Press("#row-inherited-entered-by");
        _screen.Press("#required-inherited-entered-by", Keys.Space);
        Press("form[hx-post*='Tighten&key=entered-by'] button");
        _screen.Reads("#row-inherited-entered-by", "tightened");

        // A table with two columns.
        Press("#row-new");
        _screen.Fill("#label-new", "Lifts");
        _screen.Choose("#kind-new", "table");
        _screen.Press("#label-new", Keys.Enter);
        _screen.Reads("#fields", "Lifts");
        _screen.Reads("#findings", "a table needs at least one column");
        Column("Load", "text");
        Column("Tonnes", "decimal");
        Assert.Equal(["load", "tonnes"], Draft.Find("lifts")!.Columns!.Select(c => c.Key));

        // Six rules of six kinds.
        Rule(
            "Fields are filled, or empty",
            () =>
            {
                _screen.Press("#filled-fields-new-rule-crane", Keys.Space);
            },
            "Crane is filled"
        );
        Rule(
            "A date is near today or another date",
            () => _screen.Choose("#date-today-field-new-rule", "Lifted on"),
            "Lifted on is not in the future"
        );
        Rule(
            "A number is within limits",
            () =>
            {
                _screen.Choose("#number-within-field-new-rule", "Hours");
                _screen.Fill("#number-within-least-new-rule", "0");
                _screen.Fill("#number-within-most-new-rule", "12");
            },
            "Hours lies from 0 to 12"
        );
        Rule(
            "A table has so many rows, a field so many terms",
            () =>
            {
                _screen.Choose("#how-many-field-new-rule", "Lifts");
                _screen.Fill("#how-many-most-new-rule", "40");
            },
            "Lifts has ≤ 40 rows"
        );
        Rule(
            "Parts add up to a total",
            () =>
            {
                _screen.Press("#adds-up-parts-new-rule-lifts-tonnes", Keys.Space);
                _screen.Choose("#adds-up-total-new-rule", "Weight");
            },
            "Lifts: Tonnes = Weight"
        );
        Rule("A formula is true", () => _screen.Fill("#formula-formula-new-rule", "[weight] / [hours] < 5"), "[Weight] / [Hours] < 5");
        Assert.Equal(6, Draft.Rules.Select(r => r.Kind).Distinct().Count());

        // An example that fails blocks publishing until it is put right.
        Press(".empty .do[href*=Convention]");
        _screen.Reads("h1", "Convention");
        foreach (var (line, text) in new[] { ("folder", "Crane logs"), ("name", "Log number") })
        {
            _screen.Fill($"#add-{line}", text);
            _screen.Press($"#add-{line}", Keys.Enter);
            _screen.Reads($"#line-{line}", text);
            _screen.Quiet();
        }
        _screen.Go("/Design/Type/crane-log");
        Press("#row-rule-r6");
        _screen.Choose(R6 + "[name='example-0-passes']", "pass");
        _screen.Fill(R6 + "[name='example-0-of-weight']", "60");
        _screen.Fill(R6 + "[name='example-0-of-hours']", "6");
        _screen.Press(R6 + "[name='example-0-of-hours']", Keys.Enter);
        _screen.Reads("#findings", "should pass but does not: This does not hold");
        Assert.NotNull(_screen.Find("form[hx-post*=Publish] button").GetDomAttribute("disabled"));
        Press("#row-rule-r6");
        _screen.Fill(R6 + "[name='example-0-of-weight']", "24");
        _screen.Press(R6 + "[name='example-0-of-weight']", Keys.Enter);
        _screen.Reads("#findings", "Nothing stops it from being published");
        Press("#row-rule-r6");
        Press(R6 + "[hx-post*=Suggest]");
        _screen.Until(() => _screen.Has(R6 + "[name='example-1-passes']"), "no example was suggested");
        Press("form[hx-post*='handler=Publish'] button");
        _screen.Reads("#version", "version 1, published");

        // Two changes later, the versions are compared in words.
        Press("#row-sling");
        _screen.Choose("#required-sling", "must be filled when …");
        _screen.Choose("#when-subject-sling-0", "Crane");
        _screen.Fill("#when-value-sling-0", "Crane A");
        Press("#fields details[open] button.plain");
        _screen.Reads("#row-sling", "when …");
        _screen.Reads("#changes", "Sling is now required when Crane is Crane A");
        Press("#row-rule-r3");
        _screen.Fill("#number-within-most-r3", "10");
        _screen.Press("#number-within-most-r3", Keys.Enter);
        _screen.Reads("#row-rule-r3", "Hours lies from 0 to 10");
        Press("form[hx-post*='handler=Publish'] button");
        _screen.Reads("#version", "version 2, published");
        Press("#compare");
        _screen.Reads("h1", "From version 1 to version 2");
        _screen.Reads("#sheet", "Sling is now required when Crane is Crane A, before always.");
        _screen.Reads("#sheet", "The rule “Hours lies from 0 to 12” now says “Hours lies from 0 to 10”.");
        Assert.Empty(_screen.Complaints());
    }

    [Fact]
    public void Near_duplicates_are_settled_with_one_key_and_a_term_moves_by_keyboard()
    {
        var vocabularies = harbour.Get<Vocabularies>();
        Assert.Null(vocabularies.Create("Knots", "Bowline\nBow line\nReef knot\nClove hitch\nHitches", "Maren Holt").Problem);
        _screen.SignIn(Roles.Steward);
        _screen.Go("/Design/Review/knots");
        _screen.Reads("#sheet", "the same but for blanks");
        Press("#settle-0");
        _screen.Reads(".notice", "Settled: 1 spelling leads to “Bowline” now.");
        Assert.Equal("Bowline", harbour.Get<Designs>().Vocabularies["knots"].Find("bow line")!.Label);
        Press("form[hx-post*=Undo] button");
        _screen.Reads(".notice", "Undone: merged “Bow line” into “Bowline”");

        _screen.Go("/Design/Vocabulary/knots");
        _screen.Press("[data-term='hitches']", Keys.Alt + Keys.ArrowRight);
        _screen.Reads(".notice", "Moved.");
        Assert.Equal(["clove-hitch"], harbour.Get<Designs>().Vocabularies["knots"].Find("Hitches")!.Broader);
        _screen.Quiet();
        _screen.Press("[data-term='hitches']", Keys.Alt + Keys.ArrowLeft);
        _screen.Until(() => harbour.Get<Designs>().Vocabularies["knots"].Find("Hitches")!.Broader.Count == 0, "the term did not move up");
        Assert.Empty(_screen.Complaints());
    }

    [Fact]
    public void Rows_of_a_table_field_are_worked_by_keyboard_and_too_many_are_refused()
    {
        var id = harbour
            .Get<Database>()
            .Write(c =>
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = "rows.pdf",
                        TypeCode = "harbour-dues-statement",
                        Version = 1,
                        Record = new Dictionary<string, string>
                        {
                            ["statement-number"] = "HD-900001",
                            ["payer"] = "Ebbwell Lines",
                            ["issued"] = "2024-01-02",
                            ["due"] = "2024-02-02",
                            ["total"] = "30",
                        },
                    },
                    []
                )
            );
        string Rows() => harbour.Get<DeskDocuments>().Find(id, "Tobias Finch")!.Document.Record.GetValueOrDefault("services", "");
        _screen.SignIn(Roles.Indexer);
        _screen.Go($"/Desk/Document/{id}");
        _screen.Script("document.querySelector('[data-column]').focus()");
        foreach (var cell in new[] { "Pilotage", "2", "5", "10", "Fresh water", "4", "5", "21" })
        {
            _screen.Keys(cell);
            _screen.Keys(Keys.Enter);
        }
        _screen.Until(
            () => TableText.Rows(Rows()) is [_, { } second] && second.GetValueOrDefault("amount") == "21",
            "the rows were not kept"
        );
        Assert.Equal("31", _screen.Text("[data-sum='amount']"));
        _screen.Reads("#said-services", "Row 2: The factors give 20, but Amount is 21.");
        _screen.Reads("#said-total", "The parts add up to 31, but Total is 30.");

        _screen.Script("document.querySelectorAll('[data-row]')[1].querySelector('[data-column]').focus()");
        _screen.Chord(Keys.Alt, Keys.ArrowUp);
        _screen.Until(() => TableText.Rows(Rows()) is [{ } first, _] && first["service"] == "Fresh water", "the row did not move up");
        _screen.Chord(Keys.Control, Keys.Delete);
        _screen.Until(() => TableText.Rows(Rows()) is [{ } only] && only["service"] == "Pilotage", "the row was not removed");

        // Rows of a spreadsheet go in; ten thousand are refused and nothing is lost.
        const string Paste =
            "const e = new Event('paste', {bubbles: true, cancelable: true}); e.clipboardData = {getData: () => arguments[1]}; "
            + "document.querySelectorAll('[data-row]')[arguments[0]].querySelector('[data-column]').dispatchEvent(e)";
        _screen.Script(Paste, 1, "Mooring gang\t1\t4\t4\nShore power\t3\t5\t15\n");
        _screen.Until(() => TableText.Rows(Rows())?.Count == 3, "the pasted rows were not kept");
        _screen.Script(Paste, 0, string.Concat(Enumerable.Repeat("Pilotage\t1\t1\t1\n", 10_000)));
        _screen.Reads("[data-grid-said]", "10,000 rows are more than the 2,000 that a table takes; nothing was pasted.");
        Assert.Equal(3, TableText.Rows(Rows())!.Count);
        Assert.Equal("29", _screen.Text("[data-sum='amount']"));
        harbour.Get<DeskDocuments>().Discard(id, "test");
        // A check that a newer keystroke replaces is called off, which htmx tells the console.
        Assert.DoesNotContain(_screen.Complaints(), c => !c.Contains("htmx:sendAbort") && !c.Contains("htmx:afterRequest"));
    }

    private void Press(string css) => _screen.Press(css, Keys.Enter);

    private void Column(string label, string kind)
    {
        if (!_screen.Has("details[open] > #row-lifts--new"))
            Press("#row-lifts--new");
        _screen.Fill("#label-lifts--new", label);
        _screen.Choose("#kind-lifts--new", kind);
        _screen.Press("#label-lifts--new", Keys.Enter);
        _screen.Reads("[data-list='lifts']", label);
        _screen.Quiet();
    }

    private void Rule(string kind, Action fill, string sentence)
    {
        Press("#row-new-rule");
        _screen.Choose("#kind-new-rule", kind);
        fill();
        Press("details:has(> #row-new-rule) button[type=submit]");
        _screen.Until(
            () => Draft.Rules.Any(r => RuleKinds.Sentence(r, harbour.Get<Designs>().Resolve(Draft)) == sentence),
            $"“{sentence}” was not added"
        );
        _screen.Reads("#sheet", sentence);
    }
}
