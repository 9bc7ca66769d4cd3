using System.Buffers;
using System.Globalization;
using System.Text;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions;

/// <summary>Writes folder and name of a record into a buffer on the stack. Immutable and thread-safe.</summary>
internal sealed class PathRendering
{
    private readonly Convention _convention;
    private readonly PathLimits _limits;
    private readonly CompiledPiece[] _pieces;
    private readonly Arrangements _arrangements;
    private readonly TypeFields _type;
    private readonly SearchValues<char> _plainCharacters;
    private readonly bool _beyondAscii;

    /// <summary>Prepares for a convention.</summary>
    public PathRendering(Convention convention, PathLimits limits, CompiledPiece[] pieces, Arrangements arrangements, TypeFields type)
    {
        (_convention, _limits, _pieces, _arrangements, _type) = (convention, limits, pieces, arrangements, type);
        _plainCharacters = limits.Plain();
        _beyondAscii = Array.Exists(pieces, p => p.Piece.Kind == PieceKind.Text && !Ascii.IsValid(p.Piece.Text));
    }

    /// <summary>The pieces.</summary>
    public CompiledPiece[] Pieces => _pieces;

    /// <summary>What names may be.</summary>
    public PathLimits Limits => _limits;

    /// <summary>The arrangement of a record.</summary>
    public Arrangement ArrangementOf(ReadOnlySpan<FieldValue> record, CheckContext now, int counter) =>
        _arrangements.For(record, now, counter);

    /// <summary>Renders a place, shortening nothing by itself.</summary>
    /// <param name="record">Values by field ordinal.</param>
    /// <param name="now">What surrounds it.</param>
    /// <param name="counter">Number of the counter.</param>
    /// <param name="caps">Greatest length of each piece's value; null for none.</param>
    /// <param name="lengths">Takes the length of what each piece wrote; null when nobody asks.</param>
    public Placement Render(ReadOnlySpan<FieldValue> record, CheckContext now, int counter, int[]? caps = null, int[]? lengths = null)
    {
        Problem? hole = null;
        var arrangement = _arrangements.For(record, now, counter);
        var writer = new PathWriter(stackalloc char[512], _limits, _plainCharacters);
        Write(arrangement.Folder, record, now, counter, ref writer, ref hole, caps, lengths);
        var folder = writer.Take();
        Write(arrangement.Name, record, now, counter, ref writer, ref hole, caps, lengths);
        if (counter > 1 && (!_convention.HasCounter || _convention.Collision == Collision.Version))
            Suffix(counter, ref writer);
        var name = writer.Take();
        writer.Dispose();
        return new Placement(folder, name, hole ?? _limits.FindingOf(folder, name, CompiledConvention.Extension.Length));
    }

    /// <summary>What one piece writes.</summary>
    public string Written(int at, FieldValue[] record, CheckContext now, int counter)
    {
        Problem? hole = null;
        var writer = new PathWriter(stackalloc char[256], _limits, _plainCharacters);
        Write([new Step(at, null)], record, now, counter, ref writer, ref hole, null, null);
        var written = writer.Take();
        writer.Dispose();
        return written;
    }

    private void Suffix(int counter, ref PathWriter writer)
    {
        writer.EndSegment();
        // A number alone is no name.
        if (writer.IsBlank)
            return;
        writer.Value(_convention.Collision == Collision.Version ? " v" : " (");
        writer.Number(counter, 0);
        if (_convention.Collision != Collision.Version)
            writer.Value(")");
    }

    private void Write(
        Step[] steps,
        ReadOnlySpan<FieldValue> record,
        CheckContext now,
        int counter,
        ref PathWriter writer,
        ref Problem? hole,
        int[]? caps,
        int[]? lengths
    )
    {
        foreach (var (at, literal) in steps)
        {
            if (at < 0)
            {
                writer.Separator();
                continue;
            }
            var start = writer.Length;
            if (literal is not null)
            {
                writer.Literal(literal);
                if (_beyondAscii)
                    writer.BeyondAscii();
            }
            else
                WritePiece(at, record, now, counter, ref writer, ref hole, caps);
            if (lengths is not null)
                lengths[at] = writer.Length - start;
        }
    }

    private void WritePiece(
        int at,
        ReadOnlySpan<FieldValue> record,
        CheckContext now,
        int counter,
        ref PathWriter writer,
        ref Problem? hole,
        int[]? caps
    )
    {
        var (piece, ordinal) = (_pieces[at].Piece, _pieces[at].Ordinal);
        if (piece.Kind == PieceKind.Counter)
            writer.Number(counter, piece.Digits ?? 0);
        else if (piece.Kind == PieceKind.System)
            WriteText(
                at,
                SystemValues.Text(piece.System, now),
                piece.System == SystemValue.Today ? now.Today : default,
                ref writer,
                ref hole,
                caps
            );
        else if (ordinal >= 0 && record[ordinal].IsGood)
            WriteText(at, record[ordinal].Text, record[ordinal].Date, ref writer, ref hole, caps);
        else
            WriteText(at, "", default, ref writer, ref hole, caps);
    }

    private void WriteText(int at, string text, DateOnly date, ref PathWriter writer, ref Problem? hole, int[]? caps)
    {
        var (compiled, piece) = (_pieces[at], _pieces[at].Piece);
        if (date != default && compiled.IsCleanDate)
        {
            writer.Date(date, piece.DateForm ?? DateForms.Iso, compiled.Culture);
            return;
        }
        if (date != default)
            text = date.ToString(piece.DateForm ?? DateForms.Iso, compiled.Culture);
        if (
            piece.Digits is { } digits
            && text.Length < digits
            && long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var whole)
        )
        {
            writer.Number(whole, digits);
            return;
        }
        if (text.Length > 0 && !compiled.IsPlain)
            text = PieceText.Of(piece, text);
        if (caps is not null && caps[at] < text.Length)
            text = PieceText.Cut(text, caps[at]);
        if (text.Length > 0)
            writer.Value(text);
        else if (compiled.Instead is { } instead)
            writer.Value(instead);
        else
            hole ??= Hole(piece);
    }

    private Problem Hole(Piece piece) =>
        piece.Kind == PieceKind.Field
            ? new Problem(new PathHole(_type.LabelOf(piece.Field)), Level.Must, piece.Field)
            : new Problem(new PathHole(SystemValues.NameOf(piece.System)), Level.Must, null);
}
