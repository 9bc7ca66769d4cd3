using ClearLexicon.Core.Fields;

namespace ClearLexicon.Web.Forms;

/// <summary>The rows of a condition in a form.</summary>
public static class ConditionForm
{
    /// <summary>The condition; null when no row names a subject.</summary>
    public static Condition? Read(Form form)
    {
        var (subjects, operators, values) = (form.All("when-subject"), form.All("when-operator"), form.All("when-value"));
        var comparisons = new List<Comparison>();
        for (var i = 0; i < subjects.Count; i++)
        {
            if (subjects[i].Length == 0)
                continue;
            var how = Enum.TryParse<Operator>(operators.ElementAtOrDefault(i), out var op) ? op : Operator.Is;
            var with = how is Operator.IsEmpty or Operator.IsFilled ? "" : values.ElementAtOrDefault(i)?.Trim() ?? "";
            comparisons.Add(new Comparison(subjects[i], how, with));
        }
        return comparisons.Count == 0 ? null : new Condition(form.Choice("when-match", Joined.All), comparisons);
    }

    /// <summary>Puts a condition into a form.</summary>
    public static void Write(Condition? condition, Form form)
    {
        if (condition is null)
            return;
        form.Put("when-match", condition.Match.ToString());
        form.Put("when-subject", [.. condition.Comparisons.Select(c => c.Subject)]);
        form.Put("when-operator", [.. condition.Comparisons.Select(c => c.Operator.ToString())]);
        form.Put("when-value", [.. condition.Comparisons.Select(c => c.Value)]);
    }
}

/// <summary>The rows of cleaning steps in a form.</summary>
public static class StepsForm
{
    /// <summary>The steps; rows without a kind are left out.</summary>
    public static List<CleaningStep> Read(Form form, string kinds, string arguments)
    {
        var given = form.All(arguments);
        return
        [
            .. form.All(kinds)
                .Select((kind, i) => new CleaningStep(kind, (given.ElementAtOrDefault(i) ?? "").Trim()))
                .Where(s => s.Kind.Length > 0),
        ];
    }

    /// <summary>Puts steps into a form.</summary>
    public static void Write(IReadOnlyList<CleaningStep> steps, Form form, string kinds, string arguments)
    {
        form.Put(kinds, [.. steps.Select(s => s.Kind)]);
        form.Put(arguments, [.. steps.Select(s => s.Argument)]);
    }
}
