using ClearLexicon.Core.Fields;

namespace ClearLexicon.Web.Pages;

/// <summary>Reads the condition rows of a posted form.</summary>
internal static class ConditionEditing
{
    /// <summary>The condition; null when no row names a subject.</summary>
    public static Condition? Read(IFormCollection form)
    {
        var (subjects, operators, values) = (form["when-subject"], form["when-operator"], form["when-value"]);
        var comparisons = new List<Comparison>();
        for (var i = 0; i < subjects.Count; i++)
        {
            if (string.IsNullOrEmpty(subjects[i])) continue;
            var how = Enum.TryParse<Operator>(operators.ElementAtOrDefault(i), out var op) ? op : Operator.Is;
            comparisons.Add(new Comparison(subjects[i]!, how, how is Operator.IsEmpty or Operator.IsFilled ? "" : values.ElementAtOrDefault(i)?.Trim() ?? ""));
        }
        if (comparisons.Count == 0) return null;
        return new Condition(Enum.TryParse<Joined>(form["when-match"], out var match) ? match : Joined.All, comparisons);
    }
}
