using System.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using Bradymotus.Render.Pictures;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

/// <summary>How much work goes into a picture.</summary>
public enum Quality
{
    /// <summary>One sample, simple light.</summary>
    Draft,

    /// <summary>Soft shadows and sky, a few samples.</summary>
    Preview,

    /// <summary>Path traced, many samples.</summary>
    Final,
}

/// <summary>From a scene to a picture.</summary>
public static class Renderer
{
    // A tile is a task: small enough to share out, large enough to be worth it.
    private const int Tile = 16;

    /// <summary>The samples of a pixel in a quality.</summary>
    public static int DefaultSamples(Quality quality) => quality switch
    {
        Quality.Draft => 1,
        Quality.Preview => 8,
        _ => 96,
    };

    /// <summary>
    /// Renders. A pixel's value depends on the scene, its place and the number of samples and on nothing else, so the number of threads does not change a bit.
    /// </summary>
    /// <param name="samples">A pixel's samples; null is <see cref="DefaultSamples"/>.</param>
    /// <param name="threads">At most so many at once; null is all.</param>
    /// <exception cref="Core.Refusal">The size is out of range.</exception>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static Picture Render(RenderScene scene, PictureSize size, Quality quality, int? samples = null, int? threads = null, CancellationToken cancel = default)
    {
        size.Validate();
        var rgba = GC.AllocateUninitializedArray<byte>(4 * size.Width * size.Height);
        ForEachPixel(scene, size, quality, samples, threads, (i, radiance, cover) =>
        {
            // What is partly there is stored in its whole colour, and how much of it there is.
            var (r, g, b) = Display.ToBytes(cover is > 0 and < 1 ? radiance / cover : radiance, scene.Exposure);
            (rgba[4 * i], rgba[4 * i + 1], rgba[4 * i + 2], rgba[4 * i + 3]) = (r, g, b, (byte)(cover * 255 + 0.5f));
        }, cancel);
        return new(size, rgba) { IsTransparent = scene.Background == Background.Transparent };
    }

    /// <summary>As <see cref="Render"/>, before exposure and tone: linear radiance, row by row from the top.</summary>
    public static Vector3[] Radiance(RenderScene scene, PictureSize size, Quality quality, int? samples = null, int? threads = null, CancellationToken cancel = default)
    {
        size.Validate();
        var pixels = new Vector3[size.Width * size.Height];
        ForEachPixel(scene, size, quality, samples, threads, (i, radiance, _) => pixels[i] = radiance, cancel);
        return pixels;
    }

    private static void ForEachPixel(
        RenderScene scene, PictureSize size, Quality quality, int? samples, int? threads, Action<int, Vector3, float> take, CancellationToken cancel)
    {
        var integrator = Integrator.For(quality, scene);
        var count = Math.Max(1, samples ?? DefaultSamples(quality));
        var (columns, rows) = ((size.Width + Tile - 1) / Tile, (size.Height + Tile - 1) / Tile);
        var workers = Math.Max(1, threads ?? Environment.ProcessorCount);
        var options = new ParallelOptions { MaxDegreeOfParallelism = workers, CancellationToken = cancel };
        var taken = -1;
        // Tile by tile, since a larger share would leave the others waiting for it at the end.
        Parallel.For(0, workers, options, _ =>
        {
            for (int tile; (tile = Interlocked.Increment(ref taken)) < columns * rows;)
            {
                var (left, top) = (tile % columns * Tile, tile / columns * Tile);
                for (var y = top; y < Math.Min(top + Tile, size.Height); y++)
                {
                    cancel.ThrowIfCancellationRequested();
                    for (var x = left; x < Math.Min(left + Tile, size.Width); x++)
                    {
                        var radiance = Pixel(scene, integrator, size, x, y, count, out var cover);
                        take(y * size.Width + x, radiance, cover);
                    }
                }
            }
        });
    }

    private static Vector3 Pixel(RenderScene scene, Integrator integrator, PictureSize size, int x, int y, int samples, out float cover)
    {
        var sum = Vector3.Zero;
        cover = 0;
        for (var s = 0; s < samples; s++)
        {
            var random = new Sequence(x, y, (uint)s, scene.Seed);
            // One sample looks through the middle; several are spread with a tent of two pixels' width, which filters without blur.
            var offset = samples == 1 ? Vector2.Zero : Tent(random.Next2());
            var u = 2 * (x + 0.5f + offset.X) / size.Width - 1;
            var v = 1 - 2 * (y + 0.5f + offset.Y) / size.Height;
            var lens = scene.Camera.HasLens ? random.Next2() : default;
            sum += integrator.Radiance(scene.Camera.Through(u, v, (float)size.Aspect, lens), ref random, out var part);
            cover += part;
        }
        cover /= samples;
        return sum / samples;
    }

    private static Vector2 Tent(Vector2 u) => new(Tent(u.X), Tent(u.Y));

    private static float Tent(float u) => u < 0.5f ? MathF.Sqrt(2 * u) - 1 : 1 - MathF.Sqrt(2 - 2 * u);
}
