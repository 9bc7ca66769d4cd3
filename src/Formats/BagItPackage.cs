using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace ClearLexicon.Formats;

/// <summary>
/// Makes a folder a bag as BagIt 1.0 (RFC 8493) says: what lies in its <c>data</c> folder is the payload, listed with SHA-256 and SHA-512;
/// the tag files are listed with theirs. Nothing has to be fetched.
/// </summary>
public static class BagItPackage
{
    private static readonly (string Name, HashAlgorithmName Of)[] Sums =
    [
        ("sha256", HashAlgorithmName.SHA256),
        ("sha512", HashAlgorithmName.SHA512),
    ];

    /// <summary>Writes the tag files and manifests.</summary>
    /// <param name="bag">The folder that holds <c>data</c>.</param>
    /// <param name="information">Lines of <c>bag-info.txt</c>.</param>
    /// <param name="cancel">Stops it.</param>
    public static void Close(string bag, IReadOnlyList<(string Name, string Value)> information, CancellationToken cancel)
    {
        var payload = Directory
            .EnumerateFiles(Path.Combine(bag, "data"), "*", SearchOption.AllDirectories)
            .Order(StringComparer.Ordinal)
            .ToList();
        var bytes = payload.Sum(f => new FileInfo(f).Length);
        Text(bag, "bagit.txt", "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n");
        Text(
            bag,
            "bag-info.txt",
            string.Concat(
                information
                    .Append(("Payload-Oxum", string.Create(CultureInfo.InvariantCulture, $"{bytes}.{payload.Count}")))
                    .Select(l => $"{l.Item1}: {OneLine(l.Item2)}\n")
            )
        );
        Manifests(bag, "manifest", payload, cancel);
        List<string> tags =
        [
            .. Directory.EnumerateFiles(bag).Where(f => !Path.GetFileName(f).StartsWith("tagmanifest", StringComparison.Ordinal)),
        ];
        Manifests(bag, "tagmanifest", [.. tags.Order(StringComparer.Ordinal)], cancel);
    }

    /// <summary>
    /// Looks whether a folder is a bag that is complete and sound: each file that its manifests name is there with the content that they
    /// say, nothing else is in its payload, and nothing leads out of it.
    /// </summary>
    /// <param name="bag">The folder.</param>
    /// <param name="read">Told the bytes of each file that was read.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>What is wrong, a sentence each, <see cref="MostProblems"/> at most; none when it is sound.</returns>
    public static IReadOnlyList<string> Problems(string bag, Action<long> read, CancellationToken cancel) =>
        [.. Wrong(bag, read, cancel).Take(MostProblems)];

    /// <summary>Most problems of one bag that are told.</summary>
    public const int MostProblems = 20;

    private static IEnumerable<string> Wrong(string bag, Action<long> read, CancellationToken cancel)
    {
        var declared = Path.Combine(bag, "bagit.txt");
        if (!File.Exists(declared) || new FileInfo(declared).Length > 1_000)
        {
            yield return "It is not a package: there is no bagit.txt in it.";
            yield break;
        }
        var lines = File.ReadAllLines(declared);
        if (!lines.Contains("BagIt-Version: 1.0") || !lines.Contains("Tag-File-Character-Encoding: UTF-8"))
            yield return "Its bagit.txt does not say BagIt 1.0 in UTF-8.";
        if (File.Exists(Path.Combine(bag, "fetch.txt")))
            yield return "Some of its files are to be fetched from elsewhere (fetch.txt); put them into it first.";
        foreach (
            var link in Directory
                .EnumerateFileSystemEntries(
                    bag,
                    "*",
                    new EnumerationOptions { RecurseSubdirectories = true, AttributesToSkip = FileAttributes.None }
                )
                .Where(e => new FileInfo(e).LinkTarget is not null)
        )
            yield return $"“{Path.GetRelativePath(bag, link)}” is a link that leads elsewhere.";
        var known = Sums.Where(sum => File.Exists(Path.Combine(bag, $"manifest-{sum.Name}.txt"))).ToList();
        if (known.Count == 0)
        {
            yield return "It has no manifest by SHA-256 or SHA-512.";
            yield break;
        }
        var payload = Path.Combine(bag, "data");
        var there = Directory.Exists(payload) ? Directory.EnumerateFiles(payload, "*", SearchOption.AllDirectories).LongCount() : 0;
        foreach (var sum in known)
        {
            var isSound = true;
            var names = new HashSet<UInt128>();
            foreach (var problem in Against(bag, $"manifest-{sum.Name}.txt", sum.Of, "data/", sum == known[0] ? read : null, names, cancel))
            {
                isSound = false;
                yield return problem;
            }
            if (there > names.Count)
                yield return $"{there - names.Count} of its files are not in manifest-{sum.Name}.txt.";
            var tags = $"tagmanifest-{sum.Name}.txt";
            if (File.Exists(Path.Combine(bag, tags)))
                foreach (var problem in Against(bag, tags, sum.Of, "", null, [], cancel))
                    yield return problem;
            // What is wrong by one sum is wrong by the other.
            if (!isSound || there > names.Count)
                yield break;
        }
    }

    // Each line of a manifest against the file that it names.
    private static IEnumerable<string> Against(
        string bag,
        string manifest,
        HashAlgorithmName algorithm,
        string below,
        Action<long>? read,
        HashSet<UInt128> names,
        CancellationToken cancel
    )
    {
        var number = 0;
        foreach (var line in File.ReadLines(Path.Combine(bag, manifest)))
        {
            cancel.ThrowIfCancellationRequested();
            number++;
            var at = line.IndexOfAny([' ', '\t']);
            var path = at < 0 ? "" : Unescaped(line[at..].TrimStart(' ', '\t', '*'));
            if (
                path.Length == 0
                || !path.StartsWith(below, StringComparison.Ordinal)
                || path.Contains('\0', StringComparison.Ordinal)
                || Path.IsPathRooted(path)
                || path.Split('/').Contains("..")
            )
            {
                yield return $"Line {number} of {manifest} names no file of it.";
                continue;
            }
            names.Add(System.IO.Hashing.XxHash128.HashToUInt128(Encoding.UTF8.GetBytes(path)));
            var file = Path.Combine(bag, path);
            if (!File.Exists(file))
                yield return $"“{path}” is named in {manifest} and is not there.";
            else if (!string.Equals(HashOf(file, algorithm), line[..at], StringComparison.OrdinalIgnoreCase))
                yield return $"“{path}” is not what {manifest} says: it was changed or damaged.";
            else
                read?.Invoke(new FileInfo(file).Length);
        }
    }

    private static string HashOf(string file, HashAlgorithmName algorithm)
    {
        using var content = File.OpenRead(file);
        return Convert.ToHexStringLower(CryptographicOperations.HashData(algorithm, content));
    }

    private static string Unescaped(string path) =>
        path.Replace("%0A", "\n", StringComparison.OrdinalIgnoreCase)
            .Replace("%0D", "\r", StringComparison.OrdinalIgnoreCase)
            .Replace("%25", "%", StringComparison.Ordinal);

    private static void Manifests(string bag, string name, List<string> files, CancellationToken cancel)
    {
        var lists = Sums.Select(_ => new StringBuilder()).ToArray();
        var buffer = new byte[1 << 16];
        foreach (var file in files)
        {
            cancel.ThrowIfCancellationRequested();
            // A path in a manifest has %, line feed and carriage return encoded.
            var path = Path.GetRelativePath(bag, file)
                .Replace('\\', '/')
                .Replace("%", "%25", StringComparison.Ordinal)
                .Replace("\n", "%0A", StringComparison.Ordinal)
                .Replace("\r", "%0D", StringComparison.Ordinal);
            // Read once for both sums.
            var sums = Sums.Select(sum => IncrementalHash.CreateHash(sum.Of)).ToArray();
            using (var content = File.OpenRead(file))
                for (int read; (read = content.Read(buffer)) > 0; )
                    foreach (var sum in sums)
                        sum.AppendData(buffer, 0, read);
            for (var i = 0; i < sums.Length; i++)
                using (sums[i])
                    lists[i].Append(Convert.ToHexStringLower(sums[i].GetHashAndReset())).Append("  ").Append(path).Append('\n');
        }
        for (var i = 0; i < Sums.Length; i++)
            Text(bag, $"{name}-{Sums[i].Name}.txt", lists[i].ToString());
    }

    private static string OneLine(string text) => text.Replace('\n', ' ').Replace('\r', ' ');

    private static void Text(string bag, string name, string text) =>
        File.WriteAllText(Path.Combine(bag, name), text, new UTF8Encoding(false));
}
