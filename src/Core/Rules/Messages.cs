namespace ClearLexicon.Core.Rules;

/// <summary>The text of every problem code. <c>{0}</c>…<c>{2}</c> are the problem's parameters.</summary>
public static class Messages
{
    private static readonly Dictionary<string, string> English = new(StringComparer.Ordinal)
    {
        ["required"] = "{0} must be filled.",
        ["not-a-whole-number"] = "“{1}” is not a whole number; write digits only, such as 1250.",
        ["not-a-number"] = "“{1}” is not a number; write it with a point, such as 1250.50.",
        ["not-a-date"] = "“{1}” is not a date; write it as 2024-03-31.",
        ["not-yes-or-no"] = "“{1}” is neither yes nor no.",
        ["unknown-term"] = "“{1}” is not in the vocabulary {2}.",
        ["retired-term"] = "“{1}” is retired from the vocabulary {2}; choose a current term.",
        ["too-short"] = "{0} has fewer than {1} characters.",
        ["too-long"] = "{0} has more than {1} characters.",
        ["pattern"] = "“{1}” does not have the form {2}.",
        ["below-least"] = "{0} is below {1}.",
        ["above-greatest"] = "{0} is above {1}.",
        ["unknown-field"] = "This document type has no field “{0}”.",
        ["not-a-value"] = "{0} must be a text, a number or true or false.",
        ["date-not-after"] = "{0} is after {1}.",
        ["adds-up"] = "The parts add up to {0}, but {1} is {2}.",
        ["imo-length"] = "An IMO ship number has seven digits; “{0}” has not.",
        ["imo-check-digit"] = "“{0}” fails its check: the last digit should be {1}.",
        ["one-filled-when"] = "One of {0} must be filled when {1} is {2}.",
        ["unique"] = "Another document already has this {0}: {1}.",
        ["path-hole"] = "{0} is empty, which would leave a hole in the path.",
        ["path-empty"] = "The convention yields no file name for this document.",
        ["path-segment-empty"] = "A folder of the path would have no name.",
        ["path-leaves-root"] = "“{0}” as a folder or file name would lead out of the repository.",
        ["path-reserved-name"] = "“{0}” is a name that file systems keep for devices.",
        ["path-segment-too-long"] = "“{0}…” is {1} characters long; a folder or file name may have {2}.",
        ["path-too-long"] = "The whole path is {0} characters long; it may have {1}.",
    };

    /// <summary>All codes that have a text.</summary>
    public static IReadOnlyCollection<string> Codes => English.Keys;

    /// <summary>The text of a code with its parameters put in.</summary>
    public static string Text(string code, string? a, string? b, string? c) =>
        English.TryGetValue(code, out var template) ? string.Format(template, a, b, c) : code;
}
