using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>Light from infinitely far. <paramref name="Irradiance"/> falls on a surface that faces it.</summary>
/// <param name="Direction">Towards the sun.</param>
/// <param name="CosAngle">Cosine of half its angular diameter; 1 for a point.</param>
internal readonly record struct Sun(Vector3 Direction, Vector3 Irradiance, float CosAngle)
{
    /// <summary>A point, which no ray meets by chance.</summary>
    internal bool IsPoint => CosAngle >= 1;

    /// <summary>Of its disc: what falls on a surface that faces it is π·sin² times that.</summary>
    // By 1 − cos, which <see cref="Density"/> has too: its rounding, large for a small disc, is then no matter.
    internal Vector3 Radiance => Irradiance / (MathF.PI * (1 - CosAngle) * (1 + CosAngle));

    /// <summary>How densely <see cref="Sample"/> chooses a direction within its disc, per solid angle.</summary>
    internal float Density => 1 / (2 * MathF.PI * (1 - CosAngle));

    /// <summary>A direction towards the sun's disc.</summary>
    internal Vector3 Sample(Vector2 u) => IsPoint ? Direction : Warp.ToWorld(Warp.Cone(u, CosAngle), Direction);

    internal bool IsMetBy(Vector3 direction) => !IsPoint && Vector3.Dot(direction, Direction) >= CosAngle;
}

/// <summary>A ball that glows evenly. It is no body: it throws no shadow, and light goes through it.</summary>
/// <param name="Intensity">Power ÷ 4π: the irradiance at one metre.</param>
internal readonly record struct Lamp(Vector3 Position, float Radius, Vector3 Intensity)
{
    /// <summary>Of its surface: it shows the disc π·r² to everywhere.</summary>
    internal Vector3 Radiance => Intensity / (MathF.PI * Radius * Radius);

    /// <summary>How densely <see cref="Sample"/> chooses a direction in which the ball is seen, per solid angle; 0 from inside.</summary>
    internal float DensityFrom(Vector3 from) => Cap((Position - from).LengthSquared()) is > 0 and var cap ? 1 / (2 * MathF.PI * cap) : 0;

    /// <summary>A direction in which the ball is seen, evenly over its solid angle, and how far it is there.</summary>
    internal Vector3 Sample(Vector3 from, Vector2 u, out float distance)
    {
        var axis = Position - from;
        var squared = axis.LengthSquared();
        var direction = Warp.ToWorld(Warp.Cap(u, Cap(squared)), axis / MathF.Sqrt(squared));
        distance = Distance(from, direction);
        return direction;
    }

    /// <summary>How far away a ray meets the ball from outside; infinite where it does not.</summary>
    internal float Distance(Vector3 from, Vector3 direction)
    {
        var axis = Position - from;
        var along = Vector3.Dot(axis, direction);
        // From the foot of the perpendicular: far away, the square of the distance would swallow that of the radius.
        var inside = Radius * Radius - (axis - direction * along).LengthSquared();
        // A direction on the rim may miss by a rounding.
        return along <= 0 || axis.LengthSquared() <= Radius * Radius ? float.PositiveInfinity
            : inside >= -1e-4f * Radius * Radius ? along - MathF.Sqrt(MathF.Max(0, inside))
            : float.PositiveInfinity;
    }

    // 1 − cos of half the angle under which the ball is seen; by its sine, since the cosine of a small angle is 1.
    private float Cap(float squared)
    {
        var sine = Radius * Radius / squared;
        return sine >= 1 ? 0 : sine / (1 + MathF.Sqrt(1 - sine));
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
