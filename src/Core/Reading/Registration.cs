namespace ClearLexicon.Core.Reading;

/// <summary>
/// Maps a page back onto the page its reader was taught on: shift, rotation and scale by least squares over what was found of its
/// landmarks, and stretch by axis when four or more of them, far apart, show one. Coordinates are scaled by the page's sides so that a
/// rotation is a rotation.
/// </summary>
public sealed class Registration
{
    // Where something was found, and where it stood when the reader was taught, both in the page's own unit.
    private readonly record struct Pair(double Fx, double Fy, double Ex, double Ey);

    /// <summary>What disagrees by more, in shares of the page's height, stands somewhere else and is left out.</summary>
    private const double Outlier = 0.015;

    /// <summary>Height of A4 in millimetres, for pages whose size on paper is not known.</summary>
    private const double UsualHeight = 297;
    private const double MillimetresPerPoint = 25.4 / 72;

    // taught x = _a x + _b y + _tx, taught y = _c x + _d y + _ty
    private readonly double _a,
        _b,
        _c,
        _d,
        _tx,
        _ty,
        _width,
        _height;

    private Registration(double a, double b, double c, double d, double tx, double ty, double width, double height) =>
        (_a, _b, _c, _d, _tx, _ty, _width, _height) = (a, b, c, d, tx, ty, width, height);

    /// <summary>Rotation of the scanned page against the taught one in degrees, clockwise positive.</summary>
    public double SkewDegrees => -Math.Atan2(_c - _b, _a + _d) * 180 / Math.PI;

    /// <summary>How much wider the taught page is in height than in width, against this one; 1 when no axis is stretched.</summary>
    public double Stretch => Math.Sqrt(_b * _b + _d * _d) / Math.Max(1e-9, Math.Sqrt(_a * _a + _c * _c));

    /// <summary>What was found and agrees with the map.</summary>
    public IReadOnlyList<ClueMatch> Used { get; private init; } = [];

    /// <summary>How far what was used lies from where the map puts it, in millimetres on paper: the root of the mean square.</summary>
    public double ErrorMillimetres { get; private init; }

    /// <summary>Fits the map. With one landmark only the shift is corrected, with none nothing is.</summary>
    public static Registration Fit(PageText page, IEnumerable<ClueMatch> matches)
    {
        double w = page.Width,
            h = page.Height;
        var found = matches.Where(m => m.Found is not null && m.Clue.IsPlaced).ToList();
        var pairs = found.ConvertAll(m => new Pair(
            m.Found!.Value.CentreX * w,
            m.Found.Value.CentreY * h,
            m.Clue.Box.CentreX * w,
            m.Clue.Box.CentreY * h
        ));
        var kept = Agreeing(pairs, w, h);
        var fit = Solve([.. kept.Select(i => pairs[i])], w, h);
        var mm = (page.Size is { Height: > 0 } size ? size.Height * MillimetresPerPoint : UsualHeight) / Math.Max(1e-9, h);
        return new Registration(fit._a, fit._b, fit._c, fit._d, fit._tx, fit._ty, w, h)
        {
            Used = [.. kept.Select(i => found[i])],
            ErrorMillimetres = kept.Count == 0 ? 0 : Math.Sqrt(kept.Average(i => fit.Square(pairs[i]))) * mm,
        };
    }

    /// <summary>The same map, moved so that one landmark lies exactly where it was taught.</summary>
    public Registration Through(ClueMatch landmark)
    {
        if (landmark.Found is not { } found)
            return this;
        var (x, y) = ToTaught(found.CentreX, found.CentreY);
        return new Registration(
            _a,
            _b,
            _c,
            _d,
            _tx + (landmark.Clue.Box.CentreX - x) * _width,
            _ty + (landmark.Clue.Box.CentreY - y) * _height,
            _width,
            _height
        )
        {
            Used = Used,
            ErrorMillimetres = ErrorMillimetres,
        };
    }

    /// <summary>Where a point of this page lies on the taught page, both in shares of the page.</summary>
    public (double X, double Y) ToTaught(double x, double y)
    {
        double px = x * _width,
            py = y * _height;
        return ((_a * px + _b * py + _tx) / _width, (_c * px + _d * py + _ty) / _height);
    }

    /// <summary>Where a box of this page lies on the taught one; as large as it is.</summary>
    public Box ToTaught(Box box)
    {
        var (x, y) = ToTaught(box.CentreX, box.CentreY);
        return new Box(x - box.W / 2, y - box.H / 2, box.W, box.H);
    }

    /// <summary>Where a box of the taught page lies on this one; the smallest upright box around it.</summary>
    public Box FromTaught(Box box)
    {
        // A map that shrinks everything to a point or a line has no way back.
        var area = _a * _d - _b * _c;
        if (!(Math.Abs(area) > 1e-12) || !double.IsFinite(area))
            return box;
        double[] xs = new double[4],
            ys = new double[4];
        for (var i = 0; i < 4; i++)
        {
            double u = (box.X + (i & 1) * box.W) * _width - _tx,
                v = (box.Y + (i >> 1) * box.H) * _height - _ty;
            (xs[i], ys[i]) = ((_d * u - _b * v) / area / _width, (_a * v - _c * u) / area / _height);
        }
        return new Box(xs.Min(), ys.Min(), xs.Max() - xs.Min(), ys.Max() - ys.Min());
    }

    private double Square(Pair p)
    {
        double dx = _a * p.Fx + _b * p.Fy + _tx - p.Ex,
            dy = _c * p.Fx + _d * p.Fy + _ty - p.Ey;
        return dx * dx + dy * dy;
    }

    // A word that also stands elsewhere may have been found there: of all maps through two of them, the one with which most agree says
    // which.
    private static List<int> Agreeing(List<Pair> pairs, double w, double h)
    {
        var all = Enumerable.Range(0, pairs.Count).ToList();
        if (pairs.Count <= 3)
            return all;
        var (best, most, error) = (all, 0, double.MaxValue);
        var limit = Outlier * h * Outlier * h;
        for (var i = 0; i < pairs.Count && i < MostTried; i++)
        for (var j = i + 1; j < pairs.Count && j < MostTried; j++)
        {
            var fit = Solve([pairs[i], pairs[j]], w, h);
            var kept = all.FindAll(k => fit.Square(pairs[k]) < limit);
            var sum = kept.Sum(k => fit.Square(pairs[k]));
            if (kept.Count > most || kept.Count == most && sum < error)
                (best, most, error) = (kept, kept.Count, sum);
        }
        // Where fewer than half agree there is no telling who is right.
        if (2 * most <= pairs.Count)
            return all;
        // What agrees only roughly, while the others agree well, was found beside the place where it should be.
        while (best.Count > 4)
        {
            var fit = Solve([.. best.Select(k => pairs[k])], w, h);
            var rest = best.FindAll(k => fit.Square(pairs[k]) < best.Max(b => fit.Square(pairs[b])));
            var without = Solve([.. rest.Select(k => pairs[k])], w, h);
            if (rest.Count < 4 || 9 * without.Worst(pairs, rest) > fit.Worst(pairs, best) || fit.Worst(pairs, best) < Loose * h * Loose * h)
                break;
            best = rest;
        }
        return best;
    }

    private double Worst(List<Pair> pairs, List<int> of) => of.Max(k => Square(pairs[k]));

    /// <summary>What agrees as well as this is not looked at twice, in shares of the page's height.</summary>
    private const double Loose = 0.0015;

    private const int MostTried = 40;

    private static Registration Solve(IReadOnlyList<Pair> pairs, double w, double h)
    {
        if (pairs.Count == 0)
            return new Registration(1, 0, 0, 1, 0, 0, w, h);
        double fx = pairs.Average(p => p.Fx),
            fy = pairs.Average(p => p.Fy),
            ex = pairs.Average(p => p.Ex),
            ey = pairs.Average(p => p.Ey);
        double xx = 0,
            xy = 0,
            yy = 0,
            ux = 0,
            uy = 0,
            vx = 0,
            vy = 0;
        foreach (var p in pairs)
        {
            double x = p.Fx - fx,
                y = p.Fy - fy,
                u = p.Ex - ex,
                v = p.Ey - ey;
            (xx, xy, yy) = (xx + x * x, xy + x * y, yy + y * y);
            (ux, uy, vx, vy) = (ux + u * x, uy + u * y, vx + v * x, vy + v * y);
        }
        // What stands close together says little about scale and rotation.
        double a = 1,
            c = 0;
        if (pairs.Count > 1 && xx + yy > 0.01 * h * h)
            (a, c) = ((ux + vy) / (xx + yy), (vx - uy) / (xx + yy));
        var same = Of(a, -c, c, a);
        var spread = xx * yy - xy * xy;
        if (pairs.Count < 4 || spread < FarApart * h * h * h * h)
            return same;
        var own = Of(
            (ux * yy - uy * xy) / spread,
            (uy * xx - ux * xy) / spread,
            (vx * yy - vy * xy) / spread,
            (vy * xx - vx * xy) / spread
        );
        // A stretch is believed when it explains most of what is left, and a scanner could have made it.
        var (left, leftOwn) = (pairs.Sum(same.Square), pairs.Sum(own.Square));
        return leftOwn < Explains * left && Math.Abs(own.Stretch - 1) < MostStretch && own.Shear < MostShear ? own : same;

        Registration Of(double a, double b, double c, double d) => new(a, b, c, d, ex - a * fx - b * fy, ey - c * fx - d * fy, w, h);
    }

    private const double FarApart = 0.0005;
    private const double Explains = 0.4;
    private const double MostStretch = 0.1;
    private const double MostShear = 0.03;

    // How far the axes are from standing upright on one another.
    private double Shear => Math.Abs(_a * _b + _c * _d) / Math.Max(1e-9, _a * _a + _c * _c);
}
