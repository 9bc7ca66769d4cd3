using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>
/// What the cells of a column have in common: one letter and two digits, a number with one decimal. A cell that is built otherwise was
/// probably misread.
/// </summary>
public sealed class ColumnShape
{
    private const int FewestCells = 6;

    /// <summary>A form is usual when so many of the cells have it; and the column has a form when so many have a usual one.</summary>
    private const double Usual = 0.12;
    private const double HasForm = 0.7;

    private static readonly Dictionary<char, char> AsDigit = new()
    {
        ['O'] = '0',
        ['o'] = '0',
        ['Q'] = '0',
        ['D'] = '0',
        ['I'] = '1',
        ['l'] = '1',
        ['i'] = '1',
        ['ı'] = '1',
        ['|'] = '1',
        ['/'] = '1',
        ['Z'] = '2',
        ['z'] = '2',
        ['a'] = '4',
        ['S'] = '5',
        ['s'] = '5',
        ['G'] = '6',
        ['B'] = '8',
        ['g'] = '9',
        ['T'] = '7',
    };

    private static readonly Dictionary<char, char> AsLetter = new()
    {
        ['0'] = 'O',
        ['1'] = 'I',
        ['2'] = 'Z',
        ['4'] = 'A',
        ['5'] = 'S',
        ['6'] = 'G',
        ['8'] = 'B',
        ['('] = 'C',
    };

    private readonly HashSet<string> _forms = new(StringComparer.Ordinal);

    /// <summary>Learns the forms of a column; one that has none lets everything pass.</summary>
    public ColumnShape(IReadOnlyCollection<string> cells)
    {
        if (cells.Count < FewestCells)
            return;
        var counted = cells.GroupBy(Form, StringComparer.Ordinal).Where(g => g.Count() >= Math.Max(2, Usual * cells.Count)).ToList();
        if (counted.Sum(g => g.Count()) >= HasForm * cells.Count)
            _forms.UnionWith(counted.Select(g => g.Key));
    }

    /// <summary>Whether the column has a form at all.</summary>
    public bool Says => _forms.Count > 0;

    /// <summary>Whether a cell is built as the others are.</summary>
    public bool Fits(string cell) => !Says || _forms.Contains(Form(cell));

    /// <summary>
    /// The cell with letters and digits that look alike swapped so that it is built as the others; null when that cannot be.
    /// </summary>
    public string? Repaired(string cell)
    {
        if (Fits(cell) || cell.Length > 40)
            return null;
        // Each sign as a letter or as a digit, whatever a usual form of the same length has there.
        var results = new HashSet<string>(StringComparer.Ordinal);
        foreach (var digits in Masks(cell.Length))
        {
            var made = new char[cell.Length];
            var able = true;
            for (var i = 0; i < made.Length && able; i++)
            {
                var c = cell[i];
                if (digits[i])
                    able = char.IsAsciiDigit(made[i] = char.IsAsciiDigit(c) ? c : AsDigit.GetValueOrDefault(c));
                else
                    able = (made[i] = char.IsAsciiDigit(c) || c == '(' ? AsLetter.GetValueOrDefault(c) : c) != '\0';
            }
            if (able && Fits(new string(made)))
                results.Add(new string(made));
        }
        return results.Count == 1 ? results.First() : null;
    }

    // Digits at the end after letters: the forms of numbered things. Other mixtures are not guessed.
    private static IEnumerable<bool[]> Masks(int length)
    {
        for (var letters = 0; letters < length; letters++)
            yield return [.. Enumerable.Range(0, length).Select(i => i >= letters)];
    }

    // Capital and small letters apart; runs of digits before a point are of any length.
    private static string Form(string cell) =>
        Regex.Replace(
            string.Concat(
                cell.Select(c =>
                    char.IsAsciiDigit(c) ? '9'
                    : char.IsUpper(c) ? 'A'
                    : char.IsLetter(c) ? 'a'
                    : c
                )
            ),
            "9+[.]",
            "9.",
            RegexOptions.NonBacktracking
        );
}
