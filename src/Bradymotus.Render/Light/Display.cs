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
    public static (byte R, byte G, byte B) ToBytes(Vector3 radiance, float exposure) =>
        (ToByte(radiance.X * exposure), ToByte(radiance.Y * exposure), ToByte(radiance.Z * exposure));

    private static byte ToByte(float x) => float.IsNaN(x) ? (byte)0 : (byte)(Encode(Shoulder(x)) * 255 + 0.5f);
}
