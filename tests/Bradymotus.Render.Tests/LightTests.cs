using System.Collections.Immutable;
using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;
using static Bradymotus.Render.Tests.Scenes;

namespace Bradymotus.Render.Tests;

/// <summary>Light, cameras and sampling against what can be worked out on paper.</summary>
public class LightTests
{
    private static Material Matt(double colour, params (string Path, double Value)[] more) =>
        Scenes.Matt("m", colour, more);

    /// <summary>A plane seen from straight above, without a sky, and whatever else.</summary>
    private static Shot Over(Material material, params Node[] more) => Shot.Empty("Light") with
    {
        Nodes =
        [
            new MeshNode { Id = "p", Name = "P", Shape = new PlaneShape(20, 20), Material = "m" },
            new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.translate.y", 3), ("transform.rotate.x", -90), ("camera.fov", 1)) },
            .. more,
        ],
        Materials = [material],
        World = Channels(("sky.strength", 0)),
    };

    private static LampNode Lamp(double height, double watts = 100) =>
        new() { Id = "l", Name = "L", Channels = Channels(("transform.translate.y", height), ("light.strength", watts), ("light.radius", 0.001)) };

    private static float Middle(Shot shot, Quality quality = Quality.Draft, int? samples = null) => Radiance(shot, 5, quality, samples)[12].X;

    [Theory]
    [InlineData(Quality.Draft)]
    [InlineData(Quality.Preview)]
    [InlineData(Quality.Final)]
    public void A_lamp_lights_what_is_under_it_by_the_inverse_square(Quality quality)
    {
        foreach (var height in new[] { 1.0, 2.0, 4.0 })
        {
            // E = Φ/4πh² on a surface that faces it; a matt surface sends back Eρ/π.
            var expected = 100 / (4 * Math.PI * height * height) * 0.5 / Math.PI;
            Assert.Equal(1, Middle(Over(Matt(0.5), Lamp(height)), quality, samples: 16) / expected, 0.02);
        }
    }

    [Fact]
    public void Twice_the_light_is_twice_as_bright_and_two_lamps_are_their_sum()
    {
        var one = Middle(Over(Matt(0.5), Lamp(2)));
        Assert.Equal(2, Middle(Over(Matt(0.5), Lamp(2, 200))) / one, 4);
        Assert.Equal(2, Middle(Over(Matt(0.5), Lamp(2), Lamp(2) with { Id = "l2", Name = "L2" })) / one, 4);
        Assert.Equal(0, Middle(Over(Matt(0.5), Lamp(2, 0))));
        Assert.Equal(0, Middle(Over(Matt(0.5))));
    }

    [Theory]
    [InlineData(Quality.Preview)]
    [InlineData(Quality.Final)]
    public void What_stands_between_a_light_and_a_surface_keeps_the_light_away(Quality quality)
    {
        Node Roof(double opacity, bool seen) => new MeshNode
        {
            Id = "roof",
            Name = "Roof",
            Shape = new PlaneShape(1, 1),
            Material = "m",
            // Beside the way of the eye, on the way of the light.
            Channels = Channels(("transform.translate.x", 1.5), ("transform.translate.y", 1.5), ("visible", seen ? 1 : 0)),
        };
        var lamp = Lamp(3) with { Channels = Channels(("transform.translate.x", 3), ("transform.translate.y", 3), ("light.radius", 0.001)) };
        var free = Middle(Over(Matt(0.8), lamp), quality, samples: 8);
        Assert.True(free > 0);
        var dark = Middle(Over(Matt(0.8), lamp, Roof(1, seen: true)), quality, samples: 8);
        // Final has light that comes by way of other surfaces.
        Assert.InRange(dark, 0, quality == Quality.Final ? 0.4f * free : 0);
        Assert.Equal(free, Middle(Over(Matt(0.8), lamp, Roof(1, seen: false)), quality, samples: 8), 4);
    }

    [Fact]
    public void What_glows_is_as_bright_as_it_glows()
    {
        Assert.Equal(0.5f * 3, Middle(Over(Matt(0.5, ("look.emission", 3)))), 4);
        Assert.Equal(0.5f * 3, Middle(Over(Matt(0.5, ("look.emission", 3))), Quality.Final, 4), 4);
    }

    [Fact]
    public void One_stop_more_is_twice_the_light()
    {
        byte Shown(double stops)
        {
            var shot = Over(Matt(0.5, ("look.emission", 0.2))) with { World = Channels(("sky.strength", 0), ("exposure", stops)) };
            return new FrameRenderer(shot).Render(0, new(3, 3), Quality.Draft).Rgba[16];
        }
        foreach (var stops in new[] { -2.0, -1, 0, 1, 2 })
        {
            Assert.Equal(Display.ToBytes(new(0.1f * MathF.Pow(2, (float)stops)), 1).R, Shown(stops), 1.0);
        }
    }

    [Fact]
    public void The_sky_is_seen_where_nothing_is()
    {
        var shot = Shot.Empty("Sky") with
        {
            Nodes = [new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.rotate.x", 90)) }],
            World = Channels(("sky.strength", 2), ("sky.top.r", 0.25), ("sky.top.g", 0.5), ("sky.top.b", 0.75)),
        };
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        foreach (var quality in Enum.GetValues<Quality>())
        {
            var up = Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!), new(3, 3), quality, samples: 1)[4];
            Assert.True((up - new Vector3(0.5f, 1, 1.5f)).Length() < 2e-3f, $"{quality}: {up}");
        }
    }

    [Theory]
    [InlineData(40, 1.5)]
    [InlineData(90, 1)]
    [InlineData(120, 2.35)]
    public void A_camera_sees_as_far_up_as_its_field_of_view(double fov, double aspect)
    {
        var view = See(new CameraNode { Id = "c", Name = "C" }, ("camera.fov", fov));
        Assert.Equal(-Vector3.UnitZ, view.Through(0, 0, (float)aspect).Direction);
        var top = view.Through(0, 1, (float)aspect).Direction;
        Assert.Equal(fov / 2, Math.Atan2(top.Y, -top.Z) * 180 / Math.PI, 3);
        var right = view.Through(1, 0, (float)aspect).Direction;
        Assert.Equal(Math.Tan(fov * Math.PI / 360) * aspect, right.X / -right.Z, 4);
        Assert.Equal(1, view.Through(-0.7f, 0.3f, (float)aspect).Direction.Length(), 5);
    }

    [Fact]
    public void A_parallel_camera_sees_its_height_whatever_the_distance()
    {
        var view = See(new CameraNode { Id = "c", Name = "C", Projection = Projection.Orthographic }, ("camera.near", 0.5), ("camera.far", 20));
        var corner = view.Through(1, 1, 2);
        Assert.Equal(new Vector3(4, 2, -0.5f), corner.Origin);
        Assert.Equal(19.5f, corner.Far);
        Assert.Equal(-Vector3.UnitZ, corner.Direction);
        Assert.Throws<Refusal>(() => new View(Core.Numerics.Affine.Identity.Scaled(new(1, 0, 1)), new CameraNode { Id = "c", Name = "C" }, new(40, 4, 0.1, 9, 5, 0)));
    }

    private static View See(CameraNode camera, params (string Path, double Value)[] values)
    {
        var given = values.ToDictionary(v => v.Path, v => v.Value);
        return new View(Core.Numerics.Affine.Identity, camera, Lens.Of(camera, path => given.GetValueOrDefault(path, ChannelCatalog.For(camera).Find(path)!.Default)));
    }

    /// <summary>Vertical angles of lenses on the 24 mm high frame of 35 mm film, as tables of photography print them.</summary>
    [Theory]
    [InlineData(24, 53.1)]
    [InlineData(35, 37.8)]
    [InlineData(50, 27.0)]
    [InlineData(85, 16.1)]
    [InlineData(200, 6.87)]
    public void A_focal_length_gives_the_angle_of_the_tables(double focal, double angle)
    {
        var camera = new CameraNode { Id = "c", Name = "C", Lens = LensKind.Focal };
        var top = See(camera, ("camera.focal", focal)).Through(0, 1, 1.5f).Direction;
        Assert.Equal(angle, 2 * Math.Atan2(top.Y, -top.Z) * 180 / Math.PI, 0.05);
        Assert.Equal(focal, Lens.FocalLength(Lens.AngleOf(focal, 24), 24), 6);
    }

    /// <summary>A thin lens: what is in focus is a point, what is not a disc of radius a·|d − f| / f (similar triangles), a the opening f / 2N.</summary>
    [Fact]
    public void A_lens_is_sharp_at_its_focus_and_blurs_as_a_thin_lens_does()
    {
        var camera = new CameraNode { Id = "c", Name = "C", Lens = LensKind.Focal };
        var view = See(camera, ("camera.focal", 50), ("camera.fstop", 2), ("camera.focus", 3), ("camera.near", 0.5), ("camera.far", 40));
        var middle = new Vector3(0.3f * 3 * (float)Math.Tan(13.4957 * Math.PI / 180) * 1.5f, -0.6f * 3 * (float)Math.Tan(13.4957 * Math.PI / 180), -3);
        var widest = 0f;
        for (var i = 0; i < 256; i++)
        {
            var ray = view.Through(0.3f, -0.6f, 1.5f, new((i % 16 + 0.5f) / 16, (i / 16 + 0.5f) / 16));
            var focus = ray.At((-3 - ray.Origin.Z) / ray.Direction.Z);
            Assert.True((focus - middle).Length() < 1e-4f, $"{focus} {middle}");
            Assert.Equal(-0.5f, ray.Origin.Z, 4);
            Assert.Equal(-40f, ray.At(ray.Far).Z, 2);
            var beyond = ray.At((-9 - ray.Origin.Z) / ray.Direction.Z);
            widest = Math.Max(widest, (beyond - middle * 3).Length());
        }
        Assert.InRange(widest, 0.95f * 0.0125f * 2, 0.0125f * 2 * 1.001f);
    }

    /// <summary>A (0,2)-sequence: of 256 samples each of 16×16 cells has exactly one, and so has each of the 256 strips either way.</summary>
    [Theory]
    [InlineData(0, 0)]
    [InlineData(17, 400)]
    [InlineData(1919, 1079)]
    public void The_samples_of_a_pixel_are_spread_evenly(int x, int y)
    {
        for (var dimension = 0; dimension < 3; dimension++)
        {
            var points = new List<Vector2>();
            for (uint i = 0; i < 256; i++)
            {
                var sequence = new Sequence(x, y, i, 5);
                var point = Vector2.Zero;
                for (var d = 0; d <= dimension; d++)
                {
                    point = sequence.Next2();
                }
                Assert.InRange(point.X, 0, 0.99999994f);
                Assert.InRange(point.Y, 0, 0.99999994f);
                points.Add(point);
            }
            Assert.Equal(256, points.Select(p => ((int)(p.X * 16), (int)(p.Y * 16))).Distinct().Count());
            Assert.Equal(256, points.Select(p => (int)(p.X * 256)).Distinct().Count());
            Assert.Equal(256, points.Select(p => (int)(p.Y * 256)).Distinct().Count());
        }
    }

    [Fact]
    public void Neighbouring_pixels_do_not_share_their_samples()
    {
        var here = new Sequence(10, 10, 0, 5).Next2();
        Assert.NotEqual(here, new Sequence(11, 10, 0, 5).Next2());
        Assert.NotEqual(here, new Sequence(10, 11, 0, 5).Next2());
        Assert.Equal(here, new Sequence(10, 10, 0, 5).Next2());
    }

    [Fact]
    public void Directions_are_warped_with_the_density_that_is_claimed()
    {
        var (cosine, cone) = (0.0, 0.0);
        const int count = 4096;
        var cosAngle = MathF.Cos(0.3f);
        for (uint i = 0; i < count; i++)
        {
            var u = new Sequence(3, 4, i, 1).Next2();
            var d = Warp.CosineHemisphere(u);
            Assert.Equal(1, d.Length(), 4);
            cosine += d.Z / count;
            var c = Warp.Cone(u, cosAngle);
            Assert.True(c.Z >= cosAngle - 1e-6f);
            cone += c.Z / count;
        }
        // The mean of cos θ: ∫cos²θ/π over the hemisphere is 2/3; over a cone it is the middle of its ends.
        Assert.Equal(2.0 / 3, cosine, 3);
        Assert.Equal((1 + cosAngle) / 2, cone, 4);
    }

    [Theory]
    [InlineData(0, 0, 1)]
    [InlineData(0, 0, -1)]
    [InlineData(1, 0, 0)]
    [InlineData(0.3, -0.9, -0.316)]
    public void A_frame_round_a_normal_is_right_handed_and_square(float x, float y, float z)
    {
        var n = Vector3.Normalize(new(x, y, z));
        var (t, b) = Warp.Frame(n);
        Assert.Equal(0, Vector3.Dot(t, b), 5);
        Assert.Equal(0, Vector3.Dot(t, n), 5);
        Assert.Equal(1, t.Length(), 5);
        Assert.True((Vector3.Cross(t, b) - n).Length() < 1e-5f);
    }

    [Fact]
    public void An_object_turned_inside_out_is_lit_from_outside_all_the_same()
    {
        Node Ball(double scale) => new MeshNode
        {
            Id = "b",
            Name = "B",
            Shape = new SphereShape(0.5),
            Material = "m",
            Channels = Channels(("transform.translate.y", 1), ("transform.scale.x", scale)),
        };
        var plain = Middle(Over(Matt(0.5), Lamp(2.9), Ball(1)));
        Assert.True(plain > 0);
        Assert.Equal(plain, Middle(Over(Matt(0.5), Lamp(2.9), Ball(-1))), 4);
        // Scaled to nothing it is not there: the plane below is seen.
        Assert.Equal(Middle(Over(Matt(0.5), Lamp(2.9))), Middle(Over(Matt(0.5), Lamp(2.9), Ball(0))), 4);
    }

    [Fact]
    public void Rays_that_are_short_hit_only_what_is_near()
    {
        var box = new BoxShape().Build();
        var tree = new TriangleMesh(box.Positions, box.Indices);
        Assert.True(tree.Trace(new Ray(new(0, 0, 2), -Vector3.UnitZ)).IsHit);
        Assert.Equal(1.5f, tree.Trace(new Ray(new(0, 0, 2), -Vector3.UnitZ)).T, 5);
        Assert.False(tree.Trace(new Ray(new(0, 0, 2), -Vector3.UnitZ, 1.4f)).IsHit);
        Assert.True(tree.Trace(new Ray(new(0, 0, 2), -Vector3.UnitZ, 1.6f)).IsHit);
        Assert.False(tree.Trace(new Ray(new(0, 0, 2), Vector3.UnitZ)).IsHit);
        // From inside, the far wall.
        Assert.Equal(0.5f, tree.Trace(new Ray(Vector3.Zero, Vector3.UnitX)).T, 5);
    }
}
