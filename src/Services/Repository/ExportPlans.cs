using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Formats;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>What a plan would send out, without sending anything.</summary>
/// <param name="Documents">How many documents.</param>
/// <param name="Rows">The first records, as texts in the order of the columns.</param>
/// <param name="Files">Names of the first files.</param>
/// <param name="Looked">How many documents were looked at for what stands against them.</param>
/// <param name="Left">Those among them that would not leave, with the reasons.</param>
public sealed record ExportLook(
    FoundCount Documents,
    IReadOnlyList<IReadOnlyList<string>> Rows,
    IReadOnlyList<string> Files,
    int Looked,
    IReadOnlyList<(long Document, string Name, string Reason)> Left
);

/// <summary>Plans of what leaves the house: kept, checked, looked at before anything is written. <see cref="Exports"/> runs them.</summary>
public sealed class ExportPlans(Database database, DataFolder folder, Designs designs, SearchRequests requests, TimeProvider clock)
{
    /// <summary>Documents that a look goes through one by one.</summary>
    public const int MostLooked = 200;

    private const int Shown = 8,
        LongestName = 80;

    /// <summary>Columns besides fields, in the order they are offered.</summary>
    public static IReadOnlyList<(string Key, string Label)> Around { get; } =
    [("@id", "Document number"), ("@folder", "Folder"), ("@name", "Name"), ("@filed", "Filed on")];

    /// <summary>All plans, by name.</summary>
    public List<ExportPlan> All() => database.Read(ExportStore.All);

    /// <summary>One plan, or null.</summary>
    public ExportPlan? Find(long id) => database.Read(c => ExportStore.Find(c, id));

    /// <summary>A plan for a question: the fields that it shows, as CSV.</summary>
    public ExportDefinition For(ViewDefinition asks, Rights rights)
    {
        var asked = requests.For(asks, rights);
        return new ExportDefinition
        {
            Asks = asks,
            Columns =
            [
                .. Around.Skip(1).Take(2).Select(a => new ExportColumn(a.Key, a.Label)),
                .. (asks.Columns.Count > 0 ? asked.Columns : asked.Fields.Fields)
                    .Where(f => !f.Restricted)
                    .Select(f => new ExportColumn(f.Key, f.Label)),
            ],
            Folder = asked.Type?.Name ?? "",
        };
    }

    /// <summary>
    /// Columns that a person wrote, a line each: a label or key, and behind an equals sign what it is called in the file.
    /// </summary>
    public static Result<List<ExportColumn>> Columns(string lines, TypeFields fields)
    {
        var columns = new List<ExportColumn>();
        foreach (var line in lines.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var at = line.IndexOf('=', StringComparison.Ordinal);
            var (name, heading) = at < 0 ? (line, "") : (line[..at].Trim(), line[(at + 1)..].Trim());
            var found =
                Around.FirstOrDefault(a => a.Label.Equals(name, StringComparison.OrdinalIgnoreCase) || a.Key == name)
                    is { Key: { } key } around
                    ? (around.Key, around.Label)
                : fields.FindNamed(name) is { } field ? (field.Key, field.Label)
                : default;
            if (found.Key is null)
                return Result<List<ExportColumn>>.Not($"“{name}” is not a field of this document type.");
            columns.Add(new ExportColumn(found.Key, heading.Length > 0 ? heading : found.Label));
        }
        return columns;
    }

    /// <summary>Keeps a plan; a new one for id 0.</summary>
    /// <param name="id">The plan.</param>
    /// <param name="name">Its name.</param>
    /// <param name="what">What leaves, and how.</param>
    /// <param name="who">Who keeps it.</param>
    /// <param name="rights">What they may see.</param>
    /// <param name="guard">Says why it must not be saved over what is there; null when it may.</param>
    public Result<long> Save(
        long id,
        string name,
        ExportDefinition what,
        string who,
        Rights rights,
        Func<ExportDefinition?, string?>? guard = null
    )
    {
        name = name.Trim();
        if (name.Length is 0 or > LongestName)
            return Result<long>.Not($"Give the plan a name of up to {LongestName} characters.");
        what = what with { Folder = what.Folder.Trim() };
        if (WhyNot(what, rights) is { } problem)
            return Result<long>.Not(problem);
        return database.Write<Result<long>>(c =>
        {
            var was = ExportStore.Find(c, id);
            if (id > 0 && was is null)
                return Result<long>.Not("This plan no longer exists.");
            if (was is not null && !Sql.AreSame(was.What, what) && guard?.Invoke(was.What) is { } changed)
                return Result<long>.Not(changed);
            var kept = ExportStore.Save(c, id, name, who, what, clock.GetUtcNow());
            ExportStore.SetNext(c, kept, Next(what));
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                id == 0 ? "made an export plan" : "changed an export plan",
                new LedgerSubject(SubjectKind.ExportPlan, name)
            );
            return kept;
        });
    }

    /// <summary>When a plan is run next by itself; null for never.</summary>
    internal DateTimeOffset? Next(ExportDefinition what) =>
        ExportSchedule.Time(what.At) is { } at && ExportSchedule.Next(what.Every, at, clock.GetLocalNow().DateTime) is { } next
            ? new DateTimeOffset(next, clock.LocalTimeZone.GetUtcOffset(next))
            : null;

    /// <summary>Takes a plan away, or puts it back; what it sent out stays.</summary>
    public void SetRemoved(long id, bool removed, string who) =>
        database.Write(c =>
        {
            if (ExportStore.Find(c, id) is not { } plan)
                return;
            ExportStore.SetRemoved(c, id, removed ? clock.GetUtcNow() : null);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                removed ? "removed an export plan" : "put an export plan back",
                new LedgerSubject(SubjectKind.ExportPlan, plan.Name)
            );
        });

    /// <summary>Why a plan cannot be run by a person; null when it can.</summary>
    public string? WhyNot(ExportDefinition what, Rights rights)
    {
        var asked = requests.For(what.Asks, rights);
        if (asked.Fault is { } fault)
            return $"Which documents: {fault.Says}";
        if (asked.Type is null)
            return "Choose a document type: fields belong to types.";
        if (what.Columns.Count == 0)
            return "Name at least one column.";
        if (what.Columns.FirstOrDefault(k => !k.Key.StartsWith('@') && asked.Fields.Find(k.Key) is null) is { } gone)
            return $"The column “{gone.Heading}” belongs to a field that is not in the document type, or that you may not see.";
        if (what.Columns.FirstOrDefault(k => what.Hide.Contains(k.Key)) is { } hidden)
            return $"“{hidden.Heading}” is hidden on the copies, so it cannot be a column.";
        if (what.Columns.GroupBy(k => k.Heading, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Count() > 1) is { } twice)
            return $"Two columns are called “{twice.Key}”.";
        if (what.Columns.FirstOrDefault(k => k.Heading.Length > 100 || k.Heading.Any(char.IsControl)) is { } odd)
            return $"The heading “{odd.Heading[..Math.Min(30, odd.Heading.Length)]}…” is longer than 100 characters, or holds control "
                + "characters.";
        if (what.Folder.Length is 0 or > LongestName || DataFolder.SafeName(what.Folder) != what.Folder || what.Folder.StartsWith('.'))
            return $"The folder needs a name of up to {LongestName} characters, without / \\ : * ? \" < > | and without a dot at its ends.";
        return !Formats.ContainsKey(what.Format)
            || !RecordFiles.DateShapes.Contains(what.Dates)
            || what.Files is not ("none" or "filed" or "redacted" or "marked" or "strips")
            || what.Pages is not ("pdf" or "pdfa" or "png" or "tiff")
            || what.Naming is not ("tree" or "flat" or "number")
            || what.Taken is not ("beside" or "replace" or "stop")
            || ExportSchedule.All.All(e => e.Word != what.Every)
                ? "The plan contains an option that does not exist."
            : what.Every.Length > 0 && ExportSchedule.Time(what.At) is null ? $"“{what.At}” is not a time of day. Write 02:30."
            : what is { Every.Length: > 0, Taken: "stop" }
                ? "It could only run once by itself: choose that the folder is replaced, or that a new one is made beside it."
            : what is { Files: "marked", Pages: "pdfa" }
                ? "Squares are annotations, which PDF/A does not keep as they are: choose PDF for marked copies."
            : what.Files is "marked" or "strips" ? DocumentCopies.Look(what).Finding
            : null;
    }

    /// <summary>Formats by their words in plans.</summary>
    public static IReadOnlyDictionary<string, RecordFormat> Formats { get; } =
        new Dictionary<string, RecordFormat>(StringComparer.Ordinal)
        {
            ["csv"] = RecordFormat.Csv,
            ["xlsx"] = RecordFormat.Xlsx,
            ["jsonl"] = RecordFormat.JsonLines,
            ["xml"] = RecordFormat.Xml,
        };

    /// <summary>What a plan would send out; nothing is written.</summary>
    public ExportLook? Look(ExportDefinition what, Rights rights)
    {
        if (WhyNot(what, rights) is not null)
            return null;
        var asked = requests.For(what.Asks, rights);
        var leaving = Leaving.Of(what, asked.Type!, designs, folder);
        return database.Read(c =>
        {
            var found = RepositorySearch.Find(c, asked.Query, MostLooked);
            var left = new List<(long, string, string)>();
            var files = new List<string>();
            foreach (var document in found.Documents)
                if (leaving.WhyNot(document, what.Files == "none" ? [] : DocumentStore.Pages(c, document.Id)) is { } reason)
                    left.Add((document.Id, document.Name!, reason));
                else if (files.Count < Shown && what.Files != "none")
                    files.Add(leaving.PathOf(document));
            return new ExportLook(
                found.Total,
                [.. found.Documents.Take(Shown).Select(d => leaving.Row(d).Texts)],
                files,
                found.Documents.Count,
                left
            );
        });
    }
}

/// <summary>How documents leave by one plan: their records, the names of their files, what stands against it.</summary>
internal sealed class Leaving
{
    private readonly ExportDefinition _what;
    private readonly CompiledType _type;
    private readonly DataFolder _folder;
    private readonly Designs _designs;

    private readonly Lazy<CompiledType> _strips;

    private Leaving(ExportDefinition what, CompiledType type, DataFolder folder, Designs designs)
    {
        (_what, _type, _folder, _designs) = (what, type, folder, designs);
        _strips = new(() =>
            new CompiledType(
                type.Type with
                {
                    Fields = [.. type.Type.Fields.Select(f => what.Columns.Any(k => k.Key == f.Key) ? f with { Restricted = false } : f)],
                },
                designs.Vocabularies,
                designs.Tables
            )
        );
        Columns =
        [
            .. what.Columns.Select(k =>
                k.Key.StartsWith('@')
                    ? new RecordColumn(k.Heading, k.Key, k.Key == "@filed" ? FieldKind.Date : FieldKind.Text)
                    : Column(k.Heading, type.Type.Find(k.Key)!)
            ),
        ];
        Shape = new RecordShape(what.Dates, what.Comma);
    }

    /// <summary>The columns of its records.</summary>
    public IReadOnlyList<RecordColumn> Columns { get; }

    /// <summary>How values look.</summary>
    public RecordShape Shape { get; }

    /// <summary>How documents of a type leave by a plan.</summary>
    public static Leaving Of(ExportDefinition what, DocumentType type, Designs designs, DataFolder folder) =>
        new(what, RedactedCopy.Hiding(designs.Published[type.Code].Type, what.Hide, designs), folder, designs);

    private static RecordColumn Column(string heading, Field field) =>
        new(heading, field.Key, field.Kind, [.. field.Columns.Select(c => Column(c.Key, c))]);

    /// <summary>What a document's copy hides.</summary>
    public Core.Reading.Redaction Redaction(StoredDocument document) => FullText.Redaction(document, _type);

    /// <summary>What strips of a document hide: all that is restricted or hidden, but for the fields that the plan names.</summary>
    public Core.Reading.Redaction RedactionOfStrips(StoredDocument document) => FullText.Redaction(document, _strips.Value);

    /// <summary>Keys of the fields that leave.</summary>
    public IEnumerable<string> Fields => _what.Columns.Select(k => k.Key).Where(k => !k.StartsWith('@'));

    /// <summary>What a field is called.</summary>
    public string LabelOf(string field) => _type.Type.LabelOf(field);

    private bool Redacts => _what.Files == "redacted" || _what.Hide.Count > 0;

    /// <summary>The record of a document. Folder and name are left out where they would show what is hidden.</summary>
    public RecordRow Row(StoredDocument document)
    {
        Lazy<bool> told = new(() => Redacts && Redaction(document).Hides($"{document.Folder}/{document.Name}"));
        return new RecordRow(
            document.Id,
            [
                .. Columns.Select(column =>
                    column.Key switch
                    {
                        "@id" => document.Id.ToString(System.Globalization.CultureInfo.InvariantCulture),
                        "@folder" => told.Value ? "" : document.Folder ?? "",
                        "@name" => told.Value ? "" : document.Name ?? "",
                        "@filed" => document.FiledAt is { } at
                            ? _designs.DayOf(at).ToString("O", System.Globalization.CultureInfo.InvariantCulture)
                            : "",
                        _ => document.Record.GetValueOrDefault(column.Key, ""),
                    }
                ),
            ]
        );
    }

    /// <summary>Why a document's file does not leave; null when it does.</summary>
    public string? WhyNot(StoredDocument document, IReadOnlyList<StoredPage> pages) =>
        _what.Files switch
        {
            "none" => null,
            "redacted" => RedactedCopy.WhyNot(Redaction(document), pages, _type.Type),
            _ => !document.HasFile ? "Its file is where the migration found it, not in the repository."
            : _what.Files == "strips" ? null
            : !File.Exists(_folder.InRepository(document.Folder!, document.Name!)) ? "There is no file where the repository should have it."
            : null,
        };

    private string Ending(string name) =>
        (_what.Files, _what.Pages) switch
        {
            ("none", _) => Path.GetExtension(name),
            ("strips", _) => "",
            (_, "png") => ".png",
            (_, "tiff") => ".tif",
            _ => Path.GetExtension(name),
        };

    /// <summary>The path of a document's file in the run; one that would show what is hidden is its number.</summary>
    public string PathOf(StoredDocument document)
    {
        var name = document.Name!;
        if (_what.Naming == "number" || Redacts && Redaction(document).Hides($"{document.Folder}/{name}"))
            return $"{document.Id}{Ending(name)}";
        name = Path.GetFileNameWithoutExtension(name) + Ending(name);
        return _what.Naming == "flat" || document.Folder is not { Length: > 0 } folder ? name : $"{folder}/{name}";
    }
}
