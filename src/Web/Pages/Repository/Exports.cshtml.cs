using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Plans of what leaves the house.</summary>
public sealed class ExportsModel(ExportPlans plans, Exports exports, Designs designs, Jobs jobs) : PlacePage
{
    public List<(ExportPlan Plan, Run<ExportOrder>? Last)> Plans { get; private set; } = [];

    public void OnGet() => Plans = plans.All().ConvertAll(p => (p, exports.Of(p.Id).FirstOrDefault()));

    public bool IsRunning(IRun run) => jobs.Running(run.Subject) is not null;

    public string NameOf(string typeCode) => designs.Published.TryGetValue(typeCode, out var type) ? type.Type.Type.Name : typeCode;

    /// <summary>Formats in words.</summary>
    public static string InWords(ExportDefinition what) =>
        what.Format switch
        {
            "csv" => "CSV",
            "xlsx" => "XLSX",
            "jsonl" => "JSON Lines",
            _ => "XML",
        }
        + what.Files switch
        {
            "filed" => " and files as filed",
            "redacted" => " and redacted copies",
            _ => "",
        }
        + (what.Package ? ", as a package" : "");
}
