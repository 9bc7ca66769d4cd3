using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;

namespace ClearLexicon.Web.Pages;

/// <summary>Where a finding is repaired.</summary>
public static class FindingJump
{
    /// <summary>Address of the place, and what it is called.</summary>
    public static (string Address, string Name) To(Finding finding, DocumentType whole)
    {
        var place = finding.Place;
        if (place is "folder" or "name" or "limits")
            return ($"/Design/Convention/{whole.Code}", "the convention");
        if (place == "fillings")
            return ($"/Design/Type/{whole.Code}#fillings-heading", "filling from tables");
        if (place.StartsWith("vocabulary ", StringComparison.Ordinal))
            return ($"/Design/Vocabulary/{place[11..]}", "the vocabulary");
        if (place.StartsWith("reader ", StringComparison.Ordinal))
            return ($"/Readers/Reader/{place[7..]}", "the reader");
        if (whole.Find(place) is { } field)
            return ($"/Design/Type/{field.From ?? whole.Code}#row-{place}", $"field {field.Label}");
        if (whole.Rules.FirstOrDefault(r => r.Id == place) is { } rule)
            return ($"/Design/Type/{rule.From ?? whole.Code}#row-rule-{place}", "rule");
        return ($"/Design/Type/{whole.Code}", "the type");
    }
}
