namespace ClearLexicon.Core.Conventions;

/// <summary>A folder with what stands in it and what would be added.</summary>
public sealed class PathFolder
{
    private readonly SortedDictionary<string, PathFolder> _inside = new(StringComparer.OrdinalIgnoreCase);

    internal PathFolder(string name, string path, int depth) => (Name, Path, Depth) = (name, path, depth);

    /// <summary>Its name; empty for the root.</summary>
    public string Name { get; }

    /// <summary>Its path from the root.</summary>
    public string Path { get; }

    /// <summary>How many folders above it, the root not counted.</summary>
    public int Depth { get; }

    /// <summary>Documents right in it.</summary>
    public int Here { get; internal set; }

    /// <summary>Documents that would be added right in it.</summary>
    public int AddedHere { get; internal set; }

    /// <summary>Documents that would go from it.</summary>
    public int GoneHere { get; internal set; }

    /// <summary>Documents in it and below.</summary>
    public int All { get; internal set; }

    /// <summary>Documents that would be added in it and below.</summary>
    public int AddedAll { get; internal set; }

    /// <summary>Documents that would go from it and below.</summary>
    public int GoneAll { get; internal set; }

    /// <summary>Folders inside, by name.</summary>
    public IReadOnlyCollection<PathFolder> Inside => _inside.Values;

    /// <summary>Whether nothing stands in it yet.</summary>
    public bool IsNew => All == 0 && AddedAll > 0;

    /// <summary>Whether it would stand empty.</summary>
    public bool IsLeft => All > 0 && All - GoneAll + AddedAll == 0;

    /// <summary>Documents right in it afterwards.</summary>
    public int HereAfter => Here + AddedHere - GoneHere;

    internal PathFolder Child(string name)
    {
        if (_inside.TryGetValue(name, out var known))
            return known;
        return _inside[name] = new PathFolder(name, Path.Length == 0 ? name : $"{Path}/{name}", Depth + 1);
    }
}

/// <summary>One line of a drawn tree.</summary>
/// <param name="Folder">The folder; null for a line that stands for several.</param>
/// <param name="Depth">How far it is indented.</param>
/// <param name="Open">Whether what is inside it is drawn too.</param>
/// <param name="Rest">How many folders the line stands for; 0 for a folder of its own.</param>
/// <param name="Parent">Number of the line it hangs on; -1 for none.</param>
public sealed record PathTreeLine(PathFolder? Folder, int Depth, bool Open, int Rest, int Parent);

/// <summary>Folders as they are and as they would be, aggregated, so that it is drawn alike for fifty paths and fifty thousand.</summary>
public sealed class PathTree
{
    /// <summary>More documents than this in one folder are pointed out.</summary>
    public const int Crowded = 1_000;

    // Folders of one parent that are drawn before the others become one line.
    private const int MostBeside = 40;

    private readonly Dictionary<string, PathFolder> _byPath = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>The root.</summary>
    public PathFolder Root { get; } = new("", "", 0);

    /// <summary>The folder with a path; null when there is none.</summary>
    public PathFolder? Find(string path) => path.Length == 0 ? Root : _byPath.GetValueOrDefault(path);

    /// <summary>All folders that hold documents themselves.</summary>
    public IEnumerable<PathFolder> Holding => _byPath.Values.Append(Root).Where(f => f.HereAfter > 0);

    /// <summary>How many folders the deepest path has.</summary>
    public int Depth => _byPath.Values.Where(f => f.HereAfter > 0).Select(f => f.Depth).DefaultIfEmpty().Max();

    /// <summary>Documents that stand in a folder.</summary>
    public void Has(string folder, int count) =>
        Walk(
            folder,
            (f, here) =>
            {
                f.All += count;
                if (here)
                    f.Here += count;
            }
        );

    /// <summary>A document that would be added to a folder.</summary>
    public void Adds(string folder) =>
        Walk(
            folder,
            static (f, here) =>
            {
                f.AddedAll++;
                if (here)
                    f.AddedHere++;
            }
        );

    /// <summary>A document that would go from a folder.</summary>
    public void Loses(string folder) =>
        Walk(
            folder,
            static (f, here) =>
            {
                f.GoneAll++;
                if (here)
                    f.GoneHere++;
            }
        );

    private void Walk(string folder, Action<PathFolder, bool> visit)
    {
        if (!_byPath.TryGetValue(folder, out var last))
        {
            last = Root;
            foreach (var name in folder.Split('/', StringSplitOptions.RemoveEmptyEntries))
            {
                last = last.Child(name);
                _byPath.TryAdd(last.Path, last);
            }
        }
        visit(last, true);
        for (var path = last.Path; path.Length > 0; )
        {
            var cut = path.LastIndexOf('/');
            path = cut < 0 ? "" : path[..cut];
            visit(path.Length == 0 ? Root : _byPath[path], false);
        }
    }

    /// <summary>
    /// The lines to draw. Folders that a person has opened or closed are so; the others open, those with changes and the largest
    /// first, as long as there is room.
    /// </summary>
    /// <param name="room">How many lines there should be at most, apart from what a person has opened.</param>
    /// <param name="turned">Folders that a person has opened (true) or closed (false).</param>
    public List<PathTreeLine> Lines(int room, IReadOnlyDictionary<string, bool> turned)
    {
        var open = new HashSet<PathFolder> { Root };
        var lines = Root.Inside.Count;
        var waiting = new PriorityQueue<PathFolder, (int, int)>();
        void Wait(PathFolder of)
        {
            foreach (var inside in of.Inside.Where(f => f.Inside.Count > 0))
                waiting.Enqueue(inside, (inside.AddedAll + inside.GoneAll > 0 ? 0 : 1, -(inside.All + inside.AddedAll)));
        }
        Wait(Root);
        while (waiting.TryDequeue(out var folder, out _))
        {
            var asked = turned.TryGetValue(folder.Path, out var isOpen);
            // What changes is worth more room than what stays.
            if (
                asked
                    ? !isOpen
                    : lines + Math.Min(folder.Inside.Count, MostBeside) > (folder.AddedAll + folder.GoneAll > 0 ? room * 7 / 4 : room)
            )
                continue;
            open.Add(folder);
            lines += Math.Min(folder.Inside.Count, MostBeside);
            Wait(folder);
        }
        var drawn = new List<PathTreeLine>();
        Draw(Root, -1, open, turned, drawn);
        return drawn;
    }

    private static void Draw(
        PathFolder folder,
        int parent,
        HashSet<PathFolder> open,
        IReadOnlyDictionary<string, bool> turned,
        List<PathTreeLine> drawn
    )
    {
        // Folders with changes are never behind the line that stands for the rest, as long as they have room; "*" asks for all of them.
        var all = turned.GetValueOrDefault(folder.Path + "/*");
        var shown =
            all || folder.Inside.Count <= MostBeside
                ? folder.Inside
                :
                [
                    .. folder
                        .Inside.OrderBy(f => f.AddedAll + f.GoneAll > 0 ? 0 : 1)
                        .Take(MostBeside)
                        .OrderBy(f => f.Name, StringComparer.OrdinalIgnoreCase),
                ];
        foreach (var inside in shown)
        {
            drawn.Add(new PathTreeLine(inside, inside.Depth, open.Contains(inside), 0, parent));
            if (open.Contains(inside))
                Draw(inside, drawn.Count - 1, open, turned, drawn);
        }
        if (shown.Count < folder.Inside.Count)
            drawn.Add(new PathTreeLine(folder, folder.Depth + 1, false, folder.Inside.Count - shown.Count, parent));
    }
}
