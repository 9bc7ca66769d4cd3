using System.Globalization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Conventions.Inference;

/// <summary>A piece of a proposed convention with why it was taken so.</summary>
/// <param name="Piece">The piece.</param>
/// <param name="Because">Why, in one sentence; empty for what needs none.</param>
/// <param name="Unsure">Whether somebody should look at it.</param>
/// <param name="Values">The first different texts it has in the examples.</param>
public sealed record ProposedPiece(Piece Piece, string Because, bool Unsure, IReadOnlyList<string> Values);

/// <summary>A field that a proposed convention needs and the type does not have.</summary>
/// <param name="Field">The field.</param>
/// <param name="NewTerms">Words of the vocabulary that would be made for it; empty for none.</param>
public sealed record ProposedField(Field Field, IReadOnlyList<string> NewTerms);

/// <summary>Paths of one form that a proposed convention does not explain.</summary>
/// <param name="Form">The form: T for words, 9 for digits, signs as they are.</param>
/// <param name="Count">How many.</param>
/// <param name="Sample">The first of them.</param>
public sealed record UnexplainedGroup(string Form, int Count, string Sample);

/// <summary>A convention proposed from paths as they should look.</summary>
/// <param name="Folder">Pieces of the folder line.</param>
/// <param name="Name">Pieces of the name line.</param>
/// <param name="Fields">Fields to be made.</param>
/// <param name="Paths">How many paths could be read.</param>
/// <param name="Explained">How many of them the convention gives.</param>
/// <param name="NotReadBack">Fields of which the convention does not give the value back from some of these paths, with how many.</param>
/// <param name="Unexplained">The others by their form, the largest group first.</param>
/// <param name="Refused">Lines that are no path, with the reason.</param>
/// <param name="Notes">What was found in the paths as a whole.</param>
public sealed record ProposedConvention(
    IReadOnlyList<ProposedPiece> Folder,
    IReadOnlyList<ProposedPiece> Name,
    IReadOnlyList<ProposedField> Fields,
    int Paths,
    int Explained,
    IReadOnlyList<(string Label, int Paths)> NotReadBack,
    IReadOnlyList<UnexplainedGroup> Unexplained,
    IReadOnlyList<(int Line, string Text, string Reason)> Refused,
    IReadOnlyList<string> Notes
)
{
    /// <summary>The convention itself, to which limits and collisions of the type belong.</summary>
    public Convention Convention(Convention of) =>
        of with
        {
            Folder = [.. Folder.Select(p => p.Piece)],
            Name = [.. Name.Select(p => p.Piece)],
        };
}

/// <summary>Works a convention out from paths: what is fixed, what varies, and which fields it varies with.</summary>
public static class PathInference
{
    /// <summary>Most paths of one go.</summary>
    public const int Most = 200_000;

    private const int MostLooked = 4_000;
    private const int Few = 200;

    /// <summary>Proposes a convention for a type.</summary>
    /// <param name="lines">The paths, one each.</param>
    /// <param name="type">The type; its own fields are taken where they fit.</param>
    /// <param name="convention">Its convention so far, whose limits hold.</param>
    /// <param name="vocabularies">Vocabularies by key.</param>
    /// <returns>The proposal, or why there is none.</returns>
    public static (ProposedConvention? Proposal, string? Problem) Propose(
        IReadOnlyList<string> lines,
        TypeFields type,
        Convention convention,
        IReadOnlyDictionary<string, VocabularyIndex> vocabularies
    )
    {
        if (lines.Count > Most)
            return (null, $"These are {lines.Count} paths; at most {Most} can be compared at once.");
        var limits = convention.Limits ?? PathLimits.FileShare;
        var refused = new List<(int, string, string)>();
        var paths = new List<GivenPath>(lines.Count);
        for (var i = 0; i < lines.Count; i++)
        {
            if (string.IsNullOrWhiteSpace(lines[i]))
                continue;
            var (path, problem) = GivenPath.Read(lines[i], i + 1, limits);
            if (path is not null)
                paths.Add(path);
            else
                refused.Add((i + 1, lines[i].Length > 80 ? CodePoints.First(lines[i], 80) + "…" : lines[i], problem!));
        }
        if (paths.Count == 0)
            return (
                null,
                refused is [var (line, text, why), ..]
                    ? $"No line is a path that can be used. Line {line}, “{text}”, {why}."
                    : "Write or paste some paths as they should look, one per line."
            );

        var notes = new List<string>();
        var depths = paths.GroupBy(p => p.Levels.Length).OrderByDescending(g => g.Count()).ThenByDescending(g => g.Key).ToList();
        if (depths.Count > 1)
            notes.Add(
                $"The paths are of different depth; {depths[0].Count()} of {paths.Count} have {depths[0].Key - 1} folders, which was taken."
            );
        if (paths.Select(p => p.Extension.ToLowerInvariant()).Distinct().Count() is > 1 and var kinds)
            notes.Add($"{kinds} different extensions stand in the paths; an extension is not part of a convention.");
        if (paths.Count == 1)
            notes.Add("One example does not show what varies; a second one makes this more certain.");
        var main = depths[0].ToArray();
        // A listing is looked at evenly; all of it is checked afterwards.
        var looked =
            main.Length <= MostLooked
                ? main
                : [.. Enumerable.Range(0, MostLooked).Select(i => main[(int)((long)i * main.Length / MostLooked)])];

        var (draft, readings) = Best(looked, paths, type, convention, vocabularies, notes);
        var fits = Array.ConvertAll(readings, r => r.Fits);
        var named = type with { Fields = [.. type.Fields, .. draft.Fields.Select(f => f.Field)] };
        var lost = draft
            .Folder.Concat(draft.Name)
            .Where(p => p.Piece.Kind == PieceKind.Field)
            .Select(p => p.Piece.Field)
            .Distinct(StringComparer.Ordinal)
            .Select(key =>
                (Label: named.LabelOf(key), Paths: readings.Count(r => r.Fits && (r.Unsure.Contains(key) || !r.Values.ContainsKey(key))))
            )
            .Where(l => l.Paths > 0)
            .ToList();
        var unexplained = paths
            .Where((_, i) => !fits[i])
            .GroupBy(p => string.Join('/', p.Levels.Select(l => PathTokens.FormOf(PathTokens.Of(l)))))
            .OrderByDescending(g => g.Count())
            .Select(g => new UnexplainedGroup(g.Key.Length > 120 ? CodePoints.First(g.Key, 120) + "…" : g.Key, g.Count(), g.First().Path))
            .ToList();
        if (
            draft
                .Folder.Concat(draft.Name)
                .All(p => p.Piece.Kind != PieceKind.Text && p.Piece.Kind != PieceKind.Inside ? p.Unsure : p.Piece.Kind == PieceKind.Inside)
            && paths.Count > 1
        )
            notes.Add(
                "These examples have no structure in common, so each folder and name was taken as text. Examples that are alike show more."
            );
        return (
            new ProposedConvention(
                draft.Folder,
                draft.Name,
                draft.Fields,
                paths.Count,
                fits.Count(f => f),
                lost,
                unexplained,
                refused,
                notes
            ),
            null
        );
    }

    // The ways to divide the levels are tried from the most telling to the plainest, until enough is explained: a small set of
    // examples whole, of a listing four fifths.
    private static (Draft Draft, PathReading[] Readings) Best(
        GivenPath[] looked,
        List<GivenPath> paths,
        TypeFields type,
        Convention convention,
        IReadOnlyDictionary<string, VocabularyIndex> vocabularies,
        List<string> notes
    )
    {
        var depth = looked[0].Levels.Length;
        // Numbers in brackets that only some names end with tell equal names apart; that is no piece.
        var numbered = looked.Count(p => NumberAtEnd(p.Levels[^1]) > 0);
        var strip = numbered > 0 && numbered < looked.Length && looked.Any(p => CollisionSuffix(p.Levels[^1]) > 0);
        if (strip)
            notes.Add("Some names end with a number in brackets: the number that tells equal names apart.");
        var ways = Enumerable
            .Range(0, depth)
            .Select(level =>
                LevelParts
                    .Ways([
                        .. looked.Select(p =>
                            strip && level == depth - 1 ? p.Levels[level][..^CollisionSuffix(p.Levels[level])] : p.Levels[level]
                        ),
                    ])
                    .ToList()
            )
            .ToList();
        var chosen = new int[depth];
        (Draft Draft, PathReading[] Readings, int Count)? best = null;
        while (true)
        {
            if (ProposedPieces.Of([.. ways.Select((w, i) => w[chosen[i]])], type, vocabularies) is { } draft)
            {
                var readings = ReadBack(draft, paths, type, convention, vocabularies);
                var count = readings.Count(r => r.Fits);
                if (best is null || count > best.Value.Count)
                    best = (draft, readings, count);
                if (count >= (paths.Count <= Few ? paths.Count : paths.Count * 4 / 5))
                    break;
            }
            // The level that the fewest rows have in its form is divided more plainly.
            var worst = Enumerable
                .Range(0, depth)
                .Where(l => chosen[l] + 1 < ways[l].Count)
                .OrderBy(l => ways[l][chosen[l]][0].Values.Count(v => v is not null))
                .ThenByDescending(l => l)
                .Select(l => (int?)l)
                .FirstOrDefault();
            if (worst is not { } level)
                break;
            chosen[level]++;
        }
        // The plainest way is one text a level, which every row has.
        return (best!.Value.Draft, best.Value.Readings);
    }

    // Length of “ (2)” at the end of a name, as numbers that tell equal names apart are written; 0 for none.
    private static int CollisionSuffix(string name) =>
        NumberAtEnd(name) is > 0 and var n && name[^n..] is not " (1)" && name[^(n - 2)] != '0' ? n : 0;

    private static int NumberAtEnd(string name)
    {
        if (!name.EndsWith(')'))
            return 0;
        var open = name.LastIndexOf(" (", StringComparison.Ordinal);
        return
            open > 0
            && name.AsSpan(open + 2, name.Length - open - 3) is { Length: > 0 and <= 4 } digits
            && int.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out _)
            ? name.Length - open
            : 0;
    }

    private static PathReading[] ReadBack(
        Draft draft,
        List<GivenPath> paths,
        TypeFields type,
        Convention before,
        IReadOnlyDictionary<string, VocabularyIndex> vocabularies
    )
    {
        var convention = before with { Folder = [.. draft.Folder.Select(p => p.Piece)], Name = [.. draft.Name.Select(p => p.Piece)] };
        var known = vocabularies.ToDictionary(StringComparer.Ordinal);
        foreach (var made in draft.Fields.Where(f => f.NewTerms.Count > 0))
            known[made.Field.Vocabulary!] = new VocabularyIndex(
                new Vocabulary(made.Field.Vocabulary!, made.Field.Label, [.. made.NewTerms.Select(t => new Term(t, [], null) { Id = t })])
                {
                    Growth = Growth.WithReview,
                }
            );
        var fields = type with { Fields = [.. type.Fields, .. draft.Fields.Select(f => f.Field)] };
        var reader = new PathReader(new CompiledConvention(convention, fields), [.. fields.Fields.Select(f => new FieldReader(f, known))]);
        var now = new CheckContext(default, EntryChannel.Desk);
        var readings = new PathReading[paths.Count];
        Parallel.For(0, readings.Length, i => readings[i] = reader.Read(paths[i].Path, now));
        return readings;
    }
}

/// <summary>Pieces and fields of a proposal.</summary>
internal sealed record Draft(List<ProposedPiece> Folder, List<ProposedPiece> Name, List<ProposedField> Fields);
