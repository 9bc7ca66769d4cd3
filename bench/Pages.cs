using System.Diagnostics;
using ClearLexicon.Demo;
using ClearLexicon.Formats;

namespace ClearLexicon.Bench;

/// <summary>
/// Pages a minute: a scanned stack read by two workers, against bare Tesseract over the same pictures, two at once.
/// </summary>
internal static class Pages
{
    public static async Task RunAsync(int count)
    {
        var folder = Directory.CreateTempSubdirectory("pages").FullName;
        var leaves = Leaves(count).Select((leaf, i) => leaf with { Skew = i % 5 - 2 }).ToList();
        var stack = Path.Combine(folder, "stack.pdf");
        StackDrawing.Pdf(stack, leaves, 200, 1);
        var (bare, given, together, ours) = (new List<double>(), new List<double>(), new List<double>(), new List<double>());
        // In turns, so that what the machine does besides meets both.
        for (var round = 0; round < 2; round++)
        {
            var output = Path.Combine(folder, $"out{round}");
            ours.Add(await Timed(() => ReadAsync(stack, count, output)));
            // Upright, as they came; and cleaned and enlarged, as ours are when they are recognised.
            var pictures = Directory.GetFiles(output, "*.png");
            bare.Add(await Timed(() => RecogniseAsync(pictures)));
            foreach (var picture in pictures)
                using (var page = SkiaSharp.SKBitmap.Decode(picture))
                    PageCleaning.Clean(page, picture + ".bmp");
            string[] cleaned = [.. pictures.Select(p => p + ".bmp")];
            given.Add(await Timed(() => RecogniseAsync(cleaned)));
            // By as few runs as ours are.
            var lists = cleaned.Chunk(8).Select((chunk, i) => (Name: Path.Combine(output, $"{i}.list"), chunk)).ToList();
            lists.ForEach(l => File.WriteAllLines(l.Name, l.chunk));
            together.Add(await Timed(() => RecogniseAsync(lists.Select(l => l.Name))));
        }
        Console.WriteLine(
            $"{count} scanned pages: {count * 60 / ours.Min():0} a minute; bare Tesseract {count * 60 / bare.Min():0}; "
                + $"{ours.Min() / bare.Min() - 1:P0} besides it; over the pictures that it is given, cleaned and enlarged, "
                + $"{count * 60 / given.Min():0}: {ours.Min() / given.Min() - 1:P0} besides it; over these eight at a time "
                + $"{count * 60 / together.Min():0}: {ours.Min() / together.Min() - 1:P0} besides it"
        );
        Directory.Delete(folder, recursive: true);
    }

    private static List<Leaf> Leaves(int count)
    {
        var pages = HarbourDocuments.AlreadyFiled();
        return [.. Enumerable.Range(0, count).Select(i => HarbourStacks.Document(pages[i % pages.Count], 1, i).First())];
    }

    /// <summary>A text PDF: pages a second. As many pages as a worker reads before it is replaced show little of its start.</summary>
    public static async Task TextAsync(int count)
    {
        var folder = Directory.CreateTempSubdirectory("pages").FullName;
        var text = Path.Combine(folder, "text.pdf");
        using (var file = File.Create(text))
        using (var document = SkiaSharp.SKDocument.CreatePdf(file))
        {
            foreach (var leaf in Leaves(count))
            {
                using (var canvas = document.BeginPage(595, 842))
                    leaf.Draw(canvas);
                document.EndPage();
            }
            document.Close();
        }
        var seconds = await Timed(() => ReadAsync(text, count, Path.Combine(folder, "text")));
        Console.WriteLine($"{count} text pages: {count / seconds:0.0} a second");
        Directory.Delete(folder, recursive: true);
    }

    private static Task RecogniseAsync(IEnumerable<string> pictures) =>
        Parallel.ForEachAsync(
            pictures,
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (picture, cancel) =>
                await ExternalProgram.RunAsync(
                    "tesseract",
                    [picture, "stdout", "--dpi", "300", "--psm", "11", "-l", "deu+eng+fra", "tsv"],
                    TimeSpan.FromMinutes(1),
                    cancel
                )
        );

    // As the program does: by worker processes, eight pages a task.
    private static async Task ReadAsync(string stack, int count, string output)
    {
        Directory.CreateDirectory(output);
        using var reader = new WorkerReader(
            new WorkerStart(Environment.ProcessPath!, [typeof(Pages).Assembly.Location, FileWorker.Switch], output)
        );
        await Parallel.ForEachAsync(
            Enumerable.Range(0, (count + 7) / 8),
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (chunk, cancel) =>
            {
                var pages = new WantedPages(chunk * 8 + 1, Math.Min(8, count - chunk * 8));
                await reader.PagesAsync(stack, Path.GetFileName(stack), FileKind.Pdf, pages, output, cancel);
            }
        );
    }

    private static async Task<double> Timed(Func<Task> work)
    {
        var began = Stopwatch.GetTimestamp();
        await work();
        return Stopwatch.GetElapsedTime(began).TotalSeconds;
    }
}
