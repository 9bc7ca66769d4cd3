using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Conventions;

/// <summary>Pieces and what is done with them in words, for the composer, comparisons and findings.</summary>
public static class PieceWords
{
    /// <summary>What a piece is called.</summary>
    public static string NameOf(Piece piece, TypeFields type) =>
        piece.Kind switch
        {
            PieceKind.Text => piece.Text,
            PieceKind.Inside => "/",
            PieceKind.Counter => "counter",
            PieceKind.System => SystemValues.NameOf(piece.System),
            _ => type.LabelOf(piece.Field),
        };

    /// <summary>A text with the blanks at its ends made visible.</summary>
    public static string ShowBlanks(string text)
    {
        var start = text.TrimStart();
        var end = start.TrimEnd();
        return new string('␣', text.Length - start.Length) + end + new string('␣', start.Length - end.Length);
    }

    /// <summary>What is done with it, each in a few words; nothing for what needs no saying.</summary>
    public static IEnumerable<string> Options(Piece p, TypeFields type)
    {
        if (p.DateForm is { } form)
            yield return DateForms.ExampleOf(form);
        if (p.Language is { } language && language != "en" && DateForms.HasName(p.DateForm ?? ""))
            yield return $"in {Cleaning.DateReading.Languages.FirstOrDefault(l => l.Code == language).Name}";
        if (p.Part > 0)
            yield return $"word {p.Part}";
        if (p.Extract == Extract.FirstLetter)
            yield return "first letter";
        if (p.Extract == Extract.Initials)
            yield return "initials";
        if (p.MaxLength is { } most)
            yield return $"first {most} characters";
        if (p.Digits is { } digits)
            yield return $"{digits} digits";
        if (p.Case != LetterCase.AsIs)
            yield return p.Case == LetterCase.Upper ? "UPPER CASE" : "lower case";
        if (p.Ascii)
            yield return "ASCII";
        if (p.Blanks is { } blank)
            yield return blank.Length == 0 ? "no blanks" : $"blanks as {blank}";
        if (p.ShortenTo is { } least)
            yield return $"shortened to {least} if need be";
        if (p.LeaveOut)
            yield return "left out if empty";
        else if (p.IfEmpty is { } instead)
            yield return $"else {instead}";
        if (p.Kind == PieceKind.Counter && p.Scope != CounterScope.Name)
            yield return p.Scope == CounterScope.Folder ? "over the folder" : "over all documents";
        if (p.OnlyWhenTaken)
            yield return "only when taken";
        if (p.OnlyWhenFilled is { } key)
            yield return $"only when {type.LabelOf(key)} is filled";
        if (p.OnlyForType is { } code)
            yield return $"only for {code}";
    }
}
