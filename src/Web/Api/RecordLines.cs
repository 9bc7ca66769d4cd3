using System.Buffers;

namespace ClearLexicon.Web.Api;

/// <summary>
/// Reads a body line by line as bytes. A line that is longer than it may be is passed over and given as null; the next one goes on.
/// </summary>
internal sealed class RecordLines(Stream body) : IDisposable
{
    /// <summary>Longest line, in bytes.</summary>
    public const int Longest = 1_000_000;

    private byte[] _buffer = ArrayPool<byte>.Shared.Rent(64 * 1024);
    private int _start,
        _end;
    private bool _atEnd;

    /// <summary>Whether the next line has been received whole already, so that nothing is waited for.</summary>
    public bool HasNext => _buffer.AsSpan(_start, _end - _start).Contains((byte)'\n');

    /// <summary>The next line without its end; valid until the next call.</summary>
    /// <returns>False at the end of the body. A null line was too long.</returns>
    public async ValueTask<(bool Any, ReadOnlyMemory<byte>? Line)> NextAsync(CancellationToken cancel)
    {
        var skipping = false;
        for (var looked = _start; ; )
        {
            var at = _buffer.AsSpan(looked, _end - looked).IndexOf((byte)'\n');
            if (at >= 0)
            {
                var line = _buffer.AsMemory(_start, looked + at - _start);
                _start = looked + at + 1;
                // Not “null : line”, which would be an empty line: nothing converts to memory by way of no array.
                return (true, skipping || line.Length > Longest ? (ReadOnlyMemory<byte>?)null : line);
            }
            if (_end - _start > Longest)
                (skipping, _start, _end) = (true, 0, 0);
            looked = _end;
            if (_atEnd)
            {
                var (rest, any) = (_buffer.AsMemory(_start, _end - _start), _end > _start || skipping);
                _start = _end;
                return (any, skipping ? (ReadOnlyMemory<byte>?)null : rest);
            }
            if (_end == _buffer.Length)
            {
                if (_start > 0)
                {
                    _buffer.AsSpan(_start, _end - _start).CopyTo(_buffer);
                    (_start, _end, looked) = (0, _end - _start, looked - _start);
                }
                if (_end == _buffer.Length)
                    Grow();
            }
            var read = await body.ReadAsync(_buffer.AsMemory(_end), cancel);
            _end += read;
            _atEnd = read == 0;
        }
    }

    private void Grow()
    {
        var larger = ArrayPool<byte>.Shared.Rent(_buffer.Length * 2);
        _buffer.AsSpan(0, _end).CopyTo(larger);
        ArrayPool<byte>.Shared.Return(_buffer);
        _buffer = larger;
    }

    /// <inheritdoc/>
    public void Dispose() => ArrayPool<byte>.Shared.Return(_buffer);
}
