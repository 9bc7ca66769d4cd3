namespace ClearLexicon.Core.Reading;

/// <summary>How a claimed page lies against the one its reader was taught on, for each zone by what it follows.</summary>
public sealed class PagePlacing
{
    /// <summary>What is left of the trust in a zone when no landmark is found.</summary>
    private const double Unplaced = 0.5;

    private readonly IReadOnlyList<ClueMatch> _landmarks;

    /// <summary>Fits landmarks, or the clues of a reader that has none.</summary>
    /// <param name="page">The page.</param>
    /// <param name="claim">What the reader makes of it.</param>
    /// <param name="role">What page of a document it is; only landmarks and clues of such pages count.</param>
    public PagePlacing(PageText page, Claim claim, PageRole role = PageRole.First)
    {
        var landmarks = claim.Landmarks.Where(m => m.Clue.On == role).ToList();
        _landmarks = landmarks.Count > 0 ? landmarks : [.. claim.Matches.Where(m => m.Clue.IsPlaced && m.Clue.On == role)];
        Whole = Registration.Fit(page, _landmarks);
        // Whether a clue is there is what the claim rests on; only landmarks may be missing.
        Missing = landmarks.Count(l => l.Found is null);
        Trust = landmarks.Count == 0 ? 1 : 1 - (1 - Unplaced) * Missing / landmarks.Count;
    }

    /// <summary>The map of the page as a whole.</summary>
    public Registration Whole { get; }

    /// <summary>Landmarks that were not found.</summary>
    public int Missing { get; }

    /// <summary>What is left of the trust in values of zones, 0 to 1.</summary>
    public double Trust { get; }

    /// <summary>The map for one zone, and what is left of the trust in its value.</summary>
    public (Registration Map, double Trust) Of(Zone zone)
    {
        if (zone.Follows.Length == 0)
            return (Whole, Trust);
        var found = _landmarks.Where(l => l.Found is not null);
        var followed =
            zone.Follows == Zone.Nearest
                ? found.MinBy(l => Distance(l.Clue.Box, zone.Box))
                : found.FirstOrDefault(l => l.Clue.Text == zone.Follows);
        return followed is null ? (Whole, Unplaced) : (Whole.Through(followed), Trust);
    }

    private static double Distance(Box a, Box b) => Math.Abs(a.CentreX - b.CentreX) + Math.Abs(a.CentreY - b.CentreY);
}
