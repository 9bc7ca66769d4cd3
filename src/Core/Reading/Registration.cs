using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Reading;

/// <summary>
/// Maps a page back onto the page its reader was taught on: shift, scale and rotation by least squares over the clues
/// found. Coordinates are scaled by the page's sides so that a rotation is a rotation.
/// </summary>
public sealed class Registration
{
    private readonly double _a,
        _b,
        _tx,
        _ty,
        _width,
        _height;

    private Registration(double a, double b, double tx, double ty, double width, double height) =>
        (_a, _b, _tx, _ty, _width, _height) = (a, b, tx, ty, width, height);

    /// <summary>Rotation of the scanned page against the taught one in degrees, clockwise positive.</summary>
    public double SkewDegrees => -Math.Atan2(_b, _a) * 180 / Math.PI;

    /// <summary>Fits the map. With one clue only the shift is corrected, with none nothing is.</summary>
    public static Registration Fit(PageText page, IEnumerable<ClueMatch> matches)
    {
        double w = page.Width,
            h = page.Height;
        var pairs = matches
            .Where(m => m.Found is not null)
            .Select(m =>
                (Fx: m.Found!.Value.CentreX * w, Fy: m.Found.Value.CentreY * h, Ex: m.Clue.Box.CentreX * w, Ey: m.Clue.Box.CentreY * h)
            )
            .ToList();
        var fit = Solve(pairs, w, h);
        // A clue word that also stands elsewhere may have been matched there: drop the worst while it disagrees with the rest.
        while (pairs.Count > 3)
        {
            var worst = pairs.MaxBy(p => fit.Residual(p));
            if (fit.Residual(worst) < 0.02 * h)
                break;
            pairs.Remove(worst);
            fit = Solve(pairs, w, h);
        }
        return fit;
    }

    /// <summary>Where a point of this page lies on the taught page, both in shares of the page.</summary>
    public (double X, double Y) ToTaught(double x, double y)
    {
        double px = x * _width,
            py = y * _height;
        return ((_a * px - _b * py + _tx) / _width, (_b * px + _a * py + _ty) / _height);
    }

    /// <summary>Where a box of the taught page lies on this one; the smallest upright box around it.</summary>
    public Box FromTaught(Box box)
    {
        // A map that shrinks everything to a point has no way back.
        var norm = _a * _a + _b * _b;
        if (norm <= 1e-12)
            return box;
        double[] xs = new double[4],
            ys = new double[4];
        for (var i = 0; i < 4; i++)
        {
            double u = (box.X + (i & 1) * box.W) * _width - _tx,
                v = (box.Y + (i >> 1) * box.H) * _height - _ty;
            (xs[i], ys[i]) = ((_a * u + _b * v) / norm / _width, (_a * v - _b * u) / norm / _height);
        }
        return new Box(xs.Min(), ys.Min(), xs.Max() - xs.Min(), ys.Max() - ys.Min());
    }

    private double Residual((double Fx, double Fy, double Ex, double Ey) p)
    {
        double dx = _a * p.Fx - _b * p.Fy + _tx - p.Ex,
            dy = _b * p.Fx + _a * p.Fy + _ty - p.Ey;
        return Math.Sqrt(dx * dx + dy * dy);
    }

    private static Registration Solve(List<(double Fx, double Fy, double Ex, double Ey)> pairs, double w, double h)
    {
        if (pairs.Count == 0)
            return new Registration(1, 0, 0, 0, w, h);
        double fx = pairs.Average(p => p.Fx),
            fy = pairs.Average(p => p.Fy),
            ex = pairs.Average(p => p.Ex),
            ey = pairs.Average(p => p.Ey);
        double dot = 0,
            cross = 0,
            norm = 0;
        foreach (var p in pairs)
        {
            double ux = p.Fx - fx,
                uy = p.Fy - fy,
                vx = p.Ex - ex,
                vy = p.Ey - ey;
            dot += ux * vx + uy * vy;
            cross += ux * vy - uy * vx;
            norm += ux * ux + uy * uy;
        }
        // Clues close together say little about scale and rotation.
        double a = 1,
            b = 0;
        if (pairs.Count > 1 && norm > 0.01 * h * h)
        {
            a = dot / norm;
            b = cross / norm;
        }
        return new Registration(a, b, ex - a * fx + b * fy, ey - b * fx - a * fy, w, h);
    }
}
