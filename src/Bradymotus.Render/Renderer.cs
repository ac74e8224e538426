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

    // With fewer samples nothing can be said of how much they differ.
    private const int LeastToShare = 32;

    // No pixel gets more than so many times the samples that were asked for.
    private const int MostShare = 12;

    /// <summary>The samples of a pixel in a quality.</summary>
    public static int DefaultSamples(Quality quality) => quality switch
    {
        Quality.Draft => 1,
        Quality.Preview => 8,
        _ => 64,
    };

    /// <summary>
    /// Renders. A picture depends on the scene, its size and the number of samples and on nothing else, so the number of threads does not change a bit.
    /// </summary>
    /// <param name="samples">A pixel's samples, in a final picture on average; null is <see cref="DefaultSamples"/>.</param>
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
            var (r, g, b) = Display.ToBytes(cover is > 0 and < 1 ? radiance / cover : radiance, scene.Exposure, Display.Threshold(i % size.Width, i / size.Width));
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
        // One sample looks at all of its pixel; of several each looks at half of it, which blurs far less than the filter that they are spread by.
        var part = (count == 1 ? 1 : 0.5f) / size.Height;
        void Take(int i, in PixelSum pixel) => take(i, pixel.Light / pixel.Count, pixel.Cover / pixel.Count);
        if (quality != Quality.Final || count < LeastToShare)
        {
            ForEachTile(size, threads, (x, y, i) =>
            {
                var pixel = default(PixelSum);
                AddSamples(ref pixel, scene, integrator, size, part, x, y, count);
                Take(i, pixel);
            }, cancel);
            return;
        }
        // A final picture is looked at with a quarter of its samples first; the others go where it is still grainy.
        var pixels = new PixelSum[size.Width * size.Height];
        var first = count / 4;
        ForEachTile(size, threads, (x, y, i) => AddSamples(ref pixels[i], scene, integrator, size, part, x, y, first), cancel);
        var more = Shared(pixels, size, (count - first) * (long)pixels.Length, MostShare * count);
        ForEachTile(size, threads, (x, y, i) =>
        {
            AddSamples(ref pixels[i], scene, integrator, size, part, x, y, more[i]);
            Take(i, pixels[i]);
        }, cancel);
    }

    private static void ForEachTile(PictureSize size, int? threads, Action<int, int, int> each, CancellationToken cancel)
    {
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
                        each(x, y, y * size.Width + x);
                    }
                }
            }
        });
    }

    /// <summary>
    /// Shares samples out among the pixels by how much the first ones of their neighbours differ (the sum of squared errors is least when a pixel gets
    /// samples in proportion to its standard deviation: J. Neyman, 1934). A pixel's own samples have no say in how many more it gets: else those that
    /// have missed what is bright would count for more than those that have met it, and the picture would be too dark.
    /// </summary>
    /// <param name="total">So many in all.</param>
    /// <param name="most">No pixel gets more.</param>
    private static int[] Shared(PixelSum[] pixels, PictureSize size, long total, int most)
    {
        var spread = new double[pixels.Length];
        for (var i = 0; i < pixels.Length; i++)
        {
            var shown = (double)pixels[i].Shown / pixels[i].Count;
            spread[i] = Math.Max(0, pixels[i].Squares / pixels[i].Count - shown * shown);
        }
        var weights = new double[pixels.Length];
        var all = 0.0;
        for (var y = 0; y < size.Height; y++)
        {
            for (var x = 0; x < size.Width; x++)
            {
                var at = y * size.Width + x;
                double near = -spread[at], count = -1;
                for (var j = Math.Max(0, y - 1); j <= Math.Min(size.Height - 1, y + 1); j++)
                {
                    for (var i = Math.Max(0, x - 1); i <= Math.Min(size.Width - 1, x + 1); i++)
                    {
                        near += spread[j * size.Width + i];
                        count++;
                    }
                }
                all += weights[at] = count > 0 ? Math.Sqrt(Math.Max(0, near / count)) : 1;
            }
        }
        var shares = new int[pixels.Length];
        var (left, scale) = ((double)total, all > 0 ? total / all : 0);
        // What is too much for one goes to the others.
        for (var round = 0; round < 4 && left > 0 && all > 0; round++)
        {
            (left, all) = (total, 0);
            for (var i = 0; i < shares.Length; i++)
            {
                shares[i] = (int)Math.Min(most, weights[i] * scale);
                left -= shares[i];
                all += shares[i] < most ? weights[i] : 0;
            }
            scale *= all > 0 ? 1 + Math.Max(0, left) / (all * scale) : 1;
        }
        return shares;
    }

    /// <param name="part">The part of the picture's height that a sample looks at.</param>
    private static void AddSamples(ref PixelSum pixel, RenderScene scene, Integrator integrator, PictureSize size, float part, int x, int y, int samples)
    {
        for (var end = pixel.Count + samples; pixel.Count < end; pixel.Count++)
        {
            var random = new Sequence(x, y, (uint)pixel.Count, scene.Seed);
            // One sample looks through the middle; several are spread with a tent of two pixels' width, which filters without blur.
            var offset = samples == 1 && pixel.Count == 0 ? Vector2.Zero : Tent(random.Next2());
            var u = 2 * (x + 0.5f + offset.X) / size.Width - 1;
            var v = 1 - 2 * (y + 0.5f + offset.Y) / size.Height;
            var lens = scene.Camera.HasLens ? random.Next2() : default;
            var light = integrator.Radiance(scene.Camera.Through(u, v, (float)size.Aspect, lens, part), ref random, out var cover);
            // A number that is none, as of a shape turned inside out, would blacken the whole pixel.
            light = float.IsFinite(light.X + light.Y + light.Z) ? light : Vector3.Zero;
            pixel.Light += light;
            var shown = PixelSum.AsShown(light, scene.Exposure);
            pixel.Shown += shown;
            pixel.Squares += shown * (double)shown;
            pixel.Cover += cover;
        }
    }

    /// <summary>What the samples of a pixel have found so far.</summary>
    private struct PixelSum
    {
        internal Vector3 Light;
        // Of the brightness as it is shown, and of its squares.
        internal float Shown;
        internal double Squares;
        internal float Cover;
        internal int Count;

        /// <summary>What a picture shows of it: above white there is hardly any difference.</summary>
        internal static float AsShown(Vector3 light, float exposure) => Display.Shoulder((light.X + light.Y + light.Z) / 3 * exposure);
    }

    private static Vector2 Tent(Vector2 u) => new(Tent(u.X), Tent(u.Y));

    private static float Tent(float u) => u < 0.5f ? MathF.Sqrt(2 * u) - 1 : 1 - MathF.Sqrt(2 - 2 * u);
}
