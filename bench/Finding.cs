using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
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
        var columns = string.Join(", ", c.Query("SELECT name FROM pragma_table_info('documents')", r => r.Text("name")));
        var clock = Stopwatch.StartNew();
        for (long at = 0; at < last; at += 1_000)
        {
            using var transaction = c.BeginTransaction();
            var range = $"> {at} AND {{0}} <= {at + 1_000}";
            c.Execute(
                $"INSERT INTO documents ({columns}) SELECT {columns} FROM source.documents WHERE id "
                    + $"{string.Format(CultureInfo.InvariantCulture, range, "id")}"
            );
            c.Execute(
                $"INSERT INTO document_text (rowid, body, restricted) SELECT rowid, body, restricted FROM source.document_text WHERE "
                    + $"rowid {string.Format(CultureInfo.InvariantCulture, range, "rowid")}"
            );
            c.Execute(
                $"INSERT OR IGNORE INTO unique_keys SELECT * FROM source.unique_keys WHERE document_id "
                    + $"{string.Format(CultureInfo.InvariantCulture, range, "document_id")}"
            );
            c.Execute(
                $"INSERT INTO found_in SELECT * FROM source.found_in WHERE document_id "
                    + $"{string.Format(CultureInfo.InvariantCulture, range, "document_id")}"
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

    private static readonly DocumentType Calls = HarbourDesign.VesselCall;

    // What is asked. Days and branches are resolved, as the page does it before it asks.
    private static IEnumerable<(string What, RepositoryQuery Query)> Searches()
    {
        var all = new RepositoryQuery { TypeCode = Calls.Code };
        RepositoryQuery Asks(string sentence)
        {
            var question = QuestionText.Read(sentence, new TypeFields(Calls.Code, Calls.Fields), out var fault);
            return fault is null
                ? all with
                {
                    Conditions = question.Conditions,
                    Any = question.Any,
                }
                : throw new InvalidOperationException($"{sentence}: {fault}");
        }
        yield return ("everything", new RepositoryQuery());
        yield return ("type", all);
        yield return ("folder of a year", all with { Folder = "Vessel calls/2001" });
        yield return ("a number, exact", Asks("Call number is VC-2001-00042"));
        yield return ("a vessel, exact", Asks("Vessel is Grey Heron"));
        yield return ("a number starts", Asks("Call number starts with VC-2001"));
        yield return ("a vessel holds", Asks("Vessel holds ero"));
        yield return ("a number holds, rare", Asks("Call number holds -00042"));
        yield return ("a number holds, common", Asks("Call number holds VC-"));
        yield return ("a number holds, none", Asks("Call number holds zzz"));
        yield return ("two letters", Asks("Vessel holds qx"));
        yield return ("dates between", Asks("Arrived is from 1999-03-01 to 2003-06-30"));
        yield return ("dates before", Asks("Arrived is before 1987"));
        yield return ("numbers between", Asks("Gross tonnage is from 5000 to 9000"));
        yield return ("one of three vessels", Asks("Vessel is one of Grey Heron, Fulmar Sky, Nobody"));
        yield return ("not a vessel", Asks("Vessel is not Grey Heron"));
        yield return ("empty", Asks("Sailed is empty"));
        yield return ("filled", Asks("Berth is filled"));
        yield return ("any of two, narrow", Asks("Call number is VC-2001-00042 or Call number is VC-2002-00042"));
        yield return ("any of two, wide", Asks("Vessel is Grey Heron or Arrived is from 1999-03-01 to 2003-06-30"));
        yield return ("a branch of berths", Branch(Asks("Berth is within North Basin")));
        yield return ("two conditions", Asks("Vessel is Grey Heron and Arrived is from 1999-03-01 to 2003-06-30"));
        yield return ("two wide conditions", Asks("Arrived is from 1999-03-01 to 2003-06-30 and Gross tonnage is from 5000 to 9000"));
        yield return ("two wide, none together", Asks("Arrived is from 1999-03-01 to 2003-06-30 and Call number starts with VC-2010"));
        yield return ("wide, sorted otherwise", Asks("Arrived is from 1999-03-01 to 2003-06-30") with { Sort = "gross-tonnage" });
        foreach (var field in new[] { "vessel", "call-number", "arrived", "gross-tonnage" })
            yield return ($"sort by {field}", all with { Sort = field });
        yield return ("sort by vessel, down", all with { Sort = "vessel", Descending = true });
        yield return ("anywhere, commonest", new RepositoryQuery { Anywhere = "vessel", IncludeRestricted = true });
        yield return ("anywhere, common and sorted", all with { Anywhere = "heron", IncludeRestricted = true, Sort = "arrived" });
        yield return ("anywhere, two letters", new RepositoryQuery { Anywhere = "vc", IncludeRestricted = true });
        yield return ("anywhere, rare", new RepositoryQuery { Anywhere = "VC-2001-00042", IncludeRestricted = true });
    }

    private static RepositoryQuery Branch(RepositoryQuery query)
    {
        var berths = new VocabularyIndex(HarbourVocabularies.All.First(v => v.Key == Calls.Find("berth")!.Vocabulary));
        var fields = new TypeFields(Calls.Code, Calls.Fields);
        var vocabularies = new Dictionary<string, VocabularyIndex> { [berths.Vocabulary.Key] = berths };
        return query with { Conditions = new Question(false, query.Conditions).On(fields, vocabularies, default).Conditions };
    }

    private static string Address(RepositoryQuery query) =>
        "/Repository?"
        + string.Join(
            '&',
            new (string Name, string? Value)[]
            {
                ("type", query.TypeCode),
                ("folder", query.Folder),
                ("ask", QuestionText.Write(new Question(query.Any, query.Conditions), new TypeFields(Calls.Code, Calls.Fields))),
                ("anywhere", query.Anywhere),
                ("sort", query.Sort),
                ("desc", query.Descending ? "true" : null),
            }
                .Where(p => !string.IsNullOrEmpty(p.Value))
                .Select(p => $"{p.Name}={Uri.EscapeDataString(p.Value!)}")
        );

    private static void Inside(Database database)
    {
        Console.WriteLine(
            $"{database.Read(c => RepositorySearch.Count(c, new RepositoryQuery()))} documents; milliseconds of {Times} times, after "
                + "one that is not counted"
        );
        // The same question asked of a bare index: the first fifty entries of one value.
        var bare = Timed(() =>
            database.Read(c =>
                c.Query(
                    "SELECT i.document_id FROM found_fields f JOIN found_values v ON v.field_id = f.id JOIN found_in i ON i.value_id "
                        + "= v.id "
                        + "WHERE f.type_code = $type AND f.field = 'vessel' AND v.value = 'grey heron' LIMIT 50",
                    r => r.Long("document_id"),
                    ("$type", Calls.Code)
                )
            )
        );
        Console.WriteLine($"  fifty entries of a bare index: median {bare.Median:0.00}");
        foreach (var (what, query) in Searches())
        {
            var facets = query.TypeCode is { } ofType
                ? Timed(() =>
                    database.Read(c =>
                    {
                        var (ids, _) = RepositorySearch.Sample(c, query);
                        foreach (var field in new[] { "vessel-type", "berth", "flag", "cargo" })
                            FoundStore.CountsAmong(c, ids, ofType, field, 0, 6);
                        return FoundStore.CountsAmong(c, ids, ofType, "arrived", 4, 60);
                    })
                )
                : default;
            var page = database.Read(c => RepositorySearch.Find(c, query, 50));
            var times = Timed(() => database.Read(c => RepositorySearch.Find(c, query, 50)));
            (double Median, double P95)? later =
                page.Documents.Count == 50
                    ? Timed(() => database.Read(c => RepositorySearch.Find(c, query, 50, after: page.Documents[^1].Id)))
                    : null;
            Console.WriteLine(
                $"  {what, -28} {page.Total, -18} by {page.Order, -14} median {times.Median, 6:0.0}  p95 "
                    + $"{times.P95, 6:0.0}{(later is { } next ? $"   next page p95 {next.P95:0.0}" : "")}   "
                    + $"{times.Median / bare.Median:0} x bare   facets p95 {facets.P95:0.0}"
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
        foreach (var (what, address) in Searches().Select(s => (s.What, Address(s.Query))).Concat(others.Select(o => (o, o))))
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
