using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>What spellings have to keep apart, and what they may differ in and still be one word.</summary>
public class MeaningTests
{
    [Theory]
    [InlineData("-18 °C", "18 °C")]
    [InlineData("< 10 t", "> 10 t")]
    [InlineData("≤ 5", "< 5")]
    [InlineData("50 ‰", "50 %")]
    [InlineData("m²", "m")]
    [InlineData("m²", "m³")]
    [InlineData("Phase Ⅰ", "Phase Ⅱ")]
    [InlineData("Grade A+", "Grade A")]
    [InlineData("½ t", "t")]
    [InlineData("€ 5", "£ 5")]
    public void Signs_that_carry_meaning_keep_terms_apart(string one, string other)
    {
        Assert.NotEqual(Folding.Fold(one), Folding.Fold(other));
        var vocabulary = new Vocabulary("v", "V", [new Term(one, []) { Id = "one" }, new Term(other, []) { Id = "other" }]);
        Assert.Empty(VocabularyCheck.Findings(vocabulary));
        var index = new VocabularyIndex(vocabulary);
        Assert.Equal((0, 1), (index.IndexOf(one), index.IndexOf(other)));
        Assert.NotEqual(SearchKey.Of(FieldKind.Term, one), SearchKey.Of(FieldKind.Term, other));
        Assert.Empty(NearDuplicates.Find([one, other]));
    }

    [Theory]
    [InlineData("North-Quay", "north quay")]
    [InlineData("Quay – 1", "Quay 1")]
    [InlineData("VC-2024-1", "vc 2024 1")]
    [InlineData("50%", "50 %")]
    [InlineData("−18 °C", "-18°C")]
    [InlineData("m²", "m2")]
    [InlineData("Timber (sawn)", "timber, sawn")]
    [InlineData("Straße", "Strasse")]
    public void What_means_the_same_folds_alike(string one, string other) => Assert.Equal(Folding.Fold(one), Folding.Fold(other));

    [Theory]
    [InlineData("Tanker Jetty A", "Tanker Jetty B")]
    [InlineData("Zone A", "Zone B")]
    [InlineData("Phase I", "Phase II")]
    [InlineData("Construction Phase VI", "Construction Phase IV")]
    [InlineData("Ammonium Nitrate", "Ammonium Nitrite")]
    [InlineData("Terminal 12", "Terminal 21")]
    [InlineData("Warehouse", "Warehouse B")]
    public void Designators_are_never_offered_to_be_joined(string one, string other) => Assert.Empty(NearDuplicates.Find([one, other]));

    [Theory]
    [InlineData("Sawn timber", "Sawn timbers")]
    [InlineData("Deisel oil", "Diesel oil")]
    [InlineData("Fertilizer", "Fertiliser")]
    [InlineData("Turbine parts, wind", "Wind turbine parts")]
    [InlineData("Warehouse B", "Warehose B")]
    public void Slips_of_the_pen_still_are(string one, string other) => Assert.Single(NearDuplicates.Find([one, other]));

    [Theory]
    [InlineData("名前", "Courier")]
    [InlineData("Номер", "名前")]
    [InlineData("名前 2", "2")]
    public void A_label_of_any_script_makes_a_key_of_its_own(string one, string other)
    {
        Assert.Matches("^[a-z][a-z0-9-]*$", ShortName.From(one));
        Assert.NotEqual(ShortName.From(one), ShortName.From(other));
    }
}
