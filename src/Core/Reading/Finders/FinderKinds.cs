using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>What a finder looks at.</summary>
/// <param name="Finder">It.</param>
/// <param name="Field">The field it fills.</param>
/// <param name="Pages">Pages of the document in order.</param>
/// <param name="Claimed">The page that the reader claims.</param>
/// <param name="Region">The region drawn for it as it lies on the claimed page; null for none.</param>
/// <param name="Labels">Words that begin another value, so that none runs into them.</param>
/// <param name="Context">Lists and pictures.</param>
internal sealed record Search(
    Finder Finder,
    Field Field,
    IReadOnlyList<PageLines> Pages,
    PageLines Claimed,
    Box? Region,
    IReadOnlyList<Phrase> Labels,
    FinderContext Context
)
{
    /// <summary>What was read for another field of the document, by its key; nothing where no other is known.</summary>
    public Func<string, Found?> Other { get; init; } = static _ => null;

    /// <summary>The pages that are looked at: the one asked for; with a region the claimed one; else all, the claimed one first.</summary>
    public IEnumerable<PageLines> Looked =>
        Region is not null
            ? [Claimed]
            : Finder.Page switch
            {
                null => Pages.OrderBy(p => p.Number < Claimed.Number).ThenBy(p => p.Number),
                < 0 => Pages.TakeLast(1),
                { } number => Pages.Where(p => p.Number == number),
            };

    /// <summary>Whether words stand where they are looked for.</summary>
    public bool Allows(Box box) => Region is not { } region || region.Contains(box.CentreX, box.CentreY);

    /// <summary>What words give as evidence.</summary>
    /// <param name="page">Their page.</param>
    /// <param name="words">The words; at least one.</param>
    /// <param name="raw">Their text; null for the words joined by blanks.</param>
    /// <param name="sure">How sure the way is in which they were found, 0 to 1.</param>
    public static Evidence EvidenceOf(PageLines page, IReadOnlyList<Word> words, string? raw, double sure) =>
        new(
            page.Number,
            Box.Around(words.Select(w => w.Box))!.Value,
            raw ?? string.Join(' ', words.Select(w => w.Text)),
            page.Text.Method,
            words.Min(w => w.Confidence) * sure
        );
}

/// <summary>One way of finding values.</summary>
/// <param name="Code">Stable code.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Find">Where the value stands; null for nowhere.</param>
public sealed record FinderKind
{
    internal FinderKind(string code, string title, Func<Search, Found?> find) => (Code, Title, Find) = (code, title, find);

    /// <summary>Stable code.</summary>
    public string Code { get; }

    /// <summary>What it is called.</summary>
    public string Title { get; }

    internal Func<Search, Found?> Find { get; }

    /// <summary>What is wrong with what it was given; null when nothing is.</summary>
    public Func<Finder, string?> Finding { get; internal init; } = static _ => null;

    /// <summary>What a finder of this kind does, in one clause for people.</summary>
    public Func<Finder, string> Says { get; internal init; } = static finder => FinderKinds.Find(finder.Kind)?.Title ?? finder.Kind;

    /// <summary>Whether it cannot do without a region drawn on the page.</summary>
    public bool NeedsRegion { get; internal init; }

    /// <summary>Whether what it finds stands on no page, so that it has no region.</summary>
    public bool IsAround { get; internal init; }

    /// <summary>Which kinds of fields it can fill; all but tables unless it says otherwise.</summary>
    public Func<FieldKind, bool> Fills { get; internal init; } = static k => !k.HasRows;
}

/// <summary>The ways of finding values, each a function of the pages.</summary>
public static class FinderKinds
{
    /// <summary>Most words or headings of one finder, and the longest of them in characters.</summary>
    public const int Most = 40;

    private const int Longest = 200;

    /// <summary>All of them, in the order they are offered.</summary>
    public static IReadOnlyList<FinderKind> All { get; } =
    [
        new("beside", "beside a label", BesideLabel.Find)
        {
            Finding = static f => f.Words.Count == 0 ? "Write the label that stands beside the value." : Common(f),
            Says = static f => $"{SideOf(f.Side)} “{string.Join("” or “", f.Words)}”",
        },
        new("shape", "by its shape, anywhere", ByShape.Find)
        {
            Finding = static f =>
                f.Which == Which.Nearest && f.Words.Count == 0 ? "Write the words that the value is nearest to."
                : f.Shape == "text" ? "Any words at all is not a shape: choose another."
                : Common(f),
            Says = static f =>
                f.Which == Which.Nearest
                    ? $"{ShapeOf(f)}, the nearest to “{string.Join("” or “", f.Words)}”"
                    : $"{ShapeOf(f)}, {WhichOf(f.Which)}",
        },
        new("list", "from a list, anywhere", FromList.Find)
        {
            Finding = static f =>
                f.List.Length > 0 && !f.List.Contains('/', StringComparison.Ordinal)
                    ? "Choose a column of the reference table."
                    : Common(f),
            Says = static f => f.List.Length == 0 ? "a term of its vocabulary, anywhere" : $"from the list {f.List}, anywhere",
        },
        new("mark", "boxes that are filled", Marks.Find)
        {
            NeedsRegion = true,
            Fills = static k => k.Measure == Measure.Truth || Named(k),
            Says = static _ => "which boxes are filled",
        },
        new("ink", "whether something is written", Marks.Written)
        {
            NeedsRegion = true,
            Fills = static k => k.Measure == Measure.Truth,
            Says = static _ => "whether something is written by hand",
        },
        InTable("rows", "rows of a table", Rows.Find, "rows under", "table", "heading"),
        InTable("groups", "groups that repeat", Groups.Find, "groups of", "group", "label"),
        new("constant", "always the same", Around.Constant)
        {
            IsAround = true,
            Finding = static f => f.Text.Length == 0 ? "Write the value." : Common(f),
            Says = static f => $"always “{f.Text}”",
        },
        new("name", "from the name of the file", Around.FileName)
        {
            IsAround = true,
            Finding = static f =>
                !f.Text.Contains("{value}", StringComparison.Ordinal)
                    ? "Write a pattern with {value} where the value stands, such as {*}_{value}.pdf."
                    : Stacks.NameTemplate.Finding(f.Text) ?? Common(f),
            Says = static f => $"from the file’s name, “{f.Text}”",
        },
        new("day", "the day it came in", Around.Day)
        {
            IsAround = true,
            Fills = static k => k.Measure == Measure.Day || k == FieldKind.Text,
        },
        new("person", "who brought it in", Around.Person) { IsAround = true, Fills = Named },
        new("way-in", "the way it came in", Around.WayIn) { IsAround = true, Fills = Named },
        new("field", "from another field", Around.AnotherField)
        {
            IsAround = true,
            Finding = static f => f.Text.Length == 0 ? "Choose the field that it is filled from." : Common(f),
            Says = static f => $"from the field “{f.Text}”",
        },
    ];

    /// <summary>The kind with a code, or null.</summary>
    public static FinderKind? Find(string code) => All.FirstOrDefault(k => k.Code == code);

    /// <summary>The kinds that can fill a field.</summary>
    public static IEnumerable<FinderKind> For(Field field) => All.Where(k => k.Fills(field.Kind));

    /// <summary>A side in words.</summary>
    public static string SideOf(Side side) =>
        side switch
        {
            Side.Below => "below",
            Side.Left => "left of",
            Side.Above => "above",
            _ => "right of",
        };

    // Text or terms: what has a name.
    private static bool Named(FieldKind kind) => kind.HasTerms || kind == FieldKind.Text;

    // A kind that fills a table, each column told by words on the page.
    private static FinderKind InTable(string code, string title, Func<Search, Found?> find, string says, string whole, string word) =>
        new(code, title, find)
        {
            Fills = static k => k.HasRows,
            Finding = f =>
                f.Columns.All(c => c.Headings.Count == 0) ? $"Write the {word} of at least one column."
                : f.Columns.Sum(c => c.Headings.Count) > Most ? $"A {whole} has at most {Most} {word}s."
                : Common(f),
            Says = f => $"{says} “{string.Join("”, “", f.Columns.Select(c => c.Headings is [var first, ..] ? first : c.Column))}”",
        };

    /// <summary>Which of several, in words.</summary>
    public static string WhichOf(Which which) =>
        which switch
        {
            Which.Last => "the last",
            Which.Only => "the only one",
            Which.Largest => "the largest or latest",
            Which.Nearest => "the nearest to these words",
            _ => "the first",
        };

    private static string ShapeOf(Finder finder) => Shapes.All.FirstOrDefault(s => s.Code == finder.Shape).Title ?? finder.Shape;

    // What any finder may be given wrongly.
    private static string? Common(Finder f) =>
        f.Words.Count > Most || f.LeftOut.Count > Most ? $"At most {Most} words or phrases can be given."
        : f
            .Words.Concat(f.LeftOut)
            .Concat(f.Columns.SelectMany(c => c.Headings))
            .Append(f.Text)
            .Append(f.Pattern)
            .Any(w => w.Length > Longest)
            ? $"Words and patterns have at most {Longest} characters."
        : f.Page is 0 or < -1 ? "Pages are counted from 1; -1 is the last."
        : Shapes.All.All(s => s.Code != f.Shape) ? $"There is no shape “{f.Shape}”."
        : f.Shape != "pattern" ? null
        : f.Pattern.Length == 0 ? "Write the pattern."
        : SafePattern.TryAnywhere(f.Pattern, out _, out var problem) ? null
        : problem;
}
