using ClearLexicon.Core.Reading;

namespace ClearLexicon.Web.Pages;

/// <summary>Places on a page picture that is drawn 1000 units wide.</summary>
public static class PageSvg
{
    /// <summary>Width of the drawing.</summary>
    public const double Width = 1000;

    /// <summary>Height of the drawing of a page.</summary>
    public static double Height(PageText page) => page.Width > 0 ? Width * page.Height / page.Width : Width * 1.414;

    /// <summary>A share of the width as drawn.</summary>
    public static string X(double share) => (share * Width).ToString("0.##");

    /// <summary>A share of the height as drawn.</summary>
    public static string Y(double share, PageText page) => (share * Height(page)).ToString("0.##");

    /// <summary>The part of a page to show as a strip: the box with a margin, never narrower than a line of print.</summary>
    public static string StripView(Box box, PageText page)
    {
        var height = Height(page);
        double h = Math.Max(box.H * height * 1.9, 24),
            w = Math.Max(box.W * Width + 60, h * 11);
        double x = Math.Clamp(box.X * Width - 20, 0, Math.Max(0, Width - w)),
            y = box.CentreY * height - h / 2;
        return $"{x:0.#} {y:0.#} {w:0.#} {h:0.#}";
    }
}
