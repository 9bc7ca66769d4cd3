using System.Globalization;
using BenchmarkDotNet.Attributes;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Bench;

/// <summary>Validates 1,000 records of 12 fields by 20 rules: the engine against a check of the same constraints written by hand.</summary>
[MemoryDiagnoser]
public class Validation
{
    private readonly CompiledType _type = new(Records.Type, Records.Vocabularies);
    private readonly FieldValue[] _values = new FieldValue[12];
    private readonly List<Problem> _problems = [];
    private readonly HashSet<string> _berths = [.. Records.Vocabularies["berths"].Vocabulary.Terms.Select(t => t.Label)];
    private readonly HashSet<string> _types = [.. Records.Vocabularies["vessel-types"].Vocabulary.Terms.Select(t => t.Label)];

    [GlobalSetup]
    public void Agree()
    {
        if (Engine() != ByHand())
            throw new InvalidOperationException($"The engine finds {Engine()} problems, the check by hand {ByHand()}.");
    }

    [Benchmark]
    public int Engine()
    {
        var found = 0;
        foreach (var record in Records.Texts)
        {
            _problems.Clear();
            _type.Parse(record, _values, Records.Now);
            _type.CollectProblems(_values, Records.Now, _problems);
            found += _problems.Count;
        }
        return found;
    }

    [Benchmark(Baseline = true)]
    public int ByHand()
    {
        var found = 0;
        foreach (var r in Records.Texts)
            found += Check(r);
        return found;
    }

    private int Check(string?[] r)
    {
        var found = 0;
        if (string.IsNullOrWhiteSpace(r[0]))
            found++;
        else if (!Shaped(r[0]!, "VC-dddd-ddddd"))
            found++;
        if (string.IsNullOrWhiteSpace(r[1]))
            found++;
        else if (r[1]!.Length > 40)
            found++;
        if (string.IsNullOrWhiteSpace(r[2]))
            found++;
        else
        {
            if (!Shaped(r[2]!, "ddddddd"))
                found++;
            if (TransportSchemes.ImoCheckDigit(r[2]) != r[2]![^1] - '0')
                found++;
        }
        if (!string.IsNullOrWhiteSpace(r[3]) && !_types.Contains(r[3]!))
            found++;
        if (string.IsNullOrWhiteSpace(r[4]) || !_berths.Contains(r[4]!))
            found++;
        var least = new DateOnly(1986, 1, 1);
        bool hasArrived = DateOnly.TryParseExact(r[5], "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var arrived),
            hasSailed = false;
        DateOnly sailed = default;
        if (!hasArrived || arrived < least)
            found++;
        if (!string.IsNullOrWhiteSpace(r[6]))
        {
            hasSailed = DateOnly.TryParseExact(r[6], "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out sailed);
            if (!hasSailed || sailed < least)
                found++;
        }
        if (hasArrived && hasSailed && arrived > sailed)
            found++;
        if (
            !string.IsNullOrWhiteSpace(r[7])
            && (!int.TryParse(r[7], NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var tons) || tons is < 50 or > 250_000)
        )
            found++;
        if (r[8]?.Length > 60)
            found++;
        if (r[9]?.Length > 60)
            found++;
        var pilot = string.Equals(r[10], "yes", StringComparison.OrdinalIgnoreCase);
        if (!pilot && !string.Equals(r[10], "no", StringComparison.OrdinalIgnoreCase) && !string.IsNullOrWhiteSpace(r[10]))
            found++;
        if (!string.IsNullOrWhiteSpace(r[11]) && !Shaped(r[11]!, "PC-dddd"))
            found++;
        return found + Rules(r, hasArrived ? arrived : null, hasSailed ? sailed : null, pilot);
    }

    private static int Rules(string?[] r, DateOnly? arrived, DateOnly? sailed, bool pilot)
    {
        var found = 0;
        var empty = string.IsNullOrWhiteSpace;
        if (pilot && empty(r[11]))
            found++;
        if (r[3] == "Tanker" && empty(r[7]) && empty(r[8]))
            found++;
        if (r[10] == "no" && empty(r[8]) && empty(r[9]))
            found++;
        if (r[4] == "Ferry Ramp" && empty(r[3]))
            found++;
        if (sailed > arrived?.AddDays(400))
            found++;
        if (r[3] == "Tug" && empty(r[9]))
            found++;
        if (r[4] == "Timber Wharf" && empty(r[6]) && empty(r[8]))
            found++;
        if (r[3] == "Bulk carrier" && empty(r[7]))
            found++;
        if (!empty(r[7]) && decimal.TryParse(r[7], NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var tons))
        {
            if (tons is < 100 or > 200_000)
                found++;
            if (tons % 1 != 0)
                found++;
        }
        if (arrived < new DateOnly(1990, 1, 1) || arrived > new DateOnly(2030, 12, 31))
            found++;
        if (arrived > Records.Now.Today)
            found++;
        if (r[1]?.Trim().Length is < 2 or > 40)
            found++;
        if (r[11] is { Length: > 0 } certificate)
            foreach (var c in certificate)
                if (!char.IsAsciiLetterUpper(c) && !char.IsAsciiDigit(c) && c != '-')
                {
                    found++;
                    break;
                }
        if (!empty(r[0]) && !Shaped(r[0]!, "VC-dddd-ddddd"))
            found++;
        if (empty(r[8]) && empty(r[9]))
            found++;
        if (!empty(r[1]) && string.Equals(r[1], r[8], StringComparison.OrdinalIgnoreCase))
            found++;
        if (sailed is { } s && arrived is { } a && Math.Abs(s.DayNumber - a.DayNumber) > 400)
            found++;
        if (empty(r[5]) || empty(r[1]))
            found++;
        return found;
    }

    private static bool Shaped(string text, string shape)
    {
        if (text.Length != shape.Length)
            return false;
        for (var i = 0; i < text.Length; i++)
            if (shape[i] == 'd' ? !char.IsAsciiDigit(text[i]) : text[i] != shape[i])
                return false;
        return true;
    }
}
