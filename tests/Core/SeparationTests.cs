using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Core.Reading.Stacks;

namespace ClearLexicon.Core.Tests;

/// <summary>
/// How stacks are cut. A stack is written as a word a page; the plan as documents with bars between, vanished pages in brackets.
/// </summary>
public class SeparationTests
{
    private static readonly Box Place = new(0.1, 0.1, 0.2, 0.02);

    // b blank · p patch T · 3 patch 3 · cX code X · wX word X · nM/N page M of N · ? unread code · S separator sheet · | a file begins
    private static List<StackPage> Stack(string written)
    {
        var pages = new List<StackPage>();
        var begins = true;
        foreach (var word in written.Split(' '))
        {
            if (word == "|")
            {
                begins = true;
                continue;
            }
            var text = new PageText(100, 140, [new Word("Prose", Place)], "recognised") { Ink = 0.02 };
            text = word[0] switch
            {
                'b' => text with { Words = [], Ink = 0.0001 },
                'p' => text with { Codes = [new PageCode(PatchCode.Kind, "T", Place)] },
                '3' => text with { Codes = [new PageCode(PatchCode.Kind, "3", Place)] },
                'c' => text with { Codes = [new PageCode("Code 128", word[1..], Place)] },
                'w' => text with
                {
                    Words = [.. word[1..].Split('_').Select((w, i) => new Word(w, new Box(0.1 + i * 0.1, 0.1, 0.08, 0.02)))],
                },
                'n' => text with
                {
                    Words =
                    [
                        .. $"page {word[1..].Replace("/", " of ", StringComparison.Ordinal)}"
                            .Split(' ')
                            .Select((w, i) => new Word(w, new Box(0.1 + i * 0.1, 0.9, 0.08, 0.02))),
                    ],
                },
                '?' => text with { Unread = [Place] },
                _ => text,
            };
            pages.Add(
                new StackPage($"1/{pages.Count + 1}", text, begins) { Sheet = word == "S" ? new SheetCode("separator sheet", null) : null }
            );
            begins = false;
        }
        return pages;
    }

    /// <summary>
    /// Readers that know more than first pages. A page is written as the reader that claims it and what each says of it: f follows, e ends,
    /// x neither; a reader in capitals claims it.
    /// </summary>
    [Theory]
    [InlineData("Ax Af ae Ax ae", "A claims it|||A claims it|", "")]
    [InlineData("Ax Ae Ax", "A claims it||A claims it", "2: it looks like the last page of A and like a first one")]
    // It looks like a first page and says that it follows.
    [InlineData("Ax Af Af", "A claims it||", "")]
    // Behind a last page another begins, though nobody knows it.
    [InlineData("Ax ae - -", "A claims it||the page before is the last one of A|", "3: it is of unknown kind")]
    // One of one page; then one without its end, and a strange page in one.
    [InlineData("Ae Ax Ax", "A claims it|A claims it|A claims it", "3: the document before ends without the last page that A knows")]
    [InlineData("Ax ax ae", "A claims it||", "2: it does not look like a page of A: “continued” is not on this page")]
    // A reader that knows first pages only says nothing of the others.
    [InlineData("B - -", "B claims it||", "")]
    public void Following_and_last_pages_are_known(string written, string cuts, string doubts)
    {
        var pages = written
            .Split(' ')
            .Select(
                (w, i) =>
                    new StackPage($"1/{i + 1}", new PageText(100, 140, [new Word("Prose", Place)], "recognised") { Ink = 0.02 }, i == 0)
                    {
                        Claim = char.IsUpper(w[0]) ? w[..1] : null,
                        Roles =
                            w.Length == 1
                                ? new Dictionary<string, PageRoles>()
                                : new()
                                {
                                    [w[..1].ToUpperInvariant()] = new PageRoles(
                                        w[1] == 'f',
                                        w[1] == 'e',
                                        true,
                                        "“continued” is not on this page"
                                    ),
                                },
                    }
            )
            .ToList();
        var plan = Separator.Plan(pages, new Separation { Method = "reader" }, []);
        Assert.Equal(cuts, string.Join('|', plan.Pages.Select(p => p.Cut)));
        Assert.Equal(
            doubts,
            string.Join(
                "; ",
                plan.Pages.Select((p, i) => (p.Doubt, At: i + 1)).Where(p => p.Doubt is not null).Select(p => $"{p.At}: {p.Doubt}")
            )
        );
    }

    private static string Shown(StackPlan plan) =>
        string.Concat(
                plan.Pages.Select(
                    (p, i) =>
                        (p.Gone is null && p.Cut is not null ? "|" : "")
                        + (p.Gone is null ? $"{i + 1}" : $"({i + 1})")
                        + (p.Doubt is null ? "" : "?")
                        + " "
                )
            )
            .TrimEnd();

    private static StackPlan Plan(string stack, Separation how, params HandEdit[] edits) => Separator.Plan(Stack(stack), how, edits);

    [Theory]
    [InlineData("p x x p x p x x", "(1) |2 3 (4) |5 (6) |7 8")]
    [InlineData("p p x x p", "(1) (2) |3 4 (5)")]
    [InlineData("x x p x", "|1? 2 (3) |4")]
    [InlineData("p b x b b p x", "(1) (2) |3 4 5 (6) |7")]
    [InlineData("p x ? x", "(1) |2 3? 4")]
    [InlineData("p x | p x | x", "(1) |2 (3) |4 |5?")]
    public void At_a_patch_code_the_sheet_vanishes(string stack, string plan) =>
        Assert.Equal(plan, Shown(Plan(stack, new Separation { Method = "patch", Blanks = BlankPages.Keep })));

    [Fact]
    public void Only_patch_codes_that_count_separate_and_others_are_seen() =>
        Assert.Equal("(1) |2 3? 4", Shown(Plan("p x 3 x", new Separation { Method = "patch", Patches = ["T"] })));

    [Fact]
    public void A_stack_without_a_separator_is_one_doubtful_document()
    {
        var plan = Plan("x x x", new Separation { Method = "patch" });
        Assert.Single(plan.Documents);
        Assert.Equal("No patch code was found in this stack.", plan.Doubt);
        Assert.True(plan.IsDoubtful);
    }

    [Theory]
    [InlineData("c111 x c222 c33333 x", "|1 2 |3 4 5")]
    [InlineData("x c111 c111 x", "|1? |2 |3 4")]
    public void At_a_code_that_counts_the_page_is_the_first(string stack, string plan) =>
        Assert.Equal(
            plan,
            Shown(
                Plan(
                    stack,
                    new Separation
                    {
                        Method = "code",
                        Stays = true,
                        Codes = new CodeFilter { Longest = 3 },
                    }
                )
            )
        );

    [Fact]
    public void Where_a_code_changes() =>
        Assert.Equal("|1 2 3 |4 5? |6", Shown(Plan("c1 x c1 c2 ? c1", new Separation { Method = "code-change" })));

    [Theory]
    [InlineData("a a a a a", 2, "|1 2 |3 4 |5", "The last document has 1 of 2 pages.")]
    [InlineData("a b a b a", 2, "|1 (2) |3 (4) |5", "The last document has 1 of 2 pages.")]
    [InlineData("a a | a a", 2, "|1 2 |3 4", null)]
    public void Every_so_many_pages_blank_backs_counted(string stack, int pages, string plan, string? doubt)
    {
        var planned = Plan(
            stack,
            new Separation
            {
                Method = "pages",
                Pages = pages,
                Blanks = BlankPages.Drop,
            }
        );
        Assert.Equal((plan, doubt), (Shown(planned), planned.Doubt));
    }

    [Fact]
    public void At_words_a_misread_one_counts_and_a_near_one_is_seen()
    {
        var how = new Separation
        {
            Method = "words",
            Words = "Harbour Dues",
            Stays = true,
        };
        Assert.Equal("|1 2 |3 4? 5", Shown(Plan("wHarbour_Dues x wHarb0ur_Dues wHartcur_Dues wother", how)));
        Assert.Equal(
            "|1? |2 3",
            Shown(
                Plan(
                    "wx wNo_4711 wNo_x",
                    new Separation
                    {
                        Method = "words",
                        Words = @"No \d{4}",
                        IsPattern = true,
                        Stays = true,
                    }
                )
            )
        );
        // Only where it is asked for.
        Assert.Equal("|1?", Shown(Plan("wHarbour_Dues", how with { Region = new Box(0, 0.5, 1, 0.5) })));
    }

    [Theory]
    [InlineData("n1/2 n2/2 n1/1 n1/3 n2/3 n3/3", "|1 2 |3 |4 5 6")]
    [InlineData("n1/2 n1/1", "|1 |2?")]
    [InlineData("n1/2 n2/2 x n1/1", "|1 2 |3? |4")]
    [InlineData("n1/2 n2/2 n2/3 n3/3", "|1 2 |3? 4")]
    [InlineData("n1/3 x n3/3", "|1 2? 3")]
    public void At_page_numbers(string stack, string plan) => Assert.Equal(plan, Shown(Plan(stack, new Separation { Method = "numbers" })));

    [Theory]
    [InlineData("x b x x b b x b", "|1? (2) |3 4 (5) (6) |7 (8)")]
    [InlineData("b x", "(1) |2")]
    public void At_blank_pages(string stack, string plan) => Assert.Equal(plan, Shown(Plan(stack, new Separation { Method = "blank" })));

    [Fact]
    public void A_sheet_made_here_separates_whatever_the_method_and_its_back_vanishes_with_it()
    {
        Assert.Equal("|1 (2) |3 4", Shown(Plan("x S x x", new Separation())));
        var plan = Plan("S b x b", new Separation { Duplex = true });
        Assert.Equal("(1) (2) |3 4", Shown(plan));
        Assert.Equal("1/1", Assert.Single(plan.Documents).Sheet);
    }

    [Fact]
    public void What_is_done_by_hand_goes_before_the_method_and_is_taken_back_step_by_step()
    {
        var how = new Separation { Method = "patch" };
        const string stack = "p x x x p x";
        HandEdit[] edits =
        [
            new("cut", "1/3"),
            new("join", "1/6"),
            new("drop", "1/4"),
            new("keep", "1/5"),
            new("join", "1/2"),
            new("cut", "9/9"),
        ];
        string[] after =
        [
            "(1) |2 3 4 (5) |6",
            "(1) |2 |3 4 (5) |6",
            "(1) |2 |3 4 (5) 6",
            "(1) |2 |3 (4) (5) 6",
            "(1) |2 |3 (4) 5 6",
            // The first page that stays has nothing to be joined with.
            "(1) |2 |3 (4) 5 6",
            "(1) |2 |3 (4) 5 6",
        ];
        for (var i = 0; i <= edits.Length; i++)
            Assert.Equal(after[i], Shown(Plan(stack, how, edits[..i])));
        // A document's first page that goes hands its cut on, and one page always stays.
        Assert.Equal("(1) (2) |3 4 (5) |6", Shown(Plan(stack, how, new HandEdit("drop", "1/2"))));
        Assert.Single(Plan("x", how, new HandEdit("drop", "1/1")).Documents);
    }

    [Fact]
    public void Every_page_is_in_one_document_or_vanishes_with_a_reason_whatever_the_stack()
    {
        var random = new Random(5);
        string[] words = ["x", "b", "p", "3", "c1", "c22", "wHarbour_Dues", "n1/2", "n2/2", "?", "S", "|"];
        foreach (var method in SeparationMethods.All)
            for (var i = 0; i < 300; i++)
            {
                var stack =
                    "x " + string.Join(' ', Enumerable.Range(0, random.Next(25)).Select(_ => words[random.Next(words.Length)])) + " x";
                var how = new Separation
                {
                    Method = method.Code,
                    Words = "Harbour Dues",
                    Pages = 3,
                    Stays = random.Next(2) == 0,
                    Duplex = random.Next(2) == 0,
                    EndsWithFile = random.Next(2) == 0,
                    Blanks = (BlankPages)random.Next(2),
                };
                var pages = Stack(stack.Replace("  ", " ", StringComparison.Ordinal));
                var plan = Separator.Plan(pages, how, []);
                Assert.Equal(pages.Select(p => p.Key), plan.Pages.Select(p => p.Key));
                Assert.Equal(plan.Pages.Where(p => p.Gone is null).Select(p => p.Key), plan.Documents.SelectMany(d => d.Pages));
                Assert.All(plan.Documents, d => Assert.NotEmpty(d.Cut));
                Assert.Equal(Shown(plan), Shown(Separator.Plan(pages, how, [])));
            }
    }

    [Theory]
    [InlineData("{payer}/{*} {statement-number}.pdf", "Quay Ltd/scan HD-240001.pdf", "payer=Quay Ltd statement-number=HD-240001")]
    [InlineData("{call-number}_{*}", "sub/VC-2024-00001_copy.tif", "call-number=VC-2024-00001")]
    [InlineData("{a}-{b}.PDF", "x-y-z.pdf", "a=x b=y-z")]
    [InlineData("{a}.pdf", "x.tif", "")]
    [InlineData("(.*){a}", "((((((((x", "")]
    public void A_name_gives_values(string template, string path, string values) =>
        Assert.Equal(values, string.Join(' ', NameTemplate.Read(template, path).Select(v => $"{v.Key}={v.Value}")));

    [Theory]
    [InlineData("{a")]
    [InlineData("a}")]
    [InlineData("{a}{a}")]
    [InlineData("{}")]
    public void A_template_that_cannot_be_meant_says_so(string template) => Assert.NotNull(NameTemplate.Finding(template));

    [Fact]
    public void A_separation_that_cannot_be_meant_cuts_nothing_and_says_why()
    {
        var how = new Separation
        {
            Method = "words",
            Words = "(",
            IsPattern = true,
        };
        Assert.NotNull(how.Finding);
        Assert.Equal(how.Finding, Plan("x x", how).Doubt);
        Assert.NotNull(new Separation { Method = "pages", Pages = 0 }.Finding);
        Assert.NotNull(new Separation { Method = "patch", Patches = ["9"] }.Finding);
        Assert.NotNull(new Separation { Region = new Box(0.5, 0, 0.9, 1) }.Finding);
        Assert.NotNull(new Separation { Method = "guess" }.Finding);
    }

    [Fact]
    public void Boxes_of_a_sheet_say_one_value_or_what_is_wrong()
    {
        var print = new SheetPrint(
            "abcdefgh",
            true,
            [new Dictionary<string, string> { ["holder"] = "A. Reed" }],
            [new BoxGroup("class", "Class", [new("Master", "Master"), new("Deep sea", "Deep sea"), new("Coast", "Coast")], Asked: true)]
        );
        var boxes = SheetLayout.Of(print, 1).Boxes;
        (string?, string[]) Read(params double[] ink)
        {
            var (chosen, doubts) = SheetValue.Read(print, [.. boxes.Select((b, i) => new MeasuredBox(b, ink[i], b.Place))]);
            return (chosen.Count == 0 ? null : chosen[0].Option.Value, [.. doubts]);
        }
        Assert.Equal("Deep sea", Read(0.01, 0.3, 0).Item1);
        Assert.Empty(Read(0.01, 0.3, 0).Item2);
        Assert.Equal(
            (null, "Class: Master and Coast are filled on the cover sheet, where one is asked."),
            (Read(0.2, 0, 0.3).Item1, Read(0.2, 0, 0.3).Item2[0])
        );
        Assert.Equal("Class: no box is filled on the cover sheet.", Read(0, 0, 0).Item2[0]);
        Assert.Contains("too faint", Read(0, 0.06, 0).Item2[0], StringComparison.Ordinal);
        Assert.Contains("corner marks", SheetValue.Read(print, []).Doubts[0], StringComparison.Ordinal);
        Assert.Equal(new SheetToken("abcdefgh", 12), SheetToken.Read(new SheetToken("abcdefgh", 12).Text));
        Assert.Null(SheetToken.Read("clear-lexicon:sheet:abcdefgh:0"));
        Assert.Null(SheetToken.Read("https://quay.example/clear-lexicon:sheet:abcdefgh:1"));
        Assert.NotNull(SheetLayout.Of(print with { Rows = [Enumerable.Range(0, 60).ToDictionary(i => $"f{i}", _ => "x")] }, 1).Problem);
    }
}
