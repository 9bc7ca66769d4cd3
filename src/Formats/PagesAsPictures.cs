namespace ClearLexicon.Formats;

/// <summary>Pages of PDFs as pictures that leave: PNG, one a page (poppler), or one TIFF with all of them (Ghostscript, LZW).</summary>
public static class PagesAsPictures
{
    /// <summary>Dots an inch.</summary>
    public const int Dpi = 200;

    private static readonly TimeSpan Limit = TimeSpan.FromMinutes(3);

    /// <summary>Writes a page as PNG.</summary>
    /// <returns>Why not, in words; null when it was written.</returns>
    public static Task<string?> PngAsync(string source, int page, string target, CancellationToken cancel) =>
        RunAsync(
            "pdftoppm",
            ["-png", "-r", $"{Dpi}", "-f", $"{page}", "-l", $"{page}", "-singlefile", source, Path.ChangeExtension(target, null)],
            Path.ChangeExtension(target, ".png"),
            target,
            cancel
        );

    /// <summary>Writes all pages as one TIFF.</summary>
    /// <returns>Why not, in words; null when it was written.</returns>
    public static Task<string?> TiffAsync(string source, string target, CancellationToken cancel) =>
        !ExternalProgram.Exists("gs")
            ? Task.FromResult<string?>(ArchivalPdf.Missing)
            : RunAsync(
                "gs",
                ["-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=tiff24nc", "-sCompression=lzw", $"-r{Dpi}", "-o", target, source],
                target,
                target,
                cancel
            );

    private static async Task<string?> RunAsync(string program, string[] arguments, string made, string target, CancellationToken cancel)
    {
        try
        {
            var run = await ExternalProgram.RunAsync(program, arguments, Limit, cancel);
            if (run.ExitCode != 0 || !File.Exists(made))
                return "Its pages cannot be drawn.";
            if (made != target)
                File.Move(made, target, overwrite: true);
            return null;
        }
        catch (Exception e) when (e is TimeoutException or InvalidDataException)
        {
            return "Its pages take too long to be drawn.";
        }
    }
}
