namespace ClearLexicon.Core.Rules;

/// <summary>
/// The text of every problem code in every language. <c>{0}</c>…<c>{2}</c> are the problem's parameters; labels and values
/// stand as the steward or the document wrote them.
/// </summary>
public static class Messages
{
    /// <summary>The language that always has a text.</summary>
    public const string English = "en";

    /// <summary>Languages and their own names.</summary>
    public static IReadOnlyList<(string Code, string Name)> Languages { get; } =
    [(English, "English"), ("de", "Deutsch"), ("fr", "Français")];

    private static readonly Dictionary<string, string[]> Texts = new(StringComparer.Ordinal)
    {
        ["in-row"] = ["Row {0}: {1}", "Zeile {0}: {1}", "Ligne {0} : {1}"],
        ["required"] = ["{0} must be filled.", "{0} muss ausgefüllt sein.", "{0} doit être rempli."],
        ["required-when"] =
        [
            "{0} must be filled when {1}.",
            "{0} muss ausgefüllt sein (Bedingung: {1}).",
            "{0} doit être rempli (condition : {1}).",
        ],
        ["not-a-whole-number"] =
        [
            "“{1}” is not a whole number; write digits only, such as 1250.",
            "„{1}“ ist keine ganze Zahl; nur Ziffern schreiben, etwa 1250.",
            "« {1} » n’est pas un nombre entier ; n’écrivez que des chiffres, par exemple 1250.",
        ],
        ["not-a-number"] =
        [
            "“{1}” is not a number; write it with a point, such as 1250.50.",
            "„{1}“ ist keine Zahl; mit Punkt schreiben, etwa 1250.50.",
            "« {1} » n’est pas un nombre ; écrivez-le avec un point, par exemple 1250.50.",
        ],
        ["not-an-amount"] =
        [
            "“{1}” is not an amount; write a number with a point and a currency, such as 1250.50 EUR.",
            "„{1}“ ist kein Betrag; Zahl mit Punkt und Währung schreiben, etwa 1250.50 EUR.",
            "« {1} » n’est pas un montant ; écrivez un nombre avec un point et une devise, par exemple 1250.50 EUR.",
        ],
        ["not-a-table"] =
        [
            "{0} cannot be read as rows.",
            "{0} lässt sich nicht als Zeilen lesen.",
            "{0} ne peut pas être lu comme des lignes.",
        ],
        ["not-a-date"] =
        [
            "“{1}” is not a date; write it as 2024-03-31.",
            "„{1}“ ist kein Datum; als 2024-03-31 schreiben.",
            "« {1} » n’est pas une date ; écrivez-la comme 2024-03-31.",
        ],
        ["ambiguous-date"] =
        [
            "“{0}” could be {1} or {2}; write which.",
            "„{0}“ kann {1} oder {2} sein; eindeutig schreiben.",
            "« {0} » peut être {1} ou {2} ; précisez.",
        ],
        ["not-yes-or-no"] = ["“{1}” is neither yes nor no.", "„{1}“ ist weder ja noch nein.", "« {1} » n’est ni oui ni non."],
        ["unknown-term"] =
        [
            "“{1}” is not in the vocabulary {2}.",
            "„{1}“ steht nicht im Vokabular {2}.",
            "« {1} » n’est pas dans le vocabulaire {2}.",
        ],
        ["retired-term"] =
        [
            "“{1}” is retired from the vocabulary {2}; choose a current term.",
            "„{1}“ ist im Vokabular {2} außer Gebrauch; eine gültige Benennung wählen.",
            "« {1} » est retiré du vocabulaire {2} ; choisissez un terme en vigueur.",
        ],
        ["replaced-term"] =
        [
            "“{1}” is retired; use “{2}”.",
            "„{1}“ ist außer Gebrauch; „{2}“ verwenden.",
            "« {1} » est retiré ; utilisez « {2} ».",
        ],
        ["not-in-branch"] = ["“{1}” does not lie below {2}.", "„{1}“ liegt nicht unter {2}.", "« {1} » ne se trouve pas sous {2}."],
        ["not-on-level"] =
        [
            "“{1}” is not on level {2} of the tree.",
            "„{1}“ steht nicht auf Ebene {2} des Baums.",
            "« {1} » n’est pas au niveau {2} de l’arbre.",
        ],
        ["not-a-leaf"] =
        [
            "“{1}” has narrower terms; choose one of them, such as {2}.",
            "„{1}“ hat Unterbegriffe; einen davon wählen, etwa {2}.",
            "« {1} » a des termes spécifiques ; choisissez l’un d’eux, par exemple {2}.",
        ],
        ["too-short"] = ["{0} has fewer than {1} characters.", "{0} hat weniger als {1} Zeichen.", "{0} a moins de {1} caractères."],
        ["too-long"] = ["{0} has more than {1} characters.", "{0} hat mehr als {1} Zeichen.", "{0} a plus de {1} caractères."],
        ["length"] = ["{0} must have {1} characters.", "{0} muss {1} Zeichen haben.", "{0} doit avoir {1} caractères."],
        ["characters"] =
        [
            "{0} may not hold “{1}” (character {2}).",
            "{0} darf „{1}“ nicht enthalten (Zeichen {2}).",
            "{0} ne peut pas contenir « {1} » (caractère {2}).",
        ],
        ["pattern"] = ["“{1}” does not have the form {2}.", "„{1}“ hat nicht die Form {2}.", "« {1} » n’a pas la forme {2}."],
        ["below-least"] = ["{0} is below {1}.", "{0} liegt unter {1}.", "{0} est inférieur à {1}."],
        ["above-greatest"] = ["{0} is above {1}.", "{0} liegt über {1}.", "{0} est supérieur à {1}."],
        ["not-within"] = ["{0} must lie within {1}.", "{0} muss in {1} liegen.", "{0} doit être dans {1}."],
        ["multiple-of"] = ["{0} must be a multiple of {1}.", "{0} muss ein Vielfaches von {1} sein.", "{0} doit être un multiple de {1}."],
        ["decimal-places"] =
        [
            "{0} may have {1} decimal places at most.",
            "{0} darf höchstens {1} Nachkommastellen haben.",
            "{0} peut avoir au plus {1} décimales.",
        ],
        ["unknown-currency"] =
        [
            "“{1}” is not a currency code of ISO 4217.",
            "„{1}“ ist kein Währungscode nach ISO 4217.",
            "« {1} » n’est pas un code de devise ISO 4217.",
        ],
        ["currency-not-taken"] =
        [
            "{0} is not kept in {1}; write {2}.",
            "{0} wird nicht in {1} geführt; {2} schreiben.",
            "{0} n’est pas tenu en {1} ; écrivez {2}.",
        ],
        ["currencies-differ"] =
        [
            "{0} and {1} are in different currencies.",
            "{0} und {1} haben verschiedene Währungen.",
            "{0} et {1} sont dans des devises différentes.",
        ],
        ["amount-places"] =
        [
            "An amount in {1} has {2} decimal places at most.",
            "Ein Betrag in {1} hat höchstens {2} Nachkommastellen.",
            "Un montant en {1} a au plus {2} décimales.",
        ],
        ["unknown-field"] =
        [
            "This document type has no field “{0}”.",
            "Dieser Dokumenttyp hat kein Feld „{0}“.",
            "Ce type de document n’a pas de champ « {0} ».",
        ],
        ["not-a-value"] =
        [
            "{0} must be a text, a number or true or false.",
            "{0} muss ein Text, eine Zahl oder ja/nein sein.",
            "{0} doit être un texte, un nombre ou oui/non.",
        ],
        ["filled"] = ["{0} must be filled.", "{0} muss ausgefüllt sein.", "{0} doit être rempli."],
        ["one-filled"] = ["One of {0} must be filled.", "Eines von {0} muss ausgefüllt sein.", "L’un de {0} doit être rempli."],
        ["exactly-one-filled"] =
        [
            "Exactly one of {0} must be filled.",
            "Genau eines von {0} muss ausgefüllt sein.",
            "Un seul de {0} doit être rempli.",
        ],
        ["stays-empty"] = ["{0} must stay empty.", "{0} muss leer bleiben.", "{0} doit rester vide."],
        ["compare"] = ["{0} must be {1} {2}.", "{0} muss {1} {2} sein.", "{0} doit être {1} {2}."],
        ["too-large"] =
        [
            "{0} becomes too large to be computed.",
            "{0} wird zu groß, um berechnet zu werden.",
            "{0} devient trop grand pour être calculé.",
        ],
        ["date-beyond"] =
        [
            "{0} leaves the calendar, so it cannot be compared.",
            "{0} verlässt den Kalender und lässt sich nicht vergleichen.",
            "{0} sort du calendrier et ne peut pas être comparé.",
        ],
        ["not-unicode"] =
        [
            "{0} holds a character that cannot be kept (NUL, or half of a pair).",
            "{0} enthält ein Zeichen, das nicht aufbewahrt werden kann (NUL oder ein halbes Paar).",
            "{0} contient un caractère qui ne peut pas être conservé (NUL ou une demi-paire).",
        ],
        ["unknown-column"] = ["{0} has no column “{1}”.", "{0} hat keine Spalte „{1}“.", "{0} n’a pas de colonne « {1} »."],
        ["date-not-future"] = ["{0} lies in the future.", "{0} liegt in der Zukunft.", "{0} est dans le futur."],
        ["date-not-past"] = ["{0} lies in the past.", "{0} liegt in der Vergangenheit.", "{0} est dans le passé."],
        ["date-past"] = ["{0} must lie in the past.", "{0} muss in der Vergangenheit liegen.", "{0} doit être dans le passé."],
        ["date-future"] = ["{0} must lie in the future.", "{0} muss in der Zukunft liegen.", "{0} doit être dans le futur."],
        ["date-near"] =
        [
            "{0} must lie within {1} days of today.",
            "{0} muss höchstens {1} Tage von heute entfernt sein.",
            "{0} doit être à {1} jours au plus d’aujourd’hui.",
        ],
        ["date-near-field"] =
        [
            "{0} must lie within {1} days of {2}.",
            "{0} muss höchstens {1} Tage von {2} entfernt sein.",
            "{0} doit être à {1} jours au plus de {2}.",
        ],
        ["adds-up"] =
        [
            "The parts add up to {0}, but {1} is {2}.",
            "Die Teile ergeben {0}, aber {1} ist {2}.",
            "Les parties font {0}, mais {1} est {2}.",
        ],
        ["multiplies"] =
        [
            "The factors give {0}, but {1} is {2}.",
            "Die Faktoren ergeben {0}, aber {1} ist {2}.",
            "Les facteurs donnent {0}, mais {1} est {2}.",
        ],
        ["repeats"] = ["“{0}” does not hold {1} ({2}).", "„{0}“ enthält {1} nicht ({2}).", "« {0} » ne contient pas {1} ({2})."],
        ["how-many"] = ["{0} has {1}, but must have {2}.", "{0} hat {1}, muss aber {2} haben.", "{0} en a {1}, mais doit en avoir {2}."],
        ["term-not-reviewed"] =
        [
            "“{1}” has not been reviewed yet.",
            "„{1}“ ist noch nicht geprüft.",
            "« {1} » n’a pas encore été examiné.",
        ],
        ["term-not-within"] = ["“{1}” does not lie within {2}.", "„{1}“ liegt nicht in {2}.", "« {1} » ne se trouve pas dans {2}."],
        ["check-length"] =
        [
            "“{0}” has the wrong length: it should have {1} characters, not {2}.",
            "„{0}“ hat die falsche Länge: {1} Zeichen statt {2}.",
            "« {0} » n’a pas la bonne longueur : il faut {1} caractères, pas {2}.",
        ],
        ["check-character"] =
        [
            "“{0}” holds “{1}” where it cannot stand (character {2}).",
            "„{0}“ enthält „{1}“ an einer Stelle, wo es nicht stehen kann (Zeichen {2}).",
            "« {0} » contient « {1} » là où il ne peut pas être (caractère {2}).",
        ],
        ["check-country"] =
        [
            "“{0}” begins with “{1}”, for which no such numbers are known.",
            "„{0}“ beginnt mit „{1}“, wofür es keine solchen Nummern gibt.",
            "« {0} » commence par « {1} », pour lequel de tels numéros sont inconnus.",
        ],
        ["check-date"] =
        [
            "“{0}” holds no date of birth in {1}.",
            "„{0}“ enthält in {1} kein Geburtsdatum.",
            "« {0} » ne contient pas de date de naissance dans {1}.",
        ],
        ["check-prefix"] = ["“{0}” should begin with {1}.", "„{0}“ muss mit {1} beginnen.", "« {0} » doit commencer par {1}."],
        ["check-digit"] =
        [
            "“{0}” fails its check: the check digit should be {1}.",
            "„{0}“ besteht die Prüfung nicht: die Prüfziffer müsste {1} sein.",
            "« {0} » échoue au contrôle : la clé devrait être {1}.",
        ],
        ["unique"] =
        [
            "Another document already has this {0}: {1}.",
            "Ein anderes Dokument hat dies schon ({0}): {1}.",
            "Un autre document l’a déjà ({0}) : {1}.",
        ],
        ["not-in-table"] = ["{0} “{1}” does not stand in {2}.", "{0} „{1}“ steht nicht in {2}.", "{0} « {1} » ne figure pas dans {2}."],
        ["table-disagrees"] =
        [
            "{0} differs from {2}, which says “{1}”.",
            "{0} weicht von {2} ab; dort steht „{1}“.",
            "{0} diffère de {2}, qui indique « {1} ».",
        ],
        ["not-looked-up"] =
        [
            "{0} could not be looked up in {1}: {2}.",
            "{0} konnte in {1} nicht nachgeschlagen werden: {2}.",
            "{0} n’a pas pu être recherché dans {1} : {2}.",
        ],
        ["formula"] = ["This does not hold: {0}.", "Dies gilt nicht: {0}.", "Ceci n’est pas vrai : {0}."],
        ["formula-failed"] =
        [
            "{0} cannot be computed: {1}.",
            "{0} lässt sich nicht berechnen: {1}.",
            "{0} ne peut pas être calculé : {1}.",
        ],
        ["path-hole"] =
        [
            "{0} is empty, which would leave a hole in the path.",
            "{0} ist leer und würde eine Lücke im Pfad lassen.",
            "{0} est vide, ce qui laisserait un trou dans le chemin.",
        ],
        ["path-empty"] =
        [
            "The convention yields no file name for this document.",
            "Die Konvention ergibt keinen Dateinamen für dieses Dokument.",
            "La convention ne donne pas de nom de fichier pour ce document.",
        ],
        ["path-segment-empty"] =
        [
            "A folder of the path would have no name.",
            "Ein Ordner des Pfads hätte keinen Namen.",
            "Un dossier du chemin n’aurait pas de nom.",
        ],
        ["path-leaves-root"] =
        [
            "“{0}” as a folder or file name would lead out of the repository.",
            "„{0}“ als Ordner- oder Dateiname führte aus dem Bestand hinaus.",
            "« {0} » comme nom de dossier ou de fichier sortirait du dépôt.",
        ],
        ["path-reserved-name"] =
        [
            "“{0}” is a name that file systems keep for devices.",
            "„{0}“ ist ein Name, den Dateisysteme für Geräte freihalten.",
            "« {0} » est un nom réservé aux périphériques.",
        ],
        ["path-segment-too-long"] =
        [
            "“{0}…” is {1} characters long; a folder or file name may have {2}.",
            "„{0}…“ hat {1} Zeichen; ein Ordner- oder Dateiname darf {2} haben.",
            "« {0}… » a {1} caractères ; un nom peut en avoir {2}.",
        ],
        ["path-too-deep"] =
        [
            "The path has {0} folders inside one another; it may have {1}.",
            "Der Pfad hat {0} Ordner ineinander; er darf {1} haben.",
            "Le chemin a {0} dossiers imbriqués ; il peut en avoir {1}.",
        ],
        ["path-taken"] =
        [
            "There is a document in this place already: {0}.",
            "An dieser Stelle liegt schon ein Dokument: {0}.",
            "Un document occupe déjà cette place : {0}.",
        ],
        ["path-too-long"] =
        [
            "The whole path is {0} characters long; it may have {1}.",
            "Der ganze Pfad hat {0} Zeichen; er darf {1} haben.",
            "Le chemin entier a {0} caractères ; il peut en avoir {1}.",
        ],
    };

    /// <summary>All codes that have a text.</summary>
    public static IReadOnlyCollection<string> Codes => Texts.Keys;

    /// <summary>The text of a code with its parameters put in; English when the language is not known.</summary>
    public static string Text(string code, string? a, string? b, string? c, string language = English)
    {
        if (!Texts.TryGetValue(code, out var templates))
            return code;
        var template = templates[
            language switch
            {
                "de" => 1,
                "fr" => 2,
                _ => 0,
            }
        ];
        return string.Format(template, a, b, c);
    }

    /// <summary>The language of these that a tag such as <c>de-AT</c> asks for; English when none.</summary>
    public static string Nearest(string? tag) =>
        Languages.FirstOrDefault(l => tag?.StartsWith(l.Code, StringComparison.OrdinalIgnoreCase) == true).Code ?? English;
}
