using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Render.Light;
using Bradymotus.Render.Pictures;
using Bradymotus.Render.Rays;
using static Bradymotus.Render.Tests.Scenes;

namespace Bradymotus.Render.Tests;

public class RenderTests
{
    private static readonly PictureSize Small = new(96, 54);

    private static Shot Demo() => ShotJson.ReadShot(File.ReadAllText(Repository.Demo));

    [Theory]
    [InlineData(Quality.Draft, 2)]
    [InlineData(Quality.Preview, 2)]
    [InlineData(Quality.Final, 2)]
    [InlineData(Quality.Final, 32)]
    public void The_number_of_threads_does_not_change_a_bit(Quality quality, int samples)
    {
        byte[] With(int threads) => new FrameRenderer(Demo()).Render(30, Small, quality, samples, threads: threads).Rgba;
        var one = With(1);
        Assert.Equal(one, With(2));
        Assert.Equal(one, With(5));
        Assert.True(one.Distinct().Count() > 50, "there is something in the picture");
    }

    /// <summary>The samples of a final picture go where it is grainy: half of it empty, the other half gets more than its share and is smoother than its share would make it.</summary>
    [Fact]
    public void A_final_picture_is_worked_on_where_it_is_grainy()
    {
        Shot Room(double width) => Shot.Empty("Room") with
        {
            Nodes =
            [
                // Seen from afar the lit corner fills an eighth of the picture; with a narrow lens all of it.
                new MeshNode { Id = "f", Name = "F", Shape = new PlaneShape(4, 4), Material = "m" },
                new MeshNode { Id = "w", Name = "W", Shape = new BoxShape(4, 4, 0.1), Material = "m", Channels = Channels(("transform.translate.z", -2), ("transform.translate.y", 2)) },
                new LampNode { Id = "l", Name = "L", Channels = Channels(("transform.translate.y", 1), ("light.radius", 0.5), ("light.strength", 30)) },
                new CameraNode { Id = "c", Name = "C", Projection = Projection.Orthographic, Channels = Channels(("camera.height", width), ("transform.translate.y", 1.5), ("transform.translate.z", 6), ("transform.rotate.x", -10)) },
            ],
            Materials = [Scenes.Matt("m", 0.8)],
            World = Channels(("sky.strength", 0)),
        };
        double Grain(double width, int samples)
        {
            var shot = Room(width);
            var pixels = Scenes.Radiance(shot, 32, Quality.Final, samples);
            var exact = Scenes.Radiance(shot, 32, Quality.Final, 1024);
            // Over the middle eighth, which in both pictures is the lit corner.
            var (sum, mean) = (0.0, 0.0);
            for (var y = 14; y < 18; y++)
            {
                for (var x = 14; x < 18; x++)
                {
                    sum += Math.Pow(pixels[32 * y + x].X - exact[32 * y + x].X, 2);
                    mean += exact[32 * y + x].X;
                }
            }
            return Math.Sqrt(sum / 16) / (mean / 16);
        }
        // Alone in an empty picture it gets some eight times the samples: less than half of the grain.
        var (alone, filled) = (Grain(24, 64), Grain(2, 64));
        Assert.True(alone < 0.6 * filled, $"{alone} and {filled}");
    }

    [Fact]
    public void A_sequence_rendered_in_one_go_is_that_of_frames_rendered_alone()
    {
        var going = new FrameRenderer(Demo());
        foreach (var frame in new[] { 28, 29, 30 })
        {
            Assert.Equal(new FrameRenderer(Demo()).Render(frame, Small, Quality.Draft).Rgba, going.Render(frame, Small, Quality.Draft).Rgba);
        }
    }

    [Fact]
    public void Rays_hit_what_testing_every_triangle_finds()
    {
        var mesh = new TorusShape(1, 0.4, 40, 24).Build();
        var tree = new TriangleMesh(mesh.Positions, mesh.Indices);
        var random = new Random(7);
        Vector3 Next() => new(random.NextSingle() * 4 - 2, random.NextSingle() * 4 - 2, random.NextSingle() * 4 - 2);
        var hits = 0;
        for (var i = 0; i < 3000; i++)
        {
            var ray = new Ray(Next(), Vector3.Normalize(Next()));
            var hit = tree.Trace(ray);
            var expected = Nearest(mesh, ray);
            Assert.Equal(float.IsFinite(expected), hit.IsHit);
            if (hit.IsHit)
            {
                Assert.Equal(expected, hit.T, 3);
                hits++;
            }
        }
        Assert.InRange(hits, 300, 2900);
    }

    [Fact]
    public void A_bent_mesh_is_hit_as_one_that_was_made_so()
    {
        var rest = new TorusShape(1, 0.4, 40, 24).Build();
        var tree = new TriangleMesh(rest.Positions, rest.Indices);
        var bent = new TriangleMesh(tree, rest.Positions);
        var random = new Random(5);
        for (var turn = 1; turn <= 3; turn++)
        {
            var positions = (float[])rest.Positions.Clone();
            for (var i = 0; i < positions.Length; i += 3)
            {
                var (sin, cos) = MathF.SinCos(turn * positions[i + 1] * 2);
                (positions[i], positions[i + 2]) = (positions[i] * cos - positions[i + 2] * sin + turn, positions[i] * sin + positions[i + 2] * cos);
            }
            bent.Refit(positions);
            var anew = new TriangleMesh(positions, rest.Indices);
            Assert.Equal(anew.Bounds, bent.Bounds);
            Vector3 Next() => new(random.NextSingle() * 4 - 2 + turn, random.NextSingle() * 4 - 2, random.NextSingle() * 4 - 2);
            var hits = 0;
            for (var i = 0; i < 2000; i++)
            {
                var from = Next();
                var ray = new Ray(from, Vector3.Normalize(Next() - from));
                var (expected, hit) = (anew.Trace(ray), bent.Trace(ray));
                Assert.Equal(expected.T, hit.T);
                hits += hit.IsHit ? 1 : 0;
            }
            Assert.InRange(hits, 200, 1900);
        }
        // The tree at rest is not the bent one's.
        Assert.Equal(4.6f, tree.Trace(new(new(1, -5, 0), Vector3.UnitY)).T, 2);
    }

    [Fact]
    public void Rays_along_the_axes_and_from_the_surface_are_no_trouble()
    {
        var mesh = new BoxShape(2, 2, 2, 3).Build();
        var tree = new TriangleMesh(mesh.Positions, mesh.Indices);
        foreach (var d in new[] { Vector3.UnitX, -Vector3.UnitX, Vector3.UnitY, -Vector3.UnitY, Vector3.UnitZ, -Vector3.UnitZ })
        {
            Assert.Equal(4, tree.Trace(new(d * -5 + new Vector3(0.1f, 0.2f, 0.3f) * (Vector3.One - Vector3.Abs(d)), d)).T, 4);
            Assert.False(tree.Trace(new(d * 1.5f, d)).IsHit);
        }
        Assert.False(new TriangleMesh([], []).Trace(new(Vector3.Zero, Vector3.UnitX)).IsHit);
    }

    [Fact]
    public void The_sky_is_made_ready_again_only_where_it_is_another()
    {
        var shot = Shot.Empty("Day") with { Nodes = [new CameraNode { Id = "c", Name = "C" }], World = Channels(("sky.physical", 1)) };
        shot = shot.With(new("world", "sky.strength"), new Channel(1, new Curve([new(0, 1, Segment.Hold), new(2, 0.5)])));
        var (state, textures) = (new FrameState(new CompiledShot(shot)), new Textures(null));
        Sky On(double frame)
        {
            state.Evaluate(frame);
            return new RenderScene(state, shot.RenderCamera()!, textures).Sky;
        }
        var first = On(0);
        Assert.Same(first, On(1));
        var half = On(2);
        Assert.NotSame(first, half);
        Assert.Equal(first.Radiance(Vector3.UnitY).Y / 2, half.Radiance(Vector3.UnitY).Y, 1e-6f);
    }

    /// <summary>A closed room whose walls glow with 1 − ρ and reflect ρ is filled with radiance 1 everywhere, for any ρ: energy is neither gained nor lost.</summary>
    [Theory]
    [InlineData(0.5, 1.0, 0)]
    [InlineData(0.8, 0.3, 0)]
    [InlineData(0.8, 0.15, 1)]
    public void A_white_furnace_neither_gains_nor_loses_energy(double reflectance, double roughness, double metallic)
    {
        // The glow is a multiple of the colour; a dielectric reflects more than its colour, so the room is made from the surface's own albedo.
        var emission = (1 - reflectance) / reflectance;
        var shot = Shot.Empty("Furnace") with
        {
            Nodes =
            [
                new MeshNode { Id = "room", Name = "Room", Shape = new SphereShape(5, 64, 32), Material = "wall" },
                new CameraNode { Id = "c", Name = "C" },
            ],
            Materials = [new("wall", "Wall", Channels(("look.color.r", reflectance), ("look.color.g", reflectance), ("look.color.b", reflectance),
                ("look.roughness", roughness), ("look.metallic", metallic), ("look.emission", emission)))],
            World = Channels(("sky.strength", 0)),
        };
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        var radiance = Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!), new(24, 24), Quality.Final, samples: 256);
        var mean = radiance.Average(r => (r.X + r.Y + r.Z) / 3);
        // A dielectric's mirror of 4 % at least adds to its base: total reflectance ρ + F(1 − ρ), and the room is 1 − ρ over 1 minus that.
        if (metallic == 1)
        {
            Assert.InRange(mean, 0.97, 1.03);
        }
        else
        {
            var total = AverageReflectance(reflectance, roughness);
            Assert.InRange(mean, 0.97 * (1 - reflectance) / (1 - total), 1.03 * (1 - reflectance) / (1 - total));
        }
    }

    /// <summary>With nothing but white, whatever comes in goes out: under an even white sky a white ball cannot be seen.</summary>
    [Theory]
    [InlineData(1.0, 0)]
    [InlineData(0.5, 0)]
    [InlineData(0.2, 0)]
    [InlineData(0.7, 1)]
    [InlineData(0.4, 0.3)]
    public void A_white_ball_under_a_white_sky_disappears(double roughness, double metallic)
    {
        var white = new[] { "top", "horizon", "ground" }.SelectMany(p => new[] { "r", "g", "b" }.Select(c => ($"sky.{p}.{c}", 1.0))).ToArray();
        var shot = Shot.Empty("White") with
        {
            Nodes =
            [
                new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(1, 96, 64), Material = "white" },
                new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.translate.z", 3)) },
            ],
            Materials = [new("white", "White", Channels(("look.color.r", 1), ("look.color.g", 1), ("look.color.b", 1), ("look.roughness", roughness), ("look.metallic", metallic)))],
            World = Channels(white),
        };
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        var radiance = Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!), new(32, 32), Quality.Final, samples: 128);
        Assert.InRange(radiance.Average(r => r.X), 0.985, 1.01);
    }

    [Fact]
    public void The_sun_lights_a_matt_plane_as_the_cosine_has_it()
    {
        var shot = Shot.Empty("Sun") with
        {
            Nodes =
            [
                new MeshNode { Id = "p", Name = "P", Shape = new PlaneShape(), Material = "m" },
                new SunNode { Id = "s", Name = "S", Channels = Channels(("transform.rotate.x", -30), ("light.strength", 2), ("light.angle", 0)) },
                new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.translate.y", 3), ("transform.rotate.x", -90)) },
            ],
            Materials = [new("m", "M", Channels(("look.color.r", 0.5), ("look.color.g", 0.5), ("look.color.b", 0.5), ("look.roughness", 1)))],
            World = Channels(("sky.strength", 0)),
        };
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        var draft = Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!), new(4, 4), Quality.Draft);
        // Lambert's law: E·cos θ·ρ/π with the sun 30° above the ground.
        Assert.Equal(2 * 0.5 * 0.5 / Math.PI, draft[5].X, 4);
    }

    [Fact]
    public void What_is_half_transparent_lets_half_of_the_light_through()
    {
        var shot = Shot.Empty("Glass") with
        {
            Nodes =
            [
                new MeshNode { Id = "p", Name = "P", Shape = new BoxShape(4, 4, 0.01), Material = "m" },
                new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.translate.z", 3)) },
            ],
            Materials = [new("m", "M", Channels(("look.color.r", 0), ("look.color.g", 0), ("look.color.b", 0), ("look.opacity", 0.5)))],
            World = Channels(("sky.horizon.r", 1), ("sky.top.r", 1), ("sky.ground.r", 1)),
        };
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        var scene = new RenderScene(state, shot.RenderCamera()!);
        Assert.Equal(0.25, Renderer.Radiance(scene, new(5, 5), Quality.Draft)[12].X, 3);
    }

    /// <summary>IEC 61966-2-1, section 5.2: the two branches, where they meet, and the published 18 % grey (sRGB 118, from memory).</summary>
    [Fact]
    public void The_tone_curve_below_the_knee_is_that_of_srgb()
    {
        Assert.Equal(0, Display.Encode(0));
        Assert.Equal(1, Display.Encode(1), 6);
        Assert.Equal(12.92f * 0.003f, Display.Encode(0.003f), 7);
        Assert.Equal(Display.Encode(0.0031308f), Display.Encode(0.0031309f), 1e-5f);
        Assert.Equal((118, 118, 118), Display.ToBytes(new(0.18f), 1));
        Assert.Equal((0, 0, 0), Display.ToBytes(new(-1, 0, float.NaN), 1));
        Assert.Equal((0, 0, 0), Display.ToBytes(Vector3.Zero, 1, 0.9999f));
        // Dithered, an even surface keeps its brightness to far below a step, and has no two large areas of one.
        var (sum, other) = (0.0, 0);
        for (var i = 0; i < 64 * 64; i++)
        {
            var shown = Display.ToBytes(new(0.1822f), 1, Display.Threshold(i % 64, i / 64)).R;
            sum += shown;
            other += shown != 118 ? 1 : 0;
        }
        Assert.Equal(255 * Display.Encode(0.1822f), sum / (64 * 64), 0.02);
        Assert.InRange(other, 1000, 3000);
        Assert.Equal(255, Display.ToBytes(new(float.PositiveInfinity), 1).R);
    }

    [Fact]
    public void Brighter_light_is_never_shown_darker()
    {
        var last = -1f;
        for (var x = 0f; x < 20; x += 0.01f)
        {
            Assert.True(Display.Shoulder(x) > last);
            last = Display.Shoulder(x);
        }
        Assert.InRange(last, 0.9f, 1);
    }

    [Theory]
    [InlineData("shot_####.png", 12, "shot_0012.png")]
    [InlineData("###.png", 12345, "12345.png")]
    [InlineData("a#b.png", -3, "a-3b.png")]
    public void File_names_count(string pattern, int frame, string name) => Assert.Equal(name, new FileNamePattern(pattern).Name(frame));

    [Theory]
    [InlineData("shot.png")]
    [InlineData("../shot_####.png")]
    [InlineData("a/b_####.png")]
    [InlineData("a\\b_####.png")]
    [InlineData("shot_##_##.png")]
    [InlineData("shot_####.jpg")]
    [InlineData("")]
    [InlineData(".#.png")]
    public void File_names_that_lose_frames_or_leave_the_folder_are_refused(string pattern) => Assert.Throws<Refusal>(() => new FileNamePattern(pattern));

    [Theory]
    [InlineData(0, 10)]
    [InlineData(100_000, 10)]
    public void Sizes_that_make_no_sense_are_refused(int width, int height) =>
        Assert.Throws<Refusal>(() => new FrameRenderer(Demo()).Render(0, new(width, height), Quality.Draft));

    [Fact]
    public void A_shot_without_a_camera_or_with_another_name_is_refused()
    {
        Assert.Throws<Refusal>(() => new FrameRenderer(Shot.Empty("Dark")));
        Assert.Contains("Quay camera", Assert.Throws<Refusal>(() => new FrameRenderer(Demo(), "Nobody")).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_png_is_written_whole_and_reads_back_as_it_was()
    {
        var folder = Directory.CreateTempSubdirectory();
        try
        {
            var picture = new FrameRenderer(Demo()).Render(0, new(31, 17), Quality.Draft);
            var path = Path.Combine(folder.FullName, "a.png");
            picture.WritePng(path);
            Assert.Equal(picture.Rgba, Picture.ReadPng(path).Rgba);
            Assert.Single(folder.GetFiles());
            Assert.Throws<Refusal>(() => picture.WritePng(Path.Combine(folder.FullName, "none", "a.png")));
            // /dev/full answers every write as a full disk does.
            var full = Assert.Throws<Refusal>(() => picture.WritePng("/dev/full/a.png"));
            Assert.Contains("Make room", full.Message, StringComparison.Ordinal);
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    [Fact]
    public void Rendering_can_be_cancelled()
    {
        using var cancel = new CancellationTokenSource(100);
        Assert.ThrowsAny<OperationCanceledException>(() => new FrameRenderer(Demo()).Render(0, new(1280, 720), Quality.Final, cancel: cancel.Token));
    }

    private static float Nearest(Mesh mesh, Ray ray)
    {
        var best = float.PositiveInfinity;
        Vector3 At(int i) => new(mesh.Positions[3 * i], mesh.Positions[3 * i + 1], mesh.Positions[3 * i + 2]);
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            var a = At(mesh.Indices[t]);
            var (e1, e2) = (At(mesh.Indices[t + 1]) - a, At(mesh.Indices[t + 2]) - a);
            // The plane, and the sides by areas: another way than the one under test.
            var n = Vector3.Cross(e1, e2);
            var distance = Vector3.Dot(a - ray.Origin, n) / Vector3.Dot(ray.Direction, n);
            var p = ray.At(distance) - a;
            var area = n.LengthSquared();
            var (v, u) = (Vector3.Dot(Vector3.Cross(e1, p), n) / area, Vector3.Dot(Vector3.Cross(p, e2), n) / area);
            if (distance > 0 && distance < best && u >= 0 && v >= 0 && u + v <= 1)
            {
                best = distance;
            }
        }
        return best;
    }

    /// <summary>Cosine-weighted mean of base + mirror for a dielectric, from the mirror's own albedo by brute force (Schlick's F averaged with a smooth facet).</summary>
    private static double AverageReflectance(double color, double roughness)
    {
        var sum = 0.0;
        const int n = 2000;
        for (var i = 0; i < n; i++)
        {
            var mu = MathF.Sqrt((i + 0.5f) / n);
            var surface = new Surface(new((float)color), (float)roughness, 0, Vector3.Zero, 1);
            sum += new Bsdf(surface, mu).Total.X;
        }
        return sum / n;
    }
}
