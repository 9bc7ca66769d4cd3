using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Conventions.Inference;

/// <summary>A part of one level that stands in every row: what varies, or the same text everywhere.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Values">Its text by row; null where a row has another form.</param>
internal sealed record Part(TokenKind Kind, string?[] Values)
{
    /// <summary>The text when all rows have the same; null when it varies.</summary>
    public string? Constant { get; } =
        Values.OfType<string>().Distinct(StringComparer.Ordinal).Take(2).ToArray() is [var only] ? only : null;
}

/// <summary>Divides one level (the folders of one depth, or the names) into parts that all rows share.</summary>
internal static class LevelParts
{
    private const int MostForms = 30;

    /// <summary>
    /// The ways to divide a level, the most telling first: by its commonest form, by what all forms have in common, as one text.
    /// </summary>
    public static IEnumerable<List<Part>> Ways(string[] names)
    {
        var tokens = Array.ConvertAll(names, PathTokens.Of);
        var forms = tokens
            .Select((t, row) => (Form: PathTokens.FormOf(t), Row: row))
            .GroupBy(t => t.Form, t => t.Row)
            .OrderByDescending(g => g.Count())
            .ThenBy(g => g.Key, StringComparer.Ordinal)
            .ToList();
        yield return ByForm(tokens, forms[0]);
        if (forms.Count > 1 && ByCommon(tokens, [.. forms.Take(MostForms).Select(f => tokens[f.First()])]) is { Count: > 1 } common)
            yield return common;
        yield return [new Part(TokenKind.Words, names)];
    }

    private static List<Part> ByForm(List<Token>[] tokens, IEnumerable<int> rows)
    {
        var first = tokens[rows.First()];
        var values = first.Select(_ => new string?[tokens.Length]).ToArray();
        foreach (var row in rows)
            for (var i = 0; i < values.Length; i++)
                values[i][row] = tokens[row][i].Text;
        return [.. first.Select((t, i) => new Part(t.Kind, values[i]))];
    }

    // Tokens that stand in all forms in one order are fixed; what lies between them varies.
    private static List<Part>? ByCommon(List<Token>[] tokens, List<Token>[] forms)
    {
        var common = forms.Skip(1).Aggregate(forms[0], Common);
        if (common.Count == 0)
            return null;
        var gaps = Enumerable.Range(0, common.Count + 1).Select(_ => new string?[tokens.Length]).ToArray();
        for (var row = 0; row < tokens.Length; row++)
            if (Between(tokens[row], common) is { } between)
                for (var i = 0; i < gaps.Length; i++)
                    gaps[i][row] = between[i];
        var parts = new List<Part>();
        for (var i = 0; i < gaps.Length; i++)
        {
            if (gaps[i].Any(g => g is { Length: > 0 }))
                parts.Add(new Part(gaps[i].All(g => g is null || g.All(char.IsAsciiDigit)) ? TokenKind.Digits : TokenKind.Words, gaps[i]));
            if (i < common.Count)
                parts.Add(new Part(common[i].Kind, [.. gaps[i].Select(g => g is null ? null : common[i].Text)]));
        }
        return parts;
    }

    private static string[]? Between(List<Token> tokens, List<Token> common)
    {
        var between = new string[common.Count + 1];
        var at = 0;
        for (var i = 0; i < common.Count; i++)
        {
            var next = at;
            while (next < tokens.Count && tokens[next] != common[i])
                next++;
            if (next == tokens.Count)
                return null;
            between[i] = string.Concat(tokens.Skip(at).Take(next - at).Select(t => t.Text));
            at = next + 1;
        }
        between[^1] = string.Concat(tokens.Skip(at).Select(t => t.Text));
        return between;
    }

    private static List<Token> Common(List<Token> a, List<Token> b)
    {
        var length = new int[a.Count + 1, b.Count + 1];
        for (var i = a.Count - 1; i >= 0; i--)
        for (var j = b.Count - 1; j >= 0; j--)
            length[i, j] = a[i] == b[j] ? length[i + 1, j + 1] + 1 : Math.Max(length[i + 1, j], length[i, j + 1]);
        var common = new List<Token>();
        for (int i = 0, j = 0; i < a.Count && j < b.Count; )
            if (a[i] == b[j])
            {
                common.Add(a[i]);
                i++;
                j++;
            }
            else if (length[i + 1, j] >= length[i, j + 1])
                i++;
            else
                j++;
        return common;
    }
}
