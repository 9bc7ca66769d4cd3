using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Demo;

/// <summary>The document types that the demo ships fully designed, with the field groups they share.</summary>
public static partial class HarbourDesign
{
    /// <summary>Who entered a record and how it stands.</summary>
    public static DocumentType FilingFacts { get; } =
        DocumentType.Empty("filing-facts", "Filing facts") with
        {
            IsGroup = true,
            Fields =
            [
                new TextField("entered-by", "Entered by")
                {
                    DefaultFrom = DefaultSource.Person,
                    MaxLength = 80,
                    Standard = "dcterms:contributor",
                    NotInResults = true,
                },
                new DateField("entered-on", "Entered on")
                {
                    DefaultFrom = DefaultSource.Today,
                    Standard = "dcterms:dateSubmitted",
                    NotInResults = true,
                },
                new TermField("handling", "Handling")
                {
                    Vocabulary = "handling",
                    Default = "Open",
                    NotInResults = true,
                },
            ],
            Rules = [Rule("entered", "date-today", Level.Must, ("field", "entered-on"), ("how", "not-future"))],
        };

    /// <summary>What a ship is and carries.</summary>
    public static DocumentType ShipParticulars { get; } =
        DocumentType.Empty("ship-particulars", "Ship particulars") with
        {
            IsGroup = true,
            Fields =
            [
                new TermField("flag", "Flag")
                {
                    Vocabulary = "flags",
                    Standard = "dcterms:spatial",
                    Help = "Name of the state, or its ISO 3166 code.",
                },
                new TermsField("cargo", "Cargo")
                {
                    Vocabulary = "cargo",
                    Standard = "dcterms:subject",
                    Help = "Several are separated by ; and new words wait for review.",
                },
            ],
        };

    /// <summary>A vessel's stay in port.</summary>
    public static DocumentType VesselCall { get; } =
        new DocumentType(
            "vessel-call-record",
            "Vessel Call Record",
            [
                new TextField("call-number", "Call number")
                {
                    Required = true,
                    Pattern = @"VC-\d{4}-\d{5}",
                    Help = "Printed at the top right, such as VC-2024-00042.",
                    Example = "VC-2024-00042",
                    Standard = "dcterms:identifier",
                },
                new TextField("vessel", "Vessel")
                {
                    Required = true,
                    MaxLength = 40,
                    Help = "Name as painted on the bow.",
                    Standard = "dcterms:title",
                },
                new IdentifierField("imo", "IMO number")
                {
                    Required = true,
                    Scheme = "imo",
                    Help = "Seven digits, without the letters IMO.",
                },
                new TermField("vessel-type", "Vessel type")
                {
                    Vocabulary = "vessel-types",
                    Help = "Filled from the vessel register when it is not on the page.",
                },
                new TermField("berth", "Berth")
                {
                    Required = true,
                    Vocabulary = "berths",
                    LeavesOnly = true,
                    Help = "Old names lead to today’s berths.",
                    Standard = "dcterms:spatial",
                },
                new DateField("arrived", "Arrived")
                {
                    Required = true,
                    Min = "1986-01-01",
                    Standard = "dcterms:date",
                },
                new DateField("sailed", "Sailed") { Min = "1986-01-01" },
                new WholeNumberField("gross-tonnage", "Gross tonnage")
                {
                    Min = "50",
                    Max = "250000",
                    Standard = "dcterms:extent",
                },
                new TextField("agent", "Agent") { MaxLength = 60 },
                new TextField("master", "Master") { MaxLength = 60, Restricted = true },
                new YesNoField("pilot-used", "Pilot used"),
                new TextField("pilot-certificate", "Pilot certificate") { Pattern = @"PC-\d{4}", Help = "Filled when a pilot was used." },
            ],
            [
                Rule(
                    "r1",
                    "compare",
                    Level.Must,
                    ("first", "arrived"),
                    ("how", "at-most"),
                    ("second", "sailed"),
                    ("shift", ""),
                    ("by", "")
                ) with
                {
                    Message = "A vessel cannot sail before it has arrived.",
                    Translations = new Dictionary<string, string>
                    {
                        ["de"] = "Ein Schiff kann nicht auslaufen, bevor es eingelaufen ist.",
                        ["fr"] = "Un navire ne peut pas appareiller avant d’être arrivé.",
                    },
                    Examples =
                    [
                        Example(true, ("arrived", "2024-03-05"), ("sailed", "2024-03-05")),
                        Example(false, ("arrived", "2024-03-05"), ("sailed", "2024-03-04")),
                    ],
                },
                Rule("r2", "filled", Level.Must, ("fields", "pilot-certificate"), ("how", "all")) with
                {
                    When = Condition.When("pilot-used", Operator.Is, "yes"),
                    Examples = [Example(true, ("pilot-used", "no")), Example(false, ("pilot-used", "yes"))],
                },
                Rule("r3", "unique", Level.Should, ("fields", "call-number")),
            ],
            new Convention(
                [
                    Piece.Literal("Vessel calls"),
                    Inside,
                    Piece.Of("arrived") with
                    {
                        DateForm = "yyyy",
                    },
                    Inside,
                    Piece.Of("arrived") with
                    {
                        DateForm = "MM MMMM",
                    },
                ],
                [Piece.Of("call-number"), Piece.Literal(" "), Piece.Of("vessel") with { MaxLength = 40 }]
            )
        )
        {
            Groups = ["ship-particulars", "filing-facts"],
            Fillings =
            [
                new Filling(
                    "vessel-register",
                    Pair("IMO number", "imo"),
                    new Dictionary<string, string>
                    {
                        ["Vessel type"] = "vessel-type",
                        ["Gross tonnage"] = "gross-tonnage",
                        ["Flag"] = "flag",
                    },
                    Always: false
                ),
            ],
        };

    /// <summary>What a payer owes for a stay.</summary>
    public static DocumentType HarbourDues { get; } =
        new DocumentType(
            "harbour-dues-statement",
            "Harbour Dues Statement",
            [
                new TextField("statement-number", "Statement number")
                {
                    Required = true,
                    Pattern = @"HD-\d{6}",
                    Example = "HD-004217",
                    Standard = "dcterms:identifier",
                },
                new TextField("payer", "Payer") { Required = true, MaxLength = 60 },
                new TextField("vessel", "Vessel") { MaxLength = 40 },
                new DateField("issued", "Issued")
                {
                    Required = true,
                    Min = "1986-01-01",
                    Standard = "dcterms:issued",
                },
                new DateField("due", "Due") { Required = true },
                new DecimalField("berth-dues", "Berth dues") { Min = "0" },
                new DecimalField("pilotage", "Pilotage") { Min = "0" },
                new DecimalField("waste", "Waste reception") { Min = "0" },
                new DecimalField("tax", "Tax") { Min = "0" },
                new DecimalField("total", "Total") { Required = true, Min = "0.01" },
                new IdentifierField("account", "Account to debit") { Scheme = "iban", Restricted = true },
                new TableField("services", "Services in detail")
                {
                    Columns =
                    [
                        new TermField("service", "Service") { Vocabulary = "services", Required = true },
                        new DecimalField("quantity", "Quantity") { Min = "0" },
                        new DecimalField("rate", "Rate") { Min = "0" },
                        new DecimalField("amount", "Amount")
                        {
                            Required = true,
                            Min = "0",
                            Cleaning = [new CleaningStep("read-number", ".")],
                        },
                    ],
                    RowRules =
                    [
                        Rule("q", "multiplies", Level.Must, ("factors", "quantity,rate"), ("product", "amount"), ("tolerance", "0.01")),
                    ],
                },
            ],
            [
                Rule("r1", "compare", Level.Must, ("first", "issued"), ("how", "at-most"), ("second", "due"), ("shift", ""), ("by", "")),
                Rule(
                    "r2",
                    "adds-up",
                    Level.Must,
                    ("parts", "berth-dues,pilotage,waste,tax"),
                    ("total", "total"),
                    ("tolerance", "0.01")
                ) with
                {
                    Message = "The items and the tax do not add up to the total.",
                    Translations = new Dictionary<string, string>
                    {
                        ["de"] = "Einzelposten und Steuer ergeben nicht die Summe.",
                        ["fr"] = "Les postes et la taxe ne font pas le total.",
                    },
                },
                Rule("r3", "unique", Level.Should, ("fields", "payer,statement-number")),
                Rule("r4", "in-table", Level.Should, ("table", "payers"), ("keys", "payer=Payer"), ("agrees", "")),
                Rule("r5", "adds-up", Level.Must, ("parts", "services.amount,tax"), ("total", "total"), ("tolerance", "0.01")) with
                {
                    When = Condition.When("services", Operator.IsFilled),
                },
            ],
            new Convention(
                [
                    Piece.Literal("Harbour dues"),
                    Inside,
                    Piece.Of("payer") with
                    {
                        MaxLength = 30,
                    },
                    Inside,
                    Piece.Of("issued") with
                    {
                        DateForm = "yyyy",
                    },
                ],
                [Piece.Of("issued"), Piece.Literal(" "), Piece.Of("statement-number")]
            )
        )
        {
            Groups = ["filing-facts"],
        };

    /// <summary>All groups and types, in an order in which each comes after what it takes parts of.</summary>
    public static IReadOnlyList<DocumentType> All { get; } =
    [
        .. WithExamples([
            FilingFacts,
            ShipParticulars,
            VesselCall,
            HarbourDues,
            DangerousGoodsNote,
            SoundingSheet,
            PilotageCertificate,
            DeepSeaCertificate,
            HotWorkPermit,
        ]),
    ];

    // Every rule shows what it refuses: at its border, as the page of a type suggests it.
    private static IEnumerable<DocumentType> WithExamples(DocumentType[] types)
    {
        var vocabularies = HarbourVocabularies.All.ToDictionary(v => v.Key, v => new Core.Vocabularies.VocabularyIndex(v));
        var tables = new[] { HarbourTables.Register, HarbourTables.Payers }.ToDictionary(t => t.Key);
        return types.Select(type =>
            WithExamples(
                type,
                new CompiledType(Inheritance.Resolve(type, code => types.FirstOrDefault(t => t.Code == code)), vocabularies, tables)
            )
        );
    }

    private static DocumentType WithExamples(DocumentType type, CompiledType compiled)
    {
        return type with
        {
            Rules =
            [
                .. type.Rules.Select(rule =>
                {
                    if (rule.Examples.Any(e => !e.Passes))
                        return rule;
                    var suggested = RuleExamples.Suggest(rule, compiled, [], new CheckContext(new DateOnly(2024, 6, 1), EntryChannel.Desk));
                    return rule with
                    {
                        Examples =
                        [
                            .. rule.Examples,
                            .. suggested.Where(e => e.Passes).Take(1),
                            .. suggested.Where(e => !e.Passes).Take(1),
                        ],
                    };
                }),
            ],
        };
    }

    private static Piece Inside => new(PieceKind.Inside);

    private static Rule Rule(string id, string kind, Level level, params (string, string)[] parameters) =>
        new(id, kind, level, parameters.ToDictionary(p => p.Item1, p => p.Item2));

    private static RuleExample Example(bool passes, params (string, string)[] record) =>
        new(passes, record.ToDictionary(p => p.Item1, p => p.Item2));

    private static Dictionary<string, string> Pair(string key, string value) => new() { [key] = value };
}
