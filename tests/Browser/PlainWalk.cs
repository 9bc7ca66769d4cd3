using ClearLexicon.Demo;
using ClearLexicon.Services;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Support.UI;

namespace ClearLexicon.Browser.Tests;

/// <summary>With scripts switched off: signed in, added, checked, filed, found, and a design changed.</summary>
public sealed class PlainWalk(HarbourFixture harbour) : IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(60);

    private readonly ChromeDriver _driver = Plain();

    private static ChromeDriver Plain()
    {
        var options = HarbourFixture.Options();
        options.AddUserProfilePreference("profile.managed_default_content_settings.javascript", 2);
        return HarbourFixture.Browser(options);
    }

    public void Dispose() => _driver.Quit();

    private void Go(string path) => _driver.Navigate().GoToUrl(harbour.Address + path);

    private IWebElement Find(string css) => _driver.FindElement(By.CssSelector(css));

    private void Fill(string css, string text)
    {
        Find(css).Clear();
        Find(css).SendKeys(text);
    }

    // Without scripts every act is a new page: the old one is gone before anything is read of the next.
    private void Leaving(Action act)
    {
        var page = Find("html");
        act();
        new WebDriverWait(_driver, Patience).Until(IsGone);

        bool IsGone(IWebDriver driver)
        {
            try
            {
                _ = page.TagName;
                return false;
            }
            catch (WebDriverException)
            {
                return (string)((IJavaScriptExecutor)driver).ExecuteScript("return document.readyState")! == "complete";
            }
        }
    }

    private void Press(string css) => Leaving(Find(css).Click);

    private void Save(string field, string text)
    {
        Fill($"#f-{field}", text);
        Press($".field[data-field={field}] button");
    }

    private string Text(string css) => Find(css).Text;

    private void SignIn()
    {
        var person = HarbourSeed.People.First(p => p.Role == Roles.Steward);
        Go("/SignIn");
        Fill("#name", person.Name);
        Fill("#password", person.Password);
        Press("main button.primary");
        Assert.Equal("Today", Text("h1"));
    }

    [Fact]
    public void The_menu_opens_what_was_found_is_narrowed_and_a_bulk_edit_is_looked_at()
    {
        SignIn();
        Find(".menu > summary").Click();
        Assert.True(Find(".menu a[href='/Shortcuts']").Displayed);

        Go("/Repository?type=vessel-call-record");
        Press("#facets a");
        Press("#facets li a");
        Assert.NotEmpty(Find("#ask").GetDomProperty("value")!);

        Go("/Repository/BulkEdit?type=vessel-call-record");
        new SelectElement(Find("#field")).SelectByValue("agent");
        Fill("#text", "Tern Agency");
        Press("#look");
        for (var until = DateTime.UtcNow + Patience; _driver.FindElements(By.Id("would-change")).Count == 0; )
        {
            Assert.True(DateTime.UtcNow < until, "the look does not end");
            Press("#progress a");
        }
        Assert.NotEqual("0", Text("#would-change"));
        Assert.Matches("^.*BulkEdit.edit=[0-9]+$", _driver.Url);

        // The scanner's tray is asked for by a form of its own.
        Go("/Desk");
        if (_driver.FindElements(By.Id("scan")) is [var scan])
            Leaving(scan.Click);
        Assert.Equal("Desk", Text("h1"));
    }

    [Fact]
    public void A_document_is_added_checked_filed_and_found_and_a_field_is_changed()
    {
        SignIn();

        // Added, and read in the background: the desk is looked at again until it is there.
        var page = HarbourDocuments
            .Incoming()
            .First(p =>
                p.FileName.EndsWith(".pdf", StringComparison.Ordinal)
                && p.Truth.TryGetValue("sailed", out var sailed)
                && string.CompareOrdinal(sailed, p.Truth["arrived"]) < 0
            );
        var folder = Directory.CreateTempSubdirectory("plain").FullName;
        HarbourDocuments.Draw(page, folder);
        var file = Path.Combine(folder, "by hand.pdf");
        File.Move(Directory.GetFiles(folder)[0], file);
        Go("/Desk");
        Find("#files").SendKeys(file);
        Press("form[data-drop] button[type=submit]");
        var link = By.LinkText("by hand.pdf");
        for (var until = DateTime.UtcNow + Patience; _driver.FindElements(link).Count == 0; )
        {
            Assert.True(DateTime.UtcNow < until, "the page was not read");
            Go("/Desk");
        }
        Leaving(_driver.FindElement(link).Click);
        Directory.Delete(folder, recursive: true);
        Assert.Contains("A vessel cannot sail before it has arrived.", Text("#margin"));

        // Each value has a button of its own.
        Save("sailed", "soon");
        Assert.Contains("“soon” is not a date", Text("#said-sailed"));
        Save("sailed", "2024-12-31");
        Save("call-number", "VC-2031-00077");
        Assert.Contains("Ready to file", Text("#margin"));
        Press("#file-this button");

        // Found by a word of its own, and opened.
        Fill("#top-search", "VC-2031-00077");
        Leaving(() => Find("#top-search").SendKeys(Keys.Enter));
        Leaving(_driver.FindElement(By.PartialLinkText("VC-2031-00077")).Click);
        Assert.StartsWith("VC-2031-00077", Text("h1"));

        // A row of a type is opened by its link, changed and saved, and the change is undone.
        Go("/Design/Type/pilotage-certificate");
        Find("#row-holder").Click();
        Press("a[href='?open=holder']");
        Fill("#help-holder", "As on the certificate.");
        Press("details[open] form.inside button[type=submit]");
        Press("form[action*='handler=Undo'] button");
        Assert.Contains("Undone: changed the field Holder", Text(".notice"));
    }
}
