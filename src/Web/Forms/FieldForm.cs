using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Web.Forms;

/// <summary>A field as its form shows it and as it is read from one; the two are each other's reverse.</summary>
/// <param name="form">What stands in the blanks.</param>
public sealed class FieldForm(Form form)
{
    private const string May = "may",
        Must = "must",
        Sometimes = "when";

    /// <summary>The blanks.</summary>
    public Form Blanks => form;

    /// <summary>What the field holds.</summary>
    public FieldKind Kind => FieldKind.OrText(form["kind"].Text);

    /// <summary>When it must be filled: may, must or when.</summary>
    public string Requirement => form.Text("required") ?? May;

    /// <summary>Where its value comes from when nothing fills it.</summary>
    public DefaultSource DefaultFrom => form.Choice("default-from", DefaultSource.Constant);

    /// <summary>When it must be filled, if only then.</summary>
    public Condition? RequiredWhen => ConditionForm.Read(form);

    /// <summary>Its cleaning steps.</summary>
    public List<CleaningStep> Cleaning => StepsForm.Read(form, "step-kind", "step-argument");

    /// <summary>Whether something stands in the part that is folded away.</summary>
    public bool HasMore =>
        form.Text("default") is not null
        || DefaultFrom != DefaultSource.Constant
        || form.Text("standard") is not null
        || Cleaning.Count > 0;

    /// <summary>The form of a field; of none, a form to add one.</summary>
    public static FieldForm Of(Field? field)
    {
        var form = new Form();
        form.Put("kind", (field?.Kind ?? FieldKind.Text).Name);
        form.Put("shows", "yes");
        form.Tick("searched", field?.NotSearched != true);
        form.Tick("in-results", field?.NotInResults != true);
        if (field is null)
            return new FieldForm(form);
        form.Put("label", field.Label);
        form.Put("new-key", field.Key);
        form.Put(
            "required",
            field.Required ? Must
                : field.RequiredWhen is null ? May
                : Sometimes
        );
        ConditionForm.Write(field.RequiredWhen, form);
        form.Tick("restricted", field.Restricted);
        form.Put("help", field.Help);
        form.Put("example", field.Example);
        form.Put("standard", field.Standard);
        form.Put("default", field.Default);
        form.Put("default-from", field.DefaultFrom.ToString());
        StepsForm.Write(field.Cleaning ?? [], form, "step-kind", "step-argument");
        WriteKind(field, form);
        return new FieldForm(form);
    }

    private static void WriteKind(Field field, Form form)
    {
        switch (field)
        {
            case TextField text:
                form.Put("min-length", text.MinLength?.ToString());
                form.Put("max-length", text.MaxLength?.ToString());
                form.Put("pattern", text.Pattern);
                break;
            case RangedField ranged:
                form.Put("min", ranged.Min);
                form.Put("max", ranged.Max);
                if (ranged is AmountField amount)
                    form.Put("currencies", string.Join(", ", amount.Currencies ?? []));
                break;
            case VocabularyField terms:
                form.Put("vocabulary", terms.Vocabulary);
                form.Put("branch", terms.Branch);
                form.Put("level", terms.OnlyLevel?.ToString());
                form.Tick("leaves", terms.LeavesOnly);
                break;
            case IdentifierField { Scheme: { } scheme }:
                var house = scheme.StartsWith(CheckSchemes.House + " ", StringComparison.Ordinal);
                form.Put("scheme", house ? CheckSchemes.House : scheme);
                if (house)
                    form.Put("house", scheme[(CheckSchemes.House.Length + 1)..]);
                break;
        }
    }

    /// <summary>The field that the form describes; problems are noted at the blanks.</summary>
    /// <param name="was">The field before, whose columns and rows' rules stay; null for a new one.</param>
    public Field? Read(Field? was)
    {
        var label = form.Text("label") ?? "";
        if (label.Length is 0 or > DesignCheck.LongestName)
            form.Refuse("label", $"A field needs a label of at most {DesignCheck.LongestName} characters.");
        if (FieldKind.Find(form["kind"].Text) is not { } kind)
        {
            form.Refuse("kind", "Choose what the field holds.");
            return null;
        }
        var cleaning = Cleaning;
        if (cleaning.Select(CleaningSteps.Finding).FirstOrDefault(f => f is not null) is { } finding)
            form.Refuse("step-kind", finding);
        var field = ReadKind(kind, form.Text("new-key") ?? was?.Key ?? ShortName.From(label), label, was) with
        {
            Help = form.Text("help"),
            Required = Requirement == Must,
            RequiredWhen = Requirement == Sometimes ? RequiredWhen : null,
            Restricted = form.Ticked("restricted"),
            NotSearched = form.Has("shows") && !form.Ticked("searched"),
            NotInResults = form.Has("shows") && !form.Ticked("in-results"),
            Default = DefaultFrom is DefaultSource.Constant or DefaultSource.Formula ? form.Text("default") : null,
            DefaultFrom = DefaultFrom,
            Cleaning = cleaning.Count > 0 ? cleaning : null,
            Example = form.Text("example"),
            Standard = form.Text("standard"),
        };
        return form.Problem is null ? field : null;
    }

    private Field ReadKind(FieldKind kind, string key, string label, Field? was)
    {
        var field = kind.New(key, label);
        if (field is RangedField ranged)
        {
            foreach (var end in (string[])["min", "max"])
                if (form.Text(end) is { } limit && kind.WhyNotCompared(limit) is { } why)
                    form.Refuse(end, why);
            field = ranged with { Min = form.Text("min"), Max = form.Text("max") };
        }
        switch (field)
        {
            case TextField text:
                var pattern = form.Text("pattern");
                if (pattern is not null && !SafePattern.TryWhole(pattern, out _, out var problem))
                    form.Refuse("pattern", problem!);
                var (least, most) = (form.Number("min-length", "characters"), form.Number("max-length", "characters"));
                return text with { MinLength = least, MaxLength = most, Pattern = pattern };
            case AmountField amount:
                var codes = (form.Text("currencies") ?? "").ToUpperInvariant();
                return amount with { Currencies = codes.Split([',', ' ', ';'], StringSplitOptions.RemoveEmptyEntries) };
            case VocabularyField terms:
                var (vocabulary, level) = (form.Text("vocabulary"), form.Number("level", "a level"));
                return terms with
                {
                    Vocabulary = vocabulary,
                    Branch = form.Text("branch"),
                    OnlyLevel = level,
                    LeavesOnly = form.Ticked("leaves"),
                };
            case IdentifierField identifier:
                var scheme = form.Text("scheme");
                return identifier with { Scheme = scheme == CheckSchemes.House ? $"{CheckSchemes.House} {form.Text("house")}" : scheme };
            case TableField table when was is TableField before:
                return table with { Columns = before.Columns, RowRules = before.RowRules };
            default:
                return field;
        }
    }
}
