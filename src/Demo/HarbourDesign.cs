using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Demo;

/// <summary>The two document types that the demo ships fully designed.</summary>
public static class HarbourDesign
{
    /// <summary>A vessel's stay in port.</summary>
    public static DocumentType VesselCall { get; } = new("vessel-call-record", "Vessel Call Record",
    [
        new Field("call-number", "Call number", FieldKind.Text) { Required = true, Pattern = @"VC-\d{4}-\d{5}", Help = "Printed at the top right, such as VC-2024-00042." },
        new Field("vessel", "Vessel", FieldKind.Text) { Required = true, MaxLength = 40, Help = "Name as painted on the bow." },
        new Field("imo", "IMO number", FieldKind.Text) { Required = true, Pattern = @"\d{7}", Help = "Seven digits, without the letters IMO." },
        new Field("vessel-type", "Vessel type", FieldKind.Term) { Vocabulary = "vessel-types" },
        new Field("berth", "Berth", FieldKind.Term) { Required = true, Vocabulary = "berths", Help = "Old names lead to today’s berths." },
        new Field("arrived", "Arrived", FieldKind.Date) { Required = true, Min = "1986-01-01" },
        new Field("sailed", "Sailed", FieldKind.Date) { Min = "1986-01-01" },
        new Field("gross-tonnage", "Gross tonnage", FieldKind.WholeNumber) { Min = "50", Max = "250000" },
        new Field("agent", "Agent", FieldKind.Text) { MaxLength = 60 },
        new Field("master", "Master", FieldKind.Text) { MaxLength = 60, Restricted = true },
        new Field("pilot-used", "Pilot used", FieldKind.YesNo),
        new Field("pilot-certificate", "Pilot certificate", FieldKind.Text) { Pattern = @"PC-\d{4}", Help = "Filled when a pilot was used." },
    ],
    [
        Rule("r1", "date-not-after", Level.Must, ("first", "arrived"), ("second", "sailed")),
        Rule("r2", "imo-check-digit", Level.Must, ("field", "imo")),
        Rule("r3", "one-filled-when", Level.Must, ("when", "pilot-used"), ("is", "yes"), ("fields", "pilot-certificate")),
        Rule("r4", "unique", Level.Should, ("fields", "call-number")),
    ],
    new Convention(
        [Piece.Literal("Vessel calls"), Inside, Piece.Of("arrived") with { DateForm = "yyyy" }, Inside, Piece.Of("arrived") with { DateForm = "MM MMMM" }],
        [Piece.Of("call-number"), Piece.Literal(" "), Piece.Of("vessel") with { MaxLength = 40 }]));

    /// <summary>What a payer owes for a stay.</summary>
    public static DocumentType HarbourDues { get; } = new("harbour-dues-statement", "Harbour Dues Statement",
    [
        new Field("statement-number", "Statement number", FieldKind.Text) { Required = true, Pattern = @"HD-\d{6}" },
        new Field("payer", "Payer", FieldKind.Text) { Required = true, MaxLength = 60 },
        new Field("vessel", "Vessel", FieldKind.Text) { MaxLength = 40 },
        new Field("issued", "Issued", FieldKind.Date) { Required = true, Min = "1986-01-01" },
        new Field("due", "Due", FieldKind.Date) { Required = true },
        new Field("berth-dues", "Berth dues", FieldKind.Decimal) { Min = "0" },
        new Field("pilotage", "Pilotage", FieldKind.Decimal) { Min = "0" },
        new Field("waste", "Waste reception", FieldKind.Decimal) { Min = "0" },
        new Field("tax", "Tax", FieldKind.Decimal) { Min = "0" },
        new Field("total", "Total", FieldKind.Decimal) { Required = true, Min = "0.01" },
        new Field("account", "Account to debit", FieldKind.Text) { MaxLength = 34, Restricted = true },
    ],
    [
        Rule("r1", "date-not-after", Level.Must, ("first", "issued"), ("second", "due")),
        Rule("r2", "adds-up", Level.Must, ("parts", "berth-dues,pilotage,waste,tax"), ("total", "total"), ("tolerance", "0.01")),
        Rule("r3", "unique", Level.Should, ("fields", "payer,statement-number")),
    ],
    new Convention(
        [Piece.Literal("Harbour dues"), Inside, Piece.Of("payer") with { MaxLength = 30 }, Inside, Piece.Of("issued") with { DateForm = "yyyy" }],
        [Piece.Of("issued"), Piece.Literal(" "), Piece.Of("statement-number")]));

    private static Piece Inside => new(PieceKind.Inside);

    private static Rule Rule(string id, string kind, Level level, params (string, string)[] parameters) =>
        new(id, kind, level, parameters.ToDictionary(p => p.Item1, p => p.Item2));
}
