using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Reading;

/// <summary>Words that must be on the page for the reader to claim it. Where they stood also corrects shift, scale and skew.</summary>
/// <param name="Text">One word or several that follow one another.</param>
/// <param name="Box">Where they stood on the page they were marked on.</param>
public sealed record Clue(string Text, Box Box);

/// <summary>A region to read.</summary>
/// <param name="Key">Name of the zone, the source of its crosswalk line.</param>
/// <param name="Box">Where it is on the page it was marked on.</param>
public sealed record Zone(string Key, Box Box);

/// <summary>How one page design is recognised and read.</summary>
/// <param name="Key">Short name.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="TypeCode">Document type it fills.</param>
/// <param name="Clues">All must be found.</param>
/// <param name="Zones">Regions to read.</param>
/// <param name="Crosswalk">From zones to fields.</param>
public sealed record Reader(
    string Key,
    string Name,
    string TypeCode,
    IReadOnlyList<Clue> Clues,
    IReadOnlyList<Zone> Zones,
    IReadOnlyList<CrosswalkLine> Crosswalk
);

/// <summary>Where a value was read from.</summary>
/// <param name="Page">Page number in the document, from 1.</param>
/// <param name="Box">Region of the words taken.</param>
/// <param name="Raw">The text before cleaning.</param>
/// <param name="Method"><c>text layer</c>, <c>recognised</c>, <c>picked</c> (a person clicked or dragged), <c>empty</c> (a zone in which
/// nothing was read), <c>marked</c> (a person showed where it stands) or <c>no place</c>.</param>
/// <param name="Confidence">0 to 1; the least of the words taken.</param>
public sealed record Evidence(int Page, Box Box, string Raw, string Method, double Confidence)
{
    /// <summary>The rest of the regions that hold it: the whole of the reader's zone, and other zones into the same field.</summary>
    public IReadOnlyList<Box> Also { get; init; } = [];

    /// <summary>A person said that no page shows the value; its page is 0.</summary>
    public static Evidence NoPlace { get; } = new(0, default, "", "no place", 1);
}

/// <summary>A field's text with the evidence for it.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Text">The text after cleaning.</param>
/// <param name="Evidence">Null when a person typed it or a default filled it.</param>
/// <param name="Zone">The reader's zone as it lies on this page, whether or not anything was read in it.</param>
public sealed record CapturedValue(string Field, string Text, Evidence? Evidence, Box Zone = default);
