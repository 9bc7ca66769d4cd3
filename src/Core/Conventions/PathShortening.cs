using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions;

/// <summary>Makes a place that is too long fit, by pieces that may be shortened.</summary>
internal static class PathShortening
{
    private const int MostRounds = 200;

    /// <summary>Whether a place lacks nothing but room.</summary>
    public static bool IsTooLong(in Placement place) => place.Problem?.Kind is PathTooLong or PathSegmentTooLong;

    /// <summary>Takes from the piece that has most to give, until the place fits or none has any.</summary>
    public static Placement Shorten(
        PathRendering rendering,
        ReadOnlySpan<FieldValue> record,
        CheckContext now,
        int counter,
        Placement place
    )
    {
        var (pieces, limits) = (rendering.Pieces, rendering.Limits);
        var arrangement = rendering.ArrangementOf(record, now, counter);
        var caps = new int[pieces.Length];
        Array.Fill(caps, int.MaxValue);
        var lengths = new int[pieces.Length];
        for (var round = 0; round < MostRounds && IsTooLong(place); round++)
        {
            Array.Clear(lengths);
            rendering.Render(record, now, counter, caps, lengths);
            var inWhole = place.Problem!.Kind is PathTooLong;
            var excess = place.Problem.Kind switch
            {
                PathTooLong whole => whole.Length - whole.Most,
                PathSegmentTooLong segment => segment.Length - segment.Most,
                _ => 0,
            };
            var (best, slack) = (-1, 0);
            foreach (var i in inWhole ? Steps(arrangement) : Steps(arrangement, place, limits))
                if (pieces[i].Piece.ShortenTo is { } least && lengths[i] - least > slack)
                    (best, slack) = (i, lengths[i] - least);
            if (best < 0)
                return place;
            caps[best] = lengths[best] - Math.Max(1, Math.Min(slack, limits.InBytes ? (excess + 3) / 4 : excess));
            place = rendering.Render(record, now, counter, caps);
        }
        return place;
    }

    private static IEnumerable<int> Steps(Arrangement arrangement) =>
        arrangement.Folder.Concat(arrangement.Name).Where(s => s.At >= 0).Select(s => s.At);

    // Pieces of the first folder that is too long, or of the name.
    private static IEnumerable<int> Steps(Arrangement arrangement, Placement place, PathLimits limits)
    {
        var folders = place.Folder.Split('/');
        var folder = place.Folder.Length == 0 ? -1 : Array.FindIndex(folders, f => limits.Finding(f) is not null);
        if (folder < 0)
            return arrangement.Name.Select(s => s.At);
        var depth = 0;
        return [.. arrangement.Folder.Where(s => (s.At < 0 ? ++depth : depth) == folder && s.At >= 0).Select(s => s.At)];
    }
}
