using System.Globalization;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Migration;

/// <summary>What a package of a whole repository holds, and what is wrong with it; nothing of it is taken.</summary>
internal sealed class PackageContents(DataFolder folder, DesignFiles files)
{
    // Sets of documents are kept as bits, and the next ones count on from here.
    private const long LargestNumber = 100_000_000;

    /// <summary>Looks at every document of a package that is sound.</summary>
    /// <param name="package">Its folder.</param>
    /// <param name="house">What it says of itself.</param>
    /// <param name="isEmpty">Whether this installation holds nothing, so that the design must fit in.</param>
    /// <param name="types">Takes how many documents it holds by name of their type.</param>
    /// <param name="design">What its design holds, in words.</param>
    /// <param name="cancel">Stops between documents.</param>
    /// <returns>What is wrong.</returns>
    public List<string> Problems(
        string package,
        PackagedHouse house,
        bool isEmpty,
        Dictionary<string, long> types,
        out string design,
        CancellationToken cancel
    )
    {
        design = "";
        var read = File.Exists(WholePackage.Design(package))
            ? DesignFileJson.Read(File.ReadAllText(WholePackage.Design(package)))
            : Result<DesignFile>.Not("There is no design.json in it.");
        if (!read.Ok)
            return [read.Problem!];
        var file = read.Value!;
        design =
            $"{Counted.Of(file.Types.Count, "document type")}, {file.Vocabularies.Count} "
            + $"{(file.Vocabularies.Count == 1 ? "vocabulary" : "vocabularies")}, "
            + $"{Counted.Of(file.Tables.Count, "reference table")}, {Counted.Of(file.Readers.Count, "reader")}";
        var published = file.Types.Where(t => t.Published && !t.Design.IsGroup).ToDictionary(t => t.Design.Code, t => t.Design.Name);
        // What is here already is said when it is to be taken over.
        var problems = isEmpty ? [.. files.Plan(file).Problems] : new List<string>();
        var (last, places) = (0L, new HashSet<string>(StringComparer.Ordinal));
        foreach (var packaged in WholePackage.Read(package, 0))
        {
            cancel.ThrowIfCancellationRequested();
            if (problems.Count >= BagItPackage.MostProblems)
                break;
            var document = packaged.Document;
            if (Wrong(package, packaged, published) is { } wrong)
                problems.Add($"Document {document.Id}: {wrong}");
            // The manifests say that a file is what was packed, and not that it is the one of its record.
            else if (document.HasFile && DataFolder.HashOf(FileOf(package, document)) != document.FileHash)
                problems.Add($"Document {document.Id}: its file “{WholePackage.PathOf(document)}” is not the one that its record says.");
            else if (document.Id <= last)
                problems.Add($"Document {document.Id} stands behind document {last}; they must rise.");
            else if (!places.Add(Database.PlaceKey(document.Folder!, document.Name!)))
                problems.Add($"Document {document.Id}: “{document.Folder}/{document.Name}” is the place of another one too.");
            else
                types[published[document.TypeCode!]] = types.GetValueOrDefault(published[document.TypeCode!]) + 1;
            last = document.Id;
        }
        if (problems.Count == 0 && types.Values.Sum() != house.Documents)
            problems.Add($"It says that it holds {house.Documents} documents, and holds {types.Values.Sum()}.");
        return problems;
    }

    /// <summary>What is wrong with a document; null when nothing is.</summary>
    /// <param name="package">The package.</param>
    /// <param name="packaged">The document.</param>
    /// <param name="published">Codes of the published types of its design.</param>
    public string? Wrong(string package, PackagedDocument packaged, IReadOnlyDictionary<string, string> published)
    {
        var d = packaged.Document;
        if (!d.Filed || d.Folder is null || d.Name is null || d.FiledAt is null || d.FiledBy is null || d.SourceName is null)
            return "it is not a filed one.";
        if (d.Id > LargestNumber)
            return $"its number is larger than {LargestNumber:N0}.";
        if (d.TypeCode is null || !published.ContainsKey(d.TypeCode))
            return $"its type “{d.TypeCode}” is not a published one of the design.";
        if (
            d.Record is null
            || d.Evidence is null
            || d.Overrides is null
            || packaged.Pages.Any(p => p is not { Text: not null, Image: not null })
            || packaged.History.Any(h => h is null)
        )
            return "a part of it is missing.";
        if (packaged.Pages.Any(p => !p.Image.EndsWith(".png", StringComparison.Ordinal)))
            return "the picture of a page is none.";
        var path = WholePackage.PathOf(d);
        if (
            d.Folder.Split('/').Append(d.Name).Any(part => part.Length == 0 || DataFolder.SafeName(part) != part)
            || Path.GetFullPath(Path.Combine(folder.Root, path)) != Path.Combine(folder.Root, path)
        )
            return $"“{d.Folder}/{d.Name}” cannot be a place in the repository.";
        if (d.HasFile && !File.Exists(FileOf(package, d)))
            return $"its file “{path}” is not in the package.";
        return WholePackage.FilesOf(packaged).FirstOrDefault(f => !WholePackage.IsOwn(f)) is { } strange
            ? $"“{CodePoints.First(strange, 60)}” leads out of the package."
            : null;
    }

    private static string FileOf(string package, StoredDocument document) =>
        Path.Combine(WholePackage.Payload(package), WholePackage.PathOf(document));
}
