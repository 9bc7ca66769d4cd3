using System.Globalization;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Stacks;

namespace ClearLexicon.Web.Forms;

/// <summary>A separation as its form writes and reads it. Shares of the page are percents in the form.</summary>
public static class SeparationForm
{
    /// <summary>The blanks filled with a separation.</summary>
    public static Form Write(Separation how)
    {
        var form = new Form();
        form.Put("method", how.Method);
        form.Put("pages", Text(how.Pages));
        form.Put("patch", [.. how.Patches]);
        form.Put("words", how.Words);
        form.Tick("is-pattern", how.IsPattern);
        form.Tick("stays", how.Stays);
        form.Tick("duplex", how.Duplex);
        form.Tick("ends-with-file", how.EndsWithFile);
        form.Tick("drop-blanks", how.Blanks == BlankPages.Drop);
        form.Put("blank-share", Percent(how.BlankShare));
        Write(form, how.Codes);
        if (how.Region is { } region)
            Write(form, region);
        return form;
    }

    /// <summary>The separation that a form gives; what cannot be read is noted in the form.</summary>
    /// <param name="form">The form.</param>
    /// <param name="was">The separation before, of which stays what its method has no blank for; null for a new one.</param>
    public static Separation Read(Form form, Separation? was = null)
    {
        was ??= new Separation();
        var code = form.Text("method") ?? "file";
        var (codes, words) = (code is "code" or "code-change", code == "words");
        var mayVanish = SeparationMethods.Find(code)?.MayVanish == true;
        return new()
        {
            Method = code,
            Pages = code == "pages" ? form.Number("pages", "pages") ?? 1 : was.Pages,
            Patches = code == "patch" ? [.. form.All("patch").Where(p => p.Length > 0).Distinct()] : was.Patches,
            Codes = codes ? ReadFilter(form) : was.Codes,
            Words = words ? form.Text("words") ?? "" : was.Words,
            IsPattern = words ? form.Ticked("is-pattern") : was.IsPattern,
            Region = codes || words || code == "numbers" ? ReadRegion(form) : was.Region,
            Stays = mayVanish && code != "blank" ? form.Ticked("stays") : was.Stays,
            Duplex = mayVanish ? form.Ticked("duplex") : was.Duplex,
            EndsWithFile = form.Ticked("ends-with-file"),
            Blanks =
                code == "blank" ? was.Blanks
                : form.Ticked("drop-blanks") ? BlankPages.Drop
                : BlankPages.Keep,
            BlankShare = Share(form, "blank-share") ?? Separation.UsualBlankShare,
        };
    }

    /// <summary>Fills the blanks of a code filter, but for its region.</summary>
    public static void Write(Form form, CodeFilter filter)
    {
        form.Put("kind", [.. filter.Kinds]);
        form.Put("shortest", Text(filter.Shortest));
        form.Put("longest", Text(filter.Longest));
        form.Put("code-pattern", filter.Pattern);
        form.Put("which", Text(filter.Which));
        form.Put("on-page", Text(filter.Page));
    }

    /// <summary>The code filter that a form gives.</summary>
    public static CodeFilter ReadFilter(Form form) =>
        new()
        {
            Kinds = [.. form.All("kind").Where(k => k.Length > 0).Distinct()],
            Shortest = form.Number("shortest", "characters"),
            Longest = form.Number("longest", "characters"),
            Pattern = form.Text("code-pattern") ?? "",
            Which = form.Number("which", "codes"),
            Page = form.Number("on-page", "pages"),
            // A stack is asked for a code or for words, never for both: one region serves.
            Region = ReadRegion(form),
        };

    private static void Write(Form form, Box region)
    {
        form.Put("left", Percent(region.X));
        form.Put("top", Percent(region.Y));
        form.Put("width", Percent(region.W));
        form.Put("height", Percent(region.H));
    }

    private static Box? ReadRegion(Form form) =>
        Share(form, "width") is { } width && Share(form, "height") is { } height
            ? new Box(Share(form, "left") ?? 0, Share(form, "top") ?? 0, width, height)
            : null;

    private static double? Share(Form form, string name)
    {
        if (form.Text(name) is not { } text)
            return null;
        if (
            double.TryParse(text.TrimEnd('%', ' '), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var percent)
            && percent is >= 0 and <= 100
        )
            return percent / 100;
        form.Refuse(name, $"“{text}” is not a percentage between 0 and 100.");
        return null;
    }

    private static string? Text(int? number) => number?.ToString(CultureInfo.InvariantCulture);

    private static string Percent(double share) => (share * 100).ToString("0.##", CultureInfo.InvariantCulture);
}
