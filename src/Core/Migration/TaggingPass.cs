using System.Diagnostics.CodeAnalysis;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Conventions.Inference;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Migration;

/// <summary>One ordered step of bulk tagging.</summary>
/// <param name="Id">Unique in its plan.</param>
/// <param name="Kind">Code of its <see cref="PassKind"/>.</param>
/// <param name="Field">Key of the field it sets.</param>
/// <param name="Source">Column it looks at; unused by a constant.</param>
/// <param name="Argument">The constant, or the pattern.</param>
/// <param name="OnlyEmpty">Sets the field only where it is still empty.</param>
/// <param name="Steps">Repairs of what it found.</param>
public sealed record TaggingPass(
    string Id,
    string Kind,
    string Field,
    string Source,
    string Argument,
    bool OnlyEmpty,
    IReadOnlyList<CleaningStep> Steps
);

/// <summary>A kind of tagging pass.</summary>
/// <param name="Code">Stable code.</param>
/// <param name="Title">What the steward chooses.</param>
/// <param name="NeedsSource">Whether it looks at a column.</param>
/// <param name="ArgumentLabel">What its argument is called; null when it has none.</param>
/// <param name="Finding">Why a pass of this kind cannot run; null when it can.</param>
/// <param name="Make">Makes the function from a column's text to the field's text for a type, null when it finds nothing.</param>
public sealed record PassKind(
    string Code,
    string Title,
    bool NeedsSource,
    string? ArgumentLabel,
    Func<TaggingPass, Field, string?> Finding,
    Func<TaggingPass, CompiledType, Func<string, string?>> Make
);

/// <summary>The kinds of tagging pass there are.</summary>
public static class PassKinds
{
    /// <summary>
    /// Code of the pass that reads paths which the type's convention could have given, below whatever folders they lie in.
    /// </summary>
    public const string ByConvention = "path-by-convention";

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<CompiledType, ReadPaths> Readings = [];

    /// <summary>All kinds in the order they are offered.</summary>
    public static IReadOnlyList<PassKind> All { get; } =
    [
        new(
            "constant",
            "The same value in every row",
            false,
            "Value",
            static (pass, _) => pass.Argument.Length == 0 ? "Write the value." : null,
            static (pass, _) => _ => pass.Argument
        ),
        new(
            "path-piece",
            "A piece of the path, by pattern",
            true,
            "Pattern; the part in ( ) is taken",
            static (pass, field) =>
                pass.Argument.Length == 0 ? "Write a pattern."
                : SafePattern.TryAnywhere(pass.Argument, out _, out var problem) ? null
                : problem,
            static (pass, _) => Piece(pass.Argument)
        ),
        new(
            "words-to-term",
            "Words in the path or title → term",
            true,
            null,
            static (_, field) => field.Kind is { HasTerms: true, IsMultiple: false } ? null : $"{field.Label} holds no terms.",
            static (pass, type) =>
                type.TermsOf(type.OrdinalOf(pass.Field)) is { } terms ? text => terms.FindIn(text)?.Label : static _ => null
        ),
        new(
            ByConvention,
            "The path, read by the type’s own convention",
            true,
            null,
            static (_, _) => null,
            static (pass, type) =>
            {
                var paths = Readings.GetValue(type, static t => new ReadPaths(t));
                return path => paths.Value(path, pass.Field);
            }
        ),
    ];

    /// <summary>The kind with a code, or null.</summary>
    public static PassKind? Find(string code) => All.FirstOrDefault(k => k.Code == code);

    /// <summary>Why a pass cannot run on an inventory, in one sentence; null when it can.</summary>
    public static string? Finding(TaggingPass pass, DocumentType type, IReadOnlyList<string> columns) =>
        Find(pass.Kind) is not { } kind ? $"There is no tagging pass “{pass.Kind}”."
        : type.Find(pass.Field) is not { } field ? $"The field “{pass.Field}” is not in {type.Name}."
        : kind.NeedsSource && !columns.Contains(pass.Source) ? $"The inventory has no column “{pass.Source}”."
        : pass.Kind == ByConvention && type.Convention.Pieces.All(p => p.Kind != PieceKind.Field || p.Field != pass.Field)
            ? $"{field.Label} is not in the convention of {type.Name}."
        : kind.Finding(pass, field) ?? pass.Steps.Select(CleaningSteps.Finding).FirstOrDefault(f => f is not null);

    private static Func<string, string?> Piece(string pattern)
    {
        if (!SafePattern.TryAnywhere(pattern, out var regex, out _))
            return static _ => null;
        return text =>
        {
            if (SafePattern.Matches(regex!, text) != true)
                return null;
            var match = regex!.Match(text);
            if (!match.Success)
                return null;
            for (var g = 1; g < match.Groups.Count; g++)
                if (match.Groups[g].Success)
                    return match.Groups[g].Value;
            return match.Value;
        };
    }

    // Several passes read the same path one after another, so the last reading is kept, one for each thread.
    [SuppressMessage("Design", "CA1001", Justification = "Lives as long as its compiled plan, which nobody disposes of.")]
    private sealed class ReadPaths(CompiledType type)
    {
        private readonly PathReader _reader = type.PathReader();

        private readonly ThreadLocal<(string Path, PathReading Reading)> _last = new();

        public string? Value(string path, string field)
        {
            if (_last.Value.Path != path)
                _last.Value = (path, Read(path));
            var reading = _last.Value.Reading;
            // What the path keeps only a part of is not the value.
            return reading.Unsure.Contains(field) ? null : reading.Values.GetValueOrDefault(field);
        }

        private PathReading Read(string path)
        {
            if (GivenPath.Read(path, 1, type.Convention.Limits).Path is not { } given)
                return PathReading.None;
            var now = new CheckContext(default, EntryChannel.Migration);
            for (var above = 0; above < given.Levels.Length; above++)
                if (_reader.Read(string.Join('/', given.Levels[above..]), now) is { Fits: true } reading)
                    return reading;
            return PathReading.None;
        }
    }
}
