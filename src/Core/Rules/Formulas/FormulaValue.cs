using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules.Formulas;

/// <summary>What a formula's part comes to.</summary>
public enum FormulaKind : byte
{
    /// <summary>Nothing: a field that it needs is empty.</summary>
    Empty,

    /// <summary>A number.</summary>
    Number,

    /// <summary>A text.</summary>
    Text,

    /// <summary>A date, as a day number.</summary>
    Date,

    /// <summary>Yes (1) or no (0).</summary>
    Truth,

    /// <summary>It cannot be computed; the text says why.</summary>
    Failed,
}

/// <summary>A value inside a formula.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Number">The number, the day number, or 1 and 0.</param>
/// <param name="Text">The text, or why it failed.</param>
public readonly record struct FormulaValue(FormulaKind Kind, decimal Number, string Text)
{
    /// <summary>Nothing.</summary>
    public static FormulaValue Empty => new(FormulaKind.Empty, 0, "");

    internal static FormulaValue Of(decimal number) => new(FormulaKind.Number, number, "");

    internal static FormulaValue Of(string text) => text.Length == 0 ? Empty : new(FormulaKind.Text, 0, text);

    internal static FormulaValue Of(DateOnly date) => new(FormulaKind.Date, date.DayNumber, "");

    internal static FormulaValue Of(bool truth) => new(FormulaKind.Truth, truth ? 1 : 0, "");

    internal static FormulaValue Failed(string why) => new(FormulaKind.Failed, 0, why);

    internal bool IsTrue => Kind == FormulaKind.Truth && Number != 0;

    /// <summary>As a field's text: ISO dates, numbers with a point, yes and no; empty when there is none.</summary>
    public string AsText =>
        Kind switch
        {
            FormulaKind.Number => Number.ToString("0.############", CultureInfo.InvariantCulture),
            FormulaKind.Text => Text,
            FormulaKind.Date => DateOnly.FromDayNumber((int)Number).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            FormulaKind.Truth => Number != 0 ? "yes" : "no",
            _ => "",
        };
}

/// <summary>One compiled part of a formula.</summary>
internal delegate FormulaValue Part(ReadOnlySpan<Fields.FieldValue> record, CheckContext now);
