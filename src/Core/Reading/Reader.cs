using System.Text.Json.Serialization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Finders;

namespace ClearLexicon.Core.Reading;

/// <summary>A region to read.</summary>
/// <param name="Key">Name of the zone, the source of its crosswalk line.</param>
/// <param name="Box">Where it is on the page it was marked on.</param>
public sealed record Zone(string Key, Box Box)
{
    /// <summary>Follows whatever landmark stands nearest to it.</summary>
    public const string Nearest = "nearest";

    /// <summary>
    /// What it moves with: empty for all landmarks together, <see cref="Nearest"/>, or the text of one landmark, so that a block which
    /// slides down the page takes its zones along.
    /// </summary>
    public string Follows { get; init; } = "";

    /// <summary>The page of a document that it lies on; it lies there as the clues and landmarks of such a page say.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public PageRole On { get; init; }
}

/// <summary>How one page design is recognised and read.</summary>
/// <param name="Key">Short name.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="TypeCode">Document type it fills.</param>
/// <param name="Clues">All must hold.</param>
/// <param name="Zones">Regions to read.</param>
/// <param name="Crosswalk">From zones to fields.</param>
public sealed record Reader(
    string Key,
    string Name,
    string TypeCode,
    IReadOnlyList<Clue> Clues,
    IReadOnlyList<Zone> Zones,
    IReadOnlyList<CrosswalkLine> Crosswalk
)
{
    /// <summary>
    /// What has a fixed place towards the values and need not be on every page: where it is found says how the page lies. Without any, the
    /// clues say it.
    /// </summary>
    public IReadOnlyList<Clue> Landmarks { get; init; } = [];

    /// <summary>Values from codes, wherever they stand in the document.</summary>
    public IReadOnlyList<CodeSource> Codes { get; init; } = [];

    /// <summary>Values that have no fixed place; each is a source of crosswalk lines.</summary>
    public IReadOnlyList<Finder> Finders { get; init; } = [];

    /// <summary>Fields whose places are read together and joined; of any other field the first place that fits is taken.</summary>
    public IReadOnlyList<JoinedPlaces> Joined { get; init; } = [];

    /// <summary>Fields that need another trust than <see cref="Evidence.Sure"/>.</summary>
    public IReadOnlyList<NeededTrust> Trust { get; init; } = [];

    /// <summary>
    /// Languages its pages are recognised in, by the recogniser's names with plus signs between; empty for those in which they came.
    /// </summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public string? Languages { get; init; }

    /// <summary>A name that no source of this reader has: the one wanted, or with a number behind it.</summary>
    public string FreeKey(string wanted)
    {
        var taken = Finders
            .Select(f => f.Key)
            .Concat(Zones.Select(z => z.Key))
            .Concat(Crosswalk.Select(l => l.Source))
            .ToHashSet(StringComparer.Ordinal);
        return Enumerable.Range(1, taken.Count + 1).Select(n => n == 1 ? wanted : $"{wanted}-{n}").First(k => !taken.Contains(k));
    }
}

/// <summary>A field that is made of what stands in several places, in the order of their crosswalk lines.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Between">What stands between the parts; <see cref="LongestBetween"/> characters at most.</param>
public sealed record JoinedPlaces(string Field, string Between)
{
    /// <summary>Most characters between two parts.</summary>
    public const int LongestBetween = 10;
}

/// <summary>How much trust a field needs so that nobody has to look at its value.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Least">0 to 1, or <see cref="Always"/>.</param>
public sealed record NeededTrust(string Field, double Least)
{
    /// <summary>More than any value has: a person looks at each.</summary>
    public const double Always = 2;

    /// <summary>What is offered.</summary>
    public static IReadOnlyList<double> Offered { get; } = [0.5, 0.6, Evidence.Sure, 0.85, 0.9, 0.95, 0.99, Always];
}

/// <summary>Where a value was read from.</summary>
/// <param name="Page">Page number in the document, from 1; 0 for the sheet that came before it.</param>
/// <param name="Box">Region of the words taken.</param>
/// <param name="Raw">The text before cleaning.</param>
/// <param name="Method"><c>text layer</c>, <c>recognised</c>, <c>picked</c> (a person clicked or dragged), <c>empty</c> (a zone in which
/// nothing was read), <c>marked</c> (a person showed where it stands) or <c>no place</c>.</param>
/// <param name="Confidence">0 to 1; the least of the words taken.</param>
public sealed record Evidence(int Page, Box Box, string Raw, string Method, double Confidence)
{
    /// <summary>The rest of the regions that hold it: the whole of the reader's zone, and other zones into the same field.</summary>
    public IReadOnlyList<Box> Also { get; init; } = [];

    /// <summary>Regions on other pages that hold it, or what another source read for the same field.</summary>
    public IReadOnlyList<PagePlace> Elsewhere { get; init; } = [];

    /// <summary>All regions that hold it on a page of the document.</summary>
    /// <param name="page">Its number, from 1.</param>
    public IEnumerable<Box> On(int page) =>
        (Page == page ? Also.Prepend(Box) : [])
            .Concat(Elsewhere.Where(p => p.Page == page).Select(p => p.Box))
            .Concat(Cells.Where(c => c.Page == page).Select(c => c.Box));

    /// <summary>
    /// Whether somebody has typed another value since: the place shows what was read, and nobody has said where the new value stands.
    /// </summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Replaced { get; init; }

    /// <summary>The places of a document's values after another value was typed for one of them.</summary>
    /// <param name="places">The places by field key.</param>
    /// <param name="field">Key of the field.</param>
    public static Dictionary<string, Evidence> AfterTyping(IReadOnlyDictionary<string, Evidence> places, string field)
    {
        var after = places.ToDictionary(StringComparer.Ordinal);
        if (after.TryGetValue(field, out var place))
            // Of another value nobody has said yet that no page shows it.
            if (place.Method == NoPlace.Method && place.Elsewhere.Count == 0)
                after.Remove(field);
            else
                after[field] = place with { Replaced = true };
        return after;
    }

    /// <summary>A place that somebody has shown, with the earlier ones, which stay hidden with it.</summary>
    public Evidence After(Evidence? earlier) =>
        earlier is null
            ? this
            : this with
            {
                Elsewhere =
                [
                    .. earlier.Elsewhere,
                    .. earlier.Page > 0 ? earlier.Also.Prepend(earlier.Box).Select(b => new PagePlace(earlier.Page, b)) : [],
                    .. earlier.Cells.Select(c => new PagePlace(c.Page, c.Box)),
                ],
            };

    /// <summary>Where each cell of a table was read; empty for all other fields.</summary>
    public IReadOnlyList<CellPlace> Cells { get; init; } = [];

    /// <summary>With less trust than this a person looks at the value, unless its field needs more or less.</summary>
    public const double Sure = 0.75;

    /// <summary>What the field needs instead of <see cref="Sure"/>; null for the usual.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public double? Needed { get; init; }

    /// <summary>Whether nobody has to look at it.</summary>
    [JsonIgnore]
    public bool IsSure => Suffices(Confidence);

    /// <summary>Whether so much trust is enough for its field.</summary>
    public bool Suffices(double trust) => trust >= (Needed ?? Sure);

    /// <summary>The trust in words: a share, or that each is looked at; empty when it is sure.</summary>
    [JsonIgnore]
    public string Doubt =>
        IsSure ? ""
        : Needed > 1 ? "look at it"
        : $"{Confidence:P0} sure";

    /// <summary>The same after a person has looked at it.</summary>
    public Evidence LookedAt() => this with { Confidence = 1, Needed = null };

    /// <summary>A person said that no page shows the value; its page is 0.</summary>
    public static Evidence NoPlace { get; } = new(0, default, "", "no place", 1);
}

/// <summary>A region of a page.</summary>
/// <param name="Page">Page number in the document, from 1.</param>
/// <param name="Box">The region.</param>
public readonly record struct PagePlace(int Page, Box Box);

/// <summary>Where a cell of a table was read.</summary>
/// <param name="Row">Row of the table, from 1.</param>
/// <param name="Column">Key of the column.</param>
/// <param name="Page">Page number in the document, from 1.</param>
/// <param name="Box">Region of the words taken.</param>
/// <param name="Raw">Their text.</param>
/// <param name="Confidence">0 to 1; the least of the words.</param>
public sealed record CellPlace(int Row, string Column, int Page, Box Box, string Raw, double Confidence);

/// <summary>A field's text with the evidence for it.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Text">The text after cleaning.</param>
/// <param name="Evidence">Null when a person typed it or a default filled it.</param>
/// <param name="Zone">The reader's zone as it lies on this page, whether or not anything was read in it.</param>
public sealed record CapturedValue(string Field, string Text, Evidence? Evidence, Box Zone = default)
{
    /// <summary>The source of the crosswalk line that carried it.</summary>
    public string Source { get; init; } = "";

    /// <summary>The page of its zone, from 1; 0 for the one that is claimed.</summary>
    public int ZonePage { get; init; }

    /// <summary>How it was found, in one clause; empty for a zone.</summary>
    public string How { get; init; } = "";
}
