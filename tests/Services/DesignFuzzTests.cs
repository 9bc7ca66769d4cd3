using System.Text.Json.Nodes;
using ClearLexicon.Core.Designs;
using ClearLexicon.Demo;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>
/// Design files with parts removed, nulled, swapped, doubled and made nasty: each is refused or becomes a design that works.
/// </summary>
public sealed class DesignFuzzTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    [Fact]
    public void A_mutated_design_file_never_throws_and_leaves_all_or_nothing()
    {
        var original = DesignFileJson.Write(_house.Files.Export());
        var (refused, taken) = (0, 0);
        var before = DesignFileJson.Write(_house.Files.Export());
        for (var seed = 0; seed < 200; seed++)
        {
            var random = new Random(seed);
            var mutated = JsonNode.Parse(original)!;
            for (var i = random.Next(1, 3); i > 0; i--)
                Mutate(mutated, random);
            try
            {
                var read = DesignFileJson.Read(mutated.ToJsonString());
                if (read.Ok && _house.Files.Import(read.Value!, "me") is { Ok: true })
                {
                    taken++;
                    Works();
                    before = DesignFileJson.Write(_house.Files.Export());
                }
                else
                {
                    // What is as it was works as it did.
                    refused++;
                    Assert.Equal(before, DesignFileJson.Write(_house.Files.Export()));
                }
            }
            catch (Exception e) when (e is not Xunit.Sdk.XunitException)
            {
                throw new InvalidOperationException($"seed {seed}", e);
            }
        }
        Assert.True(refused > 75 && taken > 15, $"{refused} refused, {taken} taken");
        // Putting the original back mends everything.
        Assert.Null(_house.Files.Import(DesignFileJson.Read(original).Value!, "me").Problem);
        Works();
    }

    // What every page of Design does with what is stored.
    private void Works()
    {
        foreach (var state in _house.Designs.All())
        {
            var whole = _house.Designs.Resolve(state.Draft);
            var compiled = new Core.Designs.CompiledType(whole, _house.Designs.Vocabularies, _house.Designs.Tables);
            _ = compiled.Judge(new string?[compiled.Width], _house.Designs.Now(Core.Rules.EntryChannel.Desk, "me"));
            _ = _house.Drafts.Findings(state.Draft);
        }
        foreach (var published in _house.Designs.Published.Values)
            _ = JsonSchemaExport.Write(published.Type).ToJsonString();
    }

    private static void Mutate(JsonNode root, Random random)
    {
        var nodes = new List<JsonNode>();
        void Walk(JsonNode? node)
        {
            if (node is null)
                return;
            nodes.Add(node);
            foreach (
                var child in node is JsonObject o ? o.Select(p => p.Value)
                : node is JsonArray a ? a.Take(6)
                : []
            )
                Walk(child);
        }
        Walk(root);
        var at = nodes[random.Next(1, nodes.Count)];
        JsonNode? other = random.Next(9) switch
        {
            0 => null,
            1 => JsonValue.Create(""),
            2 => JsonValue.Create(-1),
            3 => new JsonArray(),
            4 => new JsonObject(),
            5 => JsonValue.Create("\ud800x"),
            6 => JsonValue.Create(new string('x', 5_000)),
            7 => JsonValue.Create(true),
            _ => nodes[random.Next(1, nodes.Count)].DeepClone(),
        };
        if (at.Parent is JsonObject parent)
        {
            var name = at.GetPropertyName();
            if (random.Next(3) == 0)
                parent.Remove(name);
            else
                parent[name] = other;
        }
        else if (at.Parent is JsonArray list)
        {
            if (random.Next(3) == 0)
                list.Add(at.DeepClone());
            else
                list[at.GetElementIndex()] = other;
        }
    }

    public void Dispose() => _house.Dispose();
}
