using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A field that must be filled is empty.</summary>
public sealed record Required(string Label) : ProblemKind("required")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss ausgefüllt sein.",
            "fr" => $"{Label} doit être rempli.",
            _ => $"{Label} must be filled.",
        };
}

/// <summary>A field is empty that must be filled under a condition.</summary>
public sealed record RequiredWhen(string Label, string Condition) : ProblemKind("required-when")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss ausgefüllt sein (Bedingung: {Condition}).",
            "fr" => $"{Label} doit être rempli (condition : {Condition}).",
            _ => $"{Label} must be filled when {Condition}.",
        };
}

/// <summary>A text cannot be read as its field's kind.</summary>
/// <param name="Kind">The kind, which says it.</param>
/// <param name="Shown">The text; of rows, the label of the field.</param>
public sealed record NotOfKind(FieldKind Kind, string Shown) : ProblemKind(Kind.UnreadableCode)
{
    internal override string In(string language) => Kind.UnreadableIn(Shown, language);
}

/// <summary>A date can be read in two ways.</summary>
public sealed record AmbiguousDate(string Text, string First, string Second) : ProblemKind("ambiguous-date")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ kann {First} oder {Second} sein; eindeutig schreiben.",
            "fr" => $"« {Text} » peut être {First} ou {Second} ; précisez.",
            _ => $"“{Text}” could be {First} or {Second}; write which.",
        };
}

/// <summary>A text is no term of its vocabulary.</summary>
public sealed record UnknownTerm(string Text, string Vocabulary) : ProblemKind("unknown-term")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ steht nicht im Vokabular {Vocabulary}.",
            "fr" => $"« {Text} » n’est pas dans le vocabulaire {Vocabulary}.",
            _ => $"“{Text}” is not in the vocabulary {Vocabulary}.",
        };
}

/// <summary>A term is out of use and nothing takes its place.</summary>
public sealed record RetiredTerm(string Term, string Vocabulary) : ProblemKind("retired-term")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Term}“ ist im Vokabular {Vocabulary} außer Gebrauch; eine gültige Benennung wählen.",
            "fr" => $"« {Term} » est retiré du vocabulaire {Vocabulary} ; choisissez un terme en vigueur.",
            _ => $"“{Term}” is retired from the vocabulary {Vocabulary}; choose a current term.",
        };
}

/// <summary>A term is out of use and another takes its place.</summary>
public sealed record ReplacedTerm(string Term, string Better) : ProblemKind("replaced-term")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Term}“ ist außer Gebrauch; „{Better}“ verwenden.",
            "fr" => $"« {Term} » est retiré ; utilisez « {Better} ».",
            _ => $"“{Term}” is retired; use “{Better}”.",
        };
}

/// <summary>A term stands outside the branch its field takes.</summary>
public sealed record NotInBranch(string Term, string Branch) : ProblemKind("not-in-branch")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Term}“ liegt nicht unter {Branch}.",
            "fr" => $"« {Term} » ne se trouve pas sous {Branch}.",
            _ => $"“{Term}” is not below {Branch}.",
        };
}

/// <summary>A term is not on the level its field takes, counted from 1 at the top.</summary>
public sealed record NotOnLevel(string Term, int Level) : ProblemKind("not-on-level")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Term}“ steht nicht auf Ebene {Level} des Baums.",
            "fr" => $"« {Term} » n’est pas au niveau {Level} de l’arbre.",
            _ => $"“{Term}” is not on level {Level} of the tree.",
        };
}

/// <summary>A term has narrower ones where the narrowest is asked; one of them is named.</summary>
public sealed record NotALeaf(string Term, string Narrower) : ProblemKind("not-a-leaf")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Term}“ hat Unterbegriffe; einen davon wählen, etwa {Narrower}.",
            "fr" => $"« {Term} » a des termes spécifiques ; choisissez l’un d’eux, par exemple {Narrower}.",
            _ => $"“{Term}” has narrower terms; choose one of them, such as {Narrower}.",
        };
}

/// <summary>A text has fewer characters (Unicode code points) than its field asks.</summary>
public sealed record TooShort(string Label, int Least) : ProblemKind("too-short")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} hat weniger als {Least} Zeichen.",
            "fr" => $"{Label} a moins de {Least} caractères.",
            _ => $"{Label} has fewer than {Least} characters.",
        };
}

/// <summary>A text has more characters (Unicode code points) than its field takes.</summary>
public sealed record TooLong(string Label, int Most) : ProblemKind("too-long")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} hat mehr als {Most} Zeichen.",
            "fr" => $"{Label} a plus de {Most} caractères.",
            _ => $"{Label} has more than {Most} characters.",
        };
}

/// <summary>A number or date is below what its field takes.</summary>
public sealed record BelowLeast(string Label, string Least) : ProblemKind("below-least")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} liegt unter {Least}.",
            "fr" => $"{Label} est inférieur à {Least}.",
            _ => $"{Label} is below {Least}.",
        };
}

/// <summary>A number or date is above what its field takes.</summary>
public sealed record AboveGreatest(string Label, string Greatest) : ProblemKind("above-greatest")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} liegt über {Greatest}.",
            "fr" => $"{Label} est supérieur à {Greatest}.",
            _ => $"{Label} is above {Greatest}.",
        };
}

/// <summary>Three letters that are no currency code of ISO 4217.</summary>
public sealed record UnknownCurrency(string Currency) : ProblemKind("unknown-currency")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Currency}“ ist kein Währungscode nach ISO 4217.",
            "fr" => $"« {Currency} » n’est pas un code de devise ISO 4217.",
            _ => $"“{Currency}” is not a currency code of ISO 4217.",
        };
}

/// <summary>A currency that its field does not take.</summary>
public sealed record CurrencyNotTaken(string Label, string Currency, string Taken) : ProblemKind("currency-not-taken")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} wird nicht in {Currency} geführt; {Taken} schreiben.",
            "fr" => $"{Label} n’est pas tenu en {Currency} ; écrivez {Taken}.",
            _ => $"{Label} is not kept in {Currency}; write {Taken}.",
        };
}

/// <summary>More decimal places than the currency has (ISO 4217).</summary>
public sealed record AmountPlaces(string Currency, int Places) : ProblemKind("amount-places")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Ein Betrag in {Currency} hat höchstens {Places} Nachkommastellen.",
            "fr" => $"Un montant en {Currency} a au plus {Places} décimales.",
            _ => $"An amount in {Currency} has {Places} decimal places at most.",
        };
}

/// <summary>A text holds NUL or an unpaired surrogate.</summary>
public sealed record NotUnicode(string Label) : ProblemKind("not-unicode")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} enthält ein Zeichen, das nicht aufbewahrt werden kann (NUL oder ein halbes Paar).",
            "fr" => $"{Label} contient un caractère qui ne peut pas être conservé (NUL ou une demi-paire).",
            _ => $"{Label} contains a character that cannot be kept (NUL, or half of a pair).",
        };
}

/// <summary>A record names a field that its type does not have.</summary>
public sealed record UnknownField(string Name) : ProblemKind("unknown-field")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Dieser Dokumenttyp hat kein Feld „{Name}“.",
            "fr" => $"Ce type de document n’a pas de champ « {Name} ».",
            _ => $"This document type has no field “{Name}”.",
        };
}

/// <summary>A row names a column that its table does not have.</summary>
public sealed record UnknownColumn(string Table, string Column) : ProblemKind("unknown-column")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Table} hat keine Spalte „{Column}“.",
            "fr" => $"{Table} n’a pas de colonne « {Column} ».",
            _ => $"{Table} has no column “{Column}”.",
        };
}

/// <summary>JSON holds an object or a list where one value stands.</summary>
public sealed record NotAValue(string Label) : ProblemKind("not-a-value")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss ein Text, eine Zahl oder ja/nein sein.",
            "fr" => $"{Label} doit être un texte, un nombre ou oui/non.",
            _ => $"{Label} must be a text, a number or true or false.",
        };
}

/// <summary>A service that answers for a reference table did not.</summary>
public sealed record NotLookedUp(string Labels, string Table, string Reason) : ProblemKind("not-looked-up")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Labels} konnte in {Table} nicht nachgeschlagen werden: {Reason}.",
            "fr" => $"{Labels} n’a pas pu être recherché dans {Table} : {Reason}.",
            _ => $"{Labels} could not be looked up in {Table}: {Reason}.",
        };
}

/// <summary>A sum or product leaves the range of decimal numbers (28 digits).</summary>
public sealed record TooLarge(string Computed) : ProblemKind("too-large")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Computed} wird zu groß, um berechnet zu werden.",
            "fr" => $"{Computed} devient trop grand pour être calculé.",
            _ => $"{Computed} is too large to be computed.",
        };
}
