using System.Text.Json.Serialization;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>A vocabulary as a design file carries it.</summary>
/// <param name="Key">Key.</param>
/// <param name="Name">Name.</param>
/// <param name="Growth">How it takes unknown values.</param>
/// <param name="Language">Its own language.</param>
/// <param name="Terms">Its terms; null when the file only refers to it, so that it must exist where the file is brought.</param>
public sealed record VocabularyInFile(string Key, string Name, Growth Growth, string Language, IReadOnlyList<Term>? Terms);

/// <summary>A reference table as a design file carries it.</summary>
/// <param name="Key">Key.</param>
/// <param name="Name">Name.</param>
/// <param name="Columns">Columns; the first is the key of a row.</param>
/// <param name="Address">Service that answers look-ups, or null.</param>
/// <param name="Rows">Rows; null when the file only refers to it.</param>
public sealed record TableInFile(string Key, string Name, IReadOnlyList<string> Columns, string? Address, IReadOnlyList<string[]>? Rows);

/// <summary>A document type or field group as a design file carries it.</summary>
/// <param name="Design">What the steward wrote.</param>
/// <param name="Published">Whether it was published; it is then published where the file is brought.</param>
public sealed record TypeInFile(DocumentType Design, bool Published);

/// <summary>A whole design as one file.</summary>
/// <param name="Format">Always <see cref="FormatName"/>.</param>
/// <param name="Version">Version of the format, <see cref="NewestVersion"/>.</param>
/// <param name="Vocabularies">Vocabularies.</param>
/// <param name="Tables">Reference tables.</param>
/// <param name="Types">Field groups and document types.</param>
/// <param name="Readers">Readers, without their samples.</param>
public sealed record DesignFile(
    string Format,
    int Version,
    IReadOnlyList<VocabularyInFile> Vocabularies,
    IReadOnlyList<TableInFile> Tables,
    IReadOnlyList<TypeInFile> Types,
    IReadOnlyList<Reader> Readers
)
{
    /// <summary>Days on which the office is closed; null in files that earlier releases wrote.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<ClosedDay>? ClosedDays { get; init; }

    /// <summary>Name of the format.</summary>
    public const string FormatName = "clear-lexicon-design";

    /// <summary>Newest version of the format.</summary>
    public const int NewestVersion = 2;

    /// <summary>Types in an order in which each comes after what it takes parts of; those in a cycle come last.</summary>
    public IEnumerable<TypeInFile> InOrder()
    {
        var waiting = Types.ToList();
        while (waiting.Count > 0)
        {
            var ready = waiting
                .Where(t => waiting.All(w => w.Design.Code != t.Design.Refines && !t.Design.Groups.Contains(w.Design.Code)))
                .ToList();
            if (ready.Count == 0)
                ready = [.. waiting];
            foreach (var type in ready)
                yield return type;
            waiting.RemoveAll(ready.Contains);
        }
    }
}
