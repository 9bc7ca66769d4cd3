using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;

namespace ClearLexicon.Core.Designs.Threads;

/// <summary>What a thread may end at, from the page on the left to what a value leads to on the right.</summary>
public enum EndKind
{
    /// <summary>A region of a page that a value was read from.</summary>
    Region,

    /// <summary>Where a value comes from that was not read: a reference table, a default, a person.</summary>
    Source,

    /// <summary>A field.</summary>
    Field,

    /// <summary>A piece of the path.</summary>
    Piece,

    /// <summary>A rule that looks at fields.</summary>
    Rule,
}

/// <summary>One end of threads.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Key">Key of the field of a region or field, of the table or default of a source, position of a piece among all pieces, id
/// of a rule.</param>
/// <param name="Label">Its name for people; a rule's sentence.</param>
/// <param name="Value">The text that stands there; always empty for a restricted one.</param>
public sealed record ThreadEnd(EndKind Kind, string Key, string Label, string Value)
{
    /// <summary>Page of a region, from 1.</summary>
    public int Page { get; init; }

    /// <summary>Place of a region on its page.</summary>
    public Box Box { get; init; }

    /// <summary>Segment of a piece, from 0; the last one is the file name.</summary>
    public int Segment { get; init; }

    /// <summary>More about it in a few words: how it was read, what is done with a piece.</summary>
    public string Note { get; init; } = "";

    /// <summary>Whether its value is hidden from people who only search. Such a value is in no picture.</summary>
    public bool Restricted { get; init; }

    /// <summary>Why nothing comes to it although something should; null when all is well.</summary>
    public string? NoSource { get; init; }

    /// <summary>Why it leads nowhere; null when all is well.</summary>
    public string? NoUse { get; init; }

    /// <summary>Level of a rule that does not hold for the document; null when it holds.</summary>
    public Level? Broken { get; init; }

    /// <summary>Whether it is a loose end, on either side.</summary>
    public bool IsLoose => NoSource is not null || NoUse is not null;
}

/// <summary>A thread from an end on the left to one on the right; both are positions in <see cref="ThreadPicture.Ends"/>.</summary>
/// <param name="Left">The end it comes from.</param>
/// <param name="Right">The end it goes to.</param>
public readonly record struct DrawnThread(int Left, int Right);

/// <summary>One document type with one document: where each value comes from, the fields, and what they lead to.</summary>
/// <param name="Ends">All ends: regions in reading order, sources, fields, pieces and rules in the order of the design.</param>
/// <param name="Threads">The threads between them.</param>
/// <param name="Segments">The folders of the path from the top, and last the file name with its extension.</param>
public sealed record ThreadPicture(IReadOnlyList<ThreadEnd> Ends, IReadOnlyList<DrawnThread> Threads, IReadOnlyList<string> Segments)
{
    /// <summary>Positions of the ends of some kinds, in the order of the design.</summary>
    public IEnumerable<int> Of(params EndKind[] kinds) => Enumerable.Range(0, Ends.Count).Where(i => kinds.Contains(Ends[i].Kind));

    /// <summary>The loose ends.</summary>
    public IEnumerable<ThreadEnd> Loose => Ends.Where(e => e.IsLoose);

    /// <summary>
    /// The ends that the value of an end passes, itself among them: from where it was read, over its field, to each piece and rule.
    /// From a rule all its fields are followed, but not to other rules.
    /// </summary>
    public IReadOnlySet<int> Follow(int end)
    {
        HashSet<int> fields =
            Ends[end].Kind == EndKind.Field
                ? [end]
                : [.. Threads.Where(t => t.Left == end || t.Right == end).Select(t => t.Left == end ? t.Right : t.Left)];
        var followed = new HashSet<int>(fields) { end };
        foreach (var (left, right) in Threads)
        {
            if (fields.Contains(right))
                followed.Add(left);
            if (fields.Contains(left) && !(Ends[end].Kind == EndKind.Rule && Ends[right].Kind == EndKind.Rule))
                followed.Add(right);
        }
        return followed;
    }
}
