using System.Numerics;
using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Pictures;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;

namespace Bradymotus.Render.Tests;

/// <summary>Pictures of the sky, backgrounds, and what is held back as an outlier.</summary>
public sealed class SurroundingTests
{
    private static readonly string Sha = new('b', 64);

    /// <summary>A Radiance file, flat or packed in runs.</summary>
    private static byte[] Hdr(int width, int height, Func<int, int, (byte R, byte G, byte B, byte E)> pixel, bool packed)
    {
        var bytes = new List<byte>(Encoding.ASCII.GetBytes($"#?RADIANCE\nEXPOSURE=1\nFORMAT=32-bit_rle_rgbe\n\n-Y {height} +X {width}\n"));
        for (var y = 0; y < height; y++)
        {
            byte Part(int x, int part) => pixel(x, y) is var p && part == 0 ? p.R : part == 1 ? p.G : part == 2 ? p.B : p.E;
            if (packed)
            {
                bytes.AddRange([2, 2, (byte)(width >> 8), (byte)width]);
                for (var part = 0; part < 4; part++)
                {
                    for (var x = 0; x < width;)
                    {
                        var run = 1;
                        while (x + run < width && run < 127 && Part(x + run, part) == Part(x, part))
                        {
                            run++;
                        }
                        bytes.AddRange(run > 2 ? [(byte)(128 + run), Part(x, part)] : [1, Part(x, part)]);
                        x += run > 2 ? run : 1;
                    }
                }
            }
            else
            {
                for (var x = 0; x < width; x++)
                {
                    bytes.AddRange([Part(x, 0), Part(x, 1), Part(x, 2), Part(x, 3)]);
                }
            }
        }
        return [.. bytes];
    }

    private static ShotAssets Held(byte[] bytes)
    {
        var assets = new ShotAssets();
        assets.Put(Sha, bytes);
        return assets;
    }

    private static Vector3[] Look(Shot shot, ShotAssets? assets, int size, Quality quality, int samples)
    {
        var state = new FrameState(new CompiledShot(shot), assets);
        state.Evaluate(0);
        return Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!, new Textures(assets)), new(size, size), quality, samples);
    }

    private static Shot Plane(params (string, double)[] world) => Shot.Empty("Plane") with
    {
        Nodes =
        [
            new MeshNode { Id = "p", Name = "P", Shape = new PlaneShape(50, 50), Material = "m" },
            new CameraNode { Id = "c", Name = "C", Channels = Scenes.Channels(("transform.translate.y", 3), ("transform.rotate.x", -90), ("camera.fov", 10)) },
        ],
        Materials = [Scenes.Matt("m", 0.5, ("look.ior", 1))],
        World = Scenes.Channels(world),
        SkyPicture = new(Sha, "sky.hdr", 64, 32),
    };

    /// <summary>Ward 1991: a mantissa m with the exponent e is m ÷ 256 · 2^(e − 128).</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_radiance_file_is_read_flat_and_packed(bool packed)
    {
        var bytes = Hdr(64, 3, (x, y) => ((byte)(x < 20 ? 128 : x), (byte)(y * 10), 255, (byte)(128 + y)), packed);
        var picture = RadianceFile.Read(bytes, "a.hdr", out var width, out var height);
        Assert.Equal((64, 3), (width, height));
        Assert.Equal([0.5f, 0, 255 / 256f], picture[..3]);
        Assert.Equal([40 / 256f * 4, 20 / 256f * 4, 255 / 256f * 4], picture[(3 * (2 * 64 + 40))..][..3]);
    }

    [Fact]
    public void Damaged_radiance_files_are_refused_in_a_sentence() => Laws.ForSeeds((dice, _) =>
    {
        var bytes = Hdr(16, 4, (x, y) => ((byte)x, (byte)y, 3, 128), dice.Next(2) == 0);
        if (dice.Next(2) == 0)
        {
            bytes = bytes[..dice.Next(bytes.Length)];
        }
        for (var i = dice.Next(4); i > 0 && bytes.Length > 0; i--)
        {
            bytes[dice.Next(bytes.Length)] = (byte)dice.Next(256);
        }
        try
        {
            var picture = RadianceFile.Read(bytes, "x.hdr", out var w, out var h);
            Assert.Equal(3 * w * h, picture.Length);
        }
        catch (Refusal e)
        {
            Assert.Contains("x.hdr", e.Message, StringComparison.Ordinal);
        }
    }, 400);

    [Fact]
    public void A_white_picture_all_around_is_a_white_furnace()
    {
        var assets = Held(Hdr(64, 32, (_, _) => (128, 128, 128, 129), packed: true));
        foreach (var quality in new[] { Quality.Preview, Quality.Final })
        {
            var shot = Plane();
            shot = shot with { Materials = [Scenes.Matt("m", 1, ("look.roughness", 0.4))] };
            var seen = Look(shot, assets, 8, quality, 512);
            Assert.InRange(seen.Average(p => (double)p.X), 0.975, 1.015);
        }
    }

    /// <summary>A patch of the sky lights as its radiance times its solid angle times the cosine: E = L·∫cos θ dω over the pixels of the picture.</summary>
    [Fact]
    public void A_bright_place_in_the_picture_lights_as_its_solid_angle_has_it()
    {
        // Four pixels of 64 × 32, twenty to thirty degrees from straight up.
        var bytes = Hdr(64, 32, (x, y) => y == 4 && x is >= 10 and < 14 ? ((byte)128, (byte)128, (byte)128, (byte)(128 + 10)) : ((byte)0, (byte)0, (byte)0, (byte)0), packed: true);
        var e = 0.0;
        for (var i = 0; i < 2000; i++)
        {
            // Bilinear: the value goes from pixel to pixel as a tent.
            var theta = Math.PI / 32 * (3.5 + 2 * (i + 0.5) / 2000);
            var weight = 1 - Math.Abs(theta / Math.PI * 32 - 4.5);
            e += 512 * weight * Math.Cos(theta) * Math.Sin(theta) * (Math.PI / 32 * 2 / 2000) * (4 * 2 * Math.PI / 64);
        }
        var seen = Look(Plane(), Held(bytes), 8, Quality.Final, 256).Average(p => (double)p.X);
        Assert.Equal(0.5 * e / Math.PI, seen, 0.02 * 0.5 * e / Math.PI);
    }

    /// <summary>An even sky of radiance 1 makes a matt surface of 0.5 half as bright, however few rows its picture has.</summary>
    [Theory]
    [InlineData(64, 1)]
    [InlineData(1, 1)]
    [InlineData(2, 2)]
    public void A_sky_of_hardly_any_pixels_lights_as_any_other(int width, int height)
    {
        var bytes = Hdr(width, height, (_, _) => (128, 128, 128, 129), packed: false);
        var shot = Plane() with { SkyPicture = new(Sha, "sky.hdr", width, height) };
        foreach (var quality in new[] { Quality.Preview, Quality.Final })
        {
            Assert.Equal(0.5, Look(shot, Held(bytes), 8, quality, 64).Average(p => (double)p.X), 0.01);
        }
    }

    [Fact]
    public void The_middle_of_the_picture_is_straight_ahead_and_turns_with_its_channel()
    {
        // Red in the middle third, green to its right, blue to its left and behind.
        var bytes = Hdr(96, 8, (x, _) => x is >= 32 and < 64 ? ((byte)128, (byte)0, (byte)0, (byte)129) : x >= 64 ? ((byte)0, (byte)128, (byte)0, (byte)129) : ((byte)0, (byte)0, (byte)128, (byte)129), packed: true);
        Vector3 Ahead(double turn, double eye)
        {
            var shot = Shot.Empty("Sky") with
            {
                Nodes = [new CameraNode { Id = "c", Name = "C", Channels = Scenes.Channels(("transform.rotate.y", eye), ("camera.fov", 5)) }],
                SkyPicture = new(Sha, "sky.hdr", 96, 8),
                World = Scenes.Channels(("sky.turn", turn)),
            };
            return Look(shot, Held(bytes), 1, Quality.Draft, 1)[0];
        }
        Assert.Equal(Vector3.UnitX, Ahead(0, 0));
        // To the right of what is ahead, green; and turned against the clock the picture takes it there.
        Assert.Equal(Vector3.UnitY, Ahead(0, -90));
        Assert.Equal(Vector3.UnitZ, Ahead(0, 90));
        Assert.Equal(Vector3.UnitY, Ahead(90, 0));
        Assert.Equal(Vector3.UnitX, Ahead(90, 90));
    }

    [Theory]
    [InlineData(Quality.Draft)]
    [InlineData(Quality.Preview)]
    [InlineData(Quality.Final)]
    public void A_transparent_background_leaves_nothing_where_nothing_is(Quality quality)
    {
        Shot Ball(Background background, double opacity) => Shot.Empty("Ball") with
        {
            Nodes =
            [
                new MeshNode { Id = "b", Name = "B", Shape = new SphereShape(1, 48, 24), Material = "m" },
                new CameraNode { Id = "c", Name = "C", Channels = Scenes.Channels(("transform.translate.z", 4)) },
            ],
            Materials = [Scenes.Matt("m", 0.5, ("look.opacity", opacity))],
            World = Scenes.Channels(("background.r", 1), ("background.g", 0), ("background.b", 0)),
            Background = background,
        };
        Pictures.Picture Of(Shot shot) => new FrameRenderer(shot).Render(0, new(32, 32), quality, 64);
        var whole = Of(Ball(Background.Transparent, 1));
        byte Alpha(Pictures.Picture p, int x, int y) => p.Rgba[4 * (32 * y + x) + 3];
        Assert.Equal((0, 255), ((int)Alpha(whole, 1, 1), (int)Alpha(whole, 16, 16)));
        Assert.Equal(0, whole.Rgba[4 * 33]);
        // Through both sides of a half of it a quarter is seen, and it keeps its colour.
        var half = Of(Ball(Background.Transparent, 0.5));
        Assert.InRange(Alpha(half, 16, 16), 170, 212);
        Assert.InRange(half.Rgba[4 * (32 * 16 + 16)], whole.Rgba[4 * (32 * 16 + 16)] - 60, 255);
        Assert.True(whole.IsTransparent && !Of(Ball(Background.Sky, 1)).IsTransparent);
        var red = Of(Ball(Background.Color, 1)).Rgba.AsSpan(4 * 33, 4);
        Assert.True(red[0] > 220 && red[1] == 0 && red[3] == 255);
        // What is written is read again with its holes.
        Assert.Equal(4, SkiaSharp.SKBitmap.Decode(whole.ToPng()).BytesPerPixel);
        Assert.Equal(0, SkiaSharp.SKBitmap.Decode(whole.ToPng()).GetPixel(1, 1).Alpha);
    }

    [Fact]
    public void The_exposure_changes_nothing_of_the_light()
    {
        // A lamp close to a wall: what is reflected there is held back as an outlier, by what is bright in the picture.
        var shot = Shot.Empty("Room") with
        {
            Nodes =
            [
                new MeshNode { Id = "room", Name = "Room", Shape = new BoxShape(4, 4, 4), Material = "m" },
                new LampNode { Id = "l", Name = "L", Channels = Scenes.Channels(("transform.translate.x", 1.95), ("light.radius", 0.01), ("light.strength", 100)) },
                new CameraNode { Id = "c", Name = "C" },
            ],
            Materials = [Scenes.Matt("m", 0.8)],
            World = Scenes.Channels(("sky.strength", 0)),
        };
        // So few samples are not shared out by how a picture looks.
        var dark = Look(shot, null, 6, Quality.Final, 24);
        var light = Look(shot with { World = shot.World!.SetItems(Scenes.Channels(("exposure", 6))) }, null, 6, Quality.Final, 24);
        Assert.Equal(dark, light);
    }
}
