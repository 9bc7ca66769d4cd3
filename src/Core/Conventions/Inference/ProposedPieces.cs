using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Conventions.Inference;

/// <summary>Turns the parts of all levels into pieces and the fields they need.</summary>
internal sealed class ProposedPieces
{
    private readonly TypeFields _type;
    private readonly IReadOnlyDictionary<string, VocabularyIndex> _vocabularies;
    private readonly List<List<Part>> _levels;
    private readonly int[] _rows;
    private readonly List<ProposedField> _made = [];
    private readonly Dictionary<(int Level, int From), (int Count, ProposedPiece Piece)> _taken = [];

    // Texts of the fields so far by row, so that another part may be found to repeat one.
    private readonly List<(Field Field, string?[] Values)> _known = [];

    private ProposedPieces(List<List<Part>> levels, TypeFields type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        (_levels, _type, _vocabularies) = (levels, type, vocabularies);
        _rows = [.. Enumerable.Range(0, levels[0][0].Values.Length).Where(r => levels.All(l => l.All(p => p.Values[r] is not null)))];
    }

    /// <summary>Pieces of the parts; null when no row has all levels in the form of the parts.</summary>
    public static Draft? Of(List<List<Part>> levels, TypeFields type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) =>
        new ProposedPieces(levels, type, vocabularies) is { _rows.Length: > 0 } pieces ? pieces.Make() : null;

    private bool One => _levels[0][0].Values.Length == 1;

    private Draft Make()
    {
        Existing();
        Dates();
        Counter();
        // What is made of another part waits until that has its field.
        var waiting = new List<(int Level, int At)>();
        for (var level = 0; level < _levels.Count; level++)
        for (var at = 0; at < _levels[level].Count; at++)
            if (IsFree(level, at))
                if (IsMadeOfAnother(level, at))
                    waiting.Add((level, at));
                else
                    _taken[(level, at)] = (1, PieceOf(level, at));
        foreach (var (level, at) in waiting)
            _taken[(level, at)] = (1, PieceOf(level, at));
        var folder = new List<ProposedPiece>();
        var name = new List<ProposedPiece>();
        for (var level = 0; level < _levels.Count; level++)
        {
            var line = level == _levels.Count - 1 ? name : folder;
            if (level > 0 && line == folder)
                line.Add(new ProposedPiece(Piece.Inside, "", false, []));
            for (var at = 0; at < _levels[level].Count; )
            {
                var (count, piece) = _taken[(level, at)];
                Add(line, piece);
                at += count;
            }
        }
        return new Draft(folder, name, _made);
    }

    // Fixed text beside fixed text is one piece.
    private static void Add(List<ProposedPiece> line, ProposedPiece piece)
    {
        if (piece.Piece.Kind == PieceKind.Text && line is [.., { Piece.Kind: PieceKind.Text } last])
            line[^1] = last with
            {
                Piece = last.Piece with { Text = last.Piece.Text + piece.Piece.Text },
                Because = last.Because.Length > 0 ? last.Because : piece.Because,
                Unsure = last.Unsure || piece.Unsure,
            };
        else
            line.Add(piece);
    }

    private void Dates()
    {
        foreach (var group in DateFinding.Groups(DateFinding.In(_levels, _rows, IsFree)))
        {
            var own = _type
                .Fields.Where(f => f.Kind.Measure == Measure.Day && !f.Restricted && _known.All(k => k.Field.Key != f.Key))
                .OrderByDescending(f => f.Required)
                .FirstOrDefault();
            var whole = group.Aggregate(
                (Year: false, Month: false, Day: false),
                (told, d) => DateForms.Tells(d.Form) is var t ? (told.Year | t.Year, told.Month | t.Month, told.Day | t.Day) : told
            );
            // A year alone is no date: nothing could ever be read back into one.
            if (own is null && group is [{ Form: "yyyy" } year])
            {
                Take(
                    year.Level,
                    year.From,
                    year.Count,
                    Noted(New("Year", FieldKind.WholeNumber)),
                    "A year; without month and day it is no date.",
                    _levels[year.Level][year.From].Constant is not null && !One
                );
                continue;
            }
            var inPart = whole is not (true, true, true);
            var field = own ?? New("Date", FieldKind.Date);
            _known.Add((field, []));
            foreach (var date in group)
            {
                var constant = _levels[date.Level].Skip(date.From).Take(date.Count).All(p => p.Constant is not null) && !One;
                var piece = Piece.Of(field.Key) with { DateForm = date.Form, Language = date.Language };
                // 05-03 and 03-05 are both days while no number is above twelve.
                var eitherWay = date.Form is "dd-MM-yyyy" or "MM-dd-yyyy" && date.Told.All(t => t.Day <= 12);
                var because =
                    constant
                        ? $"The same in all examples; taken as {(date.Form == "yyyy" ? "the year" : "a part")} of {field.Label}, not "
                            + "as fixed text."
                    : group.Count > 1 && date != group[0] ? $"Agrees with {field.Label} elsewhere in the path."
                    : inPart ? $"Only a part of {field.Label}, which cannot be read back from it."
                    : eitherWay ? "Day and month could be the other way round."
                    : "";
                _taken[(date.Level, date.From)] = (
                    date.Count,
                    new ProposedPiece(
                        piece,
                        because,
                        constant || (inPart || eitherWay) && date == group[0],
                        Shown(date.Level, date.From, date.Count)
                    )
                );
            }
        }
    }

    // Fields of the type whose terms or whose pattern a run of parts has.
    private void Existing()
    {
        foreach (
            var field in _type.Fields.Where(f => !f.Restricted && (f is TermField or IdentifierField or TextField { Pattern.Length: > 0 }))
        )
        {
            var reader = new FieldReader(field, _vocabularies);
            System.Text.RegularExpressions.Regex? pattern = null;
            if (field is TextField text && !SafePattern.TryWhole(text.Pattern!, out pattern, out _))
                continue;
            var scheme = Fields.CheckDigits.CheckSchemes.Find((field as IdentifierField)?.Scheme);
            if (field is IdentifierField && scheme is null)
                continue;
            bool Takes(string value) =>
                field switch
                {
                    TermField => reader.Terms?.IndexOf(value) is >= 0 and var at && reader.Terms.Vocabulary.Terms[at].Label == value,
                    IdentifierField => scheme!.Problem(value) is null,
                    _ => pattern!.IsMatch(value),
                };
            foreach (var (level, from, count) in Runs())
            {
                if (!_rows.All(r => Takes(Text(level, from, count, r))))
                    continue;
                Take(level, from, count, field, $"Every one is {(field.Kind.HasTerms ? "a term" : "a value")} of {field.Label}.", false);
                break;
            }
        }
    }

    private IEnumerable<(int Level, int From, int Count)> Runs()
    {
        for (var level = _levels.Count - 1; level >= 0; level--)
        for (var from = 0; from < _levels[level].Count; from++)
        for (var count = Math.Min(8, _levels[level].Count - from); count > 0; count--)
            if (
                Enumerable.Range(from, count).All(i => IsFree(level, i))
                && (One || _levels[level].Skip(from).Take(count).Any(p => p.Constant is null))
            )
                yield return (level, from, count);
    }

    // A number in brackets at the end of every name.
    private void Counter()
    {
        var name = _levels[^1];
        if (name is not [.., { Constant: "(" }, { Kind: TokenKind.Digits }, { Constant: ")" }])
            return;
        if (!IsFree(_levels.Count - 1, name.Count - 2))
            return;
        var digits = name[^2];
        var width =
            _rows.Select(r => digits.Values[r]!.Length).Distinct().ToArray() is [var only]
            && only > 1
            && _rows.Any(r => digits.Values[r]![0] == '0')
                ? only
                : (int?)null;
        _taken[(_levels.Count - 1, name.Count - 2)] = (
            1,
            new ProposedPiece(
                new Piece(PieceKind.Counter) { Digits = width },
                "A number in brackets at the end of every name: the counter that tells equal names apart.",
                false,
                Shown(_levels.Count - 1, name.Count - 2, 1)
            )
        );
    }

    private ProposedPiece PieceOf(int level, int at)
    {
        var part = _levels[level][at];
        var last = level == _levels.Count - 1;
        if (part.Kind == TokenKind.Sign)
            return Fixed(part, "", false);
        if (One)
        {
            // Of one example digits and the words of its name vary; folders and capitals before a sign stay.
            if (part.Kind == TokenKind.Digits)
                return Number(level, at, true);
            var stays =
                !last
                || (at + 1 < _levels[level].Count && _levels[level][at + 1].Kind == TokenKind.Sign && part.Constant!.All(char.IsUpper));
            return stays ? Fixed(part, "Taken as fixed text.", true) : Words(level, at, true);
        }
        if (part.Constant is not null)
            return Fixed(
                part,
                part.Kind == TokenKind.Digits ? "The same number in all examples, taken as fixed text." : "",
                part.Kind == TokenKind.Digits
            );
        if (Repeated(level, at) is { } repeated)
            return repeated;
        return part.Kind == TokenKind.Digits ? Number(level, at, false) : Words(level, at, false);
    }

    private static ProposedPiece Fixed(Part part, string because, bool unsure) =>
        new(Piece.Literal(part.Constant ?? part.Values.OfType<string>().First()), because, unsure, []);

    // The same text as a field elsewhere, or a form of it.
    private ProposedPiece? Repeated(int level, int at)
    {
        foreach (var (field, values) in _known.Where(k => k.Values.Length > 0))
        foreach (var form in Forms)
            if (_rows.All(r => PieceText.Of(form, values[r]!) == _levels[level][at].Values[r]))
                return new ProposedPiece(
                    form with
                    {
                        Field = field.Key,
                    },
                    form == Forms[0] ? $"The same as {field.Label} in every example." : $"Made of {field.Label} in every example.",
                    false,
                    Shown(level, at, 1)
                );
        return null;
    }

    private bool IsMadeOfAnother(int level, int at) =>
        !One
        && _levels[level][at] is { Constant: null, Kind: TokenKind.Words } part
        && Enumerable
            .Range(0, _levels.Count)
            .Any(l =>
                Enumerable
                    .Range(0, _levels[l].Count)
                    .Any(i =>
                        (l, i) != (level, at)
                        && IsFree(l, i)
                        && _levels[l][i] is { Constant: null, Kind: TokenKind.Words } other
                        && Forms
                            .Skip(1)
                            .Any(form =>
                                _rows.All(r => PieceText.Of(form, other.Values[r]!) == part.Values[r] && other.Values[r] != part.Values[r])
                            )
                    )
            );

    private static readonly Piece[] Forms =
    [
        new(PieceKind.Field),
        new(PieceKind.Field) { Case = LetterCase.Upper },
        new(PieceKind.Field) { Case = LetterCase.Lower },
        new(PieceKind.Field) { Extract = Extract.FirstLetter },
        new(PieceKind.Field) { Extract = Extract.FirstLetter, Case = LetterCase.Upper },
        new(PieceKind.Field) { Extract = Extract.Initials },
    ];

    private ProposedPiece Number(int level, int at, bool unsure)
    {
        var values = Array.ConvertAll(_rows, r => _levels[level][at].Values[r]!);
        var zeros = values.Any(v => v.Length > 1 && v[0] == '0');
        var widths = values.Select(v => v.Length).Distinct().ToArray();
        if (zeros && widths.Length > 1 || values.Any(v => v.Length > 15))
            return Made(level, at, New("Number", FieldKind.Text), "Numbers of different length with leading zeros are kept as text.", true);
        var piece = Made(
            level,
            at,
            New("Number", FieldKind.WholeNumber),
            zeros ? $"A number of {widths[0]} digits, filled with zeros."
                : widths.Length == 1 && values.Length > 1 && widths[0] > 1 ? $"A number; all have {widths[0]} digits."
                : "",
            unsure
        );
        return zeros || (widths.Length == 1 && widths[0] > 2) ? piece with { Piece = piece.Piece with { Digits = widths[0] } } : piece;
    }

    private ProposedPiece Words(int level, int at, bool unsure)
    {
        var values = Array.ConvertAll(_rows, r => _levels[level][at].Values[r]!);
        var distinct = values.Distinct(StringComparer.Ordinal).ToList();
        var last = level == _levels.Count - 1;
        if (
            _vocabularies.Values.FirstOrDefault(v => values.All(x => v.IndexOf(x) is >= 0 and var i && v.Vocabulary.Terms[i].Label == x))
                is { } vocabulary
            && !unsure
        )
            return Made(
                level,
                at,
                NewTerm(vocabulary.Vocabulary.Name) with
                {
                    Vocabulary = vocabulary.Vocabulary.Key,
                },
                $"Every one is a term of {vocabulary.Vocabulary.Name}.",
                false
            );
        if (values.Length >= 12 && distinct.Count <= Math.Min(40, values.Length / 4) && distinct.All(d => d.Length is > 0 and <= 60))
        {
            var field = NewTerm(last ? "Kind" : "Class");
            return Made(
                level,
                at,
                field with
                {
                    Vocabulary = field.Key,
                },
                $"Only {distinct.Count} different words: a vocabulary of its own.",
                true,
                distinct
            );
        }
        var text = New(last ? "Title" : "Subject", FieldKind.Text);
        if (values.Any(v => v.Length == 0))
        {
            var some = Made(level, at, text with { Required = false }, "Missing in some.", true);
            return some with { Piece = some.Piece with { LeaveOut = true } };
        }
        return Made(
            level,
            at,
            text,
            _levels[level].Count == 1 && !last && distinct.Count > 1 ? "Text that varies." : "",
            unsure || _levels[level].Count == 1
        );
    }

    private TermField NewTerm(string label) => (TermField)New(label, FieldKind.Term);

    private Field New(string label, FieldKind kind)
    {
        var (n, unique) = (1, label);
        while (_type.Find(ShortName.From(unique)) is not null || _made.Any(m => m.Field.Key == ShortName.From(unique)))
            unique = $"{label} {++n}";
        var field = kind.New(ShortName.From(unique), unique) with { Required = true };
        if (kind.Measure == Measure.Day)
            _made.Add(new ProposedField(field, []));
        return field;
    }

    private Field Noted(Field field)
    {
        _made.Add(new ProposedField(field, []));
        return field;
    }

    private ProposedPiece Made(int level, int at, Field field, string because, bool unsure, IReadOnlyList<string>? terms = null)
    {
        _made.Add(new ProposedField(field, terms ?? []));
        _known.Add((field, _levels[level][at].Values));
        return new ProposedPiece(Piece.Of(field.Key), because, unsure, Shown(level, at, 1));
    }

    private void Take(int level, int from, int count, Field field, string because, bool unsure)
    {
        var values = new string?[_levels[level][from].Values.Length];
        foreach (var row in _rows)
            values[row] = Text(level, from, count, row);
        _known.Add((field, values));
        _taken[(level, from)] = (count, new ProposedPiece(Piece.Of(field.Key), because, unsure, Shown(level, from, count)));
    }

    private bool IsFree(int level, int at) => _taken.All(t => t.Key.Level != level || at < t.Key.From || at >= t.Key.From + t.Value.Count);

    private string Text(int level, int from, int count, int row) =>
        count == 1 ? _levels[level][from].Values[row]! : string.Concat(_levels[level].Skip(from).Take(count).Select(p => p.Values[row]));

    private List<string> Shown(int level, int from, int count) =>
        [.. _rows.Take(500).Select(r => Text(level, from, count, r)).Distinct(StringComparer.Ordinal).Take(4)];
}
