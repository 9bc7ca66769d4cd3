using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;

namespace ClearLexicon.Services.Design;

/// <summary>Changes the two lines of a convention, <c>folder</c> and <c>name</c>.</summary>
public static class ConventionEditing
{
    /// <summary>What a person writes to begin a folder inside.</summary>
    public const string Inside = "/";

    /// <summary>What a person writes for the counter.</summary>
    public const string Counter = "counter";

    /// <summary>
    /// Puts what was typed at a place of a line: a field by its label or key, a system value, <c>/</c>, <c>counter</c>, or literal text.
    /// </summary>
    public static Result<DocumentType> Add(DocumentType type, DocumentType whole, string line, string text, int? at = null)
    {
        if (text.Length is 0 or > 300)
            return Result<DocumentType>.Not("Write a text of at most 300 characters, or choose a field.");
        var named = text.Trim();
        var field = whole.Fields.FirstOrDefault(f => string.Equals(f.Label, named, StringComparison.OrdinalIgnoreCase) || f.Key == named);
        var system = SystemValues.All.FirstOrDefault(s => string.Equals(s.Name, named, StringComparison.OrdinalIgnoreCase));
        var piece =
            field is not null ? Piece.Of(field.Key)
            : named == Inside ? Piece.Inside
            : string.Equals(named, Counter, StringComparison.OrdinalIgnoreCase) ? new Piece(PieceKind.Counter)
            : system.Name is not null ? Piece.Of(system.Value)
            : Piece.Literal(text);
        if (piece.Kind == PieceKind.Inside && line == "name")
            return Result<DocumentType>.Not("A file name cannot hold a folder; write / on the folder line.");
        if (piece.Kind == PieceKind.Counter && line == "folder")
            return Result<DocumentType>.Not("A counter numbers files, so it belongs on the name line.");
        if (piece.Kind == PieceKind.Counter && type.Convention.HasCounter)
            return Result<DocumentType>.Not("The name has a counter already.");
        var pieces = Line(type, line).ToList();
        pieces.Insert(Math.Clamp(at ?? pieces.Count, 0, pieces.Count), piece);
        return With(type, line, pieces);
    }

    /// <summary>Puts a piece in place of another; a place that is no longer there stays as it is.</summary>
    public static Result<DocumentType> Put(DocumentType type, string line, int at, Piece piece) =>
        With(type, line, [.. Line(type, line).Select((p, i) => i == at ? piece : p)]);

    /// <summary>The piece at a place of a line, or null.</summary>
    public static Piece? At(DocumentType type, string line, int at) => Line(type, line).ElementAtOrDefault(at);

    /// <summary>Moves a piece along its line.</summary>
    public static Result<DocumentType> Move(DocumentType type, string line, int at, int by)
    {
        var pieces = Line(type, line).ToList();
        if (at < 0 || at >= pieces.Count || at + by < 0 || at + by >= pieces.Count)
            return type;
        (pieces[at], pieces[at + by]) = (pieces[at + by], pieces[at]);
        return With(type, line, pieces);
    }

    /// <summary>Removes a piece.</summary>
    public static Result<DocumentType> Remove(DocumentType type, string line, int at) =>
        With(type, line, [.. Line(type, line).Where((_, i) => i != at)]);

    private static IReadOnlyList<Piece> Line(DocumentType type, string line) =>
        line == "folder" ? type.Convention.Folder : type.Convention.Name;

    private static DocumentType With(DocumentType type, string line, IReadOnlyList<Piece> pieces) =>
        type with
        {
            Convention = line == "folder" ? type.Convention with { Folder = pieces } : type.Convention with { Name = pieces },
        };
}
