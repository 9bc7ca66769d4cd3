using ClearLexicon.Core.Vocabularies;
using nietras.SeparatedValues;

namespace ClearLexicon.Formats;

/// <summary>
/// Terms as CSV (RFC 4180): columns id, label, variants, code, status, broader, related, replaced by, note, and for other
/// languages <c>label@de</c>, <c>variants@de</c>, <c>note@de</c>. Several values in a cell are separated by <c>|</c>; broader,
/// related and replaced by take ids or labels.
/// </summary>
public static class TermCsv
{
    private static readonly string[] Fixed = ["id", "label", "variants", "code", "status", "broader", "related", "replaced by", "note"];

    /// <summary>Writes all terms.</summary>
    public static void Write(Vocabulary vocabulary, TextWriter to)
    {
        var languages = vocabulary.Terms.SelectMany(t => t.Words.Keys).Distinct().Order(StringComparer.Ordinal).ToArray();
        SafeCsv.WriteLine(
            to,
            [.. Fixed, "label language", .. languages.SelectMany(l => new[] { $"label@{l}", $"variants@{l}", $"note@{l}" })]
        );
        foreach (var t in vocabulary.Terms)
            SafeCsv.WriteLine(
                to,
                [
                    t.Id,
                    t.Label,
                    string.Join('|', t.Variants),
                    t.Code ?? "",
                    t.Status.ToString().ToLowerInvariant(),
                    string.Join('|', t.Broader),
                    string.Join('|', t.Related),
                    t.ReplacedBy ?? "",
                    t.Note ?? "",
                    t.LabelLanguage is null ? ""
                    : t.LabelLanguage.Length == 0 ? "none"
                    : t.LabelLanguage,
                    .. languages.SelectMany(l =>
                        t.Words.TryGetValue(l, out var w) ? [w.Label, string.Join('|', w.Variants), w.Note ?? ""] : new[] { "", "", "" }
                    ),
                ]
            );
    }

    /// <summary>Reads terms; every broken line is named by its number.</summary>
    /// <param name="path">A UTF-8 file.</param>
    public static (BroughtTerms? Terms, string? Problem) Read(string path)
    {
        var heading = File.ReadLines(path).FirstOrDefault() ?? "";
        var separator = new[] { ';', ',', '\t' }.MaxBy(s => heading.Count(c => c == s));
        using var reader = Sep.New(separator)
            .Reader(o => o with { HasHeader = false, Unescape = true, DisableColCountCheck = true })
            .FromFile(path);
        string[]? names = null;
        var terms = new List<(Term Term, int Line)>();
        var broken = new List<(int, string)>();
        foreach (var row in reader)
        {
            var cells = new string[row.ColCount];
            for (var i = 0; i < cells.Length; i++)
                cells[i] = Plain(row[i].ToString());
            if (names is null)
            {
                names = [.. cells.Select(c => c.Trim().ToLowerInvariant())];
                if (!names.Contains("label"))
                    return (
                        null,
                        "line 1: there is no column “label”; the others may be id, variants, code, status, broader, related, "
                            + "replaced by, note and label@de."
                    );
                continue;
            }
            var line = row.LineNumberFrom;
            if (cells.All(c => c.Length == 0))
                continue;
            if (cells.Length != names.Length)
            {
                broken.Add((line, $"It has {cells.Length} cells, the heading has {names.Length}."));
                continue;
            }
            var (term, why) = Term(names, cells);
            if (term is null)
                broken.Add((line, why!));
            else
                terms.Add((term, line));
        }
        if (names is null)
            return (null, "the file is empty.");
        // Relations may be written as labels: they become ids once all lines are known.
        var ids = terms.Select(t => t.Term.Id).ToHashSet(StringComparer.Ordinal);
        var byLabel = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var (term, _) in terms)
            byLabel.TryAdd(Folding.Fold(term.Label), term.Id);
        string Known(string name) => ids.Contains(name) ? name : byLabel.GetValueOrDefault(Folding.Fold(name), name);
        return (
            new BroughtTerms(
                [
                    .. terms.Select(t => new BroughtTerm(
                        t.Term with
                        {
                            Broader = [.. t.Term.Broader.Select(Known)],
                            Related = [.. t.Term.Related.Select(Known)],
                            ReplacedBy = t.Term.ReplacedBy is { } r ? Known(r) : null,
                        },
                        t.Line
                    )),
                ],
                broken
            ),
            null
        );
    }

    private static (Term?, string?) Term(string[] names, string[] cells)
    {
        string Cell(string name) => Array.IndexOf(names, name) is >= 0 and var i ? cells[i].Trim() : "";
        string[] Many(string name) => Cell(name).Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        var label = Cell("label");
        if (Folding.Fold(label).Length == 0)
            return (null, "It has no label.");
        if (label.Length > Vocabulary.LongestLabel)
            return (null, $"Its label is longer than {Vocabulary.LongestLabel} characters.");
        var status = Cell("status");
        if (status.Length > 0 && (!Enum.TryParse<TermStatus>(status, ignoreCase: true, out _) || char.IsAsciiDigit(status[0])))
            return (null, $"“{status}” is not a status; write current, retired or proposed.");
        var languages = names.Where(n => n.Contains('@')).Select(n => n[(n.IndexOf('@') + 1)..]).Distinct();
        var words = languages
            .Select(l =>
                (l, w: new TermWords(Cell($"label@{l}"), Many($"variants@{l}"), Cell($"note@{l}") is { Length: > 0 } n ? n : null))
            )
            .Where(w => w.w.Label.Length > 0 || w.w.Variants.Count > 0 || w.w.Note is not null);
        return (
            new Term(
                label,
                Many("variants"),
                Cell("code") is { Length: > 0 } code ? code : null,
                status.Length == 0 ? TermStatus.Current : Enum.Parse<TermStatus>(status, ignoreCase: true)
            )
            {
                Id = Cell("id") is { Length: > 0 } id ? id : label,
                Note = Cell("note") is { Length: > 0 } note ? note : null,
                LabelLanguage = Cell("label language") switch
                {
                    "" => null,
                    "none" => "",
                    var l => l,
                },
                Words = words.ToDictionary(w => w.l, w => w.w, StringComparer.Ordinal),
                Broader = Many("broader"),
                Related = Many("related"),
                ReplacedBy = Cell("replaced by") is { Length: > 0 } by ? by : null,
            },
            null
        );
    }

    // The apostrophe that keeps spreadsheets from running a cell is not part of it.
    private static string Plain(string cell) =>
        cell.Length > 1 && cell[0] == '\'' && cell[1] is '=' or '+' or '-' or '@' ? cell[1..] : cell;
}
