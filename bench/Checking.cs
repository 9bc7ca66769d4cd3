using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Headers;
using System.Text.Json;
using ClearLexicon.Core.Designs;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;

namespace ClearLexicon.Bench;

/// <summary>
/// The check API over HTTP against a compiled JSON Schema validator in Node: the same records, a line each, and the schema that the API
/// itself gives. Both read the records from a file and write an answer a line; both in turns, the best of three counts. <c>check
/// [records]</c>
/// </summary>
internal static class Checking
{
    private const int Filed = 20_000,
        Turns = 3;

    public static async Task MeasureAsync(int records)
    {
        var root = Directory.CreateTempSubdirectory("checking").FullName;
        try
        {
            var token = Fill(new DataFolder(root));
            var (schema, lines, answers) = (
                Path.Combine(root, "schema.json"),
                Path.Combine(root, "records.ndjson"),
                Path.Combine(root, "answers.ndjson")
            );
            using var server = await Served.StartAsync(root);
            server.Client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
            await File.WriteAllTextAsync(
                schema,
                await server.Client.GetStringAsync($"/api/v1/document-types/{HarbourDesign.VesselCall.Code}/json-schema?given=true")
            );
            Write(lines, records);
            var (here, there) = (TimeSpan.MaxValue, TimeSpan.MaxValue);
            for (var turn = 0; turn < Turns; turn++)
            {
                var (api, ok) = await AskAsync(token, lines, answers);
                var (node, said) = await ValidateAsync(schema, lines, answers);
                Console.WriteLine(
                    $"  turn {turn + 1}: check API {api.TotalSeconds:0.00} s ({ok:N0} ok), validator {node.TotalSeconds:0.00} s "
                        + $"({said} right and wrong)"
                );
                if (api < here)
                    here = api;
                if (node < there)
                    there = node;
            }
            Console.WriteLine(
                $"{records:N0} records of {new FileInfo(lines).Length / records} bytes over HTTP: "
                    + $"{here.TotalMicroseconds / records:0.0} µs a record"
            );
            Console.WriteLine(
                $"check API {here.TotalSeconds:0.00} s, validator {there.TotalSeconds:0.00} s: {here / there:0.00} ×; server memory "
                    + $"at most {server.PeakMegabytes} MB"
            );
        }
        finally
        {
            Directory.Delete(root, recursive: true);
        }
    }

    // The harbour's design, some thousands of filed documents, and somebody with a token.
    private static string Fill(DataFolder folder)
    {
        using (folder)
        {
            Served.Fill(folder, Filed);
            using var database = new Database(folder.DatabaseFile);
            var people = new Accounts(database, TimeProvider.System);
            return people.MakeToken(people.All().First(p => p.Roles.Contains(Roles.Steward)), "bench");
        }
    }

    // Nine sound records and a flawed one in ten, none with the number of another.
    private static void Write(string path, int records)
    {
        var random = new Random(7);
        using var file = File.Create(path);
        for (var i = 0; i < records; i++)
        {
            var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)];
            var arrived = new DateOnly(2021, 1, 1).AddDays(random.Next(900));
            var flawed = i % 10 == 0;
            JsonSerializer.Serialize(
                file,
                new Dictionary<string, object>
                {
                    ["call-number"] = $"VC-{2030 + i / 100_000}-{i % 100_000:00000}",
                    ["vessel"] = vessel.Name,
                    ["imo"] = flawed ? "9074720" : vessel.Imo,
                    ["vessel-type"] = vessel.Type,
                    ["berth"] = HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)].Label,
                    ["arrived"] = Iso(arrived),
                    ["sailed"] = Iso(arrived.AddDays(flawed ? -1 : 3)),
                    ["gross-tonnage"] = vessel.Tonnage,
                    ["agent"] = "Holm Brokers",
                    ["master"] = "Frida Lund",
                    ["pilot-used"] = true,
                    ["pilot-certificate"] = "PC-1234",
                }
            );
            file.Write("\n"u8);
        }
        static string Iso(DateOnly date) => date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
    }

    // By curl: the client of .NET reads no answer before it has sent all.
    private static async Task<(TimeSpan Took, int Ok)> AskAsync(string token, string lines, string answers)
    {
        var began = Stopwatch.GetTimestamp();
        using var curl = Process.Start(
            "curl",
            [
                "-sS",
                "--fail",
                "-X",
                "POST",
                "-T",
                lines,
                "-o",
                answers,
                "-H",
                "Content-Type: application/x-ndjson",
                "-H",
                "Expect:",
                "-H",
                $"Authorization: Bearer {token}",
                $"{Served.Address}/api/v1/document-types/{HarbourDesign.VesselCall.Code}/check",
            ]
        );
        await curl.WaitForExitAsync();
        if (curl.ExitCode != 0)
            throw new InvalidOperationException($"curl ended with {curl.ExitCode}.");
        var took = Stopwatch.GetElapsedTime(began);
        return (took, File.ReadLines(answers).Count(l => l.StartsWith("{\"ok\":true", StringComparison.Ordinal)));
    }

    private static async Task<(TimeSpan Took, string Said)> ValidateAsync(string schema, string lines, string answers)
    {
        using var node = Process.Start(
            new ProcessStartInfo("node", [Path.Combine(Served.Root, "bench/check/check.mjs"), schema, lines, answers])
            {
                RedirectStandardOutput = true,
                UseShellExecute = false,
            }
        )!;
        var said = (await node.StandardOutput.ReadToEndAsync()).Trim().Split(' ', 2);
        await node.WaitForExitAsync();
        return (TimeSpan.FromSeconds(double.Parse(said[0], CultureInfo.InvariantCulture)), said[1]);
    }
}
