using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>Where a light, or a group of lights, is, which way it shines and how strongly: enough to guess what it gives to a place.</summary>
/// <param name="Min">The lower corner of the box that holds it.</param>
/// <param name="Max">The upper corner.</param>
/// <param name="Axis">The middle of the ways it faces, of length 1.</param>
/// <param name="CosFacing">Cosine of the widest angle between the axis and a way that it faces; −1 for all ways.</param>
/// <param name="CosShine">Cosine of how far light goes out to the side of where it faces: 0 for a panel.</param>
/// <param name="IsTwoSided">It shines as much backwards.</param>
/// <param name="Strength">Radiant intensity the way it faces, the mean of the three colours, in W/sr.</param>
internal readonly record struct LightBounds(Vector3 Min, Vector3 Max, Vector3 Axis, float CosFacing, float CosShine, bool IsTwoSided, float Strength)
{
    // Roundings must not make a light that is just seen count for nothing.
    private const float Slack = 1e-3f;

    internal Vector3 Middle => (Min + Max) / 2;

    /// <summary>Both together.</summary>
    internal static LightBounds Union(in LightBounds a, in LightBounds b)
    {
        var (axis, cos) = Cones(a.Axis, a.CosFacing, b.Axis, b.CosFacing);
        return new(Vector3.Min(a.Min, b.Min), Vector3.Max(a.Max, b.Max), axis, cos, MathF.Min(a.CosShine, b.CosShine), a.IsTwoSided || b.IsTwoSided, a.Strength + b.Strength);
    }

    /// <summary>
    /// About what it gives to a place: its strength over the square of its distance, times the best cosines that it may have there. 0 only where
    /// nothing of it can be seen.
    /// </summary>
    /// <param name="at">The place.</param>
    /// <param name="normal">The way the surface there faces; 0 for all ways.</param>
    /// <remarks>A. Conty Estevez and C. Kulla, "Importance sampling of many lights with adaptive tree splitting", 2018, section 4.</remarks>
    internal float Importance(Vector3 at, Vector3 normal)
    {
        var to = Middle - at;
        var squared = to.LengthSquared();
        var radius = (Max - Min).LengthSquared() / 4;
        if (squared <= radius * (1 + Slack))
        {
            // Within its ball it may be in any direction.
            return Strength / MathF.Max(radius, 1e-12f);
        }
        to /= MathF.Sqrt(squared);
        var sin = MathF.Sqrt(radius / squared) + Slack;
        var (sinWide, cosWide) = sin >= 1 ? (1f, 0f) : (sin, MathF.Sqrt(1 - sin * sin));
        var facing = -Vector3.Dot(Axis, to);
        facing = IsTwoSided ? MathF.Abs(facing) : facing;
        var shining = Less(Less(facing, CosFacing), sinWide, cosWide);
        var lit = normal == Vector3.Zero ? 1 : Less(Vector3.Dot(normal, to), sinWide, cosWide);
        return lit <= 0 || shining <= CosShine - Slack ? 0 : Strength / squared * lit * MathF.Max(0.01f, shining);
    }

    /// <summary>What dividing lights so costs: strength times area times how widely they shine.</summary>
    internal float Cost(float longest)
    {
        var size = Max - Min;
        var area = 2 * (size.X * size.Y + size.Y * size.Z + size.Z * size.X) + 1e-6f * longest * longest;
        var facing = MathF.Acos(Math.Clamp(CosFacing, -1, 1));
        var widest = MathF.Min(MathF.PI, facing + MathF.Acos(Math.Clamp(CosShine, -1, 1)));
        var (sin, cos) = MathF.SinCos(facing);
        var measure = 2 * MathF.PI * (1 - cos) + MathF.PI / 2 * (2 * widest * sin - MathF.Cos(facing - 2 * widest) - 2 * facing * sin + cos);
        return Strength * area * (IsTwoSided ? 2 : 1) * MathF.Max(measure, 1e-3f);
    }

    /// <summary>The cosine of an angle less another, at least 0.</summary>
    private static float Less(float cos, float cosBy) => Less(cos, MathF.Sqrt(MathF.Max(0, 1 - cosBy * cosBy)), cosBy);

    private static float Less(float cos, float sinBy, float cosBy) =>
        cos >= cosBy ? 1 : cos * cosBy + MathF.Sqrt(MathF.Max(0, 1 - cos * cos)) * sinBy;

    /// <summary>The narrowest cone round two.</summary>
    private static (Vector3 Axis, float Cos) Cones(Vector3 a, float cosA, Vector3 b, float cosB)
    {
        var (angleA, angleB) = (MathF.Acos(Math.Clamp(cosA, -1, 1)), MathF.Acos(Math.Clamp(cosB, -1, 1)));
        var between = MathF.Acos(Math.Clamp(Vector3.Dot(a, b), -1, 1));
        if (MathF.Min(between + angleB, MathF.PI) <= angleA)
        {
            return (a, cosA);
        }
        if (MathF.Min(between + angleA, MathF.PI) <= angleB)
        {
            return (b, cosB);
        }
        var half = (angleA + between + angleB) / 2;
        var across = Vector3.Cross(a, b);
        if (half >= MathF.PI || across.LengthSquared() < 1e-12f)
        {
            return (a, -1);
        }
        return (Vector3.Transform(a, Quaternion.CreateFromAxisAngle(Vector3.Normalize(across), half - angleA)), MathF.Cos(MathF.Min(MathF.PI, half + 1e-3f)));
    }
}
