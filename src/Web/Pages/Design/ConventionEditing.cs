using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Services;

namespace ClearLexicon.Web.Pages;

/// <summary>Changes the two lines of a convention, <c>folder</c> and <c>name</c>, its limits and what happens to taken names.</summary>
internal static class ConventionEditing
{
    /// <summary>What a person writes to begin a folder inside.</summary>
    public const string Inside = "/";

    /// <summary>What a person writes for the counter.</summary>
    public const string Counter = "counter";

    /// <summary>Puts what was typed at a place of a line: a field by its label or key, a system value, <c>/</c>, <c>counter</c>, or literal text.</summary>
    public static Result<DocumentType> Add(DocumentType type, DocumentType whole, string line, string text, int? at = null)
    {
        if (text.Length is 0 or > 300) return Result<DocumentType>.Not("Write a text of at most 300 characters, or choose a field.");
        var named = text.Trim();
        var field = whole.Fields.FirstOrDefault(f => string.Equals(f.Label, named, StringComparison.OrdinalIgnoreCase) || f.Key == named);
        var system = SystemValues.All.FirstOrDefault(s => string.Equals(s.Name, named, StringComparison.OrdinalIgnoreCase));
        var piece = field is not null ? Piece.Of(field.Key)
            : named == Inside ? Piece.Inside
            : string.Equals(named, Counter, StringComparison.OrdinalIgnoreCase) ? new Piece(PieceKind.Counter)
            : system.Name is not null ? Piece.Of(system.Value)
            : Piece.Literal(text);
        if (piece.Kind == PieceKind.Inside && line == "name") return Result<DocumentType>.Not("A file name cannot hold a folder; write / on the folder line.");
        if (piece.Kind == PieceKind.Counter && line == "folder") return Result<DocumentType>.Not("A counter numbers files, so it belongs on the name line.");
        if (piece.Kind == PieceKind.Counter && type.Convention.HasCounter) return Result<DocumentType>.Not("The name has a counter already.");
        var pieces = Line(type, line).ToList();
        pieces.Insert(Math.Clamp(at ?? pieces.Count, 0, pieces.Count), piece);
        return With(type, line, pieces);
    }

    /// <summary>Sets the options of a piece.</summary>
    public static Result<DocumentType> SetOptions(DocumentType type, string line, int at, IFormCollection form)
    {
        string? Text(string name) => form[name].ToString() is { Length: > 0 } text ? text : null;
        int? Number(string name) => int.TryParse(form[name], out var n) && n is > 0 and <= 300 ? n : null;
        T Choice<T>(string name) where T : struct, Enum => Enum.TryParse<T>(form[name], out var choice) ? choice : default;
        var empty = form["empty"].ToString();
        return With(type, line, [.. Line(type, line).Select((p, i) => i != at ? p : p with
        {
            Text = p.Kind == PieceKind.Text ? Text("text") ?? p.Text : "",
            DateForm = Text("date-form"), Language = Text("language") is var language && language == "en" ? null : language,
            Case = Choice<LetterCase>("case"), Extract = Choice<Extract>("extract"), Ascii = form["ascii"] == "on", Part = Number("part") ?? 0,
            Blanks = form["blanks"].ToString() switch { "none" => "", "_" => "_", "-" => "-", "." => ".", _ => null },
            MaxLength = Number("max-length"), Digits = Number("digits"), ShortenTo = Number("shorten-to"),
            LeaveOut = empty == "out", IfEmpty = empty == "text" ? Text("if-empty") : null,
            OnlyWhenFilled = Text("only-filled"), OnlyForType = Text("only-type"),
            Scope = Choice<CounterScope>("scope"), OnlyWhenTaken = form["when-taken"] == "on",
        })]);
    }

    /// <summary>Sets what names may be and what happens to taken ones.</summary>
    public static Result<DocumentType> SetLimits(DocumentType type, IFormCollection form)
    {
        var profile = form["profile"].ToString();
        var limits = PathLimits.All.FirstOrDefault(l => l.Key == profile);
        if (limits is null)
        {
            int Number(string name, int otherwise) => int.TryParse(form[name], out var n) ? n : otherwise;
            limits = (type.Convention.Limits ?? PathLimits.FileShare) with
            {
                Key = PathLimits.Own,
                Name = "own limits",
                Characters = Enum.TryParse<NameCharacters>(form["characters"], out var characters) ? characters : default,
                Refused = form["refused"].ToString().Replace(" ", "", StringComparison.Ordinal),
                Segment = Number("segment", 120),
                Whole = Number("whole", 240),
                Depth = Number("depth", 0),
                Upper = form["upper"] == "on",
                Ascii = form["ascii"] == "on",
                Decomposed = form["decomposed"] == "on",
                NoDeviceNames = form["devices"] != "on",
            };
        }
        limits = limits with { Substitute = form["substitute"].ToString() switch { "none" => "", { Length: 1 } one => one, _ => limits.Substitute } };
        if (limits.Contradiction() is { } finding) return Result<DocumentType>.Not(finding);
        return type with { Convention = type.Convention with { Limits = limits == PathLimits.FileShare ? null : limits, Collision = Enum.TryParse<Collision>(form["collision"], out var collision) ? collision : default } };
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
