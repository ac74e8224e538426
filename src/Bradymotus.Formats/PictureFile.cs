using Bradymotus.Core;
using Bradymotus.Core.Pictures;
using Bradymotus.Core.Scene;
using SkiaSharp;

namespace Bradymotus.Formats;

/// <summary>Pictures that are brought in.</summary>
public static class PictureFile
{
    /// <summary>Whether a file of this name is one.</summary>
    public static bool IsOne(string name) => Path.GetExtension(name).ToUpperInvariant() is ".PNG" or ".JPG" or ".JPEG" or ".WEBP" or ".BMP" or ".GIF";

    /// <summary>What a map needs of a picture, and its asset: PNG, JPEG and WebP as they are, anything else that can be read as PNG.</summary>
    /// <exception cref="Refusal">It is no picture, damaged, or too large; nothing has been unpacked then.</exception>
    /// <param name="isSky">It is for the sky: it may be of high dynamic range (Radiance .hdr).</param>
    public static (PictureSource Source, Asset Asset) Read(byte[] bytes, string name, bool isSky = false)
    {
        name = NodeNames.Clean(Path.GetFileName(name), "Picture");
        if (RadianceFile.IsOne(bytes))
        {
            if (!isSky)
            {
                throw new Refusal($"{name} is a picture of high dynamic range: these are for the sky. A map takes PNG, JPEG and WebP.");
            }
            _ = RadianceFile.Read(bytes, name, out var wide, out var high);
            return (new(Asset.Of(bytes).Name, name, wide, high), Asset.Of(bytes));
        }
        using var data = SKData.CreateCopy(bytes);
        using var codec = SKCodec.Create(data) ?? throw new Refusal($"{name} is no picture that can be read: PNG, JPEG and WebP can.");
        var (width, height) = (codec.Info.Width, codec.Info.Height);
        if (width > PictureSource.MostSide || height > PictureSource.MostSide || (long)width * height > PictureSource.MostPixels)
        {
            throw new Refusal($"{name} is {width} × {height}: at most {PictureSource.MostSide} a side and {PictureSource.MostPixels >> 20} million pixels are taken. Make it smaller.");
        }
        using var bitmap = SKBitmap.Decode(codec) ?? throw new Refusal($"{name} is damaged or cut off: get the whole picture.");
        if (Asset.EndingOf(bytes) == ".glb")
        {
            using var png = bitmap.Encode(SKEncodedImageFormat.Png, 100);
            bytes = png.ToArray();
        }
        var asset = Asset.Of(bytes);
        return (new(asset.Name, name, width, height), asset);
    }

    /// <summary>One picture out of two, as glTF has roughness and metal: red 0, green and blue from the given parts; 1 where there is none. As PNG.</summary>
    internal static byte[] Packed((byte[] Bytes, PicturePart Part)? green, (byte[] Bytes, PicturePart Part)? blue)
    {
        using var g = Pixels(green?.Bytes);
        using var b = Pixels(blue?.Bytes);
        var (width, height) = (Math.Max(g?.Width ?? 1, b?.Width ?? 1), Math.Max(g?.Height ?? 1, b?.Height ?? 1));
        using var made = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        static byte At(SKBitmap? of, int x, int y, int width, int height, PicturePart part)
        {
            if (of is null)
            {
                return 255;
            }
            var c = of.GetPixel(x * of.Width / width, y * of.Height / height);
            return part switch
            {
                PicturePart.Red => c.Red,
                PicturePart.Green => c.Green,
                PicturePart.Blue => c.Blue,
                PicturePart.Alpha => c.Alpha,
                _ => (byte)Math.Round(0.2126 * c.Red + 0.7152 * c.Green + 0.0722 * c.Blue),
            };
        }
        for (var y = 0; y < height; y++)
        {
            for (var x = 0; x < width; x++)
            {
                made.SetPixel(x, y, new(0, At(g, x, y, width, height, green?.Part ?? PicturePart.All), At(b, x, y, width, height, blue?.Part ?? PicturePart.All)));
            }
        }
        using var data = made.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }

    private static SKBitmap? Pixels(byte[]? bytes)
    {
        if (bytes is null)
        {
            return null;
        }
        using var data = SKData.CreateCopy(bytes);
        using var codec = SKCodec.Create(data);
        return SKBitmap.Decode(codec, new SKImageInfo(codec.Info.Width, codec.Info.Height, SKColorType.Rgba8888, SKAlphaType.Unpremul));
    }
}
