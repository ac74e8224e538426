using System.Text.Json.Serialization;

namespace Bradymotus.Core.Numerics;

/// <summary>
/// An affine map in double precision: three basis columns and an origin, so that a point p goes to X·p.x + Y·p.y + Z·p.z + Origin.
/// As sixteen numbers it is column-major, as glTF 2.0 and WebGL have it.
/// </summary>
[JsonConverter(typeof(Serialization.AffineConverter))]
public readonly record struct Affine(Double3 X, Double3 Y, Double3 Z, Double3 Origin)
{
    /// <summary>Leaves everything where it is.</summary>
    public static Affine Identity => new(Double3.UnitX, Double3.UnitY, Double3.UnitZ, Double3.Zero);

    /// <summary>Moves by a vector.</summary>
    public static Affine Translation(Double3 by) => Identity with { Origin = by };

    /// <summary>Turns about the axes, applied to the object in the order given, about axes that stay fixed. Angles in degrees, beyond 360° as well.</summary>
    /// <remarks>One formula for all orders: K. Shoemake, "Euler angle conversion", Graphics Gems IV, 1994. i, j, k are the axes in their order.</remarks>
    public static Affine Rotation(Double3 degrees, RotationOrder order)
    {
        var (i, j, k, sign) = Euler.Axes(order);
        ReadOnlySpan<double> angles = [degrees.X, degrees.Y, degrees.Z];
        var (si, ci) = Real.SinCosDegrees(angles[i]);
        var (sj, cj) = Real.SinCosDegrees(angles[j]);
        var (sk, ck) = Real.SinCosDegrees(angles[k]);
        (si, sj, sk) = (sign * si, sign * sj, sign * sk);
        Span<double> m = stackalloc double[9];
        (m[3 * i + i], m[3 * j + i], m[3 * k + i]) = (cj * ck, sj * si * ck - ci * sk, sj * ci * ck + si * sk);
        (m[3 * i + j], m[3 * j + j], m[3 * k + j]) = (cj * sk, sj * si * sk + ci * ck, sj * ci * sk - si * ck);
        (m[3 * i + k], m[3 * j + k], m[3 * k + k]) = (-sj, cj * si, cj * ci);
        return new(new(m[0], m[1], m[2]), new(m[3], m[4], m[5]), new(m[6], m[7], m[8]), default);
    }

    /// <summary>Where a point comes to.</summary>
    public Double3 Point(in Double3 p) => new(
        X.X * p.X + Y.X * p.Y + Z.X * p.Z + Origin.X,
        X.Y * p.X + Y.Y * p.Y + Z.Y * p.Z + Origin.Y,
        X.Z * p.X + Y.Z * p.Y + Z.Z * p.Z + Origin.Z);

    /// <summary>What a direction becomes; the origin has no say.</summary>
    public Double3 Vector(in Double3 v) => new(
        X.X * v.X + Y.X * v.Y + Z.X * v.Z,
        X.Y * v.X + Y.Y * v.Y + Z.Y * v.Z,
        X.Z * v.X + Y.Z * v.Y + Z.Z * v.Z);

    /// <summary>Whether all twelve numbers are finite and no larger than a bound.</summary>
    public bool IsWithin(double bound) => Largest <= bound;

    /// <summary>The largest of the twelve numbers without their signs; not-a-number where one of them is none.</summary>
    public double Largest
    {
        get
        {
            static double Of(in Double3 v) => Math.Max(Math.Abs(v.X), Math.Max(Math.Abs(v.Y), Math.Abs(v.Z)));
            return Math.Max(Math.Max(Of(X), Of(Y)), Math.Max(Of(Z), Of(Origin)));
        }
    }

    /// <summary>How much larger volumes become; below 0 where it mirrors.</summary>
    public double Determinant => Double3.Dot(X, Double3.Cross(Y, Z));

    /// <summary>The map back.</summary>
    /// <returns>False when this map flattens space (a scale of 0), so that there is no way back.</returns>
    public bool TryInvert(out Affine inverse)
    {
        var det = Determinant;
        if (Math.Abs(det) < 1e-300 || !double.IsFinite(det))
        {
            inverse = Identity;
            return false;
        }
        var s = 1 / det;
        var r0 = Double3.Cross(Y, Z) * s;
        var r1 = Double3.Cross(Z, X) * s;
        var r2 = Double3.Cross(X, Y) * s;
        var columns = new Affine(new(r0.X, r1.X, r2.X), new(r0.Y, r1.Y, r2.Y), new(r0.Z, r1.Z, r2.Z), Double3.Zero);
        inverse = columns with { Origin = -columns.Vector(Origin) };
        return true;
    }

    /// <summary>First <paramref name="b"/>, then <paramref name="a"/>.</summary>
    public static Affine operator *(in Affine a, in Affine b) =>
        new(a.Vector(b.X), a.Vector(b.Y), a.Vector(b.Z), a.Point(b.Origin));

    /// <summary>Scales along its own axes after the fact: the columns times the factors.</summary>
    public Affine Scaled(Double3 by) => this with { X = X * by.X, Y = Y * by.Y, Z = Z * by.Z };

    /// <summary>Writes sixteen numbers, column-major.</summary>
    public void CopyTo(Span<double> sixteen)
    {
        (sixteen[0], sixteen[1], sixteen[2], sixteen[3]) = (X.X, X.Y, X.Z, 0);
        (sixteen[4], sixteen[5], sixteen[6], sixteen[7]) = (Y.X, Y.Y, Y.Z, 0);
        (sixteen[8], sixteen[9], sixteen[10], sixteen[11]) = (Z.X, Z.Y, Z.Z, 0);
        (sixteen[12], sixteen[13], sixteen[14], sixteen[15]) = (Origin.X, Origin.Y, Origin.Z, 1);
    }

    /// <summary>Reads sixteen numbers, column-major; the fourth row is ignored.</summary>
    public static Affine From(ReadOnlySpan<double> m) =>
        new(new(m[0], m[1], m[2]), new(m[4], m[5], m[6]), new(m[8], m[9], m[10]), new(m[12], m[13], m[14]));
}
