using AngleSharp.Dom;
using AngleSharp.Html.Dom;

namespace ClearLexicon.Web.Tests;

/// <summary>Something on a page that sends a request when it is used, as the page's own attributes say.</summary>
/// <param name="Element">What is pressed: a button, a form without one, or what htmx listens to.</param>
/// <param name="Verb">GET or POST.</param>
/// <param name="Address">Address, as the page gives it.</param>
/// <param name="Form">The form whose blanks go along; null for none.</param>
/// <param name="ByScript">Whether htmx sends it and swaps the answer in.</param>
internal sealed record Act(IElement Element, string Verb, string Address, IHtmlFormElement? Form, bool ByScript)
{
    /// <summary>What it says of itself, for messages.</summary>
    public string Words => $"{Verb} {Address} “{Element.TextContent.Trim().ReplaceLineEndings(" ")}”";

    /// <summary>The same act on the same page, whatever was done in between.</summary>
    public string Same => $"{Verb} {Address} {Element.Id} {(Element as IHtmlButtonElement)?.Value} {Element.TextContent.Trim()}";

    /// <summary>The same kind of act on any page: its handler and the names of its blanks.</summary>
    public string Kind(Func<string, string> pattern) =>
        $"{Verb} {pattern(Address)} {(Element as IHtmlButtonElement)?.Name} {string.Join(',', Blanks().Select(b => b.Name).Distinct().Order(StringComparer.Ordinal))}";

    /// <summary>Whether it takes something away, so that it is used when everything else has been.</summary>
    public bool TakesAway =>
        (
            (string[])
                ["remove", "delete", "discard", "withdraw", "undo", "back", "giveup", "throw", "revoke", "reset", "out", "retire", "again"]
        ).Any(w =>
            Address.Contains("handler=" + w, StringComparison.OrdinalIgnoreCase)
            || Element.TextContent.Trim().StartsWith(w, StringComparison.OrdinalIgnoreCase)
        );

    /// <summary>The blanks that go along, in the order of the page.</summary>
    public IEnumerable<Control> Blanks()
    {
        var seen = new HashSet<IElement>();
        IEnumerable<IElement> elements = Form?.Elements ?? Enumerable.Empty<IElement>();
        foreach (var included in Included())
            elements = elements.Concat(
                included is IHtmlFormElement form ? form.Elements
                : Control.Is(included) ? [included]
                : included.QuerySelectorAll(Control.Selector)
            );
        if (Control.Is(Element))
            elements = elements.Append(Element);
        foreach (var element in elements)
            if (Control.Is(element) && seen.Add(element) && new Control(element) is { Name.Length: > 0, Disabled: false } control)
                if (Sends(control.Name))
                    yield return control;
    }

    private IEnumerable<IElement> Included()
    {
        if (!ByScript || Inherited(Element, "hx-include") is not { } include || include.Value == "unset")
            return [];
        return include.Value.StartsWith("closest ", StringComparison.Ordinal)
            ? Element.Closest(include.Value["closest ".Length..]) is { } closest
                ? [closest]
                : []
            : Element.Owner!.QuerySelectorAll(include.Value);
    }

    /// <summary>Whether a value of this name goes along, which what is pressed may say otherwise of.</summary>
    public bool Sends(string name) => Params() is var (only, not) && (only is null || only.Contains(name)) && not?.Contains(name) != true;

    private (HashSet<string>? Only, HashSet<string>? Not) Params()
    {
        if (!ByScript || Inherited(Element, "hx-params")?.Value is not { Length: > 0 } says || says is "*" or "unset")
            return (null, null);
        if (says == "none")
            return ([], null);
        return says.StartsWith("not ", StringComparison.Ordinal)
            ? (null, [.. says[4..].Split(',', StringSplitOptions.TrimEntries)])
            : ([.. says.Split(',', StringSplitOptions.TrimEntries)], null);
    }

    /// <summary>An attribute of an element or of the nearest around it that has it.</summary>
    public static (string Value, IElement At)? Inherited(IElement element, string name)
    {
        for (var at = element; at is not null; at = at.ParentElement)
            if (at.GetAttribute(name) is { } value)
                return (value, at);
        return null;
    }

    /// <summary>All acts of a page, or of a piece of one.</summary>
    public static IEnumerable<Act> On(IParentNode page)
    {
        foreach (var element in page.QuerySelectorAll("[hx-get], [hx-post]"))
        {
            var verb = element.HasAttribute("hx-get") ? "GET" : "POST";
            var address = element.GetAttribute("hx-get") ?? element.GetAttribute("hx-post")!;
            if (element is IHtmlFormElement form)
                foreach (var button in Submits(form))
                    yield return new Act(button, verb, address, form, true);
            else
                // htmx sends the blanks of the form around what is pressed, unless it only asks.
                yield return new Act(element, verb, address, verb == "POST" ? element.Closest("form") as IHtmlFormElement : null, true);
        }
        foreach (var form in page.QuerySelectorAll("form:not([hx-get]):not([hx-post])").OfType<IHtmlFormElement>())
        foreach (var button in Submits(form))
            yield return new Act(
                button,
                (form.GetAttribute("method") ?? "get").ToUpperInvariant(),
                button.GetAttribute("formaction") ?? form.GetAttribute("action") ?? "",
                form,
                false
            );
    }

    private static IEnumerable<IElement> Submits(IHtmlFormElement form)
    {
        var buttons = form
            .Elements.OfType<IHtmlButtonElement>()
            .Where(b => b.GetAttribute("type") is null or "submit" && !b.HasAttribute("hx-post") && !b.HasAttribute("hx-get"))
            .ToList();
        return buttons.Count > 0 ? buttons : [form];
    }
}

/// <summary>A control of a form: what it sends as it stands, and what else it could send.</summary>
/// <param name="Element">The control.</param>
internal sealed record Control(IElement Element)
{
    public const string Selector = "input, select, textarea, button";

    public static bool Is(IElement element) =>
        element is IHtmlInputElement or IHtmlSelectElement or IHtmlTextAreaElement or IHtmlButtonElement;

    public string Name => Element.GetAttribute("name") ?? "";

    public string Type => (Element as IHtmlInputElement)?.Type ?? Element.LocalName;

    public bool Disabled => Element.HasAttribute("disabled") || Element.Closest("fieldset[disabled]") is not null;

    /// <summary>Whether a person types into it.</summary>
    public bool Typed =>
        Element is IHtmlTextAreaElement
        || Type is "text" or "search" or "number" or "date" or "email" or "password" or "url" or "tel" or "datetime-local" or "time";

    /// <summary>What it sends as it stands.</summary>
    public IEnumerable<string> Standing(IElement pressed) =>
        Element switch
        {
            IHtmlButtonElement => Element == pressed ? [Element.GetAttribute("value") ?? ""] : [],
            IHtmlSelectElement { IsMultiple: true } many => many.Options.Where(o => o.HasAttribute("selected")).Select(o => o.Value),
            IHtmlSelectElement one => one.Options.LastOrDefault(o => o.HasAttribute("selected")) is { } chosen ? [chosen.Value]
            : one.Options.FirstOrDefault(o => !o.HasAttribute("disabled")) is { } first ? [first.Value]
            : [],
            IHtmlTextAreaElement area => [area.TextContent.StartsWith('\n') ? area.TextContent[1..] : area.TextContent],
            IHtmlInputElement { Type: "checkbox" or "radio" } box => box.HasAttribute("checked") ? [box.GetAttribute("value") ?? "on"] : [],
            IHtmlInputElement { Type: "file" or "submit" or "button" } => [],
            _ => [Element.GetAttribute("value") ?? ""],
        };

    /// <summary>Each other choice that it offers.</summary>
    public IEnumerable<string> Choices =>
        Element switch
        {
            IHtmlSelectElement select => select.Options.Where(o => !o.HasAttribute("selected")).Select(o => o.Value),
            IHtmlInputElement { Type: "radio" } radio when !radio.HasAttribute("checked") => [radio.GetAttribute("value") ?? "on"],
            IHtmlInputElement { Type: "checkbox" } box => [box.HasAttribute("checked") ? "" : box.GetAttribute("value") ?? "on"],
            _ => [],
        };
}
