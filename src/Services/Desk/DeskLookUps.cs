using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Desk;

/// <summary>A row of a reference table that could be meant.</summary>
/// <param name="Key">Its first cell, by which it is taken.</param>
/// <param name="Cell">What it holds for the field.</param>
/// <param name="Apart">What tells it from the others: column and cell, two at most.</param>
public sealed record RowHit(string Key, string Cell, IReadOnlyList<(string Column, string Cell)> Apart);

/// <summary>Rows that what is typed into a field could mean.</summary>
/// <param name="Table">The reference table.</param>
/// <param name="Rows">Its rows.</param>
/// <param name="Fills">Labels of the other fields that a row fills.</param>
public sealed record RowHits(ReferenceTable Table, IReadOnlyList<RowHit> Rows, IReadOnlyList<string> Fills);

/// <summary>A filed document beside one on the desk.</summary>
/// <param name="Document">The filed one.</param>
/// <param name="Type">Its type.</param>
public sealed record FiledBeside(StoredDocument Document, DocumentType Type);

/// <summary>
/// Looks values up from a field of the desk: in rows of reference tables while somebody types, and among filed documents with the same
/// value.
/// </summary>
public sealed class DeskLookUps(Database database, Designs designs, ReferenceTables tables, DeskDocuments desk)
{
    /// <summary>Most rows, and most filed documents, that are offered.</summary>
    public const int Most = 8;

    /// <summary>Rows that a text typed into a field could mean; null when no table fills or decides that field.</summary>
    public RowHits? Rows(long id, string field, string text, string who)
    {
        if (Of(id, who) is not { } type || TableOf(type, field) is not { } found)
            return null;
        var (table, columns) = found;
        var rows = table.Search.Find(text, Most);
        var own = columns.FirstOrDefault(c => c.Value == field).Key is { } column ? table.ColumnOf(column) : 0;
        var apart = RowSearch.TellingApart(rows, own);
        return new RowHits(
            table,
            [.. rows.Select(r => new RowHit(r[0], r[own], [.. apart.Select(a => (table.Columns[a], r[a]))]))],
            [.. columns.Values.Where(f => f != field).Select(f => type.LabelOf(f))]
        );
    }

    /// <summary>
    /// Takes a row: its cell for this field, and for each other field that the table decides or fills, unless somebody has set that one.
    /// </summary>
    public Result TakeRow(long id, string field, string rowKey, string who)
    {
        if (Of(id, who) is not { } type || TableOf(type, field) is not { } found)
            return "This document is no longer on the desk, or no table fills this field.";
        var (table, columns) = found;
        if (table.Rows.FirstOrDefault(r => r[0] == rowKey) is not { } row)
            return $"{table.Name} no longer has that row.";
        var values = database.Read(c =>
            columns
                .Where(k => k.Value == field || !ValueHistoryStore.IsTouched(c, id, k.Value))
                .Select(k => (Field: k.Value, Text: row[table.ColumnOf(k.Key)]))
                .Where(v => v.Text.Length > 0)
                .ToDictionary(v => v.Field, v => v.Text, StringComparer.Ordinal)
        );
        return values.Count == 0 ? $"The row holds nothing for {type.LabelOf(field)}." : desk.SetValues(id, values, who);
    }

    /// <summary>
    /// Filed documents with the same value in a field of that key: those of the document's type first, then those of others. Restricted
    /// fields are asked only for those who may see them.
    /// </summary>
    public List<FiledBeside> Same(long id, string field, string text, string who, Rights rights)
    {
        if (Of(id, who) is not { } type || type.Find(field) is not { Kind.HasRows: false } asked || text.Trim().Length == 0)
            return [];
        var found = new List<FiledBeside>();
        foreach (var other in designs.Published.Values.Select(p => p.Type.Type).OrderByDescending(t => t.Code == type.Code))
        {
            if (other.IsGroup || other.Find(field) is not { } there || there.Kind != asked.Kind || !rights.Sees(there))
                continue;
            var query = new RepositoryQuery
            {
                TypeCode = other.Code,
                Conditions = [new FieldCondition(field, there.Kind, Look.Is, text.Trim())],
                IncludeRestricted = rights.SeesRestricted,
            };
            found.AddRange(
                database
                    .Read(c => RepositorySearch.Find(c, query, Most - found.Count).Documents)
                    .Where(rights.Sees)
                    .Select(d => new FiledBeside(d, other))
            );
            if (found.Count >= Most)
                break;
        }
        return found;
    }

    /// <summary>A filed document to stand beside one on the desk; null when there is none, or it is not to be seen.</summary>
    public FiledBeside? Beside(long other, Rights rights) =>
        database.Read(c => DocumentStore.Find(c, other)) is { Filed: true, TypeCode: { } code } document
        && rights.Sees(document)
        && designs.Published.TryGetValue(code, out var published)
            ? new FiledBeside(document, published.Type.Type)
            : null;

    /// <summary>Takes values of a filed document over into fields of the same key that hold nothing.</summary>
    /// <returns>How many were taken over.</returns>
    public Result<int> Fetch(long id, long other, string who, Rights rights)
    {
        if (Of(id, who) is not { } type || desk.Find(id, who) is not { } here || Beside(other, rights) is not { } there)
            return Result<int>.Not("One of the two documents no longer exists.");
        var values = type
            .Fields.Where(
                (f, i) => here.Judged!.Values[i].IsEmpty && there.Type.Find(f.Key) is { } same && same.Kind == f.Kind && rights.Sees(same)
            )
            // What no two documents share is not taken over.
            .Where(f => !here.Published!.Type.IsUnique(f.Key))
            .Select(f => (f.Key, Text: there.Document.Record.GetValueOrDefault(f.Key, "")))
            .Where(v => v.Text.Length > 0)
            .ToDictionary(v => v.Key, v => v.Text, StringComparer.Ordinal);
        if (values.Count == 0)
            return Result<int>.Not("It holds nothing for a field that is empty here.");
        var set = desk.SetValues(id, values, who);
        return set.Ok ? values.Count : Result<int>.Not(set.Problem!);
    }

    // Asked at each keystroke, so that nothing is judged for it.
    private DocumentType? Of(long id, string who) =>
        database.Read(c => DeskDocuments.Find(c, id, who)) is { Filed: false, TypeCode: { } code }
        && designs.Published.TryGetValue(code, out var published)
            ? published.Type.Type
            : null;

    // The table whose rows decide or fill a field, with the fields by its columns.
    private (ReferenceTable Table, Dictionary<string, string> Columns)? TableOf(DocumentType type, string field)
    {
        foreach (var filling in type.Fillings)
        {
            var columns = filling.Keys.Concat(filling.Targets).GroupBy(k => k.Key).ToDictionary(g => g.Key, g => g.First().Value);
            if (columns.ContainsValue(field) && designs.Tables.GetValueOrDefault(filling.Table) is { Address: null } table)
                return (table, columns.Where(k => table.ColumnOf(k.Key) >= 0 && type.Find(k.Value) is not null).ToDictionary());
        }
        return null;
    }

    /// <summary>Asks the services that fill fields of a document; what they know is set where nothing stands.</summary>
    /// <param name="id">The document.</param>
    /// <param name="who">Who asks.</param>
    /// <param name="language">Language of what is said.</param>
    /// <param name="cancel">Stops asking.</param>
    /// <returns>Whether anything was set, and what they said besides or could not tell; null when the document is not there.</returns>
    public async Task<(bool Filled, List<string> Said)?> AskAsync(long id, string who, string language, CancellationToken cancel)
    {
        if (desk.Find(id, who) is not { Judged: { } judged, Published: { } published })
            return null;
        var (filled, said, type) = (false, new List<string>(), published.Type.Type);
        string Value(string field) =>
            published.Type.OrdinalOf(field) is >= 0 and var at && judged.Values[at].IsGood ? judged.Values[at].Text : "";
        foreach (var filling in type.Fillings)
        {
            if (designs.Tables.GetValueOrDefault(filling.Table) is not { Address: not null } table)
                continue;
            var keys = filling.Keys.ToDictionary(k => k.Key, k => Value(k.Value));
            if (keys.Values.Any(v => v.Length == 0))
                continue;
            var answer = await tables.AskAsync(table, keys, cancel);
            if (answer.Problem is { } problem)
                said.Add(
                    new Problem(new NotLookedUp(type.LabelsOf(filling.Keys.Values), table.Name, problem), Level.Should, null).In(language)
                );
            else if (answer.Rows.Count == 0)
                said.Add($"{table.Name} has no row for {string.Join(", ", keys.Values)}.");
            else
                foreach (var (column, field) in filling.Targets)
                {
                    var values = answer.Rows.Select(r => r.GetValueOrDefault(column, "")).Where(v => v.Length > 0).Distinct().ToList();
                    var now = Value(field);
                    var free = filling.Always || now.Length == 0;
                    if (values is [var only])
                    {
                        if (only != now && free)
                            filled |= desk.SetValue(id, field, only, null, who).Ok;
                        else if (only != now)
                            said.Add($"{type.LabelOf(field)}: {table.Name} says {only}.");
                    }
                    else if (values.Count > 1 && free)
                        said.Add($"{type.LabelOf(field)}: {table.Name} says {string.Join(" or ", values)}.");
                }
        }
        return (filled, said);
    }
}
