using System.Text;
using System.Text.Json.Nodes;

namespace ClearLexicon.Formats;

/// <summary>
/// Copies of PDFs as PDF/A-2u (ISO 19005-2, level U: what is seen is fixed, and its text has Unicode), made by Ghostscript with the sRGB
/// profile that it brings. What could not be made conformant is said by name; a copy with faults is never passed off as one without.
/// </summary>
public static class ArchivalPdf
{
    private const string Profile = "/usr/share/color/icc/ghostscript/default_rgb.icc";

    private static readonly TimeSpan Limit = TimeSpan.FromMinutes(3);

    /// <summary>Whether it can be done here.</summary>
    public static bool Available => ExternalProgram.Exists("gs") && Qpdf.Available && File.Exists(Profile);

    /// <summary>What to say where it cannot be done.</summary>
    public const string Missing = "Ghostscript is not installed here, so PDF/A cannot be made. Install the packages ghostscript and qpdf.";

    /// <summary>Writes the copy.</summary>
    /// <param name="source">A PDF.</param>
    /// <param name="target">The copy; removed again when it has faults. Files beside it are made and removed.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>What keeps it from being PDF/A-2u, in words; none when it is.</returns>
    public static async Task<IReadOnlyList<string>> WriteAsync(string source, string target, CancellationToken cancel)
    {
        if (!Available)
            return [Missing];
        var intent = target + ".ps";
        try
        {
            await File.WriteAllTextAsync(intent, Intent, cancel);
            var made = await RunAsync(
                "gs",
                [
                    "-q",
                    "-dSAFER",
                    $"--permit-file-read={Profile}",
                    "-dBATCH",
                    "-dNOPAUSE",
                    "-dPDFA=2",
                    "-dPDFACompatibilityPolicy=2",
                    "-sColorConversionStrategy=RGB",
                    "-dAutoRotatePages=/None",
                    "-sDEVICE=pdfwrite",
                    "-o",
                    target,
                    intent,
                    source,
                ],
                cancel
            );
            if (made is not { ExitCode: 0 } || !File.Exists(target))
                return [$"Ghostscript could not read it: {First(made?.Error ?? made?.Output)}"];
            Promise(target);
            var faults = await FaultsAsync(target, source, cancel);
            if (faults.Count > 0)
                File.Delete(target);
            return faults;
        }
        finally
        {
            File.Delete(intent);
        }
    }

    /// <summary>What keeps a PDF from being PDF/A-2u, in words; none when nothing does that is looked for here.</summary>
    /// <param name="path">The PDF.</param>
    /// <param name="source">The PDF it is a copy of, whose words it must hold; null for none.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task<IReadOnlyList<string>> FaultsAsync(string path, string? source, CancellationToken cancel)
    {
        var shown = await RunAsync("qpdf", ["--json=2", "--json-key=qpdf", "--decode-level=none", path], cancel);
        if (shown is null || JsonNode.Parse(shown.Output)?["qpdf"]?[1]?.AsObject() is not { } objects)
            return ["It cannot be read."];
        var faults = new List<string>();
        var trailer = objects["trailer"]?["value"];
        JsonNode? At(JsonNode? node) =>
            node is JsonValue value && value.TryGetValue<string>(out var text) && text.EndsWith(" R", StringComparison.Ordinal)
                ? objects[$"obj:{text}"] is { } found
                    ? found["value"] ?? found["stream"]?["dict"]
                    : null
                : node;
        var catalog = At(trailer?["/Root"]);
        if (trailer?["/Encrypt"] is not null)
            faults.Add("It is encrypted.");
        if (trailer?["/ID"] is null)
            faults.Add("It has no identifier.");
        var bytes = Encoding.Latin1.GetString(await File.ReadAllBytesAsync(path, cancel));
        if (
            catalog?["/Metadata"] is null
            || !bytes.Contains("pdfaid:part='2'", StringComparison.Ordinal)
            || !bytes.Contains(Level('U'), StringComparison.Ordinal)
        )
            faults.Add("Its metadata (XMP) do not say that it is PDF/A-2u.");
        if ((catalog?["/OutputIntents"] as JsonArray)?.Any(i => At(At(i)?["/DestOutputProfile"]) is not null) != true)
            faults.Add("It has no output intent with a colour profile.");
        foreach (var (name, node) in objects)
        {
            if ((node?["value"] ?? node?["stream"]?["dict"]) is not JsonObject thing)
                continue;
            foreach (var key in (ReadOnlySpan<string>)["/JS", "/JavaScript", "/EmbeddedFile", "/AA"])
                if (thing.ContainsKey(key))
                    faults.Add($"It holds {key[1..]} ({name}).");
            if (thing["/Type"]?.ToString() == "/Font")
                faults.AddRange(Font(thing, At));
        }
        if (source is not null)
        {
            var (before, after) = (await WordsAsync(source, cancel), await WordsAsync(path, cancel));
            if (before.Except(after).Take(3).ToList() is { Count: > 0 } lost)
                faults.Add($"Text is lost, such as “{string.Join("”, “", lost)}”.");
        }
        return [.. faults.Distinct()];
    }

    // A font is in the file, and its letters have Unicode.
    private static IEnumerable<string> Font(JsonObject font, Func<JsonNode?, JsonNode?> at)
    {
        var (kind, name) = (font["/Subtype"]?.ToString(), font["/BaseFont"]?.ToString().TrimStart('/') ?? "without a name");
        // Those inside a composite font are looked at with it.
        if (kind is "/CIDFontType0" or "/CIDFontType2")
            yield break;
        var inner = kind == "/Type0" ? at((at(font["/DescendantFonts"]) as JsonArray)?[0]) : font;
        var descriptor = at(inner?["/FontDescriptor"]);
        if (kind != "/Type3" && !new[] { "/FontFile", "/FontFile2", "/FontFile3" }.Any(f => descriptor?[f] is not null))
            yield return $"The font {name} is not in the file.";
        var standard = at(font["/Encoding"]) is JsonValue encoding && encoding.ToString() is "/WinAnsiEncoding" or "/MacRomanEncoding";
        if (font["/ToUnicode"] is null && !standard)
            yield return $"The letters of the font {name} have no Unicode.";
    }

    private static async Task<HashSet<string>> WordsAsync(string path, CancellationToken cancel) =>
        (await RunAsync("pdftotext", ["-enc", "UTF-8", path, "-"], cancel)) is { } text
            ? [.. text.Output.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)]
            : [];

    // Ghostscript promises level B; whether level U is kept is looked at afterwards. The sign is replaced in its place, so that nothing in
    // the file moves.
    private static void Promise(string path)
    {
        var bytes = File.ReadAllBytes(path);
        var at = bytes.AsSpan().IndexOf(Encoding.ASCII.GetBytes(Level('B')));
        if (at < 0)
            return;
        Encoding.ASCII.GetBytes(Level('U')).CopyTo(bytes, at);
        File.WriteAllBytes(path, bytes);
    }

    private static string Level(char level) => $"pdfaid:conformance='{level}'";

    private static string First(string? said) =>
        said?.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).FirstOrDefault() ?? "it took too long.";

    private static async Task<ExternalProgram.Result?> RunAsync(string program, string[] arguments, CancellationToken cancel)
    {
        try
        {
            return await ExternalProgram.RunAsync(program, arguments, Limit, cancel);
        }
        catch (Exception e) when (e is TimeoutException or InvalidDataException)
        {
            return null;
        }
    }

    private static string Intent =>
        $$"""
            %!
            [ /_objdef {icc} /type /stream /OBJ pdfmark
            [ {icc} << /N 3 >> /PUT pdfmark
            [ {icc} ({{Profile}}) (r) file /PUT pdfmark
            [ /_objdef {intent} /type /dict /OBJ pdfmark
            [ {intent} << /Type /OutputIntent /S /GTS_PDFA1 /DestOutputProfile {icc} /OutputConditionIdentifier (sRGB) >> /PUT pdfmark
            [ {Catalog} << /OutputIntents [ {intent} ] >> /PUT pdfmark
            """;
}
