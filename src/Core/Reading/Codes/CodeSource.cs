namespace ClearLexicon.Core.Reading.Codes;

/// <summary>Values that a reader takes from the codes of a document, wherever they stand.</summary>
/// <param name="Key">Name of the source; its pieces are sources of crosswalk lines as <c>key/1</c>, <c>key/01</c> or
/// <c>key/whole</c>.</param>
/// <param name="Filter">Which codes count.</param>
/// <param name="Division">How a code becomes several values.</param>
/// <param name="Between">Text between the codes when several pass and become one value; a division is then made of the joined text.</param>
public sealed record CodeSource(string Key, CodeFilter Filter, CodeDivision Division, string Between = " ")
{
    /// <summary>What is wrong with the source itself; null when it can be used.</summary>
    public string? Finding => Filter.Finding ?? Division.Finding;

    /// <summary>The name of a piece as a source of crosswalk lines.</summary>
    public string SourceOf(string piece) => $"{Key}/{piece}";

    /// <summary>Whether a crosswalk line's source is a piece of this one.</summary>
    public bool Feeds(string source) => source.StartsWith(Key + "/", StringComparison.Ordinal);

    /// <summary>Reads the codes of a document's pages into evidence by source name.</summary>
    /// <param name="pages">Pages with their numbers in the document, from 1.</param>
    /// <returns>Evidence by the names of pieces; every code with why it was passed over; why the text could not be divided.</returns>
    public CodeReadingResult Read(IEnumerable<(int Number, PageText Text)> pages)
    {
        var sifted = Filter.Sift(pages);
        var counted = sifted.Where(s => s.Ignored is null).ToList();
        if (counted.Count == 0)
            return new CodeReadingResult(new Dictionary<string, Evidence>(), sifted, null);
        var (pieces, problem) = Division.Divide(string.Join(Between, counted.Select(c => c.Code.Text)));
        var first = counted[0];
        var box = Box.Around(counted.Where(c => c.Page == first.Page).Select(c => c.Code.Box))!.Value;
        return new CodeReadingResult(
            pieces.ToDictionary(
                p => SourceOf(p.Name),
                p => new Evidence(first.Page, box, p.Text, first.Code.Kind, 1),
                StringComparer.Ordinal
            ),
            sifted,
            problem
        );
    }
}

/// <summary>What a <see cref="CodeSource"/> read.</summary>
/// <param name="Evidence">By the names of pieces.</param>
/// <param name="Codes">Every code, with why it was passed over.</param>
/// <param name="Problem">Why the text could not be divided as asked; null when it could.</param>
public sealed record CodeReadingResult(IReadOnlyDictionary<string, Evidence> Evidence, IReadOnlyList<SiftedCode> Codes, string? Problem);
