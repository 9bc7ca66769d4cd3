using OpenCvSharp;

namespace ClearLexicon.Formats;

/// <summary>Page pictures of ours, turned by quarters.</summary>
public static class TurnedPicture
{
    /// <summary>
    /// Writes a page picture anew as it looks turned, with its small picture and, where there is one, the page as it came.
    /// </summary>
    /// <param name="image">The page picture (PNG).</param>
    /// <param name="degrees">Clockwise: 90, 180 or 270.</param>
    /// <param name="target">Where the new one goes; its folder is made.</param>
    public static void Write(string image, int degrees, string target)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        using var page = Cv2.ImRead(image, ImreadModes.Unchanged);
        using var turned = new Mat();
        Cv2.Rotate(
            page,
            turned,
            degrees switch
            {
                90 => RotateFlags.Rotate90Clockwise,
                180 => RotateFlags.Rotate180,
                270 => RotateFlags.Rotate90Counterclockwise,
                _ => throw new ArgumentOutOfRangeException(nameof(degrees), degrees, "Pages are turned by quarters."),
            }
        );
        turned.SaveImage(target);
        using var gray = Cv2.ImRead(target, ImreadModes.Grayscale);
        Pictures.SaveSmall(gray, PageReading.SmallOf(target));
        KeepPage(image, target);
    }

    /// <summary>Lays the page as it came, as it lies beside one page picture, beside another; none when there is none.</summary>
    public static void KeepPage(string image, string target)
    {
        File.Delete(PageReading.PageOf(target));
        if (File.Exists(PageReading.PageOf(image)))
            File.Copy(PageReading.PageOf(image), PageReading.PageOf(target));
    }
}
