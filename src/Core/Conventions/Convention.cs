using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Conventions;

/// <summary>What a piece of a path is.</summary>
public enum PieceKind
{
    /// <summary>Literal text.</summary>
    Text,

    /// <summary>The value of a field.</summary>
    Field,

    /// <summary>A number that tells documents of one name apart; see <see cref="CounterScope"/>.</summary>
    Counter,

    /// <summary>Ends a folder; what follows is inside it.</summary>
    Inside,

    /// <summary>What no field says; see <see cref="SystemValue"/>.</summary>
    System,
}

/// <summary>Values that surround a document when it is filed.</summary>
public enum SystemValue
{
    /// <summary>The date of filing.</summary>
    Today,

    /// <summary>Name of the person who files it.</summary>
    Person,

    /// <summary>Name of the batch it came in.</summary>
    Batch,

    /// <summary>Its number in the batch, from 1.</summary>
    NumberInBatch,

    /// <summary>How many pages it has.</summary>
    Pages,

    /// <summary>Name of the file it came as, without extension.</summary>
    OriginalName,

    /// <summary>Extension of the file it came as, without the dot.</summary>
    OriginalExtension,

    /// <summary>Name of the folder it came from.</summary>
    OriginalFolder,
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

/// <summary>How much of a text is taken.</summary>
public enum Extract
{
    /// <summary>All of it, or the first characters up to <see cref="Piece.MaxLength"/>.</summary>
    Whole,

    /// <summary>The first letter or digit.</summary>
    FirstLetter,

    /// <summary>The first letter or digit of each word.</summary>
    Initials,
}

/// <summary>Over what a counter runs. No counter gives a number twice, whatever becomes of the document that had it.</summary>
public enum CounterScope
{
    /// <summary>Over the documents that would have the same folder and name without it.</summary>
    Name,

    /// <summary>Over all documents of a folder.</summary>
    Folder,

    /// <summary>Over all documents of the type.</summary>
    Everywhere,
}

/// <summary>What happens when the place of a document is taken.</summary>
public enum Collision
{
    /// <summary>The counter tells them apart.</summary>
    Number,

    /// <summary>It becomes the next version of the document there, named with <c> v2</c>, <c> v3</c> ….</summary>
    Version,

    /// <summary>It is held back.</summary>
    Refuse,

    /// <summary>The same file (SHA-256) is not filed again; another one is told apart by the counter.</summary>
    SkipIdentical,
}

/// <summary>One piece of a folder or file name. Pieces are data; there is no formula to learn.</summary>
/// <param name="Kind">What it is.</param>
public sealed record Piece(PieceKind Kind)
{
    /// <summary>The literal text.</summary>
    public string Text { get; init; } = "";

    /// <summary>Key of the field.</summary>
    public string Field { get; init; } = "";

    /// <summary>The system value.</summary>
    public SystemValue System { get; init; }

    /// <summary>
    /// Which word of the value is taken, from 1; words are divided by blanks, <c>-</c>, <c>_</c> and <c>.</c>. 0 takes all. (Original name
    /// and folder.)
    /// </summary>
    public int Part { get; init; }

    /// <summary>Form of a date, one of <see cref="DateForms.All"/>; null for <c>yyyy-MM-dd</c>.</summary>
    public string? DateForm { get; init; }

    /// <summary>Language of month names, one of <see cref="Cleaning.DateReading.Languages"/>; null for English.</summary>
    public string? Language { get; init; }

    /// <summary>Case of letters.</summary>
    public LetterCase Case { get; init; }

    /// <summary>How much of the text is taken.</summary>
    public Extract Extract { get; init; }

    /// <summary>Whether letters beyond ASCII are transliterated (ö → o, ß → ss) and what has no such spelling is left out.</summary>
    public bool Ascii { get; init; }

    /// <summary>What stands for a blank: null keeps it, empty leaves it out, otherwise one character.</summary>
    public string? Blanks { get; init; }

    /// <summary>Greatest number of characters taken from the value.</summary>
    public int? MaxLength { get; init; }

    /// <summary>Least number of digits of a counter or whole number, filled with zeros.</summary>
    public int? Digits { get; init; }

    /// <summary>Number of characters to which the piece may be shortened when the path is too long; null for not at all.</summary>
    public int? ShortenTo { get; init; }

    /// <summary>Text that stands in when the value is empty; null holds the document back.</summary>
    public string? IfEmpty { get; init; }

    /// <summary>
    /// When the value is empty, leaves the piece out together with the separator next to it. Goes before <see cref="IfEmpty"/>.
    /// </summary>
    public bool LeaveOut { get; init; }

    /// <summary>Key of a field: the piece stands only when it is filled.</summary>
    public string? OnlyWhenFilled { get; init; }

    /// <summary>Code of a document type: the piece stands only for it and its sub-types.</summary>
    public string? OnlyForType { get; init; }

    /// <summary>What the counter runs over.</summary>
    public CounterScope Scope { get; init; }

    /// <summary>Whether the counter stands only where a name is taken already; the first document has none.</summary>
    public bool OnlyWhenTaken { get; init; }

    /// <summary>A literal piece.</summary>
    public static Piece Literal(string text) => new(PieceKind.Text) { Text = text };

    /// <summary>A field piece.</summary>
    public static Piece Of(string field) => new(PieceKind.Field) { Field = field };

    /// <summary>A system piece.</summary>
    public static Piece Of(SystemValue value) => new(PieceKind.System) { System = value };

    /// <summary>The end of a folder.</summary>
    public static Piece Inside { get; } = new(PieceKind.Inside);
}

/// <summary>How the documents of a type are foldered and named.</summary>
/// <param name="Folder">Pieces of the folder path, divided by <see cref="PieceKind.Inside"/>.</param>
/// <param name="Name">Pieces of the file name without its extension.</param>
public sealed record Convention(IReadOnlyList<Piece> Folder, IReadOnlyList<Piece> Name)
{
    /// <summary>What names may be; null for <see cref="PathLimits.FileShare"/>.</summary>
    public PathLimits? Limits { get; init; }

    /// <summary>What happens when a place is taken.</summary>
    public Collision Collision { get; init; }

    /// <summary>A convention that says nothing yet.</summary>
    public static Convention Empty { get; } = new([], []);

    /// <summary>The counter of the name, or null.</summary>
    public Piece? Counter => Name.FirstOrDefault(p => p.Kind == PieceKind.Counter);

    /// <summary>Whether the name itself holds a counter.</summary>
    public bool HasCounter => Counter is not null;

    /// <summary>Both lines, folder first.</summary>
    public IEnumerable<Piece> Pieces => Folder.Concat(Name);
}
