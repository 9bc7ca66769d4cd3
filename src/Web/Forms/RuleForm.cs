using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Web.Forms;

/// <summary>A rule as its form shows it and as it is read from one; what it asks for comes from the kind's own blanks.</summary>
/// <param name="form">What stands in the blanks.</param>
public sealed class RuleForm(Form form)
{
    /// <summary>The blanks.</summary>
    public Form Blanks => form;

    /// <summary>Name of the blank of a kind's parameter.</summary>
    public static string NameOf(IRuleKind kind, RuleParameter parameter) => $"{kind.Code}.{parameter.Name}";

    /// <summary>The form of a rule; of none, a form to add one.</summary>
    public static RuleForm Of(Rule? rule)
    {
        var form = new Form();
        form.Put("kind", rule?.Kind ?? RuleKinds.All[0].Code);
        if (rule is null)
            return new RuleForm(form);
        form.Put("level", rule.Level.ToString());
        form.Put("message", rule.Message);
        foreach (var (language, text) in rule.Translations ?? new Dictionary<string, string>())
            form.Put($"message-{language}", text);
        ConditionForm.Write(rule.When, form);
        if (RuleKinds.Find(rule.Kind) is { } kind)
            foreach (var parameter in kind.Parameters)
                form.Put(NameOf(kind, parameter), parameter.NamesSeveral ? rule.Keys(parameter.Name) : [rule[parameter.Name]]);
        foreach (var (example, i) in rule.Examples.Select((e, i) => (e, i)))
        {
            form.Put($"example-{i}-passes", example.Passes ? "yes" : "no");
            foreach (var (field, text) in example.Record)
                form.Put($"example-{i}-of-{field}", text);
        }
        return new RuleForm(form);
    }

    /// <summary>The rule that the form describes; null when it has no kind.</summary>
    /// <param name="id">Its id.</param>
    public Rule? Read(string id)
    {
        if (RuleKinds.Find(form["kind"].Text) is not { } kind)
        {
            form.Refuse("kind", "Choose the kind of rule.");
            return null;
        }
        var parameters = kind.Parameters.ToDictionary(p => p.Name, p => Parameter(NameOf(kind, p)));
        var others = Messages
            .Languages.Select(l => (l.Code, Text: form.Text($"message-{l.Code}")))
            .Where(m => m.Text is not null)
            .ToDictionary(m => m.Code, m => m.Text!);
        return new Rule(id, kind.Code, form.Choice("level", Level.Must), parameters, form.Text("message"))
        {
            When = ConditionForm.Read(form),
            Translations = others.Count > 0 ? others : null,
            Examples = Examples(),
        };
    }

    /// <summary>An id that no rule of a type has.</summary>
    public static string NextId(DocumentType type)
    {
        var number = type.Rules.Count + 1;
        while (type.Rules.Any(r => r.Id == $"r{number}"))
            number++;
        return $"r{number}";
    }

    private string Parameter(string name) => string.Join(',', form.All(name).Select(v => v.Trim()).Where(v => v.Length > 0));

    // Each example is a row: whether it passes, and a text for each field that the rule names.
    private List<RuleExample> Examples()
    {
        var examples = new List<RuleExample>();
        for (var i = 0; form.Has($"example-{i}-passes"); i++)
        {
            var prefix = $"example-{i}-of-";
            var record = form
                .Names.Where(n => n.StartsWith(prefix, StringComparison.Ordinal))
                .Select(n => (Field: n[prefix.Length..], Text: form.Text(n)))
                .Where(r => r.Text is not null)
                .ToDictionary(r => r.Field, r => r.Text!);
            if (form[$"example-{i}-passes"].Text is var verdict and ("yes" or "no"))
                examples.Add(new RuleExample(verdict == "yes", record));
        }
        return examples;
    }
}
