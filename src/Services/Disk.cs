using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace ClearLexicon.Services;

/// <summary>
/// What filing asks of the disk. A file and the folder that names it are flushed before a record says that they are there, so that a power
/// cut leaves both or neither. Tests put a disk in place that fills, or that notes the order.
/// </summary>
public partial class Disk
{
    /// <summary>Moves a file where none stands, making the folders it needs.</summary>
    public virtual void Move(string from, string to)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        File.Move(from, to, overwrite: false);
    }

    /// <summary>Copies a file where none stands.</summary>
    public virtual void Copy(string from, string to) => File.Copy(from, to, overwrite: false);

    /// <summary>Bytes that a folder's disk still takes.</summary>
    public virtual long Free(string folder) => new DriveInfo(folder).AvailableFreeSpace;

    /// <summary>Waits until the content of a file is on disk.</summary>
    public virtual void FlushFile(string path)
    {
        using var handle = File.OpenHandle(path, FileMode.Open, FileAccess.ReadWrite);
        RandomAccess.FlushToDisk(handle);
    }

    /// <summary>Waits until the names in a folder, and in those above it up to a root, are on disk.</summary>
    public virtual void FlushFolders(string folder, string root)
    {
        for (var at = folder; at is not null && at.Length >= root.Length; at = Path.GetDirectoryName(at))
            FlushFolder(at);
    }

    // .NET opens no folders; where the system knows no such call, its names are written with the files.
    private static void FlushFolder(string folder)
    {
        if (!OperatingSystem.IsLinux() && !OperatingSystem.IsMacOS())
            return;
        using var handle = Open(folder, 0);
        if (!handle.IsInvalid)
            _ = Flush(handle);
    }

    [LibraryImport("libc", EntryPoint = "open", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    private static partial SafeFileHandle Open(string path, int flags);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    private static partial int Flush(SafeFileHandle handle);
}
