using System.Text.Json;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Migration;

/// <summary>A page of a packaged document.</summary>
/// <param name="Number">From 1; 0 for the sheet that came before it.</param>
/// <param name="Image">Its picture, relative to the payload.</param>
/// <param name="Text">Its words.</param>
/// <param name="Notice">What a person should know of it.</param>
/// <param name="File">The file it came in, relative to the payload; null when that is not known.</param>
/// <param name="FilePage">Its number in that file.</param>
/// <param name="IsWholeFile">Whether the document has as many pages as that file.</param>
internal sealed record PackagedPage(int Number, string Image, PageText Text, string? Notice, string? File, int? FilePage, bool IsWholeFile);

/// <summary>A filed document with everything that belongs to it.</summary>
/// <param name="Document">The document as it is kept.</param>
/// <param name="Pages">Its pages.</param>
/// <param name="History">Changes of its values, the oldest first.</param>
internal sealed record PackagedDocument(StoredDocument Document, IReadOnlyList<PackagedPage> Pages, IReadOnlyList<ValueChange> History);

/// <summary>What a package holds besides documents.</summary>
/// <param name="Format">Always <see cref="WholePackage.FormatName"/>.</param>
/// <param name="Version">Version of the format, 1.</param>
/// <param name="Documents">How many documents it holds.</param>
/// <param name="Counters">The last numbers that counters gave, so that none is given again.</param>
internal sealed record PackagedHouse(string Format, int Version, long Documents, IReadOnlyDictionary<string, int> Counters);

/// <summary>
/// The files of a package that holds a whole repository. It is a BagIt bag (RFC 8493), whose payload is laid out like a data folder:
/// <c>repository/</c>, <c>pages/</c> and <c>brought/</c>; beside them <c>design.json</c> (a design file), <c>documents.jsonl</c> (a line a
/// document, by rising number) and <c>house.json</c>.
/// </summary>
internal static class WholePackage
{
    /// <summary>Name of the format.</summary>
    public const string FormatName = "clear-lexicon-repository";

    /// <summary>Longest line of a document, in bytes.</summary>
    public const int LongestLine = 50_000_000;

    public static string Payload(string package) => Path.Combine(package, "data");

    public static string Design(string package) => Path.Combine(Payload(package), "design.json");

    public static string Documents(string package) => Path.Combine(Payload(package), "documents.jsonl");

    public static string House(string package) => Path.Combine(Payload(package), "house.json");

    /// <summary>Where a filed document lies, relative to a data folder and to a payload.</summary>
    public static string PathOf(StoredDocument d) => $"repository/{d.Folder}/{d.Name}";

    /// <summary>
    /// Files of a document besides the filed one, by their paths in both; the small picture and the page as it came where they are there.
    /// </summary>
    public static IEnumerable<string> FilesOf(PackagedDocument packaged) =>
        packaged
            .Pages.SelectMany(p => new[] { p.Image, Formats.PageReading.SmallOf(p.Image), Formats.PageReading.PageOf(p.Image), p.File })
            .Append(packaged.Document.SourceFile)
            .OfType<string>()
            .Distinct(StringComparer.Ordinal);

    /// <summary>Whether a path that a package names is one of a data folder's own, and leads nowhere else.</summary>
    public static bool IsOwn(string path) =>
        (path.StartsWith("pages/", StringComparison.Ordinal) || path.StartsWith("brought/", StringComparison.Ordinal))
        && !path.Contains('\0', StringComparison.Ordinal)
        && !path.Split('/', '\\').Any(part => part is ".." or "." or "");

    // What stands in a package is checked part by part, so that nothing in it is passed over.
    private static readonly JsonSerializerOptions Strict = new(Sql.Json) { UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow };

    public static string Write<T>(T value) => JsonSerializer.Serialize(value, Sql.Json);

    /// <summary>Documents of a package after one, streamed.</summary>
    /// <exception cref="RefusedException">A line is none; it is named.</exception>
    public static IEnumerable<PackagedDocument> Read(string package, long after)
    {
        if (!File.Exists(Documents(package)) || HasLongerLine(Documents(package)))
            throw new RefusedException($"There is no documents.jsonl in it, or a line of it is longer than {LongestLine / 1_000_000} MB.");
        var number = 0;
        foreach (var line in File.ReadLines(Documents(package)))
        {
            number++;
            PackagedDocument? document = null;
            var why = "";
            try
            {
                document = JsonSerializer.Deserialize<PackagedDocument>(line, Strict);
            }
            catch (NoMomentException)
            {
                why = ": it has a time that is none";
            }
            catch (Exception e) when (e is JsonException or InvalidOperationException or NotSupportedException or ArgumentException) { }
            if (document?.Document is not { Id: > 0 } || document.Pages is null || document.History is null)
                throw new RefusedException($"Line {number} of documents.jsonl is no document{why}.");
            if (document.Document.Id > after)
                yield return document;
        }
    }

    // Asked before any line is held in memory.
    private static bool HasLongerLine(string path)
    {
        using var file = File.OpenRead(path);
        var buffer = new byte[1 << 16];
        long length = 0;
        for (int read; (read = file.Read(buffer)) > 0; )
        for (var rest = buffer.AsSpan(0, read); rest.Length > 0; )
        {
            var end = rest.IndexOf((byte)'\n');
            length += end < 0 ? rest.Length : end;
            if (length > LongestLine)
                return true;
            if (end < 0)
                break;
            length = 0;
            rest = rest[(end + 1)..];
        }
        return false;
    }

    /// <summary>What a package says of itself; null when it is none of a whole repository.</summary>
    public static PackagedHouse? Find(string package)
    {
        try
        {
            return
                File.Exists(House(package))
                && JsonSerializer.Deserialize<PackagedHouse>(File.ReadAllText(House(package)), Strict)
                    is { Format: FormatName, Version: 1, Counters: not null } house
                ? house
                : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
