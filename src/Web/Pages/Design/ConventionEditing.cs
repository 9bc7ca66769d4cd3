using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Services;

namespace ClearLexicon.Web.Pages;

/// <summary>Changes the two lines of a convention, <c>folder</c> and <c>name</c>.</summary>
internal static class ConventionEditing
{
    /// <summary>What a person writes to begin a folder inside.</summary>
    public const string Inside = "/";

    /// <summary>What a person writes for the counter.</summary>
    public const string Counter = "counter";

    /// <summary>Adds what was typed: a field by its label or key, <c>/</c>, <c>counter</c>, or literal text.</summary>
    public static Result<DocumentType> Add(DocumentType type, DocumentType whole, string line, string text)
    {
        if (text.Length is 0 or > 300) return Result<DocumentType>.Not("Write a text of at most 300 characters, or choose a field.");
        var named = text.Trim();
        var field = whole.Fields.FirstOrDefault(f => string.Equals(f.Label, named, StringComparison.OrdinalIgnoreCase) || f.Key == named);
        var piece = field is not null ? Piece.Of(field.Key)
            : named == Inside ? new Piece(PieceKind.Inside)
            : string.Equals(named, Counter, StringComparison.OrdinalIgnoreCase) ? new Piece(PieceKind.Counter)
            : Piece.Literal(text);
        if (piece.Kind == PieceKind.Inside && line == "name") return Result<DocumentType>.Not("A file name cannot hold a folder; write / on the folder line.");
        if (piece.Kind == PieceKind.Counter && line == "folder") return Result<DocumentType>.Not("A counter numbers files, so it belongs on the name line.");
        return With(type, line, [.. Line(type, line), piece]);
    }

    /// <summary>Sets the options of a piece.</summary>
    public static Result<DocumentType> SetOptions(DocumentType type, string line, int at, IFormCollection form)
    {
        string? Text(string name) => form[name].ToString() is { Length: > 0 } text ? text : null;
        int? Number(string name) => int.TryParse(form[name], out var n) && n is > 0 and <= 300 ? n : null;
        return With(type, line, [.. Line(type, line).Select((p, i) => i != at ? p : p with
        {
            Text = p.Kind == PieceKind.Text ? Text("text") ?? p.Text : "",
            DateForm = Text("date-form"),
            Case = Enum.TryParse<LetterCase>(form["case"], out var letters) ? letters : LetterCase.AsIs,
            MaxLength = Number("max-length"),
            Digits = Number("digits"),
            IfEmpty = Text("if-empty"),
        })]);
    }

    /// <summary>Moves a piece along its line.</summary>
    public static Result<DocumentType> Move(DocumentType type, string line, int at, int by)
    {
        var pieces = Line(type, line).ToList();
        if (at < 0 || at >= pieces.Count || at + by < 0 || at + by >= pieces.Count) return type;
        (pieces[at], pieces[at + by]) = (pieces[at + by], pieces[at]);
        return With(type, line, pieces);
    }

    /// <summary>Removes a piece.</summary>
    public static Result<DocumentType> Remove(DocumentType type, string line, int at) => With(type, line, [.. Line(type, line).Where((_, i) => i != at)]);

    private static IReadOnlyList<Piece> Line(DocumentType type, string line) => line == "folder" ? type.Convention.Folder : type.Convention.Name;

    private static DocumentType With(DocumentType type, string line, IReadOnlyList<Piece> pieces) => type with
    {
        Convention = line == "folder" ? type.Convention with { Folder = pieces } : type.Convention with { Name = pieces },
    };
}
