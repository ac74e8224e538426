using Bradymotus.Core;
using Bradymotus.Core.Scene;
using SkiaSharp;

namespace Bradymotus.Render.Pictures;

/// <summary>A finished picture: exposed, toned and encoded as sRGB (IEC 61966-2-1).</summary>
/// <param name="Size">In pixels.</param>
/// <param name="Rgba">Width × height × 4 bytes, row by row from the top left: red, green, blue, and how much is there, not multiplied into the others.</param>
public sealed record Picture(PictureSize Size, byte[] Rgba)
{
    /// <summary>The fourth byte is how much there is; else it is opaque.</summary>
    public bool IsTransparent { get; init; }

    /// <summary>As a PNG file, eight bits a channel.</summary>
    public byte[] ToPng()
    {
        var info = new SKImageInfo(Size.Width, Size.Height, SKColorType.Rgba8888, IsTransparent ? SKAlphaType.Unpremul : SKAlphaType.Opaque, SKColorSpace.CreateSrgb());
        using var image = SKImage.FromPixelCopy(info, Rgba);
        using var data = image.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }

    /// <summary>Writes the file whole or not at all: under another name first, then renamed.</summary>
    /// <exception cref="Refusal">The disk is full, or the folder cannot be written.</exception>
    public void WritePng(string path)
    {
        var part = $"{path}.{Guid.NewGuid():N}.part";
        try
        {
            using (var file = new FileStream(part, FileMode.CreateNew, FileAccess.Write))
            {
                file.Write(ToPng());
                // On the disk before it gets its name, or a power cut could leave the name of an empty file.
                file.Flush(flushToDisk: true);
            }
            File.Move(part, path, overwrite: true);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            if (File.Exists(part))
            {
                File.Delete(part);
            }
            throw new Refusal($"The picture {Path.GetFileName(path)} could not be written to {Path.GetDirectoryName(Path.GetFullPath(path))}: {e.Message.TrimEnd('.')}. Make room there or choose another folder.", e);
        }
    }

    /// <summary>Reads a picture that <see cref="WritePng"/> has written.</summary>
    /// <exception cref="Refusal">It is no picture, or damaged.</exception>
    public static Picture ReadPng(string path)
    {
        using var bitmap = SKBitmap.Decode(path) ?? throw new Refusal($"{Path.GetFileName(path)} is not a picture that can be read.");
        using var rgba = bitmap.Copy(SKColorType.Rgba8888);
        return new(new(rgba.Width, rgba.Height), rgba.Bytes);
    }

    /// <summary>A picture file made small, as a PNG file; one that is no wider than that stays as it is.</summary>
    /// <param name="path">The file.</param>
    /// <param name="width">How wide it shall be, in pixels.</param>
    /// <exception cref="Refusal">It is no picture that can be read.</exception>
    public static byte[] SmallPng(string path, int width)
    {
        using var whole = SKBitmap.Decode(path) ?? throw new Refusal($"{Path.GetFileName(path)} is not a picture that can be read.");
        if (whole.Width <= width)
        {
            return File.ReadAllBytes(path);
        }
        var height = Math.Max(1, (int)Math.Round((double)whole.Height * width / whole.Width));
        using var small = whole.Resize(new SKImageInfo(width, height, whole.ColorType, whole.AlphaType, whole.ColorSpace), new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        using var data = small.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }
}
