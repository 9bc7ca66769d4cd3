namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>What is wrong with a number that has a check digit. Positions count from 1 in the number without separators.</summary>
public abstract record CheckProblem
{
    private CheckProblem() { }

    /// <summary>The same problem of a number that begins so many characters before the part that was looked at.</summary>
    internal CheckProblem Further(int by) => this is Character strange ? strange with { Position = strange.Position + by } : this;

    /// <summary>It should have another number of characters.</summary>
    /// <param name="Expected">How many, such as <c>8–10</c>.</param>
    /// <param name="Actual">How many there are.</param>
    public sealed record Length(string Expected, int Actual) : CheckProblem;

    /// <summary>A character stands where it cannot.</summary>
    public sealed record Character(string Strange, int Position) : CheckProblem;

    /// <summary>It begins with a country (ISO 3166) that has no such numbers.</summary>
    public sealed record Country(string Code) : CheckProblem;

    /// <summary>It begins with what the scheme does not have.</summary>
    public sealed record Prefix(string Expected) : CheckProblem;

    /// <summary>Its digits hold no date of birth where there should be one.</summary>
    public sealed record BirthDate(string Digits) : CheckProblem;

    /// <summary>It and its check digit disagree.</summary>
    public sealed record Digit(string Expected) : CheckProblem;
}
