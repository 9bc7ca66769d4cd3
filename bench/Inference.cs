using System.Globalization;
using BenchmarkDotNet.Attributes;
using ClearLexicon.Core.Conventions.Inference;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Bench;

/// <summary>Works a convention out from 50,000 paths and checks every one of them; aim: under 5 s.</summary>
[MemoryDiagnoser]
public class Inference
{
    private static readonly string[] Names = ["Grey Heron", "Corvina", "Sea Lark of Merrow", "St Brannoc", "Ulvesund Lady", "Nokken", "Zeeland Plover"];

    private readonly string[] _paths =
        [.. Enumerable.Range(0, 50_000).Select(i => string.Create(CultureInfo.InvariantCulture, $"Vessel calls/{1986 + i % 28}/{new DateOnly(2024, 1 + i % 12, 1):MM MMMM}/VC-{1986 + i % 28}-{i:00000} {Names[i % 7]}{(i % 40 == 0 ? " (2)" : i % 97 == 0 ? " - copy" : "")}.pdf"))];

    [Benchmark]
    public int Propose() => PathInference.Propose(_paths, DocumentType.Empty("t", "T"), new Dictionary<string, VocabularyIndex>()).Proposal!.Explained;
}
