using System.Globalization;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Storage.Tests;

/// <summary>
/// Questions about amounts and numbers, asked of the index, against records that are made and compared here by numbers and currencies of
/// their own.
/// </summary>
public sealed class AmountSearchTests : IDisposable
{
    private static readonly DocumentType Type = DocumentType.Empty("t", "T") with
    {
        Fields = [new AmountField("amt", "Amt"), new DecimalField("qty", "Qty"), new TextField("word", "Word")],
    };

    private readonly string _folder = Directory.CreateTempSubdirectory("amounts").FullName;
    private readonly Database _db;
    private readonly Dictionary<long, (decimal Number, string Currency, decimal Quantity)> _made = [];

    public AmountSearchTests()
    {
        _db = new Database(Path.Combine(_folder, "test.db"));
        var random = new Random(4);
        _db.Write(c =>
        {
            DesignStore.Add(c, Type);
            for (var i = 0; i < 600 * Larger.By; i++)
            {
                var made = (
                    Number: (random.Next(6) - 2) * 5m + random.Next(3) * 0.25m + (i % 97 == 0 ? 1_000_000m : 0),
                    Currency: new[] { "EUR", "GBP", "JPY" }[random.Next(3)],
                    Quantity: random.Next(30) * 0.5m
                );
                var record = new Dictionary<string, string>
                {
                    ["amt"] = string.Create(CultureInfo.InvariantCulture, $"{made.Number} {made.Currency}"),
                    ["qty"] = made.Quantity.ToString(CultureInfo.InvariantCulture),
                    ["word"] = i % 2 == 0 ? "odd" : "even",
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
                DocumentStore.MarkFiled(
                    c,
                    DocumentStore.Find(c, id)! with
                    {
                        Folder = "f",
                        Name = $"{i}.pdf",
                        FileHash = "h",
                    },
                    new DateTimeOffset(2024, 3, 5, 0, 0, 0, TimeSpan.Zero),
                    "me"
                );
                FoundStore.Put(c, id, "t", SearchKey.Of(Type, record.GetValueOrDefault));
                _made[id] = made;
            }
        });
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private HashSet<long> Found(string ask)
    {
        var question = QuestionText.Read(ask, Type, out var fault);
        Assert.True(fault is null, $"{ask}: {fault?.Says}");
        var put = question.On(Type, new Dictionary<string, VocabularyIndex>(), new DateOnly(2024, 6, 1));
        var query = new RepositoryQuery
        {
            TypeCode = "t",
            Conditions = put.Conditions,
            Any = put.Any,
        };
        return _db.Read(c => RepositorySearch.Find(c, query, 1_000 * Larger.By).Documents.Select(d => d.Id).ToHashSet());
    }

    [Fact]
    public void An_amount_is_a_number_and_a_currency()
    {
        (string How, Func<decimal, decimal, bool> Holds)[] ways =
        [
            ("is", (a, b) => a == b),
            ("is after", (a, b) => a > b),
            ("is before", (a, b) => a < b),
            ("is from", (a, b) => a >= b),
            ("is up to", (a, b) => a <= b),
        ];
        var compared = 0;
        foreach (var (how, holds) in ways.Where(w => Understood(w.How)))
        foreach (var number in new[] { -10m, -5m, 0m, 0.25m, 5m, 10m, 10.5m, 1_000_000m })
        foreach (var currency in new[] { "", "EUR", "GBP", "JPY", "CHF" })
        {
            var asked = string.Create(CultureInfo.InvariantCulture, $"Amt {how} {number} {currency}").Trim();
            Assert.Equal(
                _made
                    .Where(m => holds(m.Value.Number, number) && (currency == "" || m.Value.Currency == currency))
                    .Select(m => m.Key)
                    .Order(),
                Found(asked).Order()
            );
            compared++;
        }
        Assert.True(compared >= 120, $"{compared}");
        Assert.Equal(
            _made.Where(m => !(m.Value is { Number: 10m, Currency: "GBP" })).Select(m => m.Key).Order(),
            Found("Amt is not 10 GBP").Order()
        );
        Assert.Equal(
            _made.Where(m => m.Value is { Number: 10m, Currency: "GBP" } or { Number: 5m, Currency: "EUR" }).Select(m => m.Key).Order(),
            Found("Amt is one of 10 GBP, 5 EUR").Order()
        );
        Assert.Equal(
            _made.Where(m => m.Value is { Number: >= 0m and <= 10m, Currency: "JPY" }).Select(m => m.Key).Order(),
            Found("Amt is from 0 to 10 JPY").Order()
        );
    }

    private static bool Understood(string how)
    {
        QuestionText.Read($"Amt {how} 1", Type, out var fault);
        return fault is null;
    }

    [Fact]
    public void A_decimal_comma_is_one_and_what_could_be_two_is_asked_about()
    {
        Assert.Equal(_made.Where(m => m.Value.Quantity == 1.5m).Select(m => m.Key).Order(), Found("Qty is 1,5").Order());
        Assert.Equal(Found("Qty is 1").Order(), Found("Qty is 1,0").Order());
        Assert.Equal(Found("Amt is 10.5 GBP").Order(), Found("Amt is 10,50 GBP").Order());
        foreach (
            var (ask, says) in new[]
            {
                ("Qty is 1,500", "1500 or 1.5"),
                ("Amt is 1,500 GBP", "1500 or 1.5"),
                ("Amt is 5 XQZ", "not a currency"),
                ("Amt is one of 5 GBP, 6", "behind none"),
                ("Qty is 5 GBP", "not a number"),
            }
        )
        {
            QuestionText.Read(ask, Type, out var fault);
            Assert.Contains(says, fault?.Says);
        }
    }

    /// <summary>A value that was typed over before that was noted is found by its history.</summary>
    [Fact]
    public void A_database_of_before_knows_which_values_were_typed_over()
    {
        var path = Path.Combine(_folder, "before.db");
        var box = new Core.Reading.Box(0.1, 0.1, 0.2, 0.1);
        var evidence = new Dictionary<string, Core.Reading.Evidence>
        {
            ["word"] = new(1, box, "old", "text layer", 1),
            ["qty"] = new(1, box, "1", "text layer", 1),
        };
        using (var before = new Database(path, upTo: 13))
            before.Write(c =>
            {
                c.Execute(
                    "INSERT INTO documents (id, state, source_name, record, evidence, overrides) VALUES "
                        + "(1, 'desk', 's', '{\"word\":\"new\",\"qty\":\"1\"}', $evidence, '{}')",
                    ("$evidence", Sql.ToJson(evidence))
                );
                ValueHistoryStore.Add(c, 1, new ValueChange("word", "old", "new", "typed", new Instant(DateTimeOffset.UnixEpoch), "me"));
                ValueHistoryStore.Add(c, 1, new ValueChange("qty", "", "1", "read", new Instant(DateTimeOffset.UnixEpoch), "reader"));
            });
        var document = new Database(path).Read(c => DocumentStore.Find(c, 1))!;
        Assert.True(document.Evidence["word"] is { Replaced: true, Page: 1, Raw: "old" });
        Assert.Equal(box, document.Evidence["word"].Box);
        Assert.False(document.Evidence["qty"].Replaced);
    }
}
