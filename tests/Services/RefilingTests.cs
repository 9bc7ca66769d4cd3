using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Collisions, counters, moves of filed documents and re-file runs, with files on disk.</summary>
public sealed class RefilingTests : IDisposable
{
    private readonly House _house = new();

    private static readonly Convention ByVessel = new([Piece.Literal("Slips"), Piece.Inside, Piece.Of("vessel")], [Piece.Of("number")]);

    public RefilingTests()
    {
        Assert.Null(_house.Drafts.Create("Slip", "me").Problem);
        Assert.Null(
            _house
                .Drafts.Change(
                    "slip",
                    "fields",
                    "me",
                    t =>
                        t with
                        {
                            Fields =
                            [
                                new TextField("number", "Number") { Required = true },
                                new TextField("vessel", "Vessel"),
                                new DateField("day", "Day"),
                            ],
                        }
                )
                .Problem
        );
        Publish(ByVessel);
    }

    private void Publish(Convention convention)
    {
        Assert.Null(_house.Drafts.Change("slip", "convention", "me", t => t with { Convention = convention }).Problem);
        Assert.Null(_house.Drafts.Publish("slip", "me").Problem);
    }

    private long Bring(string number, string vessel, string day = "2024-03-05", string content = "a scan")
    {
        var source = Path.Combine("brought", $"{Guid.NewGuid():N}.txt");
        File.WriteAllText(_house.Folder.Absolute(source), content);
        return _house.Database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "scan 7.txt",
                    SourceFile = source,
                    TypeCode = "slip",
                    Record = new Dictionary<string, string>
                    {
                        ["number"] = number,
                        ["vessel"] = vessel,
                        ["day"] = day,
                    },
                },
                []
            )
        );
    }

    private string? File_(string number, string vessel, string day = "2024-03-05", string content = "a scan") =>
        _house.Filer.File(Bring(number, vessel, day, content), "me") is { Ok: true } filed ? filed.Value : null;

    private StoredDocument At(string path) =>
        _house.Database.Read(c => DocumentStore.Find(c, RepositoryStore.At(c, Path.GetDirectoryName(path)!, Path.GetFileName(path)) ?? 0))!;

    // What stands on disk is what the records say, and nothing else.
    private string[] Stands()
    {
        var files = Directory
            .GetFiles(_house.Folder.Repository, "*", SearchOption.AllDirectories)
            .Select(f => Path.GetRelativePath(_house.Folder.Repository, f))
            .Order(StringComparer.Ordinal)
            .ToArray();
        Assert.Equal(
            _house
                .Database.Read(c => RepositorySearch.Find(c, new RepositoryQuery(), 500).Documents)
                .Select(d => $"{d.Folder}/{d.Name}")
                .Order(StringComparer.Ordinal),
            files
        );
        Assert.DoesNotContain(
            Directory.GetDirectories(_house.Folder.Repository, "*", SearchOption.AllDirectories),
            d => !Directory.EnumerateFileSystemEntries(d).Any()
        );
        return files;
    }

    private async Task<Run<RefileOrder>> Refile()
    {
        var job = _house.Refiling.Start("slip", _house.Refiling.Plan("slip")!.Version, "me");
        Assert.Null(job.Problem);
        await job.Value!.Completion;
        return _house.Refiling.Runs("slip")[0];
    }

    private async Task Undo(long run)
    {
        var job = _house.Refiling.StartUndo(run, "me");
        Assert.Null(job.Problem);
        await job.Value!.Completion;
    }

    [Fact]
    public void A_counter_never_gives_a_number_twice()
    {
        Publish(
            new Convention(
                [],
                [new Piece(PieceKind.Counter) { Digits = 3, Scope = CounterScope.Everywhere }, Piece.Literal(" "), Piece.Of("vessel")]
            )
        );
        Assert.Equal("/001 a.pdf", File_("1", "a"));
        Assert.Equal("/002 b.pdf", File_("2", "b"));
        // The document with the last number goes; its number does not come again.
        var last = At("002 b.pdf");
        _house.Database.Write(c => Sql.Command(c, "DELETE FROM documents WHERE id = $id", [("$id", last.Id)]).ExecuteNonQuery());
        File.Delete(_house.Folder.InRepository("", "002 b.pdf"));
        Assert.Equal("/003 c.pdf", File_("3", "c"));
        Publish(new Convention([Piece.Of("vessel")], [new Piece(PieceKind.Counter) { Scope = CounterScope.Folder }]));
        Assert.Equal(["a/1.pdf", "a/2.pdf", "b/1.pdf"], new[] { File_("4", "a"), File_("5", "a"), File_("6", "b") });
    }

    [Fact]
    public void A_taken_place_is_numbered_refused_becomes_a_version_or_is_skipped()
    {
        Assert.Equal("Slips/a/1.pdf", File_("1", "a"));
        Assert.Equal("Slips/a/1 (2).pdf", File_("1", "A", content: "other"));
        Publish(ByVessel with { Collision = Collision.Version });
        Assert.Equal("Slips/a/1 v3.pdf", File_("1", "a", content: "newer"));
        Assert.Equal(At("Slips/a/1.pdf").Id, At("Slips/a/1 v3.pdf").VersionOf);
        Publish(ByVessel with { Collision = Collision.SkipIdentical });
        var before = Stands().Length;
        Assert.Equal("Slips/a/1.pdf", File_("1", "a"));
        Assert.Equal(before, Stands().Length);
        Assert.Empty(_house.Desk.Queue("me"));
        Assert.Equal("Slips/a/1 (4).pdf", File_("1", "a", content: "one more"));
        Publish(ByVessel with { Collision = Collision.Refuse });
        var refused = Bring("1", "a");
        Assert.Equal(Readiness.Must, _house.Desk.Find(refused, "me")!.State);
        Assert.Contains("already a document in this place: 1.pdf", _house.Filer.File(refused, "me").Problem);
    }

    [Fact]
    public void Two_who_file_at_once_never_get_one_name()
    {
        var ids = Enumerable.Range(0, 24).Select(_ => Bring("1", "a")).ToArray();
        var paths = new string?[ids.Length];
        Parallel.For(
            0,
            ids.Length,
            new ParallelOptions { MaxDegreeOfParallelism = 8 },
            i => paths[i] = _house.Filer.File(ids[i], i % 2 == 0 ? "me" : "you").Value
        );
        Assert.Equal(ids.Length, paths.Distinct(StringComparer.OrdinalIgnoreCase).Count());
        Assert.Equal(
            Enumerable.Range(2, 23).Select(n => $"Slips/a/1 ({n}).pdf").Append("Slips/a/1.pdf").Order(StringComparer.Ordinal),
            Stands()
        );
    }

    [Fact]
    public void An_edited_document_moves_and_can_be_moved_back()
    {
        File_("1", "a");
        var id = At("Slips/a/1.pdf").Id;
        Assert.Null(_house.Moves.PathByValues(id));
        Assert.True(_house.Filed.Edit(id, "vessel", "b", "", "me").Ok);
        Assert.Equal("Slips/b/1.pdf", _house.Moves.PathByValues(id));
        Assert.Equal("Slips/b/1.pdf", _house.Moves.Follow(id, "me").Value);
        Assert.Equal(["Slips/b/1.pdf"], Stands());
        var move = _house.Moves.Of(id)[0];
        Assert.Equal(("Slips/a", "1.pdf", MoveState.Done), (move.FromFolder, move.FromName, move.State));
        Assert.True(_house.Moves.Back(move.Id, id, "me").Ok);
        Assert.Equal(["Slips/a/1.pdf"], Stands());
        Assert.False(_house.Moves.Back(move.Id, id, "me").Ok);
    }

    [Theory]
    [InlineData("journaled")]
    [InlineData("moved")]
    [InlineData("recording")]
    public void A_kill_in_a_move_leaves_file_and_record_together(string step)
    {
        File_("1", "a");
        var id = At("Slips/a/1.pdf").Id;
        Assert.True(_house.Filed.Edit(id, "vessel", "b", "", "me").Ok);
        _house.Moves.Checkpoint = at =>
        {
            if (at == step)
                throw new OperationCanceledException("killed");
        };
        Assert.Throws<OperationCanceledException>(() => _house.Moves.Follow(id, "me"));
        var again = new Moves(_house.Database, _house.Folder, _house.Designs, _house.Clock);
        Assert.Equal(1, again.Recover());
        Assert.Equal(["Slips/a/1.pdf"], Stands());
        Assert.Equal("Slips/b/1.pdf", again.Follow(id, "me").Value);
        Assert.Equal(["Slips/b/1.pdf"], Stands());
    }

    [Theory]
    [InlineData("journaled")]
    [InlineData("moved")]
    [InlineData("recording")]
    [InlineData("never")]
    public void A_power_cut_in_a_move_leaves_file_and_record_together(string step)
    {
        File_("1", "a");
        var disk = new FragileDisk();
        _house.Folder.Disk = disk;
        var id = At("Slips/a/1.pdf").Id;
        Assert.True(_house.Filed.Edit(id, "vessel", "b", "", "me").Ok);
        _house.Moves.Checkpoint = at =>
        {
            if (at == step)
                throw new OperationCanceledException("power");
        };
        try
        {
            _house.Moves.Follow(id, "me");
        }
        catch (OperationCanceledException) { }
        disk.Cut();
        using var again = _house.Restarted();
        again.Moves.Recover();
        Assert.Equal(step == "never" ? ["Slips/b/1.pdf"] : ["Slips/a/1.pdf"], Stands());
        Assert.Equal("Slips/b/1.pdf", again.Moves.Follow(id, "me").Value);
    }

    private async Task<string[]> Misplaced()
    {
        await _house.IntegrityCheck.Start().Ended();
        Assert.Empty(_house.Failures);
        return [.. _house.IntegrityCheck.Last!.Found.Select(f => $"{f.What} {f.Path}: {f.Detail}").Order(StringComparer.Ordinal)];
    }

    [Fact]
    public async Task What_stands_elsewhere_or_is_otherwise_than_its_record_says_is_found_and_repaired()
    {
        foreach (var n in new[] { "1", "2", "3", "4" })
            File_(n, "Corvina", content: $"scan {n}");
        Assert.Equal("Slips/Corvina/4 (2).pdf", File_("4", "Corvina"));
        Assert.Empty(await Misplaced());
        Assert.Equal(5, _house.IntegrityCheck.Last!.Looked);

        string On(string path) => Path.Combine(_house.Folder.Repository, path);
        Directory.CreateDirectory(On("Elsewhere"));
        File.Move(On("Slips/Corvina/1.pdf"), On("Elsewhere/one.pdf"));
        File.AppendAllText(On("Slips/Corvina/2.pdf"), "scribbled");
        File.WriteAllText(On("Slips/notes.txt"), "by hand");
        Assert.True(_house.Filed.Edit(At("Slips/Corvina/3.pdf").Id, "vessel", "Skua", "", "me").Ok);
        Assert.Equal(
            [
                "Changed Slips/Corvina/2.pdf: its content is not what was filed",
                "Missing Slips/Corvina/1.pdf: there is no file",
                "OtherValues Slips/Corvina/3.pdf: the path says Vessel Corvina, the record Skua",
                "Stray Elsewhere/one.pdf: is the file of Slips/Corvina/1.pdf",
                "Stray Slips/notes.txt: no document has it",
            ],
            await Misplaced()
        );

        var one = At("Slips/Corvina/1.pdf").Id;
        // Nothing but the very file goes back, and it overwrites nothing.
        Assert.Contains("not the file that was filed", _house.IntegrityCheck.PutBack("Slips/notes.txt", one, "me").Problem);
        Assert.Contains("no longer there", _house.IntegrityCheck.PutBack("Elsewhere/two.pdf", one, "me").Problem);
        File.WriteAllText(On("Slips/Corvina/1.pdf"), "in the way");
        Assert.Contains("could not be put back", _house.IntegrityCheck.PutBack("Elsewhere/one.pdf", one, "me").Problem);
        File.Delete(On("Slips/Corvina/1.pdf"));
        Assert.Null(_house.IntegrityCheck.PutBack("Elsewhere/one.pdf", one, "me").Problem);
        Assert.Equal(At("Slips/Corvina/1.pdf").FileHash, DataFolder.HashOf(On("Slips/Corvina/1.pdf")));
        Assert.Equal(3, (await Misplaced()).Length);
    }

    [Fact]
    public async Task A_changed_convention_is_shown_applied_and_taken_back()
    {
        for (var i = 0; i < 40; i++)
            File_($"{i}", $"v{i % 4}", $"202{i % 3}-01-05");
        var before = Stands();
        Assert.Empty(_house.Refiling.Plan("slip")!.Moves);
        Publish(new Convention([Piece.Of("day") with { DateForm = "yyyy" }], [Piece.Of("vessel"), Piece.Literal(" "), Piece.Of("number")]));
        var plan = _house.Refiling.Plan("slip")!;
        Assert.Equal((40, 0), (plan.Moves.Count, plan.Stay));
        Assert.True(plan.Tree.Find("Slips")!.IsLeft);
        Assert.Equal(40, plan.Tree.Root.Inside.Where(f => f.IsNew).Sum(f => f.AddedAll));
        Assert.Equal(before, Stands());
        var run = await Refile();
        Assert.Equal((RunState.Applied, 40L), (run.State, _house.Refiling.Moved(run)));
        Assert.Equal(plan.Moves.Select(m => $"{m.ToFolder}/{m.ToName}").Order(StringComparer.Ordinal), Stands());
        Assert.Empty(_house.Refiling.Plan("slip")!.Moves);
        await Undo(run.Id);
        Assert.Equal(before, Stands());
        Assert.Equal(RunState.Undone, _house.Refiling.Runs("slip")[0].State);
        Assert.True(_house.Database.Read(c => LedgerStore.Verify(c)).Sound);
    }

    /// <summary>Many documents are looked at in the background; what was found holds until anything changes.</summary>
    [Fact]
    public async Task A_plan_of_many_documents_is_looked_at_first_and_held()
    {
        for (var i = 0; i < 12; i++)
            File_($"{i}", "a");
        Publish(ByVessel with { Folder = [Piece.Literal("New")] });
        Assert.Equal(12, _house.Refiling.Known("slip")!.Moves.Count);
        Assert.Same(_house.Refiling.Known("slip"), _house.Refiling.Known("slip"));
        _house.Refiling.AtOnce = 10;
        File_("13", "b");
        Assert.Null(_house.Refiling.Known("slip"));
        var job = await _house.Refiling.StartPlan("slip", "me").Ended();
        Assert.Equal((26L, 26L), (job.Total, job.Done));
        Assert.Equal((12, 1), (_house.Refiling.Known("slip")!.Moves.Count, _house.Refiling.Known("slip")!.Stay));
        Assert.True(_house.Filed.Edit(At("New/13.pdf").Id, "vessel", "c", "", "me").Ok);
        Assert.Null(_house.Refiling.Known("slip"));
        Assert.Null(_house.Refiling.Known("nothing"));
    }

    [Fact]
    public async Task Documents_that_change_places_with_each_other_arrive()
    {
        File_("1", "2");
        File_("2", "1");
        File_("3", "3");
        Publish(new Convention([Piece.Literal("Slips"), Piece.Inside, Piece.Of("number")], [Piece.Of("vessel")]));
        var places = Stands();
        var run = await Refile();
        Assert.Equal((RunState.Applied, 2L), (run.State, _house.Refiling.Moved(run)));
        Assert.Empty(_house.Refiling.Left(run, 9));
        Assert.Equal(places, Stands());
        Assert.Equal("1", At("Slips/1/2.pdf").Record["number"]);
        await Undo(run.Id);
        Assert.Equal(places, Stands());
        Assert.Equal("2", At("Slips/1/2.pdf").Record["number"]);
    }

    [Fact]
    public async Task What_was_changed_by_hand_underneath_is_left_and_named()
    {
        foreach (var n in new[] { "1", "2", "3", "4" })
            File_(n, "a");
        File.AppendAllText(_house.Folder.InRepository("Slips/a", "1.pdf"), "scribble");
        File.Move(_house.Folder.InRepository("Slips/a", "2.pdf"), _house.Folder.InRepository("Slips/a", "moved.pdf"));
        Directory.CreateDirectory(_house.Folder.InRepository("", "New"));
        File.WriteAllText(_house.Folder.InRepository("New", "3.pdf"), "stray");
        Publish(new Convention([Piece.Literal("New")], [Piece.Of("number")]));
        var run = await Refile();
        Assert.Equal((RunState.Applied, 1L), (run.State, _house.Refiling.Moved(run)));
        Assert.Collection(
            _house.Refiling.Left(run, 9),
            l => Assert.Contains("1.pdf” was changed by hand", l),
            l => Assert.Contains("2.pdf” is not where its record says", l),
            l => Assert.Contains("a file at “New/3.pdf” that no record knows", l)
        );
        Assert.Equal("stray", File.ReadAllText(_house.Folder.InRepository("New", "3.pdf")));
        Assert.True(File.Exists(_house.Folder.InRepository("Slips/a", "3.pdf")));
    }

    [Fact]
    public async Task A_disk_that_fills_stops_the_run_and_what_has_moved_can_be_taken_back()
    {
        for (var i = 0; i < 10; i++)
            File_($"{i}", "a");
        var before = Stands();
        Publish(new Convention([Piece.Literal("New")], [Piece.Of("number")]));
        _house.Folder.Disk = new FillingDisk(4);
        var run = await Refile();
        Assert.Equal((RunState.Applying, 4L), (run.State, _house.Refiling.Moved(run)));
        Assert.Contains("the disk is full", run.Problem);
        Assert.Equal(10, Stands().Length);
        Assert.Equal(6, _house.Refiling.Plan("slip")!.Moves.Count);
        _house.Folder.Disk = new Disk();
        // It goes on by the version that somebody has looked at, and by no other.
        Publish(new Convention([Piece.Literal("Newer")], [Piece.Of("number")]));
        Assert.Contains("published in between", _house.Refiling.Resume(run.Id, "me").Problem);
        Assert.Equal(4, _house.Refiling.Moved(run));
        await Undo(run.Id);
        Assert.Equal(before, Stands());
    }

    [Fact]
    public async Task Numbers_are_set_aside_for_a_run_beside_which_filing_never_rests()
    {
        for (var i = 0; i < 40; i++)
            File_($"{i}", "a");
        Publish(new Convention([Piece.Literal("New")], [new Piece(PieceKind.Counter) { Digits = 5, Scope = CounterScope.Everywhere }]));
        var given = new HashSet<int>();
        using var stop = new CancellationTokenSource();
        var filing = Task.Run(() =>
        {
            while (!stop.IsCancellationRequested)
                _house.Database.Write(c =>
                {
                    var next = CounterStore.Last(c, "type:slip") + 1;
                    CounterStore.Take(c, "type:slip", next);
                    given.Add(next);
                });
        });
        while (Volatile.Read(ref given).Count == 0)
            await Task.Delay(1);
        var run = await Refile();
        await stop.CancelAsync();
        await filing;
        Assert.Equal((RunState.Applied, 40L), (run.State, _house.Refiling.Moved(run)));
        Assert.DoesNotContain(_house.Database.Read(c => DocumentStore.After(c, "slip", 0, 100)), d => given.Contains(d.Number));
    }

    private sealed class FillingDisk(int room) : Disk
    {
        private int _room = room;

        public override void Move(string from, string to)
        {
            if (_room-- == 0)
                throw new IOException("No space left on device");
            base.Move(from, to);
        }
    }

    [Fact]
    public void A_dry_run_of_another_version_is_refused()
    {
        File_("1", "a");
        Publish(new Convention([], [Piece.Of("number")]));
        var seen = _house.Refiling.Plan("slip")!.Version;
        Publish(new Convention([], [Piece.Of("vessel")]));
        Assert.Contains($"Version {seen + 1} has been published in between", _house.Refiling.Start("slip", seen, "me").Problem);
        Assert.Equal(["Slips/a/1.pdf"], Stands());
    }

    [Fact]
    public void System_values_are_kept_as_they_were_at_filing()
    {
        Publish(
            new Convention(
                [Piece.Of(SystemValue.Person), Piece.Inside, Piece.Of(SystemValue.Today) with { DateForm = "yyyy" }],
                [Piece.Of("number"), Piece.Literal(" "), Piece.Of(SystemValue.OriginalName) with { Part = 2 }]
            )
        );
        Assert.Equal($"me/{_house.Clock.Today():yyyy}/1 7.pdf", File_("1", "a"));
        var id = At($"me/{_house.Clock.Today():yyyy}/1 7.pdf").Id;
        Assert.True(_house.Filed.Edit(id, "number", "9", "", "somebody else").Ok);
        Assert.Equal($"me/{_house.Clock.Today():yyyy}/9 7.pdf", _house.Moves.Follow(id, "somebody else").Value);
    }

    [Fact]
    public void A_proposal_from_paths_becomes_the_convention_with_its_fields()
    {
        Assert.Null(_house.Drafts.Create("Chit", "me").Problem);
        var proposed = _house.Proposals.Propose("chit", ["Chits/2024/MH-007 Grey Heron.pdf", "Chits/2023/MH-012 Corvina.pdf"]);
        var fields = new Dictionary<string, ChosenField>
        {
            ["number"] = new("Chit number", FieldKind.Text, null),
            ["title"] = new("Chit number", FieldKind.Text, null),
        };
        var (twice, ticket, _) = _house.Proposals.Take("chit", proposed.Value.Ticket, fields, new HashSet<int>(), "me");
        Assert.Contains("a field with the key “chit-number” already", twice.Problem);
        fields["title"] = new("Vessel", FieldKind.Text, null);
        Assert.True(_house.Proposals.Take("chit", ticket, fields, new HashSet<int>(), "me").Result.Ok);
        var draft = _house.Designs.Find("chit")!.Draft;
        Assert.Equal(
            "Chits / ‹Year› : MH-‹Chit number: 3 digits› ‹Vessel›",
            $"{DesignDifference.Outline(draft.Convention.Folder, draft)} : {DesignDifference.Outline(draft.Convention.Name, draft)}"
        );
        Assert.Equal(
            [("year", FieldKind.WholeNumber), ("chit-number", FieldKind.Text), ("vessel", FieldKind.Text)],
            draft.Fields.Select(f => (f.Key, f.Kind))
        );
        Assert.Equal("took a convention from paths", _house.Drafts.Undo("chit", "me"));
        Assert.Empty(_house.Designs.Find("chit")!.Draft.Fields);
    }

    public void Dispose() => _house.Dispose();
}
