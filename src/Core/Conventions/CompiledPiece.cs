using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Conventions;

/// <summary>A piece of a convention with all that is known of it before any record.</summary>
internal sealed class CompiledPiece
{
    /// <summary>The condition of a piece that never stands in this type.</summary>
    public const int Never = -2;

    /// <summary>The piece; a literal text is as it will be written.</summary>
    public Piece Piece { get; }

    /// <summary>Ordinal of its field; -1 for none.</summary>
    public int Ordinal { get; }

    /// <summary>
    /// Ordinal of the field that must be filled for it; -1 when there is no such field, <see cref="Never"/> in other types.
    /// </summary>
    public int Condition { get; }

    /// <summary>Whether a value is written as it is.</summary>
    public bool IsPlain { get; }

    /// <summary>Whether a date needs no more than its form.</summary>
    public bool IsCleanDate { get; }

    /// <summary>Language of month names.</summary>
    public CultureInfo Culture { get; }

    /// <summary>What stands for an empty value, as it is written; null when the document is held back.</summary>
    public string? Instead { get; }

    /// <summary>Whether some records leave it out.</summary>
    public bool IsOptional => Piece.LeaveOut || Piece.OnlyWhenFilled is not null || Condition == Never || Piece.OnlyWhenTaken;

    private readonly PathLimits _limits;

    /// <summary>Compiles a piece.</summary>
    public CompiledPiece(Piece piece, TypeFields type, PathLimits limits)
    {
        _limits = limits;
        Piece = piece.Kind == PieceKind.Text ? piece with { Text = limits.Clean(PieceText.Of(piece, piece.Text)) } : piece;
        Ordinal = piece.Kind == PieceKind.Field ? type.OrdinalOf(piece.Field) : -1;
        Condition =
            piece.OnlyForType is { } code && code != type.Code && !type.Lineage.Contains(code) ? Never
            : piece.OnlyWhenFilled is { } key ? type.OrdinalOf(key)
            : -1;
        IsPlain = PieceText.IsPlain(Piece);
        IsCleanDate = piece is { Case: LetterCase.AsIs, Ascii: false, Blanks: null };
        Culture = DateForms.CultureOf(piece.Language);
        Instead = piece.IfEmpty is { } instead
            ? limits.Clean(PieceText.Of(piece with { Part = 0, Extract = Extract.Whole, MaxLength = null }, instead))
            : null;
    }

    /// <summary>A text as the piece writes it.</summary>
    public string Written(string text)
    {
        var padded = Piece.Digits is { } digits && text.All(char.IsAsciiDigit) ? text.PadLeft(digits, '0') : text;
        return _limits.Clean(PieceText.Of(Piece, padded));
    }
}
