namespace Bradymotus.Core.Numerics;

/// <summary>A rotation as a quaternion, x, y, z, w as glTF 2.0 has it. One of any length but 0 stands for that of length 1.</summary>
public readonly record struct Quaternion(double X, double Y, double Z, double W)
{
    /// <summary>No rotation.</summary>
    public static Quaternion Identity => new(0, 0, 0, 1);

    /// <summary>The scalar product of all four numbers.</summary>
    public static double Dot(in Quaternion a, in Quaternion b) => a.X * b.X + a.Y * b.Y + a.Z * b.Z + a.W * b.W;

    /// <summary>The same rotation with length 1; none where the length is 0 or no number.</summary>
    public Quaternion Normalized()
    {
        var length = Math.Sqrt(Dot(this, this));
        return length > 0 && double.IsFinite(length) ? this * (1 / length) : Identity;
    }

    /// <summary>Each number times a factor; no longer of length 1.</summary>
    public static Quaternion operator *(in Quaternion q, double s) => new(q.X * s, q.Y * s, q.Z * s, q.W * s);

    /// <summary>First <paramref name="b"/>, then <paramref name="a"/>, as of maps.</summary>
    public static Quaternion operator *(in Quaternion a, in Quaternion b) => new(
        a.W * b.X + a.X * b.W + a.Y * b.Z - a.Z * b.Y,
        a.W * b.Y - a.X * b.Z + a.Y * b.W + a.Z * b.X,
        a.W * b.Z + a.X * b.Y - a.Y * b.X + a.Z * b.W,
        a.W * b.W - a.X * b.X - a.Y * b.Y - a.Z * b.Z);

    /// <summary>The turn back, of one with length 1.</summary>
    public Quaternion Conjugate => new(-X, -Y, -Z, W);

    /// <summary>The sum, number by number; no longer of length 1.</summary>
    public static Quaternion operator +(in Quaternion a, in Quaternion b) => new(a.X + b.X, a.Y + b.Y, a.Z + b.Z, a.W + b.W);

    /// <summary>All four numbers negative: the same rotation, the other way round.</summary>
    public static Quaternion operator -(in Quaternion q) => new(-q.X, -q.Y, -q.Z, -q.W);

    /// <summary>The way from one rotation to another at even speed, the shorter way round.</summary>
    /// <param name="t">0 to 1.</param>
    /// <remarks>K. Shoemake, "Animating rotation with quaternion curves", SIGGRAPH 1985; glTF 2.0, appendix C.4.</remarks>
    public static Quaternion Slerp(in Quaternion from, in Quaternion to, double t)
    {
        var (a, b) = (from.Normalized(), to.Normalized());
        var cos = Dot(a, b);
        if (cos < 0)
        {
            (b, cos) = (-b, -cos);
        }
        // The sine from the difference of both, which is exact where they are close.
        var apart = Math.Sqrt(Dot(b + -a, b + -a)) / 2;
        var angle = 2 * Real.Asin(Math.Min(1, apart));
        if (angle < 1e-9)
        {
            return (a * (1 - t) + b * t).Normalized();
        }
        var sin = Real.Sin(angle);
        return a * (Real.Sin((1 - t) * angle) / sin) + b * (Real.Sin(t * angle) / sin);
    }

    /// <summary>The rotation as a map.</summary>
    public Affine ToAffine()
    {
        var (x, y, z, w) = Normalized();
        return new(
            new(1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)),
            new(2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)),
            new(2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)),
            Double3.Zero);
    }

    /// <summary>The quaternion of a rotation, of the two that there are the one nearer to <paramref name="near"/>.</summary>
    /// <param name="rotation">Orthonormal columns.</param>
    /// <remarks>The largest of the four is taken first, so that nothing is divided by what is close to 0 (K. Shoemake, 1985).</remarks>
    public static Quaternion From(in Affine rotation, in Quaternion near)
    {
        var (a, b, c) = (rotation.X, rotation.Y, rotation.Z);
        var trace = a.X + b.Y + c.Z;
        Quaternion q;
        if (trace > 0)
        {
            q = new(b.Z - c.Y, c.X - a.Z, a.Y - b.X, 1 + trace);
        }
        else if (a.X >= b.Y && a.X >= c.Z)
        {
            q = new(1 + a.X - b.Y - c.Z, a.Y + b.X, a.Z + c.X, b.Z - c.Y);
        }
        else if (b.Y >= c.Z)
        {
            q = new(a.Y + b.X, 1 - a.X + b.Y - c.Z, b.Z + c.Y, c.X - a.Z);
        }
        else
        {
            q = new(a.Z + c.X, b.Z + c.Y, 1 - a.X - b.Y + c.Z, a.Y - b.X);
        }
        q = q.Normalized();
        return Dot(q, near) < 0 ? -q : q;
    }
}
