namespace ClearLexicon.Web.Api;

/// <summary>Where a value was read.</summary>
/// <param name="Page">Page of the document, from 1; 0 for the sheet that came before it.</param>
/// <param name="Box">Left, top, width and height in shares of the page.</param>
/// <param name="Raw">The text before cleaning.</param>
/// <param name="Confidence">0 to 1.</param>
/// <param name="Sure">Whether that is as much as the field needs; if not, a person should look at it.</param>
/// <param name="Source">recognised, text layer, brought, picked, a kind of code …</param>
public sealed record EvidenceAnswer(int Page, double[] Box, string Raw, double Confidence, bool Sure, string Source);

/// <summary>A value.</summary>
/// <param name="Text">Its text.</param>
/// <param name="Evidence">Null for what a person typed or a rule filled.</param>
public sealed record ValueAnswer(string Text, EvidenceAnswer? Evidence);

/// <summary>A problem of a document.</summary>
/// <param name="Code">Stable code.</param>
/// <param name="Level">must or should.</param>
/// <param name="Field">Key of the field; null for the whole record.</param>
/// <param name="Message">In words.</param>
public sealed record DocumentProblem(string Code, string Level, string? Field, string Message);

/// <summary>A document.</summary>
/// <param name="Id">Its id.</param>
/// <param name="State">desk or filed.</param>
/// <param name="Type">Code of its document type; null while unknown.</param>
/// <param name="Batch">The batch it came in.</param>
/// <param name="Pages">How many pages it has.</param>
/// <param name="Values">Values by field key; those that the person may not see are left out.</param>
/// <param name="Problems">What stands against it.</param>
/// <param name="Folder">Folder it has, or would have.</param>
/// <param name="Name">Name it has, or would have.</param>
public sealed record DocumentAnswer(
    long Id,
    string State,
    string? Type,
    long? Batch,
    int Pages,
    IReadOnlyDictionary<string, ValueAnswer> Values,
    IReadOnlyList<DocumentProblem> Problems,
    string? Folder,
    string? Name
);

/// <summary>A page of a batch and what separation made of it.</summary>
/// <param name="File">Name of its file.</param>
/// <param name="Number">Its number there, from 1.</param>
/// <param name="Begins">Why a document begins with it; null when it goes on.</param>
/// <param name="Vanishes">Why it vanishes; null when it stays.</param>
/// <param name="Doubt">What a person should look at; null for nothing.</param>
/// <param name="Document">The document it became a page of; null while none was made.</param>
public sealed record BatchPageAnswer(string File, int Number, string? Begins, string? Vanishes, string? Doubt, long? Document);

/// <summary>A file of a batch.</summary>
/// <param name="Name">Its name.</param>
/// <param name="State">waiting, taken or refused.</param>
/// <param name="Pages">How many pages it has; null until it was opened.</param>
/// <param name="Message">Why it was refused.</param>
public sealed record BatchFileAnswer(string Name, string State, int? Pages, string? Message);

/// <summary>A batch.</summary>
/// <param name="Id">Its id.</param>
/// <param name="State">reading, look (a person looks at its separation first), open or given up.</param>
/// <param name="WayIn">Key of the way it came.</param>
/// <param name="Files">Its files.</param>
/// <param name="Pages">Its pages in order.</param>
/// <param name="Documents">Ids of the documents that were made of it.</param>
public sealed record BatchAnswer(
    long Id,
    string State,
    string? WayIn,
    IReadOnlyList<BatchFileAnswer> Files,
    IReadOnlyList<BatchPageAnswer> Pages,
    IReadOnlyList<long> Documents
);

/// <summary>What became of filing.</summary>
/// <param name="Path">Folder and name in the repository.</param>
public sealed record FiledAnswer(string Path);
