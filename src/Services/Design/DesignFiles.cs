using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Design;

/// <summary>What a design file would do to a thing; the API says it in small letters.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<PlanState>))]
public enum PlanState
{
    /// <summary>It is made.</summary>
    [JsonStringEnumMemberName("new")]
    New,

    /// <summary>It is changed.</summary>
    [JsonStringEnumMemberName("changed")]
    Changed,

    /// <summary>It is as in the file already.</summary>
    [JsonStringEnumMemberName("same")]
    Same,
}

/// <summary>What bringing a design would do to one thing.</summary>
/// <param name="Kind">vocabulary, reference table, field group, document type or reader.</param>
/// <param name="Name">Its name.</param>
/// <param name="State">What it would become.</param>
/// <param name="Words">What changes, in words.</param>
public sealed record DesignPlanItem(string Kind, string Name, PlanState State, IReadOnlyList<string> Words);

/// <summary>What bringing a design would do.</summary>
/// <param name="Items">Everything in the file.</param>
/// <param name="Problems">What stands in the way; while there is any, nothing is applied.</param>
public sealed record DesignPlan(IReadOnlyList<DesignPlanItem> Items, IReadOnlyList<string> Problems);

/// <summary>Whole designs as files: export, plan, import as a whole.</summary>
public sealed class DesignFiles(Database database, Designs designs, Drafts drafts, ServiceAddresses services, TimeProvider clock)
{
    private readonly HeldPlans<DesignFile> _held = new();

    /// <summary>The whole design.</summary>
    /// <param name="byReference">Whether vocabularies and reference tables are only named.</param>
    public DesignFile Export(bool byReference = false) =>
        database.Read(c => new DesignFile(
            DesignFile.FormatName,
            DesignFile.NewestVersion,
            [
                .. designs
                    .Vocabularies.Values.Select(v => v.Vocabulary)
                    .Select(v => new VocabularyInFile(v.Key, v.Name, v.Growth, v.Language, byReference ? null : v.Terms)),
            ],
            [.. designs.Tables.Values.Select(t => new TableInFile(t.Key, t.Name, t.Columns, t.Address, byReference ? null : t.Rows))],
            [
                .. DesignStore
                    .All(c)
                    .Select(t => new TypeInFile(t.Version > 0 ? DesignStore.Versions(c, t.Draft.Code)[0].Source : t.Draft, t.Version > 0)),
            ],
            ReaderStore.All(c)
        )
        {
            ClosedDays = ClosedDayStore.All(c),
        });

    /// <summary>What bringing a file would do; nothing is changed.</summary>
    public DesignPlan Plan(DesignFile file)
    {
        if (Findings(file).ToList() is { Count: > 0 } findings)
            return new DesignPlan([], findings);
        // Whatever a file holds, it is put together here once, before anything is stored: what cannot be, is refused.
        try
        {
            return Planned(file);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return new DesignPlan([], ["The parts of this design do not fit together; compare the file with one that was exported here."]);
        }
    }

    // Keys stand in addresses and in files; each names one thing.
    private IEnumerable<string> Findings(DesignFile file)
    {
        (string What, IEnumerable<string> Keys)[] named =
        [
            ("vocabulary", file.Vocabularies.Select(v => v.Key)),
            ("reference table", file.Tables.Select(t => t.Key)),
            ("document type", file.Types.Select(t => t.Design.Code)),
            ("reader", file.Readers.Select(r => r.Key)),
            .. file.Types.Select(t => ($"field of {t.Design.Name}", t.Design.Fields.Select(f => f.Key))),
        ];
        foreach (var (what, keys) in named)
        {
            foreach (
                var key in keys.Where(k =>
                    k.Length is 0 or > MostKey || k.Any(c => !char.IsLetterOrDigit(c) && c is not ('-' or '_')) || !CodePoints.AreSound(k)
                )
            )
                yield return $"“{CodePoints.First(key, 40)}” is no key of a {what}; it has letters, digits and dashes, {MostKey} at most.";
            foreach (var twice in keys.GroupBy(k => k, StringComparer.Ordinal).Where(g => g.Count() > 1))
                yield return $"The {what} “{twice.Key}” is in the file twice.";
        }
        var days = file.ClosedDays ?? [];
        if (days.Count > ClosedDay.Most)
            yield return $"The file names {days.Count:N0} closed days; {ClosedDay.Most:N0} are the most.";
        if (days.FirstOrDefault(d => d.Name.Length > ClosedDay.LongestName || !CodePoints.AreSound(d.Name)) is { } odd)
            yield return $"The closed day {odd.Day:yyyy-MM-dd} has no sound name of at most {ClosedDay.LongestName} characters.";
        if (days.GroupBy(d => d.Day).FirstOrDefault(g => g.Count() > 1) is { } twofold)
            yield return $"The closed day {twofold.Key:yyyy-MM-dd} is in the file twice.";
        foreach (var table in file.Tables)
        {
            if (table.Columns.Count == 0)
                yield return $"The reference table “{table.Name}” has no columns.";
            if (table.Rows?.Any(r => r.Length != table.Columns.Count || r.Any(c => c is null)) == true)
                yield return $"A row of the reference table “{table.Name}” has not as many cells as it has columns.";
            if (table.Rows?.GroupBy(r => r.FirstOrDefault(), StringComparer.Ordinal).FirstOrDefault(g => g.Count() > 1) is { } key)
                yield return $"The key “{key.Key}” appears twice in the reference table “{table.Name}”.";
            if (table.Address is { } address && services.Error(address) is { } finding)
                yield return $"The reference table “{table.Name}” asks a service: {finding}";
        }
    }

    private const int MostKey = 80;

    private DesignPlan Planned(DesignFile file)
    {
        var items = new List<DesignPlanItem>();
        var problems = new List<string>();
        var vocabularies = designs.Vocabularies.ToDictionary(StringComparer.Ordinal);
        foreach (var v in file.Vocabularies)
        {
            var known = vocabularies.GetValueOrDefault(v.Key);
            if (v.Terms is null && known is null)
                problems.Add($"The vocabulary “{v.Name}” is only named in the file and does not exist here.");
            if (v.Terms is null)
            {
                items.Add(new("vocabulary", v.Name, PlanState.Same, ["named only"]));
                continue;
            }
            problems.AddRange(VocabularyCheck.Findings(v.Terms).Take(5).Select(f => $"Vocabulary {v.Name}: {f.Finding}"));
            var words = known is null ? [$"{v.Terms.Count} terms"] : TermWordsOf(known, v);
            items.Add(
                new(
                    "vocabulary",
                    v.Name,
                    known is null ? PlanState.New
                        : words.Count > 0 ? PlanState.Changed
                        : PlanState.Same,
                    words
                )
            );
            vocabularies[v.Key] = new VocabularyIndex(new Vocabulary(v.Key, v.Name, v.Terms) { Growth = v.Growth, Language = v.Language });
        }
        var tables = designs.Tables.ToDictionary(StringComparer.Ordinal);
        foreach (var t in file.Tables)
        {
            var known = tables.GetValueOrDefault(t.Key);
            if (t.Rows is null && known is null)
                problems.Add($"The reference table “{t.Name}” is only named in the file and does not exist here.");
            var same =
                known is not null
                && (t.Rows is null || known.Rows.Count == t.Rows.Count && known.Rows.Zip(t.Rows).All(p => p.First.SequenceEqual(p.Second)));
            items.Add(
                new(
                    "reference table",
                    t.Name,
                    known is null ? PlanState.New
                        : same ? PlanState.Same
                        : PlanState.Changed,
                    t.Rows is null ? ["named only"]
                        : same ? []
                        : [$"{t.Rows.Count} rows"]
                )
            );
            if (t.Rows is not null)
                tables[t.Key] = new ReferenceTable(t.Key, t.Name, t.Columns, t.Rows) { Address = t.Address };
        }
        if (file.ClosedDays is { Count: > 0 } days)
        {
            var known = database.Read(ClosedDayStore.All);
            var added = days.Except(known).Count();
            items.Add(
                new(
                    "closed days",
                    "Days on which the office is closed",
                    added == 0 ? PlanState.Same
                        : known.Count == 0 ? PlanState.New
                        : PlanState.Changed,
                    added == 0 ? [] : [$"{added} new or renamed"]
                )
            );
        }
        var coming = file.Types.Select(t => t.Design).DistinctBy(t => t.Code).ToDictionary(t => t.Code, StringComparer.Ordinal);
        DocumentType? Find(string code) => coming.GetValueOrDefault(code) ?? designs.Find(code)?.Draft;
        var around = new DesignSurroundings(vocabularies, tables, Find, designs.Now(EntryChannel.Api, ""));
        foreach (var (design, published) in file.InOrder())
        {
            var kind = design.IsGroup ? "field group" : "document type";
            var known = designs.Find(design.Code)?.Draft;
            List<string> words = known is null
                ? [$"{design.Fields.Count} fields, {design.Rules.Count} rules"]
                : [.. DesignDifference.InWords(known, design).Select(d => d.Text)];
            items.Add(
                new(
                    kind,
                    design.Name,
                    known is null ? PlanState.New
                        : Sql.AreSame(known, design) ? PlanState.Same
                        : PlanState.Changed,
                    words
                )
            );
            // A draft may have findings, but it must be one that can be compiled, checked and shown.
            var compiled = new CompiledType(Inheritance.Resolve(design, Find), vocabularies, tables);
            _ = JsonSchemaExport.Write(compiled).ToJsonString();
            var findings = DesignCheck.Findings(design, around).ToList();
            if (published)
                problems.AddRange(findings.Where(f => f.Level == Level.Must).Select(f => $"{design.Name}: {f.Text}"));
        }
        foreach (var reader in file.Readers)
        {
            if (Find(reader.TypeCode) is null)
                problems.Add($"The reader “{reader.Name}” reads “{reader.TypeCode}”, which is neither in the file nor here.");
            var known = database.Read(c => ReaderStore.Find(c, reader.Key));
            items.Add(
                new(
                    "reader",
                    reader.Name,
                    known is null ? PlanState.New
                        : Sql.AreSame(known, reader) ? PlanState.Same
                        : PlanState.Changed,
                    []
                )
            );
        }
        return new DesignPlan(items, problems);
    }

    /// <summary>Holds what was read until its plan is applied.</summary>
    public string Hold(DesignFile read) => _held.Hold(read);

    /// <summary>Takes what is held under a ticket; null when it is not held any more.</summary>
    public DesignFile? Take(string ticket) => _held.Take(ticket);

    /// <summary>
    /// Brings a design as a whole: everything in it is made or changed, what was published is published. Refused while its plan has
    /// problems.
    /// </summary>
    public Result Import(DesignFile file, string who)
    {
        if (Plan(file).Problems is [var problem, ..])
            return problem;
        var result = database.WriteIf(c => Import(c, file, who), static r => r.Ok);
        drafts.AfterPublishing();
        return result;
    }

    private Result Import(SqliteConnection c, DesignFile file, string who)
    {
        foreach (var v in file.Vocabularies.Where(v => v.Terms is not null))
        {
            if (!VocabularyStore.Add(c, new Vocabulary(v.Key, v.Name, []) { Growth = v.Growth, Language = v.Language }))
                VocabularyStore.SetGrowth(c, v.Key, v.Growth);
            VocabularyStore.Remove(c, v.Key, VocabularyStore.Find(c, v.Key)!.Terms.Select(t => t.Id).Except(v.Terms!.Select(t => t.Id)));
            VocabularyStore.Put(c, v.Key, v.Terms!);
        }
        foreach (var t in file.Tables.Where(t => t.Rows is not null))
        {
            var gone = ReferenceStore.Find(c, t.Key)?.Rows.Select(r => r[0]).Except(t.Rows!.Select(r => r[0])) ?? [];
            ReferenceStore.Put(c, new ReferenceTable(t.Key, t.Name, t.Columns, []) { Address = t.Address }, clock.GetUtcNow());
            ReferenceStore.RemoveRows(c, t.Key, gone);
            ReferenceStore.PutRows(c, t.Key, t.Rows!);
        }
        foreach (var day in file.ClosedDays ?? [])
            ClosedDayStore.Put(c, day);
        foreach (var (design, _) in file.InOrder())
            if (!DesignStore.Add(c, design) && Sql.ToJson(DesignStore.Find(c, design.Code)!.Draft) != Sql.ToJson(design))
                DesignStore.SaveDraft(c, design, "imported a design file");
        foreach (var reader in file.Readers)
        {
            ReaderStore.Save(c, reader);
            ReaderStore.Publish(c, reader, clock.GetUtcNow(), who);
        }
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            who,
            "imported a design file",
            new LedgerSubject(SubjectKind.DesignFile),
            $"{file.Types.Count} types, {file.Vocabularies.Count} vocabularies, {file.Readers.Count} readers"
        );
        // Published in the same transaction, by what it has just brought; one that cannot be published drops the whole.
        DesignContext? known = null;
        foreach (var (design, published) in file.InOrder())
            if (
                published
                && DesignStore.Find(c, design.Code) is { DraftOpen: true }
                && drafts.Publish(c, design.Code, who, known: known ??= Known(c)).Problem is { } refused
            )
                return $"Nothing was imported, because {design.Name} could not be published: {refused}";
        return Result.Done;
    }

    private static DesignContext Known(SqliteConnection c) =>
        new(
            VocabularyStore
                .Revisions(c)
                .ToDictionary(r => r.Key, r => new VocabularyIndex(VocabularyStore.Find(c, r.Key)!), StringComparer.Ordinal),
            ReferenceStore.Revisions(c).ToDictionary(r => r.Key, r => ReferenceStore.Find(c, r.Key)!, StringComparer.Ordinal)
        );

    private static List<string> TermWordsOf(VocabularyIndex known, VocabularyInFile coming)
    {
        var ids = coming.Terms!.Select(t => t.Id).ToHashSet(StringComparer.Ordinal);
        int added = 0,
            changed = 0;
        foreach (var term in coming.Terms!)
            if (known.OfId(term.Id) is not (>= 0 and var at))
                added++;
            else if (TermImport.Difference(known.Vocabulary.Terms[at], term) is not null)
                changed++;
        var gone = known.Vocabulary.Terms.Count(t => !ids.Contains(t.Id));
        return
        [
            .. new[] { (added, "new"), (changed, "changed"), (gone, "gone") }
                .Where(n => n.Item1 > 0)
                .Select(n => $"{n.Item1} terms {n.Item2}"),
        ];
    }
}
