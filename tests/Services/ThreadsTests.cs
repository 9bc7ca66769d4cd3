using ClearLexicon.Core.Designs.Threads;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using SkiaSharp;

namespace ClearLexicon.Services.Tests;

/// <summary>Documents that threads can be drawn with, and their pages as they may be shown around.</summary>
public sealed class ThreadsTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    [Fact]
    public void A_type_is_shown_with_what_came_in_and_otherwise_with_a_made_up_record()
    {
        var threads = new Threads(_house.Database, _house.Folder, _house.Designs);
        var type = _house.Designs.Resolve(_house.Designs.Find(HarbourDesign.VesselCall.Code)!.Draft);
        var madeUp = Assert.Single(threads.Subjects(type));
        var woven = threads.Weave(type, madeUp, "me");
        Assert.Equal("made-up", madeUp.Key);
        Assert.Empty(woven.Pages);
        Assert.Null(threads.Page(type, madeUp, 1));
        Assert.DoesNotContain(woven.Picture.Ends, e => e.Kind == EndKind.Region);

        using (var white = new SKBitmap(400, 500))
        {
            white.Erase(SKColors.White);
            using var file = File.Create(_house.Folder.Absolute(Path.Combine("pages", "p.png")));
            white.Encode(file, SKEncodedImageFormat.Png, 90);
        }
        Evidence At(double y) => new(1, new Box(0.1, y, 0.4, 0.02), "raw", "text layer", 1);
        _house.Database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "call.pdf",
                    TypeCode = type.Code,
                    Record = new Dictionary<string, string> { ["vessel"] = "Corvina", ["master"] = "Frida Lund" },
                    Evidence = new Dictionary<string, Evidence>
                    {
                        ["vessel"] = At(0.1),
                        ["master"] = At(0.3),
                        ["gone"] = At(0.5),
                    },
                },
                [new StoredPage(1, Path.Combine("pages", "p.png"), new PageText(400, 500, [], "text layer"), null)]
            )
        );
        var subject = threads.Subjects(type)[0];
        Assert.Equal("call.pdf, on the desk", subject.Title);
        var picture = threads.Weave(type, subject, "me").Picture;
        Assert.Equal(["vessel", "master", "gone"], picture.Ends.Where(e => e.Kind == EndKind.Region).Select(e => e.Key));
        Assert.DoesNotContain(picture.Ends, e => e.Value.Contains("Frida", StringComparison.Ordinal));

        // What is restricted, and what was read for a field that is gone, is blacked out for everybody; the rest is as it was.
        using var shown = SKBitmap.Decode(threads.Page(type, subject, 1));
        bool Dark(double y) => shown.GetPixel(100, (int)((y + 0.01) * 500)).Red < 60;
        Assert.Equal((false, true, true), (Dark(0.1), Dark(0.3), Dark(0.5)));
    }

    public void Dispose() => _house.Dispose();
}
