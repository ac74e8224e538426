using System.Globalization;
using System.Numerics;
using SkiaSharp;

namespace Bradymotus.Formats.Outlines;

/// <summary>A colour of CSS as linear light (IEC 61966-2-1), and how much of it there is.</summary>
internal static class SvgColour
{
    /// <returns>Null where it is none that is known.</returns>
    internal static Vector4? Parse(string text)
    {
        text = text.Trim();
        if (text.StartsWith('#') && SKColor.TryParse(text, out var hex))
        {
            // Skia reads what is before the colour as its opacity, CSS what comes behind.
            return text.Length is 5 or 9 ? Of(hex.Alpha, hex.Red, hex.Green, hex.Blue / 255f) : Of(hex.Red, hex.Green, hex.Blue, 1);
        }
        if (text.IndexOf('(', StringComparison.Ordinal) is > 0 and var open && text.EndsWith(')'))
        {
            var numbers = text[(open + 1)..^1].Split([',', ' ', '/', '\t'], StringSplitOptions.RemoveEmptyEntries);
            var alpha = numbers.Length > 3 ? Number(numbers[3], 1) : 1;
            if (numbers.Length < 3 || alpha is null || numbers.Take(3).Any(n => Number(n, 1) is null))
            {
                return null;
            }
            return text[..open].ToLowerInvariant() switch
            {
                "rgb" or "rgba" => Of((float)Number(numbers[0], 255)!, (float)Number(numbers[1], 255)!, (float)Number(numbers[2], 255)!, (float)alpha),
                "hsl" or "hsla" => Hue((float)Number(numbers[0].Replace("deg", "", StringComparison.Ordinal), 360)!, (float)Number(numbers[1], 1)!, (float)Number(numbers[2], 1)!, (float)alpha),
                _ => null,
            };
        }
        return text.Equals("transparent", StringComparison.OrdinalIgnoreCase) ? Vector4.Zero
            : System.Drawing.Color.FromName(text) is { IsKnownColor: true, IsSystemColor: false } known ? Of(known.R, known.G, known.B, 1) : null;
    }

    private static double? Number(string text, double whole) =>
        double.TryParse(text.TrimEnd('%'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? text.EndsWith('%') ? v / 100 * whole : v : null;

    private static Vector4 Of(float r, float g, float b, float alpha)
    {
        static float Linear(float v)
        {
            v = Math.Clamp(v / 255, 0, 1);
            return v <= 0.04045f ? v / 12.92f : MathF.Pow((v + 0.055f) / 1.055f, 2.4f);
        }
        return new(Linear(r), Linear(g), Linear(b), Math.Clamp(alpha, 0, 1));
    }

    // CSS Color Module Level 3, section 4.2.4.
    private static Vector4 Hue(float hue, float saturation, float lightness, float alpha)
    {
        (saturation, lightness) = (Math.Clamp(saturation, 0, 1), Math.Clamp(lightness, 0, 1));
        float At(float n)
        {
            var k = ((n + hue / 30) % 12 + 12) % 12;
            return 255 * (lightness - saturation * MathF.Min(lightness, 1 - lightness) * MathF.Max(-1, MathF.Min(MathF.Min(k - 3, 9 - k), 1)));
        }
        return Of(At(0), At(8), At(4), alpha);
    }
}
