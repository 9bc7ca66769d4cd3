using System.Net;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Tests;

/// <summary>Fields, tables, groups, patterns and rules in depth as their pages answer.</summary>
public sealed class DepthPageTests(HarbourApp app) : DesignPages(app)
{
    [Fact]
    public async Task A_field_of_every_kind_keeps_its_own_facts()
    {
        await Send("Field", ("label", "Fee"), ("kind", "Amount"), ("currencies", "eur, nok"), ("max", "500"), ("required", "must"));
        await Send("Field", ("label", "Account"), ("kind", "Identifier"), ("scheme", "iban"), ("restricted", "on"));
        await Send("Field", ("label", "House number"), ("kind", "Identifier"), ("scheme", "house"), ("house", "7 6 5 modulus 11"));
        await Send(
            "Field",
            ("label", "Berths"),
            ("kind", "Terms"),
            ("vocabulary", "berths"),
            ("branch", "north-basin"),
            ("leaves", "on"),
            ("level", "3")
        );
        await Send(
            "Field",
            ("label", "Note"),
            ("kind", "Text"),
            ("required", "when"),
            ("when-match", "Any"),
            ("when-subject", "fee"),
            ("when-operator", "Above"),
            ("when-value", "100"),
            ("when-subject", ""),
            ("when-operator", "Is"),
            ("when-value", ""),
            ("default-from", "Formula"),
            ("default", "Upper([house-number])"),
            ("step-kind", "squeeze-blanks"),
            ("step-argument", ""),
            ("step-kind", "take-part"),
            ("step-argument", "/ 1"),
            ("step-kind", ""),
            ("step-argument", ""),
            ("standard", "dcterms:description"),
            ("example", "as seen"),
            ("shows", "yes"),
            ("searched", "on")
        );
        var (fee, account, house, berths, note) = (Draft.Fields[0], Draft.Fields[1], Draft.Fields[2], Draft.Fields[3], Draft.Fields[4]);
        Assert.Equal(("EUR,NOK", "500", true), (string.Join(',', ((AmountField)fee).Currencies!), ((AmountField)fee).Max, fee.Required));
        Assert.Equal(
            ("iban", true, "house 7 6 5 modulus 11"),
            (((IdentifierField)account).Scheme, account.Restricted, ((IdentifierField)house).Scheme)
        );
        Assert.Equal(
            ("north-basin", 3, true),
            berths is VocabularyField terms ? (terms.Branch, terms.OnlyLevel, terms.LeavesOnly) : default
        );
        Assert.Equal(Joined.Any, note.RequiredWhen!.Match);
        Assert.Equal(new Comparison("fee", Operator.Above, "100"), Assert.Single(note.RequiredWhen.Comparisons));
        Assert.Equal(
            (DefaultSource.Formula, "Upper([house-number])", "dcterms:description", "as seen"),
            (note.DefaultFrom, note.Default, note.Standard, note.Example)
        );
        Assert.Equal(["squeeze-blanks ", "take-part / 1"], note.Cleaning!.Select(s => $"{s.Kind} {s.Argument}"));
        Assert.Equal((false, true), (note.NotSearched, note.NotInResults));
        var page = await Page($"/Design/Type/{Code}");
        Assert.Contains("several terms, Berths below north-basin, leaves", page);
        Assert.Contains("when …", page);
        Assert.Contains(
            "Write the separator",
            await Send("Field", ("key", "note"), ("label", "Note"), ("kind", "Text"), ("step-kind", "take-part"), ("step-argument", "/"))
        );
    }

    [Fact]
    public async Task A_table_has_columns_and_row_rules_of_its_own_and_a_changed_key_is_followed_everywhere()
    {
        await Send("Field", ("label", "Lines"), ("kind", "Table"));
        foreach (var (label, kind) in new[] { ("Quantity", "Decimal"), ("Rate", "Decimal"), ("Amount", "Decimal") })
            await Send("Field&table=lines", ("label", label), ("kind", kind));
        await Send("Field", ("label", "Total"), ("kind", "Decimal"));
        await Send(
            "Rule&table=lines",
            ("kind", "multiplies"),
            ("multiplies.factors", "quantity"),
            ("multiplies.factors", "rate"),
            ("multiplies.product", "amount"),
            ("multiplies.tolerance", "0.01")
        );
        await Send("Rule", ("kind", "adds-up"), ("adds-up.parts", "lines.amount"), ("adds-up.total", "total"));
        await Send(
            "Rule",
            ("kind", "formula"),
            ("formula.formula", "Sum([lines.amount]) <= [total]"),
            ("when-subject", "lines"),
            ("when-operator", "IsFilled"),
            ("when-value", "")
        );
        Assert.Equal(["quantity", "rate", "amount"], Draft.Find("lines")!.Columns!.Select(c => c.Key));
        Assert.Equal("multiplies", Assert.Single(Draft.Find("lines")!.RowRules!).Kind);
        await Send("Order&table=lines", ("key", "amount"), ("to", "0"));
        Assert.Equal("amount", Draft.Find("lines")!.Columns![0].Key);
        await Send("Field", ("key", "lines"), ("new-key", "services"), ("label", "Services"), ("kind", "Table"));
        Assert.Equal(3, Draft.Find("services")!.Columns!.Count);
        Assert.Equal("services.amount", Draft.Rules[0]["parts"]);
        Assert.Equal(
            ("Sum([services.amount]) <= [total]", "services"),
            (Draft.Rules[1]["formula"], Draft.Rules[1].When!.Comparisons[0].Subject)
        );
        Assert.Contains(
            "There is a field with the key “rate” already",
            await Send("Field&table=services", ("label", "Rate"), ("kind", "Decimal"))
        );
        await Send("RemoveField&key=rate&table=services");
        Assert.Contains("the field “rate” is no longer in this document type", await Page($"/Design/Type/{Code}"));
        await Send("RemoveRule&id=r1&table=services");
        Assert.Empty(Draft.Find("services")!.RowRules!);
    }

    [Fact]
    public async Task Groups_are_placed_tightened_and_taken_out_and_never_loosened()
    {
        await Send("Group", ("group", "filing-facts"));
        Assert.Equal(["filing-facts"], Draft.Groups);
        Assert.Contains("From the group", await Page($"/Design/Type/{Code}"));
        await Send("Tighten&key=entered-by", ("required", "on"), ("max-length", "20"));
        Assert.Equal(new Tightening("entered-by") { Required = true, MaxLength = 20 }, Assert.Single(Draft.Tightened));
        Assert.Contains("81 would loosen it", await Send("Tighten&key=entered-by", ("max-length", "81")));
        await Send("Tighten&key=entered-by");
        Assert.Empty(Draft.Tightened);
        Assert.Contains("not placed yet", await Send("Group", ("group", "filing-facts")));
        await Send("RemoveGroup&group=filing-facts");
        Assert.Empty(Draft.Groups);
        Assert.Contains("/Design/Type/", await At("/Design", "/Design?handler=Type", ("name", $"Sub of {Code}"), ("refines", Code)));
        Assert.Contains(
            "There is no document type “nothing” to refine",
            await At("/Design", "/Design?handler=Type", ("name", "Orphan"), ("refines", "nothing"))
        );
    }

    [Fact]
    public async Task A_paste_is_guessed_corrected_and_added_with_a_vocabulary_of_its_own()
    {
        const string Pasted = "No\tColour\tSeen\n1\tred\t5.3.2024\n2\tblue\t6.3.2024\n3\tred\t17.3.2024\n4\tred\t18.3.2024";
        var page = await Send("Paste", ("pasted", Pasted));
        Assert.Contains("Only 2 different words in 4 rows", page);
        Assert.Contains("Every value is a date written d.M.yyyy", page);
        await Send(
            "AddPasted",
            ("pasted", Pasted),
            ("take-no", "on"),
            ("kind-no", "Text"),
            ("take-colour", "on"),
            ("kind-colour", "Term"),
            ("must-colour", "on"),
            ("kind-seen", "Date")
        );
        Assert.Equal(
            [("no", FieldKind.Text, false), ("colour", FieldKind.Term, true)],
            Draft.Fields.Select(f => (f.Key, f.Kind, f.Required))
        );
        Assert.Equal(
            ["red", "blue"],
            App.Get<Designs>().Vocabularies[Draft.Find("colour")!.Vocabulary!].Vocabulary.Terms.Select(t => t.Label)
        );
        var again = await Send("AddPasted", ("pasted", Pasted), ("take-no", "on"), ("kind-no", "Text"));
        Assert.Contains("There is a field with the key “no” already", again);
        Assert.Contains("18.3.2024", again);
        Assert.Contains("“A” appears twice", await Send("Paste", ("pasted", "A\tA\n1\t2")));
        // Corrected into terms: what a vocabulary cannot tell apart is one of it.
        const string Alike = "Mark\tSeen\nRöt\t1\nrot\t2\n—\t3";
        await Send("AddPasted", ("pasted", Alike), ("take-mark", "on"), ("kind-mark", "Term"));
        var terms = App.Get<Designs>().Vocabularies[Draft.Find("mark")!.Vocabulary!].Vocabulary.Terms;
        Assert.Equal("Röt", Assert.Single(terms).Label);
    }

    [Fact]
    public async Task A_pattern_is_built_piece_by_piece_and_tested_on_values()
    {
        async Task<string> Build(params (string, string)[] fields) =>
            await At($"/Design/Type/{Code}", $"/Design/Type/{Code}?handler=Pattern&name=pattern&row=new", fields);
        var built = await Build(("build", "example"), ("pattern-example", "MH-2024-00042"));
        Assert.Contains("value=\"[A-Z]{2}-(?:19|20)[0-9]{2}-[0-9]{5}\"", built);
        Assert.Contains("two capital letters, dash, year, dash, five digits", built);
        var pieces = new[]
        {
            ("piece-of", "Capitals"),
            ("piece-least", "2"),
            ("piece-most", "3"),
            ("piece-text", ""),
            ("piece-optional", "no"),
            ("piece-of", "Exactly"),
            ("piece-least", "1"),
            ("piece-most", "1"),
            ("piece-text", "/"),
            ("piece-optional", "yes"),
        };
        Assert.Contains("value=\"[A-Z]{2,3}(?:/)?\"", await Build([("build", "pieces"), .. pieces]));
        Assert.Contains("value=\"[A-Z]{2,3}(?:/)?[0-9]\"", await Build([("build", "more"), .. pieces]));
        Assert.Contains("value=\"(?:/)?\"", await Build([("build", "drop-0"), .. pieces]));
        Assert.Contains("says more than pieces can", await Build(("build", "typed"), ("pattern", "(a|b)+")));
        var tested = await At(
            "/Design/Type/vessel-call-record",
            "/Design/Type/vessel-call-record?handler=Pattern&name=pattern&row=call-number",
            ("build", "example"),
            ("pattern-example", "VC-2023-00500"),
            ("key", "call-number")
        );
        Assert.Contains("matches", tested);
        Assert.DoesNotContain("does not", tested);
    }

    [Fact]
    public async Task A_rule_keeps_its_condition_translations_and_examples_and_a_failing_one_blocks_publishing()
    {
        foreach (var label in new[] { "Net", "Gross" })
            await Send("Field", ("label", label), ("kind", "Decimal"));
        await At($"/Design/Convention/{Code}", $"/Design/Convention/{Code}?handler=Piece&line=name", ("text", "counter"));
        (string, string)[] rule =
        [
            ("kind", "compare"),
            ("compare.first", "net"),
            ("compare.how", "below"),
            ("compare.second", "gross"),
            ("compare.shift", "times"),
            ("compare.by", "1.1"),
            ("level", "Should"),
            ("message", "Too little."),
            ("message-de", "Zu wenig."),
            ("when-match", "All"),
            ("when-subject", Condition.Channel),
            ("when-operator", "IsNot"),
            ("when-value", "Migration"),
        ];
        await Send("Rule", rule);
        var kept = Assert.Single(Draft.Rules);
        Assert.Equal(("Too little.", "Zu wenig.", Level.Should), (kept.Message, kept.Translations!["de"], kept.Level));
        Assert.Contains("When the way in is not Migration: Net < Gross × 1.1", await Page($"/Design/Type/{Code}"));
        var suggested = await Send("Suggest", [("id", "r1"), .. rule]);
        Assert.Contains("name=\"example-1-passes\"", suggested);
        Assert.Empty(Draft.Rules[0].Examples);
        var failing = await Send(
            "Rule",
            [("id", "r1"), .. rule, ("example-0-passes", "yes"), ("example-0-of-net", "11"), ("example-0-of-gross", "10")]
        );
        Assert.Contains("should pass but does not: Too little.", failing);
        Assert.Contains("should pass but does not", await Send("Publish"));
        await Send("Rule", [("id", "r1"), .. rule, ("example-0-passes", "no"), ("example-0-of-net", "11"), ("example-0-of-gross", "10")]);
        Assert.Contains("Version 1 is published", await Send("Publish"));
        await Send("Field", ("key", "net"), ("label", "Net"), ("kind", "Decimal"), ("min", "1"));
        Assert.Contains("Net now has a least value: 1.", await Page($"/Design/Compare/{Code}"));
        Assert.Contains("Net < Gross", await Page($"/Design/Version/{Code}/1"));
        Assert.Equal(HttpStatusCode.NotFound, (await Steward.GetAsync($"/Design/Compare/{Code}?from=9")).StatusCode);
        Assert.Contains(
            "only be added to dates",
            await Send(
                "Rule",
                ("kind", "compare"),
                ("compare.first", "net"),
                ("compare.how", "below"),
                ("compare.second", "gross"),
                ("compare.shift", "days"),
                ("compare.by", "1")
            )
        );
    }
}
