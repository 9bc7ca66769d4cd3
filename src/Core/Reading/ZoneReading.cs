using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Reading;

/// <summary>Reads zones of a page into fields.</summary>
public static class ZoneReading
{
    /// <summary>Reads one zone of a page and carries what stands in it into its field.</summary>
    /// <param name="page">The page.</param>
    /// <param name="number">Its number in the document, from 1.</param>
    /// <param name="zone">The zone as it was taught.</param>
    /// <param name="line">Its crosswalk line.</param>
    /// <param name="field">The field that the line fills.</param>
    /// <param name="registration">How the page lies against the one it was taught on.</param>
    internal static CapturedValue Read(PageText page, int number, Zone zone, CrosswalkLine line, Field field, Registration registration)
    {
        var here = registration.FromTaught(zone.Box).OnPage();
        // A code says for certain what the words beside it say to people.
        var coded = Coded(page, number, box => Within(zone.Box, box, registration));
        return (coded ?? Join(InZone(page, zone.Box, registration), page.Method, number)) is { } evidence
            ? new CapturedValue(field.Key, CleaningSteps.Compile(line.Steps, field)(evidence.Raw), evidence, here)
            : new CapturedValue(field.Key, "", null, here);
    }

    /// <summary>Where the values of each field were read: the first zone with words, and all the others that feed it.</summary>
    /// <param name="captured">What <see cref="DocumentReading"/> gave.</param>
    /// <param name="number">The page's number in the document, from 1.</param>
    /// <remarks>A field that has no place at all, because a finder without a region found nothing, is not in it.</remarks>
    public static Dictionary<string, Evidence> Places(IReadOnlyList<CapturedValue> captured, int number)
    {
        var places = new Dictionary<string, Evidence>(StringComparer.Ordinal);
        foreach (var values in captured.GroupBy(v => v.Field, StringComparer.Ordinal))
        {
            var chosen = values.OrderBy(v => v.Text.Length == 0).FirstOrDefault(v => v.Evidence is not null)?.Evidence;
            if (chosen is null && values.All(v => v.Zone == default))
                continue;
            var drawn = values.FirstOrDefault(v => v.Zone != default);
            chosen ??= new Evidence(PageOf(drawn!), drawn!.Zone, "", "empty", 0);
            // A zone lies on the page it was drawn for; what a finder found may stand on any other.
            var all = values
                .SelectMany(v => new[] { new PagePlace(PageOf(v), v.Zone), new PagePlace(PageOf(v), v.Evidence?.Box ?? v.Zone) })
                .Where(p => p.Box != default)
                .Distinct()
                .ToList();
            places[values.Key] = chosen with
            {
                Also = [.. all.Where(p => p.Page == chosen.Page).Select(p => p.Box)],
                Elsewhere = [.. all.Where(p => p.Page != chosen.Page)],
            };
        }
        return places;

        int PageOf(CapturedValue value) => value.Evidence?.Page ?? (value.ZonePage > 0 ? value.ZonePage : number);
    }

    /// <summary>Reads a region that a person dragged on this very page; null when no word stands in it.</summary>
    public static Evidence? ReadRegion(PageText page, int number, Box region) =>
        Coded(page, number, box => region.Contains(box.CentreX, box.CentreY))
        ?? Join(
            [.. page.Words.Where(w => region.Contains(w.Box.CentreX, w.Box.CentreY)).Select(w => (w, w.Box.CentreX, w.Box.CentreY))],
            "picked",
            number
        );

    private static bool Within(Box zone, Box box, Registration registration)
    {
        var (x, y) = registration.ToTaught(box.CentreX, box.CentreY);
        return zone.Contains(x, y);
    }

    private static Evidence? Coded(PageText page, int number, Func<Box, bool> isMeant)
    {
        var codes = page.Codes.Where(c => isMeant(c.Box)).ToList();
        if (codes.Count == 0)
            return null;
        return new Evidence(
            number,
            Box.Around(codes.Select(c => c.Box))!.Value.OnPage(),
            string.Join(' ', codes.Select(c => c.Text)),
            codes[0].Kind,
            1
        );
    }

    /// <summary>The words of a zone by lines.</summary>
    internal static IEnumerable<IReadOnlyList<Word>> WordsIn(PageText page, Box zone, Registration registration) =>
        Lines(InZone(page, zone, registration)).Select(l => l.ToList());

    private static List<(Word Word, double X, double Y)> InZone(PageText page, Box zone, Registration registration)
    {
        var taken = new List<(Word, double, double)>();
        foreach (var word in page.Words)
        {
            var (x, y) = registration.ToTaught(word.Box.CentreX, word.Box.CentreY);
            if (zone.Contains(x, y))
                taken.Add((word, x, y));
        }
        return taken;
    }

    /// <summary>Words in reading order: lines from the top, each from the left.</summary>
    /// <param name="words">Words with where their centres lie.</param>
    internal static List<Word> InOrder(IEnumerable<(Word Word, double X, double Y)> words) => [.. Lines(words).SelectMany(l => l)];

    /// <summary>Words by lines from the top, each line from the left.</summary>
    /// <param name="words">Words with where their centres lie.</param>
    public static IEnumerable<IEnumerable<Word>> Lines(IEnumerable<(Word Word, double X, double Y)> words)
    {
        var rest = words.OrderBy(w => w.Y).ToList();
        for (int from = 0, to; from < rest.Count; from = to)
        {
            var reach = rest[from].Y + rest[from].Word.Box.H * 0.6;
            for (to = from + 1; to < rest.Count && rest[to].Y <= reach; )
                to++;
            yield return rest.GetRange(from, to - from).OrderBy(w => w.X).Select(w => w.Word);
        }
    }

    private static Evidence? Join(List<(Word Word, double X, double Y)> taken, string method, int number)
    {
        if (taken.Count == 0)
            return null;
        var ordered = InOrder(taken);
        // What is left of a ruled line is read as a dash or a dot, and is no part of the value.
        while (ordered.Count > 1 && !ordered[^1].Text.Any(char.IsLetterOrDigit))
            ordered.RemoveAt(ordered.Count - 1);
        while (ordered.Count > 1 && !ordered[0].Text.Any(char.IsLetterOrDigit))
            ordered.RemoveAt(0);
        return new Evidence(
            number,
            // What a text layer says of its words may lie beyond the page.
            Box.Around(ordered.Select(w => w.Box))!.Value.OnPage(),
            string.Join(' ', ordered.Select(w => w.Text)),
            method,
            ordered.Min(w => w.Confidence)
        );
    }
}
