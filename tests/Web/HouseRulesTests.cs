using System.Text.Json;
using System.Text.RegularExpressions;
using NetArchTest.Rules;

namespace ClearLexicon.Web.Tests;

/// <summary>What keeps the code and its notices as they are meant to be.</summary>
public partial class HouseRulesTests
{
    internal static readonly string Root = FindRoot();

    [Theory]
    [InlineData("Core", "Formats|Storage|Services|Demo|Web")]
    [InlineData("Formats", "Storage|Services|Demo|Web")]
    [InlineData("Storage", "Formats|Services|Demo|Web")]
    [InlineData("Services", "Demo|Web")]
    [InlineData("Demo", "Web")]
    public void References_go_one_way(string layer, string others)
    {
        var assembly = System.Reflection.Assembly.Load($"ClearLexicon.{layer}");
        var forbidden = others.Split('|').Select(o => $"ClearLexicon.{o}").ToArray();
        Assert.DoesNotContain(assembly.GetReferencedAssemblies(), a => forbidden.Contains(a.Name));
        var result = Types.InAssembly(assembly).ShouldNot().HaveDependencyOnAny(forbidden).GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Fact]
    public void The_core_knows_no_files_no_database_no_web_and_no_clock()
    {
        var core = System.Reflection.Assembly.Load("ClearLexicon.Core");
        var result = Types.InAssembly(core).ShouldNot().HaveDependencyOnAny("System.IO.File", "System.Data", "Microsoft.AspNetCore", "Microsoft.Data.Sqlite", "System.Diagnostics.Process").GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
        foreach (var file in Directory.GetFiles(Path.Combine(Root, "src/Core"), "*.cs", SearchOption.AllDirectories))
            Assert.DoesNotMatch(@"DateTime(Offset)?\.(Utc)?(Now|Today)", File.ReadAllText(file));
    }

    [Fact]
    public void The_notices_name_exactly_what_ships()
    {
        var shipped = new HashSet<string>(StringComparer.Ordinal);
        foreach (var lockFile in Directory.GetDirectories(Path.Combine(Root, "src")).Select(d => Path.Combine(d, "packages.lock.json")))
            foreach (var framework in JsonDocument.Parse(File.ReadAllText(lockFile)).RootElement.GetProperty("dependencies").EnumerateObject())
                foreach (var package in framework.Value.EnumerateObject())
                    // The analyzer only builds; it does not ship.
                    if (package.Value.GetProperty("type").GetString() != "Project" && package.Name != "Meziantou.Analyzer")
                        shipped.Add($"{package.Name} {package.Value.GetProperty("resolved").GetString()}");
        foreach (var package in JsonDocument.Parse(File.ReadAllText(Path.Combine(Root, "src/Web/package-lock.json"))).RootElement.GetProperty("packages").EnumerateObject())
            if (package.Name.Length > 0 && !package.Value.TryGetProperty("dev", out _))
                shipped.Add($"{package.Name["node_modules/".Length..]} {package.Value.GetProperty("version").GetString()}");
        var named = Line().Matches(File.ReadAllText(Path.Combine(Root, "THIRD-PARTY-NOTICES.md"))).Select(m => $"{m.Groups[1].Value} {m.Groups[2].Value}").ToHashSet();
        Assert.Equal(shipped.Order(StringComparer.Ordinal), named.Order(StringComparer.Ordinal));
    }

    private static string FindRoot()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "ClearLexicon.slnx"))) folder = Path.GetDirectoryName(folder)!;
        return folder;
    }

    [GeneratedRegex(@"^\| ([@\w./-]+) \| (\d[\w.-]*) \|", RegexOptions.Multiline)]
    private static partial Regex Line();
}
