using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Designs.Threads;

/// <summary>A document as its threads are drawn.</summary>
/// <param name="Record">Field texts by key.</param>
/// <param name="Evidence">Where they were read, by field key.</param>
/// <param name="Now">What surrounds it.</param>
/// <param name="Number">Number of the counter, from 1.</param>
public sealed record ThreadedDocument(
    IReadOnlyDictionary<string, string> Record,
    IReadOnlyDictionary<string, Evidence> Evidence,
    CheckContext Now,
    int Number = 1
);

/// <summary>Works out the threads of one type with one document.</summary>
public static class Weaving
{
    /// <summary>Key of the source that stands for what a person typed.</summary>
    public const string Person = "person";

    /// <summary>The picture.</summary>
    /// <param name="compiled">The type.</param>
    /// <param name="readers">Readers; those of other types are passed over.</param>
    /// <param name="document">The document.</param>
    public static ThreadPicture Weave(CompiledType compiled, IReadOnlyList<Reader> readers, ThreadedDocument document)
    {
        var type = compiled.Type;
        List<Reader> own = [.. readers.Where(r => r.TypeCode == type.Code)];
        var values = compiled.Read([.. type.Fields.Select(f => document.Record.GetValueOrDefault(f.Key))], document.Now);
        var ends = new List<ThreadEnd>();
        var threads = new List<DrawnThread>();
        var regions = Regions(type, document, values).ToList();
        ends.AddRange(regions);
        var sources = type
            .Fields.Select((f, i) => regions.Exists(r => r.Key == f.Key) || values[i].IsEmpty ? null : SourceOf(f, compiled))
            .ToList();
        ends.AddRange(sources.OfType<ThreadEnd>().DistinctBy(s => s.Key));
        ends.AddRange(Astray(type, own));
        var fields = ends.Count;
        ends.AddRange(type.Fields.Select((f, i) => FieldEnd(f, values[i], own, type)));
        for (var i = 0; i < type.Fields.Count; i++)
        for (var left = 0; left < fields; left++)
            if (ends[left].Kind == EndKind.Region ? ends[left].Key == type.Fields[i].Key : ends[left].Key == sources[i]?.Key)
                threads.Add(new DrawnThread(left, fields + i));
        var segments = Pieces(compiled, document, values, key => type.OrdinalOf(key) is >= 0 and var at ? fields + at : -1, ends, threads);
        Rules(compiled, document, values, fields, ends, threads);
        var used = threads.Where(t => t.Left >= fields).Select(t => t.Left).ToHashSet();
        for (var i = 0; i < type.Fields.Count; i++)
            if (type.Fields[i] is { NotSearched: true, NotInResults: true } && !used.Contains(fields + i))
                ends[fields + i] = ends[fields + i] with
                {
                    NoUse = "leads nowhere: no path uses it, no rule checks it, and it is neither searched nor shown",
                };
        return new ThreadPicture(ends, threads, segments);
    }

    private static IEnumerable<ThreadEnd> Regions(DocumentType type, ThreadedDocument document, FieldValue[] values) =>
        document
            .Evidence.Where(e => e.Value.Raw.Length > 0)
            .Select(e => (Field: type.OrdinalOf(e.Key), e.Key, e.Value))
            .Where(e => e.Field < 0 || !values[e.Field].IsEmpty)
            .OrderBy(e => e.Value.Page)
            .ThenBy(e => e.Value.Box.CentreY)
            .ThenBy(e => e.Value.Box.X)
            .Select(e =>
                e.Field < 0
                    // Nobody knows any more whether it was restricted, so it is not shown.
                    ? new ThreadEnd(EndKind.Region, e.Key, e.Key, "")
                    {
                        Page = e.Value.Page,
                        Box = e.Value.Box,
                        Restricted = true,
                        NoUse = "was read, but its field is no longer in the type",
                    }
                    : new ThreadEnd(EndKind.Region, e.Key, type.Fields[e.Field].Label, type.Fields[e.Field].Restricted ? "" : e.Value.Raw)
                    {
                        Page = e.Value.Page,
                        Box = e.Value.Box,
                        Restricted = type.Fields[e.Field].Restricted,
                        Note = e.Value.Method == "picked" ? "picked on the page" : $"{e.Value.Method}, {e.Value.Confidence:0%} sure",
                    }
            );

    // What fills a field that was not read.
    private static ThreadEnd SourceOf(Field field, CompiledType compiled) =>
        compiled.Type.Fillings.FirstOrDefault(f => f.Targets.Values.Contains(field.Key)) is { } filling
            ? new ThreadEnd(
                EndKind.Source,
                $"table {filling.Table}",
                $"looked up in {compiled.Scope.Tables.GetValueOrDefault(filling.Table)?.Name ?? filling.Table}",
                ""
            )
        : field.DefaultFrom != DefaultSource.Constant || !string.IsNullOrEmpty(field.Default)
            ? new ThreadEnd(EndKind.Source, $"default {field.DefaultFrom}", $"by default: {field.DefaultFrom.InWords()}", "")
        : new ThreadEnd(EndKind.Source, Person, "typed by a person", "");

    // Crosswalk lines that lead to fields that are gone.
    private static IEnumerable<ThreadEnd> Astray(DocumentType type, List<Reader> readers) =>
        from reader in readers
        from line in reader.Crosswalk
        where type.Find(line.Field) is null
        select new ThreadEnd(EndKind.Source, $"reader {reader.Key}", $"{reader.Name}: {line.Source}", "")
        {
            NoUse = $"the zone “{line.Source}” of {reader.Name} leads to “{line.Field}”, which is not a field of this type",
        };

    private static ThreadEnd FieldEnd(Field field, FieldValue value, List<Reader> readers, DocumentType type)
    {
        var read = readers.Exists(r => r.Crosswalk.Any(l => l.Field == field.Key));
        var fillable =
            read
            || type.Fillings.Any(f => f.Targets.Values.Contains(field.Key))
            || field.DefaultFrom != DefaultSource.Constant
            || !string.IsNullOrEmpty(field.Default);
        return new ThreadEnd(
            EndKind.Field,
            field.Key,
            field.Label,
            field.Restricted ? ""
                : field.Kind.HasRows && value.IsGood
                    ? value.Rows.Length == 1 ? "1 row"
                        : $"{value.Rows.Length} rows"
                : value.Text
        )
        {
            Restricted = field.Restricted,
            Note = field.Kind.Label + (field.Required ? ", must be filled" : ""),
            NoSource =
                !value.IsEmpty ? null
                : field.Required
                    ? read ? "must be filled, but nothing was read for it here"
                        : "must be filled, but nothing fills it here"
                : !fillable && readers.Count > 0 ? "no reader, default or look-up fills it"
                : null,
        };
    }

    private static List<string> Pieces(
        CompiledType compiled,
        ThreadedDocument document,
        FieldValue[] values,
        Func<string, int> fieldEnd,
        List<ThreadEnd> ends,
        List<DrawnThread> threads
    )
    {
        var (type, pieces) = (compiled.Type, compiled.Type.Convention.Pieces.ToList());
        var place = compiled.Convention.Render(values, document.Now, document.Number);
        List<string> segments =
        [
            .. place.Folder.Length > 0 ? place.Folder.Split('/') : [],
            .. pieces.Count > 0 ? [place.Name + CompiledConvention.Extension] : Array.Empty<string>(),
        ];
        var written = compiled.Convention.WrittenPieces(values, document.Now, document.Number).ToDictionary(w => w.At);
        var segment = 0;
        for (var at = 0; at < pieces.Count; at++)
        {
            var piece = pieces[at];
            if (piece.Kind is PieceKind.Inside or PieceKind.Text)
                continue;
            var isIn = written.TryGetValue(at, out var w);
            segment =
                isIn ? w.Segment
                : at < type.Convention.Folder.Count ? segment
                : segments.Count - 1;
            var field = piece.Kind == PieceKind.Field ? type.Find(piece.Field) : null;
            if (field?.Restricted == true && isIn && w.Written.Length > 0)
                segments[segment] = "restricted";
            var isHole =
                isIn
                && piece.Kind == PieceKind.Field
                && (field is null || (!values[type.OrdinalOf(field.Key)].IsGood && piece.IfEmpty is null));
            foreach (
                var key in new[] { piece.Kind == PieceKind.Field ? piece.Field : null, piece.OnlyWhenFilled }.OfType<string>().Distinct()
            )
                if (fieldEnd(key) is >= 0 and var from)
                    threads.Add(new DrawnThread(from, ends.Count));
            ends.Add(
                new ThreadEnd(
                    EndKind.Piece,
                    at.ToString(System.Globalization.CultureInfo.InvariantCulture),
                    PieceWords.NameOf(piece, type),
                    field?.Restricted == true ? "" : w.Written ?? ""
                )
                {
                    Segment = segment,
                    Restricted = field?.Restricted == true,
                    Note = string.Join(
                        ", ",
                        PieceWords
                            .Options(piece, type)
                            .Select((o, i) => i == 0 && piece.DateForm is not null ? $"written like {o}" : o)
                            .Append(isIn ? null : "left out here")
                            .OfType<string>()
                    ),
                    NoSource =
                        !isHole ? null
                        : field is null ? $"names “{piece.Field}”, which is not a field of this type"
                        : $"{field.Label} is empty, which would leave a gap in the path; the document is held back",
                }
            );
        }
        return segments;
    }

    private static void Rules(
        CompiledType compiled,
        ThreadedDocument document,
        FieldValue[] values,
        int fields,
        List<ThreadEnd> ends,
        List<DrawnThread> threads
    )
    {
        var type = compiled.Type;
        var broken = compiled
            .Problems(values, document.Now)
            .Where(p => p.Rule is not null)
            .GroupBy(p => p.Rule!)
            .ToDictionary(g => g.Key, g => g.Min(p => p.Level), StringComparer.Ordinal);
        foreach (var rule in type.Rules)
        {
            foreach (
                var at in RuleExamples.Fields(rule, type).Select(k => type.ToTypeFields().PlaceOf(k).Field).Where(at => at >= 0).Distinct()
            )
                threads.Add(new DrawnThread(fields + at, ends.Count));
            ends.Add(
                new ThreadEnd(EndKind.Rule, rule.Id, RuleKinds.Sentence(rule, type), "")
                {
                    Note = rule.Level == Level.Must ? "must" : "should",
                    NoSource = RuleKinds.Finding(rule, type),
                    Broken = broken.TryGetValue(rule.Id, out var level) ? level : null,
                }
            );
        }
    }
}
