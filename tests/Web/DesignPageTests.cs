using System.Net;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Services;

namespace ClearLexicon.Web.Tests;

/// <summary>What the forms of a document type's page do to its draft.</summary>
public sealed class DesignPageTests(HarbourApp app) : IAsyncLifetime
{
    private HttpClient _steward = null!;
    private string _code = "";

    public async ValueTask InitializeAsync()
    {
        _steward = await app.SignedIn(Roles.Steward);
        _code = app.Get<Designs>().Create($"Page {Guid.NewGuid():N}"[..16], "test").Value!;
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private DocumentType Draft => app.Get<Designs>().Find(_code)!.Draft;

    private async Task<string> Send(string handler, params (string, string)[] fields) =>
        WebUtility.HtmlDecode(await (await HarbourApp.Post(_steward, $"/Design/Type/{_code}", $"/Design/Type/{_code}?handler={handler}", fields)).Content.ReadAsStringAsync());

    private Task<string> Field(string label, string kind, params (string, string)[] more) => Send("Field", [("label", label), ("kind", kind), .. more]);

    [Fact]
    public async Task A_field_keeps_only_what_its_kind_has()
    {
        await Field("Gross tonnage", "WholeNumber", ("min", "50"), ("max", "900"), ("pattern", "x"), ("max-length", "4"), ("vocabulary", "berths"), ("default", "60"), ("help", " As certified. "), ("restricted", "on"));
        var field = Assert.Single(Draft.Fields);
        Assert.Equal(new Field("gross-tonnage", "Gross tonnage", FieldKind.WholeNumber) { Min = "50", Max = "900", Default = "60", Help = "As certified.", Restricted = true }, field);
        await Send("Field", ("key", "gross-tonnage"), ("label", "Berth"), ("kind", "Term"), ("vocabulary", "berths"), ("min", "50"), ("required", "must"));
        Assert.Equal(new Field("gross-tonnage", "Berth", FieldKind.Term) { Vocabulary = "berths", Required = true }, Assert.Single(Draft.Fields));
    }

    [Theory]
    [InlineData("", "Text", "", "needs a label")]
    [InlineData("Again", "Text", "", "already")]
    [InlineData("New", "Poem", "", "Choose what the field holds")]
    [InlineData("New", "Text", "many", "not a number of characters")]
    public async Task A_field_that_cannot_be_says_why_and_what_was_typed_stays(string label, string kind, string maxLength, string reason)
    {
        await Field("Again", "Text");
        var page = await Field(label, kind, ("max-length", maxLength), ("help", "typed before"));
        Assert.Contains(reason, page);
        Assert.Contains("typed before", page);
        Assert.Single(Draft.Fields);
    }

    [Fact]
    public async Task A_changed_key_is_followed_by_rules_and_convention_and_undo_brings_all_back()
    {
        await Field("First", "Date");
        await Field("Second", "Date");
        await Send("Rule", ("kind", "compare"), ("compare.first", "first"), ("compare.how", "at-most"), ("compare.second", "second"), ("compare.shift", ""), ("level", "Should"), ("message", "Look again."));
        await Send("Piece&line=name", ("text", "First"));
        var before = Draft;
        await Send("Field", ("key", "first"), ("new-key", "begun"), ("label", "Begun"), ("kind", "Date"));
        Assert.Equal("begun", Draft.Fields[0].Key);
        Assert.Equal(("begun", "second"), (Draft.Rules[0]["first"], Draft.Rules[0]["second"]));
        Assert.Equal((Level.Should, "Look again."), (Draft.Rules[0].Level, Draft.Rules[0].Message));
        Assert.Equal("begun", Draft.Convention.Name[0].Field);
        Assert.Contains("Taken back: changed the field Begun", await Send("Undo"));
        Assert.Equal(Storage.Sql.ToJson(before), Storage.Sql.ToJson(Draft));
    }

    [Fact]
    public async Task Fields_are_moved_and_a_removed_one_leaves_findings_behind()
    {
        foreach (var label in new[] { "A", "B", "C" }) await Field(label, "Decimal");
        await Send("Order", ("key", "c"), ("to", "0"));
        Assert.Equal(["c", "a", "b"], Draft.Fields.Select(f => f.Key));
        await Send("Order", ("key", "c"), ("to", "99"));
        Assert.Equal(["a", "b", "c"], Draft.Fields.Select(f => f.Key));
        await Send("Rule", ("kind", "adds-up"), ("adds-up.parts", "a"), ("adds-up.parts", "b"), ("adds-up.total", "c"), ("adds-up.tolerance", "0.5"));
        Assert.Equal("a,b", Draft.Rules[0]["parts"]);
        Assert.Contains("the field “b” is no longer in this document type", await Send("RemoveField&key=b"));
        Assert.Contains("choose a field", await Send("Rule", ("id", "r1"), ("kind", "adds-up"), ("adds-up.total", "c")));
        await Send("RemoveRule&id=r1");
        Assert.Empty(Draft.Rules);
    }

    [Fact]
    public async Task The_convention_takes_labels_keys_text_and_the_counter()
    {
        await Field("Issued", "Date");
        await Field("Payer", "Text");
        foreach (var text in new[] { "Dues", "/", "issued" }) await Send("Piece&line=folder", ("text", text));
        foreach (var text in new[] { "payer", " no. ", "counter" }) await Send("Piece&line=name", ("text", text));
        Assert.Equal([PieceKind.Text, PieceKind.Inside, PieceKind.Field], Draft.Convention.Folder.Select(p => p.Kind));
        Assert.Equal([Piece.Of("payer"), Piece.Literal(" no. "), new Piece(PieceKind.Counter)], Draft.Convention.Name);
        Assert.Contains("belongs on the name line", await Send("Piece&line=folder", ("text", "Counter")));
        Assert.Contains("cannot hold a folder", await Send("Piece&line=name", ("text", "/")));

        await Send("PieceOptions&line=folder&at=2", ("date-form", "yyyy-MM"), ("if-empty", "undated"));
        await Send("PieceOptions&line=name&at=0", ("case", "Upper"), ("max-length", "8"));
        await Send("PieceOptions&line=name&at=2", ("digits", "4"));
        Assert.Equal(Piece.Of("issued") with { DateForm = "yyyy-MM", IfEmpty = "undated" }, Draft.Convention.Folder[2]);
        Assert.Equal(Piece.Of("payer") with { Case = LetterCase.Upper, MaxLength = 8 }, Draft.Convention.Name[0]);
        await Send("MovePiece&line=name&at=2&by=-1");
        Assert.Equal(4, Draft.Convention.Name[1].Digits);
        await Send("MovePiece&line=name&at=0&by=-1");
        await Send("RemovePiece&line=name&at=1");
        Assert.Equal([PieceKind.Field, PieceKind.Text], Draft.Convention.Name.Select(p => p.Kind));
        Assert.Equal("Dues / ‹Issued: 2024-03, else undated› / ‹Payer: first 8 characters, UPPER CASE› no. ", Pages.TypeModel.Outline(Draft));
    }

    [Fact]
    public async Task Publishing_twice_without_a_change_is_refused_and_every_change_opens_a_draft()
    {
        await Field("Number", "Text", ("required", "must"));
        await Send("Piece&line=name", ("text", "Number"));
        Assert.Contains("Version 1 is published", await Send("Publish"));
        Assert.Contains("Nothing has changed since version 1", await Send("Publish"));
        Assert.Contains("draft after version 1", await Field("More", "Text"));
        Assert.Contains("version 1, published", await Send("Undo"));
    }
}
