namespace ClearLexicon.Core.Reading.Sheets;

/// <summary>One box to fill with a pen.</summary>
/// <param name="Value">What it means: a term, or the code of a document type.</param>
/// <param name="Label">What is printed beside it.</param>
public sealed record SheetOption(string Value, string Label);

/// <summary>Boxes of which one is to be filled.</summary>
/// <param name="Field">Key of the field that they fill; empty for the document type itself.</param>
/// <param name="Label">What is printed above them.</param>
/// <param name="Options">The boxes.</param>
/// <param name="Asked">Whether one must be filled.</param>
public sealed record BoxGroup(string Field, string Label, IReadOnlyList<SheetOption> Options, bool Asked);

/// <summary>Sheets that were printed together. What a sheet says is kept here; its code names only the print and the sheet.</summary>
/// <param name="Token">Its word in the codes.</param>
/// <param name="IsCover">Whether the sheets carry values; otherwise they only separate.</param>
/// <param name="Rows">The texts that each sheet carries, by field key: one sheet a row.</param>
/// <param name="Groups">Boxes on every sheet.</param>
public sealed record SheetPrint(
    string Token,
    bool IsCover,
    IReadOnlyList<IReadOnlyDictionary<string, string>> Rows,
    IReadOnlyList<BoxGroup> Groups
)
{
    /// <summary>Most sheets of one print.</summary>
    public const int MostRows = 500;

    /// <summary>Most boxes of one group.</summary>
    public const int MostOptions = 12;

    /// <summary>The document type; null where a box says which, or for separator sheets.</summary>
    public string? TypeCode { get; init; }

    /// <summary>Name of that type as it was then.</summary>
    public string TypeName { get; init; } = "";

    /// <summary>The version of the type that was in force.</summary>
    public int? Version { get; init; }

    /// <summary>Labels of the fields in <see cref="Rows"/> by key, as they were then.</summary>
    public IReadOnlyDictionary<string, string> Labels { get; init; } = new Dictionary<string, string>();

    /// <summary>What the sheets are called.</summary>
    public string Name => IsCover ? "cover sheet" : "separator sheet";
}
