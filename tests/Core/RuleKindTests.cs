using System.Text.RegularExpressions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>Every rule kind, each on a record that it accepts and one that it refuses, in every language.</summary>
public class RuleKindTests
{
    private static readonly Dictionary<string, VocabularyIndex> Vocabularies = new()
    {
        ["cargo"] = new(
            new Vocabulary(
                "cargo",
                "Cargo",
                [
                    new Term("Bulk", []) { Id = "bulk" },
                    new Term("Grain", ["Corn"]) { Id = "grain", Broader = ["bulk"] },
                    new Term("Coal", []) { Id = "coal", Broader = ["bulk"] },
                    new Term("Ice", [], null, TermStatus.Proposed) { Id = "ice" },
                ]
            )
            {
                Growth = Growth.WithReview,
            }
        ),
    };

    private static readonly ReferenceTable Register = new(
        "register",
        "Register",
        ["IMO", "Vessel", "Tonnage"],
        [
            ["9074729", "Grey Heron", "1200"],
            ["9074730", "Corvina", ""],
        ]
    );

    private static readonly DocumentType Type = DocumentType.Empty("t", "T") with
    {
        Fields =
        [
            new TextField("text", "Text"),
            new TextField("other", "Other"),
            new WholeNumberField("count", "Count"),
            new DecimalField("net", "Net"),
            new DecimalField("total", "Total"),
            new DateField("from", "From"),
            new DateField("to", "To"),
            new YesNoField("yes", "Yes"),
            new TermField("term", "Term") { Vocabulary = "cargo" },
            new TermsField("terms", "Terms") { Vocabulary = "cargo" },
            new AmountField("fee", "Fee") { Currencies = ["EUR", "NOK"] },
            new AmountField("paid", "Paid"),
            new TableField("lines", "Lines")
            {
                Columns = [new DecimalField("q", "Quantity"), new DecimalField("r", "Rate"), new DecimalField("a", "Amount")],
            },
        ],
    };

    /// <summary>Kind, parameters as a=b;c=d, record as a=b;c=d, and the code of the problem; null when it holds.</summary>
    public static TheoryData<string, string, string, string?> Cases =>
        new()
        {
            { "filled", "fields=text,other;how=all", "text=a", "filled" },
            { "filled", "fields=text,other;how=all", "text=a;other=b", null },
            { "filled", "fields=text,other;how=one", "", "one-filled" },
            { "filled", "fields=text,other;how=one", "other=b", null },
            { "filled", "fields=text,other;how=exactly-one", "text=a;other=b", "exactly-one-filled" },
            { "filled", "fields=text,other;how=exactly-one", "text=a", null },
            { "filled", "fields=text;how=none", "text=a", "stays-empty" },
            { "filled", "fields=text;how=none", "other=a", null },
            { "compare", "first=from;how=at-most;second=to", "from=2024-03-06;to=2024-03-05", "compare" },
            { "compare", "first=from;how=at-most;second=to", "from=2024-03-05;to=2024-03-05", null },
            { "compare", "first=to;how=at-most;second=from;shift=days;by=2", "from=2024-03-05;to=2024-03-08", "compare" },
            { "compare", "first=to;how=at-most;second=from;shift=days;by=2", "from=2024-03-05;to=2024-03-07", null },
            { "compare", "first=to;how=equal;second=from;shift=months;by=1", "from=2024-01-31;to=2024-02-29", null },
            // Equal as everywhere: to unique rules, look-ups and the search as well.
            { "compare", "first=text;how=equal;second=other", "text=VC-2024-1;other=vc 2024 1", null },
            { "compare", "first=text;how=equal;second=other", "text=Öland;other=O\u0308land", null },
            { "compare", "first=text;how=not-equal;second=other", "text=VC-2024-1;other=vc 2024 1", "compare" },
            { "compare", "first=text;how=equal;second=other", "text=VC-2024-1;other=VC-2024-11", "compare" },
            { "compare", "first=text;how=equal;second=term", "text=GRAIN;term=Corn", null },
            { "compare", "first=to;how=equal;second=from;shift=months;by=1", "from=2024-01-31;to=2024-03-02", "compare" },
            { "compare", "first=net;how=above;second=total;shift=times;by=0.5", "net=50;total=100", "compare" },
            { "compare", "first=net;how=above;second=total;shift=times;by=0.5", "net=50.01;total=100", null },
            { "compare", "first=net;how=at-least;second=total;shift=plus;by=-5", "net=94;total=100", "compare" },
            { "compare", "first=net;how=at-least;second=total;shift=plus;by=-5", "net=95;total=100", null },
            { "compare", "first=text;how=not-equal;second=other", "text=A;other=a", "compare" },
            { "compare", "first=text;how=not-equal;second=other", "text=A", null },
            { "compare", "first=fee;how=at-most;second=paid", "fee=5 EUR;paid=7 NOK", "currencies-differ" },
            { "compare", "first=fee;how=at-most;second=paid", "fee=5 EUR;paid=7 EUR", null },
            { "date-today", "field=from;how=not-future", "from=2024-06-02", "date-not-future" },
            { "date-today", "field=from;how=not-future", "from=2024-06-01", null },
            { "date-today", "field=from;how=past", "from=2024-06-01", "date-past" },
            { "date-today", "field=from;how=future", "from=2024-06-01", "date-future" },
            { "date-today", "field=from;how=not-past", "from=2024-05-31", "date-not-past" },
            { "date-on", "field=from;on=working-day", "from=2024-06-01", "date-on" },
            { "date-on", "field=from;on=working-day", "from=2024-05-31", null },
            { "date-on", "field=from;on=open-day", "from=2024-06-01", "date-on" },
            { "date-on", "field=from;on=open-day", "from=2024-05-01", "date-on" },
            { "date-on", "field=from;on=open-day", "from=2024-05-02", null },
            { "date-on", "field=from;on=working-day", "from=2024-05-01", null },
            { "date-on", "field=from;on=not-sunday", "from=2024-06-02", "date-on" },
            { "date-on", "field=from;on=not-sunday", "from=2024-06-01", null },
            { "date-on", "field=from;on=month-begins", "from=2024-02-29", "date-on" },
            { "date-on", "field=from;on=month-ends", "from=2024-02-29", null },
            { "date-on", "field=from;on=month-ends", "from=2023-12-30", "date-on" },
            { "date-on", "field=from;on=quarter-begins", "from=2024-04-01", null },
            { "date-on", "field=from;on=quarter-begins", "from=2024-05-01", "date-on" },
            { "date-on", "field=from;on=quarter-ends", "from=2024-06-30", null },
            { "date-on", "field=from;on=quarter-ends", "from=2024-06-01", "date-on" },
            { "date-today", "field=from;how=near;days=3", "from=2024-06-05", "date-near" },
            { "date-today", "field=from;how=near;days=3", "from=2024-05-29", null },
            { "date-today", "field=from;how=near-field;days=1;other=to", "from=2024-01-03;to=2024-01-01", "date-near-field" },
            { "date-today", "field=from;how=near-field;days=1;other=to", "from=2024-01-02;to=2024-01-01", null },
            { "date-within", "field=from;earliest=2024-01-01;latest=2024-12-31", "from=2025-01-01", "not-within" },
            { "date-within", "field=from;earliest=2024-01-01;latest=", "from=2025-01-01", null },
            { "number-within", "field=net;least=1;most=9.5", "net=9.51", "not-within" },
            { "number-within", "field=net;least=1;most=9.5", "net=9.5", null },
            { "number-within", "field=fee;least=;most=10", "fee=10.01 EUR", "not-within" },
            { "multiple-of", "field=net;step=0.25", "net=1.3", "multiple-of" },
            { "multiple-of", "field=net;step=0.25", "net=1.75", null },
            { "decimal-places", "field=net;most=2", "net=1.234", "decimal-places" },
            { "decimal-places", "field=net;most=2", "net=1.23", null },
            { "length", "field=text;least=2;most=3", "text=abcd", "length" },
            { "length", "field=text;least=2;most=3", "text=abc", null },
            { "characters", "field=text;set=capitals-digits;also=-", "text=AB-1x", "characters" },
            { "characters", "field=text;set=capitals-digits;also=-", "text=AB-1", null },
            { "matches", @"field=text;pattern=[A-Z]{2}-\d+", "text=AB1", "pattern" },
            { "matches", @"field=text;pattern=[A-Z]{2}-\d+", "text=AB-17", null },
            { "check-digit", "field=text;scheme=imo", "text=9074728", "check-digit" },
            { "check-digit", "field=text;scheme=house;house=7 6 5 4 3 2 modulus 11", "text=1234560", null },
            { "term-in", "field=term;branch=", "term=Ice", "term-not-reviewed" },
            { "term-in", "field=term;branch=", "term=Peat", "term-not-reviewed" },
            { "term-in", "field=term;branch=", "term=corn", null },
            { "term-in", "field=terms;branch=bulk", "terms=Grain; Ice", "term-not-within" },
            { "term-in", "field=terms;branch=bulk", "terms=Grain; Coal", null },
            { "repeats", "field=text;what=year;other=from", "text=HD-2024-7;from=2024-03-05", null },
            { "repeats", "field=text;what=year;other=from", "text=HD-2023-7;from=2024-03-05", "repeats" },
            { "repeats", "field=text;what=short-year;other=from", "text=HD/24;from=2024-03-05", null },
            { "repeats", "field=text;what=value;other=other", "text=Mole 7 a;other=MOLE 7", null },
            { "repeats", "field=text;what=value;other=other", "text=Mole 7 a;other=pier", "repeats" },
            { "repeats", "field=text;what=value;other=other", "text=Mole 7 a", null },
            { "how-many", "field=terms;least=2;most=", "terms=Grain", "how-many" },
            { "how-many", "field=lines;least=;most=1", """lines=[{"q":"1"},{"q":"2"}]""", "how-many" },
            { "how-many", "field=lines;least=1;most=1", """lines=[{"q":"1"}]""", null },
            { "adds-up", "parts=lines.a,net;total=total;tolerance=0.01", """lines=[{"a":"2"},{"a":"3"}];net=1;total=6.02""", "adds-up" },
            { "adds-up", "parts=lines.a,net;total=total;tolerance=0.01", """lines=[{"a":"2"},{"a":"3"}];net=1;total=6.01""", null },
            { "adds-up", "parts=lines.a,net;total=total;tolerance=0.01", "total=66", "adds-up" },
            { "adds-up", "parts=lines.a;total=total;tolerance=0,01", """lines=[{"a":"2"},{"a":"3"}];total=5.02""", "adds-up" },
            { "adds-up", "parts=lines.a;total=total;tolerance=0,01", """lines=[{"a":"2"},{"a":"3"}];total=5.01""", null },
            { "adds-up", "parts=lines.a;total=total;tolerance=", """lines=[{"a":"two"},{"a":"3"}];total=5""", "cannot-be-added" },
            { "adds-up", "parts=fee;total=paid;tolerance=", "fee=2 EUR;paid=2 GBP", "currencies-differ" },
            { "adds-up", "parts=fee;total=paid;tolerance=", "fee=2 EUR;paid=2.00 EUR", null },
            { "multiplies", "factors=count,fee;product=paid;tolerance=", "count=2;fee=2 EUR;paid=4 NOK", "currencies-differ" },
            { "number-within", "field=net;least=0;most=1,5", "net=10", "not-within" },
            { "number-within", "field=net;least=0;most=1,5", "net=1.5", null },
            { "multiplies", "factors=count,net;product=total;tolerance=0.01", "count=3;net=1.1;total=3.4", "multiplies" },
            { "multiplies", "factors=count,net;product=total;tolerance=0.01", "count=3;net=1.1;total=3.3", null },
            { "in-table", "table=register;keys=text=IMO;agrees=", "text=1", "not-in-table" },
            {
                "in-table",
                "table=register;keys=text=IMO;agrees=other=Vessel,count=Tonnage",
                "text=9074729;other=Corvina",
                "table-disagrees"
            },
            {
                "in-table",
                "table=register;keys=text=IMO;agrees=other=Vessel,count=Tonnage",
                "text=9074729;other=GREY heron;count=1200",
                null
            },
            { "in-table", "table=register;keys=text=IMO;agrees=count=Tonnage", "text=9074730;count=7", null },
            { "formula", "formula=[net] * 1.1 <= [total]", "net=100;total=109", "formula" },
            { "formula", "formula=[net] * 1.1 <= [total]", "net=100;total=110", null },
            { "formula", "formula=[net] * 1.1 <= [total]", "net=100", null },
            { "formula", "formula=[net] / [total] > 1", "net=100;total=0", "formula-failed" },
            { "formula", "formula=[net] + 1", "net=1", "formula-failed" },
        };

    [Theory]
    [MemberData(nameof(Cases))]
    public void A_kind_accepts_and_refuses(string kind, string parameters, string record, string? code)
    {
        var rule = Make(kind, parameters);
        Assert.Null(RuleKinds.Finding(rule, Type));
        var compiled = new CompiledType(
            Type with
            {
                Rules = [rule],
            },
            Vocabularies,
            new Dictionary<string, ReferenceTable> { ["register"] = Register }
        );
        var problems = compiled.Judge(Texts(record), Harbour.Now).Problems.Where(p => p.Rule == "r1").ToList();
        Assert.Equal(code is null ? [] : [code], problems.Select(p => p.Code));
        foreach (var problem in problems)
        foreach (var (language, _) in Messages.Languages)
        {
            Assert.NotEqual(problem.Code, problem.In(language));
            Assert.DoesNotContain("{", problem.In(language).Replace("[{", ""));
            if (language != "en")
                Assert.NotEqual(problem.Message, problem.In(language));
        }
    }

    [Fact]
    public void Every_kind_is_tried_and_has_a_sentence_without_its_code()
    {
        Assert.Equal(
            RuleKinds.All.Select(k => k.Code).Where(c => c != "unique").Order(),
            Cases.Select(c => (string)c.Data.Item1).Distinct().Order()
        );
        foreach (var row in Cases)
        {
            var sentence = RuleKinds.Sentence(Make(row.Data.Item1, row.Data.Item2), Type);
            Assert.False(string.IsNullOrWhiteSpace(sentence));
            Assert.DoesNotContain("=;", sentence);
            // Fields are called by their labels, in formulas too.
            Assert.DoesNotContain(Type.Fields, f => sentence.Contains($"[{f.Key}]", StringComparison.Ordinal));
        }
    }

    [Fact]
    public void Every_kind_of_problem_says_all_its_parameters_in_every_language()
    {
        var kinds = typeof(ProblemKind).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(ProblemKind))).ToList();
        var codes = new HashSet<string>();
        // What a kind of field says of a text that it cannot read is as many problems as there are such kinds.
        var unreadable = FieldKind.All.Where(k => k is { IsWritten: false, HasTerms: false }).ToList();
        foreach (var (kind, of) in kinds.SelectMany(k => k == typeof(NotOfKind) ? unreadable.Select(u => (k, u)) : [(k, FieldKind.Text)]))
        {
            var parameters = kind.GetConstructors().Single().GetParameters();
            object[] given =
            [
                .. parameters.Select(
                    object (p, i) =>
                        p.ParameterType.IsEnum ? Enum.ToObject(p.ParameterType, 1)
                        : p.ParameterType == typeof(int) ? 7001 + i
                        : p.ParameterType == typeof(decimal) ? 7001m + i
                        : p.ParameterType == typeof(FieldKind) ? of
                        : $"⟦{i}⟧"
                ),
            ];
            var made = (ProblemKind)Activator.CreateInstance(kind, given)!;
            Assert.Equal(made, (ProblemKind)Activator.CreateInstance(kind, given)!);
            Assert.True(codes.Add(made.Code), made.Code);
            var said = Messages.Languages.Select(l => new Problem(made, Level.Must, "f") { Row = 2 }.In(l.Code)).ToList();
            Assert.Equal(Messages.Languages.Count, said.Distinct().Count());
            Assert.All(
                said,
                text => Assert.All(given.Where(v => v is not (Enum or FieldKind)), value => Assert.Contains(value.ToString()!, text))
            );
        }
        Assert.InRange(kinds.Count, RuleKinds.All.Count, 200);
        Assert.Equal("de", Messages.Nearest("de-AT"));
        Assert.Equal("en", Messages.Nearest("xx"));
    }

    [Fact]
    public void The_stewards_message_stands_in_its_language_and_the_standard_one_in_the_others()
    {
        var rule = Make("filled", "fields=text;how=all") with
        {
            Message = "Write it.",
            Translations = new Dictionary<string, string> { ["de"] = "Bitte schreiben." },
        };
        var problem = Assert.Single(new CompiledType(Type with { Rules = [rule] }, Vocabularies).Judge(Texts(""), Harbour.Now).Problems);
        Assert.Equal(["Write it.", "Bitte schreiben.", "Text doit être rempli."], Messages.Languages.Select(l => problem.In(l.Code)));
    }

    [Theory]
    [InlineData("compare", "first=text;how=below;second=other", "only be equal")]
    [InlineData("compare", "first=net;how=below;second=total;shift=days;by=1", "added to dates")]
    [InlineData("compare", "first=from;how=below;second=to;shift=days;by=", "write a number")]
    [InlineData("number-within", "field=net;least=9;most=1", "Nothing lies from 9 to 1")]
    [InlineData("date-within", "field=from;earliest=2024-05-01;latest=2024-01-01", "Nothing lies")]
    [InlineData("length", "field=text;least=;most=", "at least one limit")]
    [InlineData("repeats", "field=text;what=year;other=other", "Only a date has a year")]
    [InlineData("multiple-of", "field=net;step=0", "above 0")]
    [InlineData("matches", "field=text;pattern=[", "cannot be read at character")]
    [InlineData("date-today", "field=from;how=near;days=", "how many days")]
    [InlineData("in-table", "table=register;keys=nonsense;agrees=", "Write pairs")]
    [InlineData("formula", "formula=[net] +* 2", "character")]
    [InlineData("formula", "formula=[gone] > 1", "no field “gone”")]
    [InlineData("adds-up", "parts=lines.gone;total=total", "no longer")]
    [InlineData("check-digit", "field=text;scheme=house;house=nothing", "modulus")]
    [InlineData("compare", "first=count;how=equal;second=text", "cannot be compared")]
    [InlineData("compare", "first=yes;how=not-equal;second=term", "cannot be compared")]
    public void A_rule_that_contradicts_itself_says_why(string kind, string parameters, string why) =>
        Assert.Contains(why, RuleKinds.Finding(Make(kind, parameters), Type));

    [Theory]
    [InlineData("number-within", "field=net;least=1;most=9.5")]
    [InlineData("date-within", "field=from;earliest=2024-01-01;latest=2024-12-31")]
    [InlineData("compare", "first=to;how=at-most;second=from;shift=days;by=2")]
    [InlineData("length", "field=text;least=2;most=3")]
    [InlineData("matches", @"field=text;pattern=AB-\d{3}")]
    [InlineData("check-digit", "field=text;scheme=imo")]
    [InlineData("filled", "fields=text,other;how=one")]
    public void Suggested_examples_pass_and_fail_and_then_hold(string kind, string parameters)
    {
        var rule = Make(kind, parameters);
        var compiled = new CompiledType(Type with { Rules = [rule] }, Vocabularies);
        var suggested = RuleExamples.Suggest(rule, compiled, [], Harbour.Now);
        Assert.Contains(suggested, e => e.Passes);
        Assert.Contains(suggested, e => !e.Passes);
        Assert.All(RuleExamples.Run(rule with { Examples = suggested }, compiled, Harbour.Now), o => Assert.True(o.Holds));
        Assert.All(
            RuleExamples.Run(rule with { Examples = [.. suggested.Select(e => e with { Passes = !e.Passes })] }, compiled, Harbour.Now),
            o => Assert.False(o.Holds)
        );
    }

    [Fact]
    public void Suggestions_come_from_filed_documents_too_and_a_wrong_example_is_found_by_the_design_check()
    {
        var rule = Make("formula", "formula=[net] <= [total]");
        var type = Type with { Rules = [rule] };
        IReadOnlyDictionary<string, string>[] filed =
        [
            new Dictionary<string, string>
            {
                ["net"] = "5",
                ["total"] = "4",
                ["text"] = "x",
            },
        ];
        Assert.Contains(
            RuleExamples.Suggest(rule, new CompiledType(type, Vocabularies), filed, Harbour.Now),
            e => !e.Passes && e.Record["net"] == "5" && !e.Record.ContainsKey("text")
        );
        var wrong = type with { Rules = [rule with { Examples = [new RuleExample(true, filed[0])] }] };
        Assert.Contains(
            DesignCheck.Findings(wrong, DesignSurroundings.Alone(Vocabularies)),
            f => f is { Code: "rule-example", Level: Level.Must } && f.Text.Contains("should pass but does not")
        );
    }

    internal static Rule Make(string kind, string parameters) => new("r1", kind, Level.Must, Pairs(parameters));

    private static Dictionary<string, string> Pairs(string text) =>
        RuleKinds
            .All.SelectMany(k => k.Parameters)
            .Where(p => p.Kind == ParameterKind.Choice && p.Options.Any(o => o.Value.Length == 0))
            .Select(p => (p.Name, ""))
            .Concat(
                text.Split(';', StringSplitOptions.RemoveEmptyEntries).Select(p => (Name: p[..p.IndexOf('=')], p[(p.IndexOf('=') + 1)..]))
            )
            .GroupBy(p => p.Name)
            .ToDictionary(g => g.Key, g => g.Last().Item2);

    private static string?[] Texts(string record)
    {
        var given = record
            .Split(';', StringSplitOptions.RemoveEmptyEntries)
            .Aggregate(
                new List<string>(),
                (all, part) =>
                {
                    // A term list holds the separator itself.
                    if (part.Contains('='))
                        all.Add(part);
                    else
                        all[^1] += ";" + part;
                    return all;
                }
            )
            .ToDictionary(p => p[..p.IndexOf('=')], p => p[(p.IndexOf('=') + 1)..]);
        return [.. Type.Fields.Select(f => given.GetValueOrDefault(f.Key))];
    }
}
