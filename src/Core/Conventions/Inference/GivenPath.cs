using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions.Inference;

/// <summary>A path as somebody wrote it, brought to folders and name below a root.</summary>
/// <param name="Line">Line number in what was pasted, from 1.</param>
/// <param name="Levels">Folders from the root on, then the name without extension.</param>
/// <param name="Extension">Extension without its dot; empty for none.</param>
public sealed record GivenPath(int Line, string[] Levels, string Extension)
{
    /// <summary>Longest line that is looked at.</summary>
    public const int Longest = 4_000;

    /// <summary>Folders and name separated by <c>/</c>, without extension.</summary>
    public string Path => string.Join('/', Levels);

    /// <summary>Reads one line: drive letters, share names and addresses before the path are left out.</summary>
    /// <returns>The path, or why it cannot be one.</returns>
    public static (GivenPath? Path, string? Problem) Read(string text, int line, PathLimits limits)
    {
        // Listings of some systems write letters and their accents apart.
        text = (Vocabularies.CodePoints.AreSound(text) ? text.Normalize(System.Text.NormalizationForm.FormC) : text)
            .Trim()
            .Trim('"')
            .Trim();
        if (text.Length == 0)
            return (null, "is empty");
        if (text.Length > Longest)
            return (null, $"has {text.Length} characters; a path has {Longest} at most");
        if (text.Contains("://", StringComparison.Ordinal))
        {
            if (!Uri.TryCreate(text, UriKind.Absolute, out var address))
                return (null, "is not an address that can be read");
            text = Uri.UnescapeDataString(address.AbsolutePath);
        }
        text = text.Replace('\\', '/');
        // \\server\share\folder: the first two names are no folders.
        if (text.StartsWith("//", StringComparison.Ordinal))
            text = string.Join('/', text[2..].Split('/').Skip(2));
        else if (text.Length > 1 && text[1] == ':' && char.IsAsciiLetter(text[0]))
            text = text[2..];
        if (text.EndsWith('/') || text.Length == 0)
            return (null, "names a folder, not a file");
        var levels = text.Split('/', StringSplitOptions.RemoveEmptyEntries);
        if (levels.Any(l => l is "." or ".."))
            return (null, "goes up or stays with . or ..; write the whole path");
        var dot = levels[^1].LastIndexOf('.');
        var extension =
            dot > 0
            && levels[^1].Length - dot <= 6
            && levels[^1][(dot + 1)..] is { } end
            && end.All(char.IsAsciiLetterOrDigit)
            && end.Any(char.IsAsciiLetter)
                ? end
                : "";
        if (extension.Length > 0)
            levels[^1] = levels[^1][..dot];
        foreach (var level in levels)
        {
            if (level.Any(limits.Refuses) || limits.Clean(level) != level)
                return (null, $"“{Short(level)}” holds characters that a {limits.Name} refuses or respells");
            if (level[^1] is ' ' or '.' || level[0] == ' ')
                return (null, $"“{Short(level)}” begins or ends with a blank or ends with a dot");
            if (limits.Finding(level) is { } finding)
                return (null, finding.In(Rules.Messages.English));
        }
        return (new GivenPath(line, levels, extension), null);
    }

    private static string Short(string text) => text.Length > 40 ? PieceText.Cut(text, 40) + "…" : text;
}
