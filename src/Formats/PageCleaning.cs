using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Makes a copy of a scanned page that is easier to recognise: without dust and ruled lines, and half as large again.</summary>
public static class PageCleaning
{
    /// <summary>Dark spots of at most this many pixels are dust; the dot of an i at 200 dpi has more.</summary>
    private const int Dust = 8;

    /// <summary>Dark runs at least this long are ruled lines; no letter of a form is that wide or high at 200 dpi.</summary>
    private const int Rule = 90;

    private const float Enlarged = 1.5f;

    /// <summary>The cleaned copy.</summary>
    public static SKBitmap Clean(SKBitmap page)
    {
        using var gray = new SKBitmap(new SKImageInfo(page.Width, page.Height, SKColorType.Gray8, SKAlphaType.Opaque));
        using (var canvas = new SKCanvas(gray))
            canvas.DrawBitmap(page, 0, 0, SKSamplingOptions.Default);
        int width = gray.Width,
            height = gray.Height,
            stride = gray.RowBytes;
        var pixels = gray.GetPixelSpan().ToArray();
        var paper = Paper(pixels);
        var dark = new bool[width * height];
        for (var y = 0; y < height; y++)
        for (var x = 0; x < width; x++)
            dark[y * width + x] = pixels[y * stride + x] < paper - 50;
        foreach (var i in Rules(dark, width, height).Concat(Specks(dark, width, height)))
        {
            // The soft edge of a line or speck goes with it.
            int x = i % width,
                y = i / width;
            for (var dy = -1; dy <= 1; dy++)
            for (var dx = -1; dx <= 1; dx++)
                if (
                    x + dx >= 0
                    && x + dx < width
                    && y + dy >= 0
                    && y + dy < height
                    && (dx == 0 && dy == 0 || !dark[(y + dy) * width + x + dx])
                )
                    pixels[(y + dy) * stride + x + dx] = paper;
        }
        System.Runtime.InteropServices.Marshal.Copy(pixels, 0, gray.GetPixels(), pixels.Length);
        return gray.Resize(
            new SKImageInfo((int)(width * Enlarged), (int)(height * Enlarged), SKColorType.Gray8, SKAlphaType.Opaque),
            new SKSamplingOptions(SKCubicResampler.Mitchell)
        );
    }

    /// <summary>The commonest brightness, which is the paper's.</summary>
    private static byte Paper(byte[] pixels)
    {
        var counts = new int[256];
        foreach (var p in pixels)
            counts[p]++;
        return (byte)Array.IndexOf(counts, counts.Max());
    }

    private static List<int> Rules(bool[] dark, int width, int height)
    {
        var found = new List<int>();
        for (var y = 0; y < height; y++)
            Runs(y * width, 1, width);
        for (var x = 0; x < width; x++)
            Runs(x, width, height);
        return found;

        void Runs(int start, int step, int count)
        {
            var run = 0;
            for (var i = 0; i <= count; i++)
            {
                if (i < count && dark[start + i * step])
                {
                    run++;
                    continue;
                }
                if (run >= Rule)
                    for (var j = i - run; j < i; j++)
                        found.Add(start + j * step);
                run = 0;
            }
        }
    }

    private static List<int> Specks(bool[] dark, int width, int height)
    {
        var found = new List<int>();
        var seen = new bool[dark.Length];
        var spot = new List<int>();
        for (var start = 0; start < dark.Length; start++)
        {
            if (!dark[start] || seen[start])
                continue;
            spot.Clear();
            spot.Add(start);
            seen[start] = true;
            for (var at = 0; at < spot.Count; at++)
            {
                int x = spot[at] % width,
                    y = spot[at] / width;
                for (var dy = -1; dy <= 1; dy++)
                for (var dx = -1; dx <= 1; dx++)
                {
                    int nx = x + dx,
                        ny = y + dy,
                        next = ny * width + nx;
                    if (nx < 0 || nx >= width || ny < 0 || ny >= height || seen[next] || !dark[next])
                        continue;
                    seen[next] = true;
                    spot.Add(next);
                }
            }
            if (spot.Count <= Dust)
                found.AddRange(spot);
        }
        return found;
    }
}
