using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Plans of what leaves the house.</summary>
public sealed class ExportsModel(ExportPlans plans, Designs designs) : PlacePage
{
    public List<(ExportPlan Plan, ExportRun? Last)> Plans { get; private set; } = [];

    public void OnGet() => Plans = plans.All().ConvertAll(p => (p, plans.Runs(p.Id).Select(r => r.Run).FirstOrDefault()));

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
