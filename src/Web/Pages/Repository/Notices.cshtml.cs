using ClearLexicon.Core.Designs;
using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>What a person was told of filed and changed documents; who is told of what.</summary>
public sealed class NoticesModel(Notices notices, SearchRequests requests, Designs designs) : PlacePage
{
    public List<Notice> Told { get; private set; } = [];

    public List<NoticeRule> Rules { get; private set; } = [];

    /// <summary>The rule in the form.</summary>
    public NoticeRule Rule { get; private set; } = new(0, "", new ViewDefinition(), true, false, "", false, "");

    /// <summary>The rule as the form is opened with; a look leaves it so.</summary>
    public string SeenAs =>
        LastMonth is not null ? Sent("seen")
        : Rule.Id == 0 ? ""
        : Seen.Of(Rules.Find(r => r.Id == Rule.Id));

    /// <summary>How often it would have told somebody in the last month; null when nobody asked.</summary>
    public FoundCount? LastMonth { get; private set; }

    public SearchRequest Asked { get; private set; } = null!;

    public IEnumerable<DocumentType> Types => designs.Published.Values.Select(p => p.Type.Type).Where(t => !t.IsGroup).OrderBy(t => t.Name);

    public string InWords(NoticeRule rule)
    {
        var asked = requests.For(rule.Asks, Rights);
        var when = (rule.OnFiled, rule.OnChanged) switch
        {
            (true, true) => "filed or changed",
            (true, false) => "filed",
            _ => "changed",
        };
        return $"When a {asked.Type?.Name ?? rule.Asks.Type} is {when}{(asked.Ask.Length > 0 ? $" and {asked.Ask}" : "")}, tell "
            + $"{rule.ToWhom}{(rule.Daily ? ", mail once a day" : "")}";
    }

    public IActionResult OnGet(long? rule)
    {
        if (rule is { } id && notices.Rules().Find(r => r.Id == id) is { } known)
            Rule = known;
        else
            Rule = Rule with { Asks = RepositoryIndexModel.AsksOf(Queried) with { Columns = [], Sort = "" }, ToWhom = Who };
        return Load();
    }

    public IActionResult OnPostSeen(long upTo)
    {
        notices.SetSeen(Who, upTo);
        return OnGet(null);
    }

    public IActionResult OnPostLook()
    {
        if (!Rights.WorksTheDesk)
            return Forbid();
        Read();
        Problem = notices.WhyNot(Rule, Rights);
        if (Problem is null)
            LastMonth = notices.LastMonth(Rule);
        return Load();
    }

    public IActionResult OnPostSave()
    {
        if (!Rights.WorksTheDesk)
            return Forbid();
        Read();
        var saved = notices.Save(Rule, Who, Rights, AsSeen<NoticeRule>("notice", Rule.Name));
        Note(saved, "Saved. It applies to what happens from now on.");
        return saved.Ok ? OnGet(null) : Load();
    }

    public IActionResult OnPostRemove(long rule)
    {
        if (!Rights.WorksTheDesk)
            return Forbid();
        Note(notices.Remove(rule, Who), "It is removed, with the notices it gave.");
        return OnGet(null);
    }

    private void Read() =>
        Rule = new NoticeRule(
            SentNumber("rule") ?? 0,
            Sent("name").Trim(),
            new ViewDefinition
            {
                Type = Sent("type"),
                Ask = Sent("ask").Trim(),
                Anywhere = Sent("anywhere").Trim(),
            },
            SentMany("on").Contains("filed"),
            SentMany("on").Contains("changed"),
            Sent("to").Trim(),
            Sent("mail") == "daily",
            Who
        );

    private IActionResult Load()
    {
        Asked = requests.For(Rule.Asks, Rights);
        Told = notices.Of(Who);
        Rules = Rights.WorksTheDesk ? notices.Rules() : [];
        return Page();
    }
}
