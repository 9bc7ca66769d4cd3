using ClearLexicon.Core.Reading.Stacks;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>Values that stand on no page.</summary>
internal static class Around
{
    private const string Value = "value";

    public static Found? Constant(Search search) => new(Outside(search.Finder.Text), "always the same");

    public static Found? FileName(Search search) =>
        NameTemplate.Read(search.Finder.Text, search.Context.Path).GetValueOrDefault(Value) is { Length: > 0 } value
            ? new Found(Outside(value), "from the name of the file")
            : null;

    private static Evidence Outside(string text) => Evidence.NoPlace with { Raw = text };
}
