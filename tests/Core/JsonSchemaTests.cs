using System.Text.Json;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.TestSupport;
using Json.Schema;

namespace ClearLexicon.Core.Tests;

public class JsonSchemaTests
{
    /// <summary>Problems that JSON Schema can say; a record refused for one of them must be refused by the schema too.</summary>
    private static readonly string[] Sayable =
    [
        "required",
        "not-a-whole-number",
        "not-a-number",
        "not-yes-or-no",
        "unknown-term",
        "too-short",
        "too-long",
        "pattern",
        "one-filled",
        "not-a-date",
    ];

    private static readonly JsonSchema Schema = JsonSchema.FromText(JsonSchemaExport.Write(Harbour.Compiled).ToJsonString());

    [Fact]
    public void The_engine_and_the_schema_agree_on_generated_records()
    {
        var random = new Random(7);
        int accepted = 0,
            refused = 0;
        for (var i = 0; i < 5_000 * Larger.By; i++)
        {
            var (record, texts) = Generate(random);
            var problems = Harbour.Compiled.Judge(texts, Harbour.Now).Problems.Where(p => p.Level == Level.Must).ToList();
            var valid = Schema
                .Evaluate(JsonSerializer.SerializeToElement(record), new EvaluationOptions { RequireFormatValidation = true })
                .IsValid;
            if (problems.Count == 0)
            {
                accepted++;
                Assert.True(valid, record.ToJsonString());
            }
            if (problems.Any(p => Sayable.Contains(p.Code)))
            {
                refused++;
                Assert.False(valid, $"{record.ToJsonString()}: {problems[0].Message}");
            }
        }
        Assert.InRange(accepted / Larger.By, 200, 4_000);
        Assert.InRange(refused / Larger.By, 500, 4_800);
    }

    [Fact]
    public void What_the_schema_cannot_say_is_named()
    {
        var schema = JsonSchemaExport.Write(Harbour.Compiled);
        Assert.Equal("https://json-schema.org/draft/2020-12/schema", (string?)schema["$schema"]);
        Assert.Contains("check digit of IMO ship number", (string?)schema["$comment"]);
        Assert.Contains("Net + Tax = Total", (string?)schema["$comment"]);
        Assert.Equal(
            ["North Quay 1", "NQ1", "Old Coal Staith"],
            schema["properties"]!["berth"]!["enum"]!.AsArray().Select(n => (string?)n)
        );
    }

    private static (JsonObject Record, string?[] Texts) Generate(Random random)
    {
        var record = new JsonObject();
        var texts = new string?[Harbour.Call.Fields.Count];
        foreach (var (field, i) in Harbour.Call.Fields.Select((f, i) => (f, i)))
        {
            if (random.Next(field.Required ? 40 : 4) == 0)
                continue;
            var odd = random.Next(25) == 0;
            (JsonNode node, string text) = field switch
            {
                WholeNumberField => odd ? Both(1.5m) : Both(random.Next(0, 40)),
                DecimalField => odd ? Both("dear") : Both(random.Next(0, 1100)),
                YesNoField => odd ? Both("perhaps") : Both(random.Next(2) == 0),
                DateField => odd ? Both("2024-02-31") : Both($"20{random.Next(10, 29)}-0{random.Next(1, 10)}-1{random.Next(0, 10)}"),
                TermField => odd ? Both("West Basin") : Both(random.Next(2) == 0 ? "NQ1" : "North Quay 1"),
                _ when field.Key == "number" => odd ? Both("VC-1") : Both($"VC-2024-{random.Next(100_000):00000}"),
                _ when field.Key == "imo" => Both(random.Next(5) == 0 ? "9074728" : "9074729"),
                _ => odd ? Both(new string('x', random.Next(1, 40))) : Both("Corvina"),
            };
            record[field.Key] = node;
            texts[i] = text;
        }
        return (record, texts);

        static (JsonNode, string) Both(object value) =>
            value switch
            {
                bool b => (JsonValue.Create(b), b ? "yes" : "no"),
                int n => (JsonValue.Create(n), n.ToString()),
                decimal d => (JsonValue.Create(d), d.ToString()),
                _ => (JsonValue.Create((string)value), (string)value),
            };
    }

    /// <summary>A type with the kinds, conditions and rules that came with depth.</summary>
    private static readonly DocumentType Deep = DocumentType.Empty("deep", "Deep") with
    {
        Fields =
        [
            new TextField("class", "Class") { Required = true },
            new TextField("examiner", "Examiner") { RequiredWhen = Condition.When("class", Operator.OneOf, "Master|Mate (old)") },
            new TermField("berth", "Berth") { Vocabulary = "berths" },
            new TermsField("berths", "Berths") { Vocabulary = "berths" },
            new WholeNumberField("crew", "Crew"),
            new AmountField("fee", "Fee") { Currencies = ["EUR", "NOK"] },
            new YesNoField("seen", "Seen") { Default = "yes" },
            new TableField("lines", "Lines")
            {
                Columns =
                [
                    new WholeNumberField("n", "N") { Required = true, Max = "9" },
                    new TermField("berth", "Berth") { Vocabulary = "berths" },
                ],
                RowRules = [RuleKindTests.Make("multiple-of", "field=n;step=2")],
            },
        ],
        Rules =
        [
            RuleKindTests.Make("how-many", "field=lines;least=1;most=2") with
            {
                Id = "a",
                When = Condition.When("berth", Operator.Is, "NQ1"),
            },
            RuleKindTests.Make("number-within", "field=crew;least=1;most=20") with
            {
                Id = "b",
                When = Condition.When("seen", Operator.Is, "yes"),
            },
            RuleKindTests.Make("filled", "fields=crew,fee;how=exactly-one") with
            {
                Id = "c",
                When = Condition.When("class", Operator.Is, "mate (OLD)"),
            },
            RuleKindTests.Make("filled", "fields=fee;how=none") with
            {
                Id = "d",
                When = new Condition(
                    Joined.Any,
                    [new Comparison("crew", Operator.AtLeast, "15"), new Comparison("crew", Operator.Is, "7")]
                ),
            },
            RuleKindTests.Make("length", "field=examiner;least=2;most=5") with
            {
                Id = "e",
                When = new Condition(Joined.None, [new Comparison("class", Operator.IsEmpty)]),
            },
            RuleKindTests.Make("matches", @"field=class;pattern=[A-Za-z() ]+") with
            {
                Id = "f",
            },
        ],
    };

    [Fact]
    public void Tables_terms_amounts_and_conditions_agree_on_generated_records()
    {
        var compiled = new CompiledType(Deep, Harbour.Vocabularies);
        var written = JsonSchemaExport.Write(compiled);
        Assert.False(written.ContainsKey("$comment"), (string?)written["$comment"]);
        var schema = JsonSchema.FromText(written.ToJsonString());
        var random = new Random(11);
        string[] unsayable = ["currency-not-taken", "unknown-currency", "amount-places", "retired-term"];
        int accepted = 0,
            refused = 0;
        for (var i = 0; i < 6_000 * Larger.By; i++)
        {
            var record = GenerateDeep(random);
            var texts = Deep
                .Fields.Select(f => record.ContainsKey(f.Key) ? TableText.Of(JsonSerializer.SerializeToElement(record[f.Key])) : null)
                .ToArray();
            var problems = compiled.Judge(texts, Harbour.Now).Problems;
            var valid = schema
                .Evaluate(JsonSerializer.SerializeToElement(record), new EvaluationOptions { RequireFormatValidation = true })
                .IsValid;
            if (problems.Count == 0)
            {
                accepted++;
                Assert.True(valid, record.ToJsonString());
            }
            if (problems.Any(p => !unsayable.Contains(p.Code)))
            {
                refused++;
                Assert.False(valid, $"{record.ToJsonString()}: {string.Join("; ", problems.Select(p => p.Message))}");
            }
        }
        Assert.InRange(accepted / Larger.By, 300, 5_000);
        Assert.InRange(refused / Larger.By, 1_000, 5_700);
    }

    private static JsonObject GenerateDeep(Random random)
    {
        var record = new JsonObject();
        T Pick<T>(params T[] from) => from[random.Next(from.Length)];
        void Maybe(string key, int outOf, Func<JsonNode> value)
        {
            if (random.Next(outOf) > 0)
                record[key] = value();
        }
        string Berth() => random.Next(12) == 0 ? "Nowhere" : Pick("North Quay 1", "NQ1", "Old Coal Staith");
        Maybe("class", 30, () => Pick("Master", "MASTER", "Mate (old)", "mate (OLD)", "Cadet", "C1"));
        Maybe("examiner", 2, () => Pick("Wren", "Pike", "x", "too long"));
        Maybe("berth", 2, () => Berth());
        Maybe("berths", 2, () => new JsonArray([.. Enumerable.Range(0, random.Next(1, 3)).Select(_ => (JsonNode)Berth())]));
        Maybe("crew", 2, () => random.Next(0, 24));
        Maybe("fee", 2, () => Pick("12.50 EUR", "7", "dear", "5 GBP", "1 NOK"));
        Maybe("seen", 2, () => random.Next(2) == 0);
        Maybe(
            "lines",
            2,
            () =>
                new JsonArray([
                    .. Enumerable
                        .Range(0, random.Next(1, 4))
                        .Select(_ =>
                        {
                            var row = new JsonObject();
                            if (random.Next(12) > 0)
                                row["n"] = random.Next(8) == 0 ? random.Next(12) : Pick(2, 4, 8);
                            if (random.Next(2) == 0 || row.Count == 0)
                                row["berth"] = Berth();
                            return (JsonNode)row;
                        }),
                ])
        );
        return record;
    }
}
