using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Demo;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>What is restricted stays so: typed by hand, or restricted only later.</summary>
public sealed class RestrictingTests : IDisposable
{
    private static readonly HarbourPage Sound = HarbourDocuments.AlreadyFiled()[0];

    private static readonly string Code = HarbourDesign.VesselCall.Code;

    private House _house = new House().WithDesigns();

    private async Task<long> Filed()
    {
        HarbourDocuments.Draw(Sound, _house.Folder.Tray);
        var (batch, job) = (await _house.Intake.ScanAsync("me"))!.Value;
        await job!.Completion;
        var id = _house.Desk.Waiting("me", batch)[0].Document.Id;
        Assert.Null(_house.Filer.File(id, "me").Problem);
        return id;
    }

    private StoredDocument Document(long id) => _house.Database.Read(c => DocumentStore.Find(c, id))!;

    // As a searcher would find it.
    private bool Finds(string words) =>
        _house.Database.Read(c =>
            RepositorySearch.Count(c, new RepositoryQuery { Anywhere = words, NotByWords = _house.Rebuilding.Due }).Number
        ) > 0;

    private IReadOnlyList<string> Unplaced(long id) => FullText.Redaction(Document(id), _house.Designs.Published[Code].Type).Unplaced;

    [Fact]
    public async Task A_value_typed_without_a_place_closes_the_pages_until_somebody_says_where_it_stands()
    {
        var id = await Filed();
        var word = Sound.Truth["call-number"];
        Assert.True(Finds(word) && Finds(Sound.Truth["vessel"]));
        // As if the reader had had no zone for it, and the indexer typed it.
        _house.Database.Write(c =>
            DocumentStore.Save(c, Document(id) with { Evidence = Document(id).Evidence.Where(e => e.Key != "master").ToDictionary() })
        );
        Assert.Null(_house.Filed.Edit(id, "master", "Ada Moor", "", "me").Problem);
        Assert.Equal(["master"], Unplaced(id));
        var page = _house.Desk.Pages(id)[0];
        var type = _house.Designs.Published[Code].Type;
        Assert.Equal([new Box(0, 0, 1, 1)], FullText.Redaction(Document(id), type).Masks(page.Text, 1));
        Assert.False(Finds("cargo"));
        Assert.Contains("no page 7", _house.Filed.Place(id, "master", 7, new Box(0, 0, 1, 1), "me").Problem);
        Assert.Contains("Drag a box", _house.Filed.Place(id, "master", 1, default, "me").Problem);
        Assert.Contains("known already", _house.Filed.Place(id, "vessel", 1, new Box(0, 0, 1, 1), "me").Problem);

        var seen = page.Text.Words.First(w => w.Text == word);
        Assert.Null(_house.Filed.Place(id, "master", 1, seen.Box, "me").Problem);
        Assert.Empty(Unplaced(id));
        Assert.Contains(FullText.Redaction(Document(id), type).Masks(page.Text, 1), m => m == seen.Box);
        Assert.Contains("marked on page 1", _house.Database.Read(c => LedgerStore.Newest(c, 1))[0].Action);

        // "No page shows it" is said of a value; another one is asked about anew.
        _house.Database.Write(c =>
            DocumentStore.Save(c, Document(id) with { Evidence = Document(id).Evidence.Where(e => e.Key != "master").ToDictionary() })
        );
        Assert.Null(_house.Filed.Place(id, "master", null, default, "me").Problem);
        Assert.Empty(Unplaced(id));
        Assert.Null(_house.Filed.Edit(id, "master", "Bo Li", "", "me").Problem);
        Assert.Equal(["master"], Unplaced(id));
    }

    [Fact]
    public async Task Restricting_a_field_later_rebuilds_the_full_text_and_nothing_is_found_meanwhile_or_after_a_kill()
    {
        var id = await Filed();
        var agent = Sound.Truth["agent"].Split(' ')[0];
        Assert.True(Finds(agent));
        _house.Rebuilding.Checkpoint = () => throw new OperationCanceledException();
        Assert.Null(
            _house
                .Drafts.Change(
                    Code,
                    "restricted",
                    "me",
                    t => t with { Fields = [.. t.Fields.Select(f => f.Key == "agent" ? f with { Restricted = true } : f)] }
                )
                .Problem
        );
        Assert.Null(_house.Drafts.Publish(Code, "me").Problem);
        Assert.Equal([Code], _house.Rebuilding.Due);
        Assert.False(Finds(agent));
        while (_house.Jobs.Running($"text {Code}") is { } job)
            await job.Completion;
        Assert.Equal([Code], _house.Rebuilding.Due);

        _house = _house.Restarted();
        Assert.False(Finds(agent));
        _house.Rebuilding.StartDue();
        while (_house.Jobs.Running($"text {Code}") is { } job)
            await job.Completion;
        Assert.Empty(_house.Rebuilding.Due);
        Assert.False(Finds(agent));
        Assert.True(Finds(Sound.Truth["vessel"].Split(' ')[0]));
        Assert.Equal(
            1,
            _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery { Anywhere = agent, IncludeRestricted = true }).Number)
        );
        Assert.Contains(
            FullText.Redaction(Document(id), _house.Designs.Published[Code].Type).Masks(_house.Desk.Pages(id)[0].Text, 1),
            m => m.Overlaps(Document(id).Evidence["agent"].Box)
        );
    }

    [Fact]
    public async Task A_design_file_that_restricts_a_field_starts_the_same_work()
    {
        await Filed();
        var agent = Sound.Truth["agent"].Split(' ')[0];
        Assert.True(Finds(agent));
        var file = _house.Files.Export(byReference: true);
        file = file with
        {
            Types =
            [
                .. file.Types.Select(t =>
                    t.Design.Code != Code
                        ? t
                        : t with
                        {
                            Design = t.Design with
                            {
                                Fields = [.. t.Design.Fields.Select(f => f.Key == "agent" ? f with { Restricted = true } : f)],
                            },
                        }
                ),
            ],
        };
        Assert.Null(_house.Files.Import(file, "me").Problem);
        while (_house.Jobs.Running($"text {Code}") is { } job)
            await job.Completion;
        Assert.Empty(_house.Rebuilding.Due);
        Assert.False(Finds(agent));
    }

    [Fact]
    public async Task Keys_that_were_kept_in_an_earlier_form_are_made_anew_at_start()
    {
        var id = await Filed();
        var before = _house.Database.Read(c => UniqueKeyStore.Of(c, Code));
        Assert.NotEmpty(before);
        while (_house.Jobs.Running($"text {Code}") is { } job)
            await job.Completion;
        _house.Database.Write(c =>
        {
            UniqueKeyStore.Set(c, id, Code, [(before[0].RuleId, "as it was written before")]);
            SettingStore.Set(c, "rebuilt-form", "1");
        });
        _house = _house.Restarted();
        _house.Rebuilding.StartDue();
        while (_house.Jobs.Running($"text {Code}") is { } job)
            await job.Completion;
        Assert.Equal(before, _house.Database.Read(c => UniqueKeyStore.Of(c, Code)));
    }

    [Fact]
    public void What_follows_from_a_restricted_value_has_to_be_restricted_too()
    {
        var type = HarbourDesign.VesselCall;
        DocumentType With(params Field[] fields) => type with { Fields = [.. type.Fields, .. fields] };
        string[] Codes(DocumentType t) =>
            [.. _house.Drafts.Findings(t).Select(f => f.Code).Where(c => c.StartsWith("restricted-", StringComparison.Ordinal))];
        var told = new TextField("told", "Told") { DefaultFrom = DefaultSource.Formula, Default = "Upper(master)" };
        Assert.Equal(["restricted-formula"], Codes(With(told)));
        Assert.Empty(Codes(With(told with { Restricted = true })));
        var looked = With(new TextField("told", "Told")) with
        {
            Fillings =
            [
                new Filling(
                    "crew",
                    new Dictionary<string, string> { ["name"] = "master" },
                    new Dictionary<string, string> { ["rank"] = "told" },
                    false
                ),
            ],
        };
        Assert.Equal(["restricted-filling"], Codes(looked));
    }

    public void Dispose() => _house.Dispose();
}
