using System.Diagnostics;
using ClearLexicon.Core.Fields;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Migration;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>The whole repository as a package: nothing is lost on the way to another installation, and nothing unsound gets in.</summary>
public sealed class PackageTests : IDisposable
{
    private readonly House _house = new();
    private House _other = new();

    private sealed class StoppedException : Exception;

    [Fact]
    public async Task A_package_taken_over_elsewhere_is_the_same_repository_also_after_stops_at_every_step()
    {
        var ids = await Filled();
        var package = await Packed();
        // Another program finds every file as the manifests say.
        foreach (var sums in new[] { "manifest-sha256.txt", "manifest-sha512.txt", "tagmanifest-sha256.txt" })
        {
            using var check = Process.Start(
                new ProcessStartInfo(sums.Contains("256", StringComparison.Ordinal) ? "sha256sum" : "sha512sum", ["--quiet", "-c", sums])
                {
                    WorkingDirectory = package,
                }
            )!;
            await check.WaitForExitAsync();
            Assert.Equal(0, check.ExitCode);
        }

        var takeover = await Looked(package);
        Assert.Empty(takeover.Order.Look!.Problems);
        Assert.Equal(_house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery())).Number, takeover.Order.Look.Documents);
        Assert.Null(_other.Takeovers.WhyNot());
        foreach (var step in new[] { "design", "copied", "made" })
        {
            _other.Takeovers.Checkpoint = at =>
            {
                if (at == step)
                    throw new StoppedException();
            };
            Assert.NotNull((await _other.Takeovers.StartTake(takeover.Id, "ann").Ended()).Problem);
            _other = _other.Restarted();
        }
        await _other.Takeovers.StartTake(takeover.Id, "ann").Ended();
        Assert.Equal("", string.Concat(_other.Failures));
        Assert.Equal(RunState.Applied, _other.Takeovers.Newest()[0].State);

        // Every document, value, place of evidence, page and change; every file; the design; the numbers.
        var again = await Packed(_other);
        foreach (var name in new[] { "documents.jsonl", "design.json", "house.json" })
            Assert.Equal(File.ReadAllText(In(package, name)), File.ReadAllText(In(again, name)));
        Assert.Equal(
            File.ReadAllLines(Path.Combine(package, "manifest-sha256.txt")),
            File.ReadAllLines(Path.Combine(again, "manifest-sha256.txt"))
        );
        await _other.IntegrityCheck.Start("ann").Ended();
        Assert.Empty(_other.IntegrityCheck.Last!.Found);

        // It is found alike, by value, by word and by folder; what is restricted stays so.
        foreach (
            var query in new[]
            {
                new RepositoryQuery { Anywhere = _house.Get(ids[0]).Record["vessel"], IncludeRestricted = true },
                new RepositoryQuery
                {
                    TypeCode = HarbourDesign.VesselCall.Code,
                    Conditions = [new FieldCondition("vessel", FieldKind.Text, Look.Is, _house.Get(ids[0]).Record["vessel"])],
                },
                new RepositoryQuery { Folder = _house.Get(ids[0]).Folder! },
                new RepositoryQuery { Anywhere = "1987" },
            }
        )
            Assert.Equal(Found(_house, query), Found(_other, query));

        // Numbers go on behind those that were given, and what was filed can be edited.
        Assert.Equal(Counters(_house), Counters(_other));
        Assert.Contains("holds documents", _other.Takeovers.WhyNot());
    }

    [Fact]
    public async Task What_was_taken_over_is_taken_away_again_but_for_what_somebody_has_touched()
    {
        var ids = await Filled();
        var takeover = await Looked(await Packed());
        await _other.Takeovers.StartTake(takeover.Id, "ann").Ended();
        Assert.Equal("", string.Concat(_other.Failures));
        Assert.NotNull(_other.Takeovers.StartTake(takeover.Id, "ann").Problem);

        // What was removed again can be imported again: only the design has stayed, and it is the same.
        await _other.Takeovers.StartTakeAway(takeover.Id, "ann").Ended();
        Assert.Empty(Found(_other, new RepositoryQuery()));
        foreach (var i in Enumerable.Range(0, 30))
            Directory.CreateDirectory(Path.Combine(_other.Folder.Packages, $"A{i}"));
        await _other.Takeovers.StartLook("From the harbour", "ann").Ended();
        takeover = _other.Takeovers.Newest()[0];
        Assert.Empty(takeover.Order.Look!.Problems);
        Assert.NotNull(_other.Takeovers.WhyNot());
        await _other.Takeovers.StartTake(takeover.Id, "ann").Ended();
        Assert.Equal(("", RunState.Applied), (string.Concat(_other.Failures), _other.Takeovers.Newest()[0].State));
        Assert.Equal(Found(_house, new RepositoryQuery()), Found(_other, new RepositoryQuery()));

        Assert.Null(_other.Filed.Edit(ids[1], "agent", "Kelpie Ferries", "", "ann").Problem);
        await _other.Takeovers.StartTakeAway(takeover.Id, "ann").Ended();
        Assert.Equal(RunState.Undone, _other.Takeovers.Newest()[0].State);
        Assert.Equal([ids[1]], Found(_other, new RepositoryQuery()));
        Assert.Equal(
            0,
            _other.Database.Read(c => c.Scalar<long>("SELECT count(*) FROM found_in WHERE document_id <> $id", ("$id", ids[1])))
        );
        Assert.Equal(
            [_other.Folder.InRepository(_other.Get(ids[1]).Folder!, _other.Get(ids[1]).Name!)],
            Directory.GetFiles(_other.Folder.Repository, "*", SearchOption.AllDirectories)
        );
    }

    /// <summary>Each damage is named before anything is taken.</summary>
    [Fact]
    public async Task A_package_that_was_changed_damaged_or_made_to_do_harm_is_refused_by_name()
    {
        await Filled();
        var sound = await Packed();
        var file = Directory.GetFiles(Path.Combine(sound, "data", "repository"), "*.pdf", SearchOption.AllDirectories).Order().First();
        var relative = Path.GetRelativePath(sound, file);
        async Task Says(string expected, Action<string> damage, bool closes = false)
        {
            using var house = new House();
            var package = Path.Combine(house.Folder.Packages, "P");
            CopyAll(sound, package);
            damage(package);
            if (closes)
            {
                foreach (var old in Directory.GetFiles(package, "*.txt"))
                    File.Delete(old);
                BagItPackage.Close(package, [], default);
            }
            await house.Takeovers.StartLook("P", "ann").Ended();
            var look = house.Takeovers.Newest()[0];
            Assert.Contains(look.Order.Look!.Problems, p => p.Contains(expected, StringComparison.Ordinal));
            Assert.NotNull(house.Takeovers.StartTake(look.Id, "ann").Problem);
            Assert.True(house.Database.Read(TakeoverStore.IsEmpty));
        }
        void Line(string package, Func<string, string> change) =>
            File.WriteAllLines(
                In(package, "documents.jsonl"),
                File.ReadAllLines(In(package, "documents.jsonl")).Select((l, i) => i == 1 ? change(l) : l)
            );

        await Says("was changed or damaged", p => File.AppendAllText(Path.Combine(p, relative), "x"));
        await Says("is not there", p => File.Delete(Path.Combine(p, relative)));
        await Says("1 of its files are not in", p => File.WriteAllText(In(p, "more.txt"), "x"));
        await Says("no bagit.txt", p => File.Delete(Path.Combine(p, "bagit.txt")));
        await Says("to be fetched", p => File.WriteAllText(Path.Combine(p, "fetch.txt"), "http://harbour.test/x 1 data/x"));
        await Says(
            "names no file of it",
            p => File.AppendAllText(Path.Combine(p, "manifest-sha256.txt"), "00  data/../../../etc/passwd\n")
        );
        await Says("is a link", p => File.CreateSymbolicLink(In(p, "link"), "/etc/passwd"));
        await Says("house.json", p => File.WriteAllText(In(p, "house.json"), "{}"), closes: true);
        await Says(
            "documents, and holds",
            p =>
                File.WriteAllText(
                    In(p, "house.json"),
                    File.ReadAllText(In(p, "house.json")).Replace("\"documents\":", "\"documents\":9", StringComparison.Ordinal)
                ),
            closes: true
        );
        await Says("Line 2 of documents.jsonl is no document", p => Line(p, l => l[..^9]), closes: true);
        await Says("Line 2 of documents.jsonl is no document", p => Line(p, _ => "null"), closes: true);
        await Says("they must rise", p => Line(p, _ => File.ReadAllLines(In(sound, "documents.jsonl"))[0]), closes: true);
        foreach (
            var (expected, from, more) in new[]
            {
                ("is not a published one", "\"typeCode\":\"", "x"),
                ("cannot be a place", "\"folder\":\"", "../../"),
                ("leads out of the package", "\"image\":\"pages/", "../../"),
                ("is not the one that its record says", "\"fileHash\":\"", "0"),
                ("time that is none", "\"filedAt\":\"", "9"),
                ("its number is larger", "{\"document\":{\"id\":", "9000000000000"),
            }
        )
            await Says(expected, p => Line(p, l => l.Replace(from, from + more, StringComparison.Ordinal)), closes: true);
        await Says("is not in the package", p => File.Delete(Path.Combine(p, relative)), closes: true);
        await Says(
            "cannot be read at line",
            p => File.WriteAllText(In(p, "design.json"), File.ReadAllText(In(p, "design.json"))[..^30]),
            closes: true
        );
    }

    private static string In(string package, string name) => Path.Combine(package, "data", name);

    private static List<long> Found(House house, RepositoryQuery query) =>
        house.Database.Read(c => RepositorySearch.Find(c, query, 200).Documents.ConvertAll(d => d.Id));

    private static List<(string, int)> Counters(House house) =>
        house.Database.Read(c =>
        {
            var all = new List<(string, int)>();
            CounterStore.Each(c, (key, number) => all.Add((key, number)));
            return all;
        });

    // Documents of several types; one with a changed value, one that is a later version of another, legacy ones whose files lie elsewhere.
    private async Task<List<long>> Filled()
    {
        var ids = await _house.FiledAsync(HarbourDesign.VesselCall.Code);
        Assert.True(ids.Count > 3);
        await _house.Migrations.StartDryRun(await _house.InventoryAsync(60), "me").Ended();
        await _house.Waves.Start(1, null, "me").Ended();
        _house.Database.Write(c =>
            c.Execute("UPDATE documents SET version_of = $later WHERE id = $id", ("$id", ids[2]), ("$later", ids[3]))
        );
        Assert.Null(_house.Filed.Edit(ids[0], "agent", "Pellworm Maritime", "", "me").Problem);
        return ids;
    }

    private async Task<string> Packed(House? house = null)
    {
        house ??= _house;
        await house.Packages.Start("me").Ended();
        return Path.Combine(house.Folder.Exports, Assert.Single(house.Packages.Made()).Folder);
    }

    private async Task<Run<PackageOrder>> Looked(string package)
    {
        CopyAll(package, Path.Combine(_other.Folder.Packages, "From the harbour"));
        Assert.Equal(["From the harbour"], _other.Takeovers.Waiting());
        await _other.Takeovers.StartLook("From the harbour", "ann").Ended();
        return Assert.Single(_other.Takeovers.Newest());
    }

    private static void CopyAll(string from, string to)
    {
        foreach (var file in Directory.EnumerateFiles(from, "*", SearchOption.AllDirectories))
        {
            var target = Path.Combine(to, Path.GetRelativePath(from, file));
            Directory.CreateDirectory(Path.GetDirectoryName(target)!);
            File.Copy(file, target);
        }
    }

    public void Dispose()
    {
        _house.Dispose();
        _other.Dispose();
    }
}
