using System.Collections.Concurrent;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.TestSupport;
using SkiaSharp;
using Pages = System.Collections.Generic.IReadOnlyList<(int Number, ClearLexicon.Core.Reading.PageText Text, string ImagePath)>;

namespace ClearLexicon.Services.Tests;

/// <summary>
/// Documents of the designs as they come, clean, scanned, faxed and photographed; each is read once in a run, because recognising it takes
/// longer than what is tested of it.
/// </summary>
internal static class ReadDesigns
{
    private static readonly string Root = RunFolder.Made("designs");
    private static readonly ConcurrentDictionary<(string, int, int), Lazy<Task<Pages>>> Known = new();

    private static readonly Func<SKBitmap, int, SKBitmap>[] Ways =
    [
        static (page, _) => page.Copy(),
        static (page, _) => Faxed(page),
        Photographed,
    ];

    /// <summary>Pages of a document as they are read.</summary>
    /// <param name="design">Its design.</param>
    /// <param name="way">How it comes: -1 as a clean PDF, 0 scanned, 1 faxed, 2 photographed.</param>
    /// <param name="number">Which one.</param>
    public static Task<Pages> PagesAsync((Reader Reader, Func<int, FreeDocument> Make) design, int way, int number) =>
        Known
            .GetOrAdd((design.Reader.Key, way, number), _ => new Lazy<Task<Pages>>(() => ReadAsync(design.Make(number), way, number)))
            .Value;

    private static async Task<Pages> ReadAsync(FreeDocument document, int scan, int number)
    {
        var folder = Path.Combine(Root, Guid.NewGuid().ToString("N"));
        Directory.CreateDirectory(folder);
        var read = new List<(int, PageText, string)>();
        if (scan < 0)
        {
            var pdf = Path.Combine(folder, "document.pdf");
            HarbourFreeForms.Pdf(pdf, document);
            foreach (var page in await PageReading.ReadAsync(pdf, FileKind.Pdf, document.Pages.Count, folder, CancellationToken.None))
                read.Add((page.Number, page.Text, page.ImagePath));
            return read;
        }
        for (var i = 0; i < document.Pages.Count; i++)
        {
            var leaf = new Leaf(document.Pages[i], false, false) { Skew = ((number + i) * 7 % 9 - 4) * 0.4f };
            using var drawn = StackDrawing.Picture(leaf, 200, new Random(number * 31 + i));
            using var worn = Ways[scan](drawn, number);
            var path = Path.Combine(folder, $"page{i}.jpg");
            using (var file = File.Create(path))
                worn.Encode(SKEncodedImageFormat.Jpeg, 80).SaveTo(file);
            var page = (await PageReading.ReadAsync(path, FileKind.Image, 1, Path.Combine(folder, $"{i + 1}"), CancellationToken.None))[0];
            read.Add((i + 1, page.Text, page.ImagePath));
        }
        return read;
    }

    private static SKBitmap Faxed(SKBitmap page)
    {
        var fax = page.Copy();
        var pixels = System.Runtime.InteropServices.MemoryMarshal.Cast<byte, uint>(fax.GetPixelSpan());
        var random = new Random(pixels.Length);
        for (var i = 0; i < pixels.Length; i++)
            pixels[i] = (pixels[i] & 0xFF) > 140 ^ random.Next(2500) == 0 ? 0xFFFFFFFF : 0xFF000000;
        return fax;
    }

    // A sheet on a table under one lamp, held not quite level.
    private static SKBitmap Photographed(SKBitmap page, int number)
    {
        var random = new Random(number);
        float Off() => (float)(random.NextDouble() * 2 - 1);
        var photo = new SKBitmap(page.Info);
        using var canvas = new SKCanvas(photo);
        canvas.Clear(new SKColor(0xD8, 0xD6, 0xD0));
        canvas.Translate(page.Width / 2f, page.Height / 2f);
        // Three degrees out of level at one and a half times the page's height away.
        var tilt = 0.035f / page.Height;
        var matrix = SKMatrix.CreateIdentity();
        (matrix.Persp0, matrix.Persp1) = (tilt * Off(), tilt * Off());
        canvas.Concat(matrix);
        canvas.Scale(0.97f);
        canvas.DrawBitmap(page, -page.Width / 2f, -page.Height / 2f, new SKSamplingOptions(SKCubicResampler.Mitchell));
        canvas.ResetMatrix();
        using var shade = SKShader.CreateRadialGradient(
            new SKPoint(page.Width * 0.3f, page.Height * 0.25f),
            page.Height,
            [new SKColor(0, 0, 0, 0), new SKColor(0, 0, 0, 90)],
            null,
            SKShaderTileMode.Clamp
        );
        using var lamp = new SKPaint { Shader = shade };
        canvas.DrawRect(0, 0, page.Width, page.Height, lamp);
        return photo;
    }
}
