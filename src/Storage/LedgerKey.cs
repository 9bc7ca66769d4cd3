using System.Security.Cryptography;
using System.Text;

namespace ClearLexicon.Storage;

/// <summary>
/// The key that signs the ledger's head: 32 random bytes in <c>keys/ledger.key</c> beside the database, made when there is none. Who can
/// change the database but not read that folder cannot cut the ledger unseen.
/// </summary>
internal sealed class LedgerKey
{
    private readonly byte[] _key;

    private LedgerKey(byte[] key) => _key = key;

    /// <summary>The key that belongs to a database file.</summary>
    public static LedgerKey Beside(string database)
    {
        var file = Path.Combine(Path.GetDirectoryName(Path.GetFullPath(database))!, "keys", "ledger.key");
        if (File.Exists(file) && new FileInfo(file).Length == 32)
            return new LedgerKey(File.ReadAllBytes(file));
        Directory.CreateDirectory(Path.GetDirectoryName(file)!);
        var key = RandomNumberGenerator.GetBytes(32);
        File.WriteAllBytes(file, key);
        if (!OperatingSystem.IsWindows())
            File.SetUnixFileMode(file, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        return new LedgerKey(key);
    }

    /// <summary>HMAC-SHA-256 of a text, in lower-case hexadecimal.</summary>
    public string Sign(string text) => Convert.ToHexStringLower(HMACSHA256.HashData(_key, Encoding.UTF8.GetBytes(text)));
}
