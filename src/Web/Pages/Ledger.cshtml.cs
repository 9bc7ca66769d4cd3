using System.Text;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>The ledger: filtered, exported, verified.</summary>
public sealed class LedgerModel(Ledger ledger) : PlacePage
{
    private const int PageSize = 100;

    public List<LedgerEntry> Entries { get; private set; } = [];

    public LedgerVerdict Verdict { get; private set; } = null!;

    public LedgerFilter Filter { get; private set; } = new();

    public bool More => Entries.Count == PageSize;

    public bool Filtered => Filter != new LedgerFilter();

    public void OnGet(string? who, string? obj, string? what, string? from, string? to, long before = long.MaxValue, bool whole = false)
    {
        Filter = Asked(who, obj, what, from, to);
        Entries = ledger.Find(Filter, PageSize, before);
        Verdict = ledger.Verify(whole);
        if (whole && Verdict.Sound)
            Done = $"All {Verdict.Seq:N0} lines were verified from the first one on.";
    }

    /// <summary>What the filter leaves, as CSV, streamed.</summary>
    public async Task<IActionResult> OnGetCsvAsync(string? who, string? obj, string? what, string? from, string? to)
    {
        ledger.Exported(Who, "ledger.csv", new LedgerSubject(SubjectKind.Records, Request.Path));
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = "attachment; filename=\"ledger.csv\"";
        await using var writer = new StreamWriter(Response.Body, new UTF8Encoding(false));
        var line = new StringWriter();
        SafeCsv.WriteLine(line, ["number", "when (UTC)", "who", "what", "to what", "detail", "hash"]);
        foreach (var e in ledger.Each(Asked(who, obj, what, from, to)))
        {
            SafeCsv.WriteLine(line, [e.Seq.ToString(), e.At, e.Who, e.Action, e.Object, e.Detail, e.Hash]);
            if (line.GetStringBuilder().Length < 32_000)
                continue;
            await writer.WriteAsync(line.GetStringBuilder(), HttpContext.RequestAborted);
            line.GetStringBuilder().Clear();
        }
        await writer.WriteAsync(line.GetStringBuilder(), HttpContext.RequestAborted);
        return new EmptyResult();
    }

    /// <summary>This page with the filter, from a line on.</summary>
    public string Address(long? before = null, string? handler = null) =>
        Microsoft.AspNetCore.WebUtilities.QueryHelpers.AddQueryString(
            "/Ledger",
            new Dictionary<string, string?>
            {
                ["handler"] = handler,
                ["who"] = Filter.Who,
                ["obj"] = Filter.Object,
                ["what"] = Filter.Action,
                ["from"] = Filter.From,
                ["to"] = Filter.To,
                ["before"] = before?.ToString(),
            }.Where(q => !string.IsNullOrEmpty(q.Value))
        );

    private static LedgerFilter Asked(string? who, string? obj, string? what, string? from, string? to) =>
        new((who ?? "").Trim(), (obj ?? "").Trim(), (what ?? "").Trim(), (from ?? "").Trim(), (to ?? "").Trim());
}
