using System.Globalization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions;

/// <summary>What an existing path says.</summary>
/// <param name="Fits">Whether the convention could have given the path.</param>
/// <param name="Values">Texts by field key. Those in <paramref name="Unsure"/> are only what the path kept of the value.</param>
/// <param name="Unsure">Keys of fields whose value was changed on its way into the path: cut, initials, other case, only a part of the
/// date; and of those that another reading of the same path gives another value.</param>
/// <param name="Counter">Number of the counter; 1 when the path shows none.</param>
public sealed record PathReading(bool Fits, IReadOnlyDictionary<string, string> Values, IReadOnlySet<string> Unsure, int Counter)
{
    /// <summary>What a path says that does not fit.</summary>
    public static PathReading None { get; } = new(false, new Dictionary<string, string>(), new HashSet<string>(), 1);
}

/// <summary>
/// Reads paths back into field values by the convention that names them. A reading counts only when the convention makes the
/// same path of it again, so that path → values → path is the identity. Immutable and thread-safe.
/// </summary>
public sealed class PathReader
{
    // Bounds the work on a path with very many possible divisions; a usual one takes a few dozen.
    private const int MostSteps = 100_000;

    private readonly CompiledConvention _convention;
    private readonly Arrangement[] _arrangements;
    private readonly FieldReader?[] _readers;
    private readonly FieldReader[] _fields;
    private readonly (string Field, System.Text.RegularExpressions.Regex Pattern)[] _patterns;

    /// <summary>Prepares for one convention.</summary>
    /// <param name="convention">The convention that names.</param>
    /// <param name="fields">The readers of its type's fields, by ordinal.</param>
    public PathReader(CompiledConvention convention, IReadOnlyList<FieldReader> fields)
    {
        _convention = convention;
        _fields = [.. fields];
        _readers = [.. convention.Pieces.Select(p => p.Ordinal >= 0 ? _fields[p.Ordinal] : null)];
        _arrangements = [.. convention.Arrangements.All()];
        _patterns =
        [
            .. _fields
                .Select(f => f.Field)
                .OfType<TextField>()
                .Select(f => (f.Key, f.Pattern is { Length: > 0 } p && SafePattern.TryWhole(p, out var pattern, out _) ? pattern : null))
                .Where(p => p.Item2 is not null)
                .Select(p => (p.Key, p.Item2!)),
        ];
    }

    /// <summary>Reads a path.</summary>
    /// <param name="path">Folder and name below the root, separated by <c>/</c>, without extension.</param>
    /// <param name="now">What surrounded the document when it was named; system values must agree with it where it knows them.</param>
    public PathReading Read(string path, CheckContext now)
    {
        if (path.Length > 4095)
            return PathReading.None;
        PathReading? first = null;
        var sound = false;
        var unsure = new HashSet<string>(StringComparer.Ordinal);
        var tooMany = false;
        // A second reading may say otherwise: then nobody knows which one is meant.
        bool Add(PathReading reading, bool isSound)
        {
            // What a field's own pattern refuses is meant only when nothing else can be.
            if (first is null || isSound && !sound)
            {
                (first, sound) = (reading, isSound);
                unsure.Clear();
                unsure.UnionWith(reading.Unsure);
            }
            else if (isSound == sound)
                unsure.UnionWith(first.Values.Where(v => reading.Values.GetValueOrDefault(v.Key) != v.Value).Select(v => v.Key));
            return sound && unsure.Count >= first.Values.Count;
        }
        foreach (var arrangement in _arrangements)
        {
            // A folder line without any step is the root itself.
            Step[] steps =
                arrangement.Folder.Length == 0 ? arrangement.Name : [.. arrangement.Folder, new Step(-1, "/"), .. arrangement.Name];
            var matcher = new Matcher(this, steps, path, now, Add);
            if (matcher.Match(0, 0))
                break;
            tooMany |= matcher.GaveUp;
            if (!_convention.HasCounter && TakeSuffix(path, out var stem, out var number))
            {
                matcher = new Matcher(this, steps, stem, now, Add) { Counter = number, Full = path };
                if (matcher.Match(0, 0))
                    break;
                tooMany |= matcher.GaveUp;
            }
        }
        if (first is null)
            return PathReading.None;
        // Not all divisions were looked at, so another one may say otherwise.
        if (tooMany)
            unsure.UnionWith(first.Values.Keys);
        return first with { Unsure = unsure };
    }

    private bool IsSound(Dictionary<string, string> values) =>
        Array.TrueForAll(_patterns, p => !values.TryGetValue(p.Field, out var text) || p.Pattern.IsMatch(text));

    // “ (2)” or “ v2”, as collisions are told apart.
    private bool TakeSuffix(string path, out string stem, out int number)
    {
        (stem, number) = (path, 1);
        var (open, close) = _convention.Convention.Collision == Collision.Version ? (" v", "") : (" (", ")");
        (open, close) = (_convention.Limits.Clean(open), _convention.Limits.Clean(close));
        if (!path.EndsWith(close, StringComparison.Ordinal))
            return false;
        var end = path.Length - close.Length;
        var start = end;
        while (start > 0 && char.IsAsciiDigit(path[start - 1]))
            start--;
        if (start == end || end - start > 8 || !path.AsSpan(0, start).EndsWith(open, StringComparison.Ordinal))
            return false;
        number = int.Parse(path.AsSpan(start, end - start), CultureInfo.InvariantCulture);
        stem = path[..(start - open.Length)];
        return number > 1 && stem.Length > 0;
    }

    // Walks through the divisions of a path until somebody has seen enough of them.
    private sealed class Matcher(PathReader reader, Step[] steps, string path, CheckContext now, Func<PathReading, bool, bool> enough)
    {
        private readonly Dictionary<int, string> _texts = [];
        private readonly Dictionary<string, DateParts> _dates = [];
        private int _left = MostSteps;

        public int Counter { get; set; } = 1;

        public string? Full { get; init; }

        public bool GaveUp => _left < 0;

        public bool Match(int step, int at)
        {
            if (--_left < 0)
                return false;
            if (step == steps.Length)
                return at == path.Length && Accept();
            var (piece, literal) = steps[step];
            if (literal is not null)
                return path.AsSpan(at).StartsWith(literal, StringComparison.Ordinal) && Match(step + 1, at + literal.Length);
            var of = reader._convention.Pieces[piece].Piece;
            if (of.Kind == PieceKind.Counter)
                return MatchCounter(step, at, of);
            if (
                reader._convention.Pieces[piece].Instead is { Length: > 0 } instead
                && path.AsSpan(at).StartsWith(instead, StringComparison.Ordinal)
                && Match(step + 1, at + instead.Length)
            )
                return true;
            var isDate =
                of.Kind == PieceKind.System ? of.System == SystemValue.Today : reader._readers[piece]?.Field.Kind.Measure == Measure.Day;
            return isDate ? MatchDate(step, at, piece, of) : MatchText(step, at, piece, of);
        }

        private bool AtEnd(int step) => step + 1 == steps.Length || steps[step + 1].At < 0;

        private bool MatchCounter(int step, int at, Piece of)
        {
            var end = at;
            while (end < path.Length && char.IsAsciiDigit(path[end]) && end - at < 9)
                end++;
            var before = Counter;
            for (; end - at >= Math.Max(1, of.Digits ?? 1); end--)
            {
                Counter = int.Parse(path.AsSpan(at, end - at), CultureInfo.InvariantCulture);
                if (Match(step + 1, end))
                    return true;
            }
            Counter = before;
            return false;
        }

        private bool MatchDate(int step, int at, int piece, Piece of)
        {
            var key = of.Kind == PieceKind.System ? "" : of.Field;
            var form = of.DateForm ?? DateForms.Iso;
            var culture = reader._convention.Pieces[piece].Culture;
            var known = _dates.GetValueOrDefault(key);
            foreach (var (parts, length) in DateParts.At(path.AsSpan(at), form, culture, of, known))
            {
                _dates[key] = parts;
                if (Match(step + 1, at + length))
                    return true;
            }
            _dates[key] = known;
            return false;
        }

        private bool MatchText(int step, int at, int piece, Piece of)
        {
            var slash = path.AsSpan(at).IndexOf('/');
            var most = slash < 0 ? path.Length - at : slash;
            if (of.MaxLength is { } max)
                most = Math.Min(most, max);
            if (of.Extract == Extract.FirstLetter)
                most = Math.Min(most, 2);
            // The last piece of a segment takes all that is left of it.
            var least = AtEnd(step) ? most : 1;
            var before = _texts.GetValueOrDefault(piece);
            foreach (var length in Lengths(piece, at, least, most, step))
            {
                var text = path.Substring(at, length);
                if (text[^1] == ' ' && steps.Length > step + 1 && steps[step + 1].Literal is not { Length: > 0 })
                    continue;
                _texts[piece] = text;
                if (Match(step + 1, at + length))
                    return true;
            }
            if (before is null)
                _texts.Remove(piece);
            else
                _texts[piece] = before;
            return false;
        }

        // Terms first, the longest label first; then from the shortest text on that the next literal follows.
        private IEnumerable<int> Lengths(int piece, int at, int least, int most, int step)
        {
            if (most <= 0)
                yield break;
            if (Known(piece) is { } known)
            {
                if (known.Length >= least && known.Length <= most && path.AsSpan(at).StartsWith(known, StringComparison.Ordinal))
                    yield return known.Length;
                yield break;
            }
            if (reader._readers[piece]?.Field.Kind.Measure == Measure.Truth)
            {
                foreach (var word in new[] { "yes", "no" })
                    if (
                        reader._convention.Pieces[piece].Written(word) is var written
                        && written.Length >= least
                        && path.AsSpan(at).StartsWith(written, StringComparison.Ordinal)
                    )
                        yield return written.Length;
                yield break;
            }
            if (reader._readers[piece]?.Field.Kind.IsDigits == true)
            {
                var run = at;
                while (run < at + most && (char.IsAsciiDigit(path[run]) || (path[run] == '-' && run == at)))
                    run++;
                for (var length = run - at; length >= least; length--)
                    yield return length;
                yield break;
            }
            if (least == most)
            {
                yield return most;
                yield break;
            }
            var next = step + 1 < steps.Length ? steps[step + 1].Literal : null;
            var terms = reader._readers[piece]?.Terms;
            if (terms is not null)
                for (var length = most; length >= least; length--)
                    if (Follows(at + length, next) && terms.IndexOf(path.AsSpan(at, length).ToString()) >= 0)
                        yield return length;
            for (var length = Math.Max(1, least); length <= most; length++)
                if (Follows(at + length, next))
                    yield return length;
        }

        // What the piece must be: a system value that is known, or the text that an equal piece had before.
        private string? Known(int piece)
        {
            var of = reader._convention.Pieces[piece].Piece;
            if (of.Kind == PieceKind.System)
                return SystemValues.Text(of.System, now) is { Length: > 0 } text ? reader._convention.Pieces[piece].Written(text) : null;
            foreach (var (other, before) in _texts)
                if (other == piece || reader._convention.Pieces[other].Ordinal != reader._convention.Pieces[piece].Ordinal)
                    continue;
                else if (reader._readers[piece]?.Field.Kind.IsDigits == true)
                    return reader._convention.Pieces[piece].Written(before.TrimStart('0') is { Length: > 0 } n ? n : "0");
                else if (PieceText.SameForm(reader._convention.Pieces[other].Piece, of))
                    return before;
            return null;
        }

        private bool Follows(int at, string? next) => next is null || path.AsSpan(at).StartsWith(next, StringComparison.Ordinal);

        // All is divided: the values count when the convention makes the same path of them again.
        private bool Accept()
        {
            var record = new FieldValue[reader._fields.Length];
            Array.Fill(record, FieldValue.Empty);
            var values = new Dictionary<string, string>(StringComparer.Ordinal);
            var unsure = new HashSet<string>(StringComparer.Ordinal);
            var pieces = reader._convention.Pieces;
            // A piece that keeps the value whole speaks before one that does not.
            foreach (
                var (piece, text) in _texts.OrderBy(t =>
                    ConventionLosses.Of(pieces[t.Key].Piece, reader._readers[t.Key]?.Field) is null ? 0 : 1
                )
            )
            {
                if (reader._readers[piece] is not { } field || values.ContainsKey(field.Field.Key))
                    continue;
                var value = field.Read(
                    pieces[piece].Piece is { Digits: not null } && field.Field.Kind.IsDigits
                        ? text.TrimStart('0') is { Length: > 0 } n
                            ? n
                            : "0"
                        : text
                );
                if (!value.IsGood)
                    return false;
                values[field.Field.Key] = value.Text;
                record[reader._convention.Pieces[piece].Ordinal] = value;
                if (ConventionLosses.Of(pieces[piece].Piece, field.Field) is not null)
                    unsure.Add(field.Field.Key);
            }
            var then = now;
            foreach (var (key, parts) in _dates)
            {
                if (!parts.Any)
                    continue;
                if (parts.Date is not { } date)
                    return false;
                if (key.Length == 0)
                {
                    then = then with { Today = date };
                    continue;
                }
                var ordinal = reader._convention.Type.OrdinalOf(key);
                var value = reader._fields[ordinal].Read(date.ToString(DateForms.Iso, CultureInfo.InvariantCulture));
                if (!value.IsGood)
                    return false;
                record[ordinal] = value;
                values[key] = value.Text;
                if (!parts.IsWhole)
                    unsure.Add(key);
            }
            // A piece that stands only when a field is filled tells no more of the field than that.
            foreach (var (piece, _) in steps)
                if (
                    piece >= 0
                    && pieces[piece].Piece.OnlyWhenFilled is { } key
                    && reader._convention.Type.OrdinalOf(key) is >= 0 and var o
                    && record[o].IsEmpty
                )
                    record[o] = new FieldValue { Text = "?", State = ValueState.Good };
            // System values that are not known now are taken from the path.
            foreach (var (piece, text) in _texts)
                if (pieces[piece].Piece.Kind == PieceKind.System)
                    then = With(then, pieces[piece].Piece, text);
            if (reader._convention.Render(record, then, Counter).Path != (Full ?? path))
                return false;
            return enough(new PathReading(true, values, unsure, Counter), reader.IsSound(values));
        }

        private static CheckContext With(CheckContext now, Piece piece, string text) =>
            piece.System switch
            {
                SystemValue.Person when now.Person.Length == 0 => now with { Person = text },
                SystemValue.Batch when now.Batch.Length == 0 => now with { Batch = text },
                SystemValue.NumberInBatch when now.NumberInBatch == 0 && int.TryParse(text, out var n) => now with { NumberInBatch = n },
                SystemValue.Pages when now.Pages == 0 && int.TryParse(text, out var n) => now with { Pages = n },
                SystemValue.OriginalName when now.Original.Length == 0 => now with { Original = text },
                _ => now,
            };
    }
}
