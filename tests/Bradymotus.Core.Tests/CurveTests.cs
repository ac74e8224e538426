using Bradymotus.Core.Curves;
using Bradymotus.Core.Serialization;
using FsCheck;
using FsCheck.Fluent;

namespace Bradymotus.Core.Tests;

public class CurveTests
{
    private static Curve Read(string json) => ShotJson.Read<Curve>(json, "curve");

    [Fact]
    public void The_documented_example_reads_and_passes_through_its_keys()
    {
        var curve = Read("""
            {
              "before": { "kind": "hold" },
              "after":  { "kind": "loop", "count": 0 },
              "keys": [
                { "frame": 0,  "value": 0,   "segment": "bezier", "out": { "kind": "auto" } },
                { "frame": 20, "value": 2.5, "segment": "bezier", "in": { "kind": "free", "frames": -6, "value": 0.4 },
                                                                 "out": { "kind": "free", "frames": 6, "value": -0.4 } },
                { "frame": 40, "value": 0,   "segment": "linear" },
                { "frame": 50, "value": 1,   "segment": { "ease": "bounce", "direction": "out" } },
                { "frame": 60, "value": 0,   "segment": "hold" }
              ]
            }
            """);
        Assert.Equal([0, 2.5, 0, 1], new[] { 0.0, 20, 40, 50 }.Select(curve.Evaluate));
        Assert.Equal(0.5, curve.Evaluate(45), 12);
        Assert.Equal(0, curve.Evaluate(60));
        Assert.Equal(curve.Evaluate(20), curve.Evaluate(80), 12);
        Assert.Equal(0, curve.Evaluate(-10));
    }

    [Fact]
    public void A_curve_of_one_key_is_that_value_everywhere()
    {
        var curve = new Curve([new Key(5, 3)], new(ExtrapolationKind.Linear), new(ExtrapolationKind.Loop));
        Assert.All(new[] { -1e6, 0, 5, 5.5, 1e6 }, f => Assert.Equal(3, curve.Evaluate(f)));
    }

    [Fact]
    public void A_hold_stays_until_the_frame_of_the_next_key()
    {
        var curve = new Curve([new Key(0, 1, Segment.Hold), new Key(10, 2)]);
        Assert.Equal(1, curve.Evaluate(9.999999));
        Assert.Equal(2, curve.Evaluate(10));
    }

    [Fact]
    public void Flat_and_auto_ends_make_the_smooth_step()
    {
        var curve = new Curve([new Key(0, 0), new Key(20, 2.5)]);
        foreach (var t in new[] { 0.1, 0.25, 0.5, 0.8 })
        {
            Assert.Equal(2.5 * (3 * t * t - 2 * t * t * t), curve.Evaluate(20 * t), 12);
        }
    }

    [Fact]
    public void Straight_handles_make_a_straight_line()
    {
        var curve = new Curve([new Key(0, 1, Out: Handle.Straight), new Key(9, 10, In: Handle.Straight)]);
        Assert.Equal(4, curve.Evaluate(3), 12);
    }

    [Fact]
    public void A_smooth_handle_takes_the_slope_between_its_neighbours()
    {
        var curve = new Curve([new Key(0, 0), new Key(10, 8, In: Handle.Smooth, Out: Handle.Smooth), new Key(30, 3)]);
        const double h = 1e-4;
        Assert.Equal(3.0 / 30, (curve.Evaluate(10 + h) - curve.Evaluate(10 - h)) / (2 * h), 4);
    }

    [Fact]
    public void A_handle_longer_than_its_segment_is_shortened_with_its_slope_kept()
    {
        var curve = new Curve([new Key(0, 0, Out: new FreeHandle(40, 8)), new Key(10, 1, In: Handle.Flat)]);
        var shortened = new Curve([new Key(0, 0, Out: new FreeHandle(10, 2)), new Key(10, 1, In: Handle.Flat)]);
        for (var f = 0.0; f <= 10; f += 0.5)
        {
            Assert.Equal(shortened.Evaluate(f), curve.Evaluate(f), 12);
        }
    }

    [Fact]
    public void Auto_handles_never_leave_the_range_of_their_two_keys() => Laws.Hold(Prop.ForAll(Keys(), keys =>
    {
        var curve = new Curve([.. keys]);
        for (var i = 0; i + 1 < curve.Keys.Length; i++)
        {
            var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
            var (low, high) = (Math.Min(a.Value, b.Value) - 1e-9, Math.Max(a.Value, b.Value) + 1e-9);
            for (var s = 0; s <= 20; s++)
            {
                Assert.InRange(curve.Evaluate(a.Frame + (b.Frame - a.Frame) * s / 20), low, high);
            }
        }
    }));

    [Fact]
    public void A_run_of_frames_has_the_same_bits_as_one_by_one() => Laws.Hold(Prop.ForAll(Keys(), Gen.Choose(-60, 60).Four().ToArbitrary(), (keys, h) =>
    {
        var curve = new Curve([.. keys.Select((k, i) => k with { Out = new FreeHandle(Math.Abs(h.Item1) / (1.0 + i), h.Item2), In = new FreeHandle(-Math.Abs(h.Item3) / 2.0, h.Item4) })],
            new(ExtrapolationKind.Linear), new(ExtrapolationKind.PingPong));
        var values = new double[500];
        var (first, step) = (curve.Keys[0].Frame - 3.3, (curve.Period + 9) / 499);
        curve.Compile().Sample(first, step, values);
        Assert.Equal(values.Select((_, i) => curve.Evaluate(first + i * step)), values);
    }));

    [Fact]
    public void A_curve_that_is_asked_for_a_few_frames_gives_the_bits_of_one_that_is_asked_for_many() => Laws.ForSeeds((dice, _) =>
    {
        Handle Any() => dice.Next(3) switch { 0 => Handle.Auto, 1 => Handle.Smooth, _ => new FreeHandle((dice.NextDouble() - 0.5) * 30, (dice.NextDouble() - 0.5) * 9) };
        var curve = new Curve(
            [.. Enumerable.Range(0, 3 + dice.Next(12)).Select(i => new Key(4 * i + dice.NextDouble(), dice.Next(2) == 0 ? -0.0 : dice.Next(-5, 5), dice.Next(5) switch { 0 => Segment.Hold, 1 => Segment.Linear, _ => Segment.Bezier }, Any(), Any()))],
            new((ExtrapolationKind)dice.Next(5)), new((ExtrapolationKind)dice.Next(5)));
        var many = curve.Compile();
        many.Sample(0, 1, new double[9]);
        for (var n = 0; n < 20; n++)
        {
            var few = curve.Compile();
            for (var i = 0; i < 6; i++)
            {
                var frame = n == 0 ? curve.Keys[i % curve.Keys.Length].Frame : (dice.NextDouble() - 0.2) * 90;
                Assert.Equal(BitConverter.DoubleToInt64Bits(many.Evaluate(frame)), BitConverter.DoubleToInt64Bits(few.Evaluate(frame)));
            }
        }
    }, 300);

    [Fact]
    public void A_curve_passes_through_every_key() => Laws.Hold(Prop.ForAll(Keys(), keys =>
    {
        var curve = new Curve([.. keys]);
        Assert.All(curve.Keys, k => Assert.Equal(k.Value, curve.Evaluate(k.Frame), 9));
    }));

    [Fact]
    public void Time_never_runs_backwards_whatever_the_handles() => Laws.Hold(Prop.ForAll(
        Gen.Choose(-300, 300).Four().ToArbitrary(), h =>
        {
            var curve = new Curve([
                new Key(0, 0, Out: new FreeHandle(h.Item1 / 10.0, h.Item2 / 10.0)),
                new Key(10, 1, In: new FreeHandle(h.Item3 / 10.0, h.Item4 / 10.0))]);
            for (var f = 0.0; f <= 10; f += 0.25)
            {
                Assert.True(double.IsFinite(curve.Evaluate(f)));
            }
            // A curve is a function of time: close frames have close values where no handle stands upright.
            Assert.Equal(curve.Evaluate(10), curve.Evaluate(10 - 1e-12), 3);
        }));

    [Fact]
    public void A_loop_repeats_its_period() => Laws.Hold(Prop.ForAll(Keys(), Arb.From(Gen.Choose(-2000, 2000)), (keys, at) =>
    {
        var curve = new Curve([.. keys], new(ExtrapolationKind.Loop), new(ExtrapolationKind.Loop));
        var frame = at / 7.0;
        if ((frame - curve.Keys[0].Frame) % curve.Period != 0)
        {
            Near(curve, curve.Evaluate(frame), curve.Evaluate(frame + curve.Period), frame);
        }
    }));

    [Fact]
    public void A_climbing_loop_gains_the_same_with_each_period() => Laws.Hold(Prop.ForAll(Keys(), Arb.From(Gen.Choose(-2000, 2000)), (keys, at) =>
    {
        var curve = new Curve([.. keys], new(ExtrapolationKind.LoopOffset), new(ExtrapolationKind.LoopOffset));
        var frame = at / 7.0;
        var gain = curve.Keys[^1].Value - curve.Keys[0].Value;
        Near(curve, curve.Evaluate(frame) + gain, curve.Evaluate(frame + curve.Period), frame);
    }));

    [Fact]
    public void Ping_pong_is_its_own_mirror_image() => Laws.Hold(Prop.ForAll(Keys(), Arb.From(Gen.Choose(0, 2000)), (keys, at) =>
    {
        var curve = new Curve([.. keys], new(ExtrapolationKind.PingPong), new(ExtrapolationKind.PingPong));
        var d = at / 7.0;
        Near(curve, curve.Evaluate(curve.Keys[^1].Frame - d), curve.Evaluate(curve.Keys[^1].Frame + d), d);
        Near(curve, curve.Evaluate(curve.Keys[0].Frame - d), curve.Evaluate(curve.Keys[0].Frame + d), d);
    }));

    [Theory]
    [InlineData(ExtrapolationKind.Loop, 2, 30, 1.0)]
    [InlineData(ExtrapolationKind.Loop, 2, 35, 1.0)]
    [InlineData(ExtrapolationKind.LoopOffset, 2, 35, 3.0)]
    [InlineData(ExtrapolationKind.PingPong, 1, 35, 0.0)]
    [InlineData(ExtrapolationKind.PingPong, 2, 35, 1.0)]
    public void Counted_passes_end_in_a_hold(ExtrapolationKind kind, int count, double frame, double expected)
    {
        var curve = new Curve([new Key(0, 0, Segment.Linear), new Key(10, 1)], null, new(kind, count));
        Assert.Equal(expected, curve.Evaluate(frame), 12);
        Assert.Equal(expected, curve.Evaluate(1000), 12);
    }

    [Fact]
    public void On_the_last_keys_own_frame_the_value_is_the_last_keys()
    {
        var curve = new Curve([new Key(0, 0, Segment.Linear), new Key(10, 1)], null, new(ExtrapolationKind.Loop));
        Assert.Equal(1, curve.Evaluate(10));
        Assert.Equal(0, curve.Evaluate(20), 12);
        Assert.Equal(0.05, curve.Evaluate(10.5), 12);
    }

    [Theory]
    [InlineData(ExtrapolationKind.Hold)]
    [InlineData(ExtrapolationKind.Linear)]
    [InlineData(ExtrapolationKind.Loop)]
    [InlineData(ExtrapolationKind.LoopOffset)]
    [InlineData(ExtrapolationKind.PingPong)]
    public void A_frame_that_is_no_number_gives_a_number_all_the_same(ExtrapolationKind kind)
    {
        var curve = new Curve([new Key(0, 1, Segment.Linear), new Key(10, 3)], new(kind), new(kind));
        Assert.Equal((1, 1, 3), (curve.Evaluate(double.NaN), curve.Evaluate(double.NegativeInfinity), curve.Evaluate(double.PositiveInfinity)));
        Assert.True(double.IsFinite(curve.Evaluate(-1e300)) && double.IsFinite(curve.Evaluate(1e300)));
    }

    [Fact]
    public void Going_straight_on_keeps_the_slope_of_the_end()
    {
        var curve = new Curve([new Key(0, 0, Out: new FreeHandle(3, 6)), new Key(10, 5, In: new FreeHandle(-2, -1))],
            new(ExtrapolationKind.Linear), new(ExtrapolationKind.Linear));
        Assert.Equal(-8, curve.Evaluate(-4), 9);
        Assert.Equal(7, curve.Evaluate(14), 9);
    }

    [Theory]
    [InlineData("""{"keys":[]}""", "at least one key")]
    [InlineData("""{"keys":[{"frame":1,"value":0},{"frame":1,"value":2}]}""", "Two keys lie on frame 1")]
    [InlineData("""{"keys":[{"frame":1e999,"value":0}]}""", "not finite")]
    [InlineData("""{"keys":[{"frame":1,"value":0,"out":{"kind":"free","frames":1e999,"value":0}}]}""", "not finite")]
    [InlineData("""{"keys":[{"frame":1,"value":0,"segment":"wobble"}]}""", "wobble")]
    [InlineData("""{"keys":[{"frame":1,"value":0,"out":{"kind":"curly"}}]}""", "line 1")]
    [InlineData("""{"keys":[{"frame":1,"value":0}],"after":{"kind":"loop","count":-1}}""", "count")]
    [InlineData("""{"keys":[{"frame":1,"val""", "cut off")]
    [InlineData("", "empty")]
    public void A_bad_curve_is_refused_in_one_sentence(string json, string part)
    {
        var refusal = Assert.Throws<Refusal>(() => Read(json));
        Assert.Contains(part, refusal.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', refusal.Message);
    }

    [Fact]
    public void A_curve_comes_back_from_json_as_it_was() => Laws.Hold(Prop.ForAll(Keys(), keys =>
    {
        var curve = new Curve([.. keys], new(ExtrapolationKind.PingPong, 3), new(ExtrapolationKind.Linear));
        var back = Read(ShotJson.Write(curve));
        Assert.Equal(curve.Keys, back.Keys);
        Assert.Equal((curve.Before, curve.After), (back.Before, back.After));
    }));

    [Fact]
    public void Inserting_a_key_does_not_change_the_shape() => Laws.Hold(Prop.ForAll(Keys(), Arb.From(Gen.Choose(1, 99)), (keys, percent) =>
    {
        var curve = new Curve([.. keys]);
        var inserted = KeyInsertion.Insert(curve, curve.Keys[0].Frame + curve.Period * percent / 100.0);
        for (var f = curve.Keys[0].Frame; f <= curve.Keys[^1].Frame; f += curve.Period / 37)
        {
            Assert.Equal(curve.Evaluate(f), inserted.Evaluate(f), 5);
        }
    }));

    [Fact]
    public void A_key_set_inside_a_hold_holds_too()
    {
        var curve = CurveEdits.SetKey(new Curve([new Key(0, 1, Segment.Hold), new Key(20, 0)]), 10, 5);
        Assert.Equal(5, curve.Evaluate(19));
        Assert.Equal(1, curve.Evaluate(9));
    }

    [Fact]
    public void A_joined_key_turns_its_other_handle_and_a_split_one_does_not()
    {
        var curve = new Curve([new Key(0, 0), new Key(10, 5), new Key(20, 0)]);
        var turned = CurveEdits.SetHandle(curve, 1, KeySide.Out, new FreeHandle(4, 2));
        Assert.Equal(new FreeHandle(-10 / 3.0, -10 / 3.0 * 0.5), turned.Keys[1].In);
        var split = curve.WithKeys(curve.Keys.SetItem(1, curve.Keys[1] with { Joined = false }));
        Assert.Equal(Handle.Auto, CurveEdits.SetHandle(split, 1, KeySide.Out, new FreeHandle(4, 2)).Keys[1].In);
    }

    [Fact]
    public void Reversing_mirrors_the_motion()
    {
        var curve = new Curve([new Key(0, 0, Segment.Linear), new Key(10, 5, Out: new FreeHandle(3, 4)), new Key(30, 1)]);
        var reversed = CurveEdits.Reverse(curve, [0, 1, 2]);
        for (var f = 0.0; f <= 30; f += 1.5)
        {
            Assert.Equal(curve.Evaluate(30 - f), reversed.Evaluate(f), 9);
        }
    }

    [Fact]
    public void Scaling_keys_on_to_one_another_is_refused()
    {
        var curve = new Curve([new Key(0, 0), new Key(1, 1), new Key(2, 2)]);
        var refusal = Assert.Throws<Refusal>(() => CurveEdits.Transform(curve, [0, 1, 2], new KeyTransform(FrameScale: 0.2, Snap: true)));
        Assert.Contains("frame 0", refusal.Message, StringComparison.Ordinal);
    }

    /// <summary>A free fall keyed with split handles is the parabola of s = ½·g·t², since a cubic Bézier with handles of a third holds it exactly.</summary>
    [Fact]
    public void A_bounce_keyed_with_split_handles_falls_as_gravity_has_it()
    {
        const double g = 9.81;
        const double fps = 24;
        var height = 0.5 * g * (17 / fps) * (17 / fps);
        var curve = new Curve([new Key(12, height, Out: Handle.Flat), new Key(29, 0, In: new FreeHandle(-17 / 3.0, 2 * height / 3), Joined: false)]);
        for (var frame = 12.0; frame <= 29; frame += 0.5)
        {
            var t = (frame - 12) / fps;
            Assert.Equal(height - 0.5 * g * t * t, curve.Evaluate(frame), 9);
        }
    }

    private static void Near(Curve curve, double expected, double actual, double frame)
    {
        // Steep curves turn the rounding of a frame into a larger one of the value.
        var steep = curve.Keys.Zip(curve.Keys.Skip(1)).Max(p => Math.Abs((p.Second.Value - p.First.Value) / (p.Second.Frame - p.First.Frame)));
        Assert.True(Math.Abs(expected - actual) <= 1e-9 * (1 + steep + Math.Abs(expected)), $"frame {frame}: {expected} and {actual}");
    }

    private static Arbitrary<Key[]> Keys() => Gen.Choose(-1000, 1000).Select(v => v / 10.0).ArrayOf(12)
        .Zip(Gen.Choose(2, 12)).Select(p =>
        {
            var values = p.Item1;
            var frame = values[0];
            return Enumerable.Range(0, p.Item2).Select(i => new Key(frame += 1 + Math.Abs(values[^(i + 1)]), values[i])).ToArray();
        }).ToArbitrary();
}
