using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Services;

namespace ClearLexicon.Web.Pages;

/// <summary>Carries a posted rule form into a design; what it asks for comes from the kind's own blanks.</summary>
internal static class RuleEditing
{
    /// <summary>Adds a rule (empty id) or changes one.</summary>
    public static Result<DocumentType> Apply(DocumentType type, string id, IFormCollection form)
    {
        if (RuleKinds.Find(form["kind"].ToString()) is not { } kind) return Result<DocumentType>.Not("Choose the kind of rule.");
        var parameters = kind.Parameters.ToDictionary(p => p.Name, p => string.Join(',', form[$"{kind.Code}.{p.Name}"].Where(v => !string.IsNullOrWhiteSpace(v)).Select(v => v!.Trim())));
        var level = form["level"] == nameof(Level.Should) ? Level.Should : Level.Must;
        var message = form["message"].ToString().Trim();
        var rule = new Rule(id.Length > 0 ? id : NextId(type), kind.Code, level, parameters, message.Length == 0 ? null : message);
        if (RuleKinds.Fault(rule, type) is { } fault) return Result<DocumentType>.Not(fault);
        return type with { Rules = id.Length == 0 ? [.. type.Rules, rule] : [.. type.Rules.Select(r => r.Id == id ? rule : r)] };
    }

    private static string NextId(DocumentType type)
    {
        var number = type.Rules.Count + 1;
        while (type.Rules.Any(r => r.Id == $"r{number}")) number++;
        return $"r{number}";
    }
}
