using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Design;

/// <summary>A design file as JSON: written, read by its published schema, and that schema.</summary>
public static class DesignFileJson
{
    private static readonly JsonSerializerOptions Strict = new(Sql.Json)
    {
        // Named, because a schema may be asked for before anything was ever written with these options.
        TypeInfoResolver = new DefaultJsonTypeInfoResolver(),
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        WriteIndented = true,
    };

    /// <summary>A design as text.</summary>
    public static string Write(DesignFile file) => JsonSerializer.Serialize(file, Strict);

    /// <summary>The published schema of design files (JSON Schema 2020-12).</summary>
    public static JsonNode Schema()
    {
        var schema = Strict
            .GetJsonSchemaAsNode(
                typeof(DesignFile),
                new JsonSchemaExporterOptions
                {
                    TreatNullObliviousAsNonNullable = true,
                    TransformSchemaNode = static (_, node) => WithoutNulls(node),
                }
            )
            .AsObject();
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "title", "Clear Lexicon design");
        return schema;
    }

    // What is null is not written, so it cannot be required.
    private static JsonNode WithoutNulls(JsonNode node)
    {
        if (
            node is not JsonObject { } schema
            || schema["required"] is not JsonArray required
            || schema["properties"] is not JsonObject properties
        )
            return node;
        schema["required"] = new JsonArray([
            .. required
                .Select(r => (string)r!)
                .Where(name => properties[name]?["type"] is not JsonArray types || types.All(t => (string?)t != "null"))
                .Select(name => (JsonNode)name),
        ]);
        return node;
    }

    /// <summary>
    /// Reads a design file: by its published schema first, so that what is read has all its parts. What is wrong is named by its place.
    /// </summary>
    public static Result<DesignFile> Read(string json) => Read(Encoding.UTF8.GetBytes(json));

    /// <inheritdoc cref="Read(string)"/>
    public static Result<DesignFile> Read(ReadOnlyMemory<byte> json)
    {
        var published = Published.Value; // an error of ours, so outside of what a file is blamed for
        try
        {
            using var document = JsonDocument.Parse(json, new JsonDocumentOptions { MaxDepth = 64 });
            if (
                document.RootElement.ValueKind != JsonValueKind.Object
                || !document.RootElement.TryGetProperty("format", out var format)
                || format.ValueKind != JsonValueKind.String
                || format.GetString() != DesignFile.FormatName
            )
                return Result<DesignFile>.Not($"This is not a design file: its format is not “{DesignFile.FormatName}”.");
            var isNumber = document.RootElement.TryGetProperty("version", out var version) && version.ValueKind == JsonValueKind.Number;
            int? number = isNumber && version.TryGetInt32(out var whole) ? whole : null;
            if (number is < 1 or > DesignFile.NewestVersion)
                return Result<DesignFile>.Not(
                    $"This file has version {number} of the format; this installation reads versions 1 to {DesignFile.NewestVersion}."
                );
            if (number == 1)
            {
                // What cannot be read at all is named by its line in the file as it came.
                _ = JsonSerializer.Deserialize<DesignFile>(json.Span, Sql.Json);
                return Read(JsonSerializer.SerializeToUtf8Bytes(EarlierFields.Upgrade(JsonNode.Parse(json.Span)!.AsObject()), Strict));
            }
            var finding = SchemaFinding(published, document.RootElement);
            // Reading it names the line, where it can; what the schema alone refuses it does not notice.
            var file = JsonSerializer.Deserialize<DesignFile>(json.Span, Strict)!;
            if (finding is not null)
                return Result<DesignFile>.Not(finding);
            return file with { Types = [.. file.Types.Select(t => t with { Design = EarlierRules.Upgrade(t.Design) })] };
        }
        catch (JsonException e)
        {
            var place = e.Path is { Length: > 2 } path ? path[2..] : "beginning";
            // The one word that chooses what is read has no name in the reader's own path.
            if (
                place.EndsWith(']')
                && place[..place.LastIndexOf('[')] is var list
                && (list.EndsWith(".fields", StringComparison.Ordinal) || list.EndsWith(".columns", StringComparison.Ordinal))
            )
                place += ".kind";
            return Result<DesignFile>.Not($"The file cannot be read at line {(e.LineNumber ?? 0) + 1}, {place}.");
        }
        catch (Exception e)
            when (e is InvalidOperationException or ArgumentException or NotSupportedException or FormatException or OverflowException)
        {
            return Result<DesignFile>.Not("The file holds a text that is not valid Unicode.");
        }
    }

    private static readonly Lazy<Json.Schema.JsonSchema> Published = new(() => Json.Schema.JsonSchema.FromText(Schema().ToJsonString()));

    // Terms and rows that are looked at together: what a schema finds of each place is kept until all of them were looked at.
    private const int AtOnce = 500;

    private static string? SchemaFinding(Json.Schema.JsonSchema published, JsonElement file)
    {
        foreach (var (part, list, skipped) in Parts(JsonObject.Create(file)!))
        {
            var results = published.Evaluate(part, new Json.Schema.EvaluationOptions { OutputFormat = Json.Schema.OutputFormat.List });
            if (results.IsValid)
                continue;
            // The deepest place says most; the library's words for it are not ours.
            var deepest = results.Details.Where(d => d is { IsValid: false, HasErrors: true }).MaxBy(d => d.InstanceLocation.Count);
            var kinds = deepest?.Errors?.Keys.ToList() ?? [];
            var what =
                kinds.Contains("required") ? "it lacks a part"
                : kinds.Contains("type") ? "this is of another kind"
                : kinds.Contains("enum") ? "this is not one of the words that may stand here"
                : "this may not stand here";
            var place = InFile(deepest?.InstanceLocation.ToString() ?? "", list, skipped);
            return $"The file is not as its schema says{(place.Length > 0 ? $" at {place}" : "")}: {what}.";
        }
        return null;
    }

    // The file without its long lists; then each of these in pieces, alone in a file of its own. With each piece the list it is of, such as
    // /vocabularies/3/terms, and how many come before it.
    private static IEnumerable<(JsonObject Part, string? List, int Skipped)> Parts(JsonObject file)
    {
        var lists = new List<(string Of, int At, string Name, JsonArray Long)>();
        foreach (var (of, name) in new[] { ("vocabularies", "terms"), ("tables", "rows") })
            if (file[of] is JsonArray all)
                for (var i = 0; i < all.Count; i++)
                    if (all[i] is JsonObject one && one[name] is JsonArray { Count: > AtOnce } many)
                    {
                        lists.Add((of, i, name, many));
                        one[name] = new JsonArray();
                    }
        yield return (file, null, 0);
        foreach (var (of, at, name, many) in lists)
        {
            var holder = (JsonObject)file[of]![at]!;
            var bare = new JsonObject();
            foreach (var (key, value) in file)
                bare[key] = value is JsonArray ? new JsonArray() : value?.DeepClone();
            for (var from = 0; from < many.Count; from += AtOnce)
            {
                var piece = holder.DeepClone().AsObject();
                piece[name] = new JsonArray([.. many.Skip(from).Take(AtOnce).Select(t => t?.DeepClone())]);
                bare[of] = new JsonArray(piece);
                yield return (bare, $"/{of}/{at}/{name}", from);
            }
        }
    }

    // A place in a piece, as a place in the whole file.
    private static string InFile(string place, string? list, int skipped)
    {
        if (list is null || place.Split('/') is not ["", _, _, _, var number, .. var rest] || !int.TryParse(number, out var at))
            return place;
        return string.Join('/', [list, $"{at + skipped}", .. rest]);
    }
}
