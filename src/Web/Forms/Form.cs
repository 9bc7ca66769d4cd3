using ClearLexicon.Core.Fields;
using Microsoft.Extensions.Primitives;

namespace ClearLexicon.Web.Forms;

/// <summary>One blank of a form.</summary>
/// <param name="Name">Name under which it is sent.</param>
/// <param name="Text">What stands in it, as it was typed.</param>
/// <param name="Problem">Why what was typed cannot be taken; null when it can.</param>
public sealed record Blank(string Name, string Text, string? Problem)
{
    /// <summary>Whether a box is ticked.</summary>
    public bool Ticked => Text == Form.On;
}

/// <summary>
/// The texts of a form by name, as typed, with what is wrong with each. Where they come from, a request or a part of a design that is
/// opened, and what they mean, is told elsewhere: <see cref="FieldForm"/>, <see cref="RuleForm"/> and the others.
/// </summary>
public sealed class Form
{
    /// <summary>What a ticked box sends.</summary>
    public const string On = "on";

    private readonly Dictionary<string, StringValues> _texts = new(StringComparer.Ordinal);
    private readonly Dictionary<string, string> _problems = new(StringComparer.Ordinal);

    /// <summary>An empty form.</summary>
    public Form() { }

    /// <summary>A form as it was sent.</summary>
    public Form(IEnumerable<KeyValuePair<string, StringValues>> sent)
    {
        foreach (var (name, texts) in sent)
            _texts[name] = texts;
    }

    /// <summary>Names that were sent.</summary>
    public IEnumerable<string> Names => _texts.Keys;

    /// <summary>The blank with a name; empty when it was not sent.</summary>
    public Blank this[string name] => new(name, _texts.GetValueOrDefault(name).ToString(), _problems.GetValueOrDefault(name));

    /// <summary>What is wrong with the form, as one sentence; null when nothing is.</summary>
    public string? Problem => _problems.Count == 0 ? null : string.Join(" ", _problems.Values);

    /// <summary>Whether a blank was sent, be it empty.</summary>
    public bool Has(string name) => _texts.ContainsKey(name);

    /// <summary>What was typed, without blanks around it; null when that is nothing.</summary>
    public string? Text(string name) => this[name].Text.Trim() is { Length: > 0 } text ? text : null;

    /// <summary>Whether a box was ticked.</summary>
    public bool Ticked(string name) => this[name].Ticked;

    /// <summary>All texts of one name, in the order of the page.</summary>
    public IReadOnlyList<string> All(string name) => [.. _texts.GetValueOrDefault(name).Select(t => t ?? "")];

    /// <summary>A whole number that is not negative; null when nothing was typed, or when it is none, which is noted.</summary>
    /// <param name="name">The blank.</param>
    /// <param name="of">What the number counts, for the message.</param>
    public int? Number(string name, string of)
    {
        if (Text(name) is not { } text)
            return null;
        if (int.TryParse(text, out var number) && number >= 0)
            return number;
        Refuse(name, $"“{text}” is not a number of {of}.");
        return null;
    }

    /// <summary>One of the words of an enumeration; another when it is none of them.</summary>
    public T Choice<T>(string name, T otherwise = default)
        where T : struct, Enum => Enum.TryParse<T>(this[name].Text, out var choice) && Enum.IsDefined(choice) ? choice : otherwise;

    /// <summary>Notes why what stands in a blank cannot be taken.</summary>
    public void Refuse(string name, string problem) => _problems.TryAdd(name, problem);

    /// <summary>Puts texts into a blank.</summary>
    public void Put(string name, params string?[] texts) => _texts[name] = new StringValues([.. texts.OfType<string>()]);

    /// <summary>Ticks a box, or not.</summary>
    public void Tick(string name, bool ticked) => Put(name, ticked ? On : null);
}
