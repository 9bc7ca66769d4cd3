using System.Buffers;
using System.Globalization;
using System.Text;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Conventions;

/// <summary>Builds one line of a path in a buffer on the stack, moving to the pool when it grows.</summary>
internal ref struct PathWriter(Span<char> buffer, PathLimits limits, SearchValues<char> plain)
{
    private Span<char> _out = buffer;
    private char[]? _rented;
    private int _length;
    private int _segmentStart;
    private bool _beyondAscii;

    public readonly int Length => _length;

    /// <summary>Whether the segment holds nothing but blanks and dots.</summary>
    public readonly bool IsBlank => _out[_segmentStart.._length].Trim(" .").Length == 0;

    public void Literal(ReadOnlySpan<char> text)
    {
        if (_length + text.Length > _out.Length)
            Grow(text.Length);
        text.CopyTo(_out[_length..]);
        _length += text.Length;
    }

    public void Separator()
    {
        EndSegment();
        Literal("/");
        _segmentStart = _length;
    }

    public void Number(long number, int digits)
    {
        if (_out.Length - _length < Math.Max(24, digits))
            Grow(Math.Max(24, digits));
        number.TryFormat(_out[_length..], out var written, default, CultureInfo.InvariantCulture);
        // Zeros go before the digits.
        if (written < digits)
        {
            _out.Slice(_length, written).CopyTo(_out[(_length + digits - written)..]);
            _out.Slice(_length, digits - written).Fill('0');
            written = digits;
        }
        _length += written;
    }

    public void Date(DateOnly date, string form, CultureInfo culture)
    {
        if (_out.Length - _length < 64)
            Grow(64);
        date.TryFormat(_out[_length..], out var written, form, culture);
        var text = _out.Slice(_length, written);
        if (text.IndexOfAnyExcept(plain) >= 0)
            Value(text.ToString());
        else
            _length += written;
    }

    /// <summary>Appends a value's text as the limits allow it.</summary>
    public void Value(string text)
    {
        if (text.AsSpan().IndexOfAnyExcept(plain) < 0)
        {
            Literal(text);
            return;
        }
        var clean = limits.Clean(text);
        _beyondAscii |= !Ascii.IsValid(clean);
        Literal(clean);
    }

    /// <summary>Marks that a literal beyond ASCII was written.</summary>
    public void BeyondAscii() => _beyondAscii = true;

    /// <summary>Drops blanks and dots at the ends of the segment, which file systems drop silently, unless it is nothing else.</summary>
    public void EndSegment()
    {
        var segment = _out[_segmentStart.._length];
        if (segment.Length == 0 || (segment[^1] is not (' ' or '.') && segment[0] != ' '))
            return;
        var end = segment.TrimEnd(" .");
        var kept = end.TrimStart(' ');
        if (kept.Length == 0)
            return;
        kept.CopyTo(_out[_segmentStart..]);
        _length = _segmentStart + kept.Length;
    }

    /// <summary>The line written, in the normal form of the limits; the next line begins.</summary>
    public string Take()
    {
        EndSegment();
        var text = _out[.._length].ToString();
        if (_beyondAscii)
        {
            var form = limits.Decomposed ? NormalizationForm.FormD : NormalizationForm.FormC;
            if (!CodePoints.AreSound(text) || !text.IsNormalized(form))
                text = CodePoints.Normal(text, form);
        }
        (_length, _segmentStart, _beyondAscii) = (0, 0, false);
        return text;
    }

    public void Dispose()
    {
        if (_rented is not null)
            ArrayPool<char>.Shared.Return(_rented);
        _rented = null;
    }

    private void Grow(int more)
    {
        var larger = ArrayPool<char>.Shared.Rent(Math.Max(_out.Length * 2, _length + more));
        _out[.._length].CopyTo(larger);
        if (_rented is not null)
            ArrayPool<char>.Shared.Return(_rented);
        _out = _rented = larger;
    }
}
