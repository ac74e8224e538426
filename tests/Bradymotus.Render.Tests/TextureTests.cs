using System.Numerics;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Pictures;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using SkiaSharp;
using static Bradymotus.Render.Tests.MaterialTests;

namespace Bradymotus.Render.Tests;

/// <summary>Pictures on surfaces, near and far, of 8 and 16 bits.</summary>
public sealed class TextureTests
{
    private static Material Glowing(PictureWrap wrap, double times) =>
        White(("look.emission", 1), ("look.roughness", 1), ("map.emission.scale.x", times), ("map.emission.scale.y", times)) with { Maps = [new(MapSlot.Emission, new PictureSource(Sha, "p.png", 64, 64, PicturePart.All, wrap, wrap))] };

    /// <summary>Black and white pixels in turn: half of the light, from wherever so many are seen that none can be told.</summary>
    [Theory]
    [InlineData(Quality.Draft, 1, 8)]
    [InlineData(Quality.Draft, 1, 50)]
    [InlineData(Quality.Preview, 8, 8)]
    public void Of_many_pixels_in_one_their_mean_is_seen(Quality quality, int samples, double times)
    {
        var assets = Picture(64, 64, (x, y) => (x + y) % 2 == 0 ? SKColors.White : SKColors.Black);
        var seen = Look(Dark(Floor(Glowing(PictureWrap.Repeat, times))), 16, quality, samples, assets);
        // At the edge of the view samples fall beside the floor.
        Assert.All(seen.Where((_, i) => i % 16 is > 0 and < 15 && i / 16 is > 0 and < 15), c => Assert.InRange(c.X, 0.47f, 0.53f));
    }

    /// <summary>Each pixel of the picture on one of the view: it shows what is there, sharp.</summary>
    [Fact]
    public void Near_by_it_is_as_sharp_as_it_is()
    {
        var assets = Picture(16, 16, (x, y) => (x / 4 + y / 4) % 2 == 0 ? SKColors.White : SKColors.Black);
        var seen = Look(Dark(Floor(Glowing(PictureWrap.Clamp, 1))), 16, Quality.Draft, 1, assets);
        for (var i = 0; i < seen.Length; i++)
        {
            Assert.Equal((i % 16 / 4 + i / 16 / 4) % 2 == 0 ? 1 : 0, seen[i].X, 0.01f);
        }
    }

    /// <summary>Of any number of pixels; a tenth of them is bright.</summary>
    [Theory]
    [InlineData(64, 64)]
    [InlineData(100, 37)]
    [InlineData(3, 1)]
    public void Smaller_ones_have_the_mean_of_the_whole(int width, int height)
    {
        var dice = new Random(5);
        var light = new float[width, height];
        var assets = Picture(width, height, (x, y) =>
        {
            var grey = (byte)(dice.Next(10) == 0 ? 255 : dice.Next(60));
            light[x, y] = grey / 255f;
            return new(grey, grey, grey);
        });
        var texture = Texture.Read(assets.Bytes(Sha)!, "p.png");
        var mean = light.Cast<float>().Average();
        Assert.Equal(mean, texture.At(0.3f, 0.6f, PictureWrap.Clamp, PictureWrap.Clamp, isColour: false, 1e6f).X, 0.0005f);
        // Light is summed as light, not as the numbers of the file.
        var linear = texture.ToLinear(out _, out _).Average();
        Assert.Equal(linear, texture.At(0.3f, 0.6f, PictureWrap.Clamp, PictureWrap.Clamp, isColour: true, 1e6f).X, 0.0005f);
        Assert.NotEqual(mean, linear, 0.02f);
    }

    /// <summary>Any filter and any kind; what Skia reads of those in colour is the same within the 11 bits that it keeps of each.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(2)]
    [InlineData(4)]
    [InlineData(6)]
    public void All_16_bits_are_read(int colourType)
    {
        var dice = new Random(colourType);
        var parts = new Dictionary<(int X, int Y, int Part), ushort>();
        var file = Pngs.Deep(23, 11, colourType, (x, y, p) => parts[(x, y, p)] = (ushort)dice.Next(65536), y => y % 5);
        Assert.True(DeepPng.IsOne(file));
        var read = DeepPng.Read(file);
        var (isGrey, hasOpacity) = (colourType is 0 or 4, colourType is 4 or 6);
        for (var i = 0; i < 23 * 11; i++)
        {
            ushort Of(int part) => parts[(i % 23, i / 23, part)];
            Assert.Equal([Of(0), Of(isGrey ? 0 : 1), Of(isGrey ? 0 : 2), hasOpacity ? Of(isGrey ? 1 : 3) : ushort.MaxValue], read[(4 * i)..(4 * i + 4)]);
        }
        if (!isGrey)
        {
            using var codec = SKCodec.Create(SKData.CreateCopy(file));
            using var bitmap = new SKBitmap(new SKImageInfo(23, 11, SKColorType.RgbaF16, SKAlphaType.Unpremul));
            Assert.Equal(SKCodecResult.Success, codec.GetPixels(bitmap.Info, bitmap.GetPixels()));
            var halves = System.Runtime.InteropServices.MemoryMarshal.Cast<byte, Half>(bitmap.GetPixelSpan());
            for (var i = 0; i < read.Length; i++)
            {
                Assert.Equal((float)halves[i], read[i] / 65535f, 0.0006f);
            }
        }
    }

    [Fact]
    public void What_is_cut_off_or_damaged_is_refused_or_ends_early()
    {
        var file = Pngs.Deep(40, 40, 0, (x, y, _) => (ushort)(1000 * x + y), _ => 1);
        var half = DeepPng.Read(file.AsSpan(0, file.Length / 2));
        Assert.Equal(4 * 40 * 40, half.Length);
        Assert.Equal(0, half[^4]);
        var odd = Pngs.Deep(40, 40, 0, (x, y, _) => 0, _ => 7);
        Assert.Throws<InvalidDataException>(() => DeepPng.Read(odd));
        Assert.Contains("damaged", Assert.Throws<Core.Refusal>(() => Texture.Read(odd, "p.png")).Message, StringComparison.Ordinal);
        Assert.False(DeepPng.IsOne(Picture(4, 4, (_, _) => SKColors.White).Bytes(Sha)!));
    }

    /// <summary>A slope of 3 in 10 over 1,024 pixels is 77 steps of 8 bits: a staircase. In 16 bits it is a slope.</summary>
    [Fact]
    public void A_gentle_slope_of_16_bits_has_no_steps()
    {
        var assets = new ShotAssets();
        assets.Put(Sha, Pngs.Deep(1024, 4, 0, (x, _, _) => (ushort)Math.Round(65535 * 0.3 * x / 1024), _ => 2));
        var map = new SurfaceMap(MapSlot.Bump, new PictureSource(Sha, "ramp.png", 1024, 4, PicturePart.Red, PictureWrap.Clamp, PictureWrap.Clamp));
        var sun = new SunNode { Id = "s", Name = "S", Channels = Scenes.Channels(("transform.rotate.z", -60), ("transform.rotate.x", -90), ("light.strength", Math.PI), ("light.angle", 0)) };
        Shot Of(bool bumped) => Dark(Floor(Scenes.Matt("m", 0.5, ("map.bump.strength", 4.0 / 3)) with { Maps = bumped ? [map] : [] }, sun));
        var lit = Look(Of(true), 32, Quality.Draft, 1, assets)[(32 * 16 + 2)..(32 * 16 + 30)].Select(c => c.X).ToList();
        var flat = Look(Of(false), 32, Quality.Draft, 1)[32 * 16 + 16].X;
        // Lambert: the slope is 0.3 × 4/3 = 0.4.
        var expected = 0.5f * Vector3.Dot(Vector3.Normalize(new(-0.4f, 1, 0)), DirectionOf(sun));
        Assert.Equal(0.25f, flat, 0.01f);
        Assert.True(lit.Max() - lit.Min() < 0.02f, $"{lit.Min()} to {lit.Max()}");
        Assert.Equal(expected, lit[0], 0.01f);
    }

    /// <summary>What lies between the least and the greatest of the three says the hue: it stays the same part of the way.</summary>
    [Fact]
    public void Bright_light_keeps_its_hue_and_never_grows_darker()
    {
        var dice = new Random(3);
        for (var n = 0; n < 2000; n++)
        {
            var colour = new Vector3((float)dice.NextDouble(), (float)dice.NextDouble(), (float)dice.NextDouble()) * MathF.Pow(10, (float)(4 * dice.NextDouble() - 2));
            var shown = Display.Toned(colour);
            float[] from = [colour.X, colour.Y, colour.Z], to = [shown.X, shown.Y, shown.Z];
            var order = new[] { 0, 1, 2 }.OrderBy(i => from[i]).ToArray();
            float Part(float[] of) => (of[order[1]] - of[order[0]]) / (of[order[2]] - of[order[0]]);
            // Where all are nearly white there is no hue left to speak of.
            Assert.True(to[order[2]] - to[order[0]] < 1e-3f || MathF.Abs(Part(from) - Part(to)) < 1e-3f, $"{colour} as {shown}");
            Assert.InRange(to.Max(), 0, 1);
            var brighter = Display.Toned(colour * 1.1f);
            Assert.True(brighter.X >= shown.X - 1e-5f && brighter.Y >= shown.Y - 1e-5f && brighter.Z >= shown.Z - 1e-5f, $"{colour}");
        }
        Assert.Equal(new Vector3(0.7f, 0.1f, 0.8f), Display.Toned(new(0.7f, 0.1f, 0.8f)));
        Assert.Equal(new Vector3(Display.Shoulder(3)), Display.Toned(new(3)));
    }
}
