using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>Light from infinitely far. <paramref name="Irradiance"/> falls on a surface that faces it.</summary>
/// <param name="Direction">Towards the sun.</param>
/// <param name="CosAngle">Cosine of half its angular diameter; 1 for a point.</param>
internal readonly record struct Sun(Vector3 Direction, Vector3 Irradiance, float CosAngle)
{
    /// <summary>A direction towards the sun's disc.</summary>
    internal Vector3 Sample(Vector2 u) => CosAngle >= 1 ? Direction : Warp.ToWorld(Warp.Cone(u, CosAngle), Direction);
}

/// <summary>A ball that glows evenly.</summary>
/// <param name="Intensity">Power ÷ 4π: the irradiance at one metre.</param>
internal readonly record struct Lamp(Vector3 Position, float Radius, Vector3 Intensity)
{
    /// <summary>A point of the disc that the ball shows to <paramref name="from"/>.</summary>
    internal Vector3 Sample(Vector3 from, Vector2 u)
    {
        var axis = from - Position;
        var length = axis.Length();
        if (length < 1e-6f)
        {
            return Position;
        }
        var d = Warp.Disk(u) * Radius;
        return Position + Warp.ToWorld(new(d, 0), axis / length);
    }
}

/// <summary>A sky that goes from the ground's colour below over the horizon to the top.</summary>
internal readonly record struct Sky(Vector3 Top, Vector3 Horizon, Vector3 Ground)
{
    /// <summary>Radiance from a direction of length 1.</summary>
    internal Vector3 Radiance(Vector3 direction)
    {
        var up = direction.Y;
        // The horizon is a narrow band: half of the way to the top is done at 15°.
        return up >= 0
            ? Vector3.Lerp(Horizon, Top, MathF.Sqrt(up) is var s ? s * (2 - s) : 0)
            : Vector3.Lerp(Horizon, Ground, MathF.Min(1, -up * 8));
    }

    /// <summary>Irradiance ÷ π on a surface with this normal and nothing in the way; a fit between up, sideways and down.</summary>
    internal Vector3 Ambient(Vector3 normal)
    {
        var above = Vector3.Lerp(Horizon, Top, 0.8f);
        var below = Vector3.Lerp(Horizon, Ground, 0.9f);
        return Vector3.Lerp(below, above, 0.5f + 0.5f * normal.Y);
    }
}
