using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage.Tests;

/// <summary>
/// Finding by values: what is found, in which order, page by page in both directions, is what looking through all documents one by one
/// gives.
/// </summary>
public sealed class SearchTests : IDisposable
{
    private static readonly DocumentType Type = DocumentType.Empty("t", "T") with
    {
        Fields =
        [
            new TextField("vessel", "Vessel"),
            new DecimalField("tons", "Tons"),
            new DateField("day", "Day"),
            new TermsField("cargo", "Cargo") { Vocabulary = "cargo" },
            new IdentifierField("box", "Box"),
            new DurationField("stay", "Stay"),
            new WebAddressField("page", "Page"),
            new TableField("dues", "Dues") { Columns = [new TextField("service", "Service"), new WholeNumberField("net", "Net")] },
        ],
    };

    private readonly string _folder = Directory.CreateTempSubdirectory("search").FullName;
    private readonly Database _db;
    private readonly List<StoredDocument> _all = [];

    public SearchTests() => _db = new Database(Path.Combine(_folder, "test.db"));

    private void Fill(Random random, int documents) =>
        _db.Write(c =>
        {
            DesignStore.Add(c, Type);
            for (var i = 0; i < documents; i++)
            {
                string[] folders = ["Calls/2023", "Calls/2024/a", "Calls-x", "Calls/2024", "Dues"],
                    vessels = ["Grey Heron", "Ängholm", "grey  heron", "Tern_of Wrack", "--", "", "Heron 2", "Heron 25", "Heron 2 b"],
                    cargo = ["timber", "grain; timber", "", "grain", "fish; grain"],
                    dues =

                    [
                        "",
                        """[{"service":"Water","net":"12"},{"service":"Pilotage","net":"7"}]""",
                        """[{"service":"water"},{"service":"Lines","net":"7"}]""",
                        """[{"net":"99"}]""",
                    ];
                var record = new Dictionary<string, string>
                {
                    ["vessel"] = vessels[random.Next(vessels.Length)],
                    ["tons"] = random.Next(6) switch
                    {
                        0 => "",
                        1 => "1.50",
                        2 => "1.5",
                        var n => $"{(n - 3) * random.Next(40)}",
                    },
                    ["day"] = $"202{random.Next(5)}-0{random.Next(1, 9)}-11",
                    ["cargo"] = cargo[random.Next(cargo.Length)],
                    ["box"] = $"MSKU {random.Next(900)}",
                    ["stay"] = FieldKind.Duration.Parse($"{random.Next(3)} d {random.Next(30)} h").Text,
                    ["page"] = random.Next(4) == 0 ? "" : $"https://harbour.example/calls/{random.Next(40)}",
                    ["dues"] = dues[random.Next(dues.Length)],
                };
                var id = DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = "s",
                        TypeCode = "t",
                        Record = record,
                    },
                    []
                );
                var filed = DocumentStore.Find(c, id)! with
                {
                    Folder = folders[random.Next(folders.Length)],
                    Name = $"{random.Next(1_000_000)}.pdf",
                    FileHash = "h",
                };
                DocumentStore.MarkFiled(c, filed, new DateTimeOffset(2024, 3, 5, 0, 0, 0, TimeSpan.Zero), "me");
                DocumentStore.IndexText(c, id, $"{record["vessel"]} {record["cargo"]}", "");
                FoundStore.Put(c, id, "t", SearchKey.Of(Type, record.GetValueOrDefault));
                _all.Add(filed);
            }
        });

    private static object Key(StoredDocument d, string field) => SearchKey.Of(Type.Find(field)!.Kind, d.Record[field]);

    private static bool Fits(StoredDocument d, FieldCondition condition)
    {
        List<object> keys =
        [
            .. (
                condition.Kind.IsMultiple
                    ? d.Record[condition.Field].Split(';', StringSplitOptions.TrimEntries).Select(t => SearchKey.Of(FieldKind.Term, t))
                : condition.Field.Split('.') is [var table, var column]
                    ? TableText.Rows(d.Record[table])!.Select(r => SearchKey.Of(condition.Kind, r.GetValueOrDefault(column, "")))
                : [Key(d, condition.Field)]
            ).Where(key => key != SearchKey.None),
        ];
        var (from, to) = (SearchKey.Of(condition.Kind, condition.Text), SearchKey.Of(condition.Kind, condition.To));
        // Up to a month is up to its end; up to a text takes in what goes on with a word of its own, and not “ab 50” for “ab 5”.
        bool Below(object key, object end) =>
            Compare(key, end) <= 0
            || key is string k
                && end is string e
                && k.StartsWith(condition.Kind.Measure == Measure.Day ? e : $"{e} ", StringComparison.Ordinal);
        return condition.How switch
        {
            Look.Empty => keys.Count == 0,
            Look.Filled => keys.Count > 0,
            Look.IsNot => !keys.Any(key => Compare(key, from) == 0),
            _ => keys.Any(key =>
                condition.How switch
                {
                    Look.Between => (from == SearchKey.None || Compare(key, from) >= 0) && (to == SearchKey.None || Below(key, to)),
                    Look.Before => Compare(key, from) < 0,
                    Look.After => !Below(key, from),
                    Look.OneOf or Look.Within => condition.Values.Any(v => Compare(key, SearchKey.Of(condition.Kind, v)) == 0),
                    Look.Starts when from is string text => key is string k && k.StartsWith(text, StringComparison.Ordinal),
                    Look.Holds when from is string text => key is string k && k.Contains(text, StringComparison.Ordinal),
                    _ => Compare(key, from) == 0,
                }
            ),
        };
    }

    private static int Compare(object a, object b)
    {
        static int Rank(object key) =>
            key is string ? 1
            : key is byte[] ? 2
            : 0;
        return Rank(a) != Rank(b) ? Rank(a).CompareTo(Rank(b))
            : a is string s ? string.CompareOrdinal(s, (string)b)
            : a is byte[] ? 0
            : Convert.ToDouble(a).CompareTo(Convert.ToDouble(b));
    }

    [Theory]
    [InlineData(10_000)]
    [InlineData(12)]
    public void What_is_found_page_by_page_is_what_looking_at_each_document_gives(int counted)
    {
        var random = new Random(7);
        Fill(random, 400);
        var fields = Type.Fields.SkipLast(1).ToList();
        var asked = fields
            .Select(f => (f.Key, f.Kind))
            .Concat(Type.Fields[^1].Columns.Select(c => (Key: $"dues.{c.Key}", c.Kind)))
            .ToList();
        for (var round = 0; round < 200; round++)
        {
            FieldCondition Asked()
            {
                var (key, kind) = asked[random.Next(asked.Count)];
                string Some() =>
                    key.Split('.') is [var table, var column]
                        ? (TableText.Rows(_all[random.Next(_all.Count)].Record[table])!.FirstOrDefault() ?? []).GetValueOrDefault(
                            column,
                            "8"
                        )
                        : _all[random.Next(_all.Count)].Record[key];
                string Text() => Some() is var text && random.Next(3) == 0 && text.Length > 2 ? text[..random.Next(1, text.Length)] : text;
                var ways = kind.Looks.Where(l => !kind.IsMultiple || l != Look.Between).ToList();
                return new FieldCondition(key, kind, ways[random.Next(ways.Count)], Text(), Text()) { Values = [Text(), Text()] };
            }
            var query = new RepositoryQuery
            {
                TypeCode = random.Next(3) == 0 ? null : "t",
                Folder =
                    random.Next(3) == 0 ? "Calls"
                    : random.Next(4) == 0 ? "Calls/2024"
                    : "",
                Conditions = [.. Enumerable.Range(0, random.Next(4)).Select(_ => Asked())],
                Any = random.Next(3) == 0,
                Anywhere = random.Next(4) == 0 ? "heron" : "",
                Sort = random.Next(2) == 0 ? fields[random.Next(fields.Count)].Key : null,
                Descending = random.Next(2) == 0,
            };
            var expected = _all.Where(d =>
                    (
                        query.Folder.Length == 0
                        || d.Folder == query.Folder
                        || d.Folder!.StartsWith(query.Folder + "/", StringComparison.Ordinal)
                    )
                    && query.Conditions.Where(condition => !condition.IsEmpty).ToList() is var those
                    && (
                        those.Count == 0
                        || (query.Any ? those.Any(condition => Fits(d, condition)) : those.All(condition => Fits(d, condition)))
                    )
                    && (query.Anywhere.Length == 0 || d.Record["vessel"].Contains("heron", StringComparison.OrdinalIgnoreCase))
                )
                .Select(d => d.Id)
                .ToHashSet();
            var told =
                $"round {round}: {query} any {query.Any} "
                + $"{string.Join(" and ", query.Conditions.Select(a => $"{a} {string.Join('|', a.Values)}"))}";
            var first = _db.Read(c => RepositorySearch.Find(c, query, 7, null, null, counted));
            List<long> forwards = [.. first.Documents.Select(d => d.Id)],
                backwards = [];
            for (var page = first; page.After; )
            {
                page = _db.Read(c => RepositorySearch.Find(c, query, 7, page.Documents[^1].Id, null, counted));
                Assert.True(page.Before && page.Documents.Count > 0, told);
                forwards.AddRange(page.Documents.Select(d => d.Id));
            }
            Assert.True(
                expected.SetEquals(forwards) && forwards.Count == expected.Count,
                $"{told}: {expected.Count} expected, {forwards.Count} found"
            );
            Assert.True(
                first.Total.OrMore ? first.Total.Number <= expected.Count : first.Total.Number == expected.Count,
                $"{told}: {first.Total} of {expected.Count}"
            );
            if (query.Sort is { } sort && sort != "cargo")
            {
                var keys = forwards.Select(id => Key(_all.First(d => d.Id == id), sort)).ToList();
                Assert.True(
                    keys.Zip(keys.Skip(1)).All(p => query.Descending ? Compare(p.First, p.Second) >= 0 : Compare(p.First, p.Second) <= 0),
                    $"{told}: not sorted"
                );
            }
            if (forwards.Count == 0)
                continue;
            for (var (last, more) = (forwards[^1], true); more; )
            {
                var page = _db.Read(c => RepositorySearch.Find(c, query, 7, null, last, counted));
                backwards.InsertRange(0, page.Documents.Select(d => d.Id));
                (last, more) = (page.Documents.Count > 0 ? page.Documents[0].Id : last, page.Before);
            }
            Assert.Equal(forwards[..^1], backwards);
        }
    }

    [Fact]
    public void Folders_and_types_keep_their_counts_and_forgotten_values_are_swept()
    {
        Fill(new Random(3), 60);
        long Counted(string folder) => _db.Read(c => FolderStore.Below(c, folder));
        Assert.Equal(_all.Count(d => d.Folder!.StartsWith("Calls/", StringComparison.Ordinal)), Counted("Calls"));
        Assert.Equal(_all.Count, Counted(""));
        var moved = _all.Where(d => d.Folder == "Dues").ToList();
        _db.Write(c => moved.ForEach(d => DocumentStore.SetPlace(c, d.Id, "New/a/b", d.Name!, null)));
        Assert.Equal((0L, moved.Count, moved.Count, _all.Count), (Counted("Dues"), Counted("New"), Counted("New/a/b"), Counted("")));
        Assert.Equal(["Calls", "Calls-x", "New"], _db.Read(c => FolderStore.Inside(c, "", 10)).Select(f => f.Path));
        Assert.Equal(_all.Count, _db.Read(RepositoryStore.CountByType)["t"]);
        _db.Write(c => _all.ForEach(d => FoundStore.Remove(c, d.Id)));
        _db.Write(c =>
        {
            for (long? at = 0; at is not null; )
                at = FoundStore.Sweep(c, at.Value, 5);
        });
        Assert.Equal(
            (0L, 0L),
            _db.Read(c =>
                (
                    c.Scalar<long>("SELECT count(*) FROM found_values"),
                    c.Scalar<long>("SELECT count(*) FROM found_pieces WHERE found_pieces MATCH '\"her\"'")
                )
            )
        );
    }

    /// <summary>A repository of before gets its folders and counts by the migration.</summary>
    [Fact]
    public void An_earlier_repository_gets_its_counts()
    {
        var path = Path.Combine(_folder, "old.db");
        using (var old = new Database(path, upTo: 5))
            old.Write(c =>
            {
                c.Execute("INSERT INTO document_types (code, draft, draft_open) SELECT 't', '{}', 0 WHERE 0");
                c.Execute("PRAGMA foreign_keys = OFF");
                foreach (var (folder, i) in new[] { "a/b", "a/b", "a", "c/d/e" }.Select((f, i) => (f, i)))
                    c.Execute(
                        "INSERT INTO documents (state, source_name, record, evidence, overrides, folder, name, place_key) VALUES "
                            + "('filed', 's', '{}', '{}', '{}', $folder, $name, $key)",
                        ("$folder", folder),
                        ("$name", $"{i}"),
                        ("$key", $"{folder}/{i}")
                    );
            });
        using var now = new Database(path);
        Assert.Equal(
            [("", 4L), ("a", 3L), ("a/b", 2L), ("c", 1L), ("c/d", 1L), ("c/d/e", 1L)],
            now.Read(c => c.Query("SELECT path, below FROM folders ORDER BY path", r => (r.Text("path"), r.Long("below"))))
        );
        Assert.Equal(
            [("a", 1L), ("a/b", 2L), ("c/d/e", 1L)],
            now.Read(c => c.Query("SELECT path, here FROM folders WHERE here > 0 ORDER BY path", r => (r.Text("path"), r.Long("here"))))
        );
    }

    public void Dispose()
    {
        _db.Dispose();
        Directory.Delete(_folder, recursive: true);
    }
}
