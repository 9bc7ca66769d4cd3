using System.Buffers;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Formats;

/// <summary>
/// Writes CSV (RFC 4180) that spreadsheets open as text: a cell that begins with <c>= + - @</c>, tab or carriage return
/// would be run as a formula there, so it gets an apostrophe in front, unless it is a number or an amount.
/// </summary>
public static class SafeCsv
{
    private static readonly SearchValues<char> Quoting = SearchValues.Create("\",\r\n;");

    /// <summary>Writes one line.</summary>
    public static void WriteLine(TextWriter writer, IEnumerable<string> cells)
    {
        var first = true;
        foreach (var cell in cells)
        {
            if (!first)
                writer.Write(',');
            first = false;
            writer.Write(Cell(cell));
        }
        writer.Write("\r\n");
    }

    /// <summary>One cell as it is written.</summary>
    public static string Cell(string text)
    {
        if (
            text.Length > 0
            && text[0] is '=' or '+' or '-' or '@' or '\t' or '\r'
            && (text.Trim() != text || Numbers.Typed(Currencies.Divided(text).Number) is null)
        )
            text = "'" + text;
        return text.AsSpan().IndexOfAny(Quoting) < 0 ? text : $"\"{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
    }
}
