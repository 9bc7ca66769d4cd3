using System.Text;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Finds rows of a reference table by the beginning of any word of any cell, as somebody types; folded as all look-ups are. Rows whose cell
/// begins so stand first. All cells are one text, so that a hundred thousand rows are gone through in a few milliseconds. Immutable and
/// thread-safe.
/// </summary>
public sealed class RowSearch
{
    /// <summary>Fewest letters and digits that are looked for.</summary>
    public const int Fewest = 2;

    // Before a row, before a cell, before a further word of it: a beginning is found by the sign that stands before it.
    private const char Cell = '\u001f',
        Blank = ' ';

    private readonly IReadOnlyList<string[]> _rows;
    private readonly string _text;
    private readonly int[] _starts;

    /// <summary>Makes the text; about as large as the table.</summary>
    public RowSearch(IReadOnlyList<string[]> rows)
    {
        _rows = rows;
        _starts = new int[rows.Count];
        var text = new StringBuilder();
        for (var i = 0; i < rows.Count; i++)
        {
            _starts[i] = text.Length;
            foreach (var cell in rows[i])
                text.Append(Cell).Append(Folding.Letters(cell));
            text.Append(Cell);
        }
        _text = text.ToString();
    }

    /// <summary>
    /// Rows in which something begins with what is typed, at most so many; none for fewer than <see cref="Fewest"/> signs.
    /// </summary>
    public IReadOnlyList<string[]> Find(string typed, int most)
    {
        var folded = Folding.Letters(typed);
        if (folded.Length < Fewest)
            return [];
        var found = new List<int>();
        foreach (var before in (ReadOnlySpan<char>)[Cell, Blank])
        {
            var sought = before + folded;
            for (var at = 0; found.Count < most && (at = _text.IndexOf(sought, at, StringComparison.Ordinal)) >= 0; )
            {
                var row = Array.BinarySearch(_starts, at) is >= 0 and var exact ? exact : ~Array.BinarySearch(_starts, at) - 1;
                if (!found.Contains(row))
                    found.Add(row);
                at = row + 1 < _starts.Length ? _starts[row + 1] : _text.Length;
            }
        }
        return found.ConvertAll(r => _rows[r]);
    }

    /// <summary>
    /// The columns that tell rows apart best, without one that is shown anyway: those with the most different cells, at most two, in the
    /// order of the table.
    /// </summary>
    public static IReadOnlyList<int> TellingApart(IReadOnlyList<string[]> rows, int without) =>
        rows.Count == 0
            ? []
            :
            [
                .. Enumerable
                    .Range(0, rows[0].Length)
                    .Where(column => column != without && rows.Any(r => r[column].Length > 0))
                    .OrderByDescending(column => rows.Select(r => r[column]).Distinct(StringComparer.Ordinal).Count())
                    .ThenBy(column => column)
                    .Take(2)
                    .Order(),
            ];
}
