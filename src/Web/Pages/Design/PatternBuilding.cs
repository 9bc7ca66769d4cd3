using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Web.Forms;

namespace ClearLexicon.Web.Pages;

/// <summary>A pattern being built: its pieces, the pattern they make, and how values that occur fare.</summary>
/// <param name="Name">Name of the input that carries the pattern.</param>
/// <param name="Id">Distinguishes its inputs on the page.</param>
/// <param name="Pattern">The pattern.</param>
/// <param name="Pieces">Its pieces; null when it says more than pieces can.</param>
/// <param name="Tested">Values that occur, and whether they match.</param>
/// <param name="Open">Whether the builder is open.</param>
/// <param name="Code">Code of the document type.</param>
public sealed record PatternBuilding(
    string Name,
    string Id,
    string Pattern,
    IReadOnlyList<PatternPiece>? Pieces,
    IReadOnlyList<(string Value, bool Matches)> Tested,
    bool Open,
    string Code
)
{
    /// <summary>The builder for a pattern that stands.</summary>
    public static PatternBuilding Of(string name, string id, string? pattern, IEnumerable<string> values, string code) =>
        new(name, id, pattern ?? "", PatternPieces.Read(pattern), Test(pattern, values), false, code);

    /// <summary>The builder after a change: from an example that was given, else from its pieces, else from the pattern as typed.</summary>
    internal static PatternBuilding Read(Form form, string name, string id, TypeModel page)
    {
        var pattern = form[name].Text.Trim();
        IReadOnlyList<PatternPiece>? pieces = PatternPieces.Read(pattern);
        var act = form["build"].Text;
        if (act == "example" && form["pattern-example"].Text is { Length: > 0 } example)
            pieces = PatternPieces.FromExample(example);
        else if (act.StartsWith("drop-", StringComparison.Ordinal))
            pieces = [.. Rows(form).Where((_, i) => $"drop-{i}" != act)];
        else if (act == "more")
            pieces = [.. Rows(form), new PatternPiece(PieceOf.Digits)];
        else if (act == "pieces")
            pieces = Rows(form);
        if (act != "typed" && pieces is not null)
            pattern = PatternPieces.Write(pieces);
        var field = form["key"].Text is { Length: > 0 } key ? key : form["matches.field"].Text;
        var typed = form["pattern-values"].Text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        var occurring = page.OccurringIn(field);
        return new PatternBuilding(name, id, pattern, pieces, Test(pattern, typed.Concat(occurring)), true, page.Type.Code);
    }

    private static List<PatternPiece> Rows(Form form)
    {
        var (kinds, least, most, texts, optional) = (
            form.All("piece-of"),
            form.All("piece-least"),
            form.All("piece-most"),
            form.All("piece-text"),
            form.All("piece-optional")
        );
        return
        [
            .. kinds.Select(
                (kind, i) =>
                {
                    var of = Enum.TryParse<PieceOf>(kind, out var p) ? p : PieceOf.Digits;
                    var from = int.TryParse(least.ElementAtOrDefault(i), out var l) ? Math.Clamp(l, 0, 99) : 1;
                    var to = int.TryParse(most.ElementAtOrDefault(i), out var m) ? Math.Clamp(m, from, 99) : (int?)null;
                    return new PatternPiece(
                        of,
                        from,
                        string.IsNullOrWhiteSpace(most.ElementAtOrDefault(i)) ? null : to ?? from,
                        texts.ElementAtOrDefault(i) ?? ""
                    )
                    {
                        Optional = optional.ElementAtOrDefault(i) == "yes",
                    };
                }
            ),
        ];
    }

    private static List<(string, bool)> Test(string? pattern, IEnumerable<string> values) =>
        string.IsNullOrEmpty(pattern) || !SafePattern.TryWhole(pattern, out var regex, out _)
            ? []
            : [.. values.Select(v => (v, SafePattern.Matches(regex!, v) == true))];
}
