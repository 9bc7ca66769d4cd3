using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Demo;

/// <summary>The controlled terms of the invented port.</summary>
public static class HarbourVocabularies
{
    /// <summary>All vocabularies.</summary>
    public static IReadOnlyList<Vocabulary> All { get; } =
    [
        Berths(),
        new("vessel-types", "Vessel types", [.. HarbourNames.VesselTypes.Select(t => Term(t))]),
        Cargo(),
        DangerousGoods(),
        Flags(),
        new(
            "services",
            "Services",
            [
                Term("Berth dues", "BD", de: "Liegegeld", fr: "Droits de quai"),
                Term("Pilotage", "PI", de: "Lotsgeld", fr: "Pilotage"),
                Term("Waste reception", "WR", de: "Abfallannahme", fr: "Réception des déchets"),
                Term("Fresh water", "FW", de: "Frischwasser", fr: "Eau douce"),
                Term("Shore power", "SP", de: "Landstrom", fr: "Courant de quai"),
                Term("Mooring gang", "MG", de: "Festmacher", fr: "Lamanage"),
            ]
        ),
        new(
            "certificate-classes",
            "Certificate classes",
            [
                Term("Cadet", "C", de: "Anwärter", fr: "Élève"),
                Term("Mate", "M", de: "Steuermann", fr: "Second"),
                Term("Master", "X", de: "Kapitän", fr: "Capitaine"),
            ]
        ),
        new(
            "handling",
            "Handling",
            [
                Term("Open", de: "Offen", fr: "Ouvert"),
                Term("Under review", de: "In Prüfung", fr: "En examen"),
                Term("Closed", de: "Geschlossen", fr: "Clos"),
            ]
        ),
    ];

    private static Vocabulary Berths()
    {
        (string Basin, string Quay, string[] Berths)[] tree =
        [
            ("North Basin", "North Quays", ["North Quay 1", "North Quay 2", "North Quay 3"]),
            ("North Basin", "Timber Quays", ["Timber Wharf"]),
            ("South Basin", "South Quays", ["South Quay 1", "South Quay 2"]),
            ("South Basin", "Ferry Terminal", ["Ferry Ramp"]),
            ("Oil Basin", "Tanker Jetties", ["Tanker Jetty A", "Tanker Jetty B"]),
            ("Fish Basin", "Fish Quays", ["Fish Dock East"]),
        ];
        var known = HarbourNames.Berths.ToDictionary(b => b.Label);
        return new Vocabulary(
            "berths",
            "Berths",
            [
                .. tree.Select(t => t.Basin).Distinct().Select(b => Term(b)),
                .. tree.Select(t => Term(t.Quay) with { Broader = [Id(t.Basin)] }),
                .. tree.SelectMany(t =>
                    t.Berths.Select(b => new Term(b, known[b].Variants, known[b].Code) { Id = Id(b), Broader = [Id(t.Quay)] })
                ),
            ]
        );
    }

    private static Vocabulary Cargo()
    {
        var classes = new Dictionary<string, string[]>
        {
            ["Dry bulk"] = ["Grain", "Coal", "Iron ore", "Fertiliser", "Road salt", "Wood chips"],
            ["Liquid bulk"] = ["Diesel oil", "Petrol", "Vegetable oil", "Molasses"],
            ["Break bulk"] = ["Sawn timber", "Wood pulp", "Paper reels", "Steel coils", "Granite blocks"],
            ["Unit loads"] = ["Containers", "Trailers", "Motor vehicles"],
            ["Fish and ice"] = ["Frozen fish", "Fresh fish", "Ice"],
        };
        return new Vocabulary(
            "cargo",
            "Cargo",
            [.. classes.SelectMany(c => c.Value.Select(t => Term(t) with { Broader = [Id(c.Key)] }).Prepend(Term(c.Key)))]
        )
        {
            Growth = Growth.WithReview,
        };
    }

    private static Vocabulary DangerousGoods()
    {
        // Classes of the United Nations Model Regulations.
        (string Code, string Label)[] classes =
        [
            ("1", "Class 1 Explosives"),
            ("1.1", "1.1 Mass explosion hazard"),
            ("1.4", "1.4 No significant hazard"),
            ("2", "Class 2 Gases"),
            ("2.1", "2.1 Flammable gases"),
            ("2.2", "2.2 Non-flammable gases"),
            ("2.3", "2.3 Toxic gases"),
            ("3", "Class 3 Flammable liquids"),
            ("4", "Class 4 Flammable solids"),
            ("4.1", "4.1 Self-reactive substances"),
            ("4.2", "4.2 Spontaneously combustible"),
            ("4.3", "4.3 Dangerous when wet"),
            ("5", "Class 5 Oxidizing substances"),
            ("5.1", "5.1 Oxidizers"),
            ("5.2", "5.2 Organic peroxides"),
            ("6", "Class 6 Toxic and infectious"),
            ("6.1", "6.1 Toxic substances"),
            ("6.2", "6.2 Infectious substances"),
            ("7", "Class 7 Radioactive material"),
            ("8", "Class 8 Corrosive substances"),
            ("9", "Class 9 Miscellaneous"),
        ];
        return new Vocabulary(
            "dangerous-goods",
            "Dangerous goods classes",
            [
                .. classes.Select(c => new Term(c.Label, [], c.Code)
                {
                    Id = "dg-" + c.Code,
                    Broader = c.Code.Length > 1 ? ["dg-" + c.Code[0]] : [],
                }),
            ]
        );
    }

    private static Vocabulary Flags()
    {
        // ISO 3166-1: alpha-2 code, and the short name in three languages.
        const string Countries = """
            BE|Belgium|Belgien|Belgique;BS|Bahamas|Bahamas|Bahamas;CA|Canada|Kanada|Canada;CH|Switzerland|Schweiz|Suisse;CN|China|China|Chine;CY|Cyprus|Zypern|Chypre;DE|Germany|Deutschland|Allemagne;DK|Denmark|Dänemark|Danemark;
            EE|Estonia|Estland|Estonie;ES|Spain|Spanien|Espagne;FI|Finland|Finnland|Finlande;FO|Faroe Islands|Färöer|Îles Féroé;FR|France|Frankreich|France;GB|United Kingdom|Vereinigtes Königreich|Royaume-Uni;GR|Greece|Griechenland|Grèce;
            HK|Hong Kong|Hongkong|Hong Kong;IE|Ireland|Irland|Irlande;IS|Iceland|Island|Islande;IT|Italy|Italien|Italie;JP|Japan|Japan|Japon;LR|Liberia|Liberia|Libéria;LT|Lithuania|Litauen|Lituanie;LU|Luxembourg|Luxemburg|Luxembourg;
            LV|Latvia|Lettland|Lettonie;MH|Marshall Islands|Marshallinseln|Îles Marshall;MT|Malta|Malta|Malte;NL|Netherlands|Niederlande|Pays-Bas;NO|Norway|Norwegen|Norvège;PA|Panama|Panama|Panama;PL|Poland|Polen|Pologne;
            PT|Portugal|Portugal|Portugal;SE|Sweden|Schweden|Suède;SG|Singapore|Singapur|Singapour;TR|Türkiye|Türkei|Turquie;US|United States|Vereinigte Staaten|États-Unis
            """;
        return new Vocabulary(
            "flags",
            "Flags",
            [.. Countries.Split(';').Select(c => c.Trim().Split('|')).Select(c => Term(c[1], c[0], c[2], c[3]))]
        );
    }

    private static Term Term(string label, string? code = null, string? de = null, string? fr = null) =>
        new(label, [], code)
        {
            Id = Id(label),
            Words = new[] { ("de", de), ("fr", fr) }
                .Where(w => w.Item2 is not null && w.Item2 != label)
                .ToDictionary(w => w.Item1, w => new TermWords(w.Item2!, [])),
        };

    private static string Id(string label) => Core.Fields.ShortName.From(label);
}
