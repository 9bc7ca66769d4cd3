namespace ClearLexicon.Demo;

/// <summary>Two page designs for each of the two document types, and one that nobody knows.</summary>
public static class PageDesigns
{
    /// <summary>The harbour office's own call record: labels left, values right.</summary>
    public static PageDesign CallOffice { get; } =
        new(
            "call-record-office",
            "Call record, harbour office",
            "vessel-call-record",
            "Vessel Call Record",
            "Merrowmouth Harbour Authority",
            "d MMM yyyy",
            Boxed: false,
            Rows(
                ("call-number", "Call No."),
                ("vessel", "Name of vessel"),
                ("imo", "Ship number"),
                ("vessel-type", "Kind of vessel"),
                ("berth", "Berthed at"),
                ("arrived", "Arrival"),
                ("sailed", "Departure"),
                ("gross-tonnage", "Tonnage gross"),
                ("agent", "Ship's agent"),
                ("master", "Master"),
                ("pilot-used", "Pilot taken"),
                ("pilot-certificate", "Pilot's certificate")
            )
        );

    /// <summary>The agents' call record: boxes with the label above the value.</summary>
    public static PageDesign CallAgent { get; } =
        new(
            "call-record-agent",
            "Call record, agents’ form",
            "vessel-call-record",
            "Record of Call",
            "Agents' Association of Merrowmouth",
            "dd.MM.yyyy",
            Boxed: true,
            Boxes(
                ("call-number", "Reference"),
                ("imo", "IMO"),
                ("vessel", "Vessel"),
                ("vessel-type", "Category"),
                ("berth", "Quay or jetty"),
                ("gross-tonnage", "GT"),
                ("arrived", "In"),
                ("sailed", "Out"),
                ("agent", "Agency"),
                ("master", "Captain"),
                ("pilot-used", "Pilotage"),
                ("pilot-certificate", "Certificate")
            )
        );

    /// <summary>The treasurer's dues statement.</summary>
    public static PageDesign DuesTreasurer { get; } =
        new(
            "dues-treasurer",
            "Dues statement, treasurer",
            "harbour-dues-statement",
            "Harbour Dues Statement",
            "Merrowmouth Harbour Authority, Treasurer",
            "d MMM yyyy",
            Boxed: false,
            Rows(
                ("statement-number", "Statement"),
                ("payer", "Payable by"),
                ("vessel", "For vessel"),
                ("issued", "Date of issue"),
                ("due", "Payable until"),
                ("berth-dues", "Berth dues"),
                ("pilotage", "Pilotage service"),
                ("waste", "Waste reception"),
                ("tax", "Tax"),
                ("total", "Amount payable"),
                ("account", "Debit account")
            )
        );

    /// <summary>The older dues note.</summary>
    public static PageDesign DuesNote { get; } =
        new(
            "dues-note",
            "Dues note, older form",
            "harbour-dues-statement",
            "Note of Dues",
            "Port Cashier, Merrowmouth",
            "dd.MM.yyyy",
            Boxed: true,
            Boxes(
                ("statement-number", "Number"),
                ("payer", "Debtor"),
                ("vessel", "Vessel"),
                ("account", "Account"),
                ("issued", "Issued on"),
                ("due", "Due by"),
                ("berth-dues", "Berth"),
                ("pilotage", "Pilot"),
                ("waste", "Waste"),
                ("tax", "Tax at 20 %"),
                ("total", "Total")
            )
        );

    /// <summary>The slip that the mail room labels: ship and call are in the code only.</summary>
    public static PageDesign LabelledSlip { get; } =
        new(
            "call-slip",
            "Call slip with label",
            "vessel-call-record",
            "Vessel Call Slip",
            "Merrowmouth Harbour Authority, Mail Room",
            "d MMM yyyy",
            Boxed: false,
            Rows(
                ("vessel", "Name on the hull"),
                ("berth", "Lies at"),
                ("arrived", "Came in"),
                ("sailed", "Went out"),
                ("agent", "Handled by"),
                ("pilot-used", "With a pilot")
            )
        );

    /// <summary>The permit whose values stand in one code.</summary>
    public static PageDesign Permit { get; } =
        new(
            "hot-work-permit",
            "Hot work permit with code",
            "hot-work-permit",
            "Hot Work Permit",
            "Merrowmouth Harbour Authority, Fire Office",
            "d MMM yyyy",
            Boxed: false,
            Rows(("valid-to", "Ends on"), ("gas-free", "Gas-free certificate seen"), ("fire-watch", "Fire watch posted"), ("fee", "Fee"))
        );

    /// <summary>The first page of a note of several.</summary>
    public static PageDesign GoodsNote { get; } =
        new(
            "goods-note",
            "Dangerous goods note",
            "dangerous-goods-note",
            "Dangerous Goods Note",
            "Shippers of Merrowmouth",
            "dd.MM.yyyy",
            Boxed: true,
            Boxes(
                ("note-number", "Note"),
                ("vessel", "Vessel"),
                ("un-number", "UN No."),
                ("class", "Class"),
                ("loaded", "Loaded"),
                ("packing-certificate", "Packing certificate"),
                ("shipper-signed", "Signed by shipper"),
                ("master-signed", "Signed by master")
            )
        );

    /// <summary>A page that no reader claims.</summary>
    public static PageDesign Unknown { get; } =
        new(
            "unknown",
            "",
            "",
            "Weather Bulletin",
            "Saltby Observatory",
            "d MMM yyyy",
            Boxed: false,
            Rows(("area", "Sea area"), ("wind", "Wind"), ("sea", "Sea state"), ("outlook", "Outlook"))
        );

    /// <summary>The four that have a reader.</summary>
    public static IReadOnlyList<PageDesign> Known { get; } = [CallOffice, CallAgent, DuesTreasurer, DuesNote];

    private static Cell[] Rows(params (string Field, string Label)[] cells) =>
        [.. cells.Select((c, i) => new Cell(c.Field, c.Label, 52, 132 + i * 34, 210, 132 + i * 34, 320))];

    private static Cell[] Boxes(params (string Field, string Label)[] cells) =>
        [
            .. cells.Select(
                (c, i) => new Cell(c.Field, c.Label, 52 + i % 2 * 256, 126 + i / 2 * 58, 60 + i % 2 * 256, 152 + i / 2 * 58, 232)
            ),
        ];
}
