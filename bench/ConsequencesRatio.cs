using System.Diagnostics;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Bench;

/// <summary>
/// The consequences of publishing over a million filed documents, against reading the same documents and validating them once. Told as it
/// was measured; run once for what the compiler and the disk's cache need, then in turns.
/// </summary>
internal static class ConsequencesRatio
{
    public static void Measure(int documents)
    {
        var root = Directory.CreateTempSubdirectory("consequences").FullName;
        try
        {
            var folder = new DataFolder(root);
            using var database = new Database(folder.DatabaseFile);
            var clock = TimeProvider.System;
            var designs = new Designs(database, clock);
            var jobs = new Jobs(database, clock, e => throw e);
            var drafts = new Drafts(database, designs, new Rebuilding(database, designs, jobs), clock);
            var carrying = new Carrying(database, designs, jobs, new DocumentWriter(designs, clock), clock);
            var publishing = new Publishing(database, folder, designs, drafts, carrying, jobs, clock);
            jobs.Add(carrying);
            jobs.Add(publishing);
            Design(database, drafts);
            Fill(database, documents);
            var baseline = Math.Max(1, GC.GetTotalMemory(forceFullCollection: true) / 1_000_000);
            var (validated, looked, highest) = (TimeSpan.MaxValue, TimeSpan.MaxValue, 0L);
            for (var round = 0; round < 3; round++)
            {
                validated = Least(validated, () => Validate(database, designs, documents));
                looked = Least(
                    looked,
                    () =>
                    {
                        var job = publishing.StartLook("vessel-call-record").Value!;
                        while (!job.Completion.Wait(100))
                            highest = Math.Max(highest, GC.GetTotalMemory(forceFullCollection: false));
                    }
                );
            }
            var result = publishing.Last("vessel-call-record")!.Result;
            if (result.Looked != documents || result.Failing == 0 || result.Moved == 0)
                throw new InvalidOperationException($"Looked at {result.Looked}, {result.Failing} newly fail, {result.Moved} move.");
            Console.WriteLine(
                $"consequences over {documents:N0} documents: {looked.TotalSeconds:0.0} s; reading and validating them once: "
                    + $"{validated.TotalSeconds:0.0} s; ratio {looked / validated:0.00}"
            );
            Console.WriteLine(
                $"{result.Failing:N0} newly fail, {result.Passing:N0} newly pass, {result.Moved:N0} move; managed memory "
                    + $"{baseline:N0} MB before, at most {highest / 1_000_000:N0} MB during it"
            );
        }
        finally
        {
            Directory.Delete(root, recursive: true);
        }
    }

    private static void Design(Database database, Drafts drafts)
    {
        foreach (var index in Records.Vocabularies.Values)
            database.Write(c =>
            {
                VocabularyStore.Add(c, index.Vocabulary);
                VocabularyStore.Put(
                    c,
                    index.Vocabulary.Key,
                    [.. index.Vocabulary.Terms.Select(t => t with { Id = ShortName.From(t.Label) })]
                );
            });
        var type = Records.Type with { Groups = [], Fillings = [] };
        Check(drafts.Create(type.Name, "bench").Problem);
        Check(drafts.Change(type.Code, "designed", "bench", _ => type).Problem);
        Check(drafts.Publish(type.Code, "bench").Problem);
        // A narrower range, a must, another folder: some fail, the rest moves.
        Check(
            drafts
                .Change(
                    type.Code,
                    "narrowed",
                    "bench",
                    t =>
                        t with
                        {
                            Fields = [.. t.Fields.Select(f => f.Key == "gross-tonnage" ? (RangedField)f with { Max = "20000" } : f)],
                            Convention = t.Convention with { Folder = [.. t.Convention.Folder.SkipLast(2)] },
                        }
                )
                .Problem
        );

        static void Check(string? problem)
        {
            if (problem is not null)
                throw new InvalidOperationException(problem);
        }
    }

    private static void Fill(Database database, int documents) =>
        database.Write(c =>
        {
            using var command = c.CreateCommand();
            command.CommandText = """
                INSERT INTO documents (state, type_code, version, source_name, record, evidence, overrides, folder, name, place_key, filed_at, filed_by)
                VALUES ('filed', 'vessel-call-record', 1, 'x', $record, '{}', '{}', 'Vessel calls', $name, $name, '2025-06-01 10:00', 'bench')
                """;
            var (record, name) = (command.Parameters.AddWithValue("$record", ""), command.Parameters.AddWithValue("$name", ""));
            var records = Records
                .Texts.Select(t =>
                    Sql.ToJson(
                        Records
                            .Type.Fields.Select((f, i) => (f.Key, Text: t[i]))
                            .Where(f => f.Text is not null)
                            .ToDictionary(f => f.Key, f => f.Text!)
                    )
                )
                .ToArray();
            for (var i = 0; i < documents; i++)
            {
                (record.Value, name.Value) = (records[i % records.Length], $"{i}.pdf");
                command.ExecuteNonQuery();
            }
        });

    // The floor: the same stream of documents, each judged once and named.
    private static void Validate(Database database, Designs designs, int documents)
    {
        var type = designs.Published["vessel-call-record"].Type;
        var (texts, values, problems) = (new string?[type.Width], new FieldValue[type.Width], new List<Problem>());
        var (seen, failing) = (0, 0);
        using var reading = database.Connect();
        RepositoryStore.Each(
            reading,
            type.Type.Code,
            document =>
            {
                for (var i = 0; i < texts.Length; i++)
                    texts[i] = document.Record.GetValueOrDefault(type.Type.Fields[i].Key);
                problems.Clear();
                type.Parse(texts, values, Records.Now);
                type.CollectProblems(values, Records.Now, problems);
                if (type.Convention.Render(values, Records.Now).Problem is { } problem)
                    problems.Add(problem);
                if (problems.Exists(p => p.Level == Level.Must))
                    failing++;
                seen++;
            }
        );
        if (seen != documents || failing == 0)
            throw new InvalidOperationException($"Validated {seen}, {failing} failing.");
    }

    private static TimeSpan Least(TimeSpan before, Action run)
    {
        GC.Collect();
        var watch = Stopwatch.StartNew();
        run();
        return watch.Elapsed < before ? watch.Elapsed : before;
    }
}
