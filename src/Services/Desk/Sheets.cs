using System.Security.Cryptography;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Formats;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>Separator sheets and cover sheets: printed here, known again when they come back in a stack.</summary>
public sealed class Sheets(Database database, DataFolder folder, Designs designs, TimeProvider clock)
{
    private const string Letters = "abcdefghjkmnpqrstuvwxyz23456789";

    /// <summary>Prints separator sheets.</summary>
    public Result<byte[]> Separators(int count, string who) =>
        count is < 1 or > SheetPrint.MostRows
            ? Result<byte[]>.Not($"Print 1 to {SheetPrint.MostRows} sheets at once.")
            : Print(new SheetPrint(Token(), false, [.. Enumerable.Repeat(new Dictionary<string, string>(), count)], []), who);

    /// <summary>Prints cover sheets for a document type.</summary>
    /// <param name="typeCode">The type; empty to let a box say which.</param>
    /// <param name="rows">Texts by field key, one sheet a row.</param>
    /// <param name="boxes">Keys of term fields that get boxes.</param>
    /// <param name="who">Who prints.</param>
    public Result<byte[]> Covers(
        string typeCode,
        IReadOnlyList<IReadOnlyDictionary<string, string>> rows,
        IReadOnlyList<string> boxes,
        string who
    )
    {
        if (rows.Count is 0 or > SheetPrint.MostRows)
            return Result<byte[]>.Not($"Print 1 to {SheetPrint.MostRows} sheets at once.");
        if (typeCode.Length == 0)
        {
            var types = designs.Published.Values.Select(p => new SheetOption(p.Type.Type.Code, p.Type.Type.Name)).ToList();
            return rows.Any(r => r.Count > 0) ? Result<byte[]>.Not("Values can be printed when the document type is chosen.")
                : types.Count > SheetPrint.MostOptions
                    ? Result<byte[]>.Not($"There are more than {SheetPrint.MostOptions} document types; choose one.")
                : Print(new SheetPrint(Token(), true, rows, [new BoxGroup("", "Document type", types, Asked: true)]), who);
        }
        if (!designs.Published.TryGetValue(typeCode, out var published))
            return Result<byte[]>.Not($"There is no published document type “{typeCode}”.");
        var type = published.Type.Type;
        if (rows.SelectMany(r => r.Keys).FirstOrDefault(k => type.Find(k) is null) is { } unknown)
            return Result<byte[]>.Not($"{type.Name} has no field “{unknown}”.");
        if (rows.SelectMany(r => r.Values).FirstOrDefault(v => v.Length > 2_000) is not null)
            return Result<byte[]>.Not("A value is longer than 2,000 characters.");
        var groups = new List<BoxGroup>();
        foreach (var key in boxes)
        {
            if (type.Find(key) is not { Kind: { HasTerms: true, IsMultiple: false } } field || Terms(field) is not { } terms)
                return Result<byte[]>.Not($"“{key}” cannot have boxes: it is no term field with at most {SheetPrint.MostOptions} terms.");
            groups.Add(new BoxGroup(key, field.Label, terms, field.Required));
        }
        return Print(
            new SheetPrint(Token(), true, rows, groups)
            {
                TypeCode = typeCode,
                TypeName = type.Name,
                Version = published.Version,
                Labels = rows.SelectMany(r => r.Keys).Distinct().ToDictionary(k => k, type.LabelOf),
            },
            who
        );
    }

    /// <summary>Term fields of a type that may have boxes.</summary>
    public IReadOnlyList<Field> WithBoxes(string typeCode) =>
        designs.Published.TryGetValue(typeCode, out var published)
            ? [.. published.Type.Type.Fields.Where(f => f.Kind is { HasTerms: true, IsMultiple: false } && Terms(f) is not null)]
            : [];

    /// <summary>The sheet made here that a page is, by its code; null for any other page.</summary>
    internal static SheetCode? Recognise(SqliteConnection c, StackedPage page) =>
        Token(page.Text) is not { } token ? null
        : SheetStore.Find(c, token.Token) is not { } print
            ? new SheetCode("sheet", "it was printed by another installation, so what it says is not known here")
        : token.Row > print.Rows.Count ? new SheetCode(print.Name, $"there is no sheet {token.Row} of this print")
        : new SheetCode(print.Name, null);

    /// <summary>What a cover sheet says of the document behind it; null for a page that is none.</summary>
    internal SheetValues? Values(StoredPage page)
    {
        if (Token(page.Text) is not { } token || database.Read(c => SheetStore.Find(c, token.Token)) is not { IsCover: true } print)
            return null;
        if (token.Row > print.Rows.Count)
            return null;
        var (chosen, doubts) = SheetValue.Read(print, SheetBoxes.Measure(folder.Absolute(page.Image), print, token.Row));
        var all = doubts.ToList();
        var type = print.TypeCode ?? chosen.FirstOrDefault(k => k.Group.Field.Length == 0).Option?.Value;
        if (type is not null && !designs.Published.ContainsKey(type))
            all.Add("The cover sheet is for a document type that is no longer published.");
        else if (type is not null && print.Version is { } version && designs.Published[type].Version != version)
            all.Add(
                $"The cover sheet was printed for version {version} of {print.TypeName}; version {designs.Published[type].Version} is "
                    + "in force."
            );
        var values = print
            .Rows[token.Row - 1]
            .Select((v, i) => new CapturedValue(v.Key, v.Value, new Evidence(0, SheetLayout.Value(i), v.Value, SheetValue.Typed, 1)))
            .Concat(
                chosen
                    .Where(k => k.Group.Field.Length > 0)
                    .Select(k => new CapturedValue(
                        k.Group.Field,
                        k.Option.Value,
                        new Evidence(0, k.Box.Place, k.Option.Label, SheetValue.Box, Math.Min(1, k.Box.Ink / (2 * SheetValue.Filled)))
                    ))
            )
            .ToList();
        if (type is not null && designs.Published.TryGetValue(type, out var published))
            foreach (var gone in values.Where(v => published.Type.Type.Find(v.Field) is null))
                all.Add(
                    $"The cover sheet says “{gone.Text}” for “{gone.Field}”, which is no longer a field of {published.Type.Type.Name}."
                );
        return new SheetValues(type, values, all);
    }

    private static SheetToken? Token(PageText page) => page.Codes.Select(k => SheetToken.Read(k.Text)).FirstOrDefault(t => t is not null);

    // Current terms, when they are few enough to be printed.
    private IReadOnlyList<SheetOption>? Terms(Field field)
    {
        if (field.Vocabulary is not { } key || !designs.Vocabularies.TryGetValue(key, out var vocabulary))
            return null;
        var terms = vocabulary
            .Vocabulary.Terms.Where(t => t.Status == Core.Vocabularies.TermStatus.Current)
            .Take(SheetPrint.MostOptions + 1)
            .ToList();
        return terms.Count is 0 or > SheetPrint.MostOptions ? null : [.. terms.Select(t => new SheetOption(t.Label, t.Label))];
    }

    private Result<byte[]> Print(SheetPrint print, string who)
    {
        for (var row = 1; row <= print.Rows.Count; row++)
            if (SheetLayout.Of(print, row).Problem is { } problem)
                return Result<byte[]>.Not(problem);
        database.Write(c =>
        {
            SheetStore.Add(c, print, who, clock.GetUtcNow());
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                $"printed {print.Name}s",
                new LedgerSubject(SubjectKind.Sheets, print.Name),
                print.Token
            );
        });
        return SheetPdf.Write(print);
    }

    private static string Token() => RandomNumberGenerator.GetString(Letters, 8);
}
