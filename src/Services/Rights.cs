using ClearLexicon.Core.Fields;
using ClearLexicon.Storage;

namespace ClearLexicon.Services;

/// <summary>The roles.</summary>
public static class Roles
{
    /// <summary>Designs, publishes, migrates.</summary>
    public const string Steward = "steward";

    /// <summary>Works the desk, edits.</summary>
    public const string Indexer = "indexer";

    /// <summary>Reads; sees no restricted value.</summary>
    public const string Searcher = "searcher";

    /// <summary>People, tokens, settings.</summary>
    public const string Administrator = "administrator";

    /// <summary>All, in the order they are offered.</summary>
    public static IReadOnlyList<string> All { get; } = [Steward, Indexer, Searcher, Administrator];
}

/// <summary>What a person may see. Every way out of the product asks here.</summary>
/// <param name="Roles">The person's roles.</param>
public sealed record Rights(IReadOnlyList<string> Roles)
{
    /// <summary>Somebody without any role.</summary>
    public static Rights None { get; } = new([]);

    /// <summary>Whether restricted values are shown: to everybody but those who only search.</summary>
    public bool SeesRestricted { get; } =
        Roles.Any(r => r is Services.Roles.Steward or Services.Roles.Indexer or Services.Roles.Administrator);

    /// <summary>Whether the desk, and what is on it, is open.</summary>
    public bool WorksTheDesk { get; } = Roles.Any(r => r is Services.Roles.Steward or Services.Roles.Indexer);

    /// <summary>Whether designs, readers and ways in are changed.</summary>
    public bool Designs { get; } = Roles.Contains(Services.Roles.Steward);

    /// <summary>
    /// Whether a field's values are shown. Of a field that is not, or no longer, in the type nobody knows whether it was restricted.
    /// </summary>
    public bool Sees(Field? field) => SeesRestricted || field is { Restricted: false };

    /// <summary>Whether a document is shown: a filed one to everybody, one on the desk to those who work there.</summary>
    public bool Sees(StoredDocument document) => document.Filed || WorksTheDesk;
}
