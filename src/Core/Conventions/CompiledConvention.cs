using System.Buffers;
using System.Collections.Concurrent;
using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Conventions;

/// <summary>Where a document goes.</summary>
/// <param name="Folder">Folder below the repository root, separated by <c>/</c>; empty for the root itself.</param>
/// <param name="Name">File name without its extension.</param>
/// <param name="Problem">Why there is no such place; folder and name are then what could be rendered, for showing.</param>
public readonly record struct Placement(string Folder, string Name, Problem? Problem)
{
    /// <summary>Folder and name as one path.</summary>
    public string Path => Folder.Length == 0 ? Name : $"{Folder}/{Name}";
}

/// <summary>A convention compiled against a document type's fields. Immutable and thread-safe.</summary>
public sealed class CompiledConvention
{
    /// <summary>Extension that every filed document gets; it counts in the lengths.</summary>
    public const string Extension = ".pdf";

    /// <summary>Most pieces of both lines together.</summary>
    public const int MostPieces = 60;

    private readonly Piece[] _pieces;
    private readonly int[] _ordinals;
    private readonly int[] _conditions;
    private readonly bool[] _plain;
    private readonly bool[] _cleanDates;
    private readonly CultureInfo[] _cultures;
    private readonly string?[] _instead;
    private readonly int[] _optional;
    private readonly int _folderPieces;
    private readonly SearchValues<char> _plainCharacters;
    private readonly bool _beyondAscii;
    private readonly TypeFields _type;
    private readonly Arrangement _whole;
    private readonly ConcurrentDictionary<ulong, Arrangement> _arrangements = new();

    /// <summary>What it was compiled from.</summary>
    public Convention Convention { get; }

    /// <summary>What names may be.</summary>
    public PathLimits Limits { get; }

    /// <summary>Whether the name holds a counter of its own.</summary>
    public bool HasCounter { get; }

    internal TypeFields Type => _type;

    internal IReadOnlyList<Piece> Pieces => _pieces;

    internal int OrdinalOf(int piece) => _ordinals[piece];

    internal CultureInfo CultureOf(int piece) => _cultures[piece];

    /// <summary>A text as a piece writes it.</summary>
    internal string WrittenAs(int piece, string text)
    {
        var padded = _pieces[piece].Digits is { } digits && text.All(char.IsAsciiDigit) ? text.PadLeft(digits, '0') : text;
        return Limits.Clean(PieceText.Of(_pieces[piece], padded));
    }

    /// <summary>What stands for an empty value of a piece, as it is written; null when the document is held back.</summary>
    internal string? InsteadOf(int piece) => _instead[piece];

    /// <summary>Compiles; a piece whose field does not exist counts as an empty field.</summary>
    public CompiledConvention(Convention convention, TypeFields type)
    {
        convention = convention with { Folder = [.. convention.Folder.Select(Within)], Name = [.. convention.Name.Select(Within)] };
        (_type, Convention, Limits) = (type, convention, convention.Limits ?? PathLimits.FileShare);
        _folderPieces = convention.Folder.Count;
        _pieces = [.. convention.Pieces.Select(p => p.Kind == PieceKind.Text ? p with { Text = Limits.Clean(PieceText.Of(p, p.Text)) } : p)];
        _ordinals = [.. _pieces.Select(p => p.Kind == PieceKind.Field ? type.OrdinalOf(p.Field) : -1)];
        _conditions = [.. _pieces.Select(p => p.OnlyForType is { } code && code != type.Code && !type.Lineage.Contains(code) ? -2 : p.OnlyWhenFilled is { } key ? type.OrdinalOf(key) : -1)];
        _plain = [.. _pieces.Select(PieceText.IsPlain)];
        _cleanDates = [.. _pieces.Select(p => p is { Case: LetterCase.AsIs, Ascii: false, Blanks: null })];
        _instead = [.. _pieces.Select(p => p.IfEmpty is { } instead ? Limits.Clean(PieceText.Of(p with { Part = 0, Extract = Extract.Whole, MaxLength = null }, instead)) : null)];
        _cultures = [.. _pieces.Select(p => DateForms.CultureOf(p.Language))];
        _optional = [.. Enumerable.Range(0, _pieces.Length).Where(i => _pieces[i].LeaveOut || _pieces[i].OnlyWhenFilled is not null || _conditions[i] == -2 || _pieces[i].OnlyWhenTaken).Take(64)];
        HasCounter = convention.HasCounter;
        UsesSystemValues = Array.Exists(_pieces, p => p.Kind == PieceKind.System);
        AlwaysCounts = HasCounter && !convention.Counter!.OnlyWhenTaken;
        _plainCharacters = Limits.Plain();
        _beyondAscii = Array.Exists(_pieces, p => p.Kind == PieceKind.Text && !System.Text.Ascii.IsValid(p.Text));
        _whole = Arrange(0);
    }

    // Numbers of a stored piece that mean nothing, or more than a name can hold, count as not given; the design check says so.
    private static Piece Within(Piece p) => p with
    {
        Part = Math.Clamp(p.Part, 0, 100),
        DateForm = DateForms.All.Any(f => f.Form == p.DateForm) ? p.DateForm : null,
        MaxLength = p.MaxLength is > 0 ? p.MaxLength : null,
        Digits = p.Digits is > 0 and <= PathLimits.MostDigits ? p.Digits : null,
        ShortenTo = p.ShortenTo is > 0 ? p.ShortenTo : null,
    };

    /// <summary>Whether system values stand in it.</summary>
    public bool UsesSystemValues { get; }

    /// <summary>Whether every document takes a number, not only one whose name is taken.</summary>
    public bool AlwaysCounts { get; }

    /// <summary>What the counter runs over.</summary>
    public CounterScope Scope => Convention.Counter?.Scope ?? CounterScope.Name;

    /// <summary>Renders the place of a record.</summary>
    /// <param name="record">Values by field ordinal.</param>
    /// <param name="now">What surrounds it, for system values.</param>
    /// <param name="counter">
    /// Number for counter pieces, from 1. Without a counter piece, 2 and above are appended as <c> (2)</c>, or <c> v2</c> for versions.
    /// </param>
    public Placement Render(ReadOnlySpan<FieldValue> record, Circumstances now, int counter = 1)
    {
        var place = Render(record, now, counter, null, null);
        if (place.Problem is { Code: "path-too-long" or "path-segment-too-long" } && Array.Exists(_pieces, p => p.ShortenTo is not null)) place = Shorten(record, now, counter, place);
        return place;
    }

    /// <summary>The name under which numbers of the counter are kept, for <see cref="Scope"/>.</summary>
    public string CounterKey(ReadOnlySpan<FieldValue> record, Circumstances now)
    {
        if (Scope == CounterScope.Everywhere) return $"type:{_type.Code}";
        var place = Render(record, now, HasCounter ? 0 : 1);
        return Scope == CounterScope.Folder ? $"folder:{_type.Code}:{place.Folder.ToLowerInvariant()}" : $"name:{place.Path.ToLowerInvariant()}";
    }

    /// <summary>What each piece writes for a record, in order; why a document lands where it does.</summary>
    public IEnumerable<(string Piece, string Value, string Written)> Explain(FieldValue[] record, Circumstances now, int counter = 1)
    {
        foreach (var (at, _, written) in WrittenPieces(record, now, counter))
        {
            var piece = _pieces[at];
            var value = piece.Kind == PieceKind.Counter ? counter.ToString(CultureInfo.InvariantCulture) : piece.Kind == PieceKind.System ? SystemValues.Text(piece.System, now) : _ordinals[at] >= 0 ? record[_ordinals[at]].Text : "";
            yield return (PieceWords.NameOf(piece, _type), value, written);
        }
    }

    /// <summary>
    /// What each piece writes for a record: its position among <see cref="Convention.Pieces"/>, the segment of the path it stands in, from 0,
    /// and its text. Literal text and pieces that are left out are not among them.
    /// </summary>
    public IEnumerable<(int At, int Segment, string Written)> WrittenPieces(FieldValue[] record, Circumstances now, int counter = 1)
    {
        var arrangement = _optional.Length == 0 ? _whole : ArrangementFor(record, now, counter);
        var segment = 0;
        foreach (var step in arrangement.Folder.Concat(arrangement.Folder.Length > 0 ? [new Step(-1, null)] : []).Concat(arrangement.Name))
            if (step.At < 0) segment++;
            else if (_pieces[step.At].Kind != PieceKind.Text) yield return (step.At, segment, Written(step.At, record, now, counter));
    }

    private string Written(int at, FieldValue[] record, Circumstances now, int counter)
    {
        Problem? hole = null;
        var writer = new PathWriter(stackalloc char[256], Limits, _plainCharacters);
        Write([new Step(at, null)], record, now, counter, ref writer, ref hole, null, null);
        var written = writer.Take();
        writer.Dispose();
        return written;
    }

    private Placement Render(ReadOnlySpan<FieldValue> record, Circumstances now, int counter, int[]? caps, int[]? lengths)
    {
        Problem? hole = null;
        var arrangement = _optional.Length == 0 ? _whole : ArrangementFor(record, now, counter);
        var writer = new PathWriter(stackalloc char[512], Limits, _plainCharacters);
        Write(arrangement.Folder, record, now, counter, ref writer, ref hole, caps, lengths);
        var folder = writer.Take();
        Write(arrangement.Name, record, now, counter, ref writer, ref hole, caps, lengths);
        if (counter > 1 && (!HasCounter || Convention.Collision == Collision.Version)) Suffix(counter, ref writer);
        var name = writer.Take();
        writer.Dispose();
        return new Placement(folder, name, hole ?? Fault(folder, name));
    }

    private void Suffix(int counter, ref PathWriter writer)
    {
        writer.EndSegment();
        // A number alone is no name.
        if (writer.IsBlank) return;
        writer.Value(Convention.Collision == Collision.Version ? " v" : " (");
        writer.Number(counter, 0);
        if (Convention.Collision != Collision.Version) writer.Value(")");
    }

    private void Write(Step[] steps, ReadOnlySpan<FieldValue> record, Circumstances now, int counter, ref PathWriter writer, ref Problem? hole, int[]? caps, int[]? lengths)
    {
        foreach (var (at, literal) in steps)
        {
            if (at < 0) { writer.Separator(); continue; }
            var start = writer.Length;
            if (literal is not null)
            {
                writer.Literal(literal);
                if (_beyondAscii) writer.BeyondAscii();
            }
            else if (_pieces[at].Kind == PieceKind.Counter) writer.Number(counter, _pieces[at].Digits ?? 0);
            else if (_pieces[at].Kind == PieceKind.System) WriteText(at, SystemValues.Text(_pieces[at].System, now), _pieces[at].System == SystemValue.Today ? now.Today : default, ref writer, ref hole, caps);
            else if (_ordinals[at] is >= 0 and var ordinal && record[ordinal].IsGood) WriteText(at, record[ordinal].Text, record[ordinal].Date, ref writer, ref hole, caps);
            else WriteText(at, "", default, ref writer, ref hole, caps);
            if (lengths is not null) lengths[at] = writer.Length - start;
        }
    }

    private void WriteText(int at, string text, DateOnly date, ref PathWriter writer, ref Problem? hole, int[]? caps)
    {
        var piece = _pieces[at];
        if (date != default && _cleanDates[at]) { writer.Date(date, piece.DateForm ?? DateForms.Iso, _cultures[at]); return; }
        if (date != default) text = date.ToString(piece.DateForm ?? DateForms.Iso, _cultures[at]);
        if (piece.Digits is { } digits && text.Length < digits && long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var whole)) { writer.Number(whole, digits); return; }
        if (text.Length > 0 && !_plain[at]) text = PieceText.Of(piece, text);
        if (caps is not null && caps[at] < text.Length) text = PieceText.Cut(text, caps[at]);
        if (text.Length > 0) writer.Value(text);
        else if (_instead[at] is { } instead) writer.Value(instead);
        else hole ??= new Problem("path-hole", Level.Must, piece.Kind == PieceKind.Field ? piece.Field : null, piece.Kind == PieceKind.Field ? _type.LabelOf(piece.Field) : SystemValues.NameOf(piece.System));
    }

    private Arrangement ArrangementFor(ReadOnlySpan<FieldValue> record, Circumstances now, int counter)
    {
        var mask = 0UL;
        for (var n = 0; n < _optional.Length; n++)
        {
            var at = _optional[n];
            var piece = _pieces[at];
            var isOut = _conditions[at] == -2
                || (piece.OnlyWhenFilled is not null && (_conditions[at] < 0 || !record[_conditions[at]].IsGood))
                || (piece.OnlyWhenTaken && counter == 1)
                || (piece.LeaveOut && (piece.Kind == PieceKind.System ? SystemValues.Text(piece.System, now).Length == 0 : piece.Kind == PieceKind.Field && (_ordinals[at] < 0 || !record[_ordinals[at]].IsGood)));
            if (isOut) mask |= 1UL << n;
        }
        return mask == 0 ? _whole : _arrangements.GetOrAdd(mask, Arrange);
    }

    private Arrangement Arrange(ulong mask)
    {
        var isOut = new bool[_pieces.Length];
        for (var n = 0; n < _optional.Length; n++) isOut[_optional[n]] = (mask >> n & 1) == 1;
        return Arrangement.Of(_pieces[.._folderPieces], _pieces[_folderPieces..], at => isOut[at]);
    }

    /// <summary>The ways in which pieces can be left out, the fullest first; at most 64 of them. For reading backwards.</summary>
    internal IEnumerable<Arrangement> Arrangements()
    {
        var never = Enumerable.Range(0, _optional.Length).Where(n => _conditions[_optional[n]] == -2).Aggregate(0UL, (mask, n) => mask | 1UL << n);
        var open = Enumerable.Range(0, _optional.Length).Where(n => (never >> n & 1) == 0).Take(6).ToArray();
        return Enumerable.Range(0, 1 << open.Length).OrderBy(m => System.Numerics.BitOperations.PopCount((uint)m))
            .Select(m => Arrange(open.Where((_, i) => (m >> i & 1) == 1).Aggregate(never, (mask, n) => mask | 1UL << n)));
    }

    // Takes from the piece that has most to give, until the path fits or none has any.
    private Placement Shorten(ReadOnlySpan<FieldValue> record, Circumstances now, int counter, Placement place)
    {
        var arrangement = _optional.Length == 0 ? _whole : ArrangementFor(record, now, counter);
        var caps = new int[_pieces.Length];
        Array.Fill(caps, int.MaxValue);
        var lengths = new int[_pieces.Length];
        for (var round = 0; round < 200 && place.Problem is { Code: "path-too-long" or "path-segment-too-long" } problem; round++)
        {
            Array.Clear(lengths);
            Render(record, now, counter, caps, lengths);
            var inWhole = problem.Code == "path-too-long";
            var excess = inWhole ? Number(problem.A) - Number(problem.B) : Number(problem.B) - Number(problem.C);
            var (best, slack) = (-1, 0);
            foreach (var i in inWhole ? Steps(arrangement) : Steps(arrangement, place))
                if (_pieces[i].ShortenTo is { } least && lengths[i] - least > slack) (best, slack) = (i, lengths[i] - least);
            if (best < 0) return place;
            caps[best] = lengths[best] - Math.Max(1, Math.Min(slack, Limits.InBytes ? (excess + 3) / 4 : excess));
            place = Render(record, now, counter, caps, null);
        }
        return place;

        static int Number(string? text) => int.Parse(text!, CultureInfo.InvariantCulture);
    }

    private static IEnumerable<int> Steps(Arrangement arrangement) => arrangement.Folder.Concat(arrangement.Name).Where(s => s.At >= 0).Select(s => s.At);

    // Pieces of the first folder that is too long, or of the name.
    private IEnumerable<int> Steps(Arrangement arrangement, Placement place)
    {
        var folders = place.Folder.Split('/');
        var folder = place.Folder.Length == 0 ? -1 : Array.FindIndex(folders, f => Limits.Fault(f) is not null);
        if (folder < 0) return arrangement.Name.Select(s => s.At);
        var depth = 0;
        return [.. arrangement.Folder.Where(s => (s.At < 0 ? ++depth : depth) == folder && s.At >= 0).Select(s => s.At)];
    }

    /// <summary>What is wrong with a finished place; null when nothing is.</summary>
    private Problem? Fault(ReadOnlySpan<char> folder, string name)
    {
        if (name.Length == 0) return new Problem("path-empty", Level.Must, null);
        var whole = Limits.LengthOf(folder) + (folder.Length > 0 ? 1 : 0) + Limits.LengthOf(name) + Extension.Length;
        var depth = 0;
        while (folder.Length > 0)
        {
            var cut = folder.IndexOf('/');
            if (SegmentFault(cut < 0 ? folder : folder[..cut], 0) is { } problem) return problem;
            if (cut == folder.Length - 1) return new Problem("path-segment-empty", Level.Must, null);
            folder = cut < 0 ? [] : folder[(cut + 1)..];
            depth++;
        }
        if (SegmentFault(name, Extension.Length) is { } wrong) return wrong;
        if (Limits.Depth > 0 && depth > Limits.Depth) return new Problem("path-too-deep", Level.Must, null, depth.ToString(CultureInfo.InvariantCulture), Limits.Depth.ToString(CultureInfo.InvariantCulture));
        return whole > Limits.Whole ? new Problem("path-too-long", Level.Must, null, whole.ToString(CultureInfo.InvariantCulture), Limits.Whole.ToString(CultureInfo.InvariantCulture)) : null;
    }

    private Problem? SegmentFault(ReadOnlySpan<char> segment, int extension) =>
        Limits.Fault(segment, extension) is not { } code
            ? null
            : new Problem(code, Level.Must, null, Vocabularies.CodePoints.First(segment.ToString(), 24), (Limits.LengthOf(segment) + extension).ToString(CultureInfo.InvariantCulture), Limits.Segment.ToString(CultureInfo.InvariantCulture));
}
