namespace ClearLexicon.Core.Fields;

/// <summary>Kinds that can do the same, for rules and finders that work on all of them.</summary>
public static class FieldKinds
{
    /// <summary>Those that can be compared with another field.</summary>
    public static IReadOnlyList<FieldKind> Comparable { get; } = Those(k => k.Measure != Measure.None);

    /// <summary>Numbers, with a currency or without.</summary>
    public static IReadOnlyList<FieldKind> Numbers { get; } = Those(k => k.Measure == Measure.Number);

    /// <summary>Numbers that can have a fraction.</summary>
    public static IReadOnlyList<FieldKind> Fractions { get; } = Those(k => k is { Measure: Measure.Number, IsWhole: false });

    /// <summary>Days of the calendar.</summary>
    public static IReadOnlyList<FieldKind> Days { get; } = Those(k => k.Measure == Measure.Day);

    /// <summary>Text that people write.</summary>
    public static IReadOnlyList<FieldKind> Written { get; } = Those(k => k.IsWritten);

    /// <summary>What can carry a check digit.</summary>
    public static IReadOnlyList<FieldKind> Numbered { get; } = Those(k => k.IsWritten || k is { IsNumeric: true, IsWhole: true });

    /// <summary>Terms, one or several.</summary>
    public static IReadOnlyList<FieldKind> OfTerms { get; } = Those(k => k.HasTerms);

    /// <summary>What a document can have several of.</summary>
    public static IReadOnlyList<FieldKind> Counted { get; } = Those(k => k.HasRows || k.IsMultiple);

    /// <summary>What is written into the text of another field, e.g. into a number.</summary>
    public static IReadOnlyList<FieldKind> Repeated { get; } =
        Those(k => k.Measure is Measure.Words or Measure.Day || k is { IsNumeric: true, IsWhole: true });

    private static List<FieldKind> Those(Func<FieldKind, bool> can) => [.. FieldKind.All.Where(can)];
}
