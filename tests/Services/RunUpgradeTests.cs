using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Runs that an earlier release kept in tables of their own: they keep their numbers, and what was under way goes on.</summary>
public sealed class RunUpgradeTests
{
    private readonly string _root = Directory.CreateTempSubdirectory("before").FullName;

    // As release 18 wrote it: two documents, and of each kind of run one or two in the state that is named.
    private const string Before = """
        INSERT INTO document_types (code, name, draft, draft_open) VALUES ('t', 'T', '{"code":"t","name":"T","fields":[]}', 0);
        INSERT INTO documents (id, state, type_code, source_name, record, evidence, overrides, folder, name, place_key) VALUES
          (1, 'filed', 't', 'one.pdf', '{}', '{}', '{}', 'A', '1.pdf', 'a/1.pdf'), (2, 'filed', 't', 'two.pdf', '{}', '{}', '{}', 'A', '2.pdf', 'a/2.pdf');
        INSERT INTO bulk_edits (id, type_code, asks, change, state, looked, at, who) VALUES
          (4, 't', '{"type":"t","ask":"Agent is x"}', '{"what":{"field":"agent","act":"Set","text":"y","with":""},"reason":"so","moves":true}',
            'applying', 2, '2026-01-02 03:04', 'ann');
        INSERT INTO bulk_values (edit_id, document_id, before, after, to_path, moved, state) VALUES (4, 1, 'x', 'y', 'B/1.pdf', 0, 'set'),
          (4, 2, 'x', 'y', 'B/2.pdf', 1, 'set');
        INSERT INTO retype_runs (id, to_type, asks, document_id, rereads, reason, state, at, who) VALUES (9, 't', NULL, 1, 1, '', 'applied', '2026-01-02 03:04', 'ann');
        INSERT INTO retypings (run_id, document_id, name, state, to_path, lost, says, before, move_id, last_change) VALUES
          (9, 1, 'one.pdf', 'done', '', '[{"label":"Berth","text":"A1"}]', '', '{"id":1,"sourceName":"one.pdf","typeCode":"old","filedAt":"2025-12-24 18:00"}', 3, 5);
        INSERT INTO retypings (run_id, document_id, name, state, to_path, lost, says, before, move_id, last_change) VALUES
          (9, 2, 'two.pdf', 'returning', '', '[]', '', '{"id":2,"sourceName":"two.pdf"}', NULL, 6);
        INSERT INTO carry_runs (id, type_code, version_before, version, lines, state, last_id, who, at, left_over) VALUES
          (2, 't', 1, 2, '[]', 'stopped', 1, 'ann', '2026-01-02 03:04', '[]'), (3, 't', 2, 3, '[]', 'undone', 2, 'ann', '2026-01-02 03:04', '["x"]');
        INSERT INTO carried (run_id, document_id, record_before, evidence_before, version_before, parked_before, record_after) VALUES
          (2, 1, '{"a":"1"}', '{}', 1, 'why', '{"b":"1"}'), (3, 2, '{}', '{}', NULL, NULL, '{}');
        INSERT INTO filing_runs (id, batch_id, state, at, who) VALUES (1, NULL, 'filing', '2026-01-02 03:04', 'ann'), (2, NULL, 'undoing', '2026-01-02 03:04', 'ann');
        INSERT INTO filing_run_documents (run_id, document_id, name, state, path, says, last_change) VALUES (1, 1, 'one.pdf', 'filed', 'A/1.pdf', '', 7),
          (2, 2, 'two.pdf', 'stays', 'A/2.pdf', 'Somebody has worked on it since.', 0);
        INSERT INTO refile_runs (id, type_code, version, state, who, at, left_over) VALUES (6, 't', 2, 'stopped', 'ann', '2026-01-02 03:04', '["the disk is full"]');
        INSERT INTO moves (id, run_id, document_id, state, from_folder, from_name, to_folder, to_name, who, at) VALUES
          (3, NULL, 1, 'done', 'A', '1.pdf', 'B', '1.pdf', 'ann', '2026-01-02 03:04'), (5, 6, 2, 'done', 'A', '2.pdf', 'B', '2.pdf', 'ann', '2026-01-02 03:04');
        INSERT INTO inventories (id, name, file, shape, brought_by, brought_at) VALUES (5, 'Share', 'i.csv', '{}', 'ann', '2026-01-02 03:04');
        INSERT INTO waves (id, inventory_id, state, tagged, rows_left, last_row, reason, applied_by, applied_at) VALUES
          (8, 5, 'stopped', 30, 2, 33, 'trial', 'ann', '2026-01-02 03:04');
        INSERT INTO takeovers (id, folder, state, look, reached, batch_id, at, who) VALUES (7, 'P', 'looked',
          '{"documents":3,"bytes":9,"types":{"T":3},"design":"d","problems":["damaged"]}', -1, NULL, '2026-01-02 03:04', 'ann');
        INSERT INTO export_plans (id, name, owner, definition, changed_at) VALUES (2, 'Out', 'ann', '{}', '2026-01-02 03:04');
        INSERT INTO export_runs (id, plan_id, definition, state, folder, documents, at, who) VALUES (3, 2, '{"format":"xml"}', 'done', 'Out (2)', 12, '2026-01-02 03:04', 'ann');
        INSERT INTO export_files (run_id, path, document_id, bytes, sha256) VALUES (3, 'a.xml', NULL, 10, 'ff');
        INSERT INTO export_left (run_id, document_id, reason) VALUES (3, 2, 'It has no place.');
        INSERT INTO jobs (id, kind, subject, title, page, policy, arguments, state, who, started_at) VALUES
          ('j1', 'bulk-apply', 'bulk t', 'x', '/', 'desk', '{"edit":4}', 'running', 'ann', '2026-01-02T03:04:05.678Z'),
          ('j2', 'carry', 'type t', 'x', '/', 'design', '{"id":2}', 'running', 'ann', '2026-01-02T03:04:05.678Z'),
          ('j3', 'wave', 'inventory 5', 'x', '/', 'design', '{"id":8}', 'running', 'ann', '2026-01-02T03:04:05.678Z');
        """;

    [Fact]
    public void Runs_of_before_keep_their_numbers_states_and_what_undo_needs()
    {
        using (var old = new Database(Path.Combine(_root, "clear-lexicon.db"), upTo: 18))
            old.Write(c => c.Execute(Before));
        using var house = new House(_root);

        var edit = house.BulkEdits.Find(4)!;
        Assert.Equal(
            (RunState.Applying, 2L, "ann", "t", "Agent is x"),
            (edit.State, edit.Looked, edit.Who, edit.Order.TypeCode, edit.Order.Asks.Ask)
        );
        Assert.Equal(("agent", "y", "so", true), (edit.Order.What.Field, edit.Order.What.Text, edit.Order.Reason, edit.Order.Moves));
        // One has moved, the other has yet to.
        Assert.Equal(new ChangedValue("agent", "x", "y"), Assert.Single(house.BulkEdits.Values(edit, StepState.Done, 9)).What);
        Assert.Equal(
            (1L, "1.pdf", "B/1.pdf"),
            house.BulkEdits.Values(edit, StepState.Moving, 9)[0] is var v ? (v.Document, v.Name, v.ToPath) : default
        );

        var retyping = house.Retyping.Find(9)!;
        // What was on its way back has its type yet: it is taken back once more.
        Assert.Equal([1L, 2L], house.Retyping.Documents(retyping, 9, StepState.Done).Select(d => d.Document));
        var retyped = house.Retyping.Documents(retyping, 9, StepState.Done)[0];
        Assert.Equal(
            (1L, true, "old", 3L, 5L),
            (retyping.Order.Document, retyping.Order.Rereads, retyped.What.Before!.TypeCode, retyped.What.Move, retyped.LastChange)
        );
        Assert.Equal(Instant.Read("2025-12-24 18:00"), retyped.What.Before!.FiledAt);
        Assert.Equal("A1", retyped.What.Lost[0].Text);
        Assert.Equal(5, house.Database.Read(c => RunStore.LastChangeBy(c, "retype", 1)));

        Assert.Equal(
            [(3L, RunState.Undone, 3), (2L, RunState.Applying, 2)],
            house.Carrying.Runs("t").Select(r => (r.Id, r.State, r.Order.Version))
        );
        var carried = Assert.Single(house.Carrying.Documents(house.Carrying.Runs("t")[1], StepState.Done, 9)).What;
        Assert.Equal(("1", 1, "why", "1"), (carried.Record["a"], carried.Version, carried.Parked, carried.After["b"]));
        Assert.Single(house.Carrying.Documents(house.Carrying.Runs("t")[0], StepState.Stays, 9));

        Assert.Equal([(2L, RunState.Undone), (1L, RunState.Applied)], house.FilingRuns.Newest(9).Select(r => (r.Id, r.State)));
        var filed = Assert.Single(house.FilingRuns.Find(1, "ann")!.Value.Documents);
        Assert.Equal((StepState.Done, "one.pdf", "A/1.pdf", 7L), (filed.State, filed.Name, filed.ToPath, filed.LastChange));

        var refiled = Assert.Single(house.Refiling.Runs("t"));
        Assert.Equal(
            (6L, RunState.Applying, 1L, "the disk is full"),
            (refiled.Id, refiled.State, house.Refiling.Moved(refiled), refiled.Problem)
        );
        Assert.Equal([null, refiled.Key], house.Database.Read(c => new[] { MoveStore.Of(c, 1)[0].Run, MoveStore.Of(c, 2)[0].Run }));

        var wave = Assert.Single(house.Waves.Of(5));
        Assert.Equal(
            (8L, RunState.Applying, 33L, 30L, 2L, "trial"),
            (wave.Run.Id, wave.Run.State, wave.Run.Reached, wave.Tagged, wave.Left, wave.Run.Order.Reason)
        );
        var package = Assert.Single(house.Takeovers.Newest());
        Assert.Equal(("P", RunState.Looked, "damaged"), (package.Order.Folder, package.State, Assert.Single(package.Order.Look!.Problems)));
        Assert.Contains("wrong with this package", house.Takeovers.StartTake(7, "ann").Problem);

        var export = Assert.Single(house.Exports.Of(2));
        Assert.Equal(
            (3L, RunState.Applied, 12L, "Out (2)", "xml"),
            (export.Id, export.State, export.Looked, export.Order.Folder, export.Order.What.Format)
        );
        Assert.Equal((1L, 10L), house.Exports.Size(export));
        Assert.Equal("It has no place.", Assert.Single(house.Exports.Left(export, 9)).Message);

        Assert.Equal(
            [("bulk-apply", "{\"run\":4}"), ("carry-apply", "{\"run\":2}"), ("wave-apply", "{\"run\":8}")],
            house.Database.Read(JobStore.Running).OrderBy(j => j.Kind).Select(j => (j.Kind, j.Arguments))
        );
    }

    [Fact]
    public void Lines_of_the_ledger_of_before_say_what_they_can_only_mean()
    {
        using (var old = new Database(Path.Combine(_root, "clear-lexicon.db"), upTo: 19))
            old.Write(c =>
                c.Execute(
                    """
                    INSERT INTO document_types (code, name, draft, draft_open) VALUES ('t', 'T', '{}', 0), ('berth', 'Berth', '{}', 0);
                    INSERT INTO vocabularies (key, name) VALUES ('berth', 'Berths'), ('v', 'Words');
                    INSERT INTO ledger (seq, at, who, action, object, detail, hash) VALUES
                      (1, '2026-01-02T03:04:05.678Z', 'ann', 'filed as a later version of document 3', 'document 12', '', 'x'),
                      (2, '2026-01-02T03:04:05.678Z', 'ann', 'filed', 'document cabinet', '', 'x'),
                      (3, '2026-01-02T03:04:05.678Z', 'ann', 'added a field', 't', '', 'x'),
                      (4, '2026-01-02T03:04:05.678Z', 'ann', 'added a term', 'v', '', 'x'),
                      (5, '2026-01-02T03:04:05.678Z', 'ann', 'added a term', 'berth', '', 'x'),
                      (6, '2026-01-02T03:04:05.678Z', 'ann', 'signed in', 'ann', '', 'x');
                    """
                )
            );
        using var now = new Database(Path.Combine(_root, "clear-lexicon.db"));
        Assert.Equal(
            [
                (LedgerSubject.Document(12), LedgerEvent.Filed),
                (null, null),
                (new LedgerSubject(SubjectKind.Type, "t"), null),
                (new LedgerSubject(SubjectKind.Vocabulary, "v"), null),
                (null, null),
                (null, LedgerEvent.SignedIn),
            ],
            now.Read(c => LedgerStore.Newest(c, 9)).OrderBy(l => l.Seq).Select(l => ((LedgerSubject?, LedgerEvent?))(l.Subject, l.Event))
        );
        // It is append-only as before.
        Assert.Throws<Microsoft.Data.Sqlite.SqliteException>(() => now.Write(c => c.Execute("UPDATE ledger SET event = NULL")));
    }
}
