using System.Collections.Immutable;
using System.Diagnostics;
using System.Numerics;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Render;
using Bradymotus.Render.Light;
using Bradymotus.Render.Pictures;

/// <summary>How soon a final picture is good, against plain samples of the same renderer; and what many lamps cost.</summary>
internal static class Lighting
{
    /// <summary>So few samples are not shared out: every pixel gets as many.</summary>
    private const int Plain = 16;

    private static readonly PictureSize Size = new(96, 54);

    internal static int Run(string[] shots, Func<string, double, int> print)
    {
        foreach (var file in shots)
        {
            var shot = ShotJson.ReadShot(File.ReadAllText(file));
            var renderer = new Pictures(shot);
            // 4,096 plain samples a pixel.
            var (right, _) = renderer.Mean(Plain, 4096 / Plain, 1000);
            // By turns, so that a machine that is busy at times is so for both. An error falls with the root of the time.
            var (shared, plain) = (new List<double>(), new List<double>());
            for (var round = 0; round < 6; round++)
            {
                double To1Percent(int samples, int pictures)
                {
                    var (picture, seconds) = renderer.Mean(samples, pictures, 1 + round * 50);
                    return seconds * Math.Pow(Error(picture, right) / 0.01, 2);
                }
                shared.Add(To1Percent(64, 1));
                plain.Add(To1Percent(Plain, 64 / Plain));
            }
            print($"{shot.Name}: time to 1 % error ÷ that of even sampling", Middle(shared) / Middle(plain));
        }
        var (one, many) = (new List<double>(), new List<double>());
        Pictures lamp = new(Lamps(1)), lamps = new(Lamps(200));
        for (var round = 0; round < 7; round++)
        {
            one.Add(lamp.Mean(64, 1, round).Seconds);
            many.Add(lamps.Mean(64, 1, round).Seconds);
        }
        return print("200 lamps ÷ one lamp, time", Middle(many) / Middle(one));
    }

    /// <summary>The root of the mean squared difference of what is shown, as a part of the mean.</summary>
    private static double Error(Vector3[] picture, Vector3[] right)
    {
        var (squares, sum) = (0.0, 0.0);
        for (var i = 0; i < picture.Length; i++)
        {
            var (a, b) = (Display.Toned(picture[i]), Display.Toned(right[i]));
            squares += (a - b).LengthSquared() / 3;
            sum += (b.X + b.Y + b.Z) / 3;
        }
        return Math.Sqrt(squares / picture.Length) / (sum / picture.Length);
    }

    private static Shot Lamps(int count)
    {
        var dice = new Random(4);
        ImmutableSortedDictionary<string, Channel> Of(params (string Path, double Value)[] values) => ImmutableSortedDictionary.CreateRange(values.Select(v => KeyValuePair.Create(v.Path, new Channel(v.Value))));
        return Shot.Empty("Lamps") with
        {
            Nodes =
            [
                new MeshNode { Id = "floor", Name = "Floor", Shape = new PlaneShape(40, 40) },
                new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(1, 48, 32), Channels = Of(("transform.translate.y", 1)) },
                new CameraNode { Id = "c", Name = "C", Channels = Of(("transform.translate.y", 4), ("transform.translate.z", 14), ("transform.rotate.x", -12)) },
                .. Enumerable.Range(0, count).Select(i => (Node)new LampNode { Id = $"l{i}", Name = $"L {i}", Channels = Of(
                    ("transform.translate.x", count == 1 ? 0 : dice.NextDouble() * 20 - 10), ("transform.translate.y", 3), ("transform.translate.z", count == 1 ? 0 : dice.NextDouble() * 20 - 10), ("light.strength", 400.0 / count)) }),
            ],
        };
    }

    private static double Middle(List<double> values)
    {
        values.Sort();
        return values[values.Count / 2];
    }

    /// <summary>Pictures of one frame that differ in nothing but their random numbers.</summary>
    private sealed class Pictures(Shot shot)
    {
        private readonly FrameState _state = new(new CompiledShot(shot));
        private readonly Textures _textures = new(null);

        internal (Vector3[] Picture, double Seconds) Mean(int samples, int count, int seed)
        {
            var mean = new Vector3[Size.Width * Size.Height];
            var seconds = 0.0;
            for (var i = 0; i < count; i++)
            {
                // So short a time moves nothing.
                _state.Evaluate(shot.Range.First + 1e-9 * (seed + i));
                var scene = new RenderScene(_state, shot.RenderCamera()!, _textures);
                var watch = Stopwatch.StartNew();
                var picture = Renderer.Radiance(scene, Size, Quality.Final, samples);
                seconds += watch.Elapsed.TotalSeconds;
                for (var p = 0; p < mean.Length; p++)
                {
                    mean[p] += picture[p] / count;
                }
            }
            return (mean, seconds);
        }
    }
}
