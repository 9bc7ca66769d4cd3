namespace ClearLexicon.Core.Conventions;

/// <summary>One step of an arrangement: a piece, or a literal that stays after separators were dropped.</summary>
/// <param name="At">Position of the piece among all pieces, folder first; -1 for a separator between folders.</param>
/// <param name="Literal">The text of a literal step.</param>
internal readonly record struct Step(int At, string? Literal);

/// <summary>
/// The two lines of a convention with some pieces left out: the separators next to them are gone too, and folders that would be
/// empty. Rendering and reading backwards both follow it.
/// </summary>
/// <param name="Folder">Steps of the folder line; null literals are pieces, <c>At</c> -1 goes a folder deeper.</param>
/// <param name="Name">Steps of the name line.</param>
internal sealed record Arrangement(Step[] Folder, Step[] Name)
{
    /// <summary>Arranges a convention.</summary>
    /// <param name="folder">Pieces of the folder line, literals already cleaned.</param>
    /// <param name="name">Pieces of the name line.</param>
    /// <param name="isOut">Whether the piece at a position is left out.</param>
    public static Arrangement Of(IReadOnlyList<Piece> folder, IReadOnlyList<Piece> name, Func<int, bool> isOut)
    {
        var steps = new List<Step>();
        var segment = new List<Step>();
        var anyOut = false;
        for (var i = 0; i <= folder.Count; i++)
        {
            if (i < folder.Count && folder[i].Kind != PieceKind.Inside)
            {
                anyOut |= isOut(i);
                segment.Add(new Step(i, folder[i].Kind == PieceKind.Text ? folder[i].Text : null));
                continue;
            }
            // An empty folder stays to be reported unless leaving out has emptied it.
            var kept = Close(segment, isOut);
            if (kept.Count > 0 || !anyOut)
            {
                if (steps.Count > 0 || i < folder.Count && kept.Count == 0)
                    steps.Add(new Step(-1, "/"));
                steps.AddRange(kept);
            }
            segment.Clear();
            anyOut = false;
        }
        segment.AddRange(
            name.Select(
                (p, i) =>
                    new Step(
                        folder.Count + i,
                        p.Kind == PieceKind.Text ? p.Text
                            : p.Kind == PieceKind.Inside ? "/"
                            : null
                    )
            )
        );
        return new Arrangement([.. steps], [.. Close(segment, isOut)]);
    }

    // Leaves pieces out of one segment together with a separator each.
    private static List<Step> Close(List<Step> segment, Func<int, bool> isOut)
    {
        var kept = new List<Step>();
        var skip = 0;
        for (var i = 0; i < segment.Count; i++)
        {
            var step = segment[i];
            if (!isOut(step.At))
            {
                kept.Add(skip > 0 && step.Literal is { } text ? step with { Literal = text[Math.Min(skip, text.Length)..] } : step);
                skip = 0;
                continue;
            }
            if (step.Literal is not null)
            {
                skip = 0;
                continue;
            }
            var next = i + 1 < segment.Count && segment[i + 1].Literal is { } n && !isOut(segment[i + 1].At) ? n : "";
            if (kept is [.., { Literal: { Length: > 0 } before } last] && Trailing(before) is > 0 and var drop)
            {
                kept[^1] = last with { Literal = before[..^drop] };
                // Brackets around it go together.
                skip = before[^1] is '(' or '[' or '{' && next.Length > 0 && next[0] == Closing(before[^1]) ? 1 : 0;
            }
            else if (kept.All(k => k.Literal?.Length == 0))
                skip = Leading(next);
        }
        return Trimmed([.. kept.Where(k => k.Literal?.Length != 0)]);
    }

    // Blanks at the ends, and dots at the end, are not written; what is nothing else stays to be reported.
    private static List<Step> Trimmed(List<Step> kept)
    {
        if (kept.All(k => k.Literal is not null && k.Literal.Trim(' ', '.').Length == 0))
            return kept;
        while (kept[0].Literal is { } first && first.TrimStart(' ') is var start && start.Length < first.Length)
            if (start.Length > 0)
                kept[0] = kept[0] with { Literal = start };
            else
                kept.RemoveAt(0);
        while (kept[^1].Literal is { } last && last.TrimEnd(' ', '.') is var end && end.Length < last.Length)
            if (end.Length > 0)
                kept[^1] = kept[^1] with { Literal = end };
            else
                kept.RemoveAt(kept.Count - 1);
        return kept;
    }

    // How many characters at the end of a text are separators; what closes or belongs to the value before it (“)”, “%”) is none.
    private static int Trailing(string text)
    {
        var n = 0;
        while (n < text.Length && Separators.Contains(text[^(n + 1)]))
            n++;
        return n;
    }

    private static readonly System.Buffers.SearchValues<char> Separators = System.Buffers.SearchValues.Create(
        " \u00a0\u2007\u202f-\u2010\u2011\u2012\u2013\u2014_.,;:+#~=&@([{<"
    );

    private static int Leading(string text)
    {
        var n = 0;
        while (n < text.Length && !char.IsLetterOrDigit(text[n]) && text[n] is not ('(' or '[' or '{'))
            n++;
        return n;
    }

    private static char Closing(char opening) =>
        opening switch
        {
            '(' => ')',
            '[' => ']',
            _ => '}',
        };
}
