using System.IO.Compression;
using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>One export plan: what leaves and how, a look at it, its runs.</summary>
public sealed class ExportModel(ExportPlans plans, Exports exports, SearchRequests requests, Jobs jobs, Ledger ledger) : PlacePage
{
    /// <summary>Documents that did not leave, up to which they are counted.</summary>
    public const int MostLeft = 100;

    public long Id { get; private set; }

    public string Name { get; private set; } = "";

    public ExportDefinition What { get; private set; } = new();

    /// <summary>The plan as the form is opened with.</summary>
    public string SeenAs => Id > 0 ? Seen.Of(plans.Find(Id)?.What) : "";

    /// <summary>The columns as they are written, a line each.</summary>
    public string Columns { get; private set; } = "";

    public SearchRequest Asked { get; private set; } = null!;

    public ExportLook? Look { get; private set; }

    public Job? Running { get; private set; }

    public List<(Run<ExportOrder> Run, (long Files, long Bytes) Size, List<RunStep<DocumentAlone>> Left)> Runs { get; private set; } = [];

    public bool IsReplaced(Run<ExportOrder> run) => exports.IsReplaced(run);

    public string? FolderOf(Run<ExportOrder> run) => exports.FolderOf(run);

    public IActionResult OnGet(long? id) => Load(id);

    public IActionResult OnPostSave(long? id)
    {
        Read(id);
        if (Problem is null)
        {
            var was = Id > 0 ? plans.Find(Id)?.Name ?? "" : "";
            var saved = plans.Save(Id, Name, What, Who, Rights, AsSeen<ExportDefinition>("plan", was));
            Problem = saved.Problem;
            if (saved.Ok)
            {
                (Id, Done) = (saved.Value, "Kept.");
                Standing($"/Repository/Export/{Id}");
            }
        }
        return Show();
    }

    public IActionResult OnPostRun(long id)
    {
        Problem = exports.Start(id, Who, Rights).Problem;
        return Load(id);
    }

    public IActionResult OnPostResume(long id, long run)
    {
        Problem = exports.Resume(run, Who).Problem;
        return Load(id);
    }

    public IActionResult OnPostRemove(long id)
    {
        plans.SetRemoved(id, removed: true, Who);
        return Redirect("/Repository/Exports");
    }

    /// <summary>All files of a complete run as a ZIP, sent while it is packed.</summary>
    public async Task<IActionResult> OnGetZipAsync(long id, long run)
    {
        if (exports.Of(id).Find(r => r.Id == run) is not { } found || exports.FolderOf(found) is not { } path)
            return NotFound();
        ledger.Exported(Who, $"{found.Order.Folder}.zip", new LedgerSubject(SubjectKind.ExportRun, run));
        Response.ContentType = "application/zip";
        Response.Headers.ContentDisposition = new Microsoft.Net.Http.Headers.ContentDispositionHeaderValue("attachment")
        {
            FileNameStar = $"{found.Order.Folder}.zip",
        }.ToString();
        await using var body = Response.BodyWriter.AsStream(leaveOpen: true);
        await using (var zip = new ZipArchive(body, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var file in Directory.EnumerateFiles(path, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal))
            {
                var name = Path.GetRelativePath(path, file).Replace('\\', '/');
                // What is compressed already is not compressed again.
                var packed = file.EndsWith(".pdf", StringComparison.OrdinalIgnoreCase);
                await zip.CreateEntryFromFileAsync(
                    file,
                    name,
                    packed ? CompressionLevel.NoCompression : CompressionLevel.Fastest,
                    HttpContext.RequestAborted
                );
            }
        return new EmptyResult();
    }

    private IActionResult Load(long? id)
    {
        if (id is { } known)
        {
            if (plans.Find(known) is not { } plan)
                return NotFound();
            (Id, Name, What, NextAt) = (plan.Id, plan.Name, plan.What, plan.NextAt);
        }
        else
            What = plans.For(RepositoryIndexModel.AsksOf(Queried), Rights);
        return Show();
    }

    /// <summary>When it is run next by itself; null for never.</summary>
    public Instant? NextAt { get; private set; }

    private void Read(long? id)
    {
        Id = id ?? 0;
        Name = Sent("name");
        var asks = new ViewDefinition
        {
            Type = Sent("type"),
            Ask = Sent("ask").Trim(),
            Anywhere = Sent("anywhere"),
            Folder = Sent("within"),
        };
        var fields = requests.For(asks, Rights).Fields;
        var columns = ExportPlans.Columns(Sent("columns"), fields);
        (Columns, Problem) = (Sent("columns"), columns.Problem);
        What = new ExportDefinition
        {
            Asks = asks,
            Columns = columns.Value ?? [],
            Format = Sent("format"),
            Dates = Sent("dates"),
            Comma = Sent("comma") == "on",
            FileEach = Sent("each") == "on",
            Files = Sent("files"),
            Pages = Posted.Has("pages") ? Sent("pages") : "pdf",
            MarkColour = Posted.Has("mark-colour") ? Sent("mark-colour").Trim().TrimStart('#') : new ExportDefinition().MarkColour,
            MarkWidth = Posted.Has("mark-width") ? Points("mark-width") : new ExportDefinition().MarkWidth,
            MarkMargin = Posted.Has("mark-margin") ? Points("mark-margin") : new ExportDefinition().MarkMargin,
            MarkDashed = Sent("mark-dashed") == "on",
            Naming = Sent("naming"),
            Hide = SentMany("hide"),
            Folder = Sent("folder"),
            Taken = Sent("taken"),
            Package = Sent("package") == "on",
            Every = Sent("every"),
            At = Posted.Has("at") ? Sent("at").Trim() : new ExportDefinition().At,
        };
    }

    // What is no number is none that can be drawn, which the plan then says.
    private double Points(string name) =>
        double.TryParse(Sent(name).Trim().Replace(',', '.'), System.Globalization.CultureInfo.InvariantCulture, out var n) ? n : double.NaN;

    private IActionResult Show()
    {
        Asked = requests.For(What.Asks, Rights);
        if (Columns.Length == 0)
            Columns = string.Join('\n', What.Columns.Select(Line));
        if (Id > 0)
        {
            Running = jobs.Running(Exports.Subject(Id));
            Runs = exports.Of(Id).ConvertAll(r => (r, exports.Size(r), exports.Left(r, MostLeft)));
        }
        if (Problem is null && Running is null)
            Look = plans.Look(What, Rights);
        return Page();
    }

    private string Line(ExportColumn column)
    {
        var label = ExportPlans.Around.FirstOrDefault(a => a.Key == column.Key).Label ?? Asked.Fields.LabelOf(column.Key);
        return label == column.Heading ? label : $"{label} = {column.Heading}";
    }
}
