using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;

namespace ClearLexicon.Web.Pages;

/// <summary>Carries a posted rule form into a design; what it asks for comes from the kind's own blanks.</summary>
internal static class RuleEditing
{
    /// <summary>Adds a rule (empty id) or changes one.</summary>
    /// <param name="type">The type as its steward wrote it.</param>
    /// <param name="whole">The type with its inherited fields, which rules may name.</param>
    /// <param name="id">Id of the rule; empty for a new one.</param>
    /// <param name="form">The posted form.</param>
    public static Result<DocumentType> Apply(DocumentType type, DocumentType whole, string id, IFormCollection form)
    {
        var read = Read(type, id, form);
        if (!read.Ok) return Result<DocumentType>.Not(read.Problem!);
        var rule = read.Value!;
        if (RuleKinds.Finding(rule, whole) is { } finding) return Result<DocumentType>.Not(finding);
        return type with { Rules = id.Length == 0 ? [.. type.Rules, rule] : [.. type.Rules.Select(r => r.Id == id ? rule : r)] };
    }

    /// <summary>The rule that a form describes.</summary>
    public static Result<Rule> Read(DocumentType type, string id, IFormCollection form)
    {
        if (RuleKinds.Find(form["kind"].ToString()) is not { } kind) return Result<Rule>.Not("Choose the kind of rule.");
        var parameters = kind.Parameters.ToDictionary(p => p.Name, p => string.Join(',', form[$"{kind.Code}.{p.Name}"].Where(v => !string.IsNullOrWhiteSpace(v)).Select(v => v!.Trim())));
        var level = form["level"] == nameof(Level.Should) ? Level.Should : Level.Must;
        var message = form["message"].ToString().Trim();
        var others = Messages.Languages.Select(l => (l.Code, Text: form[$"message-{l.Code}"].ToString().Trim())).Where(m => m.Text.Length > 0).ToDictionary(m => m.Code, m => m.Text);
        return new Rule(id.Length > 0 ? id : NextId(type), kind.Code, level, parameters, message.Length == 0 ? null : message)
        {
            When = ConditionEditing.Read(form),
            Translations = others.Count > 0 ? others : null,
            Examples = Examples(form),
        };
    }

    // Each example is a row: whether it passes, and a text for each field that the rule names.
    private static List<RuleExample> Examples(IFormCollection form)
    {
        var examples = new List<RuleExample>();
        for (var i = 0; form.ContainsKey($"example-{i}-passes"); i++)
        {
            var prefix = $"example-{i}-of-";
            var record = form.Keys.Where(k => k.StartsWith(prefix, StringComparison.Ordinal)).Select(k => (Field: k[prefix.Length..], Text: form[k].ToString().Trim())).Where(r => r.Text.Length > 0).ToDictionary(r => r.Field, r => r.Text);
            var verdict = form[$"example-{i}-passes"].ToString();
            if (verdict is "yes" or "no") examples.Add(new RuleExample(verdict == "yes", record));
        }
        return examples;
    }

    private static string NextId(DocumentType type)
    {
        var number = type.Rules.Count + 1;
        while (type.Rules.Any(r => r.Id == $"r{number}")) number++;
        return $"r{number}";
    }
}
