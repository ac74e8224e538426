using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Pictures;
using Bradymotus.Core.Scene;
using SkiaSharp;

namespace Bradymotus.Render.Light;

/// <summary>
/// A picture to be looked up, with smaller ones of it: where much of it falls into what is looked at, its mean is seen and not one pixel by chance
/// (L. Williams, "Pyramidal parametrics", 1983).
/// </summary>
internal sealed class Texture
{
    private static readonly float[] LinearOfByte = [.. Enumerable.Range(0, 256).Select(i => Decode(i / 255f))];

    private static readonly Lazy<float[]> LinearOfShort = new(() => [.. Enumerable.Range(0, 65536).Select(i => Decode(i / 65535f))]);

    // What is in the file: a byte a part, or two.
    private readonly byte[]? _bytes;
    private readonly ushort[]? _shorts;
    private readonly float[]? _linearOfShort;
    private readonly int _width, _height;

    // Half as large again and again; of colours their light, of numbers what they are.
    private readonly Lazy<Level[]> _colours, _numbers;

    private Texture(byte[]? bytes, ushort[]? shorts, int width, int height)
    {
        (_bytes, _shorts, _width, _height) = (bytes, shorts, width, height);
        _linearOfShort = shorts is null ? null : LinearOfShort.Value;
        (_colours, _numbers) = (new(() => Smaller(isColour: true)), new(() => Smaller(isColour: false)));
    }

    internal int Width => _width;

    internal int Height => _height;

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
        Refusal Damaged() => new($"The picture “{name}” cannot be read: it is damaged. Export it again.");
        if (DeepPng.IsOne(bytes))
        {
            try
            {
                return new(null, DeepPng.Read(bytes), width, height);
            }
            catch (InvalidDataException)
            {
                throw Damaged();
            }
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
                    throw Damaged();
                }
            }
        }
        return new(rgba, null, width, height);
    }

    /// <summary>Between the four nearest pixels; the upper left corner is (0, 0).</summary>
    /// <param name="isColour">Its colours are sRGB and are made linear.</param>
    /// <param name="width">So many of its pixels, side by side, fall into what is looked at; up to 1 it is as sharp as it is.</param>
    internal Vector4 At(float u, float v, PictureWrap wrapU, PictureWrap wrapV, bool isColour, float width = 0)
    {
        if (!(MathF.Abs(u) < 1e8f / _width && MathF.Abs(v) < 1e8f / _height))
        {
            return Vector4.Zero;
        }
        if (!(width > 1))
        {
            return Between(-1, [], u, v, wrapU, wrapV, isColour);
        }
        var levels = (isColour ? _colours : _numbers).Value;
        var level = MathF.Min(MathF.Log2(width), levels.Length);
        var whole = (int)level;
        var sharp = Between(whole - 1, levels, u, v, wrapU, wrapV, isColour);
        return level == whole ? sharp : Vector4.Lerp(sharp, Between(whole, levels, u, v, wrapU, wrapV, isColour), level - whole);
    }

    /// <param name="level">One of the smaller ones, −1 for the picture itself.</param>
    private Vector4 Between(int level, Level[] levels, float u, float v, PictureWrap wrapU, PictureWrap wrapV, bool isColour)
    {
        var (w, h) = level < 0 ? (_width, _height) : (levels[level].Width, levels[level].Height);
        var (x, y) = (u * w - 0.5f, v * h - 0.5f);
        var (left, top) = (MathF.Floor(x), MathF.Floor(y));
        var (fx, fy) = (x - left, y - top);
        var (x0, x1) = (Wrap((int)left, w, wrapU), Wrap((int)left + 1, w, wrapU));
        var (y0, y1) = (Wrap((int)top, h, wrapV), Wrap((int)top + 1, h, wrapV));
        Vector4 At(int i, int j) => level < 0 ? Pixel(i, j, isColour) : levels[level].At(i, j);
        return Vector4.Lerp(Vector4.Lerp(At(x0, y0), At(x1, y0), fx), Vector4.Lerp(At(x0, y1), At(x1, y1), fx), fy);
    }

    /// <summary>All of it as linear red, green and blue.</summary>
    internal float[] ToLinear(out int width, out int height)
    {
        (width, height) = (_width, _height);
        var all = new float[3 * _width * _height];
        for (var i = 0; i < _width * _height; i++)
        {
            var pixel = Pixel(i % _width, i / _width, isColour: true);
            (all[3 * i], all[3 * i + 1], all[3 * i + 2]) = (pixel.X, pixel.Y, pixel.Z);
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
        if (_bytes is { } bytes)
        {
            var (r, g, b, a) = (bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3] / 255f);
            return isColour ? new(LinearOfByte[r], LinearOfByte[g], LinearOfByte[b], a) : new(r / 255f, g / 255f, b / 255f, a);
        }
        var its = _shorts!.AsSpan(at, 4);
        return isColour ? new(_linearOfShort![its[0]], _linearOfShort[its[1]], _linearOfShort[its[2]], its[3] / 65535f) : new Vector4(its[0], its[1], its[2], its[3]) / 65535f;
    }

    private Level[] Smaller(bool isColour)
    {
        var levels = new List<Level>();
        var (w, h) = (_width, _height);
        while (w > 1 || h > 1)
        {
            var above = levels.Count > 0 ? levels[^1] : null;
            var level = new Level((w + 1) / 2, (h + 1) / 2);
            var (wide, high) = (w, h);
            Parallel.For(0, level.Height, y =>
            {
                for (var x = 0; x < level.Width; x++)
                {
                    level.Put(x, y, Mean(wide, high, level, x, y, (i, j) => above is null ? Pixel(i, j, isColour) : above.At(i, j)));
                }
            });
            levels.Add(level);
            (w, h) = (level.Width, level.Height);
        }
        return [.. levels];
    }

    /// <summary>Of all that a pixel of a smaller picture covers, so that the mean of the whole stays what it is, of an odd number of pixels too.</summary>
    private static Vector4 Mean(int wide, int high, Level level, int x, int y, Func<int, int, Vector4> at)
    {
        var sum = Vector4.Zero;
        var (left, right, top, bottom) = ((float)x * wide / level.Width, (x + 1f) * wide / level.Width, (float)y * high / level.Height, (y + 1f) * high / level.Height);
        for (var j = (int)top; j < high && j < bottom; j++)
        {
            var tall = MathF.Min(j + 1, bottom) - MathF.Max(j, top);
            for (var i = (int)left; i < wide && i < right; i++)
            {
                sum += at(i, j) * ((MathF.Min(i + 1, right) - MathF.Max(i, left)) * tall);
            }
        }
        return sum / ((right - left) * (bottom - top));
    }

    /// <summary>A smaller picture; two bytes a part, since light in a byte would have steps in the dark.</summary>
    private sealed class Level(int width, int height)
    {
        private readonly ushort[] _parts = new ushort[4 * width * height];

        internal int Width => width;

        internal int Height => height;

        internal Vector4 At(int x, int y)
        {
            var its = _parts.AsSpan(4 * (y * width + x), 4);
            return new Vector4(its[0], its[1], its[2], its[3]) / 65535f;
        }

        internal void Put(int x, int y, Vector4 pixel)
        {
            for (var part = 0; part < 4; part++)
            {
                _parts[4 * (y * width + x) + part] = (ushort)Math.Clamp(pixel[part] * 65535f + 0.5f, 0, 65535);
            }
        }
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
