using System.Text.RegularExpressions;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using OpenQA.Selenium;
using SkiaSharp;

namespace ClearLexicon.Browser.Tests;

/// <summary>Threads: one value followed by keyboard, printed, saved; thirty fields from three pages stay readable.</summary>
public partial class ThreadsWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private string[] Lit =>
        [
            .. (
                (IReadOnlyCollection<object>)
                    _screen.Script("return [...document.querySelectorAll('.threads.following .end.lit')].map(e => e.id).sort()")!
            ).Cast<string>(),
        ];

    private string Focused => (string)_screen.Script("return document.activeElement.id")!;

    [Fact]
    public void A_value_is_followed_by_keyboard_printed_on_one_sheet_and_saved()
    {
        _screen.SignIn(Roles.Steward);
        _screen.Go("/Design/Type/vessel-call-record");
        _screen.Click("#threads");
        // The oldest, which was filed with the demo; what other tests bring may have been typed.
        var document = harbour
            .Get<Database>()
            .Read(c => DocumentStore.WithPages(c, "vessel-call-record", 60))
            .Last(d => d.Filed && d.Evidence.ContainsKey("arrived") && d.Evidence.ContainsKey("master"));
        _screen.Reads("#document", document.Name!);
        _screen.Go($"/Design/Threads/vessel-call-record?document=document-{document.Id}");
        // As many as are drawn are counted.
        var frayed = harbour.Driver.FindElements(By.CssSelector("svg[data-threads] .frayed")).Count;
        _screen.Reads(
            "#loose h2",
            frayed == 0 ? "No loose ends"
                : frayed == 1 ? "1 loose end"
                : $"{frayed} loose ends"
        );
        Assert.Empty(_screen.Violations());

        _screen.Press("#rules", Keys.Tab);
        for (var i = 0; i < 30 && Focused != "field-arrived"; i++)
            _screen.Keys(Keys.ArrowDown);
        Assert.Equal(["field-arrived", "piece-2", "piece-4", "region-arrived", "rule-r1"], Lit);
        _screen.Reads(".story:not([hidden])", "rule holds");
        _screen.Keys(Keys.ArrowLeft);
        Assert.Equal("region-arrived", Focused);
        _screen.Keys(Keys.ArrowRight, Keys.ArrowRight);
        Assert.StartsWith("piece-", Focused, StringComparison.Ordinal);
        // Enter keeps it: the address tells, so that the view can be passed on.
        _screen.Keys(Keys.ArrowLeft, Keys.Enter);
        _screen.Until(
            () => (string)_screen.Script("return document.querySelector('svg[data-threads]').dataset.threads")! != "-1",
            "nothing was kept"
        );
        _screen.Script("document.activeElement.blur()");
        Assert.Contains("region-arrived", Lit);
        _screen.Script("document.querySelector('#field-arrived').focus()");
        _screen.Keys(Keys.Escape);
        _screen.Until(() => Lit.Length == 0, "it was not let go");

        // The restricted name of the master is on the page, but in no picture of the threads.
        var master = document.Record["master"];
        Assert.Contains("restricted", _screen.Text("#field-master"));
        Assert.DoesNotContain(master, _screen.Text("#sheet"));

        var printed = System.Text.Encoding.Latin1.GetString(
            Convert.FromBase64String(
                (string)
                    (
                        (Dictionary<string, object>)
                            harbour.Driver.ExecuteCdpCommand("Page.printToPDF", new() { ["preferCSSPageSize"] = true })!
                    )["data"]
            )
        );
        Assert.Matches(@"/MediaBox \[0 0 841\.\d+ 594\.\d+\]", printed);
        Assert.Single(Leaves().Matches(printed));

        harbour.Driver.ExecuteCdpCommand("Browser.setDownloadBehavior", new() { ["behavior"] = "allow", ["downloadPath"] = harbour.Data });
        _screen.Click("#save-png");
        var file = Path.Combine(harbour.Data, "threads of vessel-call-record.png");
        _screen.Until(() => File.Exists(file), "no PNG was saved");
        using var bitmap = SKBitmap.Decode(file);
        Assert.Equal(1872, bitmap.Width);
        // The page, the fields, the path: each third of the picture has ink in it.
        for (var third = 0; third < 3; third++)
            Assert.Contains(
                Enumerable.Range(third * 624, 624),
                x => Enumerable.Range(140, bitmap.Height - 140).Any(y => bitmap.GetPixel(x, y).Red < 90)
            );
        Assert.Empty(_screen.Complaints());
    }

    [Fact]
    public void Thirty_fields_from_three_pages_stay_readable()
    {
        Bring();
        _screen.SignIn(Roles.Steward);
        _screen.Go("/Design/Threads/survey-file");
        Assert.Equal(3, harbour.Driver.FindElements(By.CssSelector("svg[data-threads] image")).Count);
        Assert.Equal(31, harbour.Driver.FindElements(By.CssSelector("svg[data-threads] .end.field")).Count);
        Assert.Equal("1 loose end", _screen.Text("#loose h2"));
        Assert.True(_screen.Has("#field-checked-by .frayed"));
        Assert.Empty(Overlapping());
        var least = Crossing();
        _screen.Choose("#order", "in the order of the design");
        _screen.Until(
            () => harbour.Driver.Url.Contains("order=design", StringComparison.Ordinal) && Crossing() > 2 * least,
            "the order of the design does not cross more"
        );
        Assert.Empty(Overlapping());
        Assert.False((bool)_screen.Script("return document.documentElement.scrollWidth > document.documentElement.clientWidth")!);
    }

    private int Crossing() => int.Parse(Regex.Match(_screen.Text("#crossings"), @"\d+").Value);

    // Texts that cover one another, or stand outside of the drawing.
    private IReadOnlyCollection<object> Overlapping() =>
        (IReadOnlyCollection<object>)
            _screen.Script(
                """
                const svg = document.querySelector('svg[data-threads]'), whole = svg.getBoundingClientRect();
                const boxes = [...svg.querySelectorAll('text')].map(t => ({ text: t.textContent, r: t.getBoundingClientRect() }));
                const wrong = boxes.filter(b => b.r.left < whole.left - 1 || b.r.right > whole.right + 1 || b.r.bottom > whole.bottom + 1).map(b => b.text + ' stands outside');
                boxes.forEach((a, i) => boxes.slice(i + 1).forEach(b => {
                  if (Math.min(a.r.right, b.r.right) - Math.max(a.r.left, b.r.left) > 1 && Math.min(a.r.bottom, b.r.bottom) - Math.max(a.r.top, b.r.top) > 4) wrong.push(a.text + ' covers ' + b.text);
                }));
                return wrong;
                """
            )!;

    private void Bring()
    {
        string[] labels =
        [
            "Survey number",
            "Survey area",
            "Vessel of the survey",
            "Surveyor in charge",
            "Second surveyor",
            "Started",
            "Ended",
            "Datum",
            "Tide gauge",
            "Tide at start",
            "Tide at end",
            "Sounder",
            "Serial number of the sounder",
            "Transducer depth",
            "Sound velocity",
            "Temperature",
            "Salinity",
            "Least depth",
            "Greatest depth",
            "Mean depth",
            "Chart",
            "Sheet number",
            "Scale",
            "Berth",
            "Dredging needed",
            "Volume",
            "Remarks of the surveyor",
            "Weather",
            "Wind",
            "Checked on",
            "Checked by",
        ];
        List<Field> fields = [.. labels.Select(l => new TextField(ShortName.From(l), l) { Required = l == "Checked by" })];
        var rules = Enumerable
            .Range(0, 18)
            .Select(i => new Rule(
                $"r{i}",
                "filled",
                Level.Must,
                new Dictionary<string, string>
                {
                    ["fields"] = string.Join(',', Enumerable.Range(0, 1 + i % 3).Select(n => fields[(i * 7 + n * 11) % 30].Key)),
                    ["how"] = "all",
                }
            ));
        Assert.True(harbour.Get<Drafts>().Create("Survey File", "test").Ok);
        Assert.Null(
            harbour
                .Get<Drafts>()
                .Change(
                    "survey-file",
                    "made it",
                    "test",
                    t =>
                        t with
                        {
                            Fields = fields,
                            Rules = [.. rules],
                            Convention = new Convention(
                                [
                                    Piece.Literal("Surveys"),
                                    Piece.Inside,
                                    Piece.Of("survey-area"),
                                    Piece.Inside,
                                    Piece.Of("chart"),
                                    Piece.Literal(" sheet "),
                                    Piece.Of("sheet-number"),
                                ],
                                [
                                    Piece.Of("survey-number"),
                                    Piece.Literal(" "),
                                    Piece.Of("started"),
                                    Piece.Literal(" "),
                                    Piece.Of("berth"),
                                    Piece.Literal(" "),
                                    Piece.Of("vessel-of-the-survey"),
                                ]
                            ),
                        }
                )
                .Problem
        );
        harbour
            .Get<Database>()
            .Write(c =>
            {
                var page = DocumentStore.Pages(c, DocumentStore.WithPages(c, "vessel-call-record", 1)[0].Id)[0];
                // On the pages the values stand in another order than in the design.
                var evidence = fields
                    .Take(30)
                    .Select((f, i) => (f.Key, Place: i * 17 % 30))
                    .Where(f => f.Place < 26)
                    .ToDictionary(
                        f => f.Key,
                        f => new Evidence(
                            1 + f.Place / 10,
                            new Box(f.Place % 3 == 0 ? 0.5 : 0.1, 0.06 + f.Place % 10 * 0.09, 0.3, 0.012),
                            "read",
                            "recognised",
                            0.9
                        )
                    );
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = "survey 17.pdf",
                        TypeCode = "survey-file",
                        Record = fields.Take(30).ToDictionary(f => f.Key, f => $"{f.Label} as it was read"),
                        Evidence = evidence,
                    },
                    Enumerable.Range(1, 3).Select(n => page with { Number = n })
                );
            });
    }

    [GeneratedRegex(@"/Type /Page\b(?!s)")]
    private static partial Regex Leaves();
}
