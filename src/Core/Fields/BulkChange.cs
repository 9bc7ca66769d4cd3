namespace ClearLexicon.Core.Fields;

/// <summary>What a bulk edit does to a value.</summary>
public enum BulkAct
{
    /// <summary>Puts a text in place of what stands there.</summary>
    Set,

    /// <summary>Takes out what stands there.</summary>
    Clear,

    /// <summary>Replaces a part of the text, regardless of case, wherever it stands.</summary>
    Replace,

    /// <summary>Adds a term.</summary>
    Add,

    /// <summary>Removes a term.</summary>
    Remove,

    /// <summary>Works out anew what the field computes.</summary>
    Compute,
}

/// <summary>One change of one field that many documents get.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Act">What is done.</param>
/// <param name="Text">The text that is set, added, removed or looked for.</param>
/// <param name="With">What <see cref="BulkAct.Replace"/> puts in its place.</param>
public sealed record BulkChange(string Field, BulkAct Act, string Text = "", string With = "")
{
    /// <summary>What can be done to fields of a kind, in the order it is offered.</summary>
    /// <param name="field">The field.</param>
    public static IEnumerable<BulkAct> For(Field field) =>
        [
            .. field.Kind.HasRows ? [] : new[] { BulkAct.Set },
            .. field.Kind.IsMultiple ? new[] { BulkAct.Add, BulkAct.Remove } : [],
            .. field.Kind.IsWritten ? new[] { BulkAct.Replace } : [],
            .. field.DefaultFrom == DefaultSource.Formula ? new[] { BulkAct.Compute } : [],
            BulkAct.Clear,
        ];

    /// <summary>Why it cannot be done, in one sentence; null when it can.</summary>
    public string? Finding(TypeFields type)
    {
        if (type.Find(Field) is not { } field)
            return "Choose a field.";
        if (!For(field).Contains(Act))
            return $"{field.Label} is {field.Kind.Label}; that cannot be done to it.";
        return Act is BulkAct.Clear or BulkAct.Compute || Text.Trim().Length > 0 ? null : "Write the value.";
    }

    /// <summary>The text of a field after it; empty when nothing stands there then.</summary>
    public string Of(string before) =>
        Act switch
        {
            BulkAct.Set => Text.Trim(),
            BulkAct.Replace => before.Replace(Text, With, StringComparison.OrdinalIgnoreCase),
            BulkAct.Add => FieldParsing.Terms(before) is var terms && terms.Contains(Text.Trim(), StringComparer.OrdinalIgnoreCase)
                ? before
                : string.Join("; ", terms.Append(Text.Trim())),
            BulkAct.Remove => string.Join(
                "; ",
                FieldParsing.Terms(before).Where(t => !t.Equals(Text.Trim(), StringComparison.OrdinalIgnoreCase))
            ),
            _ => "",
        };

    /// <summary>It in words.</summary>
    public string InWords(TypeFields type) =>
        Act switch
        {
            BulkAct.Set => $"Set {type.LabelOf(Field)} to “{Text}”",
            BulkAct.Clear => $"Clear {type.LabelOf(Field)}",
            BulkAct.Replace => $"In {type.LabelOf(Field)}, replace “{Text}” by “{With}”",
            BulkAct.Add => $"Add “{Text}” to {type.LabelOf(Field)}",
            BulkAct.Remove => $"Remove “{Text}” from {type.LabelOf(Field)}",
            _ => $"Work out {type.LabelOf(Field)} again",
        };
}
