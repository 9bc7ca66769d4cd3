namespace ClearLexicon.Core.Reading.Codes;

/// <summary>
/// Names of the kinds of codes that are read (ISO/IEC 15417, 16388, 15420, 16390, 18004, 16022, 15438, 24778 and others).
/// </summary>
public static class CodeKinds
{
    /// <summary>All of them, patch codes left out.</summary>
    public static IReadOnlyList<string> All { get; } =
    [
        "Code 128",
        "Code 39",
        "Code 93",
        "Codabar",
        "Interleaved 2 of 5",
        "EAN-8",
        "EAN-13",
        "UPC-A",
        "UPC-E",
        "QR",
        "Data Matrix",
        "PDF417",
        "Aztec",
    ];
}
