namespace Bradymotus.Core.Numerics;

/// <summary>A point or direction in double precision. Right-handed, Y up, metres.</summary>
public readonly record struct Double3(double X, double Y, double Z)
{
    public static Double3 Zero => default;
    public static Double3 UnitX => new(1, 0, 0);
    public static Double3 UnitY => new(0, 1, 0);
    public static Double3 UnitZ => new(0, 0, 1);

    public double Length => Math.Sqrt(Dot(this, this));

    /// <summary>The same direction with length 1; the zero vector stays zero.</summary>
    public Double3 Normalized()
    {
        var length = Length;
        return length > 0 ? this * (1 / length) : Zero;
    }

    public static double Dot(Double3 a, Double3 b) => a.X * b.X + a.Y * b.Y + a.Z * b.Z;

    public static Double3 Cross(Double3 a, Double3 b) =>
        new(a.Y * b.Z - a.Z * b.Y, a.Z * b.X - a.X * b.Z, a.X * b.Y - a.Y * b.X);

    public static Double3 operator +(Double3 a, Double3 b) => new(a.X + b.X, a.Y + b.Y, a.Z + b.Z);
    public static Double3 operator -(Double3 a, Double3 b) => new(a.X - b.X, a.Y - b.Y, a.Z - b.Z);
    public static Double3 operator *(Double3 a, double s) => new(a.X * s, a.Y * s, a.Z * s);
    public static Double3 operator -(Double3 a) => new(-a.X, -a.Y, -a.Z);
}
