using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>One page a document type or field group: its fields, its rules, its convention, and in the margin what they lead to.</summary>
public sealed partial class TypeModel(Designs designs, Drafts drafts, NewFields newFields, TaughtReaders readers, FiledSearch search)
    : PlacePage
{
    public TypeState State { get; private set; } = null!;

    /// <summary>What the steward wrote.</summary>
    public DocumentType Type => State.Draft;

    /// <summary>With everything it inherits.</summary>
    public DocumentType Whole { get; private set; } = null!;

    public CompiledType Compiled { get; private set; } = null!;

    public List<Finding> Findings { get; private set; } = [];

    public IReadOnlyDictionary<string, VocabularyIndex> Vocabularies { get; private set; } = new Dictionary<string, VocabularyIndex>();

    public IReadOnlyDictionary<string, ReferenceTable> Tables => designs.Tables;

    public List<TypeVersion> Versions { get; private set; } = [];

    public List<TypeState> All { get; private set; } = [];

    /// <summary>What publishing would change, in words.</summary>
    public List<DesignChange> Changes { get; private set; } = [];

    /// <summary>Where sample documents would go: real ones first, made-up ones when there are none.</summary>
    public List<Placement> Preview { get; private set; } = [];

    public bool PreviewIsReal { get; private set; }

    public string?[] Example { get; private set; } = [];

    /// <summary>Texts that occur, by field key: for cleaning and patterns to be seen on.</summary>
    public List<IReadOnlyDictionary<string, string>> Occurring { get; private set; } = [];

    /// <summary>A few of the values that a field has in them.</summary>
    public IEnumerable<string> OccurringIn(string field) =>
        Occurring.Select(r => r.GetValueOrDefault(field)).OfType<string>().Distinct(StringComparer.Ordinal).Take(8);

    public Dictionary<string, List<string>> ReadBy { get; private set; } = [];

    /// <summary>A filling as it was typed and could not be taken.</summary>
    public (string Id, Form Form)? TypedFilling { get; private set; }

    /// <summary>A filling as its form shows it; null for a new one.</summary>
    public FillingView FillingAs(string id, Filling? filling)
    {
        var form =
            TypedFilling is { } typed && typed.Id == id
                ? typed.Form
                : FillingForm.Write(
                    filling ?? new Filling("", new Dictionary<string, string>(), new Dictionary<string, string>(), false),
                    Tables
                );
        return new FillingView(id, form, [.. Whole.Fields.Where(f => !f.Kind.HasRows)], Tables.GetValueOrDefault(form["table"].Text));
    }

    /// <summary>Guesses from a paste, waiting to be added.</summary>
    public IReadOnlyList<GuessedField> Guesses { get; private set; } = [];

    public string Pasted { get; private set; } = "";

    /// <summary>Examples that were suggested for the open rule, not yet kept.</summary>
    public IReadOnlyList<RuleExample> Suggested { get; private set; } = [];

    /// <summary>Whether the open form is shown empty, because what it held was kept.</summary>
    public bool Blank { get; private set; }

    /// <summary>Id of the input that takes the focus.</summary>
    public string? Focus { get; private set; }

    public IActionResult OnGet(string code, string? open)
    {
        Open = open;
        return Load(code);
    }

    /// <summary>What stands in one row, fetched when it is opened.</summary>
    /// <param name="code">The type.</param>
    /// <param name="what">What the row is: field, rule or inherited.</param>
    /// <param name="key">Key of the field or column, or id of the rule; none for the row that adds one.</param>
    /// <param name="table">The table whose columns and rules are meant.</param>
    public IActionResult OnGetRow(string code, string what, string? key, string? table)
    {
        if (!Fetch(code))
            return NotFound();
        if (table is not null && Type.Find(table) is not TableField)
            return NotFound();
        var rows = table is null ? Type : DocumentType.OfRows(Type.Find(table)!);
        var of = table is null ? Whole : rows;
        switch (what)
        {
            case "inherited":
                return Whole.Find(key) is { From: not null } taken
                    ? Partial("_InheritedForm", new InheritedPart(this, taken, Whole.OrdinalOf(key)))
                    : NotFound();
            case "rule":
                var rule = rows.Rules.FirstOrDefault(r => r.Id == key);
                return rule is null && key is not null ? NotFound() : Partial("_RuleForm", new RulePart(this, of, table, rule));
            default:
                var field = rows.Find(key);
                return field is null && key is not null
                    ? NotFound()
                    : Partial("_FieldForm", new FieldPart(this, of, table, field, of.OrdinalOf(key)));
        }
    }

    /// <summary>A convention in one line, for lists.</summary>
    public static string Outline(DocumentType type) =>
        type.Convention.Name.Count == 0
            ? ""
            : (type.Convention.Folder.Count > 0 ? DesignDifference.Outline(type.Convention.Folder, type) + " / " : "")
                + DesignDifference.Outline(type.Convention.Name, type);

    /// <summary>Name of the type or group that a part is inherited from.</summary>
    public string NameOf(string code) => All.FirstOrDefault(t => t.Draft.Code == code)?.Draft.Name ?? code;

    /// <summary>Whether a row is open: the row itself, or the table that it stands in.</summary>
    public bool IsOpen(string id) =>
        Open == id
        || Open?.StartsWith(id + "|", StringComparison.Ordinal) == true
        || Open?.EndsWith("|" + id, StringComparison.Ordinal) == true;

    /// <summary>Whether what was typed into a row was not kept, so that it is shown again.</summary>
    public bool IsTyped(string id) => Open == id || Open?.EndsWith("|" + id, StringComparison.Ordinal) == true;

    /// <summary>The form in a field's row: as it was sent when it was not kept, else as the field is.</summary>
    public FieldForm FormOf(string? table, Field? field) =>
        Problem is not null && !Blank && IsTyped(RowOf(table, field)) && Posted.Has("label") ? new FieldForm(Posted) : FieldForm.Of(field);

    /// <summary>What stands in a rule's row: the rule as its form describes it, and its examples with what becomes of them today.</summary>
    public RuleView ViewOf(DocumentType of, string? table, Rule? rule)
    {
        // A row that was sent and not kept, or whose examples were asked for, is shown as it was sent.
        var sent = IsOpen(table, rule) && Posted.Has("level") && (Problem is not null || Suggested.Count > 0 || Done is not null);
        var form = sent ? new RuleForm(Posted) : RuleForm.Of(rule);
        if (form.Read(rule?.Id ?? "") is not { } shown)
            return new RuleView(form, null, [], []);
        IReadOnlyList<RuleExample> examples = sent ? [.. shown.Examples, .. Suggested] : shown.Examples;
        if (RuleKinds.Finding(shown, of) is not null || table is not null || shown.Kind == Unique.Kind)
            return new RuleView(form, shown, [], []);
        var judged = RuleExamples.Run(shown with { Examples = examples }, Compiled, designs.Now(EntryChannel.Desk, Who)).ToList();
        return new RuleView(form, shown, [.. RuleExamples.Fields(shown, of)], [.. examples.Zip(judged)]);
    }

    /// <summary>Whether a rule's row is open.</summary>
    public bool IsOpen(string? table, Rule? rule) =>
        (rule?.Id ?? "new-rule") is var id && (table is null ? IsOpen(id) : Open == $"{table}|{id}");

    /// <summary>Name of the row of a field, or of the row that adds one.</summary>
    public static string RowOf(string? table, Field? field) => (table is null ? "" : $"{table}--") + (field?.Key ?? "new");

    /// <summary>Findings at a field of the type.</summary>
    public List<Finding> FindingsOf(string? table, Field? field) =>
        table is not null || field is null ? [] : [.. Findings.Where(f => f.Place == field.Key)];

    /// <summary>Findings at a rule of the type.</summary>
    public List<Finding> FindingsOf(string? table, Rule? rule) =>
        table is not null || rule is null ? [] : [.. Findings.Where(f => f.Place == rule.Id)];

    private IActionResult Load(string code)
    {
        if (!Fetch(code))
            return NotFound();
        Versions = designs.Versions(code);
        if (Versions.Count > 0 && State.DraftOpen)
            Changes = [.. DesignDifference.InWords(Versions[0].Design, Whole)];
        ReadBy = readers
            .All()
            .Where(r => r.TypeCode == code)
            .SelectMany(r => r.Crosswalk.Select(l => (l.Field, r.Name)))
            .GroupBy(l => l.Field)
            .ToDictionary(g => g.Key, g => g.Select(l => l.Name).ToList());
        PreviewIsReal = Occurring.Count > 0;
        var samples = PreviewIsReal
            ? [.. Occurring.Take(4).Select(record => RecordJudge.Texts(Compiled, record))]
            : SampleRecords.For(Whole, Vocabularies);
        Example = samples[0];
        var now = designs.Now(EntryChannel.Desk, Who);
        if (!Type.IsGroup)
            Preview = [.. samples.Select(s => Compiled.Judge(s, now).Placement)];
        return Page();
    }

    // What a row needs; the page around it needs more.
    private bool Fetch(string code)
    {
        if (designs.Find(code) is not { } state)
            return false;
        State = state;
        Whole = designs.Resolve(Type);
        All = designs.All();
        Vocabularies = designs.Vocabularies;
        Findings = drafts.Findings(Type);
        Compiled = new CompiledType(Whole, Vocabularies, designs.Tables);
        Occurring = [.. search.Some(code, 40).Select(d => d.Record)];
        return true;
    }
}
