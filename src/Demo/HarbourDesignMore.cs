using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Demo;

/// <summary>The document types that no reader reads yet.</summary>
public static partial class HarbourDesign
{
    /// <summary>What dangerous goods go aboard, in which containers.</summary>
    public static DocumentType DangerousGoodsNote => new("dangerous-goods-note", "Dangerous Goods Note",
    [
        new Field("note-number", "Note number", FieldKind.Text) { Required = true, Pattern = @"DG-\d{4}-\d{4}", Example = "DG-2024-0107", Standard = "dcterms:identifier" },
        new Field("vessel", "Vessel", FieldKind.Text) { Required = true, MaxLength = 40 },
        new Field("un-number", "UN number", FieldKind.Text) { Required = true, Pattern = @"UN\d{4}", Example = "UN1203", Cleaning = [new CleaningStep("upper-case"), new CleaningStep("keep-characters", "UN0123456789")] },
        new Field("class", "Class", FieldKind.Term) { Required = true, Vocabulary = "dangerous-goods", LeavesOnly = true },
        new Field("loaded", "Loaded on", FieldKind.Date) { Required = true },
        new Field("containers", "Containers", FieldKind.Table)
        {
            Required = true,
            Columns =
            [
                new Field("container", "Container", FieldKind.Identifier) { Required = true, Scheme = "container" },
                new Field("packages", "Packages", FieldKind.WholeNumber) { Min = "1" },
                new Field("mass", "Gross mass, kg", FieldKind.Decimal) { Min = "0" },
            ],
        },
        new Field("packing-certificate", "Packing certificate", FieldKind.Text) { MaxLength = 30, RequiredWhen = Condition.When("class", Operator.Within, "Class 1 Explosives"), Help = "Needed for explosives." },
        new Field("shipper-signed", "Shipper has signed", FieldKind.YesNo) { Required = true },
        new Field("master-signed", "Master has signed", FieldKind.YesNo) { Required = true },
    ],
    [
        Rule("r1", "formula", Level.Must, ("formula", "[shipper-signed] and [master-signed]")) with
        {
            Message = "Both signatures must be on the note.",
            Translations = new Dictionary<string, string> { ["de"] = "Beide Unterschriften müssen auf dem Schein stehen.", ["fr"] = "Les deux signatures doivent figurer sur la note." },
            Examples = [Example(true, ("shipper-signed", "yes"), ("master-signed", "yes")), Example(false, ("shipper-signed", "yes"), ("master-signed", "no"))],
        },
        Rule("r2", "how-many", Level.Should, ("field", "containers"), ("least", "1"), ("most", "40")),
        Rule("r3", "unique", Level.Must, ("fields", "note-number")),
        Rule("r4", "date-today", Level.Must, ("field", "loaded"), ("how", "not-future"), ("days", ""), ("other", "")) with { When = Condition.When(Condition.Channel, Operator.IsNot, "Migration") },
    ],
    new Convention([Piece.Literal("Dangerous goods"), Inside, Piece.Of("loaded") with { DateForm = "yyyy" }], [Piece.Of("note-number"), Piece.Literal(" "), Piece.Of("un-number")]))
    { Groups = ["ship-particulars", "filing-facts"] };

    /// <summary>Depths measured in an area.</summary>
    public static DocumentType SoundingSheet => new("sounding-sheet", "Sounding Sheet",
    [
        new Field("sheet-number", "Sheet number", FieldKind.Text) { Required = true, Pattern = @"SS-\d{5}", Example = "SS-00318", Standard = "dcterms:identifier" },
        new Field("area", "Survey area", FieldKind.Text) { Required = true, MaxLength = 60, Standard = "dcterms:spatial", Cleaning = [new CleaningStep("squeeze-blanks"), new CleaningStep("capitalise")] },
        new Field("surveyed", "Surveyed", FieldKind.Date) { Required = true, Cleaning = [new CleaningStep("read-date", "d/M/yyyy|d-MMM-yy|yyyyMMdd|pivot=30")] },
        new Field("soundings", "Soundings", FieldKind.Table)
        {
            Required = true,
            Columns =
            [
                new Field("point", "Point", FieldKind.Text) { Required = true, MaxLength = 8 },
                new Field("depth", "Depth, m", FieldKind.Decimal) { Required = true, Min = "0", Max = "120" },
                new Field("remark", "Remark", FieldKind.Text) { MaxLength = 80 },
            ],
            RowRules = [Rule("d", "decimal-places", Level.Should, ("field", "depth"), ("most", "2"))],
        },
        new Field("points", "Points", FieldKind.WholeNumber) { DefaultFrom = DefaultSource.Formula, Default = "Count([soundings])", Help = "Counted from the soundings." },
    ],
    [Rule("r1", "how-many", Level.Must, ("field", "soundings"), ("least", "3"), ("most", ""))],
    new Convention([Piece.Literal("Soundings"), Inside, Piece.Of("area")], [Piece.Of("surveyed"), Piece.Literal(" "), Piece.Of("sheet-number")]))
    { Groups = ["filing-facts"] };

    /// <summary>Who may pilot.</summary>
    public static DocumentType PilotageCertificate => new("pilotage-certificate", "Pilotage Certificate",
    [
        new Field("certificate-number", "Certificate number", FieldKind.Text) { Required = true, Pattern = @"PC-\d{4}", Example = "PC-0412", Standard = "dcterms:identifier" },
        new Field("holder", "Holder", FieldKind.Text) { Required = true, MaxLength = 60 },
        new Field("date-of-birth", "Date of birth", FieldKind.Date) { Required = true, Restricted = true },
        new Field("class", "Class", FieldKind.Term) { Required = true, Vocabulary = "certificate-classes" },
        new Field("issued", "Issued", FieldKind.Date) { Required = true, Standard = "dcterms:issued" },
        new Field("expires", "Expires", FieldKind.Date) { Required = true, Standard = "dcterms:valid" },
        new Field("tonnage-limit", "Tonnage limit", FieldKind.WholeNumber) { Min = "0", Max = "250000", RequiredWhen = Condition.When("class", Operator.OneOf, "Cadet|Mate") },
        new Field("examiner", "Examiner", FieldKind.Text) { MaxLength = 60, RequiredWhen = Condition.When("class", Operator.Is, "Master") },
    ],
    [
        Rule("r1", "compare", Level.Must, ("first", "expires"), ("how", "above"), ("second", "issued"), ("shift", ""), ("by", "")),
        Rule("r2", "compare", Level.Should, ("first", "expires"), ("how", "at-most"), ("second", "issued"), ("shift", "months"), ("by", "60")),
        Rule("r3", "unique", Level.Must, ("fields", "certificate-number")),
    ],
    new Convention([Piece.Literal("Pilotage certificates"), Inside, Piece.Of("class")], [Piece.Of("certificate-number"), Piece.Literal(" "), Piece.Of("holder") with { MaxLength = 40 }]))
    { Groups = ["filing-facts"] };

    /// <summary>A pilotage certificate for deep water: a sub-type.</summary>
    public static DocumentType DeepSeaCertificate => DocumentType.Empty("deep-sea-pilotage-certificate", "Deep-Sea Pilotage Certificate") with
    {
        Refines = "pilotage-certificate",
        Fields = [new Field("sea-area", "Sea area", FieldKind.Text) { Required = true, MaxLength = 60, Standard = "dcterms:spatial" }],
        Tightened = [new Tightening("examiner") { Required = true, Help = "Two examiners sit for deep-sea certificates; write the chair." }, new Tightening("tonnage-limit") { Min = "3000" }],
        Rules = [Rule("d1", "filled", Level.Must, ("fields", "tonnage-limit"), ("how", "all")) with { When = Condition.When("class", Operator.IsNot, "Master") }],
    };

    /// <summary>Leave to weld and grind.</summary>
    public static DocumentType HotWorkPermit => new("hot-work-permit", "Hot Work Permit",
    [
        new Field("permit-number", "Permit number", FieldKind.Text) { Required = true, Pattern = @"HW-\d{4}-\d{3}", Example = "HW-2024-031", Standard = "dcterms:identifier" },
        new Field("berth", "Berth", FieldKind.Term) { Required = true, Vocabulary = "berths", LeavesOnly = true },
        new Field("work", "Kind of work", FieldKind.Text) { Required = true, MaxLength = 80 },
        new Field("valid-from", "Valid from", FieldKind.Date) { Required = true },
        new Field("valid-to", "Valid to", FieldKind.Date) { Required = true },
        new Field("gas-free", "Gas-free certificate seen", FieldKind.YesNo),
        new Field("fire-watch", "Fire watch", FieldKind.YesNo) { Required = true },
        new Field("fee", "Fee", FieldKind.Amount) { Currencies = ["EUR"], Min = "0", Example = "45.00 EUR" },
        new Field("responsible", "Responsible", FieldKind.Text) { Required = true, MaxLength = 60, DefaultFrom = DefaultSource.Previous },
    ],
    [
        Rule("r1", "compare", Level.Must, ("first", "valid-to"), ("how", "at-most"), ("second", "valid-from"), ("shift", "days"), ("by", "1")) with { Message = "A permit is valid for one day and the night after it." },
        Rule("r2", "compare", Level.Must, ("first", "valid-from"), ("how", "at-most"), ("second", "valid-to"), ("shift", ""), ("by", "")),
        Rule("r3", "formula", Level.Must, ("formula", "[gas-free] and [fire-watch]")) with
        {
            When = Condition.When("berth", Operator.Within, "Tanker Jetties"),
            Message = "At the tanker jetties a gas-free certificate and a fire watch are needed.",
            Examples = [Example(true, ("berth", "Tanker Jetty A"), ("gas-free", "yes"), ("fire-watch", "yes")), Example(false, ("berth", "Tanker Jetty A"), ("gas-free", "no"), ("fire-watch", "yes"))],
        },
        Rule("r4", "filled", Level.Must, ("fields", "gas-free"), ("how", "all")) with { When = Condition.When("berth", Operator.Within, "Tanker Jetties") },
        Rule("r5", "unique", Level.Must, ("fields", "permit-number")),
    ],
    new Convention([Piece.Literal("Hot work"), Inside, Piece.Of("valid-from") with { DateForm = "yyyy" }, Inside, Piece.Of("berth")], [Piece.Of("permit-number"), Piece.Literal(" "), Piece.Of("valid-from")]))
    { Groups = ["filing-facts"] };
}
