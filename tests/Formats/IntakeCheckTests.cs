using System.Buffers.Binary;
using System.IO.Compression;
using ClearLexicon.Formats;
using PdfSharp.Pdf;
using PdfSharp.Pdf.Security;
using SkiaSharp;

namespace ClearLexicon.Formats.Tests;

/// <summary>Bad files, each refused with a sentence that names the file and what is wrong.</summary>
public sealed class IntakeCheckTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("intake").FullName;

    private string Made(string name, byte[] content)
    {
        var path = Path.Combine(_folder, name);
        File.WriteAllBytes(path, content);
        return path;
    }

    private string? Problem(string name, byte[] content) => IntakeCheck.Check(Made(name, content), name).Problem;

    private static byte[] Pdf(int pages, string? password = null)
    {
        using var pdf = new PdfSharp.Pdf.PdfDocument();
        for (var i = 0; i < pages; i++)
            pdf.AddPage();
        if (password is not null)
        {
            pdf.SecuritySettings.UserPassword = password;
            pdf.SecurityHandler.SetEncryptionToV5();
        }
        using var stream = new MemoryStream();
        pdf.Save(stream);
        return stream.ToArray();
    }

    private static byte[] Image(int width, int height, SKEncodedImageFormat format)
    {
        using var bitmap = new SKBitmap(width, height);
        using var data = bitmap.Encode(format, 80);
        return data.ToArray();
    }

    /// <summary>A PNG that says it is huge, without the memory to make one.</summary>
    private static byte[] HugePng(int side)
    {
        var header = new byte[13];
        BinaryPrimitives.WriteInt32BigEndian(header, side);
        BinaryPrimitives.WriteInt32BigEndian(header.AsSpan(4), side);
        header[8] = 1;
        using var data = new MemoryStream();
        using (var deflate = new ZLibStream(data, CompressionLevel.Fastest, leaveOpen: true))
            for (var y = 0; y < side; y++)
                deflate.Write(new byte[side / 8 + 1]);
        using var png = new MemoryStream();
        png.Write([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]);
        foreach (var (name, content) in new[] { ("IHDR", header), ("IDAT", data.ToArray()), ("IEND", Array.Empty<byte>()) })
        {
            var chunk = System.Text.Encoding.ASCII.GetBytes(name).Concat(content).ToArray();
            var number = new byte[4];
            BinaryPrimitives.WriteInt32BigEndian(number, content.Length);
            png.Write(number);
            png.Write(chunk);
            BinaryPrimitives.WriteUInt32BigEndian(number, Crc(chunk));
            png.Write(number);
        }
        return png.ToArray();
    }

    private static uint Crc(byte[] bytes)
    {
        var crc = 0xFFFFFFFF;
        foreach (var b in bytes)
        {
            crc ^= b;
            for (var i = 0; i < 8; i++)
                crc = (crc & 1) != 0 ? crc >> 1 ^ 0xEDB88320 : crc >> 1;
        }
        return ~crc;
    }

    [Fact]
    public void Sound_files_are_taken_by_their_content_not_their_name()
    {
        Assert.Equal((FileKind.Pdf, 2, null), Of(IntakeCheck.Check(Made("a.tif", Pdf(2)), "a.tif")));
        Assert.Equal((FileKind.Image, 1, null), Of(IntakeCheck.Check(Made("b.pdf", Image(300, 400, SKEncodedImageFormat.Png)), "b.pdf")));
        Assert.Equal((FileKind.Image, 1, null), Of(IntakeCheck.Check(Made("c", Image(300, 400, SKEncodedImageFormat.Jpeg)), "c")));
        static (FileKind, int, string?) Of(IntakeResult r) => (r.Kind, r.Pages, r.Problem);
    }

    [Fact]
    public void An_empty_file() => Assert.Equal("“x.pdf” is empty.", Problem("x.pdf", []));

    [Fact]
    public void A_pdf_cut_in_half() => Assert.Contains("cut off", Problem("x.pdf", Pdf(3)[..^800]));

    [Fact]
    public void A_pdf_with_a_damaged_middle() =>
        Assert.Contains("damaged", Problem("x.pdf", [.. "%PDF-1.7\n"u8, .. new byte[500], .. "startxref\n9\n%%EOF"u8]));

    [Fact]
    public void A_pdf_with_a_password() => Assert.Contains("protected by a password", Problem("x.pdf", Pdf(1, "secret")));

    [Fact]
    public void A_text_called_pdf() => Assert.Contains("its content is not one", Problem("x.pdf", "Dear harbour master"u8.ToArray()));

    [Fact]
    public void Something_else() => Assert.Contains("not a PDF, PNG, JPEG or TIFF", Problem("x.exe", "MZ and more bytes"u8.ToArray()));

    [Fact]
    public void A_pdf_of_5000_pages() => Assert.Contains("5000 pages; at most 2000", Problem("x.pdf", Pdf(5_000)));

    [Fact]
    public void A_picture_of_one_pixel() => Assert.Contains("1 × 1 pixels", Problem("x.png", Image(1, 1, SKEncodedImageFormat.Png)));

    /// <summary>What was cut on its way would look like a page that ends early.</summary>
    [Theory]
    [InlineData(SKEncodedImageFormat.Jpeg, 0.6)]
    [InlineData(SKEncodedImageFormat.Jpeg, 0.97)]
    [InlineData(SKEncodedImageFormat.Png, 0.66)]
    [InlineData(SKEncodedImageFormat.Png, 0.97)]
    public async Task A_picture_that_is_cut_off(SKEncodedImageFormat format, double share)
    {
        using var bitmap = new SKBitmap(900, 1_200);
        bitmap.Pixels =
        [
            .. Enumerable.Range(0, 900 * 1_200).Select(i => new SKColor((byte)(220 + i % 900 / 36), (byte)(200 + i / 30_000), 210)),
        ];
        using var data = bitmap.Encode(format, 80);
        var whole = Made("page", data.ToArray());
        Assert.Single(await PageReading.ReadAsync(whole, FileKind.Image, 1, _folder, default));
        var cut = Made("cut", data.ToArray()[..(int)(data.Size * share)]);
        var refused = await Assert.ThrowsAsync<InvalidDataException>(() =>
            PageReading.ReadAsync(cut, FileKind.Image, 1, Path.Combine(_folder, "cut pages"), default)
        );
        Assert.Contains("cut off", refused.Message);
    }

    [Fact]
    public void A_picture_as_long_as_a_rope() =>
        Assert.Contains("300 × 26000 pixels, more than a page needs", Problem("x.png", Image(300, 26_000, SKEncodedImageFormat.Png)));

    [Fact]
    public void A_picture_of_20000_pixels_a_side_is_refused_before_it_is_unpacked()
    {
        var before = GC.GetTotalAllocatedBytes();
        Assert.Contains("20000 × 20000 pixels", Problem("x.png", HugePng(20_000)));
        Assert.InRange(GC.GetTotalAllocatedBytes() - before, 0, 200_000_000);
    }

    [Fact]
    public void A_broken_tiff() => Assert.Contains("damaged", Problem("x.tif", [.. "II*\0"u8, .. new byte[64]]));

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
