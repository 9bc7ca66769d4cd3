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
    private const string ReplacedBy = "http://purl.org/dc/terms/isReplacedBy";
    private const string Status = "http://purl.org/dc/terms/status";

    private sealed class Concept
    {
        public bool Declared;
        public int Line;
        public string? Code, ReplacedBy, Status;
        public bool Deprecated;
        public Dictionary<string, string> Labels { get; } = new(StringComparer.Ordinal);
        public Dictionary<string, List<string>> Variants { get; } = new(StringComparer.Ordinal);
        public Dictionary<string, string> Notes { get; } = new(StringComparer.Ordinal);
        public List<string> Broader { get; } = [];
        public List<string> Related { get; } = [];
    }

    /// <summary>Reads lines of N-Triples.</summary>
    /// <param name="lines">The lines.</param>
    /// <param name="language">The vocabulary's own language; a concept without a label in it is called by another one, its code or its address.</param>
    public static BroughtTerms Read(IEnumerable<string> lines, string language)
    {
        var concepts = new Dictionary<string, Concept>(StringComparer.Ordinal);
        var order = new List<string>();
        var broken = new List<(int, string)>();
        string? scheme = null, name = null;
        var schemeLabels = new Dictionary<string, string>(StringComparer.Ordinal);
        var number = 0;
        foreach (var line in lines)
        {
            number++;
            if (NTriples.Read(line, out var read) is { } why) { broken.Add((number, $"This is no statement: {why}.")); continue; }
            if (read is not { } t) continue;
            switch (t.Predicate)
            {
                case Type when t.Value == Skos + "Concept": Of(t.Subject).Declared = true; break;
                case Type when t.Value == Skos + "ConceptScheme": scheme = t.Subject; break;
                case Skos + "prefLabel":
                    if (!Of(t.Subject).Labels.TryAdd(t.Language ?? "", t.Value) && Of(t.Subject).Labels[t.Language ?? ""] != t.Value) Add(Of(t.Subject).Variants, t);
                    break;
                case Skos + "altLabel" or Skos + "hiddenLabel": Add(Of(t.Subject).Variants, t); break;
                case Skos + "notation": Of(t.Subject).Code ??= t.Value; break;
                case Skos + "scopeNote": Of(t.Subject).Notes[t.Language ?? ""] = t.Value; break;
                case Skos + "definition": Of(t.Subject).Notes.TryAdd(t.Language ?? "", t.Value); break;
                case Skos + "broader": Link(Of(t.Subject).Broader, t.Value); break;
                case Skos + "narrower": Link(Of(t.Value).Broader, t.Subject); break;
                case Skos + "related": Link(Of(t.Subject).Related, t.Value); Link(Of(t.Value).Related, t.Subject); break;
                case Deprecated: Of(t.Subject).Deprecated = t.Value is "true" or "1"; break;
                case ReplacedBy: Of(t.Subject).ReplacedBy = t.Value; break;
                case Status: Of(t.Subject).Status = t.Value; break;
                case "http://purl.org/dc/terms/title" or "http://purl.org/dc/elements/1.1/title" or "http://www.w3.org/2000/01/rdf-schema#label":
                    schemeLabels[t.Subject + "@" + t.Language] = t.Value;
                    break;
            }
        }
        if (scheme is not null) name = schemeLabels.GetValueOrDefault($"{scheme}@{language}") ?? schemeLabels.FirstOrDefault(l => l.Key.StartsWith(scheme + "@", StringComparison.Ordinal)).Value;
        // A concept scheme is no concept, nor is what is only pointed at.
        var known = order.Where(id => id != scheme && (concepts[id].Declared || concepts[id].Labels.Count > 0)).ToHashSet(StringComparer.Ordinal);
        return new BroughtTerms([.. order.Where(known.Contains).Select(id => new BroughtTerm(Term(id, concepts[id], language, known), concepts[id].Line))], broken, name);

        Concept Of(string id)
        {
            if (concepts.TryGetValue(id, out var concept)) return concept;
            order.Add(id);
            return concepts[id] = new Concept { Line = number };
        }
    }

    private static Term Term(string id, Concept c, string language, HashSet<string> known)
    {
        var from = c.Labels.ContainsKey(language) ? language : c.Labels.ContainsKey("") ? "" : c.Labels.ContainsKey("en") ? "en" : c.Labels.Keys.Order(StringComparer.Ordinal).FirstOrDefault();
        var label = from is null ? c.Code ?? id[(id.LastIndexOfAny(['/', '#', ':']) + 1)..] : c.Labels[from];
        var languages = c.Labels.Keys.Concat(c.Variants.Keys).Concat(c.Notes.Keys).Distinct().Where(l => l != language && l.Length > 0);
        var own = c.Variants.GetValueOrDefault(language, []).Concat(c.Variants.GetValueOrDefault("", []));
        return new Term(label.Trim(), [.. own.Select(v => v.Trim()).Where(v => Folding.Fold(v).Length > 0 && v != label).Distinct(StringComparer.Ordinal)], c.Code,
            c.Deprecated ? TermStatus.Retired : c.Status == "proposed" ? TermStatus.Proposed : TermStatus.Current)
        {
            Id = id,
            LabelLanguage = from == language || from == "" ? null : from ?? "",
            Note = c.Notes.GetValueOrDefault(language) ?? c.Notes.GetValueOrDefault(""),
            Words = languages.ToDictionary(l => l, l => new TermWords(c.Labels.GetValueOrDefault(l, ""), c.Variants.GetValueOrDefault(l, []), c.Notes.GetValueOrDefault(l)), StringComparer.Ordinal),
            Broader = [.. c.Broader.Where(known.Contains)],
            Related = [.. c.Related.Where(r => known.Contains(r) && r != id)],
            ReplacedBy = c.ReplacedBy is { } r && known.Contains(r) ? r : null,
        };
    }

    private static void Add(Dictionary<string, List<string>> into, Triple t)
    {
        if (!into.TryGetValue(t.Language ?? "", out var list)) into[t.Language ?? ""] = list = [];
        if (!list.Contains(t.Value)) list.Add(t.Value);
    }

    private static void Link(List<string> into, string id)
    {
        if (!into.Contains(id)) into.Add(id);
    }
}
