using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading;

/// <summary>
/// What of a document's pages and texts shows a restricted value: the regions it was read from, and wherever else it stands in any
/// <see cref="Spellings"/> of it. Of a field that is no longer in the type nobody knows whether it was restricted, so it counts as if
/// it were. A value that somebody typed without a place may stand anywhere: then no page is shown, until a person has marked the place
/// or said that there is none.
/// </summary>
public sealed class Redaction
{
    // Beyond this much comparing (spellings times letters) a page is closed as a whole.
    private const long MostWork = 2_000_000_000;

    private static readonly Box WholePage = new(0, 0, 1, 1);

    private readonly Spellings _spellings = new();
    private readonly List<Evidence> _places = [];

    /// <summary>Keys of restricted fields whose value was typed and has no place on a page.</summary>
    public IReadOnlyList<string> Unplaced { get; }

    /// <summary>
    /// Keys of restricted fields whose value was looked up or computed and was read on no page: it need not stand there, but where pages
    /// were recognised it may, unread.
    /// </summary>
    public IReadOnlyList<string> Unread { get; }

    /// <summary>Collects what is restricted of a document.</summary>
    /// <param name="fields">The fields of its type as it is published now.</param>
    /// <param name="filled">Keys of fields that reference tables fill.</param>
    /// <param name="record">Its values by field key.</param>
    /// <param name="evidence">Where they were read, by field key.</param>
    public Redaction(
        IReadOnlyList<FieldReader> fields,
        IReadOnlySet<string> filled,
        IReadOnlyDictionary<string, string> record,
        IReadOnlyDictionary<string, Evidence> evidence
    )
    {
        var (unplaced, unread) = (new List<string>(), new List<string>());
        foreach (var key in evidence.Keys.Union(record.Keys))
        {
            var reader = fields.FirstOrDefault(f => f.Field.Key == key);
            var field = reader?.Field;
            if (field is { Restricted: false })
                continue;
            var text = record.GetValueOrDefault(key, "");
            var place = evidence.GetValueOrDefault(key);
            _spellings.Add(field, text, reader?.Terms);
            if (place is not null)
            {
                _places.Add(place);
                _spellings.AddRaw(field, place.Raw);
                if (place.Replaced && !string.IsNullOrWhiteSpace(text) && !Stands(field, text, reader?.Terms, place.Raw))
                    unplaced.Add(key);
            }
            // What is computed, looked up or stamped need not stand on any page.
            else if (
                !string.IsNullOrWhiteSpace(text)
                && field is null or { DefaultFrom: DefaultSource.Constant or DefaultSource.Previous }
                && !filled.Contains(key)
            )
                unplaced.Add(key);
            else if (!string.IsNullOrWhiteSpace(text) && (filled.Contains(key) || field is { DefaultFrom: DefaultSource.Formula }))
                unread.Add(key);
        }
        (Unplaced, Unread) = (unplaced, unread);
    }

    // A slip that was put right, or a value that was put back, is what was read there in one of its spellings.
    private static bool Stands(Field? field, string text, VocabularyIndex? terms, string raw)
    {
        var own = new Spellings();
        own.Add(field, text, terms);
        return new GluedText([raw]).Finds(own).Any();
    }

    /// <summary>Whether a text shows a restricted value.</summary>
    public bool Hides(string text) => !_spellings.IsEmpty && new GluedText([text]).Finds(_spellings).Any();

    /// <summary>Regions of a page that are not shown; the whole page where nobody can say which.</summary>
    /// <param name="page">Its words.</param>
    /// <param name="number">Its number in the document, from 1.</param>
    public IReadOnlyList<Box> Masks(PageText page, int number)
    {
        if (Unplaced.Count > 0)
            return [WholePage];
        var masks = _places.SelectMany(p => p.On(number)).ToList();
        if (_spellings.IsEmpty)
            return masks;
        if (_spellings.Count * (page.Words.Sum(w => (long)w.Text.Length) + page.Codes.Sum(c => (long)c.Text.Length)) > MostWork)
            return [WholePage];
        // In the order of the text layer, and in the order of the eye: a file may hold its words in any.
        foreach (var words in new[] { page.Words, ZoneReading.InOrder(page.Words.Select(w => (w, w.Box.CentreX, w.Box.CentreY))) })
            masks.AddRange(new GluedText([.. words.Select(w => w.Text)]).Finds(_spellings).Select(i => words[i].Box));
        masks.AddRange(page.Codes.Where(c => Hides(c.Text)).Select(c => c.Box));
        return [.. masks.Distinct()];
    }
}
