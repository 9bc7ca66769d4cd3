using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// Whatever can be edited is opened and saved as it stands: nothing in the database is another afterwards, but for the notes of who did
/// what.
/// Forms are met by walking the pages, as they are sent with the application's scripts and without.
/// </summary>
public sealed class UnchangedTests(ITestOutputHelper output)
{
    // What is written whatever is done.
    private static readonly string[] Notes = ["ledger", "ledger_head", "jobs", "sign_in_failures", "sqlite_sequence"];

    // Forms of one kind, such as each term's card, are saved so often, with scripts and without; UNCHANGED=1000 saves all.
    private static int EachKind => int.TryParse(Environment.GetEnvironmentVariable("UNCHANGED"), out var n) ? n : 8;

    [Fact]
    public async Task Saved_unchanged_nothing_changes()
    {
        await using var app = new TestSupport.App();
        _ = app.Services;
        await app.SeedAsync(new DemoSize(InventoryRows: 60, SamplePdfs: 1, SampleScans: 0, Waiting: false));
        var database = app.Services.GetRequiredService<Database>();
        var (saved, wrong) = (new Dictionary<string, int>(StringComparer.Ordinal), new List<string>());
        var robot = new Robot(app);
        foreach (var role in new[] { Roles.Steward, Roles.Administrator })
            await robot.VisitAsync(
                role,
                async (visitor, address, page, act) =>
                {
                    if (
                        act.Verb != "POST"
                        || act.Form is null
                        || !act.Element.TextContent.Trim().StartsWith("Save", StringComparison.Ordinal)
                        // A form to add something has nothing to leave unchanged.
                        || act.Blanks().Any(b => b.Element.HasAttribute("required") && b.Standing(act.Element).All(string.IsNullOrEmpty))
                    )
                        return;
                    var kind = robot.Pattern(act.Address.Length == 0 ? address : Visitor.Resolved(address, act.Address));
                    if (saved.GetValueOrDefault(kind) >= EachKind)
                        return;
                    foreach (var scripts in new[] { true, false })
                    {
                        var was = Kept(database);
                        var typed = act.Blanks()
                            .Where(b => !scripts || !IsHidden(b))
                            .SelectMany(b => b.Standing(act.Element).Select(v => new KeyValuePair<string, string>(b.Name, v)))
                            .ToList();
                        var answer = await visitor.Press(page, address, act with { ByScript = false }, typed, []);
                        saved[kind] = saved.GetValueOrDefault(kind) + 1;
                        var where = $"{address} {act.Address} {(scripts ? "with" : "without")} scripts";
                        if ((int)answer.Status >= 400)
                            wrong.Add($"{where}: {(int)answer.Status}");
                        if (answer.Page?.QuerySelector(".notice.problem") is { } refused)
                            wrong.Add($"{where}: {refused.TextContent.Trim()}");
                        var now = Kept(database);
                        foreach (var (table, rows) in now)
                            if (!rows.SequenceEqual(was[table]))
                                wrong.Add($"{where}: {table}: {Difference(was[table], rows)}");
                    }
                }
            );
        output.WriteLine(
            $"{saved.Values.Sum()} saved unchanged, of {saved.Count} kinds: {string.Join(", ", saved.Keys.Order(StringComparer.Ordinal))}"
        );
        foreach (var line in wrong)
            output.WriteLine(line);
        Assert.Empty(wrong);
        Assert.True(saved.Count >= 12, $"only {string.Join(", ", saved.Keys)}");
    }

    // The first rows that differ, from a little before the place where they do.
    private static string Difference(List<string> was, List<string> now)
    {
        var (before, after) = (was.Except(now).FirstOrDefault(""), now.Except(was).FirstOrDefault(""));
        var at = before.Zip(after).TakeWhile(c => c.First == c.Second).Count();
        string From(string row) => row[Math.Min(row.Length, Math.Max(0, at - 60))..Math.Min(row.Length, at + 200)];
        return $"was …{From(before)} is …{From(after)}";
    }

    // Blanks of other kinds are taken out of the form by a script.
    private static bool IsHidden(Control blank) =>
        blank.Element.Closest("[data-for]") is { } only
        && only.Closest("form")?.QuerySelector("select[data-kind]") is IHtmlSelectElement kind
        && !only.GetAttribute("data-for")!
            .Split(' ')
            .Contains(kind.Options.LastOrDefault(o => o.HasAttribute("selected"))?.Value ?? kind.Options[0].Value);

    private static Dictionary<string, List<string>> Kept(Database database) =>
        database.Read(c =>
            c.Query(
                    "SELECT name FROM sqlite_master WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%' AND name NOT LIKE '%_data' AND name NOT LIKE '%_idx' "
                        + "AND name NOT LIKE '%_docsize' AND name NOT LIKE '%_config' AND name NOT LIKE '%_content'",
                    r => r.Text("name")
                )
                .Except(Notes)
                .ToDictionary(
                    t => t,
                    t =>
                        c.Query(
                            $"SELECT * FROM \"{t}\"",
                            r =>
                                string.Join(
                                    '\t',
                                    r.Columns.Select(column =>
                                        r.Value(column) switch
                                        {
                                            DBNull => "∅",
                                            byte[] bytes => Convert.ToHexString(bytes),
                                            var value => value.ToString(),
                                        }
                                    )
                                )
                        )
                )
        );
}
