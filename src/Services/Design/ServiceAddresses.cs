using ClearLexicon.Storage;

namespace ClearLexicon.Services.Design;

/// <summary>
/// Addresses of services outside that an administrator has listed. A look-up goes only to an address that has the scheme, host and port of
/// one of them and lies at or below its path; paths of the application itself are always allowed.
/// </summary>
public sealed class ServiceAddresses(Database database, TimeProvider clock)
{
    private const string Key = "service-addresses";
    private const int Most = 50;

    /// <summary>The addresses, in the order they were written.</summary>
    public IReadOnlyList<string> All =>
        (database.Read(c => SettingStore.Find(c, Key)) ?? "").Split('\n', StringSplitOptions.RemoveEmptyEntries);

    /// <summary>Sets the addresses.</summary>
    /// <param name="lines">One a line.</param>
    /// <param name="who">The administrator.</param>
    public Result Set(string lines, string who)
    {
        var addresses = lines
            .Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.Ordinal)
            .ToList();
        if (addresses.Count > Most)
            return $"At most {Most} addresses are kept.";
        if (addresses.FirstOrDefault(a => Parse(a) is null) is { } bad)
            return $"“{bad}” is not the address of a service; write one such as https://register.example/lookup.";
        if ((database.Read(c => SettingStore.Find(c, Key)) ?? "") == string.Join('\n', addresses))
            return Result.Done;
        database.Write(c =>
        {
            SettingStore.Set(c, Key, string.Join('\n', addresses));
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "listed the services that may be asked",
                new LedgerSubject(SubjectKind.Settings),
                string.Join(", ", addresses)
            );
        });
        return Result.Done;
    }

    /// <summary>Why an address may not be asked, in one sentence; null when it may.</summary>
    public string? Error(string address)
    {
        if (address.StartsWith('/') && !address.StartsWith("//", StringComparison.Ordinal) && !address.Contains('\\'))
            return null;
        if (Parse(address) is not { } asked)
            return $"“{address}” is not an address; write one that begins with http:// or https://.";
        return All.Select(Parse).OfType<Uri>().Any(listed => Covers(listed, asked))
            ? null
            : $"An administrator has not listed {asked.Scheme}://{asked.Authority} among the services that may be asked (People and "
                + "settings).";
    }

    private static bool Covers(Uri listed, Uri asked) =>
        listed.Scheme == asked.Scheme
        && string.Equals(listed.Host, asked.Host, StringComparison.OrdinalIgnoreCase)
        && listed.Port == asked.Port
        && (
            asked.AbsolutePath == listed.AbsolutePath
            || asked.AbsolutePath.StartsWith(listed.AbsolutePath.TrimEnd('/') + "/", StringComparison.Ordinal)
        );

    private static Uri? Parse(string address) =>
        Uri.TryCreate(address.Trim(), UriKind.Absolute, out var uri)
        && uri.Scheme is "http" or "https"
        && uri.Host.Length > 0
        && uri.UserInfo.Length == 0
        && uri.Fragment.Length == 0
            ? uri
            : null;
}
