using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Storage;

namespace ClearLexicon.Bench;

/// <summary>
/// Finding among many documents, made by a wave: the time of each kind of search inside the process and of its page over HTTP from the real
/// program, and the wave against bare inserts of the same rows. <c>finding [rows] [folder]</c>; a folder that is given is kept and used
/// again.
/// </summary>
internal static partial class Finding
{
    private const int Times = 20;

    public static void Measure(int rows, string? kept)
    {
        var folder = new DataFolder(kept ?? Directory.CreateTempSubdirectory("finding").FullName);
        try
        {
            if (!File.Exists(folder.DatabaseFile))
                Fill(folder, rows);
            using (var database = new Database(folder.DatabaseFile))
                Inside(database);
            Pages(folder).GetAwaiter().GetResult();
        }
        finally
        {
            if (kept is null)
                Directory.Delete(folder.Root, recursive: true);
        }
    }

    private static void Fill(DataFolder folder, int rows)
    {
        Served.Fill(folder, rows);
        var bare = Copy(folder.DatabaseFile, Path.Combine(folder.Root, "bare.db"));
        Console.WriteLine($"bare inserts of the same rows into the same tables and indexes: {bare.TotalSeconds:0.0} s");
        File.Delete(Path.Combine(folder.Root, "bare.db"));
    }

    // The rows of a wave's tables in the order in which they were written, a thousand documents a transaction.
    private static TimeSpan Copy(string from, string to)
    {
        using (new Database(to)) { }
        using var target = new Database(to);
        var spent = TimeSpan.Zero;
        using var c = target.Connect();
        c.Execute("PRAGMA query_only = OFF; PRAGMA foreign_keys = OFF");
        c.Execute("ATTACH $from AS source", ("$from", from));
        var last = c.Scalar<long>("SELECT max(id) FROM source.documents");
        var columns = string.Join(", ", c.Query("SELECT name FROM pragma_table_info('documents')", r => r.GetString(0)));
        var clock = Stopwatch.StartNew();
        for (long at = 0; at < last; at += 1_000)
        {
            using var transaction = c.BeginTransaction();
            var range = $"> {at} AND {{0}} <= {at + 1_000}";
            c.Execute(
                $"INSERT INTO documents ({columns}) SELECT {columns} FROM source.documents WHERE id {string.Format(CultureInfo.InvariantCulture, range, "id")}"
            );
            c.Execute(
                $"INSERT INTO document_text (rowid, body, restricted) SELECT rowid, body, restricted FROM source.document_text WHERE rowid {string.Format(CultureInfo.InvariantCulture, range, "rowid")}"
            );
            c.Execute(
                $"INSERT OR IGNORE INTO unique_keys SELECT * FROM source.unique_keys WHERE document_id {string.Format(CultureInfo.InvariantCulture, range, "document_id")}"
            );
            c.Execute(
                $"INSERT INTO found_in SELECT * FROM source.found_in WHERE document_id {string.Format(CultureInfo.InvariantCulture, range, "document_id")}"
            );
            transaction.Commit();
        }
        using (var transaction = c.BeginTransaction())
        {
            c.Execute(
                "INSERT INTO found_fields SELECT * FROM source.found_fields; INSERT INTO found_values SELECT * "
                    + "FROM source.found_values; INSERT INTO found_pieces (rowid, value) SELECT id, value FROM source.found_values "
                    + "WHERE typeof(value) = 'text'"
            );
            transaction.Commit();
        }
        return spent + clock.Elapsed;
    }

    // What is asked, as the page's address and as a query.
    private static IEnumerable<(string What, string Address, RepositoryQuery Query)> Searches()
    {
        var all = new RepositoryQuery { TypeCode = HarbourDesign.VesselCall.Code };
        RepositoryQuery With(string field, FieldKind kind, Look how, string text, string to = "") =>
            all with
            {
                Conditions = [.. all.Conditions, new(field, kind, how, text, to)],
            };
        static string Row(string field, Look how, string text, string to = "") =>
            $"&field={field}&how={how}&text={Uri.EscapeDataString(text)}&to={Uri.EscapeDataString(to)}";
        var type = $"/Repository?type={all.TypeCode}";
        yield return ("everything", "/Repository", new RepositoryQuery());
        yield return ("type", type, all);
        yield return ("folder of a year", $"{type}&folder=Vessel%20calls/2001", all with { Folder = "Vessel calls/2001" });
        yield return (
            "a number, exact",
            type + Row("call-number", Look.Is, "VC-2001-00042"),
            With("call-number", FieldKind.Text, Look.Is, "VC-2001-00042")
        );
        yield return (
            "a vessel, exact",
            type + Row("vessel", Look.Is, "Grey Heron"),
            With("vessel", FieldKind.Text, Look.Is, "Grey Heron")
        );
        yield return (
            "a number starts",
            type + Row("call-number", Look.Starts, "VC-2001"),
            With("call-number", FieldKind.Text, Look.Starts, "VC-2001")
        );
        yield return ("a vessel holds", type + Row("vessel", Look.Holds, "ero"), With("vessel", FieldKind.Text, Look.Holds, "ero"));
        yield return (
            "a number holds, rare",
            type + Row("call-number", Look.Holds, "-00042"),
            With("call-number", FieldKind.Text, Look.Holds, "-00042")
        );
        yield return (
            "a number holds, common",
            type + Row("call-number", Look.Holds, "VC-"),
            With("call-number", FieldKind.Text, Look.Holds, "VC-")
        );
        yield return (
            "a number holds, none",
            type + Row("call-number", Look.Holds, "zzz"),
            With("call-number", FieldKind.Text, Look.Holds, "zzz")
        );
        yield return ("two letters", type + Row("vessel", Look.Holds, "qx"), With("vessel", FieldKind.Text, Look.Holds, "qx"));
        yield return (
            "dates between",
            type + Row("arrived", Look.Between, "1999-03-01", "2003-06-30"),
            With("arrived", FieldKind.Date, Look.Between, "1999-03-01", "2003-06-30")
        );
        yield return (
            "numbers between",
            type + Row("gross-tonnage", Look.Between, "5000", "9000"),
            With("gross-tonnage", FieldKind.WholeNumber, Look.Between, "5000", "9000")
        );
        var two = With("vessel", FieldKind.Text, Look.Is, "Grey Heron");
        yield return (
            "two conditions",
            type + Row("vessel", Look.Is, "Grey Heron") + Row("arrived", Look.Between, "1999-03-01", "2003-06-30"),
            two with
            {
                Conditions = [.. two.Conditions, new("arrived", FieldKind.Date, Look.Between, "1999-03-01", "2003-06-30")],
            }
        );
        var wide = With("arrived", FieldKind.Date, Look.Between, "1999-03-01", "2003-06-30");
        yield return (
            "two wide conditions",
            type + Row("arrived", Look.Between, "1999-03-01", "2003-06-30") + Row("gross-tonnage", Look.Between, "5000", "9000"),
            wide with
            {
                Conditions = [.. wide.Conditions, new("gross-tonnage", FieldKind.WholeNumber, Look.Between, "5000", "9000")],
            }
        );
        yield return (
            "two wide, none together",
            type + Row("arrived", Look.Between, "1999-03-01", "2003-06-30") + Row("call-number", Look.Starts, "VC-2010"),
            wide with
            {
                Conditions = [.. wide.Conditions, new("call-number", FieldKind.Text, Look.Starts, "VC-2010")],
            }
        );
        yield return (
            "wide, sorted otherwise",
            type + Row("arrived", Look.Between, "1999-03-01", "2003-06-30") + "&sort=gross-tonnage",
            wide with
            {
                Sort = "gross-tonnage",
            }
        );
        foreach (var field in new[] { "vessel", "call-number", "arrived", "gross-tonnage" })
            yield return ($"sort by {field}", $"{type}&sort={field}", all with { Sort = field });
        yield return ("sort by vessel, down", $"{type}&sort=vessel&desc=true", all with { Sort = "vessel", Descending = true });
        yield return (
            "anywhere, commonest",
            "/Repository?anywhere=vessel",
            new RepositoryQuery { Anywhere = "vessel", IncludeRestricted = true }
        );
        yield return (
            "anywhere, common and sorted",
            $"{type}&anywhere=heron&sort=arrived",
            all with
            {
                Anywhere = "heron",
                IncludeRestricted = true,
                Sort = "arrived",
            }
        );
        yield return (
            "anywhere, two letters",
            "/Repository?anywhere=vc",
            new RepositoryQuery { Anywhere = "vc", IncludeRestricted = true }
        );
        yield return (
            "anywhere, rare",
            "/Repository?anywhere=VC-2001-00042",
            new RepositoryQuery { Anywhere = "VC-2001-00042", IncludeRestricted = true }
        );
    }

    private static void Inside(Database database)
    {
        Console.WriteLine(
            $"{database.Read(c => RepositorySearch.Count(c, new RepositoryQuery()))} documents; milliseconds of {Times} times, after one that is not counted"
        );
        foreach (var (what, _, query) in Searches())
        {
            var page = database.Read(c => RepositorySearch.Find(c, query, 50));
            var times = Timed(() => database.Read(c => RepositorySearch.Find(c, query, 50)));
            (double Median, double P95)? later =
                page.Documents.Count == 50
                    ? Timed(() => database.Read(c => RepositorySearch.Find(c, query, 50, after: page.Documents[^1].Id)))
                    : null;
            Console.WriteLine(
                $"  {what, -28} {page.Total, -18} by {page.Order, -14} median {times.Median, 6:0.0}  p95 {times.P95, 6:0.0}{(later is { } next ? $"   next page p95 {next.P95:0.0}" : "")}"
            );
        }
        // Page 200, which is the first of what follows the ten-thousandth.
        var sorted = new RepositoryQuery { TypeCode = HarbourDesign.VesselCall.Code, Sort = "vessel" };
        var far = database.Read(c => RepositorySearch.Find(c, sorted, 200 * 50)).Documents[^1].Id;
        Console.WriteLine(
            $"  page 201, sorted by vessel: p95 {Timed(() => database.Read(c => RepositorySearch.Find(c, sorted, 50, after: far))).P95:0.0}"
        );
    }

    private static async Task Pages(DataFolder folder)
    {
        using var server = await Served.StartAsync(folder.Root);
        var client = server.Client;
        var token = Token().Match(WebUtility.HtmlDecode(await client.GetStringAsync("/SignIn"))).Groups[1].Value;
        using var form = new FormUrlEncodedContent(
            new Dictionary<string, string> { ["name"] = Served.Steward, ["password"] = Served.Password }
        );
        using var request = new HttpRequestMessage(HttpMethod.Post, "/SignIn") { Content = form, Headers = { { "X-Antiforgery", token } } };
        using var signedIn = await client.SendAsync(request);
        if (signedIn.StatusCode != HttpStatusCode.Redirect)
            throw new InvalidOperationException($"Sign-in answered {signedIn.StatusCode}.");
        string[] others =
        [
            "/",
            "/Desk",
            "/Design",
            $"/Design/Type/{HarbourDesign.VesselCall.Code}",
            "/Design/Vocabulary/berths",
            "/Migration",
            "/Repository/Document/20000",
            "/Desk?handler=Terms&vocabulary=berths&text=no",
        ];
        foreach (var (what, address) in Searches().Select(s => (s.What, s.Address)).Concat(others.Select(o => (o, o))))
        {
            var size = 0;
            var times = Timed(() =>
            {
                using var answer = client.GetAsync(address).GetAwaiter().GetResult();
                if (!answer.IsSuccessStatusCode)
                    throw new InvalidOperationException($"{address}: {answer.StatusCode}");
                size = answer.Content.ReadAsByteArrayAsync().GetAwaiter().GetResult().Length;
            });
            Console.WriteLine($"  page {what, -40} median {times.Median, 6:0.0}  p95 {times.P95, 6:0.0}  {size / 1024, 5} KB");
        }
        Console.WriteLine($"  server memory at most {server.PeakMegabytes} MB");
    }

    private static (double Median, double P95) Timed(Action work)
    {
        work();
        var times = new double[Times];
        for (var i = 0; i < Times; i++)
        {
            var began = Stopwatch.GetTimestamp();
            work();
            times[i] = Stopwatch.GetElapsedTime(began).TotalMilliseconds;
        }
        Array.Sort(times);
        return (times[Times / 2], times[Times * 95 / 100]);
    }

    [GeneratedRegex("\"X-Antiforgery\":\"([^\"]+)\"")]
    private static partial Regex Token();
}
