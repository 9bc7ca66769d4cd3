using BenchmarkDotNet.Attributes;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Bench;

/// <summary>Renders folder and name of 1,000 records: the convention against string interpolation of the same pieces.</summary>
[MemoryDiagnoser]
public class Naming
{
    private readonly CompiledType _type = new(Records.Type, Records.Vocabularies);
    private FieldValue[][] _records = [];

    [GlobalSetup]
    public void Parse()
    {
        _records = [.. Records.Texts.Select(t => _type.Judge(t, Records.Now).Values)];
        if (Convention() != Interpolation())
            throw new InvalidOperationException("The two do not render the same.");
    }

    [Benchmark]
    public int Convention()
    {
        var length = 0;
        foreach (var record in _records)
        {
            var placement = _type.Convention.Render(record, Records.Now);
            length += placement.Folder.Length + placement.Name.Length;
        }
        return length;
    }

    [Benchmark(Baseline = true)]
    public int Interpolation()
    {
        var length = 0;
        foreach (var record in _records)
        {
            var folder = $"Vessel calls/{record[5].Date:yyyy}/{record[5].Date:MM MMMM}";
            var name = $"{record[0].Text} {record[1].Text}";
            length += folder.Length + name.Length;
        }
        return length;
    }
}
