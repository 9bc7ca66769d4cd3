namespace ClearLexicon.Core.Conventions;

/// <summary>What a piece of a path is.</summary>
public enum PieceKind
{
    /// <summary>Literal text.</summary>
    Text,

    /// <summary>The value of a field.</summary>
    Field,

    /// <summary>A number that makes the name the first free one, counting from 1.</summary>
    Counter,

    /// <summary>Ends a folder; what follows is inside it.</summary>
    Inside,
}

/// <summary>How letters are written.</summary>
public enum LetterCase
{
    /// <summary>As they are.</summary>
    AsIs,

    /// <summary>Upper case.</summary>
    Upper,

    /// <summary>Lower case.</summary>
    Lower,
}

/// <summary>One piece of a folder or file name. Pieces are data; there is no formula to learn.</summary>
/// <param name="Kind">What it is.</param>
public sealed record Piece(PieceKind Kind)
{
    /// <summary>The literal text.</summary>
    public string Text { get; init; } = "";

    /// <summary>Key of the field.</summary>
    public string Field { get; init; } = "";

    /// <summary>Form of a date, one of <see cref="DateForms.All"/>; null for <c>yyyy-MM-dd</c>.</summary>
    public string? DateForm { get; init; }

    /// <summary>Case of letters.</summary>
    public LetterCase Case { get; init; }

    /// <summary>Greatest number of characters taken from the field.</summary>
    public int? MaxLength { get; init; }

    /// <summary>Least number of digits of a counter or whole number, filled with zeros.</summary>
    public int? Digits { get; init; }

    /// <summary>Text that stands in when the field is empty; null holds the document back.</summary>
    public string? IfEmpty { get; init; }

    /// <summary>A literal piece.</summary>
    public static Piece Literal(string text) => new(PieceKind.Text) { Text = text };

    /// <summary>A field piece.</summary>
    public static Piece Of(string field) => new(PieceKind.Field) { Field = field };
}

/// <summary>How the documents of a type are foldered and named.</summary>
/// <param name="Folder">Pieces of the folder path, divided by <see cref="PieceKind.Inside"/>.</param>
/// <param name="Name">Pieces of the file name without its extension.</param>
public sealed record Convention(IReadOnlyList<Piece> Folder, IReadOnlyList<Piece> Name)
{
    /// <summary>A convention that says nothing yet.</summary>
    public static Convention Empty { get; } = new([], []);

    /// <summary>Whether the name itself holds a counter.</summary>
    public bool HasCounter => Name.Any(p => p.Kind == PieceKind.Counter);
}

/// <summary>The forms a date may take in a path.</summary>
public static class DateForms
{
    /// <summary>The form, as .NET writes it, and an example of 5 March 2024.</summary>
    public static IReadOnlyList<(string Form, string Example)> All { get; } =
    [
        ("yyyy-MM-dd", "2024-03-05"), ("yyyy", "2024"), ("yyyy-MM", "2024-03"), ("yyyyMMdd", "20240305"),
        ("MM MMMM", "03 March"), ("MMMM", "March"), ("MM", "03"), ("dd", "05"),
    ];
}
