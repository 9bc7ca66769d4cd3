using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage.Tests;

/// <summary>What goes into a store comes out of it as it was, also after the file was closed and opened again.</summary>
public sealed class StoreTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("stores").FullName;
    private Database _db;
    private static readonly DateTimeOffset Now = new(2024, 3, 5, 12, 30, 0, TimeSpan.Zero);

    public StoreTests() => _db = new Database(Path.Combine(_folder, "test.db"));

    private void Reopen()
    {
        _db.Dispose();
        _db = new Database(Path.Combine(_folder, "test.db"));
    }

    [Fact]
    public void People_are_found_regardless_of_case_and_tokens_end_with_them()
    {
        _db.Write(c => PeopleStore.Add(c, "Ada Quill", "hash", ["administrator", "steward"]));
        var ada = _db.Read(c => PeopleStore.Find(c, "ADA QUILL"))!;
        _db.Write(c =>
            PeopleStore.AddToken(c, ada.Id, "nightly", "token-hash", ["check"], new DateOnly(2024, 3, 6), new DateOnly(2024, 3, 5))
        );
        Reopen();
        Assert.True(_db.Read(PeopleStore.Any));
        var found = _db.Read(c => PeopleStore.ByToken(c, "token-hash", new DateOnly(2024, 3, 5)))!.Value;
        Assert.Equal(
            (ada.Id, ada.Stamp, "administrator steward", "check"),
            (found.Person.Id, found.Person.Stamp, string.Join(' ', found.Person.Roles), Assert.Single(found.Scopes))
        );
        Assert.NotNull(_db.Read(c => PeopleStore.ByToken(c, "token-hash", new DateOnly(2024, 3, 6))));
        Assert.Null(_db.Read(c => PeopleStore.ByToken(c, "token-hash", new DateOnly(2024, 3, 7))));
        Assert.Equal(
            ("nightly", "Ada Quill", new DateOnly(2024, 3, 5)),
            Assert.Single(_db.Read(PeopleStore.Tokens)) is var t ? (t.Label, t.Person, t.Made) : default
        );
        _db.Write(c => PeopleStore.Remove(c, ada.Id));
        Assert.Null(_db.Read(c => PeopleStore.ByToken(c, "token-hash", new DateOnly(2024, 3, 5))));
        Assert.Null(_db.Read(c => PeopleStore.Find(c, "Ada Quill")));
        // The same name comes back with a new role, not as a second person.
        _db.Write(c => PeopleStore.Add(c, "ada quill", "other", ["steward"]));
        Assert.Equal((ada.Id, "steward"), _db.Read(PeopleStore.All) is [var p] ? (p.Id, Assert.Single(p.Roles)) : default);
        Assert.Throws<SqliteException>(() => _db.Write(c => PeopleStore.Add(c, "Eve", "x", ["captain"])));
    }

    [Fact]
    public void Closed_days_come_in_their_order_and_have_one_name_each()
    {
        _db.Write(c =>
        {
            ClosedDayStore.Put(c, new ClosedDay(new DateOnly(2024, 12, 25), "Midwinter"));
            ClosedDayStore.Put(c, new ClosedDay(new DateOnly(2024, 5, 1), ""));
            ClosedDayStore.Put(c, new ClosedDay(new DateOnly(2024, 12, 25), "Harbour feast"));
        });
        Reopen();
        Assert.Equal(
            [new ClosedDay(new DateOnly(2024, 5, 1), ""), new ClosedDay(new DateOnly(2024, 12, 25), "Harbour feast")],
            _db.Read(ClosedDayStore.All)
        );
        _db.Write(c => ClosedDayStore.Remove(c, new DateOnly(2024, 5, 1)));
        Assert.Equal("Harbour feast", Assert.Single(_db.Read(ClosedDayStore.All)).Name);
    }

    [Fact]
    public void Vocabularies_keep_every_part_of_their_terms_in_order_and_know_their_revision()
    {
        Term[] terms =
        [
            new("North Quay 1", ["N. Quay 1", "Old Coal Staith"], "NQ1")
            {
                Id = "nq1",
                Note = "Deep.",
                Broader = ["a"],
                Related = ["å"],
                Words = new Dictionary<string, TermWords> { ["de"] = new("Nordkai 1", ["Kai"], "Tief.") },
            },
            new("Åland Berth", [], null, TermStatus.Retired)
            {
                Id = "å",
                ReplacedBy = "nq1",
                LabelLanguage = "sv",
            },
            new("A Berth", ["a|b"], null, TermStatus.Proposed) { Id = "a" },
        ];
        _db.Write(c =>
        {
            Assert.True(VocabularyStore.Add(c, new Vocabulary("berths", "Berths", []) { Growth = Growth.WithReview, Language = "en" }));
            Assert.False(VocabularyStore.Add(c, new Vocabulary("berths", "Again", [])));
            VocabularyStore.Put(c, "berths", terms[..2]);
        });
        var revision = Assert.Single(_db.Read(VocabularyStore.Revisions)).Revision;
        _db.Write(c => VocabularyStore.Put(c, "berths", terms[2..]));
        _db.Write(c => VocabularyStore.Put(c, "berths", [terms[0]]));
        Reopen();
        Assert.Equal(revision + 2, Assert.Single(_db.Read(VocabularyStore.Revisions)).Revision);
        var stored = _db.Read(c => VocabularyStore.Find(c, "berths"))!;
        Assert.Equal((Growth.WithReview, "en"), (stored.Growth, stored.Language));
        Assert.Equal(Sql.ToJson(terms), Sql.ToJson(stored.Terms));
        _db.Write(c =>
        {
            VocabularyStore.Remove(c, "berths", ["å"]);
            VocabularyStore.SetGrowth(c, "berths", Growth.Fixed);
        });
        Assert.Equal(["nq1", "a"], _db.Read(c => VocabularyStore.Find(c, "berths"))!.Terms.Select(t => t.Id));
        Assert.Null(_db.Read(c => VocabularyStore.Find(c, "nowhere")));
    }

    [Fact]
    public void A_change_of_a_vocabulary_is_remembered_until_it_is_forgotten()
    {
        _db.Write(c =>
        {
            VocabularyStore.Add(c, new Vocabulary("v", "V", []));
            VocabularyStore.AddFollowed(
                c,
                VocabularyStore.Remember(c, "v", "first", [new Term("A", ["x"]) { Id = "a" }], ["b"]),
                new FollowedDocument(7, "f", "old", "new")
            );
            for (var i = 0; i < 60; i++)
                VocabularyStore.Remember(c, "v", $"change {i}", [], []);
            // A step with documents is forgotten once they are, chunk by chunk.
            Assert.Equal((1, 0), (VocabularyStore.Prune(c, "v", 10), VocabularyStore.Prune(c, "v", 10)));
            VocabularyStore.Remember(c, "v", "change 59", [], []);
        });
        Assert.Equal("change 59", _db.Read(c => VocabularyStore.LastChange(c, "v")));
        Assert.Equal(50, _db.Read(c => c.Scalar<long>("SELECT count(*) FROM vocabulary_history")));
        for (var i = 0; i < 50; i++)
            _db.Write(c => VocabularyStore.ForgetStep(c, VocabularyStore.LastStep(c, "v")!.Id));
        Assert.Null(_db.Read(c => VocabularyStore.LastStep(c, "v")));
        _db.Write(c =>
            VocabularyStore.AddFollowed(
                c,
                VocabularyStore.Remember(c, "v", "last", [new Term("A", ["x"]) { Id = "a" }], ["b"]),
                new FollowedDocument(7, "f", "old", "new")
            )
        );
        var step = _db.Read(c => VocabularyStore.LastStep(c, "v"))!;
        Assert.Equal(("last", "A", "b", 1), (step.Change, step.Before[0].Label, step.Added[0], step.Followed));
        Assert.Equal(
            new FollowedDocument(7, "f", "old", "new"),
            Assert.Single(_db.Write(c => VocabularyStore.TakeFollowed(c, step.Id, 5)))
        );
        Assert.Equal(0, _db.Read(c => VocabularyStore.LastStep(c, "v"))!.Followed);
    }

    [Fact]
    public void Reference_tables_keep_rows_by_key_and_their_address()
    {
        _db.Write(c =>
        {
            ReferenceStore.Put(c, new Core.Rules.ReferenceTable("r", "Register", ["IMO", "Name"], []) { Address = "/x" }, Now);
            ReferenceStore.PutRows(
                c,
                "r",
                [
                    ["1", "Grey Heron"],
                    ["2", "Corvina"],
                    ["3", "Quillon"],
                ]
            );
            ReferenceStore.PutRows(
                c,
                "r",
                [
                    ["2", "Corvina II"],
                ]
            );
            ReferenceStore.RemoveRows(c, "r", ["1"]);
        });
        Reopen();
        var table = _db.Read(c => ReferenceStore.Find(c, "r"))!;
        Assert.Equal(("Register", "/x", "IMO,Name"), (table.Name, table.Address, string.Join(',', table.Columns)));
        Assert.Equal(["2 Corvina II", "3 Quillon"], table.Rows.Select(r => string.Join(' ', r)));
        Assert.Equal("r", Assert.Single(_db.Read(ReferenceStore.Revisions)).Key);
    }

    [Fact]
    public void A_person_keeps_the_language_of_their_messages()
    {
        _db.Write(c => PeopleStore.Add(c, "Ada", "hash", ["steward"]));
        Assert.Equal("en", _db.Read(c => PeopleStore.Find(c, "Ada"))!.Language);
        _db.Write(c => PeopleStore.SetLanguage(c, "Ada", "fr"));
        Reopen();
        Assert.Equal("fr", _db.Read(PeopleStore.All)[0].Language);
    }

    [Fact]
    public void A_design_comes_back_with_every_part_of_it()
    {
        var type = new DocumentType(
            "call",
            "Call",
            [
                new TextField("a", "A")
                {
                    Pattern = @"\d{2}",
                    Help = "“Ä”",
                    Required = true,
                    Restricted = true,
                },
                new TermField("b", "B") { Vocabulary = "v", Default = "x" },
            ],
            [new Rule("r1", "unique", Level.Should, new Dictionary<string, string> { ["fields"] = "a,b" }, "Look.")],
            new(
                [Core.Conventions.Piece.Literal("x"), new(Core.Conventions.PieceKind.Inside)],
                [Core.Conventions.Piece.Of("a") with { Case = Core.Conventions.LetterCase.Upper, MaxLength = 3, IfEmpty = "-" }]
            )
        );
        _db.Write(c => DesignStore.Add(c, type));
        _db.Write(c => DesignStore.Publish(c, type with { Name = "Whole" }, type, draftStays: false, Now, "me"));
        Reopen();
        var version = Assert.Single(_db.Read(DesignStore.Published));
        Assert.Equal(Sql.ToJson(type), Sql.ToJson(version.Source));
        Assert.Equal("Whole", version.Design.Name);
        Assert.Equal(type.Fields, version.Design.Fields);
        Assert.Equal(type.Convention.Name, version.Design.Convention.Name);
        Assert.Equal((1, Instant.Read("2024-03-05T12:30:00Z"), "me"), (version.Version, version.PublishedAt, version.PublishedBy));
    }

    [Fact]
    public void Readers_and_samples_keep_their_marks_and_words()
    {
        var reader = new Reader(
            "r",
            "R",
            "call",
            [new Clue("Call No.", new Box(0.1, 0.2, 0.3, 0.04))],
            [new Zone("a", new Box(0.5, 0.5, 0.25, 0.125))],
            [new CrosswalkLine("a", "a", [new CleaningStep("drop-words", "No.|IMO")])]
        );
        var page = new PageText(595, 842, [new Word("Gräy", new Box(0.1, 0.1, 0.2, 0.02), 0.93)], "recognised");
        _db.Write(c =>
        {
            DesignStore.Add(c, DocumentType.Empty("call", "Call"));
            ReaderStore.Save(c, reader with { Name = "Before" });
            ReaderStore.Save(c, reader);
        });
        var id = _db.Write(c => ReaderStore.AddSample(c, "r", "p.png", "pages/1.png", page, new Dictionary<string, string>()));
        _db.Write(c => ReaderStore.SetTruth(c, id, new Dictionary<string, string> { ["a"] = "42" }));
        Reopen();
        Assert.Equal(Sql.ToJson(reader), Sql.ToJson(Assert.Single(_db.Read(ReaderStore.All))));
        var sample = Assert.Single(_db.Read(c => ReaderStore.Samples(c, "r")));
        Assert.Equal(page.Words, sample.Page.Words);
        Assert.Equal("42", sample.Truth["a"]);
        Assert.Equal(sample.Image, _db.Read(c => ReaderStore.FindSample(c, id))!.Image);

        // A version reads what comes in and never changes; a draft goes its own way, and each of its changes can be taken back.
        Assert.Equal(new ReaderState(0, true, null), _db.Read(c => ReaderStore.State(c, "r")));
        var now = DateTimeOffset.UnixEpoch;
        Assert.Equal(
            [1, 1],
            _db.Write(c => new[] { ReaderStore.Publish(c, reader, now, "me"), ReaderStore.Publish(c, reader, now, "me") })
        );
        _db.Write(c => ReaderStore.SaveDraft(c, reader with { Name = "After" }, "renamed it"));
        Assert.Equal(new ReaderState(1, true, "renamed it"), _db.Read(c => ReaderStore.State(c, "r")));
        Assert.Equal((reader.Name, 1), _db.Read(ReaderStore.Published).Select(v => (v.Reader.Name, v.Version)).Single());
        Assert.Equal("renamed it", _db.Write(c => ReaderStore.Undo(c, "r")));
        Assert.Equal(new ReaderState(1, false, null), _db.Read(c => ReaderStore.State(c, "r")));
        Assert.Null(_db.Write(c => ReaderStore.Undo(c, "r")));
        Assert.Throws<Microsoft.Data.Sqlite.SqliteException>(() => _db.Write(c => c.Execute("UPDATE reader_versions SET version = 2")));
        Assert.Null(_db.Read(c => ReaderStore.Find(c, "nothing")));
    }

    [Fact]
    public void A_batch_counts_what_waits_what_is_read_and_what_is_filed()
    {
        var batch = _db.Write(c => BatchStore.Add(c, "Monday", "me", Now));
        _db.Write(c =>
        {
            DesignStore.Add(c, DocumentType.Empty("call", "Call"));
            BatchStore.AddFile(c, batch, "a.pdf", "brought/a.pdf", null);
            BatchStore.AddFile(c, batch, "b.pdf", "brought/b.pdf", "“b.pdf” is empty.");
            foreach (var name in new[] { "x", "y" })
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = name,
                        SourceFile = name,
                        BatchId = batch,
                        TypeCode = "call",
                    },
                    [new StoredPage(1, $"pages/{name}.png", new PageText(1, 1, [], "none"), "No words.")]
                );
        });
        var documents = _db.Read(c => DocumentStore.OnDesk(c, batch));
        _db.Write(c => DocumentStore.MarkFiled(c, documents[0] with { Folder = "Calls", Name = "x.pdf", FileHash = "hash" }, Now, "me"));
        Assert.Equal(
            new Batch(batch, "Monday", "me", Instant.Read("2024-03-05 12:30")!.Value, 1, 1, 1, 1),
            Assert.Single(_db.Read(BatchStore.All))
        );
        _db.Write(c => BatchStore.SetFile(c, _db.Read(r => BatchStore.Files(r, FileState.Waiting))[0].Id, null));
        Assert.Empty(_db.Read(c => BatchStore.Files(c, FileState.Waiting, batch)));
        Assert.Equal("No words.", _db.Read(c => DocumentStore.Pages(c, documents[1].Id))[0].Notice);

        // Taken off the desk with its pages; a filed one stays, whoever asks.
        foreach (var document in documents)
            _db.Write(c => DocumentStore.RemoveFromDesk(c, document.Id));
        Assert.NotNull(_db.Read(c => DocumentStore.Find(c, documents[0].Id)));
        Assert.Null(_db.Read(c => DocumentStore.Find(c, documents[1].Id)));
        Assert.Empty(_db.Read(c => DocumentStore.Pages(c, documents[1].Id)));
    }

    [Fact]
    public void Only_filed_or_earlier_documents_have_a_combination_before_one()
    {
        _db.Write(c => DesignStore.Add(c, DocumentType.Empty("call", "Call")));
        long Brought(string name) =>
            _db.Write(c =>
            {
                var id = DocumentStore.Add(c, new StoredDocument { SourceName = name, TypeCode = "call" }, []);
                UniqueKeyStore.Set(c, id, "call", [("r1", "vc 1")]);
                return id;
            });
        long first = Brought("first.pdf"),
            second = Brought("second.pdf");
        string? Other(long id) => _db.Read(c => UniqueKeyStore.OthersWith(c, "call", "r1", "vc 1", id, 1)).FirstOrDefault().Name;
        Assert.Null(Other(first));
        Assert.Equal("first.pdf on the desk", Other(second));
        Assert.Null(Other(0));
        _db.Write(c =>
            DocumentStore.MarkFiled(
                c,
                DocumentStore.Find(c, second)! with
                {
                    Folder = "Calls",
                    Name = "second.pdf",
                    FileHash = "h",
                },
                Now,
                "me"
            )
        );
        Assert.Equal("second.pdf", Other(first));
        Assert.Equal("second.pdf", Other(0));
        Assert.Equal(2, _db.Read(c => UniqueKeyStore.Of(c, "call")).Count);
        _db.Write(c => UniqueKeyStore.Set(c, second, "call", []));
        Assert.Null(Other(first));
    }

    [Fact]
    public void A_changed_plan_forgets_the_dry_run_and_its_left_rows()
    {
        var shape = new StoredShape("UTF-8", ';', ["File", "Legacy path", "Ref"], 3);
        Assert.Equal(1, shape.PathColumn);
        var id = _db.Write(c => InventoryStore.Add(c, "list.csv", "inventories/1.csv", shape, "me", Now));
        var plan = new MigrationPlan(
            "call",
            [new CrosswalkLine("Ref", "a", [new CleaningStep("keep-digits")])],
            [new TaggingPass("p", "constant", "a", "", "x", true, [])]
        );
        var run = new DryRun(
            3,
            1,
            1,
            1,
            0,
            [new FieldCoverage("a", 2, 1)],
            [new ProblemCount("required", Level.Must, "a", null, 1, "A must be filled.", 2)],
            []
        );
        _db.Write(c =>
        {
            InventoryStore.SetPlan(c, id, plan);
            InventoryStore.SetDryRun(c, id, run);
            InventoryStore.RemoveLeftRows(c, id, 10);
            InventoryStore.AddLeftRows(
                c,
                id,
                [
                    new LeftRow(2, RowVerdict.Held, "x.tif", ["A must be filled.", "B too."]),
                    new LeftRow(3, RowVerdict.Questionable, "y.tif", ["Twice."]),
                ]
            );
        });
        Reopen();
        var stored = _db.Read(c => InventoryStore.Find(c, id))!;
        Assert.Equal(Sql.ToJson(plan), Sql.ToJson(stored.Plan));
        Assert.Equal(Sql.ToJson(run), Sql.ToJson(stored.DryRun));
        Assert.Equal(shape.Columns, stored.Shape.Columns);
        Assert.Equal(["A must be filled.", "B too."], _db.Read(c => InventoryStore.LeftRows(c, id, 10))[0].Reasons);
        Assert.Equal(3, Assert.Single(_db.Read(c => InventoryStore.LeftRows(c, id, 10, after: 2))).Row);
        _db.Write(c => InventoryStore.SetPlan(c, id, plan with { Passes = [] }));
        Assert.Null(_db.Read(c => InventoryStore.Find(c, id))!.DryRun);
        Assert.Empty(_db.Read(c => InventoryStore.LeftRows(c, id, 10)));
    }

    public void Dispose()
    {
        _db.Dispose();
        SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, recursive: true);
    }
}
