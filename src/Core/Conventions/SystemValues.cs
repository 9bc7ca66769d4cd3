using System.Globalization;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Conventions;

/// <summary>The system values by name and what surrounds a document gives for them.</summary>
public static class SystemValues
{
    /// <summary>All with the names they have in the composer.</summary>
    public static IReadOnlyList<(SystemValue Value, string Name)> All { get; } =
    [
        (SystemValue.Today, "today"),
        (SystemValue.Person, "person"),
        (SystemValue.Batch, "batch"),
        (SystemValue.NumberInBatch, "number in batch"),
        (SystemValue.Pages, "page count"),
        (SystemValue.OriginalName, "original name"),
        (SystemValue.OriginalExtension, "original extension"),
        (SystemValue.OriginalFolder, "original folder"),
    ];

    /// <summary>Name of a system value.</summary>
    public static string NameOf(SystemValue value) => All.First(v => v.Value == value).Name;

    /// <summary>Text of a system value; empty when nothing is known.</summary>
    public static string Text(SystemValue value, CheckContext now) =>
        value switch
        {
            SystemValue.Today => now.Today.ToString(DateForms.Iso, CultureInfo.InvariantCulture),
            SystemValue.Person => now.Person,
            SystemValue.Batch => now.Batch,
            SystemValue.NumberInBatch => Number(now.NumberInBatch),
            SystemValue.Pages => Number(now.Pages),
            SystemValue.OriginalName => Stem(now.Original),
            SystemValue.OriginalExtension => Extension(now.Original),
            _ => Folder(now.Original),
        };

    private static string Number(int number) => number > 0 ? number.ToString(CultureInfo.InvariantCulture) : "";

    private static ReadOnlySpan<char> FileName(string path) => path.AsSpan(path.AsSpan().LastIndexOfAny('/', '\\') + 1);

    private static string Stem(string path)
    {
        var name = FileName(path);
        var dot = name.LastIndexOf('.');
        return (dot > 0 ? name[..dot] : name).ToString();
    }

    private static string Extension(string path)
    {
        var name = FileName(path);
        var dot = name.LastIndexOf('.');
        return dot > 0 ? name[(dot + 1)..].ToString() : "";
    }

    private static string Folder(string path)
    {
        var slash = path.AsSpan().LastIndexOfAny('/', '\\');
        return slash <= 0 ? "" : FileName(path[..slash]).ToString();
    }
}
