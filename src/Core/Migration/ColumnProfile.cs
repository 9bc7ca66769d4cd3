using System.Runtime.InteropServices;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Migration;

/// <summary>What stands in one column of an inventory.</summary>
/// <param name="Name">The column's heading.</param>
/// <param name="Rows">Rows seen.</param>
/// <param name="Filled">Rows with more than blanks in the column.</param>
/// <param name="Distinct">Different values; at most <see cref="ColumnProfiler.Cap"/> are told apart.</param>
/// <param name="Capped">Whether there are more different values than were told apart.</param>
/// <param name="Longest">Characters of the longest value.</param>
/// <param name="Commonest">The commonest values with their counts.</param>
/// <param name="Shapes">The commonest value shapes with their counts and an example.</param>
public sealed record ColumnProfile(
    string Name,
    long Rows,
    long Filled,
    int Distinct,
    bool Capped,
    int Longest,
    IReadOnlyList<ValueCount> Commonest,
    IReadOnlyList<ShapeCount> Shapes
);

/// <summary>A value and how often it occurs.</summary>
/// <param name="Value">The value.</param>
/// <param name="Count">Rows.</param>
public sealed record ValueCount(string Value, long Count);

/// <summary>A shape such as <c>AA-9999</c> and how often it occurs.</summary>
/// <param name="Shape">Upper-case letters as A, others as a, digits as 9, everything else as it is.</param>
/// <param name="Count">Rows.</param>
/// <param name="Example">A value of that shape.</param>
public sealed record ShapeCount(string Shape, long Count, string Example);

/// <summary>Profiles one column as its values stream by, in bounded memory.</summary>
public sealed class ColumnProfiler(string name)
{
    /// <summary>Most different values, and most different shapes, that are counted one by one.</summary>
    public const int Cap = 50_000;

    private readonly Dictionary<string, long> _values = new(StringComparer.Ordinal);
    private readonly Dictionary<string, (long Count, string Example)> _shapes = new(StringComparer.Ordinal);
    private long _rows,
        _filled;
    private int _longest;
    private bool _capped;

    /// <summary>Takes the value of the next row.</summary>
    public void Add(ReadOnlySpan<char> value)
    {
        _rows++;
        value = value.Trim();
        if (value.Length == 0)
            return;
        _filled++;
        _longest = Math.Max(_longest, value.Length);
        var values = _values.GetAlternateLookup<ReadOnlySpan<char>>();
        ref var count = ref _values.Count < Cap
            ? ref CollectionsMarshal.GetValueRefOrAddDefault(values, value, out _)
            : ref CollectionsMarshal.GetValueRefOrNullRef(values, value);
        if (System.Runtime.CompilerServices.Unsafe.IsNullRef(ref count))
            _capped = true;
        else
            count++;
        AddShape(value);
    }

    private void AddShape(ReadOnlySpan<char> value)
    {
        Span<char> shape = stackalloc char[48];
        var n = Shape(value, shape);
        var shapes = _shapes.GetAlternateLookup<ReadOnlySpan<char>>();
        if (_shapes.Count >= Cap && !shapes.ContainsKey(shape[..n]))
            return;
        ref var entry = ref CollectionsMarshal.GetValueRefOrAddDefault(shapes, shape[..n], out var known);
        entry = (entry.Count + 1, known ? entry.Example : Vocabularies.CodePoints.First(value.ToString(), 80));
    }

    /// <summary>The profile so far, with the given number of commonest values and shapes.</summary>
    public ColumnProfile Finish(int top = 5) =>
        new(
            name,
            _rows,
            _filled,
            _values.Count,
            _capped,
            _longest,
            [
                .. _values
                    .OrderByDescending(v => v.Value)
                    .ThenBy(v => v.Key, StringComparer.Ordinal)
                    .Take(top)
                    .Select(v => new ValueCount(v.Key, v.Value)),
            ],
            [
                .. _shapes
                    .OrderByDescending(s => s.Value.Count)
                    .ThenBy(s => s.Key, StringComparer.Ordinal)
                    .Take(top)
                    .Select(s => new ShapeCount(s.Key, s.Value.Count, s.Value.Example)),
            ]
        );

    /// <summary>Writes the shape of a value and returns its length; a value longer than the buffer ends in <c>…</c>.</summary>
    public static int Shape(ReadOnlySpan<char> value, Span<char> into)
    {
        var n = Math.Min(value.Length, into.Length);
        for (var i = 0; i < n; i++)
        {
            var c = value[i];
            into[i] =
                char.IsAsciiDigit(c) ? '9'
                : char.IsUpper(c) ? 'A'
                : char.IsLetter(c) ? 'a'
                : c;
        }
        if (value.Length > into.Length)
            into[^1] = '…';
        return n;
    }
}
