using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using FsCheck;
using FsCheck.Xunit;

namespace ClearLexicon.Core.Tests;

public class PatternPiecesTests
{
    [Theory]
    [InlineData("MH-2024-00042", "two capital letters, dash, year, dash, five digits")]
    [InlineData("PC-0412", "two capital letters, dash, four digits")]
    [InlineData("Quay 7/b", "four letters, blank, one digit, slash, one small letter")]
    [InlineData("UN1203", "two capital letters, four digits")]
    public void An_example_becomes_pieces_in_words(string example, string words)
    {
        var pieces = PatternPieces.FromExample(example);
        var pattern = PatternPieces.Write(pieces);
        Assert.Equal(words, PatternPieces.InWords(pattern));
        Assert.True(SafePattern.TryWhole(pattern, out var regex, out var problem), problem);
        Assert.Matches(regex!, example);
        Assert.DoesNotMatch(regex!, example + "x");
    }

    [Fact]
    public void Pieces_can_be_changed_made_optional_and_read_back()
    {
        PatternPiece[] pieces =
        [
            new(PieceOf.OneOf, Text: "HD|PC"),
            new(PieceOf.Exactly, Text: ".") { Optional = true },
            new(PieceOf.Year),
            new(PieceOf.Month),
            new(PieceOf.Day),
            new(PieceOf.Digits, 2, 4),
            new(PieceOf.Letters, 1, null),
            new(PieceOf.LettersOrDigits, 0, null),
            new(PieceOf.Small, 3, 3) { Optional = true },
        ];
        var pattern = PatternPieces.Write(pieces);
        Assert.Equal(pieces, PatternPieces.Read(pattern));
        Assert.Equal(
            "“HD” or “PC”, perhaps full stop, year, month, day, 2 to 4 digits, 1 or more letters, any number of letters or digits, "
                + "perhaps three small letters",
            PatternPieces.InWords(pattern)
        );
        Assert.True(SafePattern.TryWhole(pattern, out var regex, out _));
        Assert.Matches(regex!, PatternPieces.Example(pieces));
        Assert.Matches(regex!, "PC2024123112Größe");
        Assert.DoesNotMatch(regex!, "PC2024133112x");
    }

    [Theory]
    [InlineData("(a|b)+")]
    [InlineData("[^x]*")]
    [InlineData("a.b")]
    public void A_pattern_that_says_more_than_pieces_stays_as_it_is_written(string pattern)
    {
        Assert.Null(PatternPieces.Read(pattern));
        Assert.Equal($"like {pattern}", PatternPieces.InWords(pattern));
    }

    [Property(MaxTest = 300)]
    public void What_is_built_from_any_example_matches_it_and_reads_back(NonNull<string> text)
    {
        var example = text.Get.Trim();
        if (example.Length is 0 or > 40)
            return;
        var pieces = PatternPieces.FromExample(example);
        Assert.True(SafePattern.TryWhole(PatternPieces.Write(pieces), out var regex, out var problem), problem);
        Assert.Matches(regex!, example);
        Assert.Matches(regex!, PatternPieces.Example(pieces));
    }

    [Fact]
    public void A_value_longer_than_is_matched_at_all_matches_nothing()
    {
        var type = DocumentType.Empty("t", "T") with { Fields = [new TextField("a", "A") { Pattern = "(a+)+" }] };
        string[] Of(int length) =>
            [.. new CompiledType(type, Harbour.Vocabularies).Judge([new string('a', length)], Harbour.Now).Problems.Select(p => p.Code)];
        Assert.Empty(Of(SafePattern.LongestValue));
        Assert.Equal(["pattern"], Of(SafePattern.LongestValue + 1));
    }

    [Theory]
    [InlineData("(a{0,50}){0,9}b")]
    [InlineData("(x{1,80}){1,40}y")]
    [InlineData("((ab){20}c{0,3}){15}")]
    [InlineData("(a|b|ab){61}")]
    [InlineData(".{0,200}a.{0,200}")]
    public void A_pattern_that_counts_repetitions_inside_repetitions_is_refused_when_it_is_written(string pattern)
    {
        Assert.False(SafePattern.TryWhole(pattern, out _, out var problem));
        Assert.Contains("60 is the limit", problem);
    }

    [Theory]
    [InlineData(@"[({]{3}\{9999}\d{150}")]
    [InlineData("(a?){60}a{100}")]
    [InlineData("[^/]{1,120}")]
    [InlineData("([A-Z]{2}[0-9]{10}){1,6}")]
    public void Counts_side_by_side_and_braces_that_are_no_counts_are_taken(string pattern) =>
        Assert.True(SafePattern.TryWhole(pattern, out _, out var problem), problem);

    private static GuessedField Guess(params string[] values) => PastedFields.Guess("Column", values, Harbour.Vocabularies);

    [Fact]
    public void Kinds_are_guessed_from_values_and_say_why()
    {
        Assert.Equal(FieldKind.Date, Guess("2024-03-05", "2024-03-06", "").Field.Kind);
        Assert.Equal(
            ("d.M.yyyy", FieldKind.Date),
            (Guess("5.3.2024", "16.3.2024").Field.Cleaning![0].Argument, Guess("5.3.2024", "16.3.2024").Field.Kind)
        );
        Assert.Contains("month before day fits as well", Guess("3/4/2024", "5/6/2024").Because);
        Assert.DoesNotContain("fits as well", Guess("3/4/2024", "25/6/2024").Because);
        Assert.Equal(FieldKind.YesNo, Guess("yes", "No").Field.Kind);
        Assert.Equal(FieldKind.Time, Guess("9:05", "14:30").Field.Kind);
        Assert.Equal(FieldKind.WholeNumber, Guess("12", "7").Field.Kind);
        Assert.Equal(FieldKind.Text, Guess("007", "012").Field.Kind);
        Assert.Equal(FieldKind.Decimal, Guess("1.5", "2").Field.Kind);
        Assert.Equal(",", Guess("1.234,50", "7,00").Field.Cleaning![0].Argument);
        Assert.Equal("EUR,NOK", string.Join(',', ((AmountField)Guess("12.50 EUR", "7 NOK").Field).Currencies!));
        Assert.Equal("iban", ((IdentifierField)Guess("NO93 8601 1117 947", "DE89 3704 0044 0532 0130 00").Field).Scheme);
        Assert.Equal("berths", Guess("NQ1", "Old Coal Staith").Field.Vocabulary);
        Assert.Equal(
            "two capital letters, dash, four digits",
            PatternPieces.InWords(((TextField)Guess("PC-0412", "PC-0777").Field).Pattern)
        );
        Assert.Equal(["red", "blue"], Guess("red", "blue", "red", "red", "blue").NewTerms);
        Assert.Equal((FieldKind.Text, false), (Guess("a poem", "another", "").Field.Kind, Guess("a poem", "another", "").Field.Required));
        Assert.True(Guess("a poem", "another", "a third").Field.Required);
        Assert.All(new[] { Guess("12"), Guess(), Guess("", "") }, g => Assert.NotEmpty(g.Because));
    }

    [Fact]
    public void A_paste_is_a_list_of_names_or_a_header_row_with_samples()
    {
        var (names, _) = PastedFields.Read("Permit number\nBerth\n\nValid from\n", Harbour.Vocabularies);
        Assert.Equal(["permit-number", "berth", "valid-from"], names.Select(n => n.Field.Key));
        var (sheet, _) = PastedFields.Read(
            "Number\tIssued\tFee\nHW-1\t2024-03-05\t45.00 EUR\nHW-2\t2024-03-06\t7.00 EUR",
            Harbour.Vocabularies
        );
        Assert.Equal([FieldKind.Text, FieldKind.Date, FieldKind.Amount], sheet.Select(n => n.Field.Kind));
        foreach (
            var (text, why) in new[]
            {
                (" ", "Paste field names"),
                ("a\tb\ta\n", "appears twice"),
                ("a\t\tb", "Column 2 has no name"),
                (string.Join('\t', Enumerable.Range(0, 61).Select(i => $"c{i}")), "at most 60"),
            }
        )
            Assert.Contains(why, PastedFields.Read(text, new Dictionary<string, VocabularyIndex>()).Problem);
    }
}
