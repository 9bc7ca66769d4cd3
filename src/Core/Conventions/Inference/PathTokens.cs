using System.Text;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Conventions.Inference;

/// <summary>What a run of characters in a name is.</summary>
internal enum TokenKind
{
    /// <summary>Words with single blanks between them.</summary>
    Words,

    /// <summary>Digits.</summary>
    Digits,

    /// <summary>One blank or sign.</summary>
    Sign,
}

/// <summary>A run of characters in a name.</summary>
internal readonly record struct Token(TokenKind Kind, string Text);

/// <summary>Divides names where people do: between words, digits and signs.</summary>
internal static class PathTokens
{
    /// <summary>Tokens of one folder or file name.</summary>
    public static List<Token> Of(string name)
    {
        var tokens = new List<Token>();
        for (var i = 0; i < name.Length; )
        {
            var start = i;
            if (char.IsAsciiDigit(name[i]))
            {
                while (i < name.Length && char.IsAsciiDigit(name[i]))
                    i++;
                tokens.Add(new Token(TokenKind.Digits, name[start..i]));
            }
            else if (IsWord(name, i))
            {
                while (
                    i < name.Length && (IsWord(name, i) || (name[i] is ' ' or '\'' or '’' && i + 1 < name.Length && IsWord(name, i + 1)))
                )
                    i++;
                tokens.Add(new Token(TokenKind.Words, name[start..i]));
            }
            else
                tokens.Add(new Token(TokenKind.Sign, name[i++..(start + 1)]));
        }
        return tokens;
    }

    private static bool IsWord(string text, int at) =>
        char.IsLetter(text[at])
        || char.IsSurrogate(text[at])
        || (text[at] > 127 && !char.IsDigit(text[at]) && !char.IsPunctuation(text[at]) && !char.IsWhiteSpace(text[at]));

    /// <summary>The form of a name: <c>T</c> for words, <c>9</c> for digits, signs as they are.</summary>
    public static string FormOf(List<Token> tokens)
    {
        var form = new StringBuilder(tokens.Count);
        foreach (var (kind, text) in tokens)
            form.Append(
                kind == TokenKind.Words ? "T"
                : kind == TokenKind.Digits ? "9"
                : text
            );
        return form.ToString();
    }
}
