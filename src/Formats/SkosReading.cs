using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Formats;

/// <summary>
/// Makes terms of a SKOS concept scheme (W3C Recommendation “SKOS Reference”): labels and notes in all languages, notation,
/// broader and narrower from either side, related, deprecation with its replacement. Top concepts need not be declared.
/// </summary>
public static class SkosReading
{
    private const string Skos = "http://www.w3.org/2004/02/skos/core#";
    private const string Type = "http://www.w3.org/1999/02/22-rdf-syntax-ns#type";
    private const string Deprecated = "http://www.w3.org/2002/07/owl#deprecated";
    private const string Terms = "http://purl.org/dc/terms/";
    private const string ReplacedBy = Terms + "isReplacedBy";
    private const string Status = Terms + "status";

    private const string Spelling = "a spelling",
        Note = "a note";

    // What follows from the rest of a file, so that leaving it out loses nothing.
    private static readonly HashSet<string> Implied =
    [
        Skos + "inScheme",
        Skos + "topConceptOf",
        Skos + "hasTopConcept",
        Skos + "broaderTransitive",
        Skos + "narrowerTransitive",
        Skos + "semanticRelation",
    ];

    private sealed class Concept
    {
        public bool Declared;
        public int Line;
        public string? Code,
            ReplacedBy,
            Status;
        public bool Deprecated;
        public Dictionary<string, string> Labels { get; } = new(StringComparer.Ordinal);
        public Dictionary<string, List<string>> Variants { get; } = new(StringComparer.Ordinal);
        public Dictionary<string, string> Notes { get; } = new(StringComparer.Ordinal);
        public List<string> Broader { get; } = [];
        public List<string> Related { get; } = [];
        public List<string> Left { get; } = [];
        public List<(string Property, string What)> BroughtAs { get; } = [];
    }

    /// <summary>Reads lines of N-Triples.</summary>
    /// <param name="lines">The lines.</param>
    /// <param name="language">The vocabulary's own language; a concept without a label in it is called by another one, its code or its
    /// address.</param>
    public static BroughtTerms Read(IEnumerable<string> lines, string language)
    {
        var concepts = new Dictionary<string, Concept>(StringComparer.Ordinal);
        var order = new List<string>();
        var broken = new List<(int, string)>();
        string? scheme = null,
            name = null;
        var collections = new HashSet<string>(StringComparer.Ordinal);
        var definitions = new HashSet<(string, string)>();
        var schemeLabels = new Dictionary<string, string>(StringComparer.Ordinal);
        var number = 0;
        foreach (var line in lines)
        {
            number++;
            if (NTriples.Read(line, out var read) is { } why)
            {
                broken.Add((number, $"This is not a statement: {why}."));
                continue;
            }
            if (read is not { } t)
                continue;
            switch (t.Predicate)
            {
                case Type when t.Value == Skos + "Collection" || t.Value == Skos + "OrderedCollection":
                    collections.Add(t.Subject);
                    break;
                case Type when t.Value == Skos + "Concept":
                    Of(t.Subject).Declared = true;
                    break;
                case Type when t.Value == Skos + "ConceptScheme":
                    scheme = t.Subject;
                    break;
                case Skos + "prefLabel":
                    if (!Of(t.Subject).Labels.TryAdd(t.Language ?? "", t.Value) && Of(t.Subject).Labels[t.Language ?? ""] != t.Value)
                        Add(Of(t.Subject).Variants, t);
                    break;
                case Skos + "altLabel" or Skos + "hiddenLabel":
                    Add(Of(t.Subject).Variants, t);
                    if (t.Predicate != Skos + "altLabel")
                        Of(t.Subject).BroughtAs.Add((t.Predicate, Spelling));
                    break;
                case Skos + "notation":
                    if ((Of(t.Subject).Code ??= t.Value) != t.Value)
                        Left(t);
                    break;
                case Skos + "scopeNote":
                    // It goes before a definition that stood for it.
                    if (definitions.Remove((t.Subject, t.Language ?? "")))
                    {
                        Of(t.Subject).BroughtAs.Remove((Skos + "definition", Note));
                        Of(t.Subject).Left.Add(Skos + "definition");
                        Of(t.Subject).Notes[t.Language ?? ""] = t.Value;
                    }
                    else if (
                        Of(t.Subject).Notes.TryAdd(t.Language ?? "", t.Value) is false
                        && Of(t.Subject).Notes[t.Language ?? ""] != t.Value
                    )
                        Left(t);
                    break;
                case Skos + "definition":
                    // A definition stands for a scope note where there is none.
                    if (Of(t.Subject).Notes.TryAdd(t.Language ?? "", t.Value))
                    {
                        definitions.Add((t.Subject, t.Language ?? ""));
                        Of(t.Subject).BroughtAs.Add((t.Predicate, Note));
                    }
                    else
                        Left(t);
                    break;
                case Skos + "broader":
                    Link(Of(t.Subject).Broader, t.Value);
                    break;
                case Skos + "narrower":
                    Link(Of(t.Value).Broader, t.Subject);
                    break;
                case Skos + "related":
                    Link(Of(t.Subject).Related, t.Value);
                    Link(Of(t.Value).Related, t.Subject);
                    break;
                case Deprecated:
                    Of(t.Subject).Deprecated = t.Value is "true" or "1";
                    break;
                case ReplacedBy:
                    Replace(t, t.Subject, t.Value);
                    break;
                case Terms + "replaces":
                    Replace(t, t.Value, t.Subject);
                    break;
                case Status when t.Value == "proposed":
                    Of(t.Subject).Status = t.Value;
                    break;
                case Terms + "title" or "http://purl.org/dc/elements/1.1/title" or "http://www.w3.org/2000/01/rdf-schema#label":
                    schemeLabels[t.Subject + "@" + t.Language] = t.Value;
                    break;
                case Type:
                    break;
                default:
                    if (!Implied.Contains(t.Predicate))
                        Left(t);
                    break;
            }
        }
        if (scheme is not null)
            name =
                schemeLabels.GetValueOrDefault($"{scheme}@{language}")
                ?? schemeLabels.FirstOrDefault(l => l.Key.StartsWith(scheme + "@", StringComparison.Ordinal)).Value;
        // A concept scheme is no concept, nor is what is only pointed at.
        var known = order
            .Where(id => id != scheme && !collections.Contains(id) && (concepts[id].Declared || concepts[id].Labels.Count > 0))
            .ToHashSet(StringComparer.Ordinal);
        var dropped = order
            .Where(known.Contains)
            .SelectMany(id => concepts[id].Left)
            .GroupBy(p => p, StringComparer.Ordinal)
            .Select(p => $"{p.Count():N0} × {Short(p.Key)}")
            .Order(StringComparer.Ordinal)
            .ToList();
        dropped.AddRange(
            order
                .Where(known.Contains)
                .SelectMany(id => concepts[id].BroughtAs)
                .GroupBy(b => b)
                .Select(b => $"{b.Count():N0} × {Short(b.Key.Property)}, each brought as {b.Key.What}; it leaves as one too.")
                .Order(StringComparer.Ordinal)
        );
        dropped.AddRange(
            collections
                .Order(StringComparer.Ordinal)
                .Select(c =>
                    $"The collection “{concepts.GetValueOrDefault(c)?.Labels.Values.FirstOrDefault() ?? c}”; its members are brought."
                )
        );
        foreach (var id in order.Where(known.Contains))
            Settle(id, concepts, known, dropped);
        return new BroughtTerms(
            [.. order.Where(known.Contains).Select(id => new BroughtTerm(Term(id, concepts[id], language, known), concepts[id].Line))],
            broken,
            name
        )
        {
            Dropped = dropped,
        };

        void Left(Triple t) => Of(t.Subject).Left.Add(t.Predicate);

        void Replace(Triple t, string old, string by)
        {
            if ((Of(old).ReplacedBy ??= by) != by)
                Of(old).Left.Add(t.Predicate);
        }

        Concept Of(string id)
        {
            if (concepts.TryGetValue(id, out var concept))
                return concept;
            order.Add(id);
            return concepts[id] = new Concept { Line = number };
        }
    }

    // What SKOS does not allow is put right and told: a label that is a variant too (S13), related terms one of which is above the other
    // (S27); and what leads to a concept that the file does not hold.
    private static void Settle(string id, Dictionary<string, Concept> concepts, HashSet<string> known, List<string> dropped)
    {
        var c = concepts[id];
        var name = c.Labels.Values.FirstOrDefault() ?? id;
        foreach (var (language, label) in c.Labels)
            if (c.Variants.TryGetValue(language, out var variants) && variants.Remove(label))
                dropped.Add($"“{label}” is label and variant of one concept; it stays its label.");
        foreach (var lost in c.Broader.Concat(c.Related).Append(c.ReplacedBy).OfType<string>().Where(l => !known.Contains(l)).Distinct())
            dropped.Add($"“{name}” points to {lost}, which is not in the file.");
        if (c.Related.Count == 0)
            return;
        var above = new HashSet<string>(StringComparer.Ordinal);
        for (var waiting = new Queue<string>(c.Broader); waiting.TryDequeue(out var next); )
            if (above.Add(next) && concepts.TryGetValue(next, out var broader))
                foreach (var b in broader.Broader)
                    waiting.Enqueue(b);
        foreach (var both in c.Related.Where(r => above.Contains(r) && known.Contains(r)).ToList())
        {
            c.Related.Remove(both);
            concepts[both].Related.Remove(id);
            dropped.Add(
                $"“{name}” is related to “{concepts[both].Labels.Values.FirstOrDefault() ?? both}”, which is above it; only that is kept."
            );
        }
    }

    private static string Short(string property) =>
        property.StartsWith(Skos, StringComparison.Ordinal) ? "skos:" + property[Skos.Length..]
        : property.StartsWith(Terms, StringComparison.Ordinal) ? "dcterms:" + property[Terms.Length..]
        : $"<{property}>";

    private static Term Term(string id, Concept c, string language, HashSet<string> known)
    {
        var from =
            c.Labels.ContainsKey(language) ? language
            : c.Labels.ContainsKey("") ? ""
            : c.Labels.ContainsKey("en") ? "en"
            : c.Labels.Keys.Order(StringComparer.Ordinal).FirstOrDefault();
        var label = from is null ? c.Code ?? id[(id.LastIndexOfAny(['/', '#', ':']) + 1)..] : c.Labels[from];
        var languages = c.Labels.Keys.Concat(c.Variants.Keys).Concat(c.Notes.Keys).Distinct().Where(l => l != language && l.Length > 0);
        var own = c.Variants.GetValueOrDefault(language, []).Concat(c.Variants.GetValueOrDefault("", []));
        // A label without a language beside one with is a spelling more.
        if (from == language && c.Labels.TryGetValue("", out var untagged))
            own = own.Append(untagged);
        return new Term(
            label.Trim(),
            [.. own.Select(v => v.Trim()).Where(v => Folding.Fold(v).Length > 0 && v != label).Distinct(StringComparer.Ordinal)],
            c.Code,
            c.Deprecated ? TermStatus.Retired
                : c.Status == "proposed" ? TermStatus.Proposed
                : TermStatus.Current
        )
        {
            Id = id,
            LabelLanguage = from == language || from == "" ? null : from ?? "",
            Note = c.Notes.GetValueOrDefault(language) ?? c.Notes.GetValueOrDefault(""),
            Words = languages.ToDictionary(
                l => l,
                l => new TermWords(c.Labels.GetValueOrDefault(l, ""), c.Variants.GetValueOrDefault(l, []), c.Notes.GetValueOrDefault(l)),
                StringComparer.Ordinal
            ),
            Broader = [.. c.Broader.Where(known.Contains)],
            Related = [.. c.Related.Where(r => known.Contains(r) && r != id)],
            ReplacedBy = c.ReplacedBy is { } r && known.Contains(r) ? r : null,
        };
    }

    private static void Add(Dictionary<string, List<string>> into, Triple t)
    {
        if (!into.TryGetValue(t.Language ?? "", out var list))
            into[t.Language ?? ""] = list = [];
        if (!list.Contains(t.Value))
            list.Add(t.Value);
    }

    private static void Link(List<string> into, string id)
    {
        if (!into.Contains(id))
            into.Add(id);
    }
}
