namespace ClearLexicon.Storage;

/// <summary>What kinds of things a line of the ledger can be about. Names are kept; see <see cref="Sql.Code{T}(T)"/>.</summary>
public enum SubjectKind
{
    /// <summary>A document on the desk or in the repository; by its number.</summary>
    Document,

    /// <summary>A document type or a field group; by its code.</summary>
    Type,

    /// <summary>A vocabulary; by its key.</summary>
    Vocabulary,

    /// <summary>A reference table; by its key.</summary>
    Table,

    /// <summary>The closed days.</summary>
    ClosedDays,

    /// <summary>A design file that came from elsewhere.</summary>
    DesignFile,

    /// <summary>A reader; by its key.</summary>
    Reader,

    /// <summary>A pile; by its number.</summary>
    Pile,

    /// <summary>A batch; by its number.</summary>
    Batch,

    /// <summary>A file of a batch; by its number.</summary>
    File,

    /// <summary>A way in; by its key.</summary>
    WayIn,

    /// <summary>Printed sheets; by what stands on all of them.</summary>
    Sheets,

    /// <summary>An inventory; by its number.</summary>
    Inventory,

    /// <summary>A package; by the name of its folder.</summary>
    Package,

    /// <summary>A bulk edit; by its number.</summary>
    BulkEdit,

    /// <summary>A view; by its name.</summary>
    View,

    /// <summary>A notice; by its name.</summary>
    Notice,

    /// <summary>An export plan; by its name.</summary>
    ExportPlan,

    /// <summary>A run of an export plan; by its number.</summary>
    ExportRun,

    /// <summary>Records that somebody took out; by what they were.</summary>
    Records,

    /// <summary>Somebody; by their name.</summary>
    Person,

    /// <summary>An API token; by its label, or by its number when it has ended.</summary>
    Token,

    /// <summary>What holds for the whole installation.</summary>
    Settings,

    /// <summary>A job; by what it works on.</summary>
    Job,
}

/// <summary>
/// What a line of the ledger is about. Two things of different kinds may be named alike: a vocabulary <c>berth</c> and a document type
/// <c>berth</c>.
/// </summary>
/// <param name="Kind">Of which kind it is.</param>
/// <param name="Id">Which one of them; empty when there is but one.</param>
public readonly record struct LedgerSubject(SubjectKind Kind, string Id = "")
{
    /// <summary>A thing that has a number.</summary>
    public LedgerSubject(SubjectKind kind, long number)
        : this(kind, number.ToString(System.Globalization.CultureInfo.InvariantCulture)) { }

    /// <summary>A document.</summary>
    public static LedgerSubject Document(long number) => new(SubjectKind.Document, number);

    /// <summary>Its number; null when it has none.</summary>
    public long? Number =>
        long.TryParse(Id, System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var number)
            ? number
            : null;

    /// <summary>As the ledger says it, such as <c>document 12</c>.</summary>
    public override string ToString() => $"{Sql.Code(Kind)} {Id}".TrimEnd();
}

/// <summary>What something else is done about besides that a line of the ledger says it.</summary>
public enum LedgerEvent
{
    /// <summary>A document has come into the repository, or come back into it.</summary>
    Filed,

    /// <summary>A change of a design that its page can undo.</summary>
    Undoable,

    /// <summary>Somebody has signed in.</summary>
    SignedIn,
}
