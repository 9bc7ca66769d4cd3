using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Conventions;

/// <summary>A finding about a design, before any document meets it.</summary>
/// <param name="Code">Stable code.</param>
/// <param name="Level">Must-findings block publishing.</param>
/// <param name="Text">What is wrong and what follows from it.</param>
/// <param name="Place">Where: a field key, a rule id, <c>folder</c> or <c>name</c>.</param>
public sealed record Finding(string Code, Level Level, string Text, string Place);

/// <summary>Looks for flaws in a convention that can be seen without a document.</summary>
public static class ConventionCheck
{
    /// <summary>The findings, folder first.</summary>
    public static IEnumerable<Finding> Findings(DocumentType type)
    {
        var convention = type.Convention;
        if (convention.Name.Count == 0)
            yield return new Finding("convention-nameless", Level.Must, "The file name has no pieces yet; documents of this type cannot be filed.", "name");
        else if (convention.Name.All(p => p.Kind == PieceKind.Text))
            yield return new Finding("convention-same-name", Level.Should, "The file name is the same for every document; only a number would tell them apart.", "name");
        foreach (var (pieces, place) in new[] { (convention.Folder, "folder"), (convention.Name, "name") })
        {
            foreach (var piece in pieces)
                foreach (var finding in PieceFindings(piece, type, place)) yield return finding;
            foreach (var finding in LiteralFindings(pieces, place)) yield return finding;
        }
        var longest = Longest(convention.Folder, type) + 1 + Longest(convention.Name, type) + CompiledConvention.Extension.Length;
        if (longest > PathLimits.Whole)
            yield return new Finding("convention-long", Level.Should, $"With long values the path can reach {longest} characters; {PathLimits.Whole} are allowed. Give long fields a greatest length.", "name");
    }

    private static IEnumerable<Finding> PieceFindings(Piece piece, DocumentType type, string place)
    {
        if (piece.Kind == PieceKind.Text)
        {
            var bad = piece.Text.Where(PathLimits.IsForbidden).Distinct().ToArray();
            if (bad.Length > 0)
                yield return new Finding("convention-character", Level.Should, $"“{piece.Text}” holds {string.Join(" ", bad)}, which file systems refuse; it is written as {PathLimits.Substitute}.", place);
        }
        if (piece.Kind == PieceKind.Inside && place == "name")
            yield return new Finding("convention-folder-in-name", Level.Must, "A file name cannot hold a folder; move it to the folder line.", place);
        if (piece.Kind != PieceKind.Field) yield break;
        if (type.Find(piece.Field) is not { } field)
            yield return new Finding("convention-no-field", Level.Must, $"The field “{piece.Field}” is no longer in this document type.", place);
        else
        {
            if (!field.Required && string.IsNullOrEmpty(field.Default) && piece.IfEmpty is null)
                yield return new Finding("convention-hole", Level.Should, $"{field.Label} may be empty, which would leave a hole in the path; such documents are held back. Say what stands there instead.", place);
            if (field.Restricted)
                yield return new Finding("convention-restricted", Level.Must, $"{field.Label} is restricted, but everybody can read a path.", place);
        }
    }

    /// <summary>A segment of nothing but literal text can be judged now.</summary>
    private static IEnumerable<Finding> LiteralFindings(IReadOnlyList<Piece> pieces, string place)
    {
        var segment = "";
        var literal = true;
        for (var i = 0; i <= pieces.Count; i++)
        {
            if (i < pieces.Count && pieces[i].Kind != PieceKind.Inside)
            {
                segment += pieces[i].Text;
                literal &= pieces[i].Kind == PieceKind.Text;
                continue;
            }
            var code = literal && pieces.Count > 0 ? PathLimits.Fault(string.Concat(segment.Select(c => PathLimits.IsForbidden(c) ? PathLimits.Substitute : c))) : null;
            if (code is not null)
                yield return new Finding(code, Level.Must, Messages.Text(code, segment[..Math.Min(24, segment.Length)], segment.Length.ToString(), PathLimits.Segment.ToString()), place);
            segment = "";
            literal = true;
        }
    }

    private static int Longest(IEnumerable<Piece> pieces, DocumentType type) => pieces.Sum(p => p.Kind switch
    {
        PieceKind.Text => p.Text.Length,
        PieceKind.Inside => 1,
        PieceKind.Counter => Math.Max(p.Digits ?? 0, 3),
        _ => type.Find(p.Field) switch
        {
            { Kind: FieldKind.Date } => (p.DateForm ?? "yyyy-MM-dd").Length,
            { Kind: FieldKind.Text } f => Math.Min(p.MaxLength ?? int.MaxValue, f.MaxLength ?? 80),
            { Kind: FieldKind.Term } => p.MaxLength ?? 40,
            _ => p.MaxLength ?? 12,
        },
    });
}
