using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Tests;

/// <summary>What must hold for every curve and every history, not only for those that someone thought of.</summary>
public class EditPropertyTests
{
    private static readonly ChannelAddress Lift = Shots.At("base/transform.translate.y");

    private static Curve Some(int seed, bool easings = false, bool freeHandles = true) => SomeShots.Curve(new System.Random(seed), easings, freeHandles);

    /// <summary>Frames all over a curve and beyond, none of them on a key.</summary>
    private static IEnumerable<double> Frames(Curve curve)
    {
        var (first, last) = (curve.Keys[0].Frame, curve.Keys[^1].Frame);
        for (var i = -4; i <= 44; i++)
        {
            yield return first + (last - first) * (i + 0.37) / 40;
        }
    }

    private static int[] All(Curve curve) => [.. Enumerable.Range(0, curve.Keys.Length)];

    /// <summary>What a difference is measured by: the largest value, handles included.</summary>
    private static double Size(Curve curve) => 1 + curve.Keys.Max(k => Math.Abs(k.Value) + Math.Abs((k.In as FreeHandle)?.Value ?? 0) + Math.Abs((k.Out as FreeHandle)?.Value ?? 0));

    private static void Same(Curve expected, Curve actual, Func<double, double>? frame = null, Func<double, double>? value = null)
    {
        foreach (var f in Frames(expected))
        {
            // Where a curve stands upright, the last digit of a frame is many of a value.
            var steep = Math.Abs(expected.Evaluate(f + 1e-9) - expected.Evaluate(f - 1e-9));
            Assert.Equal((value ?? (v => v))(expected.Evaluate(f)), actual.Evaluate((frame ?? (x => x))(f)), 1e-9 * Size(expected) + 2 * steep);
        }
    }

    [Fact]
    public void A_key_put_on_a_curve_does_not_change_its_shape() => Laws.ForSeeds((dice, seed) =>
    {
        var at = (byte)dice.Next(256);
        var curve = Some(seed);
        var frame = curve.Keys[0].Frame + (curve.Keys[^1].Frame - curve.Keys[0].Frame) * (at + 0.5) / 256;
        if (curve.IndexOf(frame) >= 0)
        {
            return;
        }
        var more = KeyInsertion.Insert(curve, frame);
        // One key, or one more where time runs slowest, when handles reach across most of the segment.
        Assert.InRange(more.Keys.Length, curve.Keys.Length + 1, curve.Keys.Length + 2);
        Same(curve, more);
        Assert.Same(more, KeyInsertion.Insert(more, frame));
    });

    [Fact]
    public void Moving_all_keys_in_time_moves_the_curve() => Laws.ForSeeds((dice, seed) =>
    {
        var by = (sbyte)dice.Next(-128, 128);
        var curve = Some(seed, easings: true);
        var moved = CurveEdits.Transform(curve, All(curve), new(Frames: by));
        Same(curve, moved, frame: f => f + by);
    });

    [Fact]
    public void Moving_all_keys_in_value_moves_the_curve() => Laws.ForSeeds((dice, seed) =>
    {
        var by = (sbyte)dice.Next(-128, 128);
        var curve = Some(seed, easings: true);
        Same(curve, CurveEdits.Transform(curve, All(curve), new(Value: by)), value: v => v + by);
    });

    [Fact]
    public void Scaling_all_keys_in_time_stretches_the_curve_about_the_frame_that_stays() => Laws.ForSeeds((dice, seed) =>
    {
        var times = (byte)dice.Next(256);
        var (curve, scale) = (Some(seed, easings: true), 0.25 + times / 64.0);
        var pivot = curve.Keys[0].Frame + 3;
        Same(curve, CurveEdits.Transform(curve, All(curve), new(FramePivot: pivot, FrameScale: scale)), frame: f => pivot + (f - pivot) * scale);
    });

    [Fact]
    public void Scaling_all_values_by_a_number_below_0_mirrors_the_curve() => Laws.ForSeeds((dice, seed) =>
    {
        var curve = Some(seed, easings: true);
        Same(curve, CurveEdits.Transform(curve, All(curve), new(ValuePivot: 1, ValueScale: -2)), value: v => 1 + (v - 1) * -2);
    });

    [Fact]
    public void Reversing_twice_is_not_reversing() => Laws.ForSeeds((dice, seed) =>
    {
        var curve = Some(seed, easings: true);
        // A hold has no mirror image of its own: it holds what comes before it.
        if (curve.Keys.Any(k => k.Segment == Segment.Hold))
        {
            return;
        }
        var reversed = CurveEdits.Reverse(curve, All(curve));
        Same(curve, CurveEdits.Reverse(reversed, All(reversed)));
    });

    [Fact]
    public void Reversing_runs_the_curve_backwards() => Laws.ForSeeds((dice, seed) =>
    {
        var curve = Some(seed, easings: true);
        if (curve.Keys.Any(k => k.Segment == Segment.Hold))
        {
            return;
        }
        var sum = curve.Keys[0].Frame + curve.Keys[^1].Frame;
        Same(curve, CurveEdits.Reverse(curve, All(curve)), frame: f => sum - f);
    });

    [Fact]
    public void A_hold_leaves_everything_outside_of_it_where_it_was() => Laws.ForSeeds((dice, seed) =>
    {
        var at = (byte)dice.Next(256);
        var curve = Some(seed, freeHandles: false);
        var frame = Math.Round(curve.Keys[0].Frame + (curve.Keys[^1].Frame - curve.Keys[0].Frame) * at / 255.0);
        var held = CurveEdits.HoldUntil(curve, frame);
        var before = curve.Keys.LastOrDefault(k => k.Frame < frame);
        if (before is null)
        {
            Assert.Same(curve, held);
            return;
        }
        for (var f = before.Frame; f <= frame; f += 0.25)
        {
            Assert.Equal(before.Value, held.Evaluate(f));
        }
        var next = curve.Keys.FirstOrDefault(k => k.Frame > frame)?.Frame ?? double.PositiveInfinity;
        foreach (var f in Frames(curve).Where(f => f < before.Frame || f > next))
        {
            Assert.Equal(curve.Evaluate(f), held.Evaluate(f), 1e-9 * Size(curve));
        }
    });

    [Fact]
    public void Keys_that_are_removed_and_put_back_give_the_same_curve() => Laws.ForSeeds((dice, seed) =>
    {
        var curve = Some(seed, easings: true);
        var random = new System.Random(seed);
        var chosen = All(curve).Where(_ => random.Next(2) == 0).ToArray();
        var some = chosen.Select(i => curve.Keys[i]).ToArray();
        var rest = CurveEdits.RemoveKeys(curve, chosen);
        Assert.Equal(rest is null, some.Length == curve.Keys.Length);
        Assert.Equal(curve.Keys, CurveEdits.Put(rest, [.. some]).Keys);
    });

    [Fact]
    public void Setting_a_value_moves_no_other_key() => Laws.ForSeeds((dice, seed) =>
    {
        var value = (sbyte)dice.Next(-128, 128);
        var curve = Some(seed, easings: true);
        var key = curve.Keys[new System.Random(seed).Next(curve.Keys.Length)];
        var after = CurveEdits.SetKey(curve, key.Frame, value);
        Assert.Equal(value, after.Evaluate(key.Frame), 1e-9);
        Assert.Equal(curve.Keys.Where(k => k.Frame != key.Frame), after.Keys.Where(k => k.Frame != key.Frame));
        Assert.Equal(key with { Value = value }, after.Keys[after.IndexOf(key.Frame)]);
    });

    /// <summary>Undo, redo, new changes and ways back in any order, against a list of all states that there have been.</summary>
    [Fact]
    public void A_history_finds_every_state_again_whatever_was_done() => Laws.ForSeeds((dice, seed) =>
    {
        var random = new System.Random(seed);
        var history = new History(Shots.Crane());
        var states = new List<double> { 1 };
        double Now() => history.Current.Channel(Lift).Value;
        for (var i = 0; i < 40; i++)
        {
            switch (random.Next(4))
            {
                case 0 when history.Undo is { } undo:
                    history.Append(undo.Entry);
                    // Redo comes back to where undo started.
                    Assert.NotNull(history.Redo);
                    break;
                case 1 when history.Redo is { Entry: RestoreEntry redo }:
                    history.Append(redo);
                    Assert.Equal(states[redo.Revision], Now());
                    break;
                case 2:
                    var to = random.Next(history.Revision + 1);
                    history.Append(new RestoreEntry(to));
                    Assert.Equal(states[to], Now());
                    break;
                default:
                    history.Append(new EditEntry(new SetValues([new(Lift, 100 + i)])));
                    Assert.Equal(100 + i, Now());
                    Assert.Null(history.Redo);
                    break;
            }
            states.Add(Now());
            Assert.Equal(states.Count - 1, history.Revision);
        }
        for (var r = 0; r < states.Count; r++)
        {
            Assert.Equal(states[r], history.StateAt(r).Channel(Lift).Value);
        }
        while (history.Undo is { } back)
        {
            history.Append(back.Entry);
        }
        Assert.Equal(1, Now());
    });

    [Fact]
    public void What_could_not_be_stored_is_forgotten_again()
    {
        var history = new History(Shots.Crane(), revision: 7);
        history.Append(new EditEntry(new SetValues([new(Lift, 2)])));
        history.Append(new EditEntry(new SetValues([new(Lift, 3)])));
        history.Append(new RestoreEntry(7));
        history.Truncate(8);
        Assert.Equal((8, 2), (history.Revision, history.Current.Channel(Lift).Value));
        Assert.Null(history.Redo);
        Assert.Equal(new RestoreEntry(7), history.Undo!.Value.Entry);
    }

    [Fact]
    public void A_state_from_before_the_start_is_not_to_be_had()
    {
        var history = new History(Shots.Crane(), revision: 7);
        Assert.Throws<Refusal>(() => history.Append(new RestoreEntry(3)));
        Assert.Throws<Refusal>(() => history.Append(new RestoreEntry(99)));
        Assert.Throws<Refusal>(() => history.Append(new LeaveOutEntry(7)));
        Assert.Equal(7, history.Revision);
    }
}
