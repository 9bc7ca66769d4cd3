using System.Security.Cryptography;
using System.Text.Json;

namespace ClearLexicon.Web.Pages;

/// <summary>What a part of a design was when its form was opened, so that a change by somebody else in between is noticed.</summary>
internal static class Seen
{
    /// <summary>A short mark of a part as it is; empty for none.</summary>
    public static string Of<T>(T? part) =>
        part is null ? "" : Convert.ToHexStringLower(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(part)))[..16];

    /// <summary>Why a change must not be made unasked; null when the part is as it was seen.</summary>
    /// <param name="seen">The mark that the form was opened with; empty when it has none.</param>
    /// <param name="part">The part as it is now; null when it is gone.</param>
    /// <param name="what">What it is called.</param>
    /// <param name="last">Who did what last.</param>
    public static string? Changed<T>(string seen, T? part, string what, Func<string> last) =>
        seen.Length == 0 || seen == Of(part) ? null
        : part is null
            ? $"The {what} that you had open is no longer there: {last()}. What you typed stands below as a new one; nothing is lost."
        : $"This {what} is not as you opened it: {last()}. What you typed is kept below; sending it again puts it in place of theirs.";
}
