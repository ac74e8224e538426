using System.Collections.Immutable;
using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using SkiaSharp;

namespace Bradymotus.Render.Tests;

/// <summary>Layers of surfaces, and what is laid onto them.</summary>
public sealed class MaterialTests
{
    internal const string Sha = "0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef";

    private static readonly (string, double)[] WhiteSky = [.. new[] { "top", "horizon", "ground" }.SelectMany(p => "rgb".Select(c => ($"sky.{p}.{c}", 1.0)))];

    internal static Material White(params (string Path, double Value)[] more) =>
        new("m", "M", Scenes.Channels(("look.color.r", 1), ("look.color.g", 1), ("look.color.b", 1)).SetItems(Scenes.Channels(more)));

    internal static Vector3[] Look(Shot shot, int size, Quality quality, int samples, ShotAssets? assets = null)
    {
        var state = new FrameState(new CompiledShot(shot), assets);
        state.Evaluate(0);
        return Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!, new Textures(assets)), new(size, size), quality, samples);
    }

    private static Shot Ball(Material material) => Shot.Empty("Ball") with
    {
        Nodes =
        [
            new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(1, 96, 64), Material = "m" },
            new CameraNode { Id = "c", Name = "C", Channels = Scenes.Channels(("transform.translate.z", 3)) },
        ],
        Materials = [material],
        World = Scenes.Channels(WhiteSky),
    };

    /// <summary>A square metre on the ground, looked at from above so that it fills the picture, −Z up.</summary>
    internal static Shot Floor(Material material, params Node[] more) => Shot.Empty("Floor") with
    {
        Nodes =
        [
            new MeshNode { Id = "floor", Name = "Floor", Shape = new PlaneShape(1, 1), Material = "m" },
            new CameraNode { Id = "c", Name = "C", Projection = Projection.Orthographic, Channels = Scenes.Channels(("camera.height", 1), ("transform.translate.y", 3), ("transform.rotate.x", -90)) },
            .. more,
        ],
        Materials = [material],
        World = Scenes.Channels(WhiteSky),
    };

    internal static SunNode Sun(double degrees) => new() { Id = "s", Name = "S", Channels = Scenes.Channels(("transform.rotate.x", -90 + degrees), ("light.strength", Math.PI), ("light.angle", 0)) };

    internal static Shot Dark(Shot shot) => shot with { World = Scenes.Channels(("sky.strength", 0)) };

    internal static ShotAssets Picture(int width, int height, Func<int, int, SKColor> pixel)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Unpremul));
        for (var y = 0; y < height; y++)
        {
            for (var x = 0; x < width; x++)
            {
                bitmap.SetPixel(x, y, pixel(x, y));
            }
        }
        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        var assets = new ShotAssets();
        assets.Put(Sha, data.ToArray());
        return assets;
    }

    private static SurfaceMap Map(MapSlot slot, PicturePart part = PicturePart.All) => new(slot, new PictureSource(Sha, "p.png", 2, 2, part, PictureWrap.Clamp, PictureWrap.Clamp));

    /// <summary>The white furnace with every layer: whatever comes in goes out.</summary>
    [Theory]
    [InlineData("look.coat", 1, "look.coatRoughness", 0.05)]
    [InlineData("look.coat", 1, "look.coatRoughness", 0.8)]
    [InlineData("look.sheen", 1, "look.sheenRoughness", 0.2)]
    [InlineData("look.sheen", 1, "look.sheenRoughness", 0.9)]
    [InlineData("look.glass", 1, "look.roughness", 0)]
    [InlineData("look.glass", 1, "look.roughness", 0.6)]
    [InlineData("look.glass", 0.5, "look.ior", 2.2)]
    [InlineData("look.thin", 1, "look.glass", 1)]
    [InlineData("look.subsurface", 1, "look.subsurfaceRadius", 0.2)]
    [InlineData("look.ior", 2.4, "look.roughness", 0.3)]
    public void A_white_ball_of_every_kind_disappears_under_a_white_sky(string path, double value, string other, double also)
    {
        var radiance = Look(Ball(White((path, value), (other, also))), 24, Quality.Final, 128);
        Assert.InRange(radiance.Average(r => (double)r.X), 0.975, 1.012);
    }

    [Fact]
    public void All_layers_at_once_lose_nothing_either()
    {
        var material = White(("look.coat", 0.6), ("look.sheen", 0.5), ("look.glass", 0.3), ("look.subsurface", 0.5), ("look.metallic", 0.2));
        Assert.InRange(Look(Ball(material), 24, Quality.Final, 128).Average(r => (double)r.X), 0.95, 1.015);
        Assert.InRange(Look(Ball(material), 24, Quality.Preview, 128).Average(r => (double)r.X), 0.9, 1.05);
    }

    /// <summary>Fresnel's equations for n = 1.5 (E. Hecht, "Optics", section 4.6): 4 % straight on, 8.92 % at 60°, all beyond 41.81° from inside; Snell's law.</summary>
    [Fact]
    public void Glass_reflects_and_bends_as_the_textbook_has_it()
    {
        Assert.Equal(0.04, Dielectric.Reflected(1, 1 / 1.5f), 4);
        Assert.Equal(0.0892, Dielectric.Reflected(0.5f, 1 / 1.5f), 3);
        Assert.Equal(1, Dielectric.Reflected(MathF.Cos(41.9f * MathF.PI / 180), 1.5f));
        Assert.True(Dielectric.Reflected(MathF.Cos(41.7f * MathF.PI / 180), 1.5f) < 1);
        Assert.Equal(0.04, Dielectric.Facing(1.5f), 5);
        var t = Dielectric.Refracted(new(MathF.Sin(0.7f), 0, MathF.Cos(0.7f)), Vector3.UnitZ, 1 / 1.5f);
        Assert.Equal(MathF.Sin(0.7f) / 1.5, -t.X, 5);
        Assert.Equal(1, t.Length(), 5);
    }

    /// <summary>Through a plane-parallel slab a ray goes on beside itself by t·sin θ·(1 − cos θ ÷ √(n² − sin² θ)) (Hecht, problem 4.24).</summary>
    [Fact]
    public void A_slab_of_glass_shifts_what_is_behind_it()
    {
        const double thickness = 0.2, n = 1.6, tilt = 40;
        var edge = new SurfaceMap(MapSlot.Emission, new ChecksPattern(), MapProjection.Planar);
        var behind = new Material("m", "M", Scenes.Channels(("look.color.r", 1), ("look.color.g", 1), ("look.color.b", 1), ("look.emission", 1),
            // Checks so wide that one edge, at x = 0, is in sight.
            ("map.emission.scale.x", 0.05), ("map.emission.scale.y", 0.05), ("map.emission.offset.x", -0.025), ("map.emission.offset.y", 0.2)))
        { Maps = [edge] };
        var glass = new Material("g", "G", Scenes.Channels(("look.glass", 1), ("look.ior", n), ("look.roughness", 0), ("look.color.r", 1), ("look.color.g", 1), ("look.color.b", 1)));
        double Edge(bool slab)
        {
            var shot = Shot.Empty("Slab") with
            {
                Nodes =
                [
                    new MeshNode { Id = "wall", Name = "Wall", Shape = new BoxShape(4, 4, 0.01), Material = "m", Channels = Scenes.Channels(("transform.translate.z", -2)) },
                    .. slab ? [new MeshNode { Id = "slab", Name = "Slab", Shape = new BoxShape(3, 3, thickness), Material = "g", Channels = Scenes.Channels(("transform.rotate.y", tilt)) }] : ImmutableArray<Node>.Empty,
                    new CameraNode { Id = "c", Name = "C", Projection = Projection.Orthographic, Channels = Scenes.Channels(("camera.height", 0.5), ("transform.translate.z", 4)) },
                ],
                Materials = [behind, glass],
                World = Scenes.Channels(("sky.strength", 0)),
            };
            var row = Look(shot, 64, Quality.Final, 64);
            // Where the middle row crosses half of its brightness.
            var line = Enumerable.Range(0, 64).Select(x => (double)row[32 * 64 + x].X).ToArray();
            var half = (line[0] + line[63]) / 2;
            var at = Enumerable.Range(0, 63).First(i => (line[i] - half) * (line[i + 1] - half) <= 0 && line[i] != line[i + 1]);
            return (at + 0.5 + (line[at] - half) / (line[at] - line[at + 1])) / 64 * 0.5;
        }
        var sin = Math.Sin(tilt * Math.PI / 180);
        var expected = thickness * sin * (1 - Math.Cos(tilt * Math.PI / 180) / Math.Sqrt(n * n - sin * sin));
        Assert.Equal(expected, Math.Abs(Edge(true) - Edge(false)), 0.006);
    }

    [Fact]
    public void A_shadow_behind_glass_is_a_tinted_one()
    {
        var glass = new Material("g", "G", Scenes.Channels(("look.glass", 1), ("look.thin", 1), ("look.roughness", 0), ("look.color.r", 1), ("look.color.g", 0.5), ("look.color.b", 0)));
        var pane = new MeshNode { Id = "pane", Name = "Pane", Shape = new PlaneShape(9, 9), Material = "g", Channels = Scenes.Channels(("transform.translate.y", 4)) };
        var shot = Dark(Floor(Scenes.Matt("m", 0.5), pane, Sun(0)));
        shot = shot with { Materials = shot.Materials.Add(glass) };
        var open = Look(Dark(Floor(Scenes.Matt("m", 0.5), Sun(0))), 2, Quality.Final, 64).Average(r => (double)r.X);
        var lit = Look(shot, 2, Quality.Final, 64);
        // Straight on 4 % are reflected at each side.
        Assert.Equal(open * 0.96, lit.Average(r => (double)r.X), 0.02);
        Assert.Equal(open * 0.48, lit.Average(r => (double)r.Y), 0.02);
        Assert.InRange(lit.Average(r => (double)r.Z), 0, 0.03);
    }

    [Theory]
    [InlineData(0.3)]
    [InlineData(0.8)]
    public void Light_within_leaves_about_the_colour_that_was_asked_for(double colour)
    {
        // Light that wanders a hundredth of the ball stays where it is: as matt. A dielectric of index 1 has no mirror.
        double Of(double subsurface) => Look(
            Ball(White(("look.color.r", colour), ("look.color.g", colour), ("look.color.b", colour), ("look.ior", 1), ("look.roughness", 1), ("look.subsurface", subsurface), ("look.subsurfaceRadius", 0.01)))
                with
            { World = Scenes.Channels(WhiteSky) }, 16, Quality.Final, 128)[8 * 16 + 8].X;
        Assert.Equal(Of(0), Of(1), 0.06);
    }

    /// <summary>glTF 2.0, section 3.8.1 (Figure: the upper left corner is (0, 0)) and 3.9.2 (base colour is sRGB).</summary>
    [Fact]
    public void A_picture_lies_upright_and_its_colours_are_made_linear()
    {
        SKColor[] corners = [new(255, 0, 0), new(0, 255, 0), new(0, 0, 255), new(188, 188, 188)];
        var assets = Picture(2, 2, (x, y) => corners[2 * y + x]);
        var glow = White(("look.emission", 1)) with { Maps = [Map(MapSlot.Emission)] };
        var seen = Look(Dark(Floor(glow with { Channels = glow.Channels!.SetItems(Scenes.Channels(("look.roughness", 1))) })), 8, Quality.Draft, 1, assets);
        Assert.Equal(new Vector3(1, 0, 0), seen[0 * 8 + 0], Near(0.02f));
        Assert.Equal(new Vector3(0, 1, 0), seen[0 * 8 + 7], Near(0.02f));
        Assert.Equal(new Vector3(0, 0, 1), seen[7 * 8 + 0], Near(0.02f));
        // IEC 61966-2-1: 188 of 255 is 0.5029.
        Assert.Equal(new Vector3(0.5029f), seen[7 * 8 + 7], Near(0.005f));
    }

    /// <summary>glTF 2.0, section 3.9.3: a tangent-space normal of (sin, 0, cos) leans along u, one of (0, sin, cos) up the picture; Lambert's law does the rest.</summary>
    [Theory]
    [InlineData(0, 0)]
    [InlineData(30, 0)]
    [InlineData(0, 30)]
    [InlineData(-30, 0)]
    public void A_normal_map_leans_the_normal(double along, double up)
    {
        static byte Byte(double n) => (byte)Math.Round((n + 1) / 2 * 255);
        var (x, y) = (Math.Sin(along * Math.PI / 180), Math.Sin(up * Math.PI / 180));
        var assets = Picture(2, 2, (_, _) => new(Byte(x), Byte(y), Byte(Math.Sqrt(1 - x * x - y * y))));
        // The sun stands 20° from straight up, towards +Z: down in the picture.
        var lit = Look(Dark(Floor(Scenes.Matt("m", 0.5) with { Maps = [Map(MapSlot.Normal)] }, Sun(-20))), 2, Quality.Draft, 1, assets)[0].X;
        var flat = Look(Dark(Floor(Scenes.Matt("m", 0.5), new SunNode { Id = "s", Name = "S", Channels = Sun(-20).Channels })), 2, Quality.Draft, 1)[0].X;
        Assert.Equal(0.5 * Math.Cos(20 * Math.PI / 180), flat, 0.001);
        var toSun = SunDirection(-20);
        // Up the picture is −Z.
        var normal = new Vector3((float)x, (float)Math.Sqrt(1 - x * x - y * y), (float)-y);
        Assert.Equal(0.5 * Math.Max(0, Vector3.Dot(normal, toSun)), lit, 0.004);
    }

    /// <summary>A ramp of height s·u has the slope s: its normal is (−s, 1) of length √(1 + s²).</summary>
    [Theory]
    [InlineData(0.5)]
    [InlineData(-0.25)]
    public void A_bump_map_leans_the_normal_by_its_slope(double height)
    {
        var assets = Picture(256, 4, (x, _) => new((byte)x, (byte)x, (byte)x));
        var map = new SurfaceMap(MapSlot.Bump, new PictureSource(Sha, "ramp.png", 256, 4, PicturePart.Red, PictureWrap.Clamp, PictureWrap.Clamp));
        var sun = new SunNode { Id = "s", Name = "S", Channels = Scenes.Channels(("transform.rotate.x", -90), ("light.strength", Math.PI), ("light.angle", 0)) };
        var matt = Scenes.Matt("m", 0.5, ("map.bump.strength", height)) with { Maps = [map] };
        var lit = Look(Dark(Floor(matt, sun)), 8, Quality.Draft, 1, assets);
        Assert.Equal(0.5 / Math.Sqrt(1 + height * height), lit[3 * 8 + 3].X, 0.02);
        var leaning = new SunNode { Id = "s", Name = "S", Channels = Scenes.Channels(("transform.rotate.z", -60), ("transform.rotate.x", -90), ("light.strength", Math.PI), ("light.angle", 0)) };
        var state = Look(Dark(Floor(matt, leaning)), 8, Quality.Draft, 1, assets)[3 * 8 + 3].X;
        var flat = Look(Dark(Floor(Scenes.Matt("m", 0.5), leaning)), 8, Quality.Draft, 1)[3 * 8 + 3].X;
        var toSun = DirectionOf(leaning);
        var normal = Vector3.Normalize(new((float)-height, 1, 0));
        Assert.Equal(0.5 * toSun.Y, flat, 0.001);
        Assert.Equal(0.5 * Math.Max(0, Vector3.Dot(normal, toSun)), state, 0.02);
    }

    [Fact]
    public void Checks_in_the_opacity_let_half_of_the_light_through()
    {
        var sieve = new Material("g", "G", Scenes.Channels(("look.color.r", 0), ("look.color.g", 0), ("look.color.b", 0))) { Maps = [new(MapSlot.Opacity, new ChecksPattern(), MapProjection.Solid)] };
        var pane = new MeshNode { Id = "pane", Name = "Pane", Shape = new PlaneShape(8, 8), Material = "g", Channels = Scenes.Channels(("transform.translate.y", 4)) };
        var shot = Dark(Floor(Scenes.Matt("m", 0.5), pane, Sun(0)));
        var lit = Look(shot with { Materials = shot.Materials.Add(sieve) }, 32, Quality.Final, 16);
        Assert.Equal(0.25, lit.Average(r => (double)r.X), 0.02);
        // Sharp: each place has all of the sun or none.
        Assert.True(lit.Count(r => r.X is < 0.02f or > 0.45f) > 0.7 * lit.Length);
    }

    [Fact]
    public void A_picture_that_glows_lights_as_much_as_it_shows()
    {
        // Half of it is dark: half of the light of one that glows all over, near or far.
        var assets = Picture(2, 2, (x, _) => x == 0 ? SKColors.White : SKColors.Black);
        double Of(bool mapped, Quality quality)
        {
            var glow = White(("look.emission", 1)) with { Id = "g", Maps = mapped ? [Map(MapSlot.Emission)] : [] };
            var panel = new MeshNode { Id = "panel", Name = "Panel", Shape = new PlaneShape(2, 2), Material = "g", Channels = Scenes.Channels(("transform.translate.y", 3.5), ("transform.rotate.x", 180)) };
            var shot = Dark(Floor(Scenes.Matt("m", 0.5), panel));
            return Look(shot with { Materials = [.. shot.Materials, glow] }, 8, quality, 256, assets).Average(r => (double)r.X);
        }
        Assert.Equal(0.5, Of(true, Quality.Final) / Of(false, Quality.Final), 0.03);
    }

    /// <summary>Behind something clear the camera sees as far as it does without it.</summary>
    [Theory]
    [InlineData(Quality.Draft)]
    [InlineData(Quality.Final)]
    public void What_is_beyond_the_far_plane_is_not_seen_through_what_is_clear_either(Quality quality)
    {
        var clear = new Material("g", "G", Scenes.Channels(("look.opacity", 0)));
        var pane = new MeshNode { Id = "pane", Name = "Pane", Shape = new PlaneShape(8, 8), Material = "g", Channels = Scenes.Channels(("transform.translate.y", 1)) };
        float Seen(double far)
        {
            var shot = Dark(Floor(White(("look.emission", 1)), pane));
            shot = shot with { Materials = shot.Materials.Add(clear) };
            return Look(shot.With(ChannelAddress.Parse("c/camera.far"), new Channel(far)), 3, quality, 32)[4].X;
        }
        Assert.Equal(1, Seen(3.5), 0.001f);
        Assert.Equal(0, Seen(2.5));
    }

    [Fact]
    public void Colours_of_vertices_tint_the_material()
    {
        var plane = new PlaneShape(1, 1).Build();
        var coloured = plane with { Colors = [.. Enumerable.Range(0, plane.VertexCount).SelectMany(_ => new[] { 1f, 0.5f, 0.25f, 1 })] };
        var assets = new ShotAssets();
        assets.Put(Sha, coloured);
        var shot = Dark(Floor(White(("look.emission", 0)), Sun(0)));
        shot = shot with { Nodes = shot.Nodes.Replace(shot.Node("floor"), new MeshNode { Id = "floor", Name = "Floor", Shape = new AssetShape(Sha, plane.VertexCount, plane.TriangleCount), Material = "m" }) };
        var lit = Look(shot, 2, Quality.Draft, 1, assets)[0];
        Assert.Equal(new Vector3(1, 0.5f, 0.25f), lit, Near(0.001f));
    }

    [Fact]
    public void A_pattern_stays_on_a_shape_that_is_bent()
    {
        // Twisted by a turn and a half, the side that was in front shows what it showed, at another place.
        var map = new SurfaceMap(MapSlot.Emission, new ChecksPattern(), MapProjection.Solid);
        var box = new MeshNode { Id = "box", Name = "Box", Shape = new BoxShape(1, 1, 1, 8), Material = "m", Deformers = [new Core.Shaping.TwistDeformer { Id = "t" }] };
        var straight = Checks(0);
        var twisted = Checks(180);
        // The upper edge is turned to the back: a point reads what the point opposite read.
        Assert.Equal(straight.Upper, twisted.Opposite);
        Assert.NotEqual(straight.Upper, straight.Opposite);

        (float Upper, float Opposite) Checks(double angle)
        {
            var shot = Ball(White(("look.emission", 1), ("map.emission.offset.x", 0.25), ("map.emission.scale.y", 0.1)) with { Maps = [map] });
            shot = Dark(shot with { Nodes = [box with { Channels = Scenes.Channels(("deform.t.angle", angle)) }, shot.Nodes[1]] });
            var state = new FrameState(new CompiledShot(shot));
            state.Evaluate(0);
            var scene = new RenderScene(state, shot.RenderCamera()!);
            float At(float x) => scene.PointAt(Down(x), scene.Trace(Down(x))).Surface.Emission.X;
            return (At(0.2f), At(-0.2f));
        }
        static Rays.Ray Down(float x) => new(new(x, 3, x * 0.5f), -Vector3.UnitY);
    }

    [Fact]
    public void Damaged_missing_and_enormous_pictures_are_refused_with_a_sentence()
    {
        var shot = Floor(White() with { Maps = [Map(MapSlot.Color)] });
        Assert.Contains("p.png", Assert.Throws<Refusal>(() => Look(shot, 1, Quality.Draft, 1)).Message, StringComparison.Ordinal);
        var assets = new ShotAssets();
        assets.Put(Sha, [0x89, 0x50, 0x4E, 0x47, 1, 2, 3]);
        Assert.Contains("cannot be read", Assert.Throws<Refusal>(() => Look(shot, 1, Quality.Draft, 1, assets)).Message, StringComparison.Ordinal);
        // A header that says 60,000 × 60,000, and hardly any bytes: nothing is unpacked.
        using var bitmap = new SKBitmap(new SKImageInfo(4, 4));
        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        var bomb = data.ToArray();
        System.Buffers.Binary.BinaryPrimitives.WriteInt32BigEndian(bomb.AsSpan(16), 60_000);
        System.Buffers.Binary.BinaryPrimitives.WriteInt32BigEndian(bomb.AsSpan(20), 60_000);
        System.Buffers.Binary.BinaryPrimitives.WriteUInt32BigEndian(bomb.AsSpan(29), Pngs.Crc(bomb.AsSpan(12, 17)));
        assets.Put(Sha, bomb);
        var message = Assert.Throws<Refusal>(() => Look(shot, 1, Quality.Draft, 1, assets)).Message;
        Assert.Contains("60000", message, StringComparison.Ordinal);
    }

    private static Vector3 SunDirection(double degrees) => DirectionOf(Sun(degrees));

    internal static Vector3 DirectionOf(SunNode sun)
    {
        var state = new FrameState(new CompiledShot(Shot.Empty("S") with { Nodes = [sun] }));
        state.Evaluate(0);
        var z = state.World[0].Z;
        return new((float)z.X, (float)z.Y, (float)z.Z);
    }

    private static IEqualityComparer<Vector3> Near(float within) => EqualityComparer<Vector3>.Create((a, b) => (a - b).Length() < within, _ => 0);
}
