namespace ClearLexicon.Core.Reading.Stacks;

/// <summary>When a person looks at a separation before documents are made of it.</summary>
public enum LookFirst
{
    /// <summary>When a cut is doubtful.</summary>
    WhenDoubtful,

    /// <summary>Always.</summary>
    Always,

    /// <summary>Never: doubts are shown on the desk.</summary>
    Never,
}

/// <summary>How documents arrive.</summary>
/// <param name="Key">Short name.</param>
/// <param name="Name">Name shown to people.</param>
public sealed record WayIn(string Key, string Name)
{
    /// <summary>The way of files that are dropped on the desk.</summary>
    public static WayIn Upload { get; } = new("upload", "Files added on the desk") { LookFirst = LookFirst.Never };

    /// <summary>How its stacks become documents.</summary>
    public Separation Separation { get; init; } = new();

    /// <summary>When a person looks first.</summary>
    public LookFirst LookFirst { get; init; }

    /// <summary>Keys of the readers that may claim its pages; empty for all.</summary>
    public IReadOnlyList<string> Readers { get; init; } = [];

    /// <summary>Document type of what no reader claims; null to leave it to the desk.</summary>
    public string? TypeCode { get; init; }

    /// <summary>Texts for fields that nothing on the page fills, by field key.</summary>
    public IReadOnlyDictionary<string, string> Constants { get; init; } = new Dictionary<string, string>();

    /// <summary>
    /// How sub-folder and file name are made up, e.g. <c>{payer}/{*} {statement-number}.pdf</c>; see <see cref="NameTemplate"/>. Empty for
    /// nothing.
    /// </summary>
    public string Names { get; init; } = "";

    /// <summary>
    /// Languages its pages are recognised in, by the recogniser's names with plus signs between; empty for the usual ones.
    /// </summary>
    public string Languages { get; init; } = "";

    /// <summary>Documents that are parked as soon as they arrive; the first that fits is taken.</summary>
    public IReadOnlyList<ParkRule> Parks { get; init; } = [];

    /// <summary>A folder on the server's disk that is watched; empty for none. Relative paths lie in the data folder.</summary>
    public string Folder { get; init; } = "";

    /// <summary>Whether the folder is watched now.</summary>
    public bool Watches { get; init; } = true;

    /// <summary>Names of the people who see its batches; empty for everybody who works on the desk.</summary>
    public IReadOnlyList<string> People { get; init; } = [];

    /// <summary>Whether a person sees its batches.</summary>
    public bool SeenBy(string who) => People.Count == 0 || People.Contains(who, StringComparer.OrdinalIgnoreCase);

    /// <summary>What is wrong with it; null when it can be used.</summary>
    public string? Finding =>
        Name.Trim().Length is 0 or > 80 ? "Write a name of at most 80 characters." : Separation.Finding ?? NameTemplate.Finding(Names);
}

/// <summary>Parks a document when one of its fields holds nothing, or something that must hold stands against it.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Reason">Why it is parked then.</param>
/// <param name="ForWhom">Name of a person, or a role, that completes it; empty for whoever does.</param>
public sealed record ParkRule(string Field, string Reason, string ForWhom);
