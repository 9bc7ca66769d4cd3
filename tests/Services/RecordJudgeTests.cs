using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Records that are judged together get the verdicts that each would get alone, whatever is filed already.</summary>
public sealed class RecordJudgeTests : IDisposable
{
    private static readonly Field[] Fields =
    [
        new TextField("number", "Number") { Required = true },
        new TextField("vessel", "Vessel"),
        new DateField("day", "Day"),
    ];

    private readonly House _house = new();

    public void Dispose() => _house.Dispose();

    private static Rule Once(string id, string fields) =>
        new(id, "unique", Level.Should, new Dictionary<string, string> { ["fields"] = fields });

    [Theory]
    [InlineData(Collision.Number, null)]
    [InlineData(Collision.Version, null)]
    [InlineData(Collision.Refuse, null)]
    [InlineData(Collision.Number, CounterScope.Everywhere)]
    [InlineData(Collision.Number, CounterScope.Folder)]
    public void Together_is_as_alone(Collision collision, CounterScope? scope)
    {
        Publish(
            Fields,
            [Once("r1", "number"), Once("r2", "vessel,day") with { When = Condition.When("number", Operator.BeginsWith, "A") }],
            new Convention([Piece.Of("vessel")], [.. Counted(scope), Piece.Of("number")]) { Collision = collision }
        );
        for (var i = 0; i < 12; i++)
        {
            // The folder is spelled as its first document has it.
            var record = new Dictionary<string, string>
            {
                ["number"] = $"A{i % 10}",
                ["vessel"] = i % 3 == 0 ? "Grey Heron" : "Avocet",
                ["day"] = $"2024-03-0{1 + i % 4}",
            };
            var id = _house.Database.Write(c =>
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = "slip.txt",
                        SourceFile = Brought(),
                        TypeCode = "slip",
                        Record = record,
                        Overrides = Overridden(record),
                    },
                    []
                )
            );
            Assert.Equal(collision == Collision.Refuse && i == 11, !_house.Filer.File(id, "me").Ok);
        }

        var type = _house.Designs.Published["slip"].Type;
        var now = _house.Designs.Now(EntryChannel.Api, "");
        var random = new Random(3);
        string?[][] texts =
        [
            .. Enumerable
                .Range(0, 300)
                .Select(_ =>
                    (string?[])
                        [
                            random.Next(8) == 0 ? null : $"{"ABa"[random.Next(3)]}{random.Next(14)}",
                            new[] { "Grey Heron", "GREY HERON", "Avocet", "Curlew", "..", null }[random.Next(6)],
                            $"2024-03-{random.Next(1, 9):00}",
                        ]
                ),
        ];
        JudgedRecord[] together =
        [
            .. texts.Select(t =>
            {
                var record = new JudgedRecord(type.Width);
                t.CopyTo(record.Texts, 0);
                return record;
            }),
        ];
        using (var c = _house.Database.Connect())
        {
            RecordJudge.JudgeAll(c, type, together, now, new SpelledFolders());
            for (var i = 0; i < texts.Length; i++)
            {
                var alone = RecordJudge.Judge(c, type, texts[i], now);
                Assert.Equal(alone.Problems, together[i].Problems);
                Assert.Equal(alone.Placement, together[i].Placement);
                Assert.Equal(alone.Values.Select(v => v.Text), together[i].Values.Select(v => v.Text));
            }
        }
        // Something of everything was in it.
        Assert.Contains(together, r => r.Problems.Any(p => p.Rule == "r2"));
        Assert.Contains(together, r => r.Problems.Count == 0 && r.Placement.Problem is null);
        Assert.Contains(together, r => r.Placement.Folder == "Grey Heron" && r.Values[1].Text == "GREY HERON");
        if (scope is null)
            Assert.Contains(
                together,
                r =>
                    collision == Collision.Refuse
                        ? r.Placement.Problem?.Code == "path-taken"
                        : r.Placement.Name.EndsWith(collision == Collision.Version ? " v2" : " (2)", StringComparison.Ordinal)
            );
    }

    [Theory]
    [InlineData(Collision.Number, false, null)]
    [InlineData(Collision.Refuse, true, null)]
    [InlineData(Collision.Version, true, null)]
    [InlineData(Collision.Number, false, CounterScope.Everywhere)]
    [InlineData(Collision.Number, false, CounterScope.Folder)]
    public void A_whole_desk_is_judged_as_each_of_its_documents_alone(Collision collision, bool bySurroundings, CounterScope? scope)
    {
        Piece[] before = bySurroundings ? [Piece.Of(SystemValue.NumberInBatch), Piece.Literal(" of "), Piece.Of(SystemValue.Pages)] : [];
        var (byBatch, byPrevious) = bySurroundings
            ? (DefaultSource.Batch, DefaultSource.Previous)
            : (DefaultSource.Constant, DefaultSource.Constant);
        Publish(
            [Fields[0], Fields[1] with { DefaultFrom = byBatch }, Fields[2] with { DefaultFrom = byPrevious }],
            [Once("r1", "number,vessel"), Once("r2", "day") with { When = Condition.When("vessel", Operator.Is, "Avocet") }],
            new Convention([Piece.Of("vessel")], [.. before, .. Counted(scope), Piece.Of("number")]) { Collision = collision }
        );
        var type = _house.Designs.Published["slip"].Type;
        var random = new Random(5);
        var ids = _house.Database.Write(c =>
        {
            long[] batches =
            [
                BatchStore.Add(c, "Grey Heron", "me", _house.Clock.GetUtcNow()),
                BatchStore.Add(c, "Post", "me", _house.Clock.GetUtcNow()),
            ];
            return Enumerable
                .Range(0, 60)
                .Select(i =>
                {
                    var document = new StoredDocument
                    {
                        SourceName = $"slip {i}.txt",
                        SourceFile = Brought(),
                        BatchId = i % 5 == 0 ? null : batches[i % 2],
                        TypeCode = i % 9 == 0 ? null : "slip",
                        Record = new Dictionary<string, string>
                        {
                            ["number"] = $"A{random.Next(6)}",
                            [random.Next(4) == 0 ? "other" : "vessel"] = random.Next(3) == 0 ? "Avocet" : "grey heron",
                            [random.Next(4) == 0 ? "another" : "day"] = $"2024-03-0{random.Next(1, 9)}",
                        },
                    };
                    var pages = Enumerable
                        .Range(1, bySurroundings ? 1 + i % 3 : 0)
                        .Select(n => new StoredPage(n, "", new Core.Reading.PageText(400, 500, [], "text layer"), null));
                    var id = DocumentStore.Add(c, document, pages);
                    if (document.TypeCode is not null)
                        RecordJudge.KeepKeys(c, document with { Id = id }, type);
                    return id;
                })
                .ToList();
        });
        // Some are in the repository already, so that places are taken and folders spelled.
        if (!bySurroundings)
            Assert.Contains(ids.Select(id => _house.Filer.File(id, "me").Ok), filed => filed);
        var together = _house.Desk.Waiting("me");
        Assert.InRange(together.Count, 20, bySurroundings ? 60 : 59);
        foreach (var each in together)
        {
            var alone = _house.Desk.Find(each.Document.Id, "me")!;
            Assert.Equal((alone.State, alone.Judged is null), (each.State, each.Judged is null));
            if (alone.Judged is not { } judged)
                continue;
            Assert.Equal(judged.Problems, each.Judged!.Problems);
            Assert.Equal(judged.Placement, each.Judged.Placement);
            Assert.Equal(judged.Values.Select(v => v.Text), each.Judged.Values.Select(v => v.Text));
            Assert.Equal(
                (judged.Now.Batch, judged.Now.NumberInBatch, judged.Now.Pages, judged.Now.Original),
                (each.Judged.Now.Batch, each.Judged.Now.NumberInBatch, each.Judged.Now.Pages, each.Judged.Now.Original)
            );
        }
        Assert.Contains(together, d => d.Judged?.Problems.Any(p => p.Rule == "r1") == true);
        Assert.Contains(together, d => d.Judged?.Problems.Any(p => p.Rule == "r2") == true);
    }

    private static Piece[] Counted(CounterScope? scope) =>
        scope is { } s ? [new(PieceKind.Counter) { Digits = 3, Scope = s }, Piece.Literal("-")] : [];

    private void Publish(Field[] fields, Rule[] rules, Convention convention)
    {
        Assert.Null(_house.Drafts.Create("Slip", "me").Problem);
        Assert.Null(
            _house.Drafts.Change("slip", "test", "me", t => t with { Fields = fields, Rules = rules, Convention = convention }).Problem
        );
        Assert.Null(_house.Drafts.Publish("slip", "me").Problem);
    }

    private string Brought()
    {
        var source = Path.Combine("brought", $"{Guid.NewGuid():N}.txt");
        File.WriteAllText(_house.Folder.Absolute(source), "a scan");
        return source;
    }

    // Filed in spite of their twins.
    private static Dictionary<string, string> Overridden(Dictionary<string, string> record) =>
        new[] { "unique:number:r1", "unique:day:r2" }.ToDictionary(id => id, _ => $"known: {record["number"]}");
}
