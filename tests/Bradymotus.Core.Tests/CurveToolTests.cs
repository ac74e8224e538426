using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

public class CurveToolTests
{
    private static Curve Baked(Curve curve) => CurveTools.Bake(null, curve.Evaluate, curve.Keys[0].Frame, curve.Keys[^1].Frame, 1);

    /// <summary>Smooth motion as it is made by hand.</summary>
    private static Curve Smooth(System.Random dice, int count)
    {
        var frame = 0;
        var keys = new List<Key>();
        for (var i = 0; i < count; i++)
        {
            keys.Add(new Key(frame, dice.Next(-50, 51) / 10.0, null, dice.Next(3) == 0 ? Handle.Smooth : Handle.Auto, dice.Next(3) == 0 ? Handle.Smooth : Handle.Auto));
            frame += dice.Next(8, 30);
        }
        return new Curve([.. keys]);
    }

    /// <summary>A cycle that goes on until a frame: whatever moves all its keys moves that frame along.</summary>
    [Fact]
    public void The_frame_until_which_a_cycle_goes_on_moves_with_its_keys()
    {
        var lift = Shots.At("hook/transform.translate.y");
        var cycle = new Curve([new(0, 0), new(10, 1)]) { After = new(ExtrapolationKind.Loop, Until: 45) };
        var shot = Shots.Crane().With(lift, new Channel(0, cycle));
        double? Until(Shot s, ChannelAddress? address = null) => s.Channel(address ?? lift).Curve!.After.Until;
        Assert.Equal(52, Until(new TransformKeys([new(lift, 0), new(lift, 10)], new(Frames: 7)).Apply(shot)));
        Assert.Equal(90, Until(new TransformKeys([new(lift, 0), new(lift, 10)], new(FrameScale: 2)).Apply(shot)));
        // Some of the keys alone leave it.
        Assert.Equal(45, Until(new TransformKeys([new(lift, 10)], new(Frames: 2)).Apply(shot)));
        Assert.Equal(90, Until(new Retime([lift], new Curve([new(0, 0, Segment.Linear), new(20, 10, Segment.Linear), new(90, 45)])).Apply(shot)));
        Assert.Equal(50, Until(new HoldPose(0, [lift], 5).Apply(shot)));
        Assert.Equal(90, Until(new ConvertRate(new(48)).Apply(shot)));
        var row = Shot.Empty("Row") with
        {
            Nodes =
            [
                new RepeatNode { Id = "r", Name = "Row", Channels = Shots.Channels(("repeat.count", 3), ("repeat.shift", 4)) },
                new MeshNode { Id = "b", Name = "Ball", Parent = "r", Shape = new SphereShape() },
            ],
        };
        var real = new MakeReal(["r"], "x", 0).Apply(row.With(Shots.At("b/transform.translate.y"), new Channel(0, cycle)));
        Assert.Equal([45.0, 49, 53], real.Nodes.OfType<MeshNode>().Select(m => Until(real, new(m.Id, "transform.translate.y"))!.Value).Order());
    }

    [Fact]
    public void What_counts_frames_counts_others_at_another_rate_in_its_keys_too()
    {
        var shift = Shots.At("r/repeat.shift");
        var shot = Shot.Empty("Row") with { Nodes = [new RepeatNode { Id = "r", Name = "Row", Channels = Shots.Channels(("repeat.shift", 6)) }] };
        Assert.Equal(12, new ConvertRate(new(48)).Apply(shot).Channel(shift).Value);
        var keyed = new ConvertRate(new(48)).Apply(shot.With(shift, new Channel(6, new Curve([new(0, 2), new(10, 6)])))).Channel(shift).Curve!;
        Assert.Equal([(0, 4.0), (20, 12)], keyed.Keys.Select(k => (k.Frame, k.Value)));
        var film = new Material("m", "M") { Maps = [new(MapSlot.Color, new ClipSource(new string('a', 64), "f.mp4", 4, 4, 24, 2))] };
        var seen = (Shot.Empty("Film") with { Materials = [film] }).With(Shots.At("m/map.color.start"), new Channel(12));
        Assert.Equal(24, new ConvertRate(new(48)).Apply(seen).Channel(Shots.At("m/map.color.start")).Value);
    }

    [Fact]
    public void A_chain_of_followers_that_grows_too_long_from_above_is_refused_by_the_quick_check_as_by_the_whole()
    {
        Node Link(int i, int? of) => new GroupNode { Id = $"n{i}", Name = $"N{i}", Follows = of is { } o ? $"n{o}" : null };
        var shot = Shot.Empty("Chain") with { Nodes = [.. Enumerable.Range(0, 16).Select(i => Link(i, i == 0 ? null : i - 1)), .. Enumerable.Range(16, 16).Select(i => Link(i, i == 16 ? null : i - 1))] };
        ShotRules.Validate(shot);
        // The first of the second chain follows the last of the first: those below are now far beyond the bound.
        var longer = shot with { Nodes = shot.Nodes.Replace(shot.Node("n16"), Link(16, 15)) };
        Assert.Throws<Refusal>(() => ShotRules.Validate(longer));
        Assert.Throws<Refusal>(() => ShotRules.ValidateChange(shot, longer));
    }

    /// <summary>Turned by 45° over the range in straight lines: after any timing the value is that of the old time, wherever it is asked.</summary>
    [Fact]
    public void Retiming_leaves_straight_segments_straight()
    {
        var curve = new Curve([new(0, 0, Segment.Linear), new(20, 45, Segment.Linear), new(40, 90)]);
        var even = CurveTools.Retime(curve, new Curve([new(0, 0, Segment.Linear), new(80, 40)]));
        Assert.Equal(45, even.Evaluate(40), 1e-9);
        Assert.Equal(22.5, even.Evaluate(20), 1e-9);
        Assert.All(even.Keys.SkipLast(1), k => Assert.Equal(Segment.Linear, k.Segment));
        // Twice as fast in the first half, then slower: each part stays straight.
        var uneven = CurveTools.Retime(curve, new Curve([new(0, 0, Segment.Linear), new(10, 20, Segment.Linear), new(40, 40)]));
        for (var f = 0; f <= 40; f++)
        {
            Assert.Equal(f <= 10 ? 4.5 * f : 45 + 1.5 * (f - 10), uneven.Evaluate(f), 1e-6);
        }
        // One that eases: in the middle of its time it is in the middle of its way.
        var eased = CurveTools.Retime(new Curve([new(0, 0, Segment.Linear), new(40, 90)]), new Curve([new(0, 0, Segment.Bezier, Handle.Flat, Handle.Flat), new(40, 40, Segment.Bezier, Handle.Flat, Handle.Flat)]));
        Assert.Equal(45, eased.Evaluate(20), 1e-6);
    }

    [Fact]
    public void Simplifying_stays_within_the_tolerance_on_every_frame() => Laws.ForSeeds((dice, _) =>
    {
        var curve = SomeShots.Curve(dice, easings: true);
        var tolerance = dice.Next(1, 20) / 20.0;
        var simple = CurveFitting.Simplify(curve, tolerance);
        Assert.True(simple.Keys.Length <= curve.Keys.Length, "There are more keys than before.");
        for (var f = curve.Keys[0].Frame; f <= curve.Keys[^1].Frame; f++)
        {
            Assert.Equal(curve.Evaluate(f), simple.Evaluate(f), tolerance + 1e-9);
        }
        foreach (var key in curve.Keys)
        {
            Assert.Equal(key.Value, simple.Evaluate(key.Frame), tolerance + 1e-9);
        }
    }, 600);

    [Fact]
    public void What_was_baked_from_a_curve_gets_no_more_than_half_as_many_keys_again() => Laws.ForSeeds((dice, _) =>
    {
        var curve = Smooth(dice, 12);
        var simple = CurveFitting.Simplify(Baked(curve), 0.005);
        Assert.True(simple.Keys.Length <= 1.5 * curve.Keys.Length, $"{simple.Keys.Length} keys of {curve.Keys.Length}");
    }, 200);

    [Fact]
    public void Keys_that_lie_a_hundred_years_apart_stay_and_cost_nothing()
    {
        var far = new Curve([new(0, 0), new(1, 1), new(2, 1.5), new(9e8, 3), new(9e8 + 1, 5)]);
        var before = GC.GetAllocatedBytesForCurrentThread();
        var simple = CurveFitting.Simplify(far, 0.1);
        Assert.True(GC.GetAllocatedBytesForCurrentThread() - before < 10_000_000);
        Assert.Equal([0, 9e8, 9e8 + 1], simple.Keys.Select(k => k.Frame).Where(f => f is 0 or > 2));
    }

    [Fact]
    public void Handles_of_any_length_are_found_again()
    {
        var curve = new Curve([new(0, 0, null, null, new FreeHandle(18, 0)), new(30, 4, null, new FreeHandle(-4, 0), new FreeHandle(2, -3), false), new(60, 1, null, new FreeHandle(-25, 0))]);
        var simple = CurveFitting.Simplify(Baked(curve), 0.002);
        Assert.Equal([0, 30, 60.0], simple.Keys.Select(k => k.Frame));
        Assert.InRange(CurveTools.Difference(curve, simple, 0, 60), 0, 0.02);
    }

    [Fact]
    public void Simplifying_keeps_holds_and_what_lies_outside_the_range()
    {
        var curve = new Curve([new(0, 0, Segment.Hold), new(5, 1, Segment.Linear), new(6, 2, Segment.Linear), new(7, 3, Segment.Linear), new(8, 4, Segment.Hold), new(20, 9, Segment.Linear), new(21, 10, Segment.Linear), new(22, 11)]);
        var simple = CurveFitting.Simplify(curve, 0.01, last: 12);
        Assert.Equal([0, 5, 8, 20, 21, 22.0], simple.Keys.Select(k => k.Frame));
        Assert.Throws<Refusal>(() => CurveFitting.Simplify(curve, 0));
    }

    [Fact]
    public void Baking_takes_cycles_along_and_holds_from_there()
    {
        var curve = new Curve([new(0, 0, Segment.Linear), new(10, 5)], after: new(ExtrapolationKind.LoopOffset));
        var baked = CurveTools.Bake(curve, curve.Evaluate, 0, 30, 1);
        Assert.Equal(31, baked.Keys.Length);
        for (var f = 0; f <= 30; f++)
        {
            Assert.Equal(f / 2.0, baked.Evaluate(f), 1e-12);
        }
        Assert.Equal(ExtrapolationKind.Hold, baked.After.Kind);
        Assert.Equal(15, baked.Evaluate(99));
        // Every fourth frame, with the slopes that the curve has.
        var arc = new Curve([new(0, 0), new(20, 3), new(40, 0)]);
        Assert.InRange(CurveTools.Difference(arc, CurveTools.Bake(arc, arc.Evaluate, 0, 40, 4), 0, 40), 0, 0.01);
        Assert.Throws<Refusal>(() => CurveTools.Bake(arc, arc.Evaluate, 10, 0, 1));
        Assert.Throws<Refusal>(() => CurveTools.Bake(arc, arc.Evaluate, 0, 1e9, 1));
    }

    [Fact]
    public void A_part_that_is_baked_leaves_the_rest_as_it_was()
    {
        var curve = new Curve([new(0, 0), new(20, 3), new(40, 0), new(60, 2)]);
        var baked = CurveTools.Bake(curve, curve.Evaluate, 20, 40, 1);
        for (var f = 0.0; f < 19; f += 0.5)
        {
            Assert.Equal(curve.Evaluate(f), baked.Evaluate(f), 0.02);
            Assert.Equal(curve.Evaluate(f + 41), baked.Evaluate(f + 41), 0.02);
        }
    }

    [Fact]
    public void Noise_is_the_same_for_the_same_seed_stays_in_its_strength_and_is_nothing_at_its_ends()
    {
        var line = new Curve([new(0, 1, Segment.Linear), new(100, 1)]);
        Curve Of(int seed) => CurveTools.Shake(line, line.Evaluate, 10, 90, 0.5, 8, seed);
        Assert.Equal(Of(3).Keys, Of(3).Keys);
        Assert.NotEqual(Of(3).Keys, Of(4).Keys);
        var values = Enumerable.Range(0, 101).Select(f => Of(3).Evaluate(f)).ToList();
        Assert.All(values, v => Assert.InRange(v, 0.4, 1.6));
        Assert.True(values.Max() - values.Min() > 0.3, "It hardly shakes.");
        Assert.Equal([1, 1, 1.0], [Of(3).Evaluate(5), Of(3).Evaluate(10), Of(3).Evaluate(90)]);
        Assert.Throws<Refusal>(() => CurveTools.Shake(line, line.Evaluate, 0, 50, 1, double.PositiveInfinity, 1));
    }

    [Fact]
    public void A_retimed_curve_is_the_old_one_at_the_frames_that_the_map_says()
    {
        var curve = new Curve([new(0, 0), new(10, 4), new(20, 1), new(40, 6), new(60, 0)]);
        // The first 20 frames in 30, evenly: exact.
        var slower = CurveTools.Retime(curve, new Curve([new(0, 0, Segment.Linear), new(30, 20)]));
        for (var f = 0.0; f <= 30; f += 0.5)
        {
            Assert.Equal(curve.Evaluate(f * 2 / 3), slower.Evaluate(f), 1e-9);
        }
        Assert.Equal([0, 15, 30, 50, 70.0], slower.Keys.Select(k => k.Frame));
        // Easing the time of a range keeps its ends and its values.
        var eased = CurveTools.Retime(curve, new Curve([new(0, 0), new(40, 40)]));
        Assert.Equal([0, 4, 1, 6, 0.0], eased.Keys.Select(k => k.Value));
        Assert.Equal([0, 40, 60.0], [eased.Keys[0].Frame, eased.Keys[3].Frame, eased.Keys[4].Frame]);
        Assert.True(eased.Keys[1].Frame > 10, "Slow at the start means that the second key comes later.");
        Assert.Throws<Refusal>(() => CurveTools.Retime(curve, new Curve([new(0, 20), new(20, 0)])));
        Assert.Throws<Refusal>(() => CurveTools.Retime(curve, new Curve([new(0, 0)])));
    }

    [Theory]
    [InlineData(EaseFamily.Elastic)]
    [InlineData(EaseFamily.Bounce)]
    [InlineData(EaseFamily.Back)]
    [InlineData(EaseFamily.Expo)]
    [InlineData(EaseFamily.Circ)]
    [InlineData(EaseFamily.Quint)]
    public void An_easing_becomes_handles_within_a_thousandth(EaseFamily family)
    {
        foreach (var direction in Enum.GetValues<EaseDirection>())
        {
            var curve = new Curve([new(0, 1, new EaseSegment(family, direction)), new(40, 11), new(60, 3)]);
            var made = CurveTools.EasesToHandles(curve, [0, 1]);
            Assert.DoesNotContain(made.Keys, k => k.Segment is EaseSegment);
            Assert.InRange(CurveTools.Difference(curve, made, 0, 60), 0, 0.015);
        }
    }

    [Fact]
    public void A_key_put_where_the_curve_is_does_not_change_its_shape() => Laws.ForSeeds((dice, _) =>
    {
        var curve = SomeShots.Curve(dice);
        var frame = curve.Keys[0].Frame + dice.NextDouble() * curve.Period;
        var keyed = CurveEdits.SetKey(curve, frame, curve.Evaluate(frame));
        Assert.True(keyed.IndexOf(frame) >= 0);
        for (var f = curve.Keys[0].Frame - 5; f < curve.Keys[^1].Frame + 5; f += 0.31)
        {
            Assert.Equal(curve.Evaluate(f), keyed.Evaluate(f), 1e-6);
        }
    });

    [Fact]
    public void New_keys_are_as_the_shot_says()
    {
        var shot = Crane() with { NewKeys = new(Segment.Hold, Handle.Flat) };
        shot = new SetKeys(0, [new(At("arm/transform.rotate.z"), 3)]).Apply(shot);
        shot = new SetKeys(10, [new(At("arm/transform.rotate.z"), 5)]).Apply(shot);
        Assert.Equal(3, shot.Channel(At("arm/transform.rotate.z")).Evaluate(9));
        Assert.All(shot.Channel(At("arm/transform.rotate.z")).Curve!.Keys, k => Assert.Equal((Segment.Hold, Handle.Flat), (k.Segment, k.In)));
    }

    [Fact]
    public void A_cycle_goes_on_until_a_frame_and_then_holds()
    {
        var curve = new Curve([new(0, 0, Segment.Linear), new(10, 5)], new(ExtrapolationKind.Loop, Until: -15), new(ExtrapolationKind.LoopOffset, Until: 25));
        Assert.Equal([7.5, 12.5, 12.5, 12.5], [curve.Evaluate(15), curve.Evaluate(25), curve.Evaluate(26), curve.Evaluate(1e9)]);
        Assert.Equal([2.5, 2.5], [curve.Evaluate(-15), curve.Evaluate(-40)]);
        // Until a frame among the keys is not at all.
        Assert.Equal(5, new Curve([new(0, 0), new(10, 5)], null, new(ExtrapolationKind.Loop, Until: 4)).Evaluate(15));
        Assert.Throws<Refusal>(() => new Curve([new(0, 0)], null, new(ExtrapolationKind.Loop, Until: double.NaN)));
    }

    [Fact]
    public void A_pose_that_is_held_lets_later_ones_follow_or_stay()
    {
        var lift = At("arm/transform.rotate.z");
        var shot = Crane().Keyed("arm/transform.rotate.z", (0, 0), (10, 5), (20, 0)).Keyed("hook/transform.translate.x", (0, 0), (15, 1));
        var held = new HoldPose(10, [lift, At("hook/transform.translate.x")], 8).Apply(shot);
        Assert.Equal([0, 10, 18, 28.0], held.Channel(lift).Curve!.Keys.Select(k => k.Frame));
        Assert.Equal([5, 5, 5.0], [held.Channel(lift).Evaluate(10), held.Channel(lift).Evaluate(14), held.Channel(lift).Evaluate(18)]);
        Assert.Equal(shot.Channel(lift).Evaluate(13), held.Channel(lift).Evaluate(21), 9);
        Assert.Equal([0, 23.0], held.Channel(At("hook/transform.translate.x")).Curve!.Keys.Select(k => k.Frame));
        var stays = new HoldPose(10, [lift], 8, Follow: false).Apply(shot);
        Assert.Equal([0, 10, 18, 20.0], stays.Channel(lift).Curve!.Keys.Select(k => k.Frame));
        Assert.Contains("frame 20", Assert.Throws<Refusal>(() => new HoldPose(10, [lift], 12, Follow: false).Apply(shot)).Message, StringComparison.Ordinal);
        Assert.Throws<Refusal>(() => new HoldPose(10, [lift], 0).Apply(shot));
    }

    [Theory]
    [InlineData("left wing", "right wing")]
    [InlineData("Hand.R", "Hand.L")]
    [InlineData("l_foot", "r_foot")]
    [InlineData("morph.smile_L", "morph.smile_R")]
    [InlineData("Lamp", null)]
    [InlineData("R", null)]
    public void The_other_side_is_found_by_name(string name, string? other) => Assert.Equal(other, Mirroring.OtherName(name));

    [Fact]
    public void A_pose_is_mirrored_left_to_right()
    {
        var shot = Shot.Empty("Gull") with
        {
            Nodes = [new GroupNode { Id = "body", Name = "Body" }, new GroupNode { Id = "l", Name = "left wing", Parent = "body" }, new GroupNode { Id = "r", Name = "right wing", Parent = "body" }],
        };
        shot = shot.Keyed("l/transform.rotate.z", (0, 30)).Keyed("l/transform.translate.x", (0, -1)).Keyed("body/transform.rotate.y", (0, 12)).Keyed("r/transform.rotate.x", (0, 7));
        var mirrored = new MirrorPose(["l", "body"], 0).Apply(shot);
        double Of(string address) => mirrored.Channel(At(address)).Evaluate(0);
        Assert.Equal([-30, 1, 7, -12, 0.0], [Of("r/transform.rotate.z"), Of("r/transform.translate.x"), Of("l/transform.rotate.x"), Of("body/transform.rotate.y"), Of("l/transform.rotate.z")]);
        // A mirror that is looked into twice shows what was.
        var twice = new MirrorPose(["l", "body"], 0).Apply(mirrored);
        Assert.Equal([30, -1, 12.0], [twice.Channel(At("l/transform.rotate.z")).Evaluate(0), twice.Channel(At("l/transform.translate.x")).Evaluate(0), twice.Channel(At("body/transform.rotate.y")).Evaluate(0)]);
    }

    [Fact]
    public void Keys_go_over_a_range_or_move_along()
    {
        var lift = At("arm/transform.rotate.z");
        var shot = Crane().Keyed("arm/transform.rotate.z", (0, 0), (10, 5), (20, 2), (30, 0));
        var put = new KeyRange(8, 22, [new(lift, 9)]).Apply(shot).Channel(lift).Curve!;
        Assert.Equal([(0, 0), (8, 9), (22, 9), (30, 0.0)], put.Keys.Select(k => (k.Frame, k.Value)));
        var moved = new KeyRange(8, 22, [new(lift, 6)], 10).Apply(shot).Channel(lift).Curve!;
        Assert.Equal([(0, 0), (10, 6), (20, 3), (30, 0.0)], moved.Keys.Select(k => (k.Frame, k.Value)));
        Assert.Throws<Refusal>(() => new KeyRange(8, 8, [new(lift, 9)]).Apply(shot));
    }

    [Fact]
    public void Another_rate_keeps_the_seconds()
    {
        var shot = Crane().Keyed("arm/transform.rotate.z", (0, 0), (12, 5), (24, 0)) with { Range = new(0, 47), PlayRange = new(0, 23) };
        var at30 = new ConvertRate(new FrameRate(30)).Apply(shot);
        Assert.Equal([0, 15, 30.0], at30.Channel(At("arm/transform.rotate.z")).Curve!.Keys.Select(k => k.Frame));
        Assert.Equal((new FrameRange(0, 59), new FrameRange(0, 29)), (at30.Range, at30.PlayRange!.Value));
        for (var s = 0.0; s < 1; s += 0.01)
        {
            Assert.Equal(shot.Channel(At("arm/transform.rotate.z")).Evaluate(24 * s), at30.Channel(At("arm/transform.rotate.z")).Evaluate(30 * s), 1e-9);
        }
        Assert.Throws<Refusal>(() => new ConvertRate(new FrameRate(0)).Apply(shot));
    }

    [Fact]
    public void Unrolled_angles_turn_as_before_and_take_the_shorter_way() => Laws.ForSeeds((dice, _) =>
    {
        var order = (RotationOrder)dice.Next(6);
        var shot = Shot.Empty("Turns") with { Nodes = [new GroupNode { Id = "a", Name = "A", RotationOrder = order }] };
        Curve Some() => new([.. Enumerable.Range(0, 6).Select(i => new Key(i, dice.Next(-720, 720)))]);
        foreach (var axis in "xyz")
        {
            shot = shot.With(At($"a/transform.rotate.{axis}"), new Channel(0, Some()));
        }
        var made = new UnrollRotations(["a"]).Apply(shot);
        Double3 Angles(Shot of, double f) => new(of.Channel(At("a/transform.rotate.x")).Evaluate(f), of.Channel(At("a/transform.rotate.y")).Evaluate(f), of.Channel(At("a/transform.rotate.z")).Evaluate(f));
        for (var f = 0; f < 6; f++)
        {
            var (a, b) = (Affine.Rotation(Angles(shot, f), order), Affine.Rotation(Angles(made, f), order));
            Assert.InRange((a.X - b.X).Length + (a.Y - b.Y).Length, 0, 1e-6);
            var step = Angles(made, f) - Angles(made, Math.Max(0, f - 1));
            Assert.True(Math.Abs(step.X) <= 271 && Math.Abs(step.Y) <= 271 && Math.Abs(step.Z) <= 271, $"It turns by {step}.");
        }
    }, 300);
}
