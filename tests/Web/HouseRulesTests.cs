using System.Text.Json;
using System.Text.RegularExpressions;
using ArchUnitNET.Domain;
using ArchUnitNET.Loader;
using ClearLexicon.Core.Fields;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>What keeps the code and its notices as they are meant to be.</summary>
public partial class HouseRulesTests
{
    private static readonly string[] Projects = ["Core", "Formats", "Storage", "Services", "Demo", "Web"];

    private static readonly Architecture House = new ArchLoader()
        .LoadAssemblies([.. Projects.Select(p => System.Reflection.Assembly.Load($"ClearLexicon.{p}"))])
        .Build();

    [Theory]
    [InlineData("Core", "Formats|Storage|Services|Demo|Web")]
    [InlineData("Formats", "Storage|Services|Demo|Web")]
    [InlineData("Storage", "Formats|Services|Demo|Web")]
    [InlineData("Services", "Demo|Web")]
    [InlineData("Demo", "Web")]
    public void References_go_one_way(string layer, string others)
    {
        var assembly = System.Reflection.Assembly.Load($"ClearLexicon.{layer}");
        Assert.DoesNotContain(
            assembly.GetReferencedAssemblies(),
            a => others.Split('|').Contains(a.Name!.Replace("ClearLexicon.", "", StringComparison.Ordinal))
        );
        foreach (var other in others.Split('|'))
            Assert.Empty(Uses($"ClearLexicon.{layer}", $"ClearLexicon.{other}"));
    }

    /// <summary>A form is read in one place; pages, partials and forms are given it.</summary>
    [Fact]
    public void No_page_reads_the_request_s_form_itself()
    {
        var readers = new[] { "*.cs", "*.cshtml" }
            .SelectMany(p => Directory.EnumerateFiles(Path.Combine(SourceTree.Root, "src", "Web", "Pages"), p, SearchOption.AllDirectories))
            .Where(f => File.ReadAllText(f).Contains("Request.Form", StringComparison.Ordinal))
            .Select(Path.GetFileName);
        Assert.Equal(["PlacePage.cs"], readers);
    }

    /// <summary>Each folder uses only those before it.</summary>
    [Theory]
    [InlineData("Core", "Vocabularies|Fields|Cleaning|Rules|Conventions|Reading|Designs|Migration")]
    [InlineData("Services", "|People|Work|Repository|Design|Readers|Desk|Migration|Today|Installation")]
    public void Folders_follow_the_document(string project, string order)
    {
        var folders = order.Split('|').Select(f => f.Length == 0 ? $"ClearLexicon.{project}" : $"ClearLexicon.{project}.{f}").ToArray();
        var known = House.Types.Where(t =>
            t.Assembly.Name.StartsWith($"ClearLexicon.{project},", StringComparison.Ordinal)
            && t.Namespace.FullName.StartsWith("ClearLexicon.", StringComparison.Ordinal)
        );
        Assert.All(
            known,
            t =>
                Assert.Contains(
                    folders,
                    f =>
                        t.Namespace.FullName == f
                        || f != $"ClearLexicon.{project}" && t.Namespace.FullName.StartsWith(f + ".", StringComparison.Ordinal)
                )
        );
        for (var i = 0; i < folders.Length; i++)
            Assert.Equal(
                "",
                string.Join(
                    '\n',
                    folders[(i + 1)..]
                        .SelectMany(later => Uses(folders[i], later, alone: folders[i] == $"ClearLexicon.{project}"))
                        .Distinct()
                )
            );
    }

    /// <summary>Outside of <c>Fields</c> it is asked what a kind can do, not which it is; a new field has to be of one.</summary>
    [Fact]
    public void Kinds_of_fields_are_named_in_few_places()
    {
        var named = new Regex($@"\bFieldKind\.(?:{string.Join('|', FieldKind.All)})\b");
        var places = Directory
            .EnumerateFiles(Path.Combine(SourceTree.Root, "src"), "*.cs*", SearchOption.AllDirectories)
            .Select(f => f[SourceTree.Root.Length..].Replace('\\', '/'))
            .Where(f => Own().IsMatch(f) && !f.StartsWith("/src/Core/Fields/", StringComparison.Ordinal))
            .Sum(f => named.Count(File.ReadAllText(SourceTree.Root + f)));
        Assert.InRange(places, 1, 39);
    }

    /// <summary>
    /// What has become of a thing is a type, so that a state that is none is told by the compiler; the API alone says it in words.
    /// </summary>
    [Fact]
    public void States_are_types()
    {
        var states = new[] { typeof(Core.Fields.Field), typeof(Storage.Database), typeof(Services.Result) }
            .SelectMany(t => t.Assembly.GetTypes())
            .SelectMany(t => t.GetProperties())
            .Where(p => p.Name == "State")
            .ToList();
        Assert.InRange(states.Count, 8, 100);
        Assert.Empty(states.Where(p => p.PropertyType == typeof(string)).Select(p => $"{p.DeclaringType!.Name}.{p.Name}"));
    }

    /// <summary>A moment is a type; a line of the ledger alone is kept as it was signed, and a plan says a time of day.</summary>
    [Fact]
    public void Moments_are_types() =>
        Assert.Equal(
            ["ExportDefinition.At", "LedgerEntry.At"],
            typeof(Storage.Database)
                .Assembly.GetTypes()
                .SelectMany(t => t.GetProperties())
                .Where(p => p.PropertyType == typeof(string) && (p.Name == "At" || p.Name.EndsWith("At", StringComparison.Ordinal)))
                .Select(p => $"{p.DeclaringType!.Name}.{p.Name}")
                .Order(StringComparer.Ordinal)
        );

    /// <summary>What a part of a page is given has a name, and says what its members are.</summary>
    [Fact]
    public void Models_of_views_have_names() =>
        Assert.Empty(
            Directory
                .EnumerateFiles(Path.Combine(SourceTree.Root, "src", "Web", "Pages"), "*.cshtml", SearchOption.AllDirectories)
                .Where(f => File.ReadLines(f).Any(l => l.StartsWith("@model (", StringComparison.Ordinal)))
                .Select(Path.GetFileName)
        );

    /// <summary>A row is read by the names of its columns, so that a column can be added in the middle of a statement.</summary>
    [Fact]
    public void Rows_are_read_by_name() =>
        Assert.Equal(
            ["Row.cs"],
            Directory
                .EnumerateFiles(Path.Combine(SourceTree.Root, "src"), "*.cs", SearchOption.AllDirectories)
                .Where(f => File.ReadAllText(f).Contains("SqliteDataReader", StringComparison.Ordinal))
                .Select(Path.GetFileName)
        );

    /// <summary>Text between three quotation marks stands as it is; so do migrations that are out.</summary>
    [Fact]
    public void No_line_has_more_than_140_characters()
    {
        var tooLong = new List<string>();
        foreach (var file in Directory.EnumerateFiles(Path.Combine(SourceTree.Root, "src"), "*", SearchOption.AllDirectories))
        {
            if (!Own().IsMatch(file[SourceTree.Root.Length..].Replace('\\', '/')))
                continue;
            var (number, verbatim) = (0, false);
            foreach (var line in File.ReadLines(file))
            {
                number++;
                var quoted = verbatim || line.Contains("\"\"\"", StringComparison.Ordinal);
                verbatim ^= line.Split("\"\"\"").Length % 2 == 0;
                if (line.Length > 140 && !quoted)
                    tooLong.Add($"{Path.GetRelativePath(SourceTree.Root, file)}:{number}");
            }
        }
        Assert.Equal("", string.Join('\n', tooLong));
    }

    [GeneratedRegex(@"^/src/(?!.*/(bin|obj|lib|node_modules)/).*\.(cs|cshtml|js|css|scss)$")]
    private static partial Regex Own();

    /// <summary>What people read is called as words.txt says, in pages and in sentences that services and rules make.</summary>
    [Fact]
    public void One_word_for_one_thing()
    {
        var never = File.ReadLines(Path.Combine(SourceTree.Root, "tests/Web/words.txt"))
            .Where(l => !l.StartsWith('#'))
            .Select(l => l.Split(": ", 2))
            .SelectMany(l => l[1].Split("; ").Select(word => (Is: l[0], Not: new Regex($@"\b{Regex.Escape(word)}\b"))))
            .ToList();
        Assert.True(never.Count > 15);
        var wrong = new List<string>();
        foreach (var file in Directory.EnumerateFiles(Path.Combine(SourceTree.Root, "src"), "*", SearchOption.AllDirectories))
        {
            var path = file[SourceTree.Root.Length..].Replace('\\', '/');
            if (!Own().IsMatch(path) || path.EndsWith("css", StringComparison.Ordinal))
                continue;
            foreach (var (line, i) in File.ReadLines(file).Select((l, i) => (l, i)))
            {
                // In code only what stands in quotes can be read by anybody.
                var read = path.EndsWith(".cshtml", StringComparison.Ordinal)
                    ? line
                    : string.Join(' ', Quoted().Matches(line).Select(m => m.Value));
                foreach (var (term, not) in never.Where(n => n.Not.IsMatch(read)))
                    wrong.Add($"{path}:{i + 1} says “{not}”, which is called “{term}”");
            }
        }
        Assert.Equal("", string.Join('\n', wrong));
    }

    [GeneratedRegex("\"[^\"]*\"")]
    private static partial Regex Quoted();

    [Fact]
    public void No_page_opens_the_database() =>
        Assert.Equal(
            "",
            string.Join(
                '\n',
                Uses("ClearLexicon.Web.Pages", "ClearLexicon.Storage.Database")
                    .Concat(Uses("AspNetCoreGeneratedDocument", "ClearLexicon.Storage.Database"))
                    .Distinct()
            )
        );

    [Fact]
    public void The_core_knows_no_files_no_database_no_web_and_no_clock()
    {
        foreach (
            var far in (string[])
                ["System.IO.File", "System.Data", "Microsoft.AspNetCore", "Microsoft.Data.Sqlite", "System.Diagnostics.Process"]
        )
            Assert.Empty(Uses("ClearLexicon.Core", far));
        foreach (var file in Directory.GetFiles(Path.Combine(SourceTree.Root, "src/Core"), "*.cs", SearchOption.AllDirectories))
            Assert.DoesNotMatch(@"DateTime(Offset)?\.(Utc)?(Now|Today)", File.ReadAllText(file));
    }

    // Which types of one namespace use which of another; of both with what is below them, unless the first stands alone.
    private static IEnumerable<string> Uses(string user, string used, bool alone = false) =>
        from type in House.Types
        where type.Namespace.FullName == user || !alone && type.FullName.StartsWith(user + ".", StringComparison.Ordinal)
        from target in type.Dependencies.Select(d => d.Target.FullName)
        where target == used || target.StartsWith(used + ".", StringComparison.Ordinal)
        select $"{type.FullName} uses {target}";

    [Fact]
    public void The_notices_name_exactly_what_ships()
    {
        var shipped = new HashSet<string>(StringComparer.Ordinal);
        foreach (
            var lockFile in Directory
                .GetDirectories(Path.Combine(SourceTree.Root, "src"))
                .Select(d => Path.Combine(d, "packages.lock.json"))
        )
        foreach (var framework in JsonDocument.Parse(File.ReadAllText(lockFile)).RootElement.GetProperty("dependencies").EnumerateObject())
        foreach (var package in framework.Value.EnumerateObject())
            // The analyzer only builds; it does not ship.
            if (package.Value.GetProperty("type").GetString() != "Project" && package.Name != "Meziantou.Analyzer")
                shipped.Add($"{package.Name} {package.Value.GetProperty("resolved").GetString()}");
        foreach (
            var package in JsonDocument
                .Parse(File.ReadAllText(Path.Combine(SourceTree.Root, "src/Web/package-lock.json")))
                .RootElement.GetProperty("packages")
                .EnumerateObject()
        )
            if (package.Name.Length > 0 && !package.Value.TryGetProperty("dev", out _))
                shipped.Add($"{package.Name["node_modules/".Length..]} {package.Value.GetProperty("version").GetString()}");
        var named = Line()
            .Matches(File.ReadAllText(Path.Combine(SourceTree.Root, "THIRD-PARTY-NOTICES.md")))
            .Select(m => $"{m.Groups[1].Value} {m.Groups[2].Value}")
            .ToHashSet();
        Assert.Equal(shipped.Order(StringComparer.Ordinal), named.Order(StringComparer.Ordinal));
    }

    [GeneratedRegex(@"^\| ([@\w./-]+) \| (\d[\w.-]*) \|", RegexOptions.Multiline)]
    private static partial Regex Line();
}
