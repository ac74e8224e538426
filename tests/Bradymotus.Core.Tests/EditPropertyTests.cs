using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;

namespace Bradymotus.Core.Tests;

/// <summary>What must hold for every curve and every history, not only for those that someone thought of.</summary>
public class EditPropertyTests
{
    private static readonly ChannelAddress Lift = Shots.At("base/transform.translate.y");

    /// <summary>A curve of 2 to 9 keys with segments and handles of every kind; easings only where they are asked for.</summary>
    private static Curve Some(int seed, bool easings = false, bool freeHandles = true)
    {
        var random = new System.Random(seed);
        Handle Handles(int side) => random.Next(freeHandles ? 5 : 4) switch
        {
            0 => Handle.Auto,
            1 => Handle.Smooth,
            2 => Handle.Flat,
            3 => Handle.Straight,
            _ => new FreeHandle(side * random.Next(0, 60) / 10.0, random.Next(-30, 31) / 10.0),
        };
        Segment Segments() => random.Next(easings ? 4 : 3) switch
        {
            0 => Segment.Hold,
            1 => Segment.Linear,
            2 => Segment.Bezier,
            _ => new EaseSegment((EaseFamily)random.Next(10), (EaseDirection)random.Next(3)),
        };
        var frame = random.Next(-20, 20);
        var keys = new List<Key>();
        for (var i = random.Next(2, 10); i > 0; i--)
        {
            keys.Add(new Key(frame, random.Next(-50, 51) / 5.0, Segments(), Handles(-1), Handles(1)));
            frame += random.Next(2, 15);
        }
        return new Curve([.. keys]);
    }

    /// <summary>Frames all over a curve and beyond, none of them on a key.</summary>
    private static IEnumerable<double> Frames(Curve curve)
    {
        var (first, last) = (curve.Keys[0].Frame, curve.Keys[^1].Frame);
        for (var i = -4; i <= 44; i++)
        {
            yield return first + (last - first) * (i + 0.37) / 40;
        }
    }

    private static HashSet<double> All(Curve curve) => [.. curve.Keys.Select(k => k.Frame)];

    private static void Same(Curve expected, Curve actual, Func<double, double>? frame = null, Func<double, double>? value = null)
    {
        foreach (var f in Frames(expected))
        {
            Assert.Equal((value ?? (v => v))(expected.Evaluate(f)), actual.Evaluate((frame ?? (x => x))(f)), 1e-6);
        }
    }

    [Property]
    public void A_key_put_on_a_curve_does_not_change_its_shape(int seed, byte at)
    {
        var curve = Some(seed);
        var frame = curve.Keys[0].Frame + (curve.Keys[^1].Frame - curve.Keys[0].Frame) * (at + 0.5) / 256;
        if (curve.IndexOf(frame) >= 0)
        {
            return;
        }
        var more = CurveEdits.InsertOnCurve(curve, frame);
        Assert.Equal(curve.Keys.Length + 1, more.Keys.Length);
        Same(curve, more);
        Assert.Same(more, CurveEdits.InsertOnCurve(more, frame));
    }

    [Property]
    public void Moving_all_keys_in_time_moves_the_curve(int seed, sbyte by)
    {
        var curve = Some(seed, easings: true);
        var moved = CurveEdits.Transform(curve, All(curve), new(Frames: by));
        Same(curve, moved, frame: f => f + by);
    }

    [Property]
    public void Moving_all_keys_in_value_moves_the_curve(int seed, sbyte by)
    {
        var curve = Some(seed, easings: true);
        Same(curve, CurveEdits.Transform(curve, All(curve), new(Value: by)), value: v => v + by);
    }

    [Property]
    public void Scaling_all_keys_in_time_stretches_the_curve_about_the_frame_that_stays(int seed, byte times)
    {
        var (curve, scale) = (Some(seed, easings: true), 0.25 + times / 64.0);
        var pivot = curve.Keys[0].Frame + 3;
        Same(curve, CurveEdits.Transform(curve, All(curve), new(FramePivot: pivot, FrameScale: scale)), frame: f => pivot + (f - pivot) * scale);
    }

    [Property]
    public void Scaling_all_values_by_a_number_below_0_mirrors_the_curve(int seed)
    {
        var curve = Some(seed, easings: true);
        Same(curve, CurveEdits.Transform(curve, All(curve), new(ValuePivot: 1, ValueScale: -2)), value: v => 1 + (v - 1) * -2);
    }

    [Property]
    public void Reversing_twice_is_not_reversing(int seed)
    {
        var curve = Some(seed, easings: true);
        // A hold has no mirror image of its own: it holds what comes before it.
        if (curve.Keys.Any(k => k.Segment == Segment.Hold))
        {
            return;
        }
        var reversed = CurveEdits.Reverse(curve, All(curve));
        Same(curve, CurveEdits.Reverse(reversed, All(reversed)));
    }

    [Property]
    public void Reversing_runs_the_curve_backwards(int seed)
    {
        var curve = Some(seed, easings: true);
        if (curve.Keys.Any(k => k.Segment == Segment.Hold))
        {
            return;
        }
        var sum = curve.Keys[0].Frame + curve.Keys[^1].Frame;
        Same(curve, CurveEdits.Reverse(curve, All(curve)), frame: f => sum - f);
    }

    [Property]
    public void A_hold_leaves_everything_outside_of_it_where_it_was(int seed, byte at)
    {
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
        Assert.Equal([.. curve.Keys.Where(k => k.Frame < before.Frame)], held.Keys.Where(k => k.Frame < before.Frame));
        Assert.Equal([.. curve.Keys.Where(k => k.Frame > frame)], held.Keys.Where(k => k.Frame > frame));
    }

    [Property]
    public void Keys_that_are_removed_and_put_back_give_the_same_curve(int seed)
    {
        var curve = Some(seed, easings: true);
        var random = new System.Random(seed);
        var some = curve.Keys.Where(_ => random.Next(2) == 0).ToArray();
        var rest = CurveEdits.RemoveKeys(curve, some.Select(k => k.Frame).ToHashSet());
        Assert.Equal(rest is null, some.Length == curve.Keys.Length);
        Assert.Equal(curve.Keys, CurveEdits.Put(rest, [.. some]).Keys);
    }

    [Property]
    public void Setting_a_value_moves_no_other_key(int seed, sbyte value)
    {
        var curve = Some(seed, easings: true);
        var key = curve.Keys[new System.Random(seed).Next(curve.Keys.Length)];
        var after = CurveEdits.SetKey(curve, key.Frame, value);
        Assert.Equal(value, after.Evaluate(key.Frame), 1e-9);
        Assert.Equal(curve.Keys.Where(k => k.Frame != key.Frame), after.Keys.Where(k => k.Frame != key.Frame));
        Assert.Equal(key with { Value = value }, after.Keys[after.IndexOf(key.Frame)]);
    }

    /// <summary>Undo, redo, new changes and ways back in any order, against a list of all states that there have been.</summary>
    [Property]
    public void A_history_finds_every_state_again_whatever_was_done(int seed)
    {
        var random = new System.Random(seed);
        var history = new History(Shots.Crane());
        var states = new List<double> { 1 };
        double Now() => history.Current.Channel(Lift).Value;
        for (var i = 0; i < 40; i++)
        {
            switch (random.Next(4))
            {
                case 0 when history.UndoTarget is { } undo:
                    history.Append(new RestoreEntry(undo));
                    // Redo comes back to where undo started.
                    var from = history.RedoTarget;
                    Assert.NotNull(from);
                    break;
                case 1 when history.RedoTarget is { } redo:
                    history.Append(new RestoreEntry(redo));
                    Assert.Equal(states[redo], Now());
                    break;
                case 2:
                    var to = random.Next(history.Revision + 1);
                    history.Append(new RestoreEntry(to));
                    Assert.Equal(states[to], Now());
                    break;
                default:
                    history.Append(new EditEntry(new SetValues([new(Lift, 100 + i)])));
                    Assert.Equal(100 + i, Now());
                    Assert.Null(history.RedoTarget);
                    break;
            }
            states.Add(Now());
            Assert.Equal(states.Count - 1, history.Revision);
        }
        for (var r = 0; r < states.Count; r++)
        {
            Assert.Equal(states[r], history.Find(r)!.Shot.Channel(Lift).Value);
        }
        while (history.UndoTarget is { } back)
        {
            history.Append(new RestoreEntry(back));
        }
        Assert.Equal(1, Now());
    }

    [Fact]
    public void What_is_tried_on_a_fork_leaves_the_history_as_it_was()
    {
        var history = new History(Shots.Crane(), revision: 7);
        history.Append(new EditEntry(new SetValues([new(Lift, 2)])));
        var fork = history.Fork();
        fork.Append(new EditEntry(new SetValues([new(Lift, 3)])));
        fork.Append(new RestoreEntry(7));
        Assert.Equal((8, 2), (history.Revision, history.Current.Channel(Lift).Value));
        Assert.Equal((10, 1), (fork.Revision, fork.Current.Channel(Lift).Value));
        Assert.Null(history.RedoTarget);
    }

    [Fact]
    public void A_state_from_before_the_start_is_fetched_and_becomes_a_new_one()
    {
        var old = new SetValues([new(Lift, 42)]).Apply(Shots.Crane());
        var history = new History(Shots.Crane(), revision: 7, earlier: r => r == 3 ? old : throw new Refusal("gone"));
        history.Append(new RestoreEntry(3));
        Assert.Equal((8, 8, 42), (history.Revision, history.Head.Content, history.Current.Channel(Lift).Value));
        Assert.Equal(7, history.UndoTarget);
        Assert.Throws<Refusal>(() => history.Append(new RestoreEntry(2)));
        Assert.Throws<Refusal>(() => history.Append(new RestoreEntry(99)));
        Assert.Throws<Refusal>(() => new History(Shots.Crane(), revision: 7).Append(new RestoreEntry(3)));
        Assert.Equal(8, history.Revision);
    }
}
