using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>From radiance to the bytes of a picture. The same in every quality and on the stage.</summary>
public static class Display
{
    // Up to here a picture shows what the scene holds; brighter light is led smoothly towards white.
    private const float Knee = 0.8f;

    /// <summary>The sRGB transfer function of IEC 61966-2-1: linear 0…1 to encoded 0…1.</summary>
    public static float Encode(float linear) => linear <= 0.0031308f
        ? 12.92f * linear
        : 1.055f * MathF.Pow(linear, 1 / 2.4f) - 0.055f;

    /// <summary>Leads what is above the knee towards 1 without ever reaching it; slope 1 at the knee.</summary>
    public static float Shoulder(float x)
    {
        if (x <= Knee)
        {
            return MathF.Max(0, x);
        }
        var z = (x - Knee) / (1 - Knee);
        return Knee + (1 - Knee) * (float.IsPositiveInfinity(z) ? 1 : z / (1 + z));
    }

    /// <summary>One pixel.</summary>
    /// <param name="exposure">A factor, 2 to the power of the stops.</param>
    /// <param name="round">From where on a part of a step is one more: 0.5 rounds; another at every pixel dithers.</param>
    public static (byte R, byte G, byte B) ToBytes(Vector3 radiance, float exposure, float round = 0.5f) =>
        Toned(radiance * exposure) is var c ? (ToByte(c.X, round), ToByte(c.Y, round), ToByte(c.Z, round)) : default;

    /// <summary>
    /// Leads what is above the knee towards white and keeps its hue: the greatest and the least of the three are led by <see cref="Shoulder"/>, and what
    /// lies between them stays the same part of the way. Each by itself would turn a bright orange yellow.
    /// </summary>
    public static Vector3 Toned(Vector3 c)
    {
        c = new(float.IsNaN(c.X) ? 0 : c.X, float.IsNaN(c.Y) ? 0 : c.Y, float.IsNaN(c.Z) ? 0 : c.Z);
        c = Vector3.Clamp(c, Vector3.Zero, new(1e30f));
        var (low, high) = (MathF.Min(c.X, MathF.Min(c.Y, c.Z)), MathF.Max(c.X, MathF.Max(c.Y, c.Z)));
        if (high <= Knee)
        {
            return c;
        }
        var (from, to) = (Shoulder(low), Shoulder(high));
        return high > low ? new Vector3(from) + (c - new Vector3(low)) * ((to - from) / (high - low)) : new(to);
    }

    /// <summary>
    /// A threshold from 0 to 1 for a pixel, well spread over its neighbours, so that a smooth sky has no bands (interleaved gradient
    /// noise: J. Jimenez, SIGGRAPH 2014 course on advances in real-time rendering).
    /// </summary>
    public static float Threshold(int x, int y)
    {
        var at = 0.06711056f * x + 0.00583715f * y;
        var wide = 52.9829189f * (at - MathF.Floor(at));
        return wide - MathF.Floor(wide);
    }

    private static byte ToByte(float x, float round) => (byte)MathF.Min(255, Encode(x) * 255 + round);
}
