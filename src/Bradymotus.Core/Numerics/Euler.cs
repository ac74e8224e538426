namespace Bradymotus.Core.Numerics;

/// <summary>From a rotation matrix back to three angles.</summary>
public static class Euler
{
    /// <summary>
    /// The angles in degrees that give this rotation in this order, chosen nearest to <paramref name="near"/> so that an
    /// object that is being dragged does not jump by a turn. At gimbal lock the first turn keeps its angle of <paramref name="near"/>.
    /// </summary>
    /// <param name="rotation">Orthonormal columns.</param>
    public static Double3 From(in Affine rotation, RotationOrder order, Double3 near)
    {
        var (first, second, third, sign) = Axes(order);
        Span<double> m = stackalloc double[16];
        rotation.CopyTo(m);
        double At(Span<double> a, int row, int column) => a[column * 4 + row];

        var sinSecond = Math.Clamp(-sign * At(m, third, first), -1, 1);
        Span<double> before = [near.X, near.Y, near.Z];
        Span<double> angles = stackalloc double[3];
        if (Math.Abs(sinSecond) < 1 - 1e-12)
        {
            angles[second] = Real.Asin(sinSecond) * (180 / Math.PI);
            angles[first] = Real.Atan2Degrees(sign * At(m, third, second), At(m, third, third));
            angles[third] = Real.Atan2Degrees(sign * At(m, second, first), At(m, first, first));
        }
        else
        {
            angles[second] = sinSecond > 0 ? 90 : -90;
            angles[first] = before[first];
            var (s, c) = Real.SinCosDegrees(before[first]);
            // With the first turn taken out, what is left is a turn about the third axis.
            var sinThird = sign * (-c * At(m, first, second)) + s * At(m, first, third);
            var cosThird = c * At(m, second, second) - sign * s * At(m, second, third);
            angles[third] = Real.Atan2Degrees(sinThird, cosThird);
        }
        Span<double> other = stackalloc double[3];
        other[first] = angles[first] + 180;
        other[second] = 180 - angles[second];
        other[third] = angles[third] + 180;
        var a = Nearest(angles, before);
        var b = Nearest(other, before);
        return Distance(b, before) + 1e-9 < Distance(a, before) ? b : a;
    }

    private static Double3 Nearest(ReadOnlySpan<double> angles, ReadOnlySpan<double> near)
    {
        static double Shift(double angle, double to) => angle + 360 * Math.Round((to - angle) / 360);
        return new(Shift(angles[0], near[0]), Shift(angles[1], near[1]), Shift(angles[2], near[2]));
    }

    private static double Distance(Double3 a, ReadOnlySpan<double> b) =>
        Math.Abs(a.X - b[0]) + Math.Abs(a.Y - b[1]) + Math.Abs(a.Z - b[2]);

    /// <summary>The axes in the order of their turns, and +1 where that is an even permutation of x, y, z, else −1.</summary>
    internal static (int First, int Second, int Third, double Sign) Axes(RotationOrder order) => order switch
    {
        RotationOrder.Xyz => (0, 1, 2, 1),
        RotationOrder.Xzy => (0, 2, 1, -1),
        RotationOrder.Yxz => (1, 0, 2, -1),
        RotationOrder.Yzx => (1, 2, 0, 1),
        RotationOrder.Zxy => (2, 0, 1, 1),
        RotationOrder.Zyx => (2, 1, 0, -1),
        _ => throw new ArgumentOutOfRangeException(nameof(order)),
    };
}
