using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Formats;

/// <summary>Reads files of terms by what they are: CSV by itself, SKOS as Turtle, RDF/XML or N-Triples.</summary>
public static class TermFiles
{
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(60);

    /// <summary>Largest file of terms, in bytes.</summary>
    public const long Largest = 200_000_000;

    /// <summary>Reads a file.</summary>
    /// <param name="path">Where it lies.</param>
    /// <param name="name">What the person called it, for messages and for its kind.</param>
    /// <param name="language">The vocabulary's own language.</param>
    public static async Task<(BroughtTerms? Terms, string? Problem)> ReadAsync(
        string path,
        string name,
        string language,
        CancellationToken cancel = default
    )
    {
        var size = new FileInfo(path).Length;
        if (size == 0)
            return (null, $"“{name}” is empty.");
        if (size > Largest)
            return (null, $"“{name}” is larger than {Largest / 1_000_000} MB.");
        var kind = Path.GetExtension(name).ToLowerInvariant();
        switch (kind)
        {
            case ".csv" or ".tsv" or ".txt":
                var (terms, problem) = await Task.Run(() => TermCsv.Read(path));
                return (terms, problem is null ? null : $"“{name}”, {problem}");
            case ".nt":
                return (await Task.Run(() => Own(SkosReading.Read(File.ReadLines(path), language))), null);
            case ".ttl" or ".rdf" or ".xml":
                return await ThroughRapper(path, name, kind == ".ttl" ? "turtle" : "rdfxml", language, cancel);
            default:
                return (null, $"“{name}” is neither CSV (.csv) nor SKOS (.ttl, .rdf, .xml, .nt).");
        }
    }

    private static async Task<(BroughtTerms?, string?)> ThroughRapper(
        string path,
        string name,
        string syntax,
        string language,
        CancellationToken cancel
    )
    {
        if (!ExternalProgram.Exists("rapper"))
            return (
                null,
                "Turtle and RDF/XML need the program rapper (package raptor2-utils), which is not installed here; N-Triples and "
                    + "CSV are read without it."
            );
        var (plain, triples) = ($"{path}.plain", $"{path}.nt");
        try
        {
            // Entities are put in within bounds, and nothing outside the file is asked for.
            if (syntax == "rdfxml" && PlainXml.Write(path, plain) is { } refused)
                return (null, $"“{name}”, {refused}");
            (int ExitCode, string Error) result;
            await using (var output = File.Create(triples))
                result = await ExternalProgram.RunAsync(
                    "rapper",
                    ["-q", "-i", syntax, "-o", "ntriples", syntax == "rdfxml" ? plain : path, "http://localhost/"],
                    output,
                    Limit,
                    cancel
                );
            if (result.ExitCode != 0)
            {
                path = syntax == "rdfxml" ? plain : path;
                var first =
                    result.Error.Split('\n').FirstOrDefault(l => l.Contains("rror", StringComparison.Ordinal)) ?? "it cannot be read";
                var at = first.IndexOf(path, StringComparison.Ordinal);
                return (null, $"“{name}” is broken: {first[(at < 0 ? 0 : at + path.Length)..].TrimStart(':', ' ')}");
            }
            return (await Task.Run(() => Own(WithoutLines(SkosReading.Read(File.ReadLines(triples), language)))), null);
        }
        catch (TimeoutException)
        {
            return (null, $"“{name}” took longer than {Limit.TotalSeconds:0} seconds to read.");
        }
        catch (InvalidDataException e)
        {
            return (null, $"“{name}”: {e.Message}");
        }
        finally
        {
            File.Delete(plain);
            File.Delete(triples);
        }
    }

    // Lines of what rapper wrote are not lines of the file.
    private static BroughtTerms WithoutLines(BroughtTerms read) => read with { Terms = [.. read.Terms.Select(t => t with { Line = 0 })] };

    // What was exported from here has addresses made of ids.
    private static BroughtTerms Own(BroughtTerms brought) =>
        brought with
        {
            Terms =
            [
                .. brought.Terms.Select(b =>
                    b with
                    {
                        Term = b.Term with
                        {
                            Id = SkosWriting.Id(b.Term.Id),
                            Broader = [.. b.Term.Broader.Select(SkosWriting.Id)],
                            Related = [.. b.Term.Related.Select(SkosWriting.Id)],
                            ReplacedBy = b.Term.ReplacedBy is { } r ? SkosWriting.Id(r) : null,
                        },
                    }
                ),
            ],
        };
}
