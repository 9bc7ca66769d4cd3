using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Demo;

/// <summary>The document types that no reader reads yet.</summary>
public static partial class HarbourDesign
{
    /// <summary>What dangerous goods go aboard, in which containers.</summary>
    public static DocumentType DangerousGoodsNote =>
        new(
            "dangerous-goods-note",
            "Dangerous Goods Note",
            [
                new TextField("note-number", "Note number")
                {
                    Required = true,
                    Pattern = @"DG-\d{4}-\d{4}",
                    Example = "DG-2024-0107",
                    Standard = "dcterms:identifier",
                },
                new TextField("vessel", "Vessel") { Required = true, MaxLength = 40 },
                new TextField("un-number", "UN number")
                {
                    Required = true,
                    Pattern = @"UN\d{4}",
                    Example = "UN1203",
                    Cleaning = [new CleaningStep("upper-case"), new CleaningStep("keep-characters", "UN0123456789")],
                },
                new TermField("class", "Class")
                {
                    Required = true,
                    Vocabulary = "dangerous-goods",
                    LeavesOnly = true,
                },
                new DateField("loaded", "Loaded on") { Required = true },
                new TableField("containers", "Containers")
                {
                    Required = true,
                    Columns =
                    [
                        new IdentifierField("container", "Container") { Required = true, Scheme = "container" },
                        new WholeNumberField("packages", "Packages") { Min = "1" },
                        new DecimalField("mass", "Gross mass, kg") { Min = "0" },
                    ],
                },
                new TextField("packing-certificate", "Packing certificate")
                {
                    MaxLength = 30,
                    RequiredWhen = Condition.When("class", Operator.Within, "Class 1 Explosives"),
                    Help = "Needed for explosives.",
                },
                new YesNoField("shipper-signed", "Shipper has signed") { Required = true },
                new YesNoField("master-signed", "Master has signed") { Required = true },
            ],
            [
                Rule("r1", "formula", Level.Must, ("formula", "[shipper-signed] and [master-signed]")) with
                {
                    Message = "Both signatures must be on the note.",
                    Translations = new Dictionary<string, string>
                    {
                        ["de"] = "Beide Unterschriften müssen auf dem Schein stehen.",
                        ["fr"] = "Les deux signatures doivent figurer sur la note.",
                    },
                    Examples =
                    [
                        Example(true, ("shipper-signed", "yes"), ("master-signed", "yes")),
                        Example(false, ("shipper-signed", "yes"), ("master-signed", "no")),
                    ],
                },
                Rule("r2", "how-many", Level.Should, ("field", "containers"), ("least", "1"), ("most", "40")),
                Rule("r3", "unique", Level.Must, ("fields", "note-number")),
                Rule("r4", "date-today", Level.Must, ("field", "loaded"), ("how", "not-future"), ("days", ""), ("other", "")) with
                {
                    When = Condition.When(Condition.Channel, Operator.IsNot, "Migration"),
                },
            ],
            new Convention(
                [Piece.Literal("Dangerous goods"), Inside, Piece.Of("loaded") with { DateForm = "yyyy" }],
                [Piece.Of("note-number"), Piece.Literal(" "), Piece.Of("un-number")]
            )
        )
        {
            Groups = ["ship-particulars", "filing-facts"],
        };

    /// <summary>Depths measured in an area.</summary>
    public static DocumentType SoundingSheet =>
        new(
            "sounding-sheet",
            "Sounding Sheet",
            [
                new TextField("sheet-number", "Sheet number")
                {
                    Required = true,
                    Pattern = @"SS-\d{5}",
                    Example = "SS-00318",
                    Standard = "dcterms:identifier",
                },
                new TextField("area", "Survey area")
                {
                    Required = true,
                    MaxLength = 60,
                    Standard = "dcterms:spatial",
                    Cleaning = [new CleaningStep("squeeze-blanks"), new CleaningStep("capitalise")],
                },
                new DateField("surveyed", "Surveyed")
                {
                    Required = true,
                    Cleaning = [new CleaningStep("read-date", "d/M/yyyy|d-MMM-yy|yyyyMMdd|pivot=30")],
                },
                new TableField("soundings", "Soundings")
                {
                    Required = true,
                    Columns =
                    [
                        new TextField("point", "Point") { Required = true, MaxLength = 8 },
                        new DecimalField("depth", "Depth, m")
                        {
                            Required = true,
                            Min = "0",
                            Max = "120",
                        },
                        new TextField("remark", "Remark") { MaxLength = 80 },
                    ],
                    RowRules = [Rule("d", "decimal-places", Level.Should, ("field", "depth"), ("most", "2"))],
                },
                new WholeNumberField("points", "Points")
                {
                    DefaultFrom = DefaultSource.Formula,
                    Default = "Count([soundings])",
                    Help = "Counted from the soundings.",
                },
            ],
            [Rule("r1", "how-many", Level.Must, ("field", "soundings"), ("least", "3"), ("most", ""))],
            new Convention(
                [Piece.Literal("Soundings"), Inside, Piece.Of("area")],
                [Piece.Of("surveyed"), Piece.Literal(" "), Piece.Of("sheet-number")]
            )
        )
        {
            Groups = ["filing-facts"],
        };

    /// <summary>Who may pilot.</summary>
    public static DocumentType PilotageCertificate =>
        new(
            "pilotage-certificate",
            "Pilotage Certificate",
            [
                new TextField("certificate-number", "Certificate number")
                {
                    Required = true,
                    Pattern = @"PC-\d{4}",
                    Example = "PC-0412",
                    Standard = "dcterms:identifier",
                },
                new TextField("holder", "Holder") { Required = true, MaxLength = 60 },
                new DateField("date-of-birth", "Date of birth") { Required = true, Restricted = true },
                new TermField("class", "Class") { Required = true, Vocabulary = "certificate-classes" },
                new DateField("issued", "Issued") { Required = true, Standard = "dcterms:issued" },
                new DateField("expires", "Expires") { Required = true, Standard = "dcterms:valid" },
                new WholeNumberField("tonnage-limit", "Tonnage limit")
                {
                    Min = "0",
                    Max = "250000",
                    RequiredWhen = Condition.When("class", Operator.OneOf, "Cadet|Mate"),
                },
                new TextField("examiner", "Examiner") { MaxLength = 60, RequiredWhen = Condition.When("class", Operator.Is, "Master") },
            ],
            [
                Rule("r1", "compare", Level.Must, ("first", "expires"), ("how", "above"), ("second", "issued"), ("shift", ""), ("by", "")),
                Rule(
                    "r2",
                    "compare",
                    Level.Should,
                    ("first", "expires"),
                    ("how", "at-most"),
                    ("second", "issued"),
                    ("shift", "months"),
                    ("by", "60")
                ),
                Rule("r3", "unique", Level.Must, ("fields", "certificate-number")),
            ],
            new Convention(
                [Piece.Literal("Pilotage certificates"), Inside, Piece.Of("class")],
                [Piece.Of("certificate-number"), Piece.Literal(" "), Piece.Of("holder") with { MaxLength = 40 }]
            )
        )
        {
            Groups = ["filing-facts"],
        };

    /// <summary>A pilotage certificate for deep water: a sub-type.</summary>
    public static DocumentType DeepSeaCertificate =>
        DocumentType.Empty("deep-sea-pilotage-certificate", "Deep-Sea Pilotage Certificate") with
        {
            Refines = "pilotage-certificate",
            Fields =
            [
                new TextField("sea-area", "Sea area")
                {
                    Required = true,
                    MaxLength = 60,
                    Standard = "dcterms:spatial",
                },
            ],
            Tightened =
            [
                new Tightening("examiner") { Required = true, Help = "Two examiners sit for deep-sea certificates; write the chair." },
                new Tightening("tonnage-limit") { Min = "3000" },
            ],
            Rules =
            [
                Rule("d1", "filled", Level.Must, ("fields", "tonnage-limit"), ("how", "all")) with
                {
                    When = Condition.When("class", Operator.IsNot, "Master"),
                },
            ],
        };

    /// <summary>Leave to weld and grind.</summary>
    public static DocumentType HotWorkPermit =>
        new(
            "hot-work-permit",
            "Hot Work Permit",
            [
                new TextField("permit-number", "Permit number")
                {
                    Required = true,
                    Pattern = @"HW-\d{4}-\d{3}",
                    Example = "HW-2024-031",
                    Standard = "dcterms:identifier",
                },
                new TermField("berth", "Berth")
                {
                    Required = true,
                    Vocabulary = "berths",
                    LeavesOnly = true,
                },
                new TextField("work", "Kind of work") { Required = true, MaxLength = 80 },
                new DateField("valid-from", "Valid from") { Required = true },
                new DateField("valid-to", "Valid to") { Required = true },
                new YesNoField("gas-free", "Gas-free certificate seen"),
                new YesNoField("fire-watch", "Fire watch") { Required = true },
                new AmountField("fee", "Fee")
                {
                    Currencies = ["EUR"],
                    Min = "0",
                    Example = "45.00 EUR",
                },
                new TextField("responsible", "Responsible")
                {
                    Required = true,
                    MaxLength = 60,
                    DefaultFrom = DefaultSource.Previous,
                },
            ],
            [
                Rule(
                    "r1",
                    "compare",
                    Level.Must,
                    ("first", "valid-to"),
                    ("how", "at-most"),
                    ("second", "valid-from"),
                    ("shift", "days"),
                    ("by", "1")
                ) with
                {
                    Message = "A permit is valid for one day and the night after it.",
                },
                Rule(
                    "r2",
                    "compare",
                    Level.Must,
                    ("first", "valid-from"),
                    ("how", "at-most"),
                    ("second", "valid-to"),
                    ("shift", ""),
                    ("by", "")
                ),
                Rule("r3", "formula", Level.Must, ("formula", "[gas-free] and [fire-watch]")) with
                {
                    When = Condition.When("berth", Operator.Within, "Tanker Jetties"),
                    Message = "At the tanker jetties a gas-free certificate and a fire watch are needed.",
                    Examples =
                    [
                        Example(true, ("berth", "Tanker Jetty A"), ("gas-free", "yes"), ("fire-watch", "yes")),
                        Example(false, ("berth", "Tanker Jetty A"), ("gas-free", "no"), ("fire-watch", "yes")),
                    ],
                },
                Rule("r4", "filled", Level.Must, ("fields", "gas-free"), ("how", "all")) with
                {
                    When = Condition.When("berth", Operator.Within, "Tanker Jetties"),
                },
                Rule("r5", "unique", Level.Must, ("fields", "permit-number")),
            ],
            new Convention(
                [Piece.Literal("Hot work"), Inside, Piece.Of("valid-from") with { DateForm = "yyyy" }, Inside, Piece.Of("berth")],
                [Piece.Of("permit-number"), Piece.Literal(" "), Piece.Of("valid-from")]
            )
        )
        {
            Groups = ["filing-facts"],
        };
}
