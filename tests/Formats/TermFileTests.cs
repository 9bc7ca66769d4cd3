using System.Text;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Formats.Tests;

public sealed class TermFileTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("terms").FullName;

    private static readonly Vocabulary Harbour = new(
        "harbour",
        "Harbour \"terms\"",
        [
            new Term("North Basin", []) { Id = "north-basin", Note = "Dredged to 9 m.\nSee the chart." },
            new Term("North Quay 1", ["N. Quay 1", "Old \\ Staith"], "NQ1")
            {
                Id = "http://example.org/nq1",
                Broader = ["north-basin"],
                Words = new Dictionary<string, TermWords> { ["de"] = new("Nordkai 1", ["Kai 1"], "Alt"), ["fr"] = new("", ["Quai 1"]) },
            },
            new Term("Both", [])
            {
                Id = "both",
                Broader = ["north-basin", "http://example.org/nq1"],
                Related = ["=x"],
            },
            new Term("=HYPERLINK()", []) { Id = "=x", Related = ["both"] },
            new Term("Kohle", [], null, TermStatus.Retired)
            {
                Id = "kohle",
                LabelLanguage = "de",
                Words = new Dictionary<string, TermWords> { ["de"] = new("Kohle", []) },
                ReplacedBy = "both",
            },
            new Term("Peat", [], null, TermStatus.Proposed) { Id = "peat" },
        ]
    );

    private async Task<BroughtTerms> Read(string name, string text)
    {
        var path = Path.Combine(_folder, name);
        await File.WriteAllTextAsync(path, text);
        var (terms, problem) = await TermFiles.ReadAsync(path, name, "en");
        Assert.True(terms is not null, problem);
        return terms!;
    }

    private static void Same(Vocabulary expected, BroughtTerms brought)
    {
        Assert.Empty(brought.Broken);
        var byId = brought.Terms.ToDictionary(t => t.Term.Id, t => t.Term);
        Assert.Equal(expected.Terms.Select(t => t.Id).Order(), byId.Keys.Order());
        foreach (var term in expected.Terms)
        {
            Assert.Null(TermImport.Difference(term, byId[term.Id]));
            Assert.Equal(term.LabelLanguage, byId[term.Id].LabelLanguage);
        }
    }

    [Theory]
    [InlineData("out.ttl")]
    [InlineData("out.csv")]
    public async Task Export_then_import_loses_nothing(string name)
    {
        var text = new StringWriter();
        if (name.EndsWith("ttl", StringComparison.Ordinal))
            SkosWriting.Turtle(Harbour, text);
        else
            TermCsv.Write(Harbour, text);
        var brought = await Read(name, text.ToString());
        Same(Harbour, brought);
        if (name.EndsWith("ttl", StringComparison.Ordinal))
            Assert.Equal("Harbour \"terms\"", brought.Name);
        else
            Assert.DoesNotContain("\n=HYPERLINK", text.ToString());
    }

    /// <summary>Another library reads both forms, with the oddest ids, languages and letters, and finds the same graph in them.</summary>
    [Fact]
    public void Turtle_and_json_ld_are_one_graph()
    {
        var odd = Harbour with
        {
            Language = "zh_Hans",
            Terms =
            [
                .. Harbour.Terms,
                .. new[]
                {
                    "/abs",
                    @"C:\x",
                    "http://example.org/{a}|b^c\"d",
                    "http://example.org/<x>",
                    "a b",
                    "urn:",
                    "mailto:",
                    "é:ü",
                    "x\u0001y",
                    "half\ud800pair",
                    "🚢",
                }.Select(
                    (id, i) =>
                        new Term($"Odd {i} \u0001\u007f\ud800 \\ \"\"\" 🚢", [$"Odd {i}", $"v\t\r\n{i}"])
                        {
                            Id = id,
                            Broader = ["north-basin"],
                            Words = new Dictionary<string, TermWords>
                            {
                                ["de_AT"] = new("x", ["x", "y"]),
                                ["no good tag!"] = new("z", []),
                                ["..."] = new("w", []),
                            },
                        }
                ),
            ],
        };
        var text = new StringWriter();
        SkosWriting.Turtle(odd, text);
        var (turtle, json) = (Path.Combine(_folder, "odd.ttl"), Path.Combine(_folder, "odd.jsonld"));
        File.WriteAllText(turtle, text.ToString());
        File.WriteAllText(json, SkosWriting.JsonLd(odd));
        if (!Directory.Exists("/usr/lib/python3/dist-packages/rdflib"))
            Assert.Skip("python3-rdflib is not installed; scripts/setup --tests installs it.");
        var start = new System.Diagnostics.ProcessStartInfo("/usr/bin/python3")
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            UseShellExecute = false,
        };
        foreach (
            var argument in (string[])
                [
                    "-c",
                    """
                        import sys, rdflib
                        from rdflib.compare import to_isomorphic, graph_diff
                        turtle, json = rdflib.Graph().parse(sys.argv[1], format='turtle'), rdflib.Graph().parse(sys.argv[2], format='json-ld')
                        both, left, right = graph_diff(turtle, json)
                        print(len(turtle), len(left), len(right), len(list(turtle.subjects(None, rdflib.URIRef('http://www.w3.org/2004/02/skos/core#Concept')))))
                        for t in list(left)[:5] + list(right)[:5]: print(t)
                        """,
                    turtle,
                    json,
                ]
        )
            start.ArgumentList.Add(argument);
        using var process = System.Diagnostics.Process.Start(start)!;
        var (said, wrong) = (process.StandardOutput.ReadToEnd(), process.StandardError.ReadToEnd());
        process.WaitForExit();
        Assert.True(process.ExitCode == 0, wrong);
        Assert.DoesNotContain("not look like a valid URI", wrong);
        Assert.Matches($"^[0-9]{{3}} 0 0 {odd.Terms.Count}\n$", said);
    }

    [Fact]
    public async Task Skos_that_says_more_than_a_vocabulary_holds_is_told_what_is_left_out()
    {
        var brought = await Read(
            "more.ttl",
            """
            @prefix s: <http://www.w3.org/2004/02/skos/core#> . @prefix d: <http://purl.org/dc/terms/> . @prefix : <http://x/> .
            :a a s:Concept ; s:prefLabel "Quay"@en, "Wharf" ; s:altLabel "Quay"@en ; s:hiddenLabel "Kway"@en ; s:scopeNote "short"@en ; s:definition "long"@en ; s:notation "1", "2" ;
               s:exactMatch <http://y/1>, <http://y/2> ; s:changeNote "moved"@en ; d:replaces :old ; s:broader :gone ; s:inScheme :s .
            :b a s:Concept ; s:prefLabel "Berth"@en ; s:definition "first"@en ; s:broader :a ; s:related :a, :c .
            :c a s:Concept ; s:prefLabel "Buoy"@en ; s:definition "only"@en ; s:scopeNote "better"@en .
            :old a s:Concept ; s:prefLabel "Old quay"@en ; <http://www.w3.org/2002/07/owl#deprecated> true .
            :k a s:Collection ; s:prefLabel "Places"@en ; s:member :a, :b .
            """
        );
        var byId = brought.Terms.ToDictionary(t => t.Term.Id[^1..], t => t.Term);
        Assert.Equal(["a", "b", "c", "d"], byId.Keys.Order());
        Assert.Equal(("Quay", "1", "short"), (byId["a"].Label, byId["a"].Code, byId["a"].Note));
        Assert.Equal(["Kway", "Wharf"], byId["a"].Variants.Order());
        Assert.Equal(("first", "better", "http://x/a"), (byId["b"].Note, byId["c"].Note, byId["d"].ReplacedBy));
        Assert.Equal(["http://x/c"], byId["b"].Related);
        foreach (
            var told in (string[])
                [
                    "1 × skos:changeNote",
                    "2 × skos:exactMatch",
                    "2 × skos:definition",
                    "1 × skos:definition, each brought as a note; it leaves as one too.",
                    "1 × skos:hiddenLabel, each brought as a spelling; it leaves as one too.",
                    "1 × skos:notation",
                    "The collection “Places”; its members are brought.",
                    "“Quay” is label and variant of one concept; it stays its label.",
                    "“Quay” points to http://x/gone, which is not in the file.",
                    "“Berth” is related to “Quay”, which is above it; only that is kept.",
                ]
        )
            Assert.Contains(told, brought.Dropped);
    }

    [Fact]
    public async Task Rdf_xml_and_turtle_are_read_with_narrower_deprecation_and_missing_labels()
    {
        var turtle = await Read(
            "a.ttl",
            """
            @prefix skos: <http://www.w3.org/2004/02/skos/core#> . @prefix owl: <http://www.w3.org/2002/07/owl#> . @prefix : <http://x.example/> .
            :s a skos:ConceptScheme ; skos:prefLabel "Scheme"@en .
            :a a skos:Concept ; skos:prefLabel "Animals"@en, "Tiere"@de ; skos:narrower :b, :c .
            :b skos:prefLabel "Hunde"@de ; owl:deprecated true .
            :c a skos:Concept ; skos:notation "C7" ; skos:definition "No label"@en .
            """
        );
        Assert.Equal(["Animals", "Hunde", "C7"], turtle.Terms.Select(t => t.Term.Label).Where(l => l != "Scheme"));
        var dogs = turtle.Terms.Single(t => t.Term.Label == "Hunde").Term;
        Assert.Equal((TermStatus.Retired, "de", "http://x.example/a"), (dogs.Status, dogs.LabelLanguage, dogs.Broader[0]));
        Assert.Equal("No label", turtle.Terms.Single(t => t.Term.Label == "C7").Term.Note);
        var xml = await Read(
            "a.rdf",
            """
            <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#" xmlns:skos="http://www.w3.org/2004/02/skos/core#">
            <skos:Concept rdf:about="http://x.example/q"><skos:prefLabel xml:lang="en">Quay &amp; berth</skos:prefLabel><skos:altLabel xml:lang="en">Kai „Größe“</skos:altLabel></skos:Concept></rdf:RDF>
            """
        );
        Assert.Equal(("Quay & berth", "Kai „Größe“"), (xml.Terms.Single().Term.Label, xml.Terms.Single().Term.Variants[0]));
    }

    [Theory]
    [InlineData("x.ttl", "this is no turtle", "broken")]
    [InlineData("x.rdf", "<rdf:RDF", "no XML")]
    [InlineData("x.csv", "name;code\na;b\n", "no column “label”")]
    [InlineData("x.csv", "", "empty")]
    [InlineData("x.pdf", "%PDF", "neither CSV")]
    public async Task A_file_that_cannot_be_read_says_why(string name, string text, string why)
    {
        var path = Path.Combine(_folder, name);
        await File.WriteAllTextAsync(path, text);
        var (terms, problem) = await TermFiles.ReadAsync(path, name, "en");
        Assert.Null(terms);
        Assert.Contains(why, problem);
    }

    [Fact]
    public async Task Sixty_thousand_lines_with_a_hundred_broken_ones_name_each_broken_line_and_no_other()
    {
        var csv = new StringBuilder("id,label,variants,status,broader\n");
        var broken = new List<int>();
        for (var i = 0; i < 60_000; i++)
        {
            var bad = i % 600 == 599;
            if (bad)
                broken.Add(i + 2);
            csv.Append(
                bad
                    ? (i / 600 % 4) switch
                    {
                        0 => $"t{i},,x,,\n",
                        1 => $"t{i},Term {i},x,lost,\n",
                        2 => $"t{i},Term {i},x\n",
                        _ => $"t{i},Term {i},,,nowhere\n",
                    }
                    : $"t{i},Term {i},Word {i}|W{i},current,{(i > 0 && (i - 1) % 600 != 599 ? $"t{(i - 1) / 2}" : "")}\n"
            );
        }
        // A term below one that is broken is broken as well, so the tree avoids those.
        var text = csv.ToString();
        foreach (var line in broken)
            text = text.Replace($",t{line - 2}\n", ",t0\n");
        var brought = await Read("large.csv", text);
        var index = new VocabularyIndex(new Vocabulary("v", "V", []));
        var plan = TermImport.Plan(index, brought);
        Assert.Equal(broken, plan.Broken.Select(b => b.Line));
        Assert.All(plan.Broken, b => Assert.NotEmpty(b.Why));
    }

    [Fact]
    public async Task A_large_polyhierarchy_in_three_languages_goes_out_and_comes_back_whole()
    {
        const int Concepts = 20_000;
        var vocabulary = new Vocabulary(
            "large",
            "Large",
            [
                .. Enumerable
                    .Range(0, Concepts)
                    .Select(i => new Term(
                        i % 50 == 7 ? $"Begriff {i}" : $"Concept {i}",
                        i % 3 == 0 ? [$"Variant {i}"] : [],
                        i % 4 == 0 ? $"C{i}" : null
                    )
                    {
                        Id = $"http://x.example/{i}",
                        // Every fiftieth concept has no label in the vocabulary's language.
                        LabelLanguage = i % 50 == 7 ? "de" : null,
                        Words = new Dictionary<string, TermWords>
                        {
                            ["de"] = new($"Begriff {i}", []),
                            ["fr"] = new(i % 2 == 0 ? $"Notion {i}" : "", [$"Mot {i}"]),
                        },
                        Broader =
                            i == 0 ? []
                            : i % 5 == 0 && i > 5 ? [$"http://x.example/{i / 3}", $"http://x.example/{i / 4}"]
                            : [$"http://x.example/{i / 3}"],
                    }),
            ]
        );
        Assert.Empty(VocabularyCheck.Findings(vocabulary));
        var text = new StringWriter();
        SkosWriting.Turtle(vocabulary, text);
        var brought = await Read("large.ttl", text.ToString());
        Same(vocabulary, brought);
        var plan = TermImport.Plan(new VocabularyIndex(new Vocabulary("v", "V", [])), brought);
        Assert.Equal((Concepts, 0, 0), (plan.New.Count, plan.Conflicts.Count, plan.Broken.Count));
        var again = TermImport.Plan(new VocabularyIndex(vocabulary), brought);
        Assert.Equal((0, 0, Concepts), (again.New.Count, again.Changed.Count, again.Same));
    }

    [Fact]
    public void A_statement_is_read_by_itself()
    {
        Assert.Null(NTriples.Read("<http://a> <http://p> \"Caf\\u00E9 \\\"x\\\"\"@fr-FR .", out var literal));
        Assert.Equal(("Café \"x\"", "fr-fr"), (literal!.Value.Value, literal.Value.Language));
        Assert.Null(NTriples.Read("  # nothing", out var none));
        Assert.Null(none);
        Assert.Null(NTriples.Read("_:b <http://p> \"1\"^^<http://int> .", out var typed));
        Assert.Equal(("_:b", "1", ""), (typed!.Value.Subject, typed.Value.Value, typed.Value.Language));
        foreach (
            var (line, why) in new[]
            {
                ("<http://a> <http://p> \"open .", "not closed"),
                ("<http://a> <p q> <http://b> .", "property"),
                ("<http://a> <http://p> <http://b>", "full stop"),
                ("http://a", "subject"),
            }
        )
            Assert.Contains(why, NTriples.Read(line, out _));
    }

    [Fact]
    public void Reference_tables_are_read_from_csv_and_xlsx_and_faults_are_named_by_line()
    {
        (IReadOnlyList<string>? Columns, List<string[]> Rows, string? Problem) Of(string name, string text)
        {
            var path = Path.Combine(_folder, name);
            File.WriteAllText(path, text);
            return TableFile.Read(path, name);
        }
        var (columns, rows, _) = Of("a.csv", "IMO;Name\n9074729;\"Grey; Heron\"\n\n9074730;Corvina\n");
        Assert.Equal(["IMO", "Name"], columns!);
        Assert.Equal(["Grey; Heron", "Corvina"], rows.Select(r => r[1]));
        Assert.Contains("line 3: the key “1” is in line 2", Of("b.csv", "a,b\n1,x\n1,y\n").Problem);
        Assert.Contains("line 2: the key a is empty", Of("c.csv", "a,b\n,y\n").Problem);
        Assert.Contains("line 2: it has 3 cells", Of("d.csv", "a,b\n1,2,3\n").Problem);
        Assert.Contains("“a” appears twice", Of("e.csv", "a,A\n1,2\n").Problem);
        Assert.Contains("no rows", Of("f.csv", "a,b\n").Problem);
        Assert.Contains("cannot be read as a table", Of("g.xlsx", "no workbook").Problem);
        // What a file says of itself is not made: neither rows nor columns.
        Assert.Contains("numbers a row 2147483647", OfSheet("<row r=\"1\"/><row r=\"2147483647\"/>"));
        Assert.Contains("16,384 columns", OfSheet("<row r=\"1\"><c r=\"XFD1\" t=\"str\"><v>x</v></c></row>"));
        Assert.Contains("over 500 columns", OfSheet("<row r=\"1\"><c r=\"SF1\"/></row><row r=\"1000000\"/>"));
        string OfSheet(string rows)
        {
            var path = Path.Combine(_folder, $"{Guid.NewGuid()}.xlsx");
            MiniExcelLibs.MiniExcel.SaveAs(path, new[] { new { A = 1 } });
            using (var zip = System.IO.Compression.ZipFile.Open(path, System.IO.Compression.ZipArchiveMode.Update))
            {
                zip.GetEntry("xl/worksheets/sheet1.xml")!.Delete();
                using var sheet = new StreamWriter(zip.CreateEntry("xl/worksheets/sheet1.xml").Open());
                sheet.Write(
                    $"<worksheet xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><sheetData>{rows}</sheetData></worksheet>"
                );
            }
            return TableFile.Read(path, "bomb.xlsx").Problem!;
        }
        var workbook = Path.Combine(_folder, "h.xlsx");
        MiniExcelLibs.MiniExcel.SaveAs(
            workbook,
            new[]
            {
                new
                {
                    Imo = 9074729,
                    Name = "Grey Heron",
                    Built = new DateTime(1999, 3, 5),
                    Tons = 12.5,
                },
            }
        );
        var (names, cells, problem) = TableFile.Read(workbook, "h.xlsx");
        Assert.True(names is not null, problem);
        Assert.Equal(["9074729", "Grey Heron", "1999-03-05", "12.5"], cells[0]);
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
