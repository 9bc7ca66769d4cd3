using System.Text;
using ClearLexicon.Formats;

namespace ClearLexicon.Formats.Tests;

public sealed class CsvTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("csv").FullName;

    public CsvTests() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    private string Target => Path.Combine(_folder, "stored.csv");

    private (InventoryShape? Shape, string? Problem) Import(string text, Encoding? encoding = null)
    {
        var source = Path.Combine(_folder, "source.csv");
        File.WriteAllBytes(source, (encoding ?? new UTF8Encoding(false)).GetBytes(text));
        return InventoryCsv.Import(source, "list.csv", Target);
    }

    [Theory]
    [InlineData("UTF-8", ',')]
    [InlineData("Windows-1252", ';')]
    public void Encoding_and_separator_are_detected_and_the_copy_is_utf8(string encoding, char separator)
    {
        var text = $"path{separator}title\r\nR:\\Höfnvik.tif{separator}\"a {separator} \"\"b\"\"\"\r\n\r\nx{separator}\"two\r\nlines\"\r\n";
        var (shape, problem) = Import(text, encoding == "UTF-8" ? null : Encoding.GetEncoding(1252));
        Assert.Null(problem);
        Assert.Equal((encoding, separator, 2L), (shape!.Encoding, shape.Separator, shape.Rows));
        Assert.Equal(["path", "title"], shape.Columns);
        var rows = new List<(string, string)>();
        using var reader = InventoryCsv.Open(Target, separator);
        foreach (var row in reader)
            rows.Add((row[0].ToString(), row[1].ToString()));
        Assert.Equal([(@"R:\Höfnvik.tif", $"a {separator} \"b\""), ("x", "two\nlines")], rows);
    }

    /// <summary>Old shares come from many countries; what cannot be told is read as Windows-1252.</summary>
    [Theory]
    [InlineData("windows-1251", "Причальный журнал северной гавани, судно «Белый медведь», груз принят полностью")]
    [InlineData("iso-8859-7", "Ημερολόγιο λιμένα, πλοίο που κατέπλευσε στην προβλήτα του βορρά")]
    [InlineData("utf-16LE", "Hafenbuch, Schiff am Nordkai")]
    [InlineData("Windows-1252", "Löschung am Nordkai – „Möwe“, Übergabe bestätigt")]
    public void Lists_of_other_countries_are_read_in_their_encoding(string encoding, string title)
    {
        var page = Encoding.GetEncoding(encoding);
        var text = $"path,title\n" + string.Concat(Enumerable.Range(0, 20).Select(i => $"R:\\{i}.tif,\"{title} {i}\"\n"));
        var source = Path.Combine(_folder, "source.csv");
        File.WriteAllBytes(source, [.. page.GetPreamble(), .. page.GetBytes(text)]);
        var (shape, problem) = InventoryCsv.Import(source, "list.csv", Target);
        Assert.Null(problem);
        Assert.Equal((encoding, 20L), (shape!.Encoding, shape.Rows), new Names());
        Assert.Contains($"\"{title} 7\"", File.ReadAllText(Target));
    }

    private sealed class Names : IEqualityComparer<(string Name, long Rows)>
    {
        public bool Equals((string Name, long Rows) x, (string Name, long Rows) y) =>
            string.Equals(x.Name, y.Name, StringComparison.OrdinalIgnoreCase) && x.Rows == y.Rows;

        public int GetHashCode((string Name, long Rows) x) => x.Rows.GetHashCode();
    }

    [Theory]
    [InlineData("", "is empty")]
    [InlineData("path,title\n", "no rows")]
    [InlineData("path\nx\n", "one column only")]
    [InlineData("path,,size\na,b,c\n", "line 1: column 2 has no heading")]
    [InlineData("path,Path\na,b\n", "“path” appears twice")]
    [InlineData("path,path\na,b\n", "“path” appears twice")]
    [InlineData("path,title\na,\"torn\nb,c\nd,e\n", "line 2: a quote is opened and never closed")]
    [InlineData("path,title\na,b\nc\nd,e,f\n", "line 3 has 1, line 4 has 3")]
    [InlineData("path,title\na\0,b\n", "not a text file")]
    public void A_bad_list_is_refused_by_line_and_nothing_is_stored(string text, string reason)
    {
        var (shape, problem) = Import(text);
        Assert.Null(shape);
        Assert.Contains(reason, problem);
        Assert.Contains("list.csv", problem);
        Assert.False(File.Exists(Target));
        Assert.False(File.Exists(Target + ".part"));
    }

    [Fact]
    public void Many_uneven_lines_are_counted()
    {
        var (_, problem) = Import("a,b\n" + string.Concat(Enumerable.Repeat("1,2,3\n", 9)));
        Assert.Contains("and 4 more lines differ", problem);
    }

    [Theory]
    [InlineData("=1+1", "'=1+1")]
    [InlineData("+49 30", "'+49 30")]
    [InlineData("@sum", "'@sum")]
    [InlineData("-cmd", "'-cmd")]
    [InlineData("-12.50", "-12.50")]
    [InlineData("a,b", "\"a,b\"")]
    [InlineData("say \"x\"", "\"say \"\"x\"\"\"")]
    [InlineData("plain", "plain")]
    public void A_written_cell_is_never_run_as_a_formula(string text, string cell) => Assert.Equal(cell, SafeCsv.Cell(text));

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
