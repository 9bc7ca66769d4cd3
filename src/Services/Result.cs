namespace ClearLexicon.Services;

/// <summary>What became of something a person asked for: done, or the sentence that says why not.</summary>
/// <param name="Problem">Null when it was done.</param>
public readonly record struct Result(string? Problem)
{
    /// <summary>Done.</summary>
    public static Result Done { get; } = new(null);

    /// <summary>Whether it was done.</summary>
    public bool Ok => Problem is null;

    /// <summary>Not done.</summary>
    public static implicit operator Result(string problem) => new(problem);
}

/// <summary>A value, or the sentence that says why there is none.</summary>
/// <param name="Value">The value when done.</param>
/// <param name="Problem">Null when done.</param>
public readonly record struct Result<T>(T? Value, string? Problem)
{
    /// <summary>Whether it was done.</summary>
    public bool Ok => Problem is null;

    /// <summary>What is of interest of the value; the sentence stays as it is.</summary>
    public Result<TOther> With<TOther>(Func<T, TOther> of) => Ok ? of(Value!) : Result<TOther>.Not(Problem!);

    /// <summary>Done.</summary>
    public static implicit operator Result<T>(T value) => new(value, null);

    /// <summary>Not done.</summary>
    public static Result<T> Not(string problem) => new(default, problem);
}
