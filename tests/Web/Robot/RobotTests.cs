using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.People;
using ClearLexicon.TestSupport;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// A robot that presses everything: every page that links reach, every form as it stands, filled, with each choice of each select, emptied,
/// and with what no blank expects; every piece that htmx asks for. It knows no page by name, so that new ones are met by themselves.
/// </summary>
public sealed partial class RobotTests(ITestOutputHelper output)
{
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task Whatever_is_pressed_the_answer_is_a_page_that_says_what_happened(bool demo)
    {
        await using var app = new TestSupport.App();
        _ = app.Services;
        if (demo)
        {
            await app.SeedAsync(new DemoSize(InventoryRows: 60, SamplePdfs: 1, SampleScans: 0, Waiting: false));
            await FillDeskAsync(app);
        }
        var robot = new Robot(app);
        foreach (var taking in new[] { false, true })
        foreach (var role in new[] { Roles.Steward, Roles.Indexer, Roles.Administrator, Roles.Searcher })
            await robot.GoAsync(role, taking);
        output.WriteLine($"{(demo ? "The demo" : "An empty installation")}: {robot.Pressed}");
        foreach (var wrong in robot.Wrong)
            output.WriteLine(wrong);
        Assert.Empty(robot.Wrong);
        Assert.True(robot.Pressed.Forms > (demo ? 900 : 300), $"only {robot.Pressed}");
    }

    // A page of each document type waits on the desk.
    private static async Task FillDeskAsync(TestSupport.App app)
    {
        var drawn = Directory.CreateTempSubdirectory("robot").FullName;
        var pages = HarbourDocuments
            .Incoming()
            .Where(p => p.FileName.EndsWith(".pdf", StringComparison.Ordinal))
            .Where(p => p.Design is not null)
            .DistinctBy(p => p.Design.TypeCode)
            .ToList();
        foreach (var page in pages)
            HarbourDocuments.Draw(page, drawn);
        var (_, job, _) = await app
            .Services.GetRequiredService<Intake>()
            .BringAsync(
                "Robot's",
                [.. pages.Select(p => new BroughtFile(p.FileName, () => File.OpenRead(Path.Combine(drawn, p.FileName))))],
                "Tobias Finch"
            );
        await job!.Completion;
        Directory.Delete(drawn, recursive: true);
    }
}

/// <summary>How much was pressed.</summary>
internal readonly record struct Pressed(int Pages, int Kinds, int Forms, int Choices, int Swaps)
{
    public override string ToString() =>
        $"{Pages} pages, {Kinds} kinds of acts, {Forms} forms, {Choices} choices among them, {Swaps} swaps";
}

/// <summary>Walks an installation as people of one role after another.</summary>
internal sealed partial class Robot(TestSupport.App app)
{
    private const string Password = "kettle-under-moss-71";

    // Pages and acts of one kind, such as each field's form, are met more than once, but not each of hundreds.
    private const int EachPage = 2;
    private const int EachPath = 6;
    private const int EachAct = 1;
    private const int EachPiece = 60;

    // CHOICES=30 tries more of the choices of a control.
    private static int MostChoices => int.TryParse(Environment.GetEnvironmentVariable("CHOICES"), out var n) ? n : 6;
    private const string Unexpected = "with what nobody expects";

    private readonly HashSet<string> _routes =
    [
        .. app
            .Services.GetRequiredService<EndpointDataSource>()
            .Endpoints.OfType<RouteEndpoint>()
            .SelectMany(e => e.RoutePattern.PathSegments)
            .SelectMany(s => s.Parts)
            .OfType<Microsoft.AspNetCore.Routing.Patterns.RoutePatternLiteralPart>()
            .Select(p => p.Content),
    ];
    private readonly HashSet<string> _wrong = [];
    private readonly HashSet<string> _everywhere = [];
    private readonly HashSet<string> _kinds = [];
    private int _people;
    private int _typed;
    private int _forms;
    private int _choices;
    private int _swaps;
    private Visitor _visitor = null!;
    private string _role = "";

    /// <summary>What was wrong, a line each.</summary>
    public IReadOnlyCollection<string> Wrong => _wrong;

    /// <summary>How much was pressed so far.</summary>
    public Pressed Pressed => new(_everywhere.Count, _kinds.Count, _forms, _choices, _swaps);

    /// <summary>Walks all that a role reaches and presses what is there.</summary>
    /// <param name="role">The role.</param>
    /// <param name="taking">Whether to press what takes away, or everything else.</param>
    public async Task GoAsync(string role, bool taking)
    {
        _role = role;
        await SignInAsync();
        var (pages, acts) = (new Dictionary<string, int>(StringComparer.Ordinal), new Dictionary<string, int>(StringComparer.Ordinal));
        var reached = new List<string>();
        var waiting = new Queue<string>(["/"]);
        // Each address with the page that leads there.
        var from = new Dictionary<string, string>(StringComparer.Ordinal) { ["/"] = "/" };
        while (waiting.TryDequeue(out var address))
        {
            if (!More(pages, Pattern(address), EachPage) || !More(pages, Pattern(address).Split('?')[0], EachPath))
                continue;
            var answer = await OpenAsync(address, from.GetValueOrDefault(address));
            if (answer?.Page is not { } page)
                continue;
            reached.Add(address);
            _everywhere.Add(Pattern(address));
            void Meet(string on, IParentNode piece)
            {
                foreach (var link in piece.QuerySelectorAll("a[href]").OfType<IHtmlAnchorElement>())
                    if (link.GetAttribute("href") is ['/' or '?', ..] href && !href.StartsWith("//", StringComparison.Ordinal))
                        if (Visitor.Resolved(on, href.Split('#')[0]) is var to && from.TryAdd(to, on))
                            waiting.Enqueue(to);
            }
            Meet(address, page);
            foreach (var (met, where) in await PressAllAsync(address, page, acts, taking))
                Meet(where, met);
        }
        // What was done meanwhile has broken no page; one may be gone.
        foreach (var address in reached)
            await OpenAsync(address);
    }

    /// <summary>Walks all that a role reaches by links, and what the pages bring by themselves, without pressing anything.</summary>
    /// <param name="role">The role.</param>
    /// <param name="meets">What to do with each act that is met, each kind of it twice.</param>
    public async Task VisitAsync(string role, Func<Visitor, string, IHtmlDocument, Act, Task> meets)
    {
        _role = role;
        await SignInAsync();
        var (pages, acts) = (new Dictionary<string, int>(StringComparer.Ordinal), new Dictionary<string, int>(StringComparer.Ordinal));
        var (waiting, known) = (new Queue<string>(["/"]), new HashSet<string>(StringComparer.Ordinal) { "/" });
        while (waiting.TryDequeue(out var address))
        {
            if (!More(pages, Pattern(address), EachPath) || !More(pages, Pattern(address).Split('?')[0], 2 * EachPath))
                continue;
            if (await OpenAsync(address) is not { Page: { } page })
                continue;
            foreach (var link in page.QuerySelectorAll("a[href]"))
                if (
                    link.GetAttribute("href") is ['/' or '?', ..] href
                    && Visitor.Resolved(address, href.Split('#')[0]) is var to
                    && known.Add(to)
                )
                    waiting.Enqueue(to);
            var open = new Queue<(IHtmlDocument Page, Act Act)>(Act.On(page).Select(a => (page, a)));
            while (open.TryDequeue(out var at))
            {
                // A form is met for each kind of thing that it edits.
                if (!More(acts, at.Act.Kind(Pattern) + KindOf(at.Act), at.Act is { Verb: "GET", Form: null } ? EachPiece : 2))
                    continue;
                await meets(_visitor, address, at.Page, at.Act);
                if (at.Act.ByScript && at.Act.Verb == "GET" && at.Act.Form is null)
                    if (await DoAsync(address, at.Page, at.Act, Ways(at.Act).First()) is { Page: { } came })
                        foreach (var more in Act.On(came).Where(a => Act.On(at.Page).All(b => b.Same != a.Same)))
                            open.Enqueue((came, more));
            }
        }
    }

    private static string KindOf(Act act) =>
        act.Form?.QuerySelector("select[data-kind]") is IHtmlSelectElement kind
            ? kind.Options.LastOrDefault(o => o.HasAttribute("selected"))?.Value ?? ""
            : "";

    private async Task<List<(IHtmlDocument Page, string Address)>> PressAllAsync(
        string address,
        IHtmlDocument page,
        Dictionary<string, int> acts,
        bool taking
    )
    {
        var met = new List<(IHtmlDocument, string)>();
        // What a piece brings has acts of its own, on the page it was brought into.
        var open = new Queue<(IHtmlDocument Page, Act Act)>(Act.On(page).Select(a => (page, a)));
        while (open.TryDequeue(out var at))
        {
            var kind = at.Act.Kind(Pattern);
            if (at.Act.TakesAway != taking && at.Act.Verb != "GET" || kind.Contains("/SignIn", StringComparison.Ordinal))
                continue;
            if (!More(acts, kind, EachAct))
                continue;
            // What one role has pressed in every way, another presses as it stands and with what nobody expects.
            var fully = _kinds.Add(kind);
            IHtmlDocument? last = at.Page;
            foreach (var way in Ways(at.Act).Where(w => fully || w.First || w.Name == Unexpected))
            {
                // Each starts from the page as it is now: what was pressed before may have changed it.
                var (now, act) = way.First || at.Act.Verb == "GET" ? (at.Page, at.Act) : await AgainAsync(address, last, at);
                if (act is null)
                    break;
                if (await DoAsync(address, now, act, way) is not { Page: { } came } answer)
                {
                    last = null;
                    continue;
                }
                last = came;
                met.Add((came, answer.Address));
                if (act.ByScript && act.Verb == "GET" && way.First)
                    foreach (var more in Act.On(came).Where(a => !acts.ContainsKey(a.Kind(Pattern))))
                        open.Enqueue((came, more));
            }
        }
        return met;
    }

    private sealed record Way(string Name, bool First, Func<Control, Act, IEnumerable<string>> Sends, bool WithFiles);

    private static IEnumerable<Way> Ways(Act act)
    {
        var stands = (Control c, Act a) => c.Standing(a.Element);
        yield return new("as it stands", true, stands, false);
        var blanks = act.Blanks().Where(b => b.Type is not "hidden" and not "button").ToList();
        if (blanks.Count == 0)
            yield break;
        yield return new("filled", false, (c, a) => Filled(c, a, 1), true);
        foreach (var blank in blanks)
        foreach (var choice in blank.Choices.Take(MostChoices))
        {
            var name = blank.Name;
            yield return new(
                $"with {name}={choice}",
                false,
                (c, a) =>
                    c.Name != name || c.Typed ? Filled(c, a, 2)
                    : choice.Length == 0 && c.Type == "checkbox" ? []
                    : [choice],
                false
            );
        }
        yield return new(
            "emptied",
            false,
            (c, a) =>
                c.Typed ? [""]
                : c.Type is "checkbox" or "radio" ? []
                : c.Standing(a.Element),
            false
        );
        yield return new(Unexpected, false, (c, a) => c.Typed ? ["“%_[1,5”\u202e\u0001=;|x:\\(-–٣"] : c.Standing(a.Element), false);
    }

    // What somebody might type: something for each empty blank, the rest as it stands.
    private static IEnumerable<string> Filled(Control blank, Act act, int n)
    {
        var stands = blank.Standing(act.Element).ToList();
        if (!blank.Typed || stands is [{ Length: > 0 }, ..])
            return stands;
        if (blank.Element.GetAttribute("list") is { } list && blank.Element.Owner!.GetElementById(list) is IHtmlDataListElement known)
            if (known.Options.FirstOrDefault(o => o.Value.Length > 0) is { } first)
                return [first.Value];
        return
        [
            blank.Type switch
            {
                "number" => blank.Element.GetAttribute("min") is { Length: > 0 } least ? least : "3",
                "date" => "2024-05-06",
                "time" => "09:30",
                "email" => "robot@example.org",
                "password" => Password,
                _ => $"Robot {n}",
            },
        ];
    }

    // The same act on the page that the last one left, or on the page opened again; what htmx has brought is pressed where it was met.
    private async Task<(IHtmlDocument Page, Act? Act)> AgainAsync(string address, IHtmlDocument? last, (IHtmlDocument Page, Act Act) met)
    {
        if (last is not null && Act.On(last).FirstOrDefault(a => a.Same == met.Act.Same) is { } there)
            return (last, there);
        if (await OpenAsync(address) is not { Page: { } page })
            return (met.Page, null);
        return Act.On(page).FirstOrDefault(a => a.Same == met.Act.Same) is { } again ? (page, again) : (met.Page, met.Act);
    }

    private async Task<Answer?> DoAsync(string address, IHtmlDocument page, Act act, Way way)
    {
        var where = $"{_role} at {address}: {act.Words} {way.Name}";
        _typed++;
        var typed = act.Blanks()
            .SelectMany(b =>
                way.Sends(b, act)
                    .Select(v => new KeyValuePair<string, string>(b.Name, v.Replace("Robot", $"Robot {_typed}", StringComparison.Ordinal)))
            )
            .ToList();
        var files = way.WithFiles ? act.Blanks().Where(b => b.Type == "file").Select(FileFor).ToList() : [];
        if (act.Verb == "POST")
            _forms++;
        if (act.ByScript)
            _swaps++;
        if (way.Name.StartsWith("with ", StringComparison.Ordinal))
            _choices++;
        try
        {
            var answer = await _visitor.Press(page, address, act, typed, files);
            // What was pressed before has signed the robot out, by giving it another password or role.
            if (act.ByScript && answer.Status == HttpStatusCode.Unauthorized)
            {
                await SignInAsync();
                return null;
            }
            if ((int)answer.Status >= 400 && !(answer.Status == HttpStatusCode.NotFound && !way.First))
                _wrong.Add($"{where}: {(int)answer.Status}");
            if (answer.Address.StartsWith("/SignIn", StringComparison.Ordinal))
                await SignInAsync();
            else if (answer.Page is { } came)
                Look(came, where);
            return (int)answer.Status < 400 ? answer : null;
        }
        catch (SwapException e)
        {
            _wrong.Add($"{where}: {e.Message}");
        }
        catch (DomException e)
        {
            _wrong.Add($"{where}: {e.Message}");
        }
        return null;
    }

    // One page with one main part; what refuses says what it refuses; nothing is called as it is called in the code.
    private void Look(IHtmlDocument page, string where)
    {
        foreach (var name in Shown(page).SelectMany(text => NameOfCode().Matches(text)).Select(m => m.Value).Distinct())
            _wrong.Add($"{where}: shows “{name}”");
        if (page.QuerySelectorAll("main").Length != 1)
            _wrong.Add($"{where}: {page.QuerySelectorAll("main").Length} main parts");
        foreach (var notice in page.QuerySelectorAll(".notice.problem"))
        {
            var text = notice.TextContent.Trim();
            if (text.Length < 20 || Empty().IsMatch(text))
                _wrong.Add($"{where}: says “{text}”");
        }
    }

    // What people read and hear of a page, but for what others wrote: values, keys and files stand in the fixed face.
    private static IEnumerable<string> Shown(IHtmlDocument page) =>
        page.QuerySelectorAll("main *:not(script, style, svg *, .mono, .mono *, code, code *, textarea)")
            .SelectMany(e =>
                e.ChildNodes.OfType<IText>()
                    .Select(t => t.Data)
                    .Concat(new[] { "title", "aria-label", "placeholder" }.Select(a => e.GetAttribute(a) ?? ""))
            );

    // What was pressed may have taken a page away; then nothing leads there any more.
    private async Task<Answer?> OpenAsync(string address, string? from = null)
    {
        var answer = await _visitor.Open(address);
        if (answer.Address.StartsWith("/SignIn", StringComparison.Ordinal))
        {
            await SignInAsync();
            answer = await _visitor.Open(address);
        }
        if (
            (int)answer.Status >= 400
            && (
                answer.Status != HttpStatusCode.NotFound
                || from is not null
                    && (await _visitor.Open(from))
                        .Page?.QuerySelectorAll("a[href]")
                        .Any(a => Visitor.Resolved(from, a.GetAttribute("href")!.Split('#')[0]) == address) == true
            )
        )
            _wrong.Add($"{_role} opens {address} from {from}: {(int)answer.Status}");
        if ((int)answer.Status >= 400)
            return null;
        if (answer.Page is { } page && page.QuerySelector("body > header.bar") is not null)
            Look(page, $"{_role} opens {address}");
        return answer;
    }

    // Somebody new each time: what was pressed may have removed the last one, or given them another password.
    private async Task SignInAsync()
    {
        var people = app.Services.GetRequiredService<Accounts>();
        var name = $"{_role} {++_people}";
        Assert.Null(people.Add(name, Password, [_role], "test").Problem);
        var client = app.CreateClient(new() { HandleCookies = true });
        await PageForms.Post(client, "/SignIn", "/SignIn", ("name", name), ("password", Password));
        _visitor = new Visitor(client);
    }

    /// <summary>An address with what differs from page to page of one kind left out.</summary>
    public string Pattern(string address)
    {
        var (path, query) = address.Split('?') is [var p, var q] ? (p, q) : (address.Split('?')[0], "");
        var names = query
            .Split('&', StringSplitOptions.RemoveEmptyEntries)
            .Select(v => v.StartsWith("handler=", StringComparison.Ordinal) ? v : v.Split('=')[0])
            .Distinct()
            .Order(StringComparer.Ordinal);
        return string.Join('/', path.Split('/').Select(s => _routes.Contains(s) || s.Length == 0 ? s : "*"))
            + "?"
            + string.Join('&', names);
    }

    private static bool More(Dictionary<string, int> counts, string of, int most)
    {
        var n = counts.GetValueOrDefault(of);
        counts[of] = n + 1;
        return n < most;
    }

    private static (string, string, byte[]) FileFor(Control blank) =>
        (blank.Element.GetAttribute("accept") ?? ".pdf").Split(',')[0] switch
        {
            ".csv" => (
                blank.Name,
                "robot.csv",
                Encoding.UTF8.GetBytes("Path,Berth,Date in\nA/one.pdf,North Quay,2024-05-06\nA/two.pdf,South Quay,07.06.2024\n")
            ),
            ".json" => (blank.Name, "robot.json", "{}"u8.ToArray()),
            ".ttl" => (blank.Name, "robot.csv", "label,code\nRobot term,R1\n"u8.ToArray()),
            _ => (
                blank.Name,
                "robot.pdf",
                HandPdf.Of(
                    "<</Type/Catalog/Pages 2 0 R>>",
                    "<</Type/Pages/Kids[3 0 R]/Count 1>>",
                    "<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 300]/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>>>",
                    HandPdf.Stream("BT /F 14 Tf 40 200 Td (Robot was here) Tj ET"),
                    "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"
                )
            ),
        };

    [GeneratedRegex("Exception|went wrong|could not read this|^(Error|Invalid)", RegexOptions.IgnoreCase)]
    private static partial Regex Empty();

    // But for a place in a list of zones, and a standard.
    [GeneratedRegex(@"\b(?!(?:McMurdo|BagIt)\b)[A-Z][a-z]+(?:[A-Z][a-z]+)+\b")]
    private static partial Regex NameOfCode();
}
