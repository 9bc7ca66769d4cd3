using System.Text.RegularExpressions;
using ClearLexicon.Demo;
using ClearLexicon.TestSupport;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Interactions;
using OpenQA.Selenium.Support.UI;

namespace ClearLexicon.Browser.Tests;

/// <summary>Where pictures of the main views go; null unless scripts/screenshots asks for them.</summary>
internal static class Screens
{
    public static string? Folder => Environment.GetEnvironmentVariable("CLEARLEXICON_SCREENSHOTS");
}

/// <summary>What a person does in the browser, waiting as a person would until the page has answered.</summary>
/// <param name="driver">The browser.</param>
/// <param name="address">Where the application is, such as <c>http://127.0.0.1:5080</c>.</param>
public sealed partial class Screen(ChromeDriver driver, string address)
{
    public Screen(HarbourFixture harbour)
        : this(harbour.Driver, harbour.Address) { }

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(45);

    private IWebDriver Driver => driver;

    public object? Script(string script, params object[] arguments) => ((IJavaScriptExecutor)Driver).ExecuteScript(script, arguments);

    /// <summary>Waits until something holds; while the page is being swapped it does not.</summary>
    public void Until(Func<bool> holds, string what)
    {
        var wait = new WebDriverWait(new SystemClock(), Driver, Patience, TimeSpan.FromMilliseconds(60))
        {
            Message = $"{what} at {Driver.Url}",
        };
        wait.IgnoreExceptionTypes(
            typeof(StaleElementReferenceException),
            typeof(NoSuchElementException),
            typeof(ElementNotInteractableException),
            typeof(ElementClickInterceptedException)
        );
        try
        {
            wait.Until(_ => Whole(holds));
        }
        catch (WebDriverTimeoutException)
        {
            // A picture of what stood there instead says more than the message.
            if (Environment.GetEnvironmentVariable("CLEARLEXICON_LOOK") is { } look)
                ((ITakesScreenshot)Driver).GetScreenshot().SaveAsFile(Path.Combine(look, $"{Guid.NewGuid():N}.png"));
            throw;
        }
    }

    // What the driver says of an element that goes away between being found and being asked, and of a page that does so meanwhile.
    private static readonly string[] Gone = ["does not belong to the document", "aborted by navigation"];

    /// <summary>Such an error is of its own kind, or of that of something else, and is known by its words.</summary>
    private static bool Whole(Func<bool> holds)
    {
        try
        {
            return holds();
        }
        catch (WebDriverException gone) when (Gone.Any(g => gone.Message.Contains(g, StringComparison.Ordinal)))
        {
            return false;
        }
    }

    /// <summary>
    /// Where a page scrolls sideways: as it is, on a small screen, and enlarged to twice and four times its size, which leaves a half and a
    /// quarter of the width; and where a picture of a page is too small to be read.
    /// </summary>
    public IEnumerable<string> SidewaysScrolling()
    {
        const string scrolls = "return document.documentElement.scrollWidth > document.documentElement.clientWidth";
        const string least =
            "return Math.min(9999, ...[...document.querySelectorAll('.page-view, svg.strip')]"
            + ".map(e => e.getBoundingClientRect().width).filter(w => w > 0))";
        if ((bool)Script(scrolls)!)
            yield return "scrolls sideways";
        foreach (var width in new[] { 1024, 640, 320 })
        {
            driver.ExecuteCdpCommand(
                "Emulation.setDeviceMetricsOverride",
                new Dictionary<string, object?>
                {
                    ["width"] = width,
                    ["height"] = 720,
                    ["deviceScaleFactor"] = 1,
                    ["mobile"] = false,
                }
            );
            if ((bool)Script(scrolls)!)
                yield return $"scrolls sideways at {width} px";
            if (Convert.ToDouble(Script(least), System.Globalization.CultureInfo.InvariantCulture) is < 280 and var small)
                yield return $"shows a page {small:0} px wide at {width} px";
        }
        driver.ExecuteCdpCommand("Emulation.clearDeviceMetricsOverride", []);
    }

    public void SignIn(string role)
    {
        Driver.Manage().Cookies.DeleteAllCookies();
        var person = HarbourSeed.People.First(p => p.Role == role);
        Go("/SignIn");
        Fill("#name", person.Name);
        Fill("#password", person.Password);
        // Clicked once: the answer to a slow first click makes the token of a second one that of nobody.
        Now("main button.primary").Click();
        Sees("#today");
    }

    public void Go(string path)
    {
        Driver.Navigate().GoToUrl(address + path);
        Quiet();
    }

    /// <summary>An element, as soon as it is there: what an act brings may be on its way still.</summary>
    public IWebElement Find(string css)
    {
        Sees(css);
        return Now(css);
    }

    private IWebElement Now(string css) => Driver.FindElement(By.CssSelector(css));

    public bool Has(string css) => Driver.FindElements(By.CssSelector(css)).Count > 0;

    public void Sees(string css) => Until(() => Has(css), $"{css} did not appear");

    public void Reads(string css, string text) =>
        Until(() => Text(css).Contains(text, StringComparison.Ordinal), $"“{text}” did not appear in {css}");

    /// <summary>
    /// Text of all elements, hidden words included; where a line of the page's source ends says nothing. Asked for at once: what is found
    /// first and read afterwards may have been swapped in between.
    /// </summary>
    public string Text(string css) =>
        string.Join(
            "\n",
            ((IEnumerable<object>)Script("return [...document.querySelectorAll(arguments[0])].map(e => e.textContent ?? '')", css)!).Select(
                text => Break().Replace((string)text, " ").Trim()
            )
        );

    [GeneratedRegex(@"\s*\n\s*")]
    private static partial Regex Break();

    public void Click(string css)
    {
        Until(
            () =>
            {
                Now(css).Click();
                return true;
            },
            $"{css} cannot be clicked"
        );
        Quiet();
    }

    /// <summary>Follows a link to a page whose address holds a text: a list that is drawn anew under the pointer takes the click with it.</summary>
    public void Follow(string css, string to)
    {
        bool IsThere() => Driver.Url.Contains(to, StringComparison.Ordinal);
        Until(
            () =>
            {
                if (!IsThere())
                    Now(css).Click();
                return IsThere();
            },
            $"{css} does not lead to {to}"
        );
        Quiet();
    }

    public void Fill(string css, string text) =>
        Until(
            () =>
            {
                var input = Now(css);
                input.Clear();
                input.SendKeys(text);
                return true;
            },
            $"{css} cannot be filled"
        );

    public void Choose(string css, string text) =>
        Until(
            () =>
            {
                new SelectElement(Now(css)).SelectByText(text);
                return true;
            },
            $"{css} has no “{text}”"
        );

    /// <summary>Keys to one control, once it takes them.</summary>
    public void Press(string css, string keys)
    {
        Until(
            () =>
            {
                Now(css).SendKeys(keys);
                return true;
            },
            $"{css} takes no keys"
        );
        Quiet();
    }

    /// <summary>Keys to whatever has the focus.</summary>
    public void Keys(params string[] keys)
    {
        foreach (var key in keys)
            new Actions(Driver).SendKeys(key).Perform();
        Quiet();
    }

    public void Chord(string modifier, string key)
    {
        new Actions(Driver).KeyDown(modifier).SendKeys(key).KeyUp(modifier).Perform();
        Quiet();
    }

    /// <summary>Drags over a page picture, places in shares of it.</summary>
    public void Drag(string svg, double x, double y, double w, double h)
    {
        // A page higher than the window: bring the start of the drag into view, then measure.
        Script("const r = arguments[0].getBoundingClientRect(); window.scrollBy(0, r.top + r.height * arguments[1] - 300)", Find(svg), y);
        var box =
            (IDictionary<string, object>)
                Script(
                    "const s = arguments[0], m = s.getScreenCTM(), v = s.viewBox.baseVal; return {x: m.e, y: m.f, w: v.width * m.a, "
                        + "h: v.height * m.d}",
                    Find(svg)
                )!;
        int At(string edge, double share, string side) =>
            (int)Math.Round(Convert.ToDouble(box[edge]) + share * Convert.ToDouble(box[side]));
        new Actions(Driver)
            .MoveToLocation(At("x", x, "w"), At("y", y, "h"))
            .ClickAndHold()
            .MoveToLocation(At("x", x + w / 2, "w"), At("y", y + h / 2, "h"))
            .MoveToLocation(At("x", x + w, "w"), At("y", y + h, "h"))
            .Release()
            .Perform();
        Quiet();
    }

    /// <summary>No request is under way any more.</summary>
    public void Quiet() =>
        Until(
            () =>
                (bool)
                    Script(
                        "return document.readyState === 'complete' && !document.querySelector('.htmx-request, .htmx-swapping, "
                            + ".htmx-settling')"
                    )!,
            "the page did not come to rest"
        );

    /// <summary>A file of that name for the time of the walks.</summary>
    public static string File(string name, string content)
    {
        var path = Path.Combine(Directory.CreateTempSubdirectory("walked").FullName, name);
        System.IO.File.WriteAllText(path, content);
        return path;
    }

    /// <summary>Violations that axe-core finds serious or critical; a rule that is neither, and slow, is left out.</summary>
    public IReadOnlyList<string> Violations()
    {
        Script(System.IO.File.ReadAllText(AxePath));
        var found = ((IJavaScriptExecutor)Driver).ExecuteAsyncScript(
            """
            const done = arguments[arguments.length - 1];
            axe.run(document, {resultTypes: ['violations'], rules: {region: {enabled: false}}}).then(r => done(r.violations
              .filter(v => v.impact === 'serious' || v.impact === 'critical')
              .map(v => `${v.id}: ${v.nodes.slice(0, 3).map(n => n.html).join(' | ')}`)));
            """
        );
        return [.. ((IReadOnlyCollection<object>)found!).Select(f => (string)f)];
    }

    /// <summary>What the browser's console complained about since the last look.</summary>
    public IReadOnlyList<string> Complaints() =>
        [
            .. Driver
                .Manage()
                .Logs.GetLog(LogType.Browser)
                .Where(l => l.Level == OpenQA.Selenium.LogLevel.Severe)
                .Select(l => l.Message)
                // A live check that a later keystroke has called off is logged as these two; a request that fails is logged otherwise too.
                .Where(m =>
                    !m.Contains("htmx:sendAbort", StringComparison.Ordinal) && !m.Contains("htmx:afterRequest", StringComparison.Ordinal)
                ),
        ];

    private static string AxePath => Path.Combine(SourceTree.Root, "src/Web/node_modules/axe-core/axe.min.js");
}
