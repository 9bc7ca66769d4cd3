using System.Text.Json;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Reading;

namespace ClearLexicon.Storage;

/// <summary>A document on the desk or in the repository.</summary>
public sealed record StoredDocument
{
    /// <summary>Id, from the moment it is taken in.</summary>
    public long Id { get; init; }

    /// <summary>Whether it is filed; otherwise it is on the desk.</summary>
    public bool Filed { get; init; }

    /// <summary>Its document type; null while nobody has said.</summary>
    public string? TypeCode { get; init; }

    /// <summary>Version of the design it was last checked against.</summary>
    public int? Version { get; init; }

    /// <summary>The reader that claimed it; null when none did.</summary>
    public string? ReaderKey { get; init; }

    /// <summary>The version of that reader; null when none did, and for documents read before it was noted.</summary>
    public int? ReaderVersion { get; init; }

    /// <summary>The batch it came in.</summary>
    public long? BatchId { get; init; }

    /// <summary>The file it came as.</summary>
    public required string SourceName { get; init; }

    /// <summary>That file, relative to the data folder; null for a tagged legacy row.</summary>
    public string? SourceFile { get; init; }

    /// <summary>Field texts by key.</summary>
    public IReadOnlyDictionary<string, string> Record { get; init; } = new Dictionary<string, string>();

    /// <summary>Evidence by field key.</summary>
    public IReadOnlyDictionary<string, Evidence> Evidence
    {
        get => _evidence ??= JsonSerializer.Deserialize<Dictionary<string, Evidence>>(EvidenceAsKept, Sql.Json)!;
        init => _evidence = value;
    }

    private IReadOnlyDictionary<string, Evidence>? _evidence;

    /// <summary>The evidence as JSON, which most of those that ask for many documents never look at.</summary>
    [JsonIgnore]
    internal byte[] EvidenceAsKept { private get; init; } = "{}"u8.ToArray();

    /// <summary>Reasons of overridden should-problems by problem id.</summary>
    public IReadOnlyDictionary<string, string> Overrides { get; init; } = new Dictionary<string, string>();

    /// <summary>Folder in the repository.</summary>
    public string? Folder { get; init; }

    /// <summary>File name in the repository, with extension.</summary>
    public string? Name { get; init; }

    /// <summary>SHA-256 of the filed PDF.</summary>
    public string? FileHash { get; init; }

    /// <summary>When it was filed.</summary>
    public Instant? FiledAt { get; init; }

    /// <summary>Who filed it.</summary>
    public string? FiledBy { get; init; }

    /// <summary>Whether its file stands in the repository; that of a legacy document stays where it lies.</summary>
    public bool HasFile => FileHash is not null;

    /// <summary>The wave that tagged it.</summary>
    public long? WaveId { get; init; }

    /// <summary>Where a legacy document lies.</summary>
    public string? LegacyPath { get; init; }

    /// <summary>What it was named by besides its values; null for one filed before that was kept.</summary>
    public Naming? Naming { get; init; }

    /// <summary>The number that a counter gave it; 0 when none did.</summary>
    public int Number => Naming?.Counter ?? 0;

    /// <summary>The number its path is rendered with: the one a counter gave it, or 1 for the first or only one.</summary>
    public int PlaceNumber => Math.Max(1, Number);

    /// <summary>SHA-256 of the file it came as.</summary>
    public string? SourceHash { get; init; }

    /// <summary>The document that this one is a later version of.</summary>
    public long? VersionOf { get; init; }

    /// <summary>Why it is parked; null when it is not.</summary>
    public string? Parked { get; init; }

    /// <summary>How often it has been changed, from 0; it stands for this database only.</summary>
    [JsonIgnore]
    public long Revision { get; init; }
}

/// <summary>A document is no longer what it was when it was read.</summary>
/// <param name="id">The document.</param>
public sealed class ChangedMeanwhileException(long id) : Exception($"Document {id} has been changed since it was read.");

/// <summary>What surrounded a document when it was named, so that its path can be made again.</summary>
/// <param name="Today">The date of filing, ISO 8601.</param>
/// <param name="Person">Who filed it.</param>
/// <param name="Batch">Name of its batch.</param>
/// <param name="NumberInBatch">Its number in the batch.</param>
/// <param name="Pages">Its pages.</param>
/// <param name="Original">The file it came as.</param>
/// <param name="Counter">The number that a counter gave it, from 1; 0 when none did.</param>
public sealed record Naming(string Today, string Person, string Batch, int NumberInBatch, int Pages, string Original, int Counter);

/// <summary>A page of a document.</summary>
/// <param name="Number">From 1; 0 for the sheet that came before the document and is no page of it.</param>
/// <param name="Image">Picture, relative to the data folder.</param>
/// <param name="Text">Its words.</param>
/// <param name="Notice">What the person should know about its text.</param>
public sealed record StoredPage(int Number, string Image, PageText Text, string? Notice)
{
    /// <summary>The file it came in; null for pages that were read before that was noted.</summary>
    public long? FileId { get; init; }

    /// <summary>Its number in that file, from 1.</summary>
    public int? FilePage { get; init; }

    /// <summary>That file, relative to the data folder.</summary>
    public string? FileStored { get; init; }

    /// <summary>Whether the document has as many pages as that file.</summary>
    public bool IsWholeFile { get; init; }
}
