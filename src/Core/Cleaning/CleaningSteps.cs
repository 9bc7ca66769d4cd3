using System.Text;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Cleaning;

/// <summary>A kind of cleaning step.</summary>
/// <param name="Code">Stable code.</param>
/// <param name="Title">What the steward chooses.</param>
/// <param name="ArgumentLabel">What its argument is called; null when it needs none.</param>
/// <param name="Make">Makes the repair for an argument and the field it feeds (null when none yet). Pure and thread-safe.</param>
public sealed record CleaningKind(string Code, string Title, string? ArgumentLabel, Func<string, Field?, Func<string, string>> Make)
{
    /// <summary>Why an argument cannot be, in one sentence; null when it can, and for kinds that take any.</summary>
    public Func<string, string?> Refusal { get; init; } = static _ => null;
}

/// <summary>The cleaning steps there are, and how they run one after another.</summary>
public static class CleaningSteps
{
    /// <summary>All kinds in the order they are offered.</summary>
    public static IReadOnlyList<CleaningKind> All { get; } =
    [
        new("squeeze-blanks", "Squeeze blanks", null, static (_, _) => TextCleaning.SqueezeBlanks),
        new("drop-words", "Drop these words", "Words, separated by |", static (argument, _) => TextCleaning.DropWords(argument)),
        new("keep-digits", "Keep digits", null, static (_, _) => TextCleaning.KeepDigits),
        new("drop-zeros", "Drop zeros in front", null, static (_, _) => TextCleaning.DropZeros),
        new("keep-characters", "Keep these characters", "Characters", static (argument, _) => Characters(argument, keep: true)),
        new("drop-characters", "Drop these characters", "Characters", static (argument, _) => Characters(argument, keep: false)),
        new("drop-accents", "Drop accents", null, static (_, _) => TextCleaning.DropAccents),
        new("look-alikes", "Swap look-alikes (O 0, I 1, S 5 …)", null, static (_, field) => LookAlikes.For(field)),
        new(
            "read-date",
            "Read a date",
            "Formats, separated by |, perhaps lang=de and pivot=30",
            static (argument, _) => DateReading.Reader(argument)
        )
        {
            Refusal = DateReading.Finding,
        },
        new(
            "read-number",
            "Read a number",
            "Decimal sign: . or ,",
            static (argument, field) => text => TextCleaning.ReadNumber(text, argument.Contains(',') ? ',' : '.', field as AmountField)
        ),
        new("read-time", "Read a time of day", null, static (_, _) => TextCleaning.ReadTime),
        new("capitalise", "Capitalise words", null, static (_, _) => TextCleaning.Capitalise),
        new("put-before", "Put in front of it", "Text", static (argument, _) => TextCleaning.PutBefore(argument)),
        new("upper-case", "Upper case", null, static (_, _) => static text => text.ToUpperInvariant()),
        new("lower-case", "Lower case", null, static (_, _) => static text => text.ToLowerInvariant()),
        new("take-part", "Take one part of it", "Separator and number, e.g. / 2", static (argument, _) => TextCleaning.TakePart(argument))
        {
            Refusal = TextCleaning.PartFinding,
        },
        new(
            "take-characters",
            "Take characters by their place",
            "First, last and how many in all, e.g. 1-2 of 6",
            static (argument, _) => TextCleaning.TakeCharacters(argument)
        )
        {
            Refusal = TextCleaning.CharactersFinding,
        },
        new(
            "take-form",
            "Take the part that fits a pattern",
            "Pattern, e.g. [A-Z]{2}-[0-9]{4}",
            static (argument, _) => TextCleaning.TakeForm(argument)
        )
        {
            Refusal = TextCleaning.FormFinding,
        },
        new("replace", "Replace by a list", "Pairs old=new, separated by |", static (argument, _) => TextCleaning.Replace(argument))
        {
            Refusal = TextCleaning.ReplaceFinding,
        },
    ];

    /// <summary>The kind with a code, or null.</summary>
    public static CleaningKind? Find(string code) => All.FirstOrDefault(k => k.Code == code);

    /// <summary>
    /// Compiles steps into one function. Blanks around the value are trimmed first, always. Steps with a <see cref="Finding"/> are passed
    /// over.
    /// </summary>
    public static Func<string, string> Compile(IReadOnlyList<CleaningStep> steps, Field? field)
    {
        var repairs = steps.Where(s => Finding(s) is null).Select(s => Find(s.Kind)!.Make(s.Argument, field)).ToArray();
        return text =>
        {
            // What is no sound Unicode is for the field to refuse; a repair could only make something else of it.
            if (!Vocabularies.CodePoints.AreSound(text))
                return text;
            text = text.Trim();
            foreach (var repair in repairs)
                text = repair(text);
            return text;
        };
    }

    /// <summary>Why a step cannot run, in one sentence; null when it can.</summary>
    public static string? Finding(CleaningStep step) =>
        Find(step.Kind) is not { } kind ? $"There is no cleaning step “{step.Kind}”."
        : kind.ArgumentLabel is { } label && kind.Code != "read-number" && string.IsNullOrWhiteSpace(step.Argument)
            ? $"{kind.Title}: {label} is missing."
        : kind.Refusal(step.Argument);

    // Whole characters, so that nothing is left of a pair of surrogates but both.
    private static Func<string, string> Characters(string argument, bool keep)
    {
        var named = argument.EnumerateRunes().ToHashSet();
        return text => string.Concat(text.EnumerateRunes().Where(c => named.Contains(c) == keep)).Trim();
    }
}
