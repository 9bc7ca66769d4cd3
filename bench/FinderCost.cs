using System.Diagnostics;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Bench;

/// <summary>What finders cost a page beyond its recognition: forty of them, and one over a list of 100,000 entries.</summary>
internal static class FinderCost
{
    public static void Run()
    {
        var random = new Random(1);
        string Name() => string.Concat(Enumerable.Range(0, random.Next(4, 9)).Select(_ => (char)('a' + random.Next(26))));
        var names = Enumerable.Range(0, 100_000).Select(_ => $"{Name()} {Name()}").ToArray();
        var table = new ReferenceTable("payers", "Payers", ["name"], [.. names.Select(n => new[] { n })]);
        var words = new List<Word>();
        for (var line = 0; line < 50; line++)
        for (var i = 0; i < 8; i++)
            words.Add(new Word(i == 3 ? $"{line}.{i}4" : Name(), new Box(0.05 + i * 0.11, 0.02 + line * 0.019, 0.09, 0.012), 0.9));
        words[100] = words[100] with { Text = names[500].Split(' ')[0] };
        words[101] = words[101] with { Text = names[500].Split(' ')[1] };
        var page = new PageText(1654, 2339, words, "recognised");
        var fields = Enumerable.Range(0, 40).Select(i => (Field)new TextField($"f{i}", $"F{i}")).ToList();
        Finder Made(int i) =>
            i % 2 == 0
                ? new Finder($"f{i}", "beside") { Words = [words[i * 9].Text, "another label"] }
                : new Finder($"f{i}", "shape") { Shape = "pattern", Pattern = $"{i}[.][0-9]+" };
        Time("40 finders", [.. Enumerable.Range(0, 40).Select(Made)]);
        Time("a list of 100,000", [new Finder("f0", "list") { List = "payers/name" }]);

        void Time(string what, Finder[] finders)
        {
            var reader = new Reader("r", "R", "t", [], [], [.. finders.Select(f => new Core.Cleaning.CrosswalkLine(f.Key, f.Key, []))])
            {
                Finders = finders,
            };
            var context = new FinderContext { Tables = _ => table };
            var claim = Recognition.Try(page, reader);
            DocumentRead Read() => DocumentReading.Read([(1, page)], 1, claim, new TypeFields("t", fields), context);
            var found = Read().Record.Count;
            var began = Stopwatch.GetTimestamp();
            for (var i = 0; i < 50; i++)
                Read();
            Console.WriteLine(
                $"{what}: {Stopwatch.GetElapsedTime(began).TotalMilliseconds / 50:0.00} ms a page of {words.Count} words, {found} found"
            );
        }
    }
}
