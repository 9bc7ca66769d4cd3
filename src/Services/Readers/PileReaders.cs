using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Readers;

/// <summary>What a person decides about a field proposed from pages.</summary>
/// <param name="At">Position of the value in the proposal.</param>
/// <param name="Label">Its label.</param>
/// <param name="Kind">What it holds.</param>
public sealed record DecidedField(int At, string Label, FieldKind Kind);

/// <summary>Makes readers, and document types with their readers, of the groups of a pile.</summary>
public sealed class PileReaders(
    Database database,
    DataFolder folder,
    Designs designs,
    Drafts drafts,
    FieldsFromPages fromPages,
    TaughtReaders readers,
    PileSorting piles,
    TimeProvider clock
)
{
    /// <summary>Pages of a group that become samples.</summary>
    private const int MostSamples = 20;

    /// <summary>Makes the pages of a group samples of a reader that exists.</summary>
    public Result Join(long pile, int number, string reader, string who)
    {
        if (piles.Group(pile, number) is not { } group || readers.Find(reader) is null)
            return "This group or reader no longer exists.";
        KeepSamples(group, reader);
        return database.Write<Result>(c =>
        {
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "added samples from a pile",
                new LedgerSubject(SubjectKind.Reader, reader),
                $"pile {pile}, group {number}"
            );
            return Result.Done;
        });
    }

    /// <summary>Makes a reader of a type that exists from a group.</summary>
    /// <returns>The reader's key; its page shows what is proposed.</returns>
    public Result<string> MakeReader(long pile, int number, string name, string typeCode, string who)
    {
        if (piles.Group(pile, number) is not { } group)
            return Result<string>.Not("This group no longer exists.");
        var made = readers.Create(name, typeCode, who);
        if (made.Ok)
            KeepSamples(group, made.Value!);
        return made;
    }

    /// <summary>What the pages of a group have in common and what varies, and a field for each value.</summary>
    public (ReaderProposal Proposal, IReadOnlyList<FieldFromPages> Fields)? Propose(long pile, int number)
    {
        if (piles.Group(pile, number) is not { Pages.Count: >= Proposing.FewestPages } group)
            return null;
        var pages = database.Read(c => group.Typical.Take(Proposing.MostPages).Select(p => PileStore.TextOf(c, p.Id)).ToList());
        if (pages.Count < Proposing.FewestPages)
            return null;
        var proposal = Proposing.From(pages, DocumentType.Empty("", ""), FinderContext.None);
        return (proposal, TypeFromPages.Fields(proposal));
    }

    /// <summary>Makes a document type with the fields that a person chose, its vocabularies, and a reader that fills them.</summary>
    /// <param name="pile">The pile.</param>
    /// <param name="number">The group.</param>
    /// <param name="name">Name of the type, and of the reader.</param>
    /// <param name="chosen">The fields, in order.</param>
    /// <param name="who">Who decides.</param>
    /// <returns>Code of the type and key of the reader, both drafts.</returns>
    public Result<(string Type, string Reader)> MakeType(long pile, int number, string name, IReadOnlyList<DecidedField> chosen, string who)
    {
        if (Propose(pile, number) is not { } proposed || piles.Group(pile, number) is not { } group)
            return Not("This group no longer exists; look at the pile again.");
        var fields = new List<(Field Field, ProposedValue Value, IReadOnlyList<string> Terms)>();
        foreach (var each in chosen)
        {
            if (proposed.Fields.FirstOrDefault(f => f.At == each.At) is not { } known)
                return Not("The pages of the group have changed in the meantime; look at them again.");
            var label = each.Label.Trim();
            if (ShortName.From(label) is not { Length: > 0 } key || label.Length > DesignCheck.LongestName)
                return Not($"“{label}” is not a label; write one with letters, of at most {DesignCheck.LongestName} characters.");
            if (each.Kind.HasRows != known.Field is TableField)
                return Not($"{label} cannot be {each.Kind.Label}: choose what it holds again.");
            if (fields.Exists(f => f.Field.Key == key))
                return Not($"Two fields would be called “{label}”; write another label for one.");
            var field = each.Kind == known.Field.Kind ? known.Field with { Key = key, Label = label } : each.Kind.New(key, label);
            var value = proposed.Proposal.Values[each.At];
            IReadOnlyList<string> terms =
                field is VocabularyField
                    ? known.Terms.Count > 0
                        ? known.Terms
                        : [.. value.Values.Where(v => v.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase)]
                    : [];
            fields.Add((field, value, terms));
        }
        if (fields.Count == 0)
            return Not("Take at least one field.");
        if (readers.Find(ShortName.From(name.Trim())) is not null)
            return Not($"There is a reader called “{name.Trim()}” already; choose another name.");
        var made = drafts.Create(name, who);
        if (!made.Ok)
            return Not(made.Problem!);
        var code = made.Value!;
        var put = fromPages.Put(
            code,
            [.. fields.Select(f => (f.Field, f.Terms))],
            "took fields from pages",
            who,
            (type, made) => TypeFromPages.Made(code, type.Name, made)
        );
        if (!put.Ok)
            return Not(put.Problem!);
        var wanted = put.Value!;
        var reader = readers.Create(name, code, who);
        if (!reader.Ok)
            return Not(reader.Problem!);
        var taught = readers.Change(
            reader.Value!,
            "took what was proposed",
            who,
            r =>
                Proposing.Added(
                    r,
                    proposed.Proposal.Clues,
                    fields.Select((f, i) => (f.Value, wanted[i])),
                    designs.Finders(null, new Arrival(""))
                )
        );
        if (!taught.Ok)
            return Not(taught.Problem!);
        KeepSamples(group, reader.Value!);
        return (code, reader.Value!);

        static Result<(string, string)> Not(string problem) => Result<(string, string)>.Not(problem);
    }

    /// <summary>Publishes a type and its reader that were made of a group; what was made stays when something stands against it.</summary>
    public Result Publish(string type, string reader, string who)
    {
        if (drafts.Publish(type, who).Problem is { } unready)
            return unready;
        return readers.Publish(reader, who).Problem is { } untaught ? untaught : Result.Done;
    }

    /// <summary>The files of a pile that hold pages of a group, to be brought to the desk.</summary>
    public List<BroughtFile> FilesOf(SortedGroup group)
    {
        var wanted = group.Pages.Select(p => p.File).OfType<long>().ToHashSet();
        return wanted.Count == 0
            ? []
            : database
                .Read(c => PileStore.Files(c, group.Pages[0].Pile, PileFileState.Read))
                .FindAll(f => wanted.Contains(f.Id))
                .ConvertAll(f => new BroughtFile(f.Name, () => File.OpenRead(folder.Absolute(f.Stored))));
    }

    // A sample keeps its picture when the pile is thrown away.
    private void KeepSamples(SortedGroup group, string reader)
    {
        var known = readers.Samples(reader).Select(s => s.Name).ToHashSet(StringComparer.Ordinal);
        foreach (var page in group.Typical.Where(p => known.Add(p.Name)).Take(MostSamples))
        {
            var copy = Path.Combine(folder.Pages, $"s{Guid.NewGuid():N}{Path.GetExtension(page.Image)}");
            if (!File.Exists(folder.Absolute(page.Image)))
                continue;
            File.Copy(folder.Absolute(page.Image), copy);
            database.Write(c =>
            {
                ReaderStore.AddSample(
                    c,
                    reader,
                    page.Name,
                    folder.Relative(copy),
                    PileStore.TextOf(c, page.Id),
                    new Dictionary<string, string>()
                );
                PileStore.Take(c, page.Id, reader);
            });
        }
    }
}
