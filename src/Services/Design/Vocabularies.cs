using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Design;

/// <summary>A field that takes its terms from a vocabulary.</summary>
/// <param name="Type">Name of its document type.</param>
/// <param name="TypeCode">Code of that type.</param>
/// <param name="Field">Label of the field, with its table when it is a column.</param>
public sealed record VocabularyUse(string Type, string TypeCode, string Field);

/// <summary>What uses a term.</summary>
/// <param name="Documents">Documents that carry it.</param>
/// <param name="Sample">A few of them: id and how it is called.</param>
/// <param name="Rules">Rules that name it, as sentences.</param>
public sealed record TermUse(long Documents, IReadOnlyList<(long Id, string Name)> Sample, IReadOnlyList<string> Rules);

/// <summary>Vocabularies: edit, review, merge, import, export, take back. Documents follow, and return with an undo.</summary>
public sealed class Vocabularies(
    Database database,
    Designs designs,
    Following following,
    DataFolder folder,
    IFileReader files,
    TimeProvider clock
)
{
    /// <summary>Most sentences of one refusal.</summary>
    private const int MostSentences = 5;

    private readonly HeldPlans<BroughtTerms> _held = new();

    /// <summary>Makes a vocabulary, perhaps from a paste; nothing is made when any line is wrong.</summary>
    public Result<string> Create(string name, string pasted, string who, Growth growth = Growth.Fixed, string language = "en") =>
        database.WriteIf(c => Make(c, name, pasted, who, growth, language), static r => r.Ok);

    /// <summary>Makes a vocabulary in the transaction of what needs it.</summary>
    internal Result<string> Make(
        SqliteConnection c,
        string name,
        string pasted,
        string who,
        Growth growth = Growth.Fixed,
        string language = "en"
    )
    {
        var key = ShortName.From(name.Trim());
        if (key.Length == 0)
            return Result<string>.Not("Write a name with letters.");
        var terms = PastedTerms.Parse(pasted, []);
        if (terms.Problems.Count > 0)
            return Result<string>.Not(string.Join(" ", terms.Problems.Take(MostSentences)));
        if (!VocabularyStore.Add(c, new Vocabulary(key, name.Trim(), []) { Growth = growth, Language = language }))
            return Result<string>.Not($"There is a vocabulary called “{name.Trim()}” already.");
        var created = new HashSet<string>(StringComparer.Ordinal);
        VocabularyStore.Put(c, key, [.. terms.Terms.Select(t => t with { Id = GrowingTerms.NewId(t.Label, created) })]);
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            who,
            "created a vocabulary",
            new LedgerSubject(SubjectKind.Vocabulary, key),
            $"{terms.Terms.Count} terms"
        );
        return key;
    }

    /// <summary>Adds pasted terms below a term, or at the top; nothing is added when any line is wrong.</summary>
    public Result<int> AddTerms(string key, string pasted, string? below, string who)
    {
        if (Index(key) is not { } index)
            return Result<int>.Not($"There is no vocabulary “{key}”.");
        var terms = PastedTerms.Parse(pasted, index.Vocabulary.Terms);
        if (terms.Problems.Count > 0)
            return Result<int>.Not(string.Join(" ", terms.Problems.Take(MostSentences)));
        if (terms.Terms.Count == 0)
            return Result<int>.Not("Write a preferred label.");
        var ids = index.Vocabulary.Terms.Select(t => t.Id).ToHashSet(StringComparer.Ordinal);
        List<Term> put =
        [
            .. terms.Terms.Select(t => t with { Id = GrowingTerms.NewId(t.Label, ids), Broader = below is null ? [] : [below] }),
        ];
        var result = Apply(
            key,
            _ => new VocabularyChange(put.Count == 1 ? $"added “{put[0].Label}”" : $"added {put.Count} terms", put, [], []),
            who
        );
        return result.Ok ? put.Count : Result<int>.Not(result.Problem!);
    }

    /// <summary>Applies a change: terms, documents that follow, ledger, undo; refused when the vocabulary would not be sound.</summary>
    public Result Apply(string key, Func<VocabularyIndex, VocabularyChange> change, string who)
    {
        var few = following.FewDocuments(key);
        string? enlisted = null;
        var result = database.WriteIf<Result>(
            c =>
            {
                if (VocabularyStore.Find(c, key) is not { } vocabulary)
                    return $"There is no vocabulary “{key}”.";
                if (following.UnderWay(key) is { } running)
                    return running;
                var index = new VocabularyIndex(vocabulary);
                var made = change(index);
                if (made.Problem is { } impossible)
                    return impossible;
                // Saved as it is, nothing happens and there is nothing to take back.
                if (
                    made.Removed.Count + made.Relabelled.Count == 0
                    && made.Put.All(t => index.TermOfId(t.Id) is { } same && Sql.AreSame(same, t))
                )
                    return Result.Done;
                // Findings that stood before are not this change's doing.
                var before = VocabularyCheck.Findings(vocabulary).ToHashSet(StringComparer.Ordinal);
                if (VocabularyCheck.Findings(made.Apply(vocabulary)).FirstOrDefault(f => !before.Contains(f)) is { } finding)
                    return finding;
                List<Term> was =
                [
                    .. made
                        .Put.Select(t => t.Id)
                        .Concat(made.Removed)
                        .Distinct()
                        .Select(index.OfId)
                        .Where(i => i >= 0)
                        .Select(i => vocabulary.Terms[i]),
                ];
                var step = VocabularyStore.Remember(
                    c,
                    key,
                    made.What,
                    was,
                    [.. made.Put.Where(t => index.OfId(t.Id) < 0).Select(t => t.Id)]
                );
                VocabularyStore.Remove(c, key, made.Removed);
                VocabularyStore.Put(c, key, made.Put);
                var followed = 0;
                List<Relabelling> labels = [.. made.Relabelled.Select(r => new Relabelling(r.Old, r.New))];
                if (made.Relabelled.Count > 0 && few)
                    followed = following.FollowNow(c, key, step, labels, who);
                else if (made.Relabelled.Count > 0)
                    enlisted = following.Enlist(c, key, step, labels, who);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    who,
                    made.What,
                    new LedgerSubject(SubjectKind.Vocabulary, key),
                    followed > 0 ? $"{followed} values of documents followed"
                        : enlisted is not null ? "documents follow"
                        : "",
                    LedgerEvent.Undoable
                );
                return Result.Done;
            },
            static r => r.Ok
        );
        if (result.Ok && enlisted is not null)
            following.Begin(enlisted);
        return result;
    }

    /// <summary>Takes the last change back, with the documents that followed it; returns what it was, or null.</summary>
    public string? Undo(string key, string who)
    {
        string? enlisted = null;
        var undone = database.Write(c =>
        {
            if (following.UnderWay(key) is not null || VocabularyStore.LastStep(c, key) is not { } step)
                return null;
            VocabularyStore.Remove(c, key, step.Added);
            VocabularyStore.Put(c, key, step.Before);
            if (step.Followed > Following.Few)
                enlisted = following.EnlistBack(c, key, step, who);
            else
            {
                following.BackNow(c, step, who, Following.Few + 1);
                VocabularyStore.ForgetStep(c, step.Id);
            }
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "undid: " + step.Change,
                new LedgerSubject(SubjectKind.Vocabulary, key),
                step.Followed > 0 ? $"{step.Followed} values of documents return" : ""
            );
            return step.Change;
        });
        if (enlisted is not null)
            following.Begin(enlisted);
        return undone;
    }

    /// <summary>What the last change was, for the undo button; null when there is none.</summary>
    public string? LastChange(string key) => database.Read(c => VocabularyStore.LastChange(c, key));

    /// <summary>Sets how a vocabulary takes unknown values.</summary>
    public void SetGrowth(string key, Growth growth, string who)
    {
        database.Write(c =>
        {
            VocabularyStore.SetGrowth(c, key, growth);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "changed how a vocabulary grows",
                new LedgerSubject(SubjectKind.Vocabulary, key),
                growth.InWords()
            );
        });
    }

    /// <summary>Fields that take their terms from a vocabulary, in drafts.</summary>
    public List<VocabularyUse> Uses(string key) =>
        [
            .. designs
                .All()
                .SelectMany(t =>
                    t.Draft.Fields.SelectMany(f =>
                            f.Columns.Where(col => col.Vocabulary == key)
                                .Select(col => $"{f.Label}: {col.Label}")
                                .Concat(f.Vocabulary == key ? [f.Label] : [])
                        )
                        .Select(label => new VocabularyUse(t.Draft.Name, t.Draft.Code, label))
                ),
        ];

    /// <summary>How many documents carry each label of a vocabulary.</summary>
    public Dictionary<string, long> Counts(string key) =>
        database.Read(c =>
        {
            var counts = new Dictionary<string, long>(StringComparer.Ordinal);
            var labels = (Index(key)?.Vocabulary.Terms ?? [])
                .DistinctBy(t => SearchKey.OfTerm(t.Label))
                .ToDictionary(t => SearchKey.OfTerm(t.Label), t => t.Label);
            void Count(string label, long documents) => counts[label] = counts.GetValueOrDefault(label) + documents;
            foreach (var (type, field, column) in following.Places(key))
            {
                if (column is null)
                    foreach (var (found, documents) in FoundStore.Counts(c, type, field))
                        if (labels.TryGetValue(found, out var label))
                            Count(label, documents);
                foreach (var (_, carried) in Unindexed(c, type, field, column))
                foreach (var label in carried)
                    Count(label, 1);
            }
            return counts;
        });

    // Documents whose values are in no index, with the labels they carry: those on the desk, and those that hold a text in a table.
    private static IEnumerable<(StoredDocument Document, IEnumerable<string> Labels)> Unindexed(
        SqliteConnection c,
        string type,
        string field,
        string? column,
        string text = ""
    ) =>
        (column is null ? DocumentStore.OnDeskOf(c, type) : DocumentStore.Holding(c, type, field, text)).Select(d =>
            (d, Following.Labels(d.Record.GetValueOrDefault(field, ""), column))
        );

    private const int Sampled = 8;

    /// <summary>What uses one term.</summary>
    public TermUse Use(string key, Term term) =>
        database.Read(c =>
        {
            var (values, documents, others) = (new List<long>(), new List<StoredDocument>(), new List<StoredDocument>());
            foreach (var (type, field, column) in following.Places(key))
            {
                if (column is null)
                {
                    if (FoundStore.Value(c, type, field, SearchKey.OfTerm(term.Label)) is { } value)
                        values.Add(value);
                    documents.AddRange(
                        RepositorySearch
                            .Find(
                                c,
                                new RepositoryQuery { TypeCode = type, Conditions = [new(field, FieldKind.Term, Look.Is, term.Label)] },
                                Sampled
                            )
                            .Documents
                    );
                }
                others.AddRange(
                    Unindexed(c, type, field, column, term.Label)
                        .Where(u => u.Labels.Contains(term.Label, StringComparer.Ordinal))
                        .Select(u => u.Document)
                );
            }
            var number = FoundStore.Number(c, values) + others.DistinctBy(d => d.Id).Count(d => !FoundStore.Has(c, d.Id, values));
            documents.AddRange(others);
            var rules = designs
                .All()
                .SelectMany(t =>
                    t.Draft.Rules.Where(r => Names(t.Draft, r))
                        .Select(r => $"{t.Draft.Name}: {Core.Rules.RuleKinds.Sentence(r, designs.Resolve(t.Draft))}")
                )
                .Concat(
                    designs
                        .All()
                        .SelectMany(t =>
                            t.Draft.Fields.OfType<VocabularyField>()
                                .Where(f => f.Vocabulary == key && f.Branch == term.Id)
                                .Select(f => $"{t.Draft.Name}: {f.Label} takes terms below it")
                        )
                )
                .ToList();
            return new TermUse(
                number,
                [.. documents.DistinctBy(d => d.Id).Take(Sampled).Select(d => (d.Id, d.Name ?? d.SourceName))],
                rules
            );

            bool Names(DocumentType type, Core.Fields.Rule rule) =>
                Core.Rules.TermIn.Branch.Of(rule) is { Length: > 0 } b && (b == term.Id || b == term.Label)
                || rule.When?.Comparisons.Any(x =>
                    type.Find(x.Subject)?.Vocabulary == key
                    && x.Value.Split('|').Any(v => v == term.Label || v == term.Id || v == term.Code)
                ) == true;
        });

    /// <summary>
    /// Groups of near-duplicates among a vocabulary's labels and variants that lead to different terms; proposed terms among them.
    /// </summary>
    public static IReadOnlyList<(NearGroup Group, IReadOnlyList<Term> Terms)> NearDuplicateGroups(VocabularyIndex index)
    {
        var spellings = index
            .Vocabulary.Terms.Where(t => t.Status != TermStatus.Retired)
            .SelectMany(t => t.Variants.Append(t.Label))
            .Distinct(StringComparer.Ordinal)
            .ToList();
        return
        [
            .. NearDuplicates
                .Find(spellings)
                .Select(g => (g, Terms: (IReadOnlyList<Term>)[.. g.Spellings.Select(index.Find).OfType<Term>().DistinctBy(t => t.Id)]))
                .Where(g => g.Terms.Count > 1),
        ];
    }

    /// <summary>Reads a file of terms: SKOS (Turtle, RDF/XML, N-Triples) or CSV; nothing is changed.</summary>
    public async Task<Result<BroughtTerms>> ReadAsync(string key, BroughtFile file)
    {
        if (Index(key) is not { } index)
            return Result<BroughtTerms>.Not($"There is no vocabulary “{key}”.");
        var upload = Path.Combine(folder.Drafts, $"{Guid.NewGuid():N}{Path.GetExtension(file.Name).ToLowerInvariant()}");
        await using (var from = file.Open())
        await using (var to = File.Create(upload))
            await from.CopyToAsync(to);
        try
        {
            var (terms, problem) = await files.TermsAsync(upload, file.Name, index.Vocabulary.Language, default);
            return terms is null ? Result<BroughtTerms>.Not(problem!) : terms;
        }
        finally
        {
            File.Delete(upload);
        }
    }

    /// <summary>Holds what was read until its plan is applied.</summary>
    public string Hold(BroughtTerms brought) => _held.Hold(brought);

    /// <summary>Takes what is held under a ticket; null when it is not held any more.</summary>
    public BroughtTerms? Take(string ticket) => _held.Take(ticket);

    /// <summary>Applies an import as a whole, or says why nothing was changed.</summary>
    public Result Import(string key, BroughtTerms brought, string who)
    {
        string? refused = null;
        var result = Apply(
            key,
            index =>
            {
                var plan = TermImport.Plan(index, brought);
                if (plan.Broken.Count > 0)
                    refused = $"Nothing was imported: {plan.Broken.Count} lines are broken.";
                return plan.Broken.Count > 0 ? new VocabularyChange("nothing", [], [], []) : plan.AsChange();
            },
            who
        );
        return refused is not null ? refused : result;
    }

    private VocabularyIndex? Index(string key) => designs.Vocabularies.GetValueOrDefault(key);
}
