namespace ClearLexicon.Core.Fields;

/// <summary>How a value is looked for.</summary>
public enum Look
{
    /// <summary>The text stands somewhere in it; of a number, it is that number.</summary>
    Holds,

    /// <summary>It is that value.</summary>
    Is,

    /// <summary>It begins with the text.</summary>
    Starts,

    /// <summary>It lies between two values, both counted in; one of them may be empty.</summary>
    Between,

    /// <summary>It is another value, or there is none.</summary>
    IsNot,

    /// <summary>It is one of several values.</summary>
    OneOf,

    /// <summary>It is a term, or one below it.</summary>
    Within,

    /// <summary>It is less, or earlier.</summary>
    Before,

    /// <summary>It is more, or later.</summary>
    After,

    /// <summary>There is none.</summary>
    Empty,

    /// <summary>There is one.</summary>
    Filled,
}

/// <summary>A condition on the values of a field, or of the cells of a table's column.</summary>
/// <param name="Field">Key of the field, or <c>table.column</c>.</param>
/// <param name="Kind">Its kind.</param>
/// <param name="How">How it is looked for.</param>
/// <param name="Text">The text, or the lower end; a date may be relative (<see cref="RelativeDate"/>).</param>
/// <param name="To">The upper end of <see cref="Look.Between"/>.</param>
public sealed record FieldCondition(string Field, FieldKind Kind, Look How, string Text = "", string To = "")
{
    /// <summary>The values of <see cref="Look.OneOf"/>, and of <see cref="Look.Within"/> when the branch is known.</summary>
    public IReadOnlyList<string> Values { get; init; } = [];

    /// <summary>Whether nothing is asked for.</summary>
    public bool IsEmpty =>
        How switch
        {
            Look.Empty or Look.Filled => false,
            Look.OneOf => Values.Count == 0,
            Look.Between => string.IsNullOrWhiteSpace(Text) && string.IsNullOrWhiteSpace(To),
            _ => string.IsNullOrWhiteSpace(Text),
        };
}
