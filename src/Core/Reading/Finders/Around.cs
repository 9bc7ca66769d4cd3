using System.Globalization;
using ClearLexicon.Core.Reading.Stacks;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>How a document came.</summary>
/// <param name="Path">Sub-folder and name of its file.</param>
/// <param name="Day">The day on which it was brought; null when nobody knows.</param>
/// <param name="Person">Who brought it; empty when nobody knows.</param>
/// <param name="WayIn">Name of the way it came; empty when nobody knows.</param>
public sealed record Arrival(string Path, DateOnly? Day = null, string Person = "", string WayIn = "");

/// <summary>Values that stand on no page: constants, what is known of how the document came, other fields.</summary>
internal static class Around
{
    private const string Value = "value";

    private const string Field = "field";

    public static bool IsAnotherField(Finder finder) => finder.Kind == Field;

    public static Found? Constant(Search search) => Known(search.Finder.Text, "always the same");

    public static Found? FileName(Search search) =>
        Known(NameTemplate.Read(search.Finder.Text, search.Context.Arrival.Path).GetValueOrDefault(Value), "from the name of the file");

    public static Found? Day(Search search) =>
        Known(search.Context.Arrival.Day?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture), "the day it came");

    public static Found? Person(Search search) => Known(search.Context.Arrival.Person, "who brought it");

    public static Found? WayIn(Search search) => Known(search.Context.Arrival.WayIn, "the way it came");

    public static Found? AnotherField(Search search) => search.Other(search.Finder.Text);

    private static Found? Known(string? text, string reason) =>
        string.IsNullOrEmpty(text) ? null : new Found(Evidence.NoPlace with { Raw = text }, reason);
}
