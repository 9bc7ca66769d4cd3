using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions;

/// <summary>Where a document goes.</summary>
/// <param name="Folder">Folder below the repository root, separated by <c>/</c>; empty for the root itself.</param>
/// <param name="Name">File name without its extension.</param>
/// <param name="Problem">Why there is no such place; folder and name are then what could be rendered, for showing.</param>
public readonly record struct Placement(string Folder, string Name, Problem? Problem)
{
    /// <summary>Folder and name as one path.</summary>
    public string Path => Folder.Length == 0 ? Name : $"{Folder}/{Name}";
}

/// <summary>A convention compiled against a document type's fields: one array of compiled pieces. Immutable and thread-safe.</summary>
public sealed class CompiledConvention
{
    /// <summary>Extension that every filed document gets; it counts in the lengths.</summary>
    public const string Extension = ".pdf";

    /// <summary>Most pieces of both lines together.</summary>
    public const int MostPieces = 60;

    private readonly CompiledPiece[] _pieces;
    private readonly Arrangements _arrangements;
    private readonly PathRendering _rendering;

    /// <summary>What it was compiled from.</summary>
    public Convention Convention { get; }

    /// <summary>What names may be.</summary>
    public PathLimits Limits { get; }

    /// <summary>Whether the name holds a counter of its own.</summary>
    public bool HasCounter { get; }

    /// <summary>Whether system values stand in it.</summary>
    public bool UsesSystemValues { get; }

    /// <summary>Whether every document takes a number, not only one whose name is taken.</summary>
    public bool AlwaysCounts { get; }

    /// <summary>What the counter runs over.</summary>
    public CounterScope Scope => Convention.Counter?.Scope ?? CounterScope.Name;

    internal TypeFields Type { get; }

    internal IReadOnlyList<CompiledPiece> Pieces => _pieces;

    internal Arrangements Arrangements => _arrangements;

    /// <summary>Compiles; a piece whose field does not exist counts as an empty field.</summary>
    public CompiledConvention(Convention convention, TypeFields type)
    {
        convention = convention with { Folder = [.. convention.Folder.Select(Within)], Name = [.. convention.Name.Select(Within)] };
        (Type, Convention, Limits) = (type, convention, convention.Limits ?? PathLimits.FileShare);
        _pieces = [.. convention.Pieces.Select(p => new CompiledPiece(p, type, Limits))];
        _arrangements = new Arrangements(_pieces, convention.Folder.Count);
        _rendering = new PathRendering(convention, Limits, _pieces, _arrangements, type);
        HasCounter = convention.HasCounter;
        UsesSystemValues = Array.Exists(_pieces, p => p.Piece.Kind == PieceKind.System);
        AlwaysCounts = HasCounter && !convention.Counter!.OnlyWhenTaken;
    }

    // Numbers of a stored piece that mean nothing, or more than a name can hold, count as not given; the design check says so.
    private static Piece Within(Piece p) =>
        p with
        {
            Part = Math.Clamp(p.Part, 0, 100),
            DateForm = DateForms.All.Any(f => f.Form == p.DateForm) ? p.DateForm : null,
            MaxLength = p.MaxLength is > 0 ? p.MaxLength : null,
            Digits = p.Digits is > 0 and <= PathLimits.MostDigits ? p.Digits : null,
            ShortenTo = p.ShortenTo is > 0 ? p.ShortenTo : null,
        };

    /// <summary>Renders the place of a record; when it is too long, pieces that may be are shortened.</summary>
    /// <param name="record">Values by field ordinal.</param>
    /// <param name="now">What surrounds it, for system values.</param>
    /// <param name="counter">
    /// Number for counter pieces, from 1. Without a counter piece, 2 and above are appended as <c> (2)</c>, or <c> v2</c> for versions.
    /// </param>
    public Placement Render(ReadOnlySpan<FieldValue> record, CheckContext now, int counter = 1)
    {
        var place = _rendering.Render(record, now, counter);
        return PathShortening.IsTooLong(place) && Array.Exists(_pieces, p => p.Piece.ShortenTo is not null)
            ? PathShortening.Shorten(_rendering, record, now, counter, place)
            : place;
    }

    /// <summary>The name under which numbers of the counter are kept, for <see cref="Scope"/>.</summary>
    public string CounterKey(ReadOnlySpan<FieldValue> record, CheckContext now)
    {
        if (Scope == CounterScope.Everywhere)
            return $"type:{Type.Code}";
        var place = Render(record, now, HasCounter ? 0 : 1);
        return Scope == CounterScope.Folder
            ? $"folder:{Type.Code}:{place.Folder.ToLowerInvariant()}"
            : $"name:{place.Path.ToLowerInvariant()}";
    }

    /// <summary>What each piece writes for a record, in order; why a document lands where it does.</summary>
    public IEnumerable<(string Piece, string Value, string Written)> Explain(FieldValue[] record, CheckContext now, int counter = 1)
    {
        foreach (var (at, _, written) in WrittenPieces(record, now, counter))
        {
            var (piece, ordinal) = (_pieces[at].Piece, _pieces[at].Ordinal);
            var value = piece.Kind switch
            {
                PieceKind.Counter => counter.ToString(CultureInfo.InvariantCulture),
                PieceKind.System => SystemValues.Text(piece.System, now),
                _ => ordinal >= 0 ? record[ordinal].Text : "",
            };
            yield return (PieceWords.NameOf(piece, Type), value, written);
        }
    }

    /// <summary>
    /// What each piece writes for a record: its position among <see cref="Convention.Pieces"/>, the segment of the path it stands in, from
    /// 0, and its text. Literal text and pieces that are left out are not among them.
    /// </summary>
    public IEnumerable<(int At, int Segment, string Written)> WrittenPieces(FieldValue[] record, CheckContext now, int counter = 1)
    {
        var arrangement = _arrangements.For(record, now, counter);
        var segment = 0;
        foreach (var step in arrangement.Folder.Concat(arrangement.Folder.Length > 0 ? [new Step(-1, null)] : []).Concat(arrangement.Name))
            if (step.At < 0)
                segment++;
            else if (_pieces[step.At].Piece.Kind != PieceKind.Text)
                yield return (step.At, segment, _rendering.Written(step.At, record, now, counter));
    }
}
