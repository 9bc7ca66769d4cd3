using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Formats;

/// <summary>
/// Writes a vocabulary as a SKOS concept scheme, in Turtle and in JSON-LD (W3C Recommendations). Reading it back loses nothing.
/// </summary>
public static partial class SkosWriting
{
    private const string Base = "urn:clear-lexicon:vocabulary:";

    /// <summary>Writes Turtle.</summary>
    public static void Turtle(Vocabulary vocabulary, TextWriter to)
    {
        to.Write(
            "@prefix skos: <http://www.w3.org/2004/02/skos/core#> .\n@prefix dcterms: <http://purl.org/dc/terms/> .\n@prefix owl: "
                + "<http://www.w3.org/2002/07/owl#> .\n\n"
        );
        var scheme = Scheme(vocabulary);
        to.Write($"<{scheme}> a skos:ConceptScheme ;\n  dcterms:title {Literal(vocabulary.Name, vocabulary.Language)} .\n");
        foreach (var term in vocabulary.Terms)
        {
            to.Write($"\n<{Address(vocabulary, term.Id)}> a skos:Concept ;\n  skos:inScheme <{scheme}>");
            foreach (var (property, text, language) in Texts(vocabulary, term))
                to.Write($" ;\n  {property} {Literal(text, language)}");
            foreach (var (property, id) in Links(term))
                to.Write($" ;\n  {property} <{Address(vocabulary, id)}>");
            if (term.Broader.Count == 0)
                to.Write($" ;\n  skos:topConceptOf <{scheme}>");
            if (term.Status == TermStatus.Retired)
                to.Write(" ;\n  owl:deprecated true");
            if (term.Status == TermStatus.Proposed)
                to.Write(" ;\n  dcterms:status \"proposed\"");
            to.Write(" .\n");
        }
    }

    /// <summary>Writes JSON-LD 1.1.</summary>
    public static string JsonLd(Vocabulary vocabulary)
    {
        var graph = new JsonArray(
            new JsonObject
            {
                ["@id"] = Scheme(vocabulary),
                ["@type"] = "skos:ConceptScheme",
                ["dcterms:title"] = Tagged(vocabulary.Name, vocabulary.Language),
            }
        );
        foreach (var term in vocabulary.Terms)
        {
            var concept = new JsonObject
            {
                ["@id"] = Address(vocabulary, term.Id),
                ["@type"] = "skos:Concept",
                ["skos:inScheme"] = new JsonObject { ["@id"] = Scheme(vocabulary) },
            };
            foreach (var group in Texts(vocabulary, term).GroupBy(t => t.Property))
                concept[group.Key] = new JsonArray([.. group.Select(t => Tagged(t.Text, t.Language))]);
            foreach (var group in Links(term).GroupBy(l => l.Property))
                concept[group.Key] = new JsonArray([
                    .. group.Select(l => (JsonNode)new JsonObject { ["@id"] = Address(vocabulary, l.Id) }),
                ]);
            if (term.Broader.Count == 0)
                concept["skos:topConceptOf"] = new JsonObject { ["@id"] = Scheme(vocabulary) };
            if (term.Status == TermStatus.Retired)
                concept["owl:deprecated"] = true;
            if (term.Status == TermStatus.Proposed)
                concept["dcterms:status"] = "proposed";
            graph.Add(concept);
        }
        return new JsonObject
        {
            ["@context"] = new JsonObject
            {
                ["skos"] = "http://www.w3.org/2004/02/skos/core#",
                ["dcterms"] = "http://purl.org/dc/terms/",
                ["owl"] = "http://www.w3.org/2002/07/owl#",
            },
            ["@graph"] = graph,
        }.ToJsonString(
            new JsonSerializerOptions
            {
                WriteIndented = true,
                Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
            }
        );
    }

    private static IEnumerable<(string Property, string Text, string Language)> Texts(Vocabulary vocabulary, Term term)
    {
        // A label that stands in for a missing one is not claimed to be in the vocabulary's language; a variant that is the label says
        // nothing (SKOS S13).
        if (term.LabelLanguage is null)
            yield return ("skos:prefLabel", term.Label, vocabulary.Language);
        foreach (var variant in term.Variants.Where(v => v != term.Label).Distinct(StringComparer.Ordinal))
            yield return ("skos:altLabel", variant, vocabulary.Language);
        if (term.Note is { } note)
            yield return ("skos:scopeNote", note, vocabulary.Language);
        if (term.Code is { } code)
            yield return ("skos:notation", code, "");
        foreach (var (language, words) in term.Words.OrderBy(w => w.Key, StringComparer.Ordinal))
        {
            if (words.Label.Length > 0)
                yield return ("skos:prefLabel", words.Label, language);
            foreach (var variant in words.Variants.Where(v => v != words.Label).Distinct(StringComparer.Ordinal))
                yield return ("skos:altLabel", variant, language);
            if (words.Note is { } other)
                yield return ("skos:scopeNote", other, language);
        }
    }

    private static IEnumerable<(string Property, string Id)> Links(Term term) =>
        term
            .Broader.Select(b => ("skos:broader", b))
            .Concat(term.Related.Select(r => ("skos:related", r)))
            .Concat(term.ReplacedBy is { } by ? [("dcterms:isReplacedBy", by)] : []);

    private static string Scheme(Vocabulary vocabulary) => Base + vocabulary.Key;

    // An id that is an IRI (RFC 3987) stays; anything else, a path of a file among it, becomes a part of one.
    private static string Address(Vocabulary vocabulary, string id) =>
        Iri().IsMatch(id) && Uri.TryCreate(id, UriKind.Absolute, out _) ? id : $"{Base}{vocabulary.Key}:{Uri.EscapeDataString(Whole(id))}";

    private static JsonNode Tagged(string text, string language) =>
        Tag(language) is { Length: > 0 } tag
            ? new JsonObject { ["@value"] = Whole(text), ["@language"] = tag }
            : JsonValue.Create(Whole(text));

    // A language tag as RFC 5646 writes it: zh_Hans is zh-Hans; what cannot be one becomes a private one.
    private static string Tag(string language)
    {
        var tag = language.Trim().Replace('_', '-');
        if (tag.Length == 0 || LanguageTag().IsMatch(tag))
            return tag;
        var parts = NoLetters().Split(tag).Where(p => p.Length > 0).SelectMany(p => p.Chunk(8)).Select(p => new string(p)).ToList();
        return parts.Count == 0 ? "" : "x-" + string.Join('-', parts);
    }

    // Half of a surrogate pair is no character.
    private static string Whole(string text) => Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text));

    private static string Literal(string text, string language)
    {
        var escaped = new StringBuilder(text.Length + 2).Append('"');
        foreach (var c in Whole(text))
            _ = c switch
            {
                < ' ' and not ('\n' or '\r' or '\t') => escaped.Append($"\\u{(int)c:X4}"),
                '"' => escaped.Append("\\\""),
                '\\' => escaped.Append(@"\\"),
                '\n' => escaped.Append("\\n"),
                '\r' => escaped.Append("\\r"),
                '\t' => escaped.Append("\\t"),
                _ => escaped.Append(c),
            };
        return escaped.Append('"').Append(Tag(language) is { Length: > 0 } tag ? "@" + tag : "").ToString();
    }

    /// <summary>The id a term had before it was written as an address by this class; other addresses stay.</summary>
    internal static string Id(string address) =>
        address.StartsWith(Base, StringComparison.Ordinal) && address.IndexOf(':', Base.Length) is > 0 and var at
            ? Uri.UnescapeDataString(address[(at + 1)..])
            : address;

    [GeneratedRegex("""^[A-Za-z][A-Za-z0-9+.-]+:[^\x00-\x20<>"{}|^`\\\uD800-\uDFFF]+$""")]
    private static partial Regex Iri();

    [GeneratedRegex("^[A-Za-z]{1,8}(-[A-Za-z0-9]{1,8})*$")]
    private static partial Regex LanguageTag();

    [GeneratedRegex("[^A-Za-z0-9]+")]
    private static partial Regex NoLetters();
}
