using System.Numerics;

namespace Bradymotus.Render.Sampling;

/// <summary>From the unit square to directions, and the frame round a normal.</summary>
internal static class Warp
{
    /// <summary>Two directions that make a right-handed frame with <paramref name="n"/> (T. Duff et al., "Building an orthonormal basis, revisited", JCGT 2017).</summary>
    internal static (Vector3 Tangent, Vector3 Bitangent) Frame(Vector3 n)
    {
        var sign = MathF.CopySign(1, n.Z);
        var a = -1 / (sign + n.Z);
        var b = n.X * n.Y * a;
        return (new(1 + sign * n.X * n.X * a, sign * b, -sign * n.X), new(b, sign + n.Y * n.Y * a, -n.Y));
    }

    /// <summary>A direction about +Z with density cos θ / π.</summary>
    internal static Vector3 CosineHemisphere(Vector2 u)
    {
        var d = Disk(u);
        return new(d.X, d.Y, MathF.Sqrt(MathF.Max(0, 1 - d.LengthSquared())));
    }

    /// <summary>A direction within a cone about +Z, evenly over its solid angle.</summary>
    internal static Vector3 Cone(Vector2 u, float cosAngle) => Cap(u, 1 - cosAngle);

    /// <summary>As <see cref="Cone"/>, given 1 − the cosine of its half angle, which is exact for the smallest.</summary>
    internal static Vector3 Cap(Vector2 u, float height)
    {
        var down = u.X * height;
        var z = 1 - down;
        var r = MathF.Sqrt(MathF.Max(0, down * (2 - down)));
        var (s, c) = MathF.SinCos(2 * MathF.PI * u.Y);
        return new(r * c, r * s, z);
    }

    internal static Vector2 Disk(Vector2 u)
    {
        var r = MathF.Sqrt(u.X);
        var (s, c) = MathF.SinCos(2 * MathF.PI * u.Y);
        return new(r * c, r * s);
    }

    internal static Vector3 ToWorld(Vector3 local, Vector3 normal)
    {
        var (t, b) = Frame(normal);
        return t * local.X + b * local.Y + normal * local.Z;
    }
}
