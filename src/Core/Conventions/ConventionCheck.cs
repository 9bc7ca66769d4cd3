using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Conventions;

/// <summary>Looks for findings about a convention that can be seen without a document.</summary>
public static class ConventionCheck
{
    /// <summary>The findings, folder first.</summary>
    public static IEnumerable<Finding> Findings(Convention convention, TypeFields type)
    {
        var limits = convention.Limits ?? PathLimits.FileShare;
        if (convention.Name.Count == 0)
            yield return new Finding(
                "convention-nameless",
                Level.Must,
                "The file name has no pieces yet; documents of this type cannot be filed.",
                "name"
            );
        else if (convention.Name.All(p => p.Kind == PieceKind.Text))
            yield return new Finding(
                "convention-same-name",
                Level.Should,
                "The file name is the same for every document; only a number would tell them apart.",
                "name"
            );
        foreach (var (pieces, place) in new[] { (convention.Folder, "folder"), (convention.Name, "name") })
        {
            foreach (var piece in pieces)
            foreach (var finding in PieceFindings(piece, type, place, limits))
                yield return finding;
            foreach (var finding in LiteralFindings(pieces, place, limits))
                yield return finding;
        }
        if (convention.Limits?.Contradiction() is { } contradiction)
            yield return new Finding("convention-limits", Level.Must, contradiction, "limits");
        if (convention.Folder.Count + convention.Name.Count > CompiledConvention.MostPieces)
            yield return new Finding(
                "convention-pieces",
                Level.Must,
                $"Folder and name have {convention.Folder.Count + convention.Name.Count} pieces; {CompiledConvention.MostPieces} are "
                    + "allowed.",
                "name"
            );
        if (convention.Name.Count(p => p.Kind == PieceKind.Counter) > 1)
            yield return new Finding("convention-counters", Level.Must, "A name has one counter.", "name");
        var longest = Longest(convention.Folder, type) + 1 + Longest(convention.Name, type) + CompiledConvention.Extension.Length;
        if (longest > limits.Whole)
            yield return new Finding(
                "convention-long",
                Level.Should,
                $"With long values the path can reach {longest} characters; {limits.Whole} are allowed. Say which piece may be shortened.",
                "name"
            );
    }

    private static IEnumerable<Finding> PieceFindings(Piece piece, TypeFields type, string place, PathLimits limits)
    {
        if (piece.Kind == PieceKind.Text)
        {
            var bad = piece.Text.Where(c => limits.Refuses(limits.Upper ? char.ToUpperInvariant(c) : c)).Distinct().ToArray();
            if (bad.Length > 0)
                yield return new Finding(
                    "convention-character",
                    Level.Should,
                    $"“{piece.Text}” holds {string.Join(" ", bad)}, which a {limits.Name} refuses; "
                        + $"{(limits.Substitute.Length == 0 ? "it is left out" : $"it is written as {limits.Substitute}")}.",
                    place
                );
        }
        if (piece.Kind == PieceKind.Inside && place == "name")
            yield return new Finding(
                "convention-folder-in-name",
                Level.Must,
                "A file name cannot hold a folder; move it to the folder line.",
                place
            );
        if (
            piece.Kind == PieceKind.System
            && piece.System is SystemValue.Batch or SystemValue.OriginalName or SystemValue.OriginalFolder
            && type.Fields.FirstOrDefault(f => f.Restricted) is { } hidden
        )
            yield return new Finding(
                "convention-may-tell",
                Level.Should,
                $"The {SystemValues.NameOf(piece.System)} may hold {hidden.Label}, which is restricted, and everybody can read a path.",
                place
            );
        if (piece.Kind != PieceKind.Field)
            yield break;
        if (type.Find(piece.Field) is not { } field)
            yield return new Finding(
                "convention-no-field",
                Level.Must,
                $"The field “{piece.Field}” is no longer in this document type.",
                place
            );
        else
        {
            if (
                !field.Required
                && string.IsNullOrEmpty(field.Default)
                && field.DefaultFrom is DefaultSource.Constant or DefaultSource.Batch or DefaultSource.Previous
                && piece.IfEmpty is null
                && !piece.LeaveOut
                && piece.OnlyWhenFilled != field.Key
            )
                yield return new Finding(
                    "convention-hole",
                    Level.Should,
                    $"{field.Label} may be empty, which would leave a gap in the path; such documents are held back. Say what stands "
                        + "there instead.",
                    place
                );
            if (field.Kind.HasRows)
                yield return new Finding(
                    "convention-table",
                    Level.Must,
                    $"{field.Label} is a table; a path can hold a single value only.",
                    place
                );
            if (field.Restricted)
                yield return new Finding(
                    "convention-restricted",
                    Level.Must,
                    $"{field.Label} is restricted, but everybody can read a path.",
                    place
                );
        }
    }

    /// <summary>A segment of nothing but literal text can be judged now.</summary>
    private static IEnumerable<Finding> LiteralFindings(IReadOnlyList<Piece> pieces, string place, PathLimits limits)
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
            if (literal && pieces.Count > 0 && limits.Finding(limits.Clean(segment)) is { } kind)
                yield return new Finding(kind.Code, Level.Must, kind.In(Messages.English), place);
            segment = "";
            literal = true;
        }
    }

    private static long Longest(IEnumerable<Piece> pieces, TypeFields type) =>
        pieces.Sum(
            long (p) =>
                p.Kind switch
                {
                    PieceKind.Text => p.Text.Length,
                    PieceKind.Inside => 1,
                    PieceKind.Counter => Math.Max(p.Digits ?? 0, 3),
                    _ => type.Find(p.Field) switch
                    {
                        { Kind.Measure: Measure.Day } => (p.DateForm ?? "yyyy-MM-dd").Length,
                        TextField f => p.ShortenTo ?? Math.Min(p.MaxLength ?? int.MaxValue, f.MaxLength ?? 80),
                        { Kind: { HasTerms: true, IsMultiple: false } } => p.MaxLength ?? 40,
                        _ => p.MaxLength ?? 12,
                    },
                }
        );
}
