using System.Text.Json;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using Json.Schema;

namespace ClearLexicon.Core.Tests;

public class JsonSchemaTests
{
    /// <summary>Problems that JSON Schema can say; a record refused for one of them must be refused by the schema too.</summary>
    private static readonly string[] Sayable =
        ["required", "not-a-whole-number", "not-a-number", "not-yes-or-no", "unknown-term", "too-short", "too-long", "pattern", "one-filled", "not-a-date"];

    private static readonly JsonSchema Schema = JsonSchema.FromText(JsonSchemaExport.Write(Harbour.Compiled).ToJsonString());

    [Fact]
    public void The_engine_and_the_schema_agree_on_generated_records()
    {
        var random = new Random(7);
        int accepted = 0, refused = 0;
        for (var i = 0; i < 5_000; i++)
        {
            var (record, texts) = Generate(random);
            var problems = Harbour.Compiled.Judge(texts, Harbour.Now).Problems.Where(p => p.Level == Level.Must).ToList();
            var valid = Schema.Evaluate(JsonSerializer.SerializeToElement(record), new EvaluationOptions { RequireFormatValidation = true }).IsValid;
            if (problems.Count == 0) { accepted++; Assert.True(valid, record.ToJsonString()); }
            if (problems.Any(p => Sayable.Contains(p.Code))) { refused++; Assert.False(valid, $"{record.ToJsonString()}: {problems[0].Message}"); }
        }
        Assert.InRange(accepted, 200, 4_000);
        Assert.InRange(refused, 500, 4_800);
    }

    [Fact]
    public void What_the_schema_cannot_say_is_named()
    {
        var schema = JsonSchemaExport.Write(Harbour.Compiled);
        Assert.Equal("https://json-schema.org/draft/2020-12/schema", (string?)schema["$schema"]);
        Assert.Contains("check digit of IMO ship number", (string?)schema["$comment"]);
        Assert.Contains("Net + Tax = Total", (string?)schema["$comment"]);
        Assert.Equal(["North Quay 1", "NQ1", "Old Coal Staith"], schema["properties"]!["berth"]!["enum"]!.AsArray().Select(n => (string?)n));
    }

    private static (JsonObject Record, string?[] Texts) Generate(Random random)
    {
        var record = new JsonObject();
        var texts = new string?[Harbour.Call.Fields.Count];
        foreach (var (field, i) in Harbour.Call.Fields.Select((f, i) => (f, i)))
        {
            if (random.Next(field.Required ? 40 : 4) == 0) continue;
            var odd = random.Next(25) == 0;
            (JsonNode node, string text) = field.Kind switch
            {
                FieldKind.WholeNumber => odd ? Both(1.5m) : Both(random.Next(0, 40)),
                FieldKind.Decimal => odd ? Both("dear") : Both(random.Next(0, 1100)),
                FieldKind.YesNo => odd ? Both("perhaps") : Both(random.Next(2) == 0),
                FieldKind.Date => odd ? Both("2024-02-31") : Both($"20{random.Next(10, 29)}-0{random.Next(1, 10)}-1{random.Next(0, 10)}"),
                FieldKind.Term => odd ? Both("West Basin") : Both(random.Next(2) == 0 ? "NQ1" : "North Quay 1"),
                _ when field.Key == "number" => odd ? Both("VC-1") : Both($"VC-2024-{random.Next(100_000):00000}"),
                _ when field.Key == "imo" => Both(random.Next(5) == 0 ? "9074728" : "9074729"),
                _ => odd ? Both(new string('x', random.Next(1, 40))) : Both("Corvina"),
            };
            record[field.Key] = node;
            texts[i] = text;
        }
        return (record, texts);

        static (JsonNode, string) Both(object value) => value switch
        {
            bool b => (JsonValue.Create(b), b ? "yes" : "no"),
            int n => (JsonValue.Create(n), n.ToString()),
            decimal d => (JsonValue.Create(d), d.ToString()),
            _ => (JsonValue.Create((string)value), (string)value),
        };
    }
}
