using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>Smooth borders between air and what lets light through.</summary>
internal static class Dielectric
{
    /// <summary>Reflected straight on, by the index of refraction.</summary>
    internal static float Facing(float ior) => (ior - 1) / (ior + 1) is var r ? r * r : 0;

    /// <summary>The part of light that is reflected, by Fresnel's equations, without polarization.</summary>
    /// <param name="cos">Between the normal and the ray, on its own side.</param>
    /// <param name="eta">The index on its own side over that on the other.</param>
    internal static float Reflected(float cos, float eta)
    {
        cos = Math.Clamp(cos, 0, 1);
        var sin2 = eta * eta * (1 - cos * cos);
        if (sin2 >= 1)
        {
            return 1;
        }
        var t = MathF.Sqrt(1 - sin2);
        var (s, p) = ((eta * cos - t) / (eta * cos + t), (cos - eta * t) / (cos + eta * t));
        return (s * s + p * p) / 2;
    }

    /// <summary>Snell's law: where light that comes from ωo goes behind a facet.</summary>
    internal static Vector3 Refracted(Vector3 wo, Vector3 h, float eta)
    {
        var cos = Vector3.Dot(wo, h);
        var t = MathF.Sqrt(MathF.Max(0, 1 - eta * eta * (1 - cos * cos)));
        return h * (eta * cos - t) - wo * eta;
    }
}
