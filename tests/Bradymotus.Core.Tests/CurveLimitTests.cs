using Bradymotus.Core.Curves;

namespace Bradymotus.Core.Tests;

/// <summary>Numbers at the edge, and keys put where a curve goes on by itself.</summary>
public class CurveLimitTests
{
    [Fact]
    public void Frames_that_differ_by_rounding_are_one_frame()
    {
        var curve = new Curve([new Key(0.3, 1), new Key(2, 5)]);
        Assert.Equal(0, curve.IndexOf(0.1 + 0.2));
        Assert.Equal([9, 5], CurveEdits.SetKey(curve, 0.1 + 0.2, 9).Keys.Select(k => k.Value));
        Assert.Throws<Refusal>(() => new Curve([new Key(0.3, 1), new Key(0.1 + 0.2, 2)]));
        Assert.Throws<Refusal>(() => new Curve([new Key(0, 1), new Key(5e-324, 2)]));
        Assert.Equal([(0, 1d), (1, 2d), (2, 3d)], CurveEdits.Put(new Curve([new Key(0, 1), new Key(1 + 1e-9, 7)]), [new Key(2, 3), new Key(1, 2)]).Keys.Select(k => (k.Frame, k.Value)));
    }

    [Fact]
    public void Every_value_is_finite_whatever_the_numbers() => Laws.ForSeeds((dice, _) =>
    {
        double Any() => dice.Next(6) switch { 0 => 1e12, 1 => -1e12, 2 => 1e-300, 3 => 1e-9, 4 => 0, _ => dice.NextDouble() * 100 };
        var frame = -1e9 * dice.Next(2);
        var keys = new List<Key>();
        for (var i = dice.Next(1, 6); i > 0; i--)
        {
            keys.Add(new Key(frame, Any(), dice.Next(3) == 0 ? new EaseSegment((EaseFamily)dice.Next(10), (EaseDirection)dice.Next(3), 1000, 1000, 0.001) : Segment.Bezier,
                dice.Next(2) == 0 ? Handle.Smooth : new FreeHandle(-Any(), Any()), dice.Next(2) == 0 ? Handle.Auto : new FreeHandle(Any(), Any())));
            frame += dice.Next(2) == 0 ? 2e-6 : dice.Next(1, 100);
        }
        var curve = new Curve([.. keys], new((ExtrapolationKind)dice.Next(5), dice.Next(2)), new((ExtrapolationKind)dice.Next(5), dice.Next(2)));
        foreach (var f in new[] { -1e308, -1e9, keys[0].Frame - 1e-7, keys[0].Frame + 1e-6, (keys[0].Frame + keys[^1].Frame) / 2, keys[^1].Frame + 1, 1e9, 1e308 })
        {
            Assert.True(double.IsFinite(curve.Evaluate(f)), $"frame {f}: {curve.Evaluate(f)}");
            Assert.Equal(curve.Evaluate(f), curve.Compile().Evaluate(f));
        }
    });

    [Theory]
    [InlineData("""{"keys":[{"frame":0,"value":1,"out":{"kind":"free","frames":1,"value":1e308}}]}""", "too long")]
    [InlineData("""{"keys":[{"frame":0,"value":2e12}]}""", "up to 10¹²")]
    [InlineData("""{"keys":[{"frame":0,"value":0},{"frame":5e-324,"value":1}]}""", "Two keys lie on frame")]
    public void Numbers_beyond_all_measure_are_refused(string json, string part) =>
        Assert.Contains(part, Assert.Throws<Refusal>(() => Serialization.ShotJson.Read<Curve>(json, "curve")).Message, StringComparison.Ordinal);

    /// <summary>The slope at an end against a difference taken close beside it; expo and elastic have a step at the very end.</summary>
    [Fact]
    public void The_slope_at_an_end_of_an_easing_is_that_of_the_curve_beside_it()
    {
        foreach (var family in Enum.GetValues<EaseFamily>().Where(f => f != EaseFamily.Circ))
        {
            foreach (var direction in Enum.GetValues<EaseDirection>())
            {
                var ease = new EaseSegment(family, direction);
                const double h = 1e-5;
                var start = (-3 * Easing.Evaluate(ease, h) + 4 * Easing.Evaluate(ease, 2 * h) - Easing.Evaluate(ease, 3 * h)) / (2 * h);
                var end = (3 * Easing.Evaluate(ease, 1 - h) - 4 * Easing.Evaluate(ease, 1 - 2 * h) + Easing.Evaluate(ease, 1 - 3 * h)) / (2 * h);
                Assert.Equal(start, Easing.EndSlope(ease, atEnd: false), 1e-2);
                Assert.Equal(end, Easing.EndSlope(ease, atEnd: true), 1e-2);
            }
        }
        var curve = new Curve([new Key(0, 0, new EaseSegment(EaseFamily.Expo, EaseDirection.Out)), new Key(10, 10)], null, new(ExtrapolationKind.Linear));
        Assert.InRange(curve.Evaluate(11), 10, 10.02);
    }

    [Fact]
    public void A_key_put_where_handles_reach_across_leaves_the_curve_as_it_is()
    {
        var curve = new Curve([new Key(0, 0, Out: new FreeHandle(10, 10)), new Key(10, 0, In: new FreeHandle(-10, -10))]);
        foreach (var frame in new[] { 1.0, 4, 5, 5.001, 7.5, 9 })
        {
            var more = KeyInsertion.Insert(curve, frame);
            for (var f = 0.05; f < 10; f += 0.1)
            {
                Assert.Equal(curve.Evaluate(f), more.Evaluate(f), 1e-7);
            }
        }
    }

    [Theory]
    [InlineData(EaseFamily.Quad)]
    [InlineData(EaseFamily.Cubic)]
    [InlineData(EaseFamily.Back)]
    [InlineData(EaseFamily.Bounce)]
    public void A_key_put_on_an_easing_made_of_cubics_leaves_it_as_it_is(EaseFamily family)
    {
        foreach (var direction in Enum.GetValues<EaseDirection>())
        {
            var curve = new Curve([new Key(-4, 2), new Key(0, 0, new EaseSegment(family, direction)), new Key(20, 10), new Key(30, 3)]);
            var more = KeyInsertion.Insert(curve, 7, 13.5);
            Assert.True(more.IndexOf(7) > 0 && more.IndexOf(13.5) > 0);
            for (var f = -6.0; f <= 33; f += 0.13)
            {
                Assert.Equal(curve.Evaluate(f), more.Evaluate(f), 1e-9);
            }
        }
    }

    [Theory]
    [InlineData(EaseFamily.Sine)]
    [InlineData(EaseFamily.Elastic)]
    public void A_key_on_an_easing_without_exact_parts_is_refused_with_a_way_out(EaseFamily family)
    {
        var curve = new Curve([new Key(0, 0, new EaseSegment(family)), new Key(20, 10)]);
        Assert.Contains("(K)", Assert.Throws<Refusal>(() => KeyInsertion.Insert(curve, 7)).Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(ExtrapolationKind.Hold)]
    [InlineData(ExtrapolationKind.Linear)]
    public void A_key_put_beyond_the_ends_leaves_the_curve_as_it_is(ExtrapolationKind kind)
    {
        var curve = new Curve([new Key(0, 1, Out: new FreeHandle(3, 2)), new Key(10, 5), new Key(20, 2, In: Handle.Smooth)], new(kind), new(kind));
        var more = KeyInsertion.Insert(curve, -7, 25, 31, 4);
        Assert.Equal(7, more.Keys.Length);
        for (var f = -30.0; f <= 60; f += 0.37)
        {
            Assert.Equal(curve.Evaluate(f), more.Evaluate(f), 1e-9);
        }
    }

    [Fact]
    public void A_key_in_a_repetition_is_refused_since_it_would_change_every_pass()
    {
        var curve = new Curve([new Key(0, 0), new Key(20, 10)], null, new(ExtrapolationKind.Loop));
        Assert.Contains("between frames 0 and 20", Assert.Throws<Refusal>(() => KeyInsertion.Insert(curve, 25)).Message, StringComparison.Ordinal);
        Assert.Equal([3, 9], KeyInsertion.Insert(new Curve([new Key(3, 1)], null, new(ExtrapolationKind.Loop)), 9).Keys.Select(k => k.Frame));
    }

    [Fact]
    public void Many_keys_at_once_are_the_same_as_one_after_the_other() => Laws.ForSeeds((dice, _) =>
    {
        var curve = SomeShots.Curve(dice);
        var frames = Enumerable.Range(0, 12).Select(_ => curve.Keys[0].Frame + dice.NextDouble() * curve.Period).ToList();
        var together = KeyInsertion.Insert(curve, frames);
        foreach (var frame in frames)
        {
            Assert.True(together.IndexOf(frame) >= 0);
            Assert.Equal(curve.Evaluate(frame), together.Evaluate(frame), 1e-4);
        }
        for (var i = 0; i < 60; i++)
        {
            var f = curve.Keys[0].Frame + (i + 0.41) / 60 * curve.Period;
            var steep = Math.Abs(curve.Evaluate(f + 1e-9) - curve.Evaluate(f - 1e-9));
            Assert.Equal(curve.Evaluate(f), together.Evaluate(f), 1e-7 + 4 * steep);
        }
    });

    [Fact]
    public void Keys_3_and_5_scaled_by_a_half_fall_on_2_and_3()
    {
        var curve = new Curve([new Key(3, 1), new Key(5, 2)]);
        Assert.Equal([2, 3], CurveEdits.Transform(curve, [0, 1], new(FrameScale: 0.5, Snap: true)).Keys.Select(k => k.Frame));
    }

    [Fact]
    public void A_hold_leaves_what_comes_before_its_key_alone()
    {
        var curve = new Curve([new Key(0, 0), new Key(10, 5), new Key(20, 10), new Key(30, 0)]);
        var held = CurveEdits.HoldUntil(curve, 15);
        Assert.Equal(curve.Evaluate(8), held.Evaluate(8), 1e-12);
        Assert.Equal(curve.Evaluate(25), held.Evaluate(25), 1e-12);
        Assert.Equal(5, held.Evaluate(14.9));
    }
}
