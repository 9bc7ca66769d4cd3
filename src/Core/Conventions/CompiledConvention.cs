using System.Globalization;
using System.Runtime.CompilerServices;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;

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

    private readonly Piece[] _folder;
    private readonly Piece[] _name;
    private readonly int[] _folderOrdinals;
    private readonly int[] _nameOrdinals;
    private readonly DocumentType _type;

    /// <summary>Whether the name holds a counter of its own.</summary>
    public bool HasCounter { get; }

    /// <summary>Compiles; a piece whose field does not exist counts as an empty field.</summary>
    public CompiledConvention(Convention convention, DocumentType type)
    {
        _type = type;
        _folder = [.. convention.Folder];
        _name = [.. convention.Name];
        _folderOrdinals = [.. _folder.Select(p => type.OrdinalOf(p.Field))];
        _nameOrdinals = [.. _name.Select(p => type.OrdinalOf(p.Field))];
        HasCounter = convention.HasCounter;
    }

    /// <summary>Renders the place of a record.</summary>
    /// <param name="record">Values by field ordinal.</param>
    /// <param name="counter">Number for counter pieces, from 1. Without a counter piece, 2 and above are appended as <c> (2)</c>.</param>
    public Placement Render(ReadOnlySpan<FieldValue> record, int counter = 1)
    {
        Problem? hole = null;
        var writer = new PathWriter(stackalloc char[512]);
        Write(_folder, _folderOrdinals, record, counter, ref writer, ref hole);
        writer.EndSegment();
        var folder = writer.Take();
        Write(_name, _nameOrdinals, record, counter, ref writer, ref hole);
        if (!HasCounter && counter > 1)
        {
            writer.Literal(" (");
            writer.Number(counter, 0);
            writer.Literal(")");
        }
        writer.EndSegment();
        var name = writer.Take();
        writer.Dispose();
        return new Placement(folder, name, hole ?? Fault(folder, name));
    }

    private void Write(Piece[] pieces, int[] ordinals, ReadOnlySpan<FieldValue> record, int counter, ref PathWriter writer, ref Problem? hole)
    {
        for (var i = 0; i < pieces.Length; i++)
        {
            var piece = pieces[i];
            switch (piece.Kind)
            {
                case PieceKind.Text:
                    writer.Value(piece.Text, piece.Case, null);
                    break;
                case PieceKind.Counter:
                    writer.Number(counter, piece.Digits ?? 0);
                    break;
                case PieceKind.Inside:
                    writer.EndSegment();
                    writer.Separator();
                    break;
                default:
                    if (ordinals[i] >= 0 && record[ordinals[i]].IsGood) WriteField(piece, record[ordinals[i]], ref writer);
                    else if (piece.IfEmpty is { } instead) writer.Value(instead, piece.Case, null);
                    else hole ??= new Problem("path-hole", Level.Must, piece.Field, _type.LabelOf(piece.Field));
                    break;
            }
        }
    }

    private static void WriteField(Piece piece, in FieldValue value, ref PathWriter writer)
    {
        if (value.Date != default) writer.Date(value.Date, piece.DateForm ?? "yyyy-MM-dd", piece.Case);
        else if (piece.Digits is { } digits && value.Text.Length < digits && long.TryParse(value.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var whole)) writer.Number(whole, digits);
        else writer.Value(value.Text, piece.Case, piece.MaxLength);
    }

    private static Problem? Fault(ReadOnlySpan<char> folder, string name)
    {
        if (name.Length == 0) return new Problem("path-empty", Level.Must, null);
        var whole = folder.Length + (folder.Length > 0 ? 1 : 0) + name.Length + Extension.Length;
        while (folder.Length > 0)
        {
            var cut = folder.IndexOf('/');
            if (SegmentFault(cut < 0 ? folder : folder[..cut], 0) is { } problem) return problem;
            if (cut == folder.Length - 1) return new Problem("path-segment-empty", Level.Must, null);
            folder = cut < 0 ? [] : folder[(cut + 1)..];
        }
        if (SegmentFault(name, Extension.Length) is { } wrong) return wrong;
        return whole > PathLimits.Whole ? new Problem("path-too-long", Level.Must, null, whole.ToString(), PathLimits.Whole.ToString()) : null;
    }

    private static Problem? SegmentFault(ReadOnlySpan<char> segment, int extension)
    {
        var code = PathLimits.Fault(segment);
        if (code is null && segment.Length + extension > PathLimits.Segment) code = "path-segment-too-long";
        return code is null
            ? null
            : new Problem(code, Level.Must, null, segment[..Math.Min(24, segment.Length)].ToString(), segment.Length.ToString(), PathLimits.Segment.ToString());
    }

    /// <summary>Builds a path in a buffer on the stack, moving to the pool when it grows.</summary>
    private ref struct PathWriter(Span<char> buffer)
    {
        private DefaultInterpolatedStringHandler _out = new(0, 0, CultureInfo.InvariantCulture, buffer);
        private int _segmentStart;

        public void Literal(string text) => _out.AppendLiteral(text);

        public void Separator()
        {
            _out.AppendLiteral("/");
            _segmentStart = _out.Text.Length;
        }

        public void Number(long number, int digits)
        {
            if (digits <= 1) _out.AppendFormatted(number);
            else _out.AppendFormatted(number, Zeros(digits));
        }

        public void Date(DateOnly date, string form, LetterCase letters)
        {
            if (letters == LetterCase.AsIs) _out.AppendFormatted(date, form);
            else Value(date.ToString(form, CultureInfo.InvariantCulture), letters, null);
        }

        /// <summary>Appends text with forbidden characters substituted and letters in the case asked for.</summary>
        public void Value(ReadOnlySpan<char> text, LetterCase letters, int? maxLength)
        {
            if (maxLength is { } most && text.Length > most)
                text = text[..(most > 0 && char.IsHighSurrogate(text[most - 1]) ? most - 1 : most)].TrimEnd();
            var clean = letters == LetterCase.AsIs && text.IndexOfAny(Forbidden) < 0;
            if (clean) { _out.AppendFormatted(text); return; }
            Span<char> changed = text.Length <= 256 ? stackalloc char[text.Length] : new char[text.Length];
            for (var i = 0; i < text.Length; i++)
            {
                var c = PathLimits.IsForbidden(text[i]) ? PathLimits.Substitute : text[i];
                changed[i] = letters switch
                {
                    LetterCase.Upper => char.ToUpperInvariant(c),
                    LetterCase.Lower => char.ToLowerInvariant(c),
                    _ => c,
                };
            }
            _out.AppendFormatted((ReadOnlySpan<char>)changed);
        }

        /// <summary>Drops trailing blanks and dots of the segment, which Windows would drop silently, unless it is nothing else.</summary>
        public void EndSegment()
        {
            var segment = _out.Text[_segmentStart..];
            if (segment.Length == 0 || (segment[^1] is not (' ' or '.') && segment[0] != ' ')) return;
            var trimmed = segment.TrimEnd(" .").TrimStart(' ');
            if (trimmed.Length == 0) return;
            var kept = string.Concat(_out.Text[.._segmentStart], trimmed);
            _out.Clear();
            _out = new DefaultInterpolatedStringHandler(kept.Length, 0, CultureInfo.InvariantCulture);
            _out.AppendLiteral(kept);
        }

        public string Take()
        {
            var text = _out.Text.ToString();
            _out.Clear();
            _out = new DefaultInterpolatedStringHandler(64, 0, CultureInfo.InvariantCulture);
            _segmentStart = 0;
            return text;
        }

        public void Dispose() => _out.Clear();

        private static readonly System.Buffers.SearchValues<char> Forbidden =
            System.Buffers.SearchValues.Create([.. Enumerable.Range(0, 128).Select(i => (char)i).Where(PathLimits.IsForbidden)]);

        private static string Zeros(int digits) => digits switch { 2 => "D2", 3 => "D3", 4 => "D4", 5 => "D5", _ => $"D{digits}" };
    }
}
