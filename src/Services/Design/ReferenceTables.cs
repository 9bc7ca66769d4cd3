using System.Text.Json;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Formats;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Design;

/// <summary>What a new import of a reference table would do.</summary>
/// <param name="Columns">Columns of the file.</param>
/// <param name="Added">Rows that come new.</param>
/// <param name="Changed">Rows whose cells differ, before and after.</param>
/// <param name="Gone">Rows that the file no longer has.</param>
/// <param name="Same">Number of rows that stay.</param>
public sealed record TableDifference(
    IReadOnlyList<string> Columns,
    IReadOnlyList<string[]> Added,
    IReadOnlyList<(string[] Before, string[] After)> Changed,
    IReadOnlyList<string[]> Gone,
    int Same
);

/// <summary>What a service answered to a look-up.</summary>
/// <param name="Rows">Rows found by column name; empty when there is none.</param>
/// <param name="Problem">Why it could not be looked up, as the end of a sentence; null when it could.</param>
public sealed record LookUp(IReadOnlyList<Dictionary<string, string>> Rows, string? Problem);

/// <summary>Reference tables: import by difference, and look-ups in services that are never waited for longer than two seconds.</summary>
public sealed class ReferenceTables(
    Database database,
    Designs designs,
    DataFolder folder,
    IFileReader files,
    ServiceAddresses services,
    IHttpClientFactory http,
    TimeProvider clock
)
{
    private readonly HeldPlans<TableDifference> _held = new();

    /// <summary>Longest wait for a service.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    /// <summary>Most bytes of an answer.</summary>
    public const int MostBytes = 1_000_000;

    /// <summary>Name of the client that follows no redirects.</summary>
    public const string Client = "reference services";

    private const int MostRows = 1_000;

    /// <summary>Where the application itself listens; addresses that begin with a slash are asked there.</summary>
    public Func<string?> OwnAddress { get; set; } = static () => null;

    /// <summary>Reads a file and says what it would change in a table; nothing is changed.</summary>
    public async Task<Result<TableDifference>> CompareAsync(string key, BroughtFile file)
    {
        var upload = Path.Combine(folder.Drafts, $"{Guid.NewGuid():N}{Path.GetExtension(file.Name).ToLowerInvariant()}");
        await using (var from = file.Open())
        await using (var to = File.Create(upload))
            await from.CopyToAsync(to);
        try
        {
            var (columns, rows, problem) = await files.TableAsync(upload, file.Name, default);
            if (columns is null)
                return Result<TableDifference>.Not(problem!);
            var known = designs.Tables.GetValueOrDefault(key);
            if (known is not null && !known.Columns.SequenceEqual(columns, StringComparer.OrdinalIgnoreCase))
                return Result<TableDifference>.Not(
                    $"The table has the columns {string.Join(", ", known.Columns)}; “{file.Name}” has {string.Join(", ", columns)}."
                );
            var before = (known?.Rows ?? []).ToDictionary(r => r[0], StringComparer.Ordinal);
            var added = new List<string[]>();
            var changed = new List<(string[], string[])>();
            var same = 0;
            foreach (var row in rows)
                if (!before.Remove(row[0], out var was))
                    added.Add(row);
                else if (was.SequenceEqual(row))
                    same++;
                else
                    changed.Add((was, row));
            return new TableDifference(columns, added, changed, [.. before.Values], same);
        }
        finally
        {
            File.Delete(upload);
        }
    }

    /// <summary>Holds what was read until its plan is applied.</summary>
    public string Hold(TableDifference read) => _held.Hold(read);

    /// <summary>Takes what is held under a ticket; null when it is not held any more.</summary>
    public TableDifference? Take(string ticket) => _held.Take(ticket);

    /// <summary>Makes a table, or brings a difference into it, as a whole.</summary>
    public Result<string> Bring(string name, TableDifference difference, string who)
    {
        var key = ShortName.From(name.Trim());
        if (key.Length == 0)
            return Result<string>.Not("Write a name with letters.");
        database.Write(c =>
        {
            ReferenceStore.Put(
                c,
                new ReferenceTable(key, name.Trim(), difference.Columns, []) { Address = designs.Tables.GetValueOrDefault(key)?.Address },
                clock.GetUtcNow()
            );
            ReferenceStore.RemoveRows(c, key, difference.Gone.Select(r => r[0]));
            ReferenceStore.PutRows(c, key, difference.Changed.Select(r => r.After).Concat(difference.Added));
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "imported a reference table",
                new LedgerSubject(SubjectKind.Table, key),
                $"{difference.Added.Count} new, {difference.Changed.Count} changed, {difference.Gone.Count} gone"
            );
        });
        return key;
    }

    /// <summary>Sets the service that answers look-ups; empty for the rows themselves.</summary>
    public Result SetAddress(string key, string address, string who)
    {
        address = address.Trim();
        if (designs.Tables.GetValueOrDefault(key) is not { } table)
            return $"There is no reference table “{key}”.";
        if (address == (table.Address ?? ""))
            return Result.Done;
        if (address.Length > 0 && services.Error(address) is { } error)
            return error;
        database.Write(c =>
        {
            ReferenceStore.Put(
                c,
                new ReferenceTable(table.Key, table.Name, table.Columns, []) { Address = address.Length == 0 ? null : address },
                clock.GetUtcNow()
            );
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                address.Length == 0 ? "look-ups take the rows" : "look-ups ask a service",
                new LedgerSubject(SubjectKind.Table, key),
                address
            );
        });
        return Result.Done;
    }

    /// <summary>Asks a table's service for the rows whose columns have the given values.</summary>
    public async Task<LookUp> AskAsync(ReferenceTable table, IReadOnlyDictionary<string, string> values, CancellationToken cancel = default)
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        patience.CancelAfter(Patience);
        // Asked again at each look-up: a design may have come in with an address, and the list may have changed.
        if (services.Error(table.Address!) is not null)
            return new LookUp([], "its service is not among those that may be asked");
        try
        {
            var address = table.Address![0] == '/' ? OwnAddress()?.TrimEnd('/') + table.Address : table.Address;
            var query = string.Join('&', values.Select(v => $"{Uri.EscapeDataString(v.Key)}={Uri.EscapeDataString(v.Value)}"));
            using var client = http.CreateClient(Client);
            using var answer = await client.GetAsync(
                address + (address!.Contains('?') ? "&" : "?") + query,
                HttpCompletionOption.ResponseHeadersRead,
                patience.Token
            );
            if ((int)answer.StatusCode is >= 300 and < 400)
                return new LookUp([], "the service sends elsewhere, which is not followed");
            answer.EnsureSuccessStatusCode();
            var body = await ReadAsync(answer.Content, patience.Token);
            if (body is null)
                return new LookUp([], $"the service answered more than {MostBytes / 1_000_000} MB");
            var rows = JsonSerializer.Deserialize<List<Dictionary<string, string?>?>>(body);
            return new LookUp(
                [
                    .. (rows ?? [])
                        .OfType<Dictionary<string, string?>>()
                        .Take(MostRows)
                        .Select(r => r.ToDictionary(cell => cell.Key, cell => cell.Value ?? "")),
                ],
                null
            );
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return new LookUp([], $"it took longer than {Patience.TotalSeconds:0} seconds");
        }
        catch (HttpRequestException e)
        {
            return new LookUp([], e.StatusCode is { } status ? $"the service answered {(int)status}" : "the service cannot be reached");
        }
        catch (Exception e)
            when (e is JsonException or InvalidOperationException or UriFormatException or IOException or NotSupportedException)
        {
            return new LookUp([], "the service answered something that is not a list of rows");
        }
    }

    // An answer is read up to its bound, whatever length it claims; null when there is more.
    private static async Task<byte[]?> ReadAsync(HttpContent content, CancellationToken cancel)
    {
        await using var stream = await content.ReadAsStreamAsync(cancel);
        var buffer = new byte[MostBytes + 1];
        var read = await stream.ReadAtLeastAsync(buffer, buffer.Length, throwOnEndOfStream: false, cancel);
        return read > MostBytes ? null : buffer[..read];
    }
}
