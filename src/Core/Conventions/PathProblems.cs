using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions;

/// <summary>A piece without a value would leave a hole in the path.</summary>
public sealed record PathHole(string Label) : ProblemKind("path-hole")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} ist leer und würde eine Lücke im Pfad lassen.",
            "fr" => $"{Label} est vide, ce qui laisserait un trou dans le chemin.",
            _ => $"{Label} is empty, which would leave a gap in the path.",
        };
}

/// <summary>The convention yields no file name.</summary>
public sealed record PathEmpty() : ProblemKind("path-empty")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => "Die Konvention ergibt keinen Dateinamen für dieses Dokument.",
            "fr" => "La convention ne donne pas de nom de fichier pour ce document.",
            _ => "The convention yields no file name for this document.",
        };
}

/// <summary>A folder would have no name.</summary>
public sealed record PathSegmentEmpty() : ProblemKind("path-segment-empty")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => "Ein Ordner des Pfads hätte keinen Namen.",
            "fr" => "Un dossier du chemin n’aurait pas de nom.",
            _ => "A folder of the path would have no name.",
        };
}

/// <summary>A name such as <c>..</c> would lead out of the repository.</summary>
public sealed record PathLeavesRoot(string Segment) : ProblemKind("path-leaves-root")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Segment}“ als Ordner- oder Dateiname führte aus dem Bestand hinaus.",
            "fr" => $"« {Segment} » comme nom de dossier ou de fichier sortirait du dépôt.",
            _ => $"“{Segment}” as a folder or file name would lead outside the repository.",
        };
}

/// <summary>A name that file systems keep for devices (CON, PRN, …).</summary>
public sealed record PathReservedName(string Segment) : ProblemKind("path-reserved-name")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Segment}“ ist ein Name, den Dateisysteme für Geräte freihalten.",
            "fr" => $"« {Segment} » est un nom réservé aux périphériques.",
            _ => $"“{Segment}” is a name that file systems reserve for devices.",
        };
}

/// <summary>A folder or file name is too long; lengths as <see cref="PathLimits.LengthOf"/> counts them.</summary>
public sealed record PathSegmentTooLong(string Segment, int Length, int Most) : ProblemKind("path-segment-too-long")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Segment}…“ hat {Length} Zeichen; ein Ordner- oder Dateiname darf {Most} haben.",
            "fr" => $"« {Segment}… » a {Length} caractères ; un nom peut en avoir {Most}.",
            _ => $"“{Segment}…” is {Length} characters long; {Most} are allowed in a folder or file name.",
        };
}

/// <summary>More folders inside one another than allowed.</summary>
public sealed record PathTooDeep(int Depth, int Most) : ProblemKind("path-too-deep")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Der Pfad hat {Depth} Ordner ineinander; er darf {Most} haben.",
            "fr" => $"Le chemin a {Depth} dossiers imbriqués ; il peut en avoir {Most}.",
            _ => $"The path is {Depth} folders deep; {Most} are allowed.",
        };
}

/// <summary>Another document stands in this place.</summary>
public sealed record PathTaken(string Name) : ProblemKind("path-taken")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"An dieser Stelle liegt schon ein Dokument: {Name}.",
            "fr" => $"Un document occupe déjà cette place : {Name}.",
            _ => $"There is already a document in this place: {Name}.",
        };
}

/// <summary>The whole path is too long; lengths as <see cref="PathLimits.LengthOf"/> counts them.</summary>
public sealed record PathTooLong(int Length, int Most) : ProblemKind("path-too-long")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Der ganze Pfad hat {Length} Zeichen; er darf {Most} haben.",
            "fr" => $"Le chemin entier a {Length} caractères ; il peut en avoir {Most}.",
            _ => $"The whole path is {Length} characters long; {Most} are allowed.",
        };
}
