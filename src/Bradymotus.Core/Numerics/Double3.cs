namespace Bradymotus.Core.Numerics;

/// <summary>A point or direction in double precision. Right-handed, Y up, metres.</summary>
public readonly record struct Double3(double X, double Y, double Z)
{
    /// <summary>The origin.</summary>
    public static Double3 Zero => default;
    /// <summary>One along X.</summary>
    public static Double3 UnitX => new(1, 0, 0);
    /// <summary>One along Y.</summary>
    public static Double3 UnitY => new(0, 1, 0);
    /// <summary>One along Z.</summary>
    public static Double3 UnitZ => new(0, 0, 1);

    /// <summary>Its length.</summary>
    public double Length => Math.Sqrt(Dot(this, this));

    /// <summary>The same direction with length 1; the zero vector stays zero.</summary>
    public Double3 Normalized()
    {
        var length = Length;
        return length > 0 ? this * (1 / length) : Zero;
    }

    /// <summary>The scalar product.</summary>
    public static double Dot(Double3 a, Double3 b) => a.X * b.X + a.Y * b.Y + a.Z * b.Z;

    /// <summary>The vector product, right-handed.</summary>
    public static Double3 Cross(Double3 a, Double3 b) =>
        new(a.Y * b.Z - a.Z * b.Y, a.Z * b.X - a.X * b.Z, a.X * b.Y - a.Y * b.X);

    /// <summary>The sum, number by number.</summary>
    public static Double3 operator +(Double3 a, Double3 b) => new(a.X + b.X, a.Y + b.Y, a.Z + b.Z);
    /// <summary>The difference, number by number.</summary>
    public static Double3 operator -(Double3 a, Double3 b) => new(a.X - b.X, a.Y - b.Y, a.Z - b.Z);
    /// <summary>Each number times a factor.</summary>
    public static Double3 operator *(Double3 a, double s) => new(a.X * s, a.Y * s, a.Z * s);
    /// <summary>The opposite.</summary>
    public static Double3 operator -(Double3 a) => new(-a.X, -a.Y, -a.Z);
}
