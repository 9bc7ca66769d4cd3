using System.Globalization;
using BenchmarkDotNet.Attributes;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Conventions.Inference;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Bench;

/// <summary>Works a convention out from 50,000 paths and checks every one of them; aim: under 5 s.</summary>
[MemoryDiagnoser]
public class Inference
{
    private static readonly string[] Names =
    [
        "Grey Heron",
        "Corvina",
        "Sea Lark of Merrow",
        "St Brannoc",
        "Ulvesund Lady",
        "Nokken",
        "Zeeland Plover",
    ];

    private readonly string[] _paths =
    [
        .. Enumerable
            .Range(0, 50_000)
            .Select(i =>
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Vessel calls/{1986 + i % 28}/{new DateOnly(2024, 1 + i % 12, 1):MM MMMM}/VC-{1986 + i % 28}-{i:00000} "
                        + $"{Names[i % 7]}{(i % 40 == 0 ? " (2)" : i % 97 == 0 ? " - copy" : "")}.pdf"
                )
            ),
    ];

    private readonly string[] _folders =
    [
        .. Enumerable.Range(0, 50_000).Select(i => $"Vessel calls/{1986 + i % 28}/{i % 12 + 1:00}/Berth {i % 41}/{i % 97}"),
    ];

    /// <summary>The preview tree of 50,000 documents in as many folders as they have, and the lines that are drawn of it.</summary>
    [Benchmark]
    public int PreviewTree()
    {
        var tree = new PathTree();
        foreach (var folder in _folders)
            tree.Adds(folder);
        return tree.Lines(26, new Dictionary<string, bool>()).Count;
    }

    [Benchmark]
    public int Propose() =>
        PathInference
            .Propose(_paths, new TypeFields("t", []), Convention.Empty, new Dictionary<string, VocabularyIndex>())
            .Proposal!.Explained;
}
