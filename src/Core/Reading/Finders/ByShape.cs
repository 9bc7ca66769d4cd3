namespace ClearLexicon.Core.Reading.Finders;

/// <summary>The value that has a shape, wherever it stands.</summary>
internal static class ByShape
{
    private const double OneOfSeveral = 0.85;
    private const int MostOnPage = 5_000;

    public static Found? Find(Search search)
    {
        var all = new List<(PageLines Page, Shaped Shaped)>();
        foreach (var page in search.Looked)
        {
            all.AddRange(
                page.Lines.SelectMany(l => Shapes.In(l, search.Finder, search.Field))
                    .Where(s => search.Allows(s.Run.Box))
                    .Take(MostOnPage)
                    .Select(s => (page, s))
            );
            if (all.Count > 0 && search.Finder.Which is Which.First)
                break;
        }
        if (all.Count == 0)
            return null;
        var (chosen, reason) = search.Finder.Which switch
        {
            Which.Last => (all[^1], "the last"),
            Which.Largest => (all.MaxBy(a => Shapes.SizeOf(a.Shaped.Raw) ?? decimal.MinValue), "the largest or latest"),
            Which.Nearest => Nearest(all, search),
            _ => (all[0], "the first"),
        };
        // The same value several times is one value.
        var values = all.Select(a => a.Shaped.Raw).Distinct(StringComparer.OrdinalIgnoreCase).Count();
        if (search.Finder.Which == Which.Only && values > 1 || chosen.Page is null)
            return null;
        var sure = values == 1 || search.Finder.Which == Which.Nearest ? 1 : OneOfSeveral;
        return new Found(
            Search.EvidenceOf(chosen.Page, [.. chosen.Shaped.Run.Words], chosen.Shaped.Raw, sure),
            values == 1 ? "the only one of its shape" : $"{reason} of {values} of its shape"
        );
    }

    private static ((PageLines Page, Shaped Shaped), string) Nearest(List<(PageLines Page, Shaped Shaped)> all, Search search)
    {
        var (best, away, to) = (default((PageLines, Shaped)), double.MaxValue, "");
        foreach (var group in all.GroupBy(a => a.Page))
        foreach (var label in group.Key.Find(search.Finder.Words))
        foreach (var each in group)
        {
            var (a, b) = (label.Box, each.Shaped.Run.Box);
            // Measured on paper; what stands behind or under the words is nearer than what stands before or over them.
            double dx = Math.Max(Math.Max(b.X - (a.X + a.W), a.X - (b.X + b.W)), 0),
                dy = Math.Abs(a.CentreY - b.CentreY) * group.Key.Aspect;
            var behind = b.CentreX >= a.X - 0.01 && b.CentreY >= a.Y - a.H ? 1 : 2.5;
            var far = Math.Sqrt(dx * dx + dy * dy) * behind * (1 + label.Misread);
            if (far < away)
                (best, away, to) = (each, far, string.Join(' ', label.Words.Select(w => w.Text)));
        }
        return (best, $"the nearest to “{to}”");
    }
}
