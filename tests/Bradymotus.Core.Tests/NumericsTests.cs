using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Tests;

public class NumericsTests
{
    [Fact]
    public void Elementary_functions_agree_with_the_system() => Laws.ForSeeds((dice, _) =>
    {
        var value = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var x = value % 1000;
        Assert.Equal(Math.Sin(x), Real.Sin(x), 1e-14);
        Assert.Equal(Math.Sin(x * Math.PI / 180), Real.SinDegrees(x), 1e-12);
        Assert.Equal(Math.Cos(x * Math.PI / 180), Real.CosDegrees(x), 1e-12);
        Assert.Equal(Math.Atan2(x, 3), Real.Atan2(x, 3), 1e-14);
        Assert.Equal(Math.Atan2(-2, x), Real.Atan2(-2, x), 1e-14);
        Assert.Equal(Math.Asin(x / 1000), Real.Asin(x / 1000), 1e-12);
        Assert.Equal(1, Real.Exp2(x / 10) / Math.Pow(2, x / 10), 1e-13);
    });

    [Theory]
    [InlineData(0, 0, 1)]
    [InlineData(90, 1, 0)]
    [InlineData(180, 0, -1)]
    [InlineData(-270, 1, 0)]
    [InlineData(3600, 0, 1)]
    public void Quarter_turns_are_exact(double degrees, double sin, double cos)
    {
        var (s, c) = Real.SinCosDegrees(degrees);
        Assert.Equal((sin, cos), (s + 0.0, c + 0.0));
    }

    [Fact]
    public void Angles_come_back_from_a_rotation_in_every_order() => Laws.ForSeeds((dice, _) =>
    {
        var x = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var y = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var z = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        foreach (var order in Enum.GetValues<RotationOrder>().Where(o => o != RotationOrder.Quaternion))
        {
            var angles = new Double3(x % 400, y % 400, z % 400);
            var rotation = Affine.Rotation(angles, order);
            var back = Affine.Rotation(Euler.From(rotation, order, Double3.Zero), order);
            Same(rotation, back, 1e-7);
            // Near where they were, they are the same angles.
            var near = Euler.From(rotation, order, angles);
            Assert.True((near - angles).Length < 1e-5 || IsLocked(rotation), $"{order} {angles} {near}");
        }
    });

    [Fact]
    public void A_rotation_is_its_three_turns_one_after_the_other() => Laws.ForSeeds((dice, _) =>
    {
        var x = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var y = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var z = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        // A turn about one axis by its definition: the next axis goes towards the one after it.
        static Affine About(int axis, double degrees)
        {
            var (s, c) = Math.SinCos(degrees * Math.PI / 180);
            return axis switch
            {
                0 => new(Double3.UnitX, new(0, c, s), new(0, -s, c), Double3.Zero),
                1 => new(new(c, 0, -s), Double3.UnitY, new(s, 0, c), Double3.Zero),
                _ => new(new(c, s, 0), new(-s, c, 0), Double3.UnitZ, Double3.Zero),
            };
        }
        double[] angles = [x % 400, y % 400, z % 400];
        foreach (var order in Enum.GetValues<RotationOrder>().Where(o => o != RotationOrder.Quaternion))
        {
            var axes = order.ToString().ToUpperInvariant().Select(c => c - 'X').ToArray();
            var expected = axes.Aggregate(Affine.Identity, (turned, axis) => About(axis, angles[axis]) * turned);
            Same(expected, Affine.Rotation(new(angles[0], angles[1], angles[2]), order), 1e-12);
        }
    });

    [Fact]
    public void Gimbal_lock_keeps_the_first_angle()
    {
        foreach (var order in Enum.GetValues<RotationOrder>().Where(o => o != RotationOrder.Quaternion))
        {
            var second = order switch { RotationOrder.Xyz or RotationOrder.Zyx => 1, RotationOrder.Yxz or RotationOrder.Zxy => 0, _ => 2 };
            foreach (var lock90 in new[] { 90.0, -90 })
            {
                double[] a = [20, 20, 20];
                a[second] = lock90;
                var rotation = Affine.Rotation(new(a[0], a[1], a[2]), order);
                var back = Euler.From(rotation, order, new(a[0], a[1], a[2]));
                Same(rotation, Affine.Rotation(back, order), 1e-9);
            }
        }
    }

    // System.Numerics has the same conventions in single precision.
    [Fact]
    public void Quaternions_turn_and_blend_as_those_of_the_framework_do() => Laws.ForSeeds((dice, _) =>
    {
        Quaternion Some() => new(dice.NextDouble() - 0.5, dice.NextDouble() - 0.5, dice.NextDouble() - 0.5, dice.NextDouble() - 0.5);
        static System.Numerics.Quaternion Single(Quaternion q) => System.Numerics.Quaternion.Normalize(new((float)q.X, (float)q.Y, (float)q.Z, (float)q.W));
        var (a, b, t) = (Some(), Some(), dice.NextDouble());
        var expected = System.Numerics.Matrix4x4.CreateFromQuaternion(System.Numerics.Quaternion.Slerp(Single(a), Single(b), (float)t));
        var blended = Quaternion.Slerp(a, b, t);
        // Close to opposite ones the way is decided by the last bit.
        if (Math.Abs(Quaternion.Dot(a.Normalized(), b.Normalized())) > 1e-5)
        {
            Same(new(new(expected.M11, expected.M12, expected.M13), new(expected.M21, expected.M22, expected.M23), new(expected.M31, expected.M32, expected.M33), Double3.Zero), blended.ToAffine(), 1e-5);
        }
        Assert.Equal(1, Math.Sqrt(Quaternion.Dot(blended, blended)), 12);
        Same(a.ToAffine(), Quaternion.From(a.ToAffine(), b).ToAffine(), 1e-12);
        Assert.True(Quaternion.Dot(Quaternion.From(a.ToAffine(), b), b) >= 0);
        Same(a.ToAffine(), Quaternion.Slerp(a, b, 0).ToAffine(), 1e-12);
        Same(b.ToAffine(), Quaternion.Slerp(a, b, 1).ToAffine(), 1e-12);
    });

    [Fact]
    public void An_inverse_undoes_its_map() => Laws.ForSeeds((dice, _) =>
    {
        var a = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var b = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var c = (dice.NextDouble() - 0.5) * Math.Pow(10, dice.Next(-2, 6));
        var map = Affine.Translation(new(a % 10, b % 10, c % 10)) * Affine.Rotation(new(a, b, c), RotationOrder.Zxy).Scaled(new(2, 0.5, -3));
        Assert.True(map.TryInvert(out var inverse));
        Same(Affine.Identity, inverse * map, 1e-9);
    });

    [Fact]
    public void What_is_flattened_has_no_inverse() => Assert.False(Affine.Identity.Scaled(new(1, 0, 1)).TryInvert(out _));

    private static bool IsLocked(Affine r) =>
        new[] { r.X, r.Y, r.Z }.Any(c => Math.Max(Math.Abs(c.X), Math.Max(Math.Abs(c.Y), Math.Abs(c.Z))) > 1 - 1e-9);

    private static void Same(Affine a, Affine b, double tolerance) =>
        Assert.True((a.X - b.X).Length + (a.Y - b.Y).Length + (a.Z - b.Z).Length + (a.Origin - b.Origin).Length < tolerance, $"{a}\n{b}");
}
