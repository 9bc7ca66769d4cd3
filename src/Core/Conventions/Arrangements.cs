using System.Collections.Concurrent;
using System.Numerics;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions;

/// <summary>
/// The arrangements of a convention: one for each set of pieces that a record leaves out, made when it is first met. Thread-safe.
/// </summary>
internal sealed class Arrangements
{
    // Pieces that are tried in and out when a path is read backwards.
    private const int MostOpen = 6;

    private readonly CompiledPiece[] _pieces;
    private readonly int _folderPieces;
    private readonly int[] _optional;
    private readonly Arrangement _whole;
    private readonly ConcurrentDictionary<ulong, Arrangement> _known = new();

    /// <summary>Prepares for a convention's pieces, of which the first so many make the folder.</summary>
    public Arrangements(CompiledPiece[] pieces, int folderPieces)
    {
        (_pieces, _folderPieces) = (pieces, folderPieces);
        _optional = [.. Enumerable.Range(0, pieces.Length).Where(i => pieces[i].IsOptional).Take(64)];
        _whole = Arrange(0);
    }

    /// <summary>The arrangement of a record.</summary>
    public Arrangement For(ReadOnlySpan<FieldValue> record, CheckContext now, int counter)
    {
        var mask = 0UL;
        for (var n = 0; n < _optional.Length; n++)
            if (IsOut(_pieces[_optional[n]], record, now, counter))
                mask |= 1UL << n;
        return mask == 0 ? _whole : _known.GetOrAdd(mask, Arrange);
    }

    /// <summary>The ways in which pieces can be left out, the fullest first; at most 64 of them. For reading backwards.</summary>
    public IEnumerable<Arrangement> All()
    {
        var never = Enumerable
            .Range(0, _optional.Length)
            .Where(n => _pieces[_optional[n]].Condition == CompiledPiece.Never)
            .Aggregate(0UL, (mask, n) => mask | 1UL << n);
        var open = Enumerable.Range(0, _optional.Length).Where(n => (never >> n & 1) == 0).Take(MostOpen).ToArray();
        return Enumerable
            .Range(0, 1 << open.Length)
            .OrderBy(m => BitOperations.PopCount((uint)m))
            .Select(m => Arrange(open.Where((_, i) => (m >> i & 1) == 1).Aggregate(never, (mask, n) => mask | 1UL << n)));
    }

    private static bool IsOut(CompiledPiece compiled, ReadOnlySpan<FieldValue> record, CheckContext now, int counter)
    {
        var (piece, condition) = (compiled.Piece, compiled.Condition);
        if (condition == CompiledPiece.Never || piece.OnlyWhenTaken && counter == 1)
            return true;
        if (piece.OnlyWhenFilled is not null && (condition < 0 || !record[condition].IsGood))
            return true;
        return piece.LeaveOut
            && piece.Kind switch
            {
                PieceKind.System => SystemValues.Text(piece.System, now).Length == 0,
                PieceKind.Field => compiled.Ordinal < 0 || !record[compiled.Ordinal].IsGood,
                _ => false,
            };
    }

    private Arrangement Arrange(ulong mask)
    {
        var isOut = new bool[_pieces.Length];
        for (var n = 0; n < _optional.Length; n++)
            isOut[_optional[n]] = (mask >> n & 1) == 1;
        var pieces = Array.ConvertAll(_pieces, p => p.Piece);
        return Arrangement.Of(pieces[.._folderPieces], pieces[_folderPieces..], at => isOut[at]);
    }
}
