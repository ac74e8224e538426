using System.Globalization;
using System.Text;

namespace Bradymotus.Core.Pictures;

/// <summary>Reads pictures of high dynamic range in the Radiance format (.hdr): G. Ward, "Real pixels", Graphics Gems II, 1991; each pixel three mantissas and a common exponent.</summary>
public static class RadianceFile
{
    /// <summary>The longest side, and the most pixels.</summary>
    public const int MostSide = 16_384, MostPixels = 1 << 26;

    /// <summary>Whether bytes begin as such a file does.</summary>
    public static bool IsOne(ReadOnlySpan<byte> bytes) => bytes.StartsWith("#?"u8);

    /// <summary>Its size, without unpacking it.</summary>
    /// <exception cref="Refusal">It is damaged, too large, or laid out in a way that is not read.</exception>
    public static (int Width, int Height) Size(ReadOnlySpan<byte> bytes, string name) => Head(bytes, name, out _);

    /// <summary>Linear red, green and blue, row by row from the top. What ends too early is refused.</summary>
    /// <exception cref="Refusal">As <see cref="Size"/>, or it is cut off.</exception>
    public static float[] Read(ReadOnlySpan<byte> bytes, string name, out int width, out int height)
    {
        (width, height) = Head(bytes, name, out var at);
        Refusal CutOff() => new($"{name} ends in the middle: it seems to have been cut off. Get the whole picture.");
        // Even a row of one colour needs some bytes: a file that promises more than it can hold is not made room for.
        if (bytes.Length - at < 4L * height)
        {
            throw CutOff();
        }
        var picture = new float[3 * width * height];
        var row = new byte[4 * width];
        for (var y = 0; y < height; y++)
        {
            if (at + 4 > bytes.Length)
            {
                throw CutOff();
            }
            var isPacked = width is >= 8 and < 32_768 && bytes[at] == 2 && bytes[at + 1] == 2 && (bytes[at + 2] << 8 | bytes[at + 3]) == width;
            if (isPacked)
            {
                at += 4;
                for (var part = 0; part < 4; part++)
                {
                    for (var x = 0; x < width;)
                    {
                        if (at + 1 >= bytes.Length)
                        {
                            throw CutOff();
                        }
                        var count = (int)bytes[at++];
                        var isRun = count > 128;
                        count = isRun ? count - 128 : count;
                        if (count == 0 || x + count > width || at + (isRun ? 1 : count) > bytes.Length)
                        {
                            throw CutOff();
                        }
                        for (var i = 0; i < count; i++)
                        {
                            row[4 * x++ + part] = isRun ? bytes[at] : bytes[at + i];
                        }
                        at += isRun ? 1 : count;
                    }
                }
            }
            else
            {
                // Flat, or in the older way: 1, 1, 1, n is the last pixel n more times.
                for (int x = 0, shift = 0; x < width;)
                {
                    if (at + 4 > bytes.Length)
                    {
                        throw CutOff();
                    }
                    var pixel = bytes.Slice(at, 4);
                    at += 4;
                    if (pixel[0] == 1 && pixel[1] == 1 && pixel[2] == 1 && x > 0 && shift < 24)
                    {
                        var count = pixel[3] << shift;
                        shift += 8;
                        for (var i = 0; i < count && x < width; i++, x++)
                        {
                            row.AsSpan(4 * (x - 1), 4).CopyTo(row.AsSpan(4 * x));
                        }
                        continue;
                    }
                    shift = 0;
                    pixel.CopyTo(row.AsSpan(4 * x++));
                }
            }
            for (var x = 0; x < width; x++)
            {
                var exponent = row[4 * x + 3];
                var scale = exponent == 0 ? 0 : MathF.ScaleB(1, exponent - 136);
                for (var c = 0; c < 3; c++)
                {
                    picture[3 * (y * width + x) + c] = row[4 * x + c] * scale;
                }
            }
        }
        return picture;
    }

    private static (int Width, int Height) Head(ReadOnlySpan<byte> bytes, string name, out int at)
    {
        at = 0;
        if (IsOne(bytes))
        {
            for (var line = 0; line < 200; line++)
            {
                var length = bytes[at..].IndexOf((byte)'\n');
                if (length < 0)
                {
                    break;
                }
                var text = Encoding.ASCII.GetString(bytes.Slice(at, Math.Min(length, 200))).Trim();
                at += length + 1;
                if (text.StartsWith("FORMAT=", StringComparison.Ordinal) && text != "FORMAT=32-bit_rle_rgbe")
                {
                    throw new Refusal($"{name} holds its colours in another way than red, green and blue ({text}): export it as RGBE.");
                }
                var words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
                if (words is ["-Y", var h, "+X", var w] && int.TryParse(w, NumberStyles.None, CultureInfo.InvariantCulture, out var width)
                    && int.TryParse(h, NumberStyles.None, CultureInfo.InvariantCulture, out var height))
                {
                    return width is < 1 or > MostSide || height is < 1 or > MostSide || (long)width * height > MostPixels
                        ? throw new Refusal($"{name} is {width} × {height}: at most {MostSide} a side and {MostPixels >> 20} million pixels are taken. Make it smaller.")
                        : (width, height);
                }
                if (words is [[('+' or '-'), ..], _, [('+' or '-'), ..], _])
                {
                    throw new Refusal($"{name} does not begin at its upper left corner ({text}): export it so.");
                }
            }
        }
        throw new Refusal($"{name} is no Radiance picture, or damaged: no size stands in its head.");
    }
}
