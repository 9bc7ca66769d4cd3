using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Tests;

public class EngineTests
{
    [Fact]
    public void A_compiled_type_judges_on_many_threads_as_on_one()
    {
        var random = new Random(4);
        var records = Enumerable
            .Range(0, 400)
            .Select(i =>
                Harbour.Record(
                    ("imo", i % 3 == 0 ? "9074728" : "9074729"),
                    ("sailed", i % 5 == 0 ? "2024-01-01" : "2024-04-01"),
                    ("net", random.Next(1, 900).ToString()),
                    ("tax", "1"),
                    ("total", random.Next(1, 900).ToString()),
                    ("berth", i % 7 == 0 ? "Nowhere" : "NQ1")
                )
            )
            .ToArray();
        string Verdict(string?[] record) =>
            string.Join(';', Harbour.Compiled.Judge(record, Harbour.Now).All.Select(p => $"{p.Id} {p.Message}"));
        var alone = records.Select(Verdict).ToArray();
        var together = new string[records.Length];
        Parallel.For(0, records.Length * 10, i => together[i % records.Length] = Verdict(records[i % records.Length]));
        Assert.Equal(alone, together);
        Assert.Contains(alone, v => v.Length > 0);
    }

    [Fact]
    public void A_conditional_combination_stands_only_once_where_its_condition_holds()
    {
        var type = new CompiledType(
            Harbour.Call with
            {
                Rules = [Harbour.Rule("u", "unique", ("fields", "number")) with { When = Condition.When("pilot", Operator.Is, "yes") }],
            },
            Harbour.Vocabularies
        );
        var with = type.Judge(Harbour.Record(("pilot", "yes")), Harbour.Now).Values;
        var without = type.Judge(Harbour.Record(("pilot", "no")), Harbour.Now).Values;
        Assert.Equal([("u", "vc 2024 00001")], type.UniqueKeys(with));
        Assert.Equal(type.UniqueKeys(with), type.UniqueKeys(without));
        Assert.Equal((true, false), (type.Uniques[0].Applies(with, Harbour.Now), type.Uniques[0].Applies(without, Harbour.Now)));
    }
}
