using SkiaSharp;

namespace ClearLexicon.Demo;

/// <summary>What is printed and what a hand adds.</summary>
internal sealed class Pen(SKCanvas canvas)
{
    public void Write(string text, float x, float y, float size) => PageDrawing.Plain(canvas, text, x, y, size);

    public void Line(float x1, float y1, float x2, float y2)
    {
        using var paint = Stroke(0.8f, new SKColor(0x33, 0x33, 0x33));
        canvas.DrawLine(x1, y1, x2, y2, paint);
    }

    public void Box(float x, float y, float side)
    {
        using var paint = Stroke(0.9f, new SKColor(0x22, 0x22, 0x22));
        canvas.DrawRect(x, y, side, side, paint);
    }

    // A cross, a tick or a blot.
    public void Mark(float x, float y, float side, Random random)
    {
        using var paint = Stroke(1.5f, new SKColor(0x1a, 0x2a, 0x6a));
        float At(float share) => side * share + (float)(random.NextDouble() - 0.5) * 2;
        switch (random.Next(3))
        {
            case 0:
                canvas.DrawLine(x + At(0.05f), y + At(0.05f), x + At(0.95f), y + At(0.95f), paint);
                canvas.DrawLine(x + At(0.95f), y + At(0.05f), x + At(0.05f), y + At(0.95f), paint);
                break;
            case 1:
                canvas.DrawLine(x + At(0.1f), y + At(0.5f), x + At(0.4f), y + At(0.9f), paint);
                canvas.DrawLine(x + At(0.4f), y + At(0.9f), x + At(1.1f), y + At(-0.2f), paint);
                break;
            default:
                for (var i = 0; i < 6; i++)
                    canvas.DrawLine(x + At(0.2f), y + At(0.2f + i * 0.1f), x + At(0.8f), y + At(0.2f + i * 0.1f), paint);
                break;
        }
    }

    public void Sign(float x, float y, Random random)
    {
        using var paint = Stroke(1.3f, new SKColor(0x1a, 0x2a, 0x6a));
        using var path = new SKPathBuilder();
        path.MoveTo(x, y);
        for (var i = 0; i < 9; i++)
            path.QuadTo(x + i * 14 + random.Next(4, 12), y + random.Next(-24, 14), x + (i + 1) * 14, y + random.Next(-10, 8));
        using var drawn = path.Detach();
        canvas.DrawPath(drawn, paint);
    }

    private static SKPaint Stroke(float width, SKColor colour) =>
        new()
        {
            Color = colour,
            IsStroke = true,
            StrokeWidth = width,
            StrokeCap = SKStrokeCap.Round,
            IsAntialias = true,
        };
}
