using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Pictures;
using Bradymotus.Core.Scene;
using SkiaSharp;

namespace Bradymotus.Render.Light;

/// <summary>A picture to be looked up.</summary>
internal sealed class Texture
{
    private static readonly float[] Linear = [.. Enumerable.Range(0, 256).Select(i => Decode(i / 255f))];

    private readonly byte[] _rgba;
    private readonly int _width, _height;

    private Texture(byte[] rgba, int width, int height) => (_rgba, _width, _height) = (rgba, width, height);

    /// <exception cref="Refusal">The bytes are no picture, or one that is too large.</exception>
    internal static Texture Read(byte[] bytes, string name)
    {
        using var data = SKData.CreateCopy(bytes);
        using var codec = SKCodec.Create(data) ?? throw new Refusal($"The picture “{name}” cannot be read: it is damaged, or no PNG, JPEG or WebP.");
        var (width, height) = (codec.Info.Width, codec.Info.Height);
        // Asked before anything is unpacked: a small file can say that it is enormous.
        if (width > PictureSource.MostSide || height > PictureSource.MostSide || (long)width * height > PictureSource.MostPixels)
        {
            throw new Refusal($"The picture “{name}” is {width} × {height}: at most {PictureSource.MostSide} a side and {PictureSource.MostPixels >> 20} million pixels are taken.");
        }
        // Without a colour space nothing is converted: what the numbers mean is said by what they are used for.
        var info = new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Unpremul);
        var rgba = new byte[4 * width * height];
        unsafe
        {
            fixed (byte* at = rgba)
            {
                if (codec.GetPixels(info, (nint)at) is not (SKCodecResult.Success or SKCodecResult.IncompleteInput))
                {
                    throw new Refusal($"The picture “{name}” cannot be read: it is damaged. Export it again.");
                }
            }
        }
        return new(rgba, width, height);
    }

    /// <summary>Between the four nearest pixels; the upper left corner is (0, 0).</summary>
    /// <param name="isColour">Its colours are sRGB and are made linear.</param>
    internal Vector4 At(float u, float v, PictureWrap wrapU, PictureWrap wrapV, bool isColour)
    {
        var (x, y) = (u * _width - 0.5f, v * _height - 0.5f);
        if (!(MathF.Abs(x) < 1e8f && MathF.Abs(y) < 1e8f))
        {
            return Vector4.Zero;
        }
        var (left, top) = (MathF.Floor(x), MathF.Floor(y));
        var (fx, fy) = (x - left, y - top);
        var (x0, x1) = (Wrap((int)left, _width, wrapU), Wrap((int)left + 1, _width, wrapU));
        var (y0, y1) = (Wrap((int)top, _height, wrapV), Wrap((int)top + 1, _height, wrapV));
        return Vector4.Lerp(
            Vector4.Lerp(Pixel(x0, y0, isColour), Pixel(x1, y0, isColour), fx),
            Vector4.Lerp(Pixel(x0, y1, isColour), Pixel(x1, y1, isColour), fx), fy);
    }

    /// <summary>All of it as linear red, green and blue.</summary>
    internal float[] ToLinear(out int width, out int height)
    {
        (width, height) = (_width, _height);
        var all = new float[3 * _width * _height];
        for (var i = 0; i < _width * _height; i++)
        {
            for (var c = 0; c < 3; c++)
            {
                all[3 * i + c] = Linear[_rgba[4 * i + c]];
            }
        }
        return all;
    }

    private static int Wrap(int i, int n, PictureWrap wrap)
    {
        switch (wrap)
        {
            case PictureWrap.Clamp:
                return Math.Clamp(i, 0, n - 1);
            case PictureWrap.Mirror:
                var twice = (i % (2 * n) + 2 * n) % (2 * n);
                return twice < n ? twice : 2 * n - 1 - twice;
            default:
                return (i % n + n) % n;
        }
    }

    private Vector4 Pixel(int x, int y, bool isColour)
    {
        var at = 4 * (y * _width + x);
        var (r, g, b, a) = (_rgba[at], _rgba[at + 1], _rgba[at + 2], _rgba[at + 3] / 255f);
        return isColour ? new(Linear[r], Linear[g], Linear[b], a) : new(r / 255f, g / 255f, b / 255f, a);
    }

    /// <summary>The inverse of the sRGB transfer function of IEC 61966-2-1.</summary>
    private static float Decode(float encoded) => encoded <= 0.04045f ? encoded / 12.92f : MathF.Pow((encoded + 0.055f) / 1.055f, 2.4f);
}

/// <summary>The pictures of a shot, each unpacked once.</summary>
public sealed class Textures(ShotAssets? assets)
{
    private readonly Dictionary<string, Texture> _read = [];

    private (string Asset, float[] Picture, int Width, int Height)? _sky;

    private (object Of, PictureSky Sky)? _lit;

    /// <exception cref="Refusal">It is not there, or is no picture.</exception>
    internal Texture Of(PictureSource picture)
    {
        if (!_read.TryGetValue(picture.Asset, out var texture))
        {
            _read.Add(picture.Asset, texture = Texture.Read(BytesOf(picture), picture.Name));
        }
        return texture;
    }

    /// <summary>The picture of a sky, linear, at most 4096 wide.</summary>
    /// <exception cref="Refusal">It is not there, or is no picture.</exception>
    internal (float[] Picture, int Width, int Height) Sky(PictureSource picture)
    {
        if (_sky?.Asset != picture.Asset)
        {
            var bytes = BytesOf(picture);
            int width, height;
            var all = RadianceFile.IsOne(bytes) ? RadianceFile.Read(bytes, picture.Name, out width, out height) : Texture.Read(bytes, picture.Name).ToLinear(out width, out height);
            while (width > 4096)
            {
                (all, width, height) = Halved(all, width, height);
            }
            _sky = (picture.Asset, all, width, height);
        }
        var (_, its, w, h) = _sky.Value;
        return (its, w, h);
    }

    /// <summary>A sky made ready for sampling. The last one stays: mostly the next frame has the same.</summary>
    /// <param name="of">All that it depends on.</param>
    /// <param name="make">Makes it where it is another.</param>
    internal PictureSky Lit(object of, Func<PictureSky> make)
    {
        if (_lit is not { } kept || !kept.Of.Equals(of))
        {
            _lit = kept = (of, make());
        }
        return kept.Sky;
    }

    private byte[] BytesOf(PictureSource picture) =>
        assets?.Bytes(picture.Asset) ?? throw new Refusal($"The picture “{picture.Name}” is not beside the shot: put the folder of its assets there, or choose the picture again.");

    private static (float[], int, int) Halved(float[] all, int width, int height)
    {
        var (w, h) = (width / 2, Math.Max(1, height / 2));
        var half = new float[3 * w * h];
        for (var y = 0; y < h; y++)
        {
            for (var x = 0; x < w; x++)
            {
                for (var c = 0; c < 3; c++)
                {
                    float At(int i, int j) => all[3 * (Math.Min(2 * y + j, height - 1) * width + 2 * x + i) + c];
                    half[3 * (y * w + x) + c] = (At(0, 0) + At(1, 0) + At(0, 1) + At(1, 1)) / 4;
                }
            }
        }
        return (half, w, h);
    }
}
