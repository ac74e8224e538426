using System.Collections.Concurrent;
using System.Numerics;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using static Bradymotus.Render.Tests.Scenes;

namespace Bradymotus.Render.Tests;

/// <summary>
/// What must hold for the light of every scene, at 64×36 on six that are hard in different ways: their means are compared, not their grain.
/// </summary>
public class LightLawTests
{
    private static readonly PictureSize Size = new(64, 36);

    private static CameraNode Camera(double y, double z, double pitch = 0, double fov = 50) => new()
    {
        Id = "cam",
        Name = "Cam",
        Channels = Channels(("transform.translate.y", y), ("transform.translate.z", z), ("transform.rotate.x", pitch), ("camera.fov", fov)),
    };

    private static MeshNode Box(string id, double x, double y, double z, double width, double height, double depth, string material = "grey") => new()
    {
        Id = id,
        Name = id,
        Shape = new BoxShape(width, height, depth),
        Material = material,
        Channels = Channels(("transform.translate.x", x), ("transform.translate.y", y), ("transform.translate.z", z)),
    };

    private static LampNode Lamp(string id, double x, double y, double z, double watts, double radius = 0.1) => new()
    {
        Id = id,
        Name = id,
        Channels = Channels(("transform.translate.x", x), ("transform.translate.y", y), ("transform.translate.z", z), ("light.strength", watts), ("light.radius", radius)),
    };

    private static Shot Of(double sky, params IEnumerable<Node> nodes) => Shot.Empty("Law") with
    {
        Size = Size,
        Nodes = [.. nodes],
        Materials =
        [
            Matt("grey", 0.6), Matt("floor", 0.4),
            Matt("glass", 0.95, ("look.glass", 1), ("look.roughness", 0.05), ("look.ior", 1.5)),
            Matt("wax", 0.8, ("look.subsurface", 1), ("look.subsurfaceRadius", 0.2), ("look.roughness", 0.6)),
        ],
        World = Channels(("sky.strength", sky)),
    };

    /// <summary>A closed room of 6 × 3 × 6 m with a hole in it where it is asked for; the camera stands inside.</summary>
    private static IEnumerable<Node> Room(bool window = false)
    {
        yield return Box("ground", 0, -0.1, 0, 6.4, 0.2, 6.4, "floor");
        yield return Box("ceiling", 0, 3.1, 0, 6.4, 0.2, 6.4);
        yield return Box("back", 0, 1.5, -3.1, 6.4, 3, 0.2);
        yield return Box("front", 0, 1.5, 3.1, 6.4, 3, 0.2);
        yield return Box("right", 3.1, 1.5, 0, 0.2, 3, 6);
        if (!window)
        {
            yield return Box("left", -3.1, 1.5, 0, 0.2, 3, 6);
            yield break;
        }
        yield return Box("left", -3.1, 1.5, 2.25, 0.2, 3, 1.5);
        yield return Box("left2", -3.1, 1.5, -2.25, 0.2, 3, 1.5);
        yield return Box("sill", -3.1, 0.35, 0, 0.2, 0.7, 3);
        yield return Box("lintel", -3.1, 2.8, 0, 0.2, 0.4, 3);
    }

    private static Shot Scene(string name) => name switch
    {
        // The lamp hangs behind a wall that leaves a gap at the ceiling: all that is seen is lit by way of it.
        "indirect" => Of(0, [.. Room(), Box("screen", 0, 0.65, 0.5, 6, 1.3, 0.1), Lamp("lamp", 0, 1, 1.5, 60, 0.25), Camera(1.4, 0.2)]),
        "dim beside strong" => Of(0, [.. Room(), Lamp("strong", 1, 2.5, -1, 80), Lamp("dim", -2.2, 0.4, -2.2, 0.8, 0.02), Box("post", -1, 0.7, -1.5, 0.4, 1.4, 0.4), Camera(1.4, 2.6, -5)]),
        "window" => Of(3, [.. Room(window: true), Camera(1.4, 2.6, -5)]),
        "glass over a floor" => Of(0.4,
        [
            Box("ground", 0, -0.1, 0, 8, 0.2, 8, "floor"), Box("pane", 0, 0.8, 0, 2, 0.1, 2, "glass"),
            Box("cube", 0.3, 0.25, 0, 0.4, 0.5, 0.4), Lamp("lamp", 0.6, 2.4, 0.4, 60, 0.2), Camera(2.2, 3, -30),
        ]),
        "200 lamps" => Of(0,
        [
            Box("ground", 0, -0.1, 0, 40, 0.2, 40, "floor"), Box("wall", 0, 2, -9, 40, 4, 0.2), Camera(3, 10, -15),
            .. Enumerable.Range(0, 200).Select(i => Lamp($"l{i}", -9.5 + i % 20, 0.4 + i * 7 % 5 * 0.3, -8 + i / 20 * 1.5, 0.2 + i * 13 % 7 * 0.6, 0.03)),
        ]),
        "wax" => Of(0.1, [Box("ground", 0, -0.1, 0, 8, 0.2, 8, "floor"), Box("candle", 0, 0.6, 0, 0.6, 1.2, 0.6, "wax"), Box("core", 0, 0.6, 0, 0.1, 1, 0.1), Lamp("lamp", 0.8, 1.4, -0.8, 30), Camera(1.2, 3, -10)]),
        _ => throw new ArgumentException(name),
    };

    public static TheoryData<string> Names => ["indirect", "dim beside strong", "window", "glass over a floor", "200 lamps", "wax"];

    /// <summary>Frames differ in nothing but their random numbers.</summary>
    private static Vector3[] Render(Shot shot, int samples, int frame = 0, PictureSize? size = null)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(frame);
        return Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!), size ?? Size, Quality.Final, samples);
    }

    private static double Grey(Vector3 v) => (v.X + v.Y + v.Z) / 3.0;

    private static double Mean(Vector3[] picture) => picture.Average(Grey);

    // Pictures that several laws look at are rendered once.
    private static readonly ConcurrentDictionary<(string, int, int), Vector3[]> Rendered = new();

    private static Vector3[] Known(string name, int samples, int seed) => Rendered.GetOrAdd((name, samples, seed), _ => Render(Scene(name), samples, seed));

    /// <summary>With fewer samples than are shared out, every pixel gets as many.</summary>
    private const int Plain = 31;

    /// <summary>The mean over as many seeds as bring how far it may be off (its standard error) to a part of it.</summary>
    private static (double Mean, double Error) MeanOf(Func<int, Vector3[]> picture, double enough, int most = 400)
    {
        var means = new List<double>();
        while (true)
        {
            means.Add(Mean(picture(means.Count)));
            var mean = means.Average();
            var error = Math.Sqrt(means.Sum(m => (m - mean) * (m - mean)) / Math.Max(1, means.Count - 1) / means.Count);
            if (means.Count >= 8 && error <= enough * mean)
            {
                return (mean, error);
            }
            Assert.True(means.Count < most, $"After {most} pictures their mean may still be off by {error / mean:P2}.");
        }
    }

    /// <summary>The picture of the usual 64 samples, shared out by where it is grainy, has the mean of plain samples.</summary>
    [Theory]
    [MemberData(nameof(Names))]
    public void Sharing_out_samples_does_not_change_the_mean(string name)
    {
        var (plain, _) = MeanOf(seed => Known(name, Plain, seed), 0.003);
        var (shared, _) = MeanOf(seed => Known(name, 64, seed), 0.003);
        Assert.InRange(shared / plain, 0.99, 1.01);
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void Another_light_darkens_nothing(string name)
    {
        var shot = Scene(name);
        const int seeds = 8;
        var before = Enumerable.Range(0, seeds).Select(seed => Known(name, Plain, seed)).ToList();
        foreach (var watts in new[] { 0.001, 5 })
        {
            var more = shot with { Nodes = shot.Nodes.Add(Lamp("more", 0.2, 2.2, 1, watts)) };
            var after = Enumerable.Range(500, seeds).Select(seed => Render(more, Plain, seed)).ToList();
            double Error(List<Vector3[]> of, int i)
            {
                var mean = of.Average(p => Grey(p[i]));
                return of.Sum(p => (Grey(p[i]) - mean) * (Grey(p[i]) - mean)) / (seeds - 1) / seeds;
            }
            // Of 2,304 pixels a few lie beyond three standard errors by chance, more where 8 seeds know their errors badly; none far.
            var darker = Enumerable.Range(0, before[0].Length).Count(i =>
                after.Average(p => Grey(p[i])) < before.Average(p => Grey(p[i])) - 3 * Math.Sqrt(Error(before, i) + Error(after, i)));
            Assert.True(darker <= 23, $"{name}: {darker} of {before[0].Length} pixels are darker with {watts} W more.");
            var (dark, light) = (before.Average(Mean), after.Average(Mean));
            Assert.True(light >= dark * 0.985, $"{name}: the mean is {light / dark:0.000} of what it was with {watts} W more.");
        }
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void Twice_as_strong_is_twice_as_bright_and_the_order_of_lamps_does_not_matter(string name)
    {
        var shot = Scene(name);
        var once = Render(shot, 16);
        Node Twice(Node node) => node is LampNode ? node with { Channels = node.Channels!.SetItem("light.strength", new(2 * node.Channels["light.strength"].Value)) } : node;
        var twice = Render(shot with { Nodes = [.. shot.Nodes.Select(Twice)], World = Channels(("sky.strength", 2 * shot.World!["sky.strength"].Value)) }, 16);
        for (var i = 0; i < once.Length; i++)
        {
            Assert.Equal(2 * Grey(once[i]), Grey(twice[i]), 1e-3 * (1e-4 + 2 * Grey(once[i])));
        }
        Assert.Equal(once, Render(shot with { Nodes = [.. shot.Nodes.Where(n => n is not LampNode), .. shot.Nodes.Where(n => n is LampNode).Reverse()] }, 16));
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void The_background_lights_nothing(string name)
    {
        var shot = Scene(name);
        Shot Behind(double colour) => shot with { Background = Background.Color, World = shot.World!.SetItems(Channels(("background.r", colour), ("background.g", colour), ("background.b", colour))) };
        var (dark, bright) = (Render(Behind(0), 16), Render(Behind(1000), 16));
        // Where nothing is of it in a pixel, not a bit is another.
        var same = 0;
        for (var i = 0; i < dark.Length; i++)
        {
            if (bright[i].X < 1000.0 / 17)
            {
                Assert.Equal(dark[i], bright[i]);
                same++;
            }
        }
        Assert.True(same > 1000);
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void Half_the_size_has_the_same_mean(string name)
    {
        var shot = Scene(name);
        var (large, _) = MeanOf(seed => Known(name, Plain, seed), 0.003);
        var (small, _) = MeanOf(seed => Render(shot, Plain, seed, new(32, 18)), 0.004);
        Assert.InRange(small / large, 0.985, 1.015);
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void A_still_sequence_does_not_pop(string name)
    {
        var means = Enumerable.Range(0, 8).Select(f => Mean(Known(name, 64, f))).ToList();
        var mean = means.Average();
        var varies = Math.Sqrt(means.Sum(m => (m - mean) * (m - mean)) / (means.Count - 1)) / mean;
        Assert.True(varies < 0.005, $"{name} varies by {varies:P2}: {string.Join(" ", means.Select(m => $"{m / mean - 1:P2}"))}");
    }
}
