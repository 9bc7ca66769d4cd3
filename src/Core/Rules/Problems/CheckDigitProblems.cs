using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Rules;

/// <summary>A number has not as many characters as its scheme asks.</summary>
public sealed record WrongLength(string Text, string Expected, int Actual) : ProblemKind("check-length")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ hat die falsche Länge: {Expected} Zeichen statt {Actual}.",
            "fr" => $"« {Text} » n’a pas la bonne longueur : il faut {Expected} caractères, pas {Actual}.",
            _ => $"“{Text}” has the wrong length: it should have {Expected} characters, not {Actual}.",
        };
}

/// <summary>A character where it cannot stand; positions count from 1.</summary>
public sealed record WrongCharacter(string Text, string Character, int Position) : ProblemKind("check-character")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ enthält „{Character}“ an einer Stelle, wo es nicht stehen kann (Zeichen {Position}).",
            "fr" => $"« {Text} » contient « {Character} » là où il ne peut pas être (caractère {Position}).",
            _ => $"“{Text}” has “{Character}” where it is not allowed (character {Position}).",
        };
}

/// <summary>A country (ISO 3166) without such numbers.</summary>
public sealed record UnknownCountry(string Text, string Country) : ProblemKind("check-country")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ beginnt mit „{Country}“, wofür es keine solchen Nummern gibt.",
            "fr" => $"« {Text} » commence par « {Country} », pour lequel de tels numéros sont inconnus.",
            _ => $"“{Text}” begins with “{Country}”, for which no such numbers are known.",
        };
}

/// <summary>Digits that should be a date of birth and are none.</summary>
public sealed record NoBirthDate(string Text, string Digits) : ProblemKind("check-date")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ enthält in {Digits} kein Geburtsdatum.",
            "fr" => $"« {Text} » ne contient pas de date de naissance dans {Digits}.",
            _ => $"“{Text}” has no date of birth in {Digits}.",
        };
}

/// <summary>A number begins with what its scheme does not have.</summary>
public sealed record WrongPrefix(string Text, string Expected) : ProblemKind("check-prefix")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ muss mit {Expected} beginnen.",
            "fr" => $"« {Text} » doit commencer par {Expected}.",
            _ => $"“{Text}” should begin with {Expected}.",
        };
}

/// <summary>A number and its check digit disagree.</summary>
public sealed record WrongCheckDigit(string Text, string Expected) : ProblemKind("check-digit")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ besteht die Prüfung nicht: die Prüfziffer müsste {Expected} sein.",
            "fr" => $"« {Text} » échoue au contrôle : la clé devrait être {Expected}.",
            _ => $"“{Text}” fails its check: the check digit should be {Expected}.",
        };
}

/// <summary>What check-digit schemes find, as problems of a record.</summary>
internal static class CheckDigitProblems
{
    /// <summary>The problem of a number as the document wrote it.</summary>
    public static ProblemKind Of(string text, CheckProblem problem) =>
        problem switch
        {
            CheckProblem.Length length => new WrongLength(text, length.Expected, length.Actual),
            CheckProblem.Character strange => new WrongCharacter(text, strange.Strange, strange.Position),
            CheckProblem.Country country => new UnknownCountry(text, country.Code),
            CheckProblem.BirthDate date => new NoBirthDate(text, date.Digits),
            CheckProblem.Prefix prefix => new WrongPrefix(text, prefix.Expected),
            CheckProblem.Digit digit => new WrongCheckDigit(text, digit.Expected),
            _ => throw new System.Diagnostics.UnreachableException(),
        };
}
