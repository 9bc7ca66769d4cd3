using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage.Tests;

public sealed class StorageTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("db").FullName;
    private readonly Database _db;
    private static readonly DateTimeOffset Now = new(2024, 3, 5, 12, 0, 0, TimeSpan.Zero);

    public StorageTests() => _db = new Database(Path.Combine(_folder, "test.db"));

    /// <summary>A database as each migration left it opens with the newest program, and what was in it is still there.</summary>
    [Fact]
    public void A_database_of_every_earlier_migration_opens()
    {
        foreach (var (number, _) in Database.Migrations)
        {
            var path = Path.Combine(_folder, $"at-{number}.db");
            using (var old = new Database(path, upTo: number))
                old.Write(c =>
                {
                    c.Execute("INSERT INTO ledger (seq, at, who, action, object, detail, hash) VALUES (1, '2024', 'a', 'b', 'c', '', '')");
                    if (number == 1)
                        c.Execute(
                            "INSERT INTO vocabularies (key, name) "
                                + "VALUES ('v', 'V'); INSERT INTO terms (vocabulary_key, position, label, variants, code, status) "
                                + "VALUES ('v', 1, 'Quay', '[\"Kai\"]', 'Q', 'Retired')"
                        );
                });
            using var opened = new Database(path);
            Assert.Equal(Database.Migrations[^1].Number, opened.Read(c => c.Scalar<long>("PRAGMA user_version")));
            Assert.Single(opened.Read(c => LedgerStore.Newest(c, 10)));
            if (number > 1)
                continue;
            var term = Assert.Single(opened.Read(c => VocabularyStore.Find(c, "v"))!.Terms);
            Assert.Equal(("Quay", "Quay", "Kai", "Q", TermStatus.Retired), (term.Id, term.Label, term.Variants[0], term.Code, term.Status));
        }
    }

    /// <summary>What is shorter than a minute is not kept; moments of earlier releases, with seconds, are read.</summary>
    [Theory]
    [InlineData("2026-03-29 01:59", "2026-03-29 01:59")]
    [InlineData("2026-03-29T01:59:59.999Z", "2026-03-29 01:59")]
    [InlineData("2026-03-29", null)]
    [InlineData("2026-02-30 10:00", null)]
    [InlineData("", null)]
    public void Moments_are_read_as_they_are_written(string kept, string? read)
    {
        var at = Instant.Read(kept);
        Assert.Equal(read, at?.ToString());
        if (at is not { } moment)
            return;
        Assert.Equal($"\"{read}\"", Sql.ToJson(moment));
        Assert.Equal(moment, new Instant(moment.Utc.AddSeconds(59).ToOffset(TimeSpan.FromHours(5))));
        Assert.True(moment >= Instant.Read("2026-01-01 00:00") && moment < Instant.Read("2027-01-01 00:00"));
    }

    /// <summary>On other systems two of these would be one file, and the second would lie over the first.</summary>
    [Theory]
    [InlineData("Ναυσ", "ναυς")]
    [InlineData("5 µm", "5 μm")]
    [InlineData("Iskele", "ıskele")]
    [InlineData("İskele", "iskele")]
    [InlineData("Straſse", "STRASSE")]
    [InlineData("Ko\u0308ln", "KÖLN")]
    [InlineData("\u212Aelvin", "kelvin")]
    public void Names_that_another_system_takes_for_one_are_one_place(string one, string other)
    {
        Assert.Equal(Database.PlaceKey("A", one), Database.PlaceKey("a", other));
        Assert.NotEqual(Database.PlaceKey("A", one), Database.PlaceKey("A", other + "x"));
    }

    [Fact]
    public void A_database_of_a_newer_program_is_refused()
    {
        var path = Path.Combine(_folder, "newer.db");
        using (var db = new Database(path))
            db.Write(c =>
            {
                c.Execute("PRAGMA user_version = 999");
            });
        Assert.Contains("newer Clear Lexicon", Assert.Throws<InvalidOperationException>(() => new Database(path)).Message);
    }

    [Fact]
    public void Foreign_keys_and_write_ahead_log_are_on_and_a_failed_write_leaves_nothing()
    {
        Assert.Equal("wal", _db.Read(c => c.Scalar<string>("PRAGMA journal_mode")));
        Assert.Throws<SqliteException>(() =>
            _db.Write(c =>
            {
                VocabularyStore.Add(c, new Vocabulary("kept", "Kept", []));
                VocabularyStore.Put(c, "nowhere", [new Term("x", [])]);
            })
        );
        Assert.Empty(_db.Read(VocabularyStore.Revisions));
        Assert.Equal(
            7,
            _db.WriteIf(
                c =>
                {
                    VocabularyStore.Add(c, new Vocabulary("dropped", "Dropped", []));
                    return 7;
                },
                static n => n != 7
            )
        );
        Assert.Empty(_db.Read(VocabularyStore.Revisions));
    }

    [Fact]
    public void A_published_version_never_changes_and_undo_takes_drafts_back_one_by_one()
    {
        var type = DocumentType.Empty("t", "T");
        _db.Write(c =>
        {
            Assert.True(DesignStore.Add(c, type));
            Assert.False(DesignStore.Add(c, type));
            DesignStore.SaveDraft(c, type with { Fields = [new TextField("a", "A")] }, "added a");
            DesignStore.SaveDraft(c, type with { Fields = [new TextField("b", "B")], Convention = new([], [Piece.Of("b")]) }, "swapped");
        });
        Assert.Equal("swapped", _db.Read(c => DesignStore.Find(c, "t"))!.Undo);
        Assert.Equal("swapped", _db.Write(c => DesignStore.Undo(c, "t")));
        Assert.Equal("a", Assert.Single(_db.Read(c => DesignStore.Find(c, "t"))!.Draft.Fields).Key);
        Assert.Equal("added a", _db.Write(c => DesignStore.Undo(c, "t")));
        Assert.Null(_db.Write(c => DesignStore.Undo(c, "t")));

        Assert.Equal(1, _db.Write(c => DesignStore.Publish(c, type, type, draftStays: false, Now, "me")));
        Assert.Equal(2, _db.Write(c => DesignStore.Publish(c, type with { Name = "T2" }, type, draftStays: true, Now, "me")));
        Assert.Equal("T2", Assert.Single(_db.Read(DesignStore.Published)).Design.Name);
        Assert.Throws<SqliteException>(() =>
            _db.Write(c =>
            {
                c.Execute("UPDATE type_versions SET design = '{}'");
            })
        );
        Assert.Throws<SqliteException>(() =>
            _db.Write(c =>
            {
                c.Execute("DELETE FROM type_versions");
            })
        );
    }

    [Fact]
    public void The_ledger_shows_a_changed_or_missing_line()
    {
        _db.Write(c =>
        {
            for (var i = 0; i < 5; i++)
                LedgerStore.Append(c, Now, "who", $"did {i}", new LedgerSubject(SubjectKind.Settings));
        });
        Assert.True(_db.Read(c => LedgerStore.Verify(c)).Sound);
        Assert.Throws<SqliteException>(() =>
            _db.Write(c =>
            {
                c.Execute("UPDATE ledger SET who = 'somebody else' WHERE seq = 3");
            })
        );
        _db.Write(c =>
        {
            c.Execute("DROP TRIGGER ledger_never_changes");
            c.Execute("UPDATE ledger SET who = 'somebody else' WHERE seq = 3");
        });
        Assert.Equal(3, _db.Read(c => LedgerStore.Verify(c)).FirstBroken);
        _db.Write(c =>
        {
            c.Execute("UPDATE ledger SET who = 'who' WHERE seq = 3");
            c.Execute("DROP TRIGGER ledger_never_forgets");
            c.Execute("DELETE FROM ledger WHERE seq = 2");
        });
        Assert.Equal(2, _db.Read(c => LedgerStore.Verify(c)).FirstBroken);
    }

    private long Filed(string folder, string name, string body, string restricted, params (string, string)[] record) =>
        _db.Write(c =>
        {
            if (DesignStore.Find(c, "t") is null)
                DesignStore.Add(c, DocumentType.Empty("t", "T"));
            var id = DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = name,
                    TypeCode = "t",
                    Record = record.ToDictionary(r => r.Item1, r => r.Item2),
                },
                []
            );
            DocumentStore.MarkFiled(c, DocumentStore.Find(c, id)! with { Folder = folder, Name = name, FileHash = "hash" }, Now, "me");
            DocumentStore.IndexText(c, id, body, restricted);
            FoundStore.Put(
                c,
                id,
                "t",
                record.Select(r => (r.Item1, SearchKey.Of(r.Item1 == "tons" ? FieldKind.WholeNumber : FieldKind.Text, r.Item2)))
            );
            return id;
        });

    /// <summary>A word is found in the field and in the text, or in neither, however it is spelled there and asked for here.</summary>
    [Theory]
    [InlineData("Øresund", "Oresund")]
    [InlineData("Łódź", "lodz")]
    [InlineData("Æther", "aether")]
    [InlineData("Hauptstraße", "HAUPTSTRASSE")]
    [InlineData("Άρτεμις", "Αρτεμις")]
    [InlineData("Köln", "Ko\u0308ln")]
    [InlineData("VC-2024/17", "vc 2024 17")]
    [InlineData("m²", "m2")]
    public void A_word_is_found_alike_in_a_field_and_in_the_text(string one, string other)
    {
        foreach (var (written, asked, n) in new[] { (one, other, 0), (other, one, 1) })
        {
            Filed("Calls", $"{n}.pdf", $"before {written} after", "", ("vessel", written));
            foreach (
                var query in new[]
                {
                    new RepositoryQuery { Anywhere = asked },
                    new RepositoryQuery().Holding("vessel", asked),
                }
            )
                Assert.Contains($"{n}.pdf", _db.Read(c => RepositorySearch.Find(c, query, 10).Documents).Select(d => d.Name));
        }
        Assert.Empty(_db.Read(c => RepositorySearch.Find(c, new RepositoryQuery { Anywhere = "xyz" + other }, 10).Documents));
    }

    [Fact]
    public void Documents_are_found_in_a_field_anywhere_and_by_folder()
    {
        Filed("Calls/2024", "a.pdf", "Grey Heron moored near the Tern", "Wren", ("vessel", "Grey Heron"), ("tons", "900"));
        Filed("Calls/2023", "b.pdf", "Tern", "", ("vessel", "Tern_of Wrack"), ("tons", "12000"));
        Filed("Dues", "c.pdf", "100% paid by Tern", "", ("vessel", "Ångholm"));
        List<string?> Names(RepositoryQuery q) => [.. _db.Read(c => RepositorySearch.Find(c, q, 10).Documents).Select(d => d.Name)];
        Assert.Equal(["b.pdf"], Names(new RepositoryQuery().Holding("vessel", "tern")));
        Assert.Equal(["b.pdf", "a.pdf", "c.pdf"], Names(new() { Anywhere = "tern" }));
        Assert.Equal(["a.pdf"], Names(new() { Anywhere = "heron gre" }));
        Assert.Equal(["b.pdf", "a.pdf"], Names(new() { Folder = "Calls" }));
        Assert.Empty(Names(new() { Folder = "Call" }));
        Assert.Equal(["a.pdf", "b.pdf"], Names(new() { Folder = "Calls", Sort = "tons" }));
        Assert.Equal(
            ["b.pdf", "a.pdf"],
            Names(
                new()
                {
                    Folder = "Calls",
                    Sort = "tons",
                    Descending = true,
                }
            )
        );
        // Wildcards and query syntax are plain text.
        Assert.Equal(["b.pdf"], Names(new RepositoryQuery().Holding("vessel", "n_o")));
        Assert.Empty(Names(new RepositoryQuery().Holding("vessel", "%")));
        Assert.Empty(Names(new() { Anywhere = "\" OR NEAR( *" }));
        Assert.Empty(Names(new RepositoryQuery().Holding("x' OR 1=1 --", "a")));
        // Restricted words are there only for those who may see them.
        Assert.Empty(Names(new() { Anywhere = "wren" }));
        Assert.Equal(["a.pdf"], Names(new() { Anywhere = "wren", IncludeRestricted = true }));
    }

    [Fact]
    public void Two_filed_documents_never_have_one_place()
    {
        var first = Filed("Calls", "Öresund.pdf", "", "");
        Assert.Throws<SqliteException>(() => Filed("calls", "öRESUND.PDF", "", ""));
        // The same letter, written as letter and accent.
        Assert.Throws<SqliteException>(() => Filed("Calls", "O\u0308resund.pdf", "", ""));
        Assert.Equal(first, _db.Read(c => RepositoryStore.At(c, "CALLS", "Öresund.pdf")));
        Assert.Null(_db.Read(c => RepositoryStore.At(c, "CALLS", "Öresund.pdf", exceptId: first)));
    }

    public void Dispose()
    {
        _db.Dispose();
        SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, recursive: true);
    }
}
