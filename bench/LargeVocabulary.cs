using BenchmarkDotNet.Attributes;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Bench;

/// <summary>A vocabulary of 50,000 terms: near-duplicates of all of them, and completion at each keystroke.</summary>
public class LargeVocabulary
{
    private const int Terms = 50_000;

    private readonly List<string> _labels = Labels(Terms);
    private VocabularyIndex _index = null!;

    [GlobalSetup]
    public void Index() => _index = new VocabularyIndex(new Vocabulary("large", "Large", [.. _labels.Select(l => new Term(l, []))]));

    /// <summary>All groups of near-duplicates; about one label in fifty is a near-duplicate of another.</summary>
    [Benchmark]
    public int NearDuplicateGroups() => NearDuplicates.Find(_labels).Count;

    /// <summary>Six keystrokes of one word: <c>t</c>, <c>ti</c> … each gives twelve completions.</summary>
    [Benchmark(OperationsPerInvoke = 6)]
    public int CompletionAKeystroke()
    {
        var found = 0;
        for (var n = 1; n <= 6; n++)
            found += _index.Complete("timber"[..n], 12).Count();
        return found;
    }

    private readonly RowSearch _rows = new([
        .. Labels(100_000).Select((l, i) => new[] { $"{9_000_000 + i}", l, l.Split(' ')[0], $"{i % 977}" }),
    ]);

    /// <summary>
    /// Six keystrokes into 100,000 rows of four columns; the last word is one that no row holds, so that all are gone through.
    /// </summary>
    [Benchmark(OperationsPerInvoke = 6)]
    public int RowsAKeystroke()
    {
        var found = 0;
        foreach (var typed in (ReadOnlySpan<string>)["ti", "tim", "timb", "9055", "90551", "timzzz"])
            found += _rows.Find(typed, 8).Count;
        return found;
    }

    /// <summary>Labels of three invented words, every fiftieth with a slip of the pen.</summary>
    public static List<string> Labels(int count)
    {
        string[] first =
        [
            "timber",
            "granite",
            "herring",
            "barley",
            "copper",
            "diesel",
            "paper",
            "turbine",
            "gravel",
            "salted",
            "frozen",
            "coated",
            "crushed",
            "rolled",
            "liquid",
            "mineral",
        ];
        string[] second =
        [
            "beams",
            "blocks",
            "barrels",
            "sacks",
            "cathodes",
            "blends",
            "reels",
            "blades",
            "chips",
            "hides",
            "fillets",
            "sheets",
            "stone",
            "coils",
            "gas",
            "wool",
        ];
        var random = new Random(50);
        var labels = new HashSet<string>(StringComparer.Ordinal);
        while (labels.Count < count)
        {
            var label =
                $"{first[random.Next(16)]} {second[random.Next(16)]} "
                + $"{(char)('a' + random.Next(26))}{(char)('a' + random.Next(26))}{(char)('a' + random.Next(26))} {random.Next(1000)}";
            labels.Add(label);
            if (labels.Count % 50 == 0)
                labels.Add(label.Insert(random.Next(1, 5), label[2].ToString()));
        }
        return [.. labels];
    }
}
