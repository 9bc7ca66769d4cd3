using ClearLexicon.Core.Conventions;

namespace ClearLexicon.Web.Pages;

/// <summary>A drawn tree with what a person has opened, closed and listed, all of which stands in the address.</summary>
/// <param name="Tree">The tree.</param>
/// <param name="Lines">The lines drawn.</param>
/// <param name="Listed">The folder whose documents are listed; null for none.</param>
/// <param name="Added">How many documents would be added.</param>
/// <param name="Address">Address of the view without what is opened or listed.</param>
/// <param name="Turned">Folders opened (true) or closed (false).</param>
public sealed record PathTreeView(
    PathTree Tree,
    List<PathTreeLine> Lines,
    PathFolder? Listed,
    int Added,
    string Address,
    IReadOnlyDictionary<string, bool> Turned
)
{
    private const int Room = 26;

    /// <summary>The view that a request asks for.</summary>
    public static PathTreeView Of(PathTree tree, HttpRequest request, string query, int added)
    {
        var turned = new Dictionary<string, bool>(StringComparer.OrdinalIgnoreCase);
        foreach (var path in request.Query["open"].OfType<string>())
            turned[path] = true;
        foreach (var path in request.Query["shut"].OfType<string>())
            turned[path] = false;
        var listed = request.Query.TryGetValue("list", out var list) ? tree.Find(list.ToString()) : null;
        return new PathTreeView(tree, tree.Lines(Room, turned), listed, added, $"{request.Path}?{query}", turned);
    }

    /// <summary>Address of the view with one folder turned, or another one listed.</summary>
    public string With(string? turn = null, bool open = true, string? list = null)
    {
        var turned = new Dictionary<string, bool>(Turned, StringComparer.OrdinalIgnoreCase);
        if (turn is not null)
            turned[turn] = open;
        var address = Address + string.Concat(turned.Select(t => $"&{(t.Value ? "open" : "shut")}={Uri.EscapeDataString(t.Key)}"));
        return (list ?? Listed?.Path) is { } listed ? $"{address}&list={Uri.EscapeDataString(listed)}" : address;
    }
}
