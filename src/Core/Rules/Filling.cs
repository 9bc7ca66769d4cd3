namespace ClearLexicon.Core.Rules;

/// <summary>Fills fields from the row of a reference table that the key fields find.</summary>
/// <param name="Table">Key of the reference table.</param>
/// <param name="Keys">From key column to the field it must equal.</param>
/// <param name="Targets">From column to the field it fills.</param>
/// <param name="Always">Whether a value that stands already is replaced; otherwise only empty fields are filled.</param>
public sealed record Filling(
    string Table,
    IReadOnlyDictionary<string, string> Keys,
    IReadOnlyDictionary<string, string> Targets,
    bool Always
);
