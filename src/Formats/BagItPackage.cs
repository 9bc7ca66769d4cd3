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
