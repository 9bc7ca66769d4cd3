using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Reading;

/// <summary>Reads zones of a page into fields.</summary>
public static class ZoneReading
{
    /// <summary>Reads every zone of a claim and carries it through the crosswalk.</summary>
    /// <param name="page">The page.</param>
    /// <param name="number">Its number in the document, from 1.</param>
    /// <param name="claim">The reader with the clues it found.</param>
    /// <param name="type">The document type it fills; lines to fields that are gone are passed over.</param>
    public static IReadOnlyList<CapturedValue> Read(PageText page, int number, Claim claim, TypeFields type)
    {
        var registration = Registration.Fit(page, claim.Matches);
        var captured = new List<CapturedValue>();
        foreach (var line in claim.Reader.Crosswalk)
        {
            if (type.Find(line.Field) is not { } field || claim.Reader.Zones.FirstOrDefault(z => z.Key == line.Source) is not { } zone)
                continue;
            var here = registration.FromTaught(zone.Box);
            // A code says for certain what the words beside it say to people.
            var coded = Coded(page, number, box => Within(zone.Box, box, registration));
            if ((coded ?? Join(InZone(page, zone.Box, registration), page.Method, number)) is not { } evidence)
            {
                captured.Add(new CapturedValue(field.Key, "", null, here));
                continue;
            }
            captured.Add(new CapturedValue(field.Key, CleaningSteps.Compile(line.Steps, field)(evidence.Raw), evidence, here));
        }
        return captured;
    }

    /// <summary>Where the values of each field were read: the first zone with words, and all the others that feed it.</summary>
    /// <param name="captured">What <see cref="Read"/> gave.</param>
    /// <param name="number">The page's number in the document, from 1.</param>
    public static Dictionary<string, Evidence> Places(IReadOnlyList<CapturedValue> captured, int number) =>
        captured
            .GroupBy(v => v.Field, StringComparer.Ordinal)
            .ToDictionary(
                v => v.Key,
                v =>
                    (
                        v.OrderBy(z => z.Text.Length == 0).FirstOrDefault(z => z.Evidence is not null)?.Evidence
                        ?? new Evidence(number, v.First().Zone, "", "empty", 0)
                    ) with
                    {
                        Also = [.. v.SelectMany(z => z.Evidence is { } read ? [read.Box, z.Zone] : new[] { z.Zone }).Distinct()],
                    },
                StringComparer.Ordinal
            );

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
            Box.Around(codes.Select(c => c.Box))!.Value,
            string.Join(' ', codes.Select(c => c.Text)),
            codes[0].Kind,
            1
        );
    }

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
    internal static List<Word> InOrder(IEnumerable<(Word Word, double X, double Y)> words)
    {
        var rest = words.OrderBy(w => w.Y).ToList();
        var ordered = new List<Word>(rest.Count);
        for (int from = 0, to; from < rest.Count; from = to)
        {
            var reach = rest[from].Y + rest[from].Word.Box.H * 0.6;
            for (to = from + 1; to < rest.Count && rest[to].Y <= reach; )
                to++;
            ordered.AddRange(rest.GetRange(from, to - from).OrderBy(w => w.X).Select(w => w.Word));
        }
        return ordered;
    }

    private static Evidence? Join(List<(Word Word, double X, double Y)> taken, string method, int number)
    {
        if (taken.Count == 0)
            return null;
        var ordered = InOrder(taken);
        return new Evidence(
            number,
            Box.Around(ordered.Select(w => w.Box))!.Value,
            string.Join(' ', ordered.Select(w => w.Text)),
            method,
            ordered.Min(w => w.Confidence)
        );
    }
}
