using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using FsCheck;
using FsCheck.Xunit;

namespace ClearLexicon.Core.Tests;

public class CleaningTests
{
    private static readonly Field Imo = new TextField("imo", "IMO") { Pattern = @"\d{7}" };

    private static string Clean(string text, Field? field, params CleaningStep[] steps) => CleaningSteps.Compile(steps, field)(text);

    // The classic mistakes: the label caught with the value, blanks, letters read for digits.
    [Theory]
    [InlineData("drop-words", "IMO|IMO number", "IMO number: 9074729", "9074729")]
    [InlineData("drop-words", "vessel", "Vessel Vesselina", "Vesselina")]
    [InlineData("drop-words", "No.", "Call No. 7", "Call 7")]
    [InlineData("squeeze-blanks", "", " Grey \t Heron  ", "Grey Heron")]
    [InlineData("keep-digits", "", "GT 12,400", "12400")]
    [InlineData("drop-zeros", "", "00420", "420")]
    [InlineData("drop-zeros", "", "0.50", "0.50")]
    [InlineData("drop-zeros", "", "000", "0")]
    [InlineData("drop-zeros", "", "VC-007", "VC-007")]
    [InlineData("read-number", ",", "1.234,50 EUR", "1234.50")]
    [InlineData("read-number", ".", "€ 1,234.50", "1234.50")]
    [InlineData("read-number", ".", "1 234.50", "1234.50")]
    [InlineData("read-number", ".", "about ten", "about ten")]
    [InlineData("read-date", "d-MMM-yy|yyMMdd", "3-Apr-98", "1998-04-03")]
    [InlineData("read-date", "d-MMM-yy|yyMMdd", "980403", "1998-04-03")]
    [InlineData("read-date", "yyMMdd", "140403", "2014-04-03")]
    [InlineData("read-date", "d.M.yyyy", "03/04/2014", "03/04/2014")]
    [InlineData("read-date", "d.M.yyyy", "2014-04-03", "2014-04-03")]
    [InlineData("look-alikes", "", "9O747Z9", "9074729")]
    [InlineData("look-alikes", "", "9 O74 7Z9", "9074729")]
    [InlineData("look-alikes", "", "GREY", "GREY")]
    [InlineData("capitalise", "", "GREY HERON 2B", "Grey Heron 2B")]
    [InlineData("upper-case", "", "vc-1", "VC-1")]
    [InlineData("lower-case", "", "VC-1", "vc-1")]
    [InlineData("drop-accents", "", "Höfnvik Île", "Hofnvik Ile")]
    [InlineData("keep-characters", "UN0123456789", "un UN 1203", "UN1203")]
    [InlineData("keep-characters", "a😀", "x👩a", "a")]
    [InlineData("drop-characters", "😀", "x👩😀a", "x👩a")]
    [InlineData("drop-characters", "./", "12./34", "1234")]
    [InlineData("take-part", "/ 2", "Quay 1 / Crane 4", "Crane 4")]
    [InlineData("take-part", "/ 3", "Quay 1 / Crane 4", "Quay 1 / Crane 4")]
    [InlineData("take-part", "blank 1", "Holm Brokers", "Holm")]
    [InlineData("take-characters", "1-2 of 6", "DE4711", "DE")]
    [InlineData("take-characters", "3–6 of 6", "DE4711", "4711")]
    [InlineData("take-characters", "2 of 3", "é𝒳z", "𝒳")]
    [InlineData("take-characters", "1-2 of 6", "DE47112", "DE47112")]
    [InlineData("take-form", "[A-Z]{2}-[0-9]{4}", "Our ref. VC-2025 of May", "VC-2025")]
    [InlineData("take-form", "[0-9]*", "no digits", "no digits")]
    [InlineData("replace", "N. Quay 1=North Quay 1|TW=Timber Wharf", "n quay 1", "North Quay 1")]
    [InlineData("read-date", "d. MMMM yyyy|lang=de", "3. März 2024", "2024-03-03")]
    [InlineData("read-date", "d MMMM yyyy|lang=fr", "14 août 1997", "1997-08-14")]
    [InlineData("read-date", "d. MMM yyyy|lang=de", "5. Sep. 2024", "2024-09-05")]
    [InlineData("read-date", "d. MMM yyyy|lang=de", "05. Jun. 2024", "2024-06-05")]
    [InlineData("read-date", "d. MMMM yyyy|lang=de", "3. Ma\u0308rz 2024", "2024-03-03")]
    [InlineData("read-date", "d. MMMM yyyy|lang=de", "7. Jänner 2024", "2024-01-07")]
    [InlineData("read-date", "d. MMMM yyyy|lang=de", "7. Mai 2024", "2024-05-07")]
    [InlineData("read-date", "d MMM yyyy|lang=fr", "31 déc 2024", "2024-12-31")]
    [InlineData("read-date", "d MMMM yyyy|lang=fr", "31 decembre 2024", "2024-12-31")]
    [InlineData("read-date", "d MMMM yyyy|lang=fr", "1er août 2024", "2024-08-01")]
    [InlineData("read-date", "d MMMM yyyy", "2nd Sept. 2024", "2024-09-02")]
    [InlineData("read-date", "MMMM d, yyyy", "Sept. 2, 2024", "2024-09-02")]
    [InlineData("read-date", "d MMM yyyy|lang=fr", "31 jui 2024", "31 jui 2024")]
    [InlineData("read-date", "d MMM yyyy", "31 xyz 2024", "31 xyz 2024")]
    [InlineData("read-time", "", "14:30:75", "14:30:75")]
    [InlineData("read-date", "d/M/yy|pivot=30", "3/4/31", "1931-04-03")]
    [InlineData("read-date", "d/M/yy|pivot=30", "3/4/30", "2030-04-03")]
    [InlineData("read-date", "d/M/yyyy|M/d/yyyy", "3/4/2024", "3/4/2024")]
    [InlineData("read-date", "d/M/yyyy|M/d/yyyy", "13/4/2024", "2024-04-13")]
    [InlineData("read-time", "", "2.30 p.m.", "14:30")]
    [InlineData("read-time", "", "12 am", "00:00")]
    [InlineData("read-time", "", "14 h 05", "14:05")]
    [InlineData("read-time", "", "14:30:25 Uhr", "14:30")]
    [InlineData("read-time", "", "0815", "08:15")]
    [InlineData("read-time", "", "13 pm", "13 pm")]
    [InlineData("read-time", "", "25:10", "25:10")]
    [InlineData("read-time", "", "12", "12")]
    public void A_step_repairs(string kind, string argument, string before, string after) =>
        Assert.Equal(after, Clean(before, Imo, new CleaningStep(kind, argument)));

    [Fact]
    public void Look_alikes_are_swapped_only_where_the_field_says_what_stands_there()
    {
        var step = new CleaningStep("look-alikes");
        Assert.Equal("VC-2024-00042", Clean("VC-2O24-OOO42", new TextField("n", "N") { Pattern = @"[A-Z]{2}-\d{4}-\d{5}" }, step));
        Assert.Equal("OISO", Clean("0150", new TextField("n", "N") { Pattern = "[A-Z]{4}" }, step));
        Assert.Equal("1205", Clean("l20S", new WholeNumberField("n", "N"), step));
        Assert.Equal("Oslo", Clean("Oslo", new TextField("n", "N"), step));
        Assert.Equal("O", Clean("O", null, step));
    }

    [Fact]
    public void Steps_run_in_order_and_what_is_not_known_is_passed_over() =>
        Assert.Equal("9074729", Clean("IMO  9O74729 ", Imo, new("drop-words", "IMO"), new("no-such-step"), new("look-alikes")));

    [Theory]
    [InlineData("read-date", "dd MMMM", "needs a day")]
    [InlineData("read-date", "", "missing")]
    [InlineData("drop-words", " ", "missing")]
    [InlineData("no-such-step", "", "no cleaning step")]
    [InlineData("read-date", "d/M/yyyy|lang=xx", "languages")]
    [InlineData("read-date", "d/M/yyyy|pivot=400", "two-digit year")]
    [InlineData("take-part", "/", "number of the part")]
    [InlineData("take-characters", "4-1 of 6", "such as 1-2 of 6")]
    [InlineData("take-characters", "0-3 of 6", "such as 1-2 of 6")]
    [InlineData("take-characters", "1-7 of 6", "such as 1-2 of 6")]
    [InlineData("take-characters", "1-2 of 99999999999", "such as 1-2 of 6")]
    [InlineData("take-form", "([A-Z", "")]
    [InlineData("replace", "a=b|b=c", "both a new value and an old one")]
    public void A_step_that_cannot_run_says_why(string kind, string argument, string reason) =>
        Assert.Contains(reason, CleaningSteps.Finding(new CleaningStep(kind, argument)));

    /// <summary>Cleaning twice equals cleaning once, for every kind of step.</summary>
    [Property(MaxTest = 300)]
    public void Cleaning_twice_equals_cleaning_once(NonNull<string> text)
    {
        foreach (var kind in CleaningSteps.All)
        {
            var argument = kind.Code switch
            {
                "read-date" => "d-MMM-yy|yyMMdd|d.M.yyyy",
                "drop-words" => "IMO|a b|a",
                "read-number" => ",",
                "take-part" => "a 2",
                "take-characters" => "2-3 of 4",
                "take-form" => "[a-z]+ ?[0-9]*",
                "replace" => "a=b|x y=z",
                "keep-characters" or "drop-characters" => "ab -1",
                _ => "",
            };
            foreach (var field in new[] { Imo, new DecimalField("n", "N"), null })
            {
                var clean = CleaningSteps.Compile([new CleaningStep(kind.Code, argument)], field);
                var once = clean(text.Get);
                Assert.Equal(once, clean(once));
            }
        }
    }
}
