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
        (ToByte(radiance.X * exposure, round), ToByte(radiance.Y * exposure, round), ToByte(radiance.Z * exposure, round));

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

    private static byte ToByte(float x, float round) => float.IsNaN(x) ? (byte)0 : (byte)MathF.Min(255, Encode(Shoulder(x)) * 255 + round);
}
