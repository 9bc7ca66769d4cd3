using System.Globalization;
using ClearLexicon.Core.Cleaning;

namespace ClearLexicon.Core.Conventions;

/// <summary>The forms a date may take in a path.</summary>
public static class DateForms
{
    /// <summary>The form of a date whose piece states none (ISO 8601).</summary>
    public const string Iso = "yyyy-MM-dd";

    /// <summary>The form, as .NET writes it, and an example of 5 March 2024.</summary>
    public static IReadOnlyList<(string Form, string Example)> All { get; } =
    [
        (Iso, "2024-03-05"),
        ("yyyy", "2024"),
        ("yyyy-MM", "2024-03"),
        ("yyyyMMdd", "20240305"),
        ("yyyyMM", "202403"),
        ("yyMMdd", "240305"),
        ("dd.MM.yyyy", "05.03.2024"),
        ("dd-MM-yyyy", "05-03-2024"),
        ("MM-dd-yyyy", "03-05-2024"),
        ("d MMMM yyyy", "5 March 2024"),
        ("d. MMMM yyyy", "5. March 2024"),
        ("dd. MMMM yyyy", "05. March 2024"),
        ("MM MMMM", "03 March"),
        ("MMMM yyyy", "March 2024"),
        ("MMMM", "March"),
        ("MMM", "Mar"),
        ("MM", "03"),
        ("dd", "05"),
    ];

    /// <summary>Whether a form holds a month name, so that its language matters.</summary>
    public static bool HasName(string form) => form.Contains("MMM", StringComparison.Ordinal);

    /// <summary>The culture whose month names a language has; the invariant one, which is English, for null and <c>en</c>.</summary>
    public static CultureInfo CultureOf(string? language) =>
        language is null or "en" || DateReading.Languages.All(l => l.Code != language)
            ? CultureInfo.InvariantCulture
            : CultureInfo.GetCultureInfo(language);

    /// <summary>The name under which a form is offered: what it makes of 5 March 2024.</summary>
    public static string ExampleOf(string form) => All.FirstOrDefault(f => f.Form == form).Example ?? form;

    /// <summary>Whether a form tells the year, the month and the day.</summary>
    public static (bool Year, bool Month, bool Day) Tells(string form) => (form.Contains('y'), form.Contains('M'), form.Contains('d'));
}
