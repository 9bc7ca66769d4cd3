using BitMiracle.LibTiff.Classic;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Reads the pages of a TIFF as bitmaps.</summary>
public static class TiffPages
{
    private sealed class SilentHandler : TiffErrorHandler
    {
        public override void ErrorHandler(Tiff tif, string method, string format, params object[] args) { }

        public override void ErrorHandlerExt(Tiff tif, object clientData, string method, string format, params object[] args) { }

        public override void WarningHandler(Tiff tif, string method, string format, params object[] args) { }

        public override void WarningHandlerExt(Tiff tif, object clientData, string method, string format, params object[] args) { }
    }

    /// <summary>Keeps the library from writing its findings to the console; they come back as failures.</summary>
    public static void Silence() => Tiff.SetErrorHandler(new SilentHandler());

    /// <summary>Decodes one page.</summary>
    /// <param name="path">The file.</param>
    /// <param name="page">Page from 1.</param>
    /// <returns>Null when the page is damaged.</returns>
    public static SKBitmap? Read(string path, int page)
    {
        Silence();
        using var tiff = Tiff.Open(path, "r");
        if (tiff is null || !tiff.SetDirectory((short)(page - 1)))
            return null;
        int width = tiff.GetField(TiffTag.IMAGEWIDTH)[0].ToInt(),
            height = tiff.GetField(TiffTag.IMAGELENGTH)[0].ToInt();
        if ((long)width * height is <= 0 or > IntakeCheck.MaxPixels)
            return null;
        var raster = new int[width * height];
        if (!tiff.ReadRGBAImageOriented(width, height, raster, Orientation.TOPLEFT))
            return null;
        var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        System.Runtime.InteropServices.Marshal.Copy(raster, 0, bitmap.GetPixels(), raster.Length);
        return bitmap;
    }
}
