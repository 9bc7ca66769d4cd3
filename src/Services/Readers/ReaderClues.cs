using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Formats;

namespace ClearLexicon.Services.Readers;

/// <summary>What a reader claims a page by, and what tells it how the page lies.</summary>
public sealed class ReaderClues(TaughtReaders readers, DataFolder folder)
{
    /// <summary>Most clues, and most landmarks, of one reader.</summary>
    public const int Most = 40;

    /// <summary>Marks words as a clue. Words that are a clue already stop being one.</summary>
    public Result Toggle(string key, string text, Box box, string who) =>
        readers.Change(
            key,
            "marked a clue",
            who,
            reader => Toggled(reader.Clues, new Clue(text.Trim(), box.OnPage()), clues => reader with { Clues = clues })
        );

    /// <summary>Marks words as a landmark. Words that are one already stop being one; zones that followed it follow all.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="text">The words.</param>
    /// <param name="box">Where they stand.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="on">What page of a document they stand on.</param>
    public Result ToggleLandmark(string key, string text, Box box, string who, PageRole on = PageRole.First) =>
        readers.Change(
            key,
            "marked a landmark",
            who,
            reader =>
                Toggled(
                    reader.Landmarks,
                    new Clue(text.Trim(), box.OnPage()) { On = on },
                    landmarks =>
                        reader with
                        {
                            Landmarks = landmarks,
                            Zones =
                            [
                                .. reader.Zones.Select(z =>
                                    z.Follows is "" or Zone.Nearest || landmarks.Any(l => l.Text == z.Follows) ? z : z with { Follows = "" }
                                ),
                            ],
                        }
                )
        );

    private static Result<Reader> Toggled(IReadOnlyList<Clue> marks, Clue clue, Func<IReadOnlyList<Clue>, Reader> keep)
    {
        if (marks.FirstOrDefault(c => c.Text == clue.Text && c.Box.Overlaps(clue.Box)) is { } same)
            return keep([.. marks.Where(c => c != same)]);
        return clue.Finding is { } finding ? Result<Reader>.Not(finding)
            : marks.Count >= Most ? Result<Reader>.Not($"A reader has at most {Most} of them.")
            : keep([.. marks, clue]);
    }

    /// <summary>Adds a code as a clue.</summary>
    public Result AddCode(string key, string name, CodeFilter filter, string who) =>
        Add(key, new Clue(name.Trim().Length > 0 ? name.Trim() : "code", default) { Kind = ClueKind.Code, Code = filter }, who);

    /// <summary>Adds a region of a sample that is always the same as a clue.</summary>
    public Result AddPicture(string key, long sampleId, string name, Box region, string who)
    {
        if (readers.Sample(sampleId) is not { } sample || sample.ReaderKey != key)
            return "This reader has no such sample.";
        using var pictures = new PagePictures(_ => folder.Absolute(sample.Image));
        var (patch, problem) = pictures.Cut(1, region);
        return problem is not null
            ? (Result)problem
            : Add(
                key,
                new Clue(name.Trim().Length > 0 ? name.Trim() : "picture", region.OnPage()) { Kind = ClueKind.Picture, Picture = patch },
                who
            );
    }

    private Result Add(string key, Clue clue, string who) =>
        readers.Change(
            key,
            "added a clue",
            who,
            reader =>
                clue.Finding is { } finding ? Result<Reader>.Not(finding)
                : clue.Text.Length > Clue.Longest ? Result<Reader>.Not($"Write a name of at most {Clue.Longest} characters.")
                : reader.Clues.Count >= Most ? Result<Reader>.Not($"A reader has at most {Most} clues.")
                : reader with { Clues = [.. reader.Clues, clue] }
        );

    /// <summary>Changes how a clue is asked for.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="at">Position of the clue, from 0.</param>
    /// <param name="text">Its text as the person saw it; when another stands there now, nothing is changed.</param>
    /// <param name="edit">Makes the new clue of the one before.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="guard">Says why it must not be put in place of what is there; null when it may.</param>
    public Result Set(string key, int at, string text, Func<Clue, Clue> edit, string who, Func<Clue?, string?>? guard = null) =>
        At(
            key,
            at,
            text,
            "changed a clue",
            who,
            (reader, clue) =>
                guard?.Invoke(clue) is { } by ? Result<Reader>.Not(by)
                : edit(clue) is var changed && changed.Finding is { } finding ? Result<Reader>.Not(finding)
                : reader with { Clues = [.. reader.Clues.Select((c, i) => i == at ? changed : c)] }
        );

    /// <summary>Removes a clue.</summary>
    public Result Remove(string key, int at, string text, string who) =>
        At(key, at, text, "removed a clue", who, (reader, clue) => reader with { Clues = [.. reader.Clues.Where((_, i) => i != at)] });

    private Result At(string key, int at, string text, string change, string who, Func<Reader, Clue, Result<Reader>> edit) =>
        readers.Change(
            key,
            change,
            who,
            reader =>
                at >= 0 && at < reader.Clues.Count && reader.Clues[at] is var clue && clue.Text == text
                    ? edit(reader, clue)
                    : Result<Reader>.Not("The clues have changed in the meantime; look at them again.")
        );

    /// <summary>Says what a zone moves with.</summary>
    public Result SetFollows(string key, string zone, string follows, string who) =>
        readers.Change(
            key,
            "set what a zone follows",
            who,
            reader =>
                follows is not ("" or Zone.Nearest) && reader.Landmarks.All(l => l.Text != follows)
                    ? Result<Reader>.Not($"There is no landmark “{follows}”.")
                    : reader with
                    {
                        Zones = [.. reader.Zones.Select(z => z.Key == zone ? z with { Follows = follows } : z)],
                    }
        );
}
