using ClearLexicon.Core.Reading;
using SkiaSharp;

namespace ClearLexicon.Formats.Tests;

/// <summary>A piece of a page that is always the same, found again however the page was scanned.</summary>
public sealed class PictureClueTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("crest").FullName;

    // A crest: an anchor of lines in a ring, at a place of a page with print around it.
    private string Draw(string name, float x, float y, float scale, float degrees, bool crest = true, byte paper = 255)
    {
        using var bitmap = new SKBitmap(1240, 1754);
        using (var canvas = new SKCanvas(bitmap))
        {
            canvas.Clear(new SKColor(paper, paper, paper));
            using var ink = new SKPaint
            {
                Color = new SKColor(30, 30, 30),
                StrokeWidth = 7,
                IsStroke = true,
                IsAntialias = true,
            };
            using var font = new SKFont(SKTypeface.FromFile("/usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf"), 28);
            using var fill = new SKPaint { Color = SKColors.Black };
            for (var line = 0; line < 30; line++)
                canvas.DrawText(
                    $"Quay {line * 37 % 11} depth {line * 7.3:0.0} m, mud and sand",
                    180,
                    420 + line * 40,
                    SKTextAlign.Left,
                    font,
                    fill
                );
            if (crest)
            {
                canvas.Translate(x, y);
                canvas.RotateDegrees(degrees);
                canvas.Scale(scale);
                canvas.DrawCircle(0, 0, 80, ink);
                canvas.DrawLine(0, -50, 0, 55, ink);
                canvas.DrawLine(-30, -25, 30, -25, ink);
                canvas.DrawArc(new SKRect(-45, -20, 45, 60), 20, 140, false, ink);
                canvas.DrawCircle(0, -56, 9, ink);
            }
        }
        var path = Path.Combine(_folder, name);
        using var file = File.Create(path);
        bitmap.Encode(file, SKEncodedImageFormat.Png, 90);
        return path;
    }

    private static (double Likeness, Box Box) Seen(string image, PicturePatch patch)
    {
        using var pictures = new PagePictures(_ => image);
        var seen = pictures.Find(1, patch, null)!.Value;
        return (seen.Likeness, seen.Box);
    }

    [Fact]
    public void A_crest_is_found_again_at_other_sizes_askew_and_faxed_and_not_where_there_is_none()
    {
        var taught = Draw("taught.png", 1000, 200, 1, 0);
        using var pictures = new PagePictures(_ => taught);
        var (patch, problem) = pictures.Cut(1, new Box(900 / 1240.0, 100 / 1754.0, 200 / 1240.0, 200 / 1754.0));
        Assert.Null(problem);
        foreach (
            var (x, y, scale, degrees) in new[]
            {
                (1000f, 200f, 1f, 0f),
                (960f, 240f, 0.92f, 0f),
                (1020f, 180f, 1.08f, 2.5f),
                (980f, 210f, 1f, -3f),
            }
        )
        {
            var path = Draw("again.png", x, y, scale, degrees);
            foreach (var image in new[] { path, Faxed(path) })
            {
                var (likeness, box) = Seen(image, patch!);
                Assert.True(likeness >= Recognition.Alike, $"{scale} {degrees}: {likeness}");
                Assert.Equal(x / 1240, box.CentreX, 0.012);
                Assert.Equal(y / 1754, box.CentreY, 0.012);
            }
        }
        Assert.True(Seen(Draw("none.png", 0, 0, 1, 0, crest: false), patch!).Likeness < Recognition.Alike);

        // Claimed by it, or not.
        var reader = new Reader("r", "R", "t", [new Clue("crest", default) { Kind = ClueKind.Picture, Picture = patch }], [], []);
        var page = new PageText(1240, 1754, [], "recognised");
        Assert.True(Recognition.Try(page, reader, pictures).Holds);
        using var without = new PagePictures(_ => Path.Combine(_folder, "none.png"));
        Assert.False(Recognition.Try(page, reader, without).Holds);
        Assert.False(Recognition.Try(page, reader).Holds);
    }

    [Fact]
    public void A_piece_of_one_colour_or_of_nothing_is_refused()
    {
        var image = Draw("plain.png", 0, 0, 1, 0, crest: false, paper: 230);
        using var pictures = new PagePictures(_ => image);
        Assert.Contains("one colour", pictures.Cut(1, new Box(0.1, 0.05, 0.2, 0.1)).Problem);
        Assert.Contains("too small", pictures.Cut(1, new Box(0.3, 0.3, 0.001, 0.001)).Problem);
        Assert.NotNull(pictures.Cut(1, new Box(3, -2, double.NaN, 0.4)).Problem);
        using var gone = new PagePictures(_ => null);
        Assert.Contains("not there", gone.Cut(1, new Box(0.1, 0.1, 0.2, 0.2)).Problem);
        Assert.Null(gone.Find(1, new PicturePatch(4, 4, new byte[16]), null));
        Assert.Null(pictures.Find(1, new PicturePatch(4, 4, new byte[3]), null));
        Assert.Null(pictures.Find(1, new PicturePatch(65_536, 65_536, []), null));
        Assert.Equal(0, pictures.Find(1, new PicturePatch(20, 20, new byte[400]), null)!.Value.Likeness);
    }

    // One bit a dot, at half the resolution.
    private string Faxed(string path)
    {
        using var bitmap = SKBitmap.Decode(path);
        using var small = bitmap.Resize(new SKSizeI(bitmap.Width / 2, bitmap.Height / 2), new SKSamplingOptions(SKFilterMode.Linear));
        for (var y = 0; y < small.Height; y++)
        for (var x = 0; x < small.Width; x++)
            small.SetPixel(x, y, small.GetPixel(x, y).Red < 140 ? SKColors.Black : SKColors.White);
        var fax = Path.Combine(_folder, "fax.png");
        using var file = File.Create(fax);
        small.Encode(file, SKEncodedImageFormat.Png, 90);
        return fax;
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
