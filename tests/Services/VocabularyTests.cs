using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Vocabularies with documents that carry their terms.</summary>
public sealed class VocabularyTests : IDisposable
{
    private readonly House _house = new();

    public VocabularyTests()
    {
        Assert.Null(_house.Vocabularies.Create("Cargo", "Grain\tCorn\nTimber\nSawn timber", "me", Growth.WithReview).Problem);
        var table = new TableField("lines", "Lines")
        {
            Columns = [new TermField("what", "What") { Vocabulary = "cargo" }, new WholeNumberField("n", "N")],
        };
        Publish(
            DocumentType.Empty("slip", "Slip") with
            {
                Fields =
                [
                    new TextField("number", "Number") { Required = true },
                    new TermField("one", "One") { Vocabulary = "cargo" },
                    new TermsField("many", "Many") { Vocabulary = "cargo" },
                    table,
                ],
                Rules = [new Rule("u", "unique", Level.Should, new Dictionary<string, string> { ["fields"] = "one" })],
                Convention = new([], [Core.Conventions.Piece.Of("number")]),
            }
        );
    }

    private void Publish(DocumentType type)
    {
        Assert.Null(_house.Drafts.Create(type.Name, "me", type.IsGroup, type.Refines).Problem);
        Assert.Null(_house.Drafts.Change(type.Code, "test", "me", _ => type).Problem);
        Assert.Null(_house.Drafts.Publish(type.Code, "me").Problem);
    }

    private long File(params (string Field, string Text)[] record)
    {
        var id = _house.Database.Write(c =>
        {
            var document = DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "x",
                    TypeCode = "slip",
                    Version = 1,
                    Record = record.ToDictionary(r => r.Field, r => r.Text),
                },
                []
            );
            DocumentStore.MarkFiled(
                c,
                DocumentStore.Find(c, document)! with
                {
                    Folder = "",
                    Name = $"{document}.pdf",
                    FileHash = "",
                },
                DateTimeOffset.UnixEpoch,
                "me"
            );
            Rebuilding.Keep(c, DocumentStore.Find(c, document)!, _house.Designs.Published["slip"].Type);
            return document;
        });
        return id;
    }

    private string Value(long id, string field) =>
        _house.Database.Read(c => DocumentStore.Find(c, id))!.Record.GetValueOrDefault(field, "");

    private VocabularyIndex Index => _house.Designs.Vocabularies["cargo"];

    [Fact]
    public void New_words_wait_for_review_and_documents_follow_a_merge_and_return_with_undo()
    {
        var id = File(("number", "1"));
        Assert.Null(_house.Filed.Edit(id, "many", "Corn; Timbre", "", "Tobias Finch").Problem);
        Assert.Equal("Grain; Timbre", Value(id, "many"));
        Assert.Equal(TermStatus.Proposed, Index.Find("Timbre")!.Status);
        var table = File(
            ("number", "2"),
            ("lines", """[{"what":"Timbre","n":"2"},{"what":"Grain"}]"""),
            ("one", "Timbre"),
            ("many", "Timber; Timbre")
        );
        Assert.Equal(2, _house.Vocabularies.Use("cargo", Index.Find("Timbre")!).Documents);
        Assert.Equal(4, _house.Vocabularies.Counts("cargo")["Timbre"]);

        Assert.Null(_house.Vocabularies.Apply("cargo", i => VocabularyEditing.Merge(i, "timbre", "timber"), "me").Problem);
        Assert.Equal("Timber", Index.Find("timbre")!.Label);
        Assert.Equal(("Grain; Timber", "Timber", "Timber"), (Value(id, "many"), Value(table, "one"), Value(table, "many")));
        Assert.Equal("""[{"what":"Timber","n":"2"},{"what":"Grain"}]""", Value(table, "lines"));
        Assert.Contains(
            _house.Database.Read(c => ValueHistoryStore.Of(c, table)),
            h => h is { Field: "one", How: "followed the vocabulary: Timbre → Timber" }
        );
        Assert.NotEmpty(_house.Database.Read(c => UniqueKeyStore.OthersWith(c, "slip", "u", "timber", 0, 1)));
        Assert.Contains(_house.Database.Read(c => LedgerStore.Newest(c, 5)), e => e.Action == "merged “Timbre” into “Timber”");

        Assert.Equal("merged “Timbre” into “Timber”", _house.Vocabularies.Undo("cargo", "me"));
        Assert.Equal(("Grain; Timbre", "Timbre"), (Value(id, "many"), Value(table, "one")));
        Assert.Equal(TermStatus.Proposed, Index.Find("Timbre")!.Status);
    }

    [Fact]
    public void A_value_edited_since_is_not_taken_back_over_the_edit()
    {
        var (a, b) = (File(("number", "1"), ("one", "Grain")), File(("number", "2"), ("one", "Grain")));
        Assert.Null(
            _house
                .Vocabularies.Apply("cargo", i => VocabularyEditing.Put(i, i.Vocabulary.Terms[0] with { Label = "Cereals" }), "me")
                .Problem
        );
        Assert.Equal("Cereals", Value(a, "one"));
        Assert.Null(_house.Filed.Edit(a, "one", "Timber", "", "me").Problem);
        _house.Vocabularies.Undo("cargo", "me");
        Assert.Equal(("Timber", "Grain"), (Value(a, "one"), Value(b, "one")));
    }

    [Fact]
    public void A_change_that_would_not_be_sound_is_refused_and_nothing_changes()
    {
        var id = File(("number", "1"), ("one", "Grain"));
        Assert.Contains(
            "preferred label of two terms",
            _house.Vocabularies.Apply("cargo", i => VocabularyEditing.Put(i, i.Vocabulary.Terms[0] with { Label = "TIMBER" }), "me").Problem
        );
        Assert.Contains(
            "is below itself",
            _house.Vocabularies.Apply("cargo", i => VocabularyEditing.Move(i, "timber", "timber"), "me").Problem
        );
        Assert.Equal("Grain", Value(id, "one"));
        Assert.Null(_house.Vocabularies.LastChange("cargo"));
    }

    [Fact]
    public void Rejecting_gives_documents_the_replacement_and_the_spelling_leads_nowhere()
    {
        var id = File(("number", "1"));
        Assert.Null(_house.Filed.Edit(id, "one", "Junk", "", "me").Problem);
        Assert.Null(_house.Vocabularies.Apply("cargo", i => VocabularyEditing.Reject(i, "junk", "grain"), "me").Problem);
        Assert.Equal("Grain", Value(id, "one"));
        Assert.Null(Index.Find("Junk"));
        _house.Vocabularies.SetGrowth("cargo", Growth.Fixed, "me");
        Assert.Contains("not in the vocabulary", _house.Filed.Edit(id, "one", "Junk", "", "me").Problem);
        _house.Vocabularies.SetGrowth("cargo", Growth.Freely, "me");
        Assert.Null(_house.Filed.Edit(id, "one", "Junk", "", "me").Problem);
        Assert.Equal(TermStatus.Current, Index.Find("Junk")!.Status);
    }

    [Fact]
    public async Task An_import_is_applied_as_a_whole_or_not_at_all()
    {
        async Task<BroughtTerms> Read(string csv)
        {
            var read = await _house.Vocabularies.ReadAsync(
                "cargo",
                new BroughtFile("t.csv", () => new MemoryStream(System.Text.Encoding.UTF8.GetBytes(csv)))
            );
            Assert.True(read.Ok, read.Problem);
            return read.Value!;
        }
        var bad = await Read("label,broader\nCoal,\n–,\nOre,nowhere\n");
        Assert.Contains("2 lines are broken", _house.Vocabularies.Import("cargo", bad, "me").Problem);
        Assert.Equal(3, Index.Vocabulary.Terms.Count);
        var good = await Read("label,variants,broader\nBulk,,\nCoal,Steam coal,Bulk\ngrain,Corn,Bulk\n");
        var ticket = _house.Vocabularies.Hold(good);
        Assert.Same(good, _house.Vocabularies.Take(ticket));
        Assert.Null(_house.Vocabularies.Take(ticket));
        Assert.Null(_house.Vocabularies.Import("cargo", good, "me").Problem);
        Assert.Equal(("grain", 2), (Index.Find("Corn")!.Label, Index.Level(Index.IndexOf("Corn"))));
        Assert.Contains("5 terms", $"{Index.Vocabulary.Terms.Count} terms");
        _house.Vocabularies.Undo("cargo", "me");
        Assert.Equal(["Grain", "Timber", "Sawn timber"], Index.Vocabulary.Terms.Select(t => t.Label));
    }

    [Fact]
    public void Publishing_a_group_gives_every_type_that_places_it_a_version_or_none()
    {
        Publish(DocumentType.Empty("facts", "Facts") with { IsGroup = true, Fields = [new TextField("by", "By")] });
        Assert.Null(_house.Drafts.Change("slip", "placed", "me", t => t with { Groups = ["facts"] }).Problem);
        Assert.Null(_house.Drafts.Publish("slip", "me").Problem);
        Assert.Equal("facts", _house.Designs.Published["slip"].Type.Type.Find("by")!.From);
        // Work that goes on in the type's draft is not published along.
        Assert.Null(
            _house
                .Drafts.Change("slip", "going on", "me", t => t with { Fields = [.. t.Fields, new TextField("half", "Half done")] })
                .Problem
        );
        Assert.Null(
            _house.Drafts.Change("facts", "added", "me", t => t with { Fields = [.. t.Fields, new TextField("why", "Why")] }).Problem
        );
        var published = _house.Drafts.Publish("facts", "me").Value;
        Assert.Equal((2, "Slip"), (published.Version, Assert.Single(published.Followed)));
        Assert.NotNull(_house.Designs.Published["slip"].Type.Type.Find("why"));
        Assert.Null(_house.Designs.Published["slip"].Type.Type.Find("half"));
        Assert.True(_house.Designs.Find("slip")!.DraftOpen);

        Assert.Null(
            _house.Drafts.Change("facts", "clash", "me", t => t with { Fields = [.. t.Fields, new TextField("number", "Number")] }).Problem
        );
        var refused = _house.Drafts.Publish("facts", "me").Problem;
        Assert.Contains("Slip takes parts of this, and would no longer work: Number: the key “number” is used twice.", refused);
        Assert.Equal((2, 3), (_house.Designs.Versions("facts").Count, _house.Designs.Versions("slip").Count));
        Assert.Contains("Publish “Loose” first", Placed("Loose"));

        string? Placed(string name)
        {
            Assert.Null(_house.Drafts.Create(name, "me", group: true).Problem);
            Assert.Null(_house.Drafts.Change("slip", "placed", "me", t => t with { Groups = [.. t.Groups, "loose"] }).Problem);
            return _house.Drafts.Publish("slip", "me").Problem;
        }
    }

    public void Dispose() => _house.Dispose();
}
