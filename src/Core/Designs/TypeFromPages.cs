using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>A field proposed for a value that pages of one design have.</summary>
/// <param name="At">Position of the value in its proposal.</param>
/// <param name="Field">The field.</param>
/// <param name="Terms">Terms of the vocabulary that it needs; empty for none.</param>
public sealed record FieldFromPages(int At, Field Field, IReadOnlyList<string> Terms);

/// <summary>A document type worked out from unlabelled pages of one design.</summary>
public static class TypeFromPages
{
    /// <summary>Fewest values that show whether they repeat.</summary>
    private const int Telling = 6;
    private const int MostTerms = 12;

    /// <summary>A value on so many of the pages is asked of all.</summary>
    private const double OnNearlyAll = 0.9;

    /// <summary>
    /// One field a value: its kind by what all samples fit, a pattern when all are built alike, a vocabulary when few repeat.
    /// </summary>
    public static IReadOnlyList<FieldFromPages> Fields(ReaderProposal proposal)
    {
        var taken = new HashSet<string>(StringComparer.Ordinal);
        var fields = new List<FieldFromPages>();
        for (var i = 0; i < proposal.Values.Count; i++)
        {
            var value = proposal.Values[i];
            var label = value.Columns.Count > 0 ? "Rows" : LabelOf(value.Label);
            if (label.Length == 0 || ShortName.From(label) is not { Length: > 0 } wanted)
                continue;
            var key = Enumerable.Range(1, 99).Select(n => n == 1 ? wanted : $"{wanted}-{n}").First(taken.Add);
            var given = value.Values.Where(v => v.Length > 0).Select(v => v.Trim(' ', '.', ',', ';')).ToList();
            var terms =
                value.Kind == FieldKind.Text && Repeat(given) ? given.Distinct(StringComparer.OrdinalIgnoreCase).Order().ToList() : [];
            var field = terms.Count > 0 ? new TermField(key, label) { Vocabulary = key } : value.Kind.New(key, label);
            if (field is TableField table)
                field = table with { Columns = ColumnsOf(value) };
            if (field is TextField text && PatternOf(given) is { } pattern)
                field = text with { Pattern = pattern };
            fields.Add(
                new FieldFromPages(
                    i,
                    field with
                    {
                        Required = given.Count >= OnNearlyAll * value.Values.Count,
                        Example = field is TextField { Pattern: not null } ? given[0] : null,
                    },
                    terms
                )
            );
        }
        return fields;
    }

    /// <summary>
    /// The type with the fields that were chosen. Its documents lie in a folder of its name, by year when it has a date, and are named
    /// after their number, or counted.
    /// </summary>
    public static DocumentType Made(string code, string name, IReadOnlyList<Field> fields)
    {
        var number = fields.FirstOrDefault(f => f is TextField { Pattern: not null }) ?? fields.FirstOrDefault(f => f is IdentifierField);
        var date = fields.FirstOrDefault(f => f.Kind.Measure == Measure.Day && f.Required);
        var named = name.Replace('/', ' ').Trim();
        var counter = new Piece(PieceKind.Counter) { Digits = 4, OnlyWhenTaken = number is not null };
        return DocumentType.Empty(code, name) with
        {
            Fields = fields,
            Convention = new Convention(
                date is null ? [Piece.Literal(named)] : [Piece.Literal(named), Piece.Inside, Piece.Of(date.Key) with { DateForm = "yyyy" }],
                number is null ? [Piece.Literal(named + " "), counter] : [Piece.Of(number.Key), counter]
            ),
        };
    }

    private static List<Field> ColumnsOf(ProposedValue value)
    {
        var taken = new HashSet<string>(StringComparer.Ordinal);
        return
        [
            .. value
                .Columns.Select(c => (Label: LabelOf(c.Heading), c.Values))
                .Where(c => ShortName.From(c.Label) is { Length: > 0 } key && taken.Add(key))
                .Select(c => Proposing.KindOf(c.Values).New(ShortName.From(c.Label), c.Label)),
        ];
    }

    private static string LabelOf(string label)
    {
        var bare = label.Trim(' ', ':', '.', ',', '·', '-');
        if (bare.Length > 60)
            bare = bare[..60].Trim();
        return bare.Length == 0 ? "" : char.ToUpperInvariant(bare[0]) + bare[1..];
    }

    private static bool Repeat(List<string> given)
    {
        var terms = given.Select(Folding.Letters).Distinct(StringComparer.Ordinal).ToList();
        return given.Count >= Telling
            && terms.Count > 1
            && terms.Count <= Math.Min(MostTerms, given.Count / 2)
            && terms.TrueForAll(t => t.Length is > 1 and < 60 && t.Any(char.IsLetter));
    }

    // All are built alike, and of more than letters alone.
    private static string? PatternOf(List<string> given)
    {
        if (given.Count < 3 || !given.TrueForAll(v => v.Length is > 3 and < 40 && v.Any(char.IsAsciiDigit)))
            return null;
        var patterns = given.Select(v => PatternPieces.Write(PatternPieces.FromExample(v))).Distinct(StringComparer.Ordinal).ToList();
        return patterns is [var one] ? one : null;
    }
}
