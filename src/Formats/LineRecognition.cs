using System.Collections.Concurrent;
using System.Security.Cryptography;
using OpenCvSharp;

namespace ClearLexicon.Formats;

/// <summary>
/// Recognises single lines cut out of pages, each at several sizes: what recognition reads at one size only was luck. What a picture said
/// is remembered, so that trying a reader on its samples again costs nothing.
/// </summary>
internal static class LineRecognition
{
    private const int Margin = 12;
    private const int Remembered = 20_000;
    private static readonly double[] Sizes = [1, 1.3, 1.9];

    /// <summary>Raw line first, which leaves the picture as it is; then a line that is looked for in it.</summary>
    private static readonly string[] Ways = ["13", "7"];

    private const string Between = "\u0001";
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(60);
    private static readonly ConcurrentDictionary<string, IReadOnlyList<string>> Known = new(StringComparer.Ordinal);

    /// <summary>For each picture what it may say; several times the same when several sizes agree.</summary>
    public static IReadOnlyList<IReadOnlyList<string>> Read(IReadOnlyList<(Mat Picture, string Characters)> lines)
    {
        var keys = lines.Select(l => Key(l.Picture) + l.Characters).ToList();
        var unknown = Enumerable.Range(0, lines.Count).Where(i => !Known.ContainsKey(keys[i])).DistinctBy(i => keys[i]).ToList();
        if (unknown.Count > 0 && TextRecognition.Available)
        {
            if (Known.Count > Remembered)
                Known.Clear();
            foreach (var alike in unknown.GroupBy(i => lines[i].Characters))
            foreach (var (i, said) in Recognise([.. alike.Select(i => (i, lines[i].Picture))], alike.Key))
                Known[keys[i]] = said;
        }
        return [.. keys.Select(k => Known.GetValueOrDefault(k, []))];
    }

    private static Dictionary<int, IReadOnlyList<string>> Recognise(IReadOnlyList<(int At, Mat Line)> lines, string characters)
    {
        var folder = Directory.CreateTempSubdirectory("lines").FullName;
        try
        {
            var files = new List<string>();
            foreach (var (at, line) in lines)
            foreach (var size in Sizes)
            {
                using var framed = new Mat();
                Cv2.CopyMakeBorder(line, framed, Margin, Margin, Margin, Margin, BorderTypes.Constant, new Scalar(Pictures.Paper(line)));
                using var sized = new Mat();
                Cv2.Resize(framed, sized, new Size(), size, size, InterpolationFlags.Cubic);
                var file = Path.Combine(folder, $"{files.Count}.bmp");
                Pictures.SaveForReading(sized, file);
                files.Add(file);
            }
            var list = Path.Combine(folder, "list.txt");
            File.WriteAllLines(list, files);
            var said = lines.ToDictionary(l => l.At, _ => new List<string>());
            foreach (
                var (way, only) in characters.Length == 0 ? Ways.Select(w => (w, "")) : Ways.Select(w => (w, "")).Append(("7", characters))
            )
            {
                var run = ExternalProgram
                    .RunAsync(
                        "tesseract",
                        [
                            list,
                            "stdout",
                            "--dpi",
                            "300",
                            "--psm",
                            way,
                            "-l",
                            TextRecognition.Usual,
                            "-c",
                            $"page_separator={Between}",
                            "-c",
                            $"tessedit_char_whitelist={only}",
                        ],
                        Limit,
                        CancellationToken.None
                    )
                    .GetAwaiter()
                    .GetResult();
                if (run.ExitCode != 0)
                    continue;
                var texts = run.Output.Split(Between);
                for (var i = 0; i < files.Count && i < texts.Length; i++)
                    if (texts[i].ReplaceLineEndings(" ").Trim() is { Length: > 0 } text)
                        said[lines[i / Sizes.Length].At].Add(text);
            }
            return said.ToDictionary(s => s.Key, s => (IReadOnlyList<string>)s.Value);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    private static string Key(Mat line)
    {
        line.GetArray(out byte[] pixels);
        return $"{line.Width}×{line.Height} {Convert.ToHexString(SHA256.HashData(pixels))}";
    }
}
