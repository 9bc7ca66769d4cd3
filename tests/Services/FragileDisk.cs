namespace ClearLexicon.Services.Tests;

/// <summary>A disk that forgets, at a power cut, what nobody has waited for: the content of files, and the names in folders.</summary>
internal sealed class FragileDisk : Disk
{
    private readonly HashSet<string> _content = [];
    private readonly List<(string From, string To)> _moves = [];

    public override void Move(string from, string to)
    {
        base.Move(from, to);
        if (_content.Remove(from))
            _content.Add(to);
        _moves.Add((from, to));
    }

    public override void Copy(string from, string to)
    {
        base.Copy(from, to);
        _content.Add(to);
    }

    public override void FlushFile(string path)
    {
        base.FlushFile(path);
        _content.Remove(path);
    }

    public override void FlushFolders(string folder, string root)
    {
        base.FlushFolders(folder, root);
        _moves.RemoveAll(m => Path.GetDirectoryName(m.To)!.StartsWith(folder, StringComparison.Ordinal));
    }

    /// <summary>The power fails: what was not flushed is as it was before, or empty.</summary>
    public void Cut()
    {
        foreach (var path in _content)
            File.WriteAllBytes(path, []);
        foreach (var (from, to) in Enumerable.Reverse(_moves))
            File.Move(to, from);
        _content.Clear();
        _moves.Clear();
    }
}
