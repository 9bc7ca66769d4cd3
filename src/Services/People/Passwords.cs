using System.Security.Cryptography;

namespace ClearLexicon.Services.People;

/// <summary>Which passwords are taken, and words that stand for one until it is replaced.</summary>
public static class Passwords
{
    /// <summary>Shortest password taken, in characters.</summary>
    public const int Least = 10;

    /// <summary>Longest password taken, in characters; hashing takes time with length.</summary>
    public const int Most = 200;

    // Bits of chance below which a password is among the first that anybody tries.
    private const double LeastEntropy = 24;

    // No 0, 1, I, O: the word is read aloud or typed from paper.
    private const string Letters = "abcdefghjkmnpqrstuvwxyz23456789";

    /// <summary>Why a password is not taken, in one sentence; null when it is.</summary>
    /// <param name="password">The password.</param>
    /// <param name="name">Name of the person, which is no part of a good one.</param>
    public static string? Error(string password, string name)
    {
        if (password.Length < Least)
            return $"The password needs at least {Least} characters.";
        if (password.Length > Most)
            return $"The password can have at most {Most} characters.";
        if (password.All(char.IsWhiteSpace))
            return "The password cannot be only spaces.";
        if (password.Distinct().Count() < 4)
            return "The password repeats the same few characters; choose another.";
        var judged = new Zxcvbn.Zxcvbn().EvaluatePassword(
            password[..Math.Min(password.Length, 64)],
            [.. name.ToLowerInvariant().Split(' '), "clear", "lexicon"]
        );
        return judged.Entropy < LeastEntropy ? "This password is among the first that anybody would try; choose another." : null;
    }

    /// <summary>A word of twelve letters and digits in groups of four.</summary>
    public static string OneTimeWord() => string.Join('-', Enumerable.Range(0, 3).Select(_ => RandomNumberGenerator.GetString(Letters, 4)));
}
