using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Pages;

public sealed class IndexModel(Designs designs, TaughtReaders readers, DeskDocuments desk, Migrations migrations, Accounts people, Database database) : PlacePage
{
    /// <summary>One line a place: what is there, and the step that makes sense next.</summary>
    public sealed record Line(string Place, string Address, string State, string Next);

    public List<Line> Lines { get; } = [];

    public void OnGet()
    {
        var types = designs.All();
        var stewards = people.All().Count(p => p.Roles.Contains(Roles.Steward));
        if (User.IsInRole(Roles.Administrator))
            Lines.Add(new("People", "/Settings", $"{people.All().Count} people, {stewards} of them stewards", stewards == 0 ? "Add a steward, who can then design the first document type." : "Add people and API tokens."));
        if (User.IsInRole(Roles.Steward))
        {
            Lines.Add(new("Design", "/Design", types.Count == 0 ? "no document types yet" : $"{types.Count} document {(types.Count == 1 ? "type" : "types")}, {types.Count(t => t.Version > 0)} published",
                types.Count == 0 ? "Create the first document type." : types.Any(t => t.DraftOpen) ? $"Publish what has changed: {string.Join(", ", types.Where(t => t.DraftOpen).Select(t => t.Draft.Name))}." : "Everything is published."));
            var taught = readers.All().Count;
            Lines.Add(new("Readers", "/Readers", taught == 0 ? "no readers yet" : taught == 1 ? "1 reader" : $"{taught} readers", taught == 0 ? "Teach a reader on a sample page." : "Try a reader on its samples."));
        }
        if (User.IsInRole(Roles.Steward) || User.IsInRole(Roles.Indexer))
        {
            var waiting = desk.Waiting(Who);
            var ready = waiting.Count(d => d.State == "ready");
            Lines.Add(new("Desk", "/Desk", waiting.Count == 0 ? "nothing waits" : $"{waiting.Count} documents wait, {ready} are ready", waiting.Count == 0 ? "Bring files, or scan." : "Check what waits, and file what is ready."));
        }
        var filed = database.Read(RepositoryStore.CountByType).Values.Sum();
        Lines.Add(new("Repository", "/Repository", filed == 0 ? "nothing filed yet" : $"{filed:N0} documents filed", filed == 0 ? "Documents appear here once they are filed." : "Find a document."));
        if (User.IsInRole(Roles.Steward))
        {
            var inventories = migrations.All();
            Lines.Add(new("Migration", "/Migration", inventories.Count == 0 ? "no inventory yet" : inventories.Count == 1 ? "1 inventory" : $"{inventories.Count} inventories", inventories.Count == 0 ? "Bring a list of legacy documents as CSV." : "Read the last dry run, and apply a wave."));
        }
    }
}
