using System.Collections.Immutable;
using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

/// <summary>Each check has a shot that is wrong only in that, and one that looks like it and is right.</summary>
public class CheckTests
{
    private static Key Straight(double frame, double value) => new(frame, value, Segment.Linear);

    private static Channel Curved(params Key[] keys) => new(0, new Curve([.. keys]));

    private static Shot Ball(int last = 47, double radius = 0.5) => Shot.Empty("Ball") with
    {
        Range = new(0, last),
        Nodes = [new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(radius, 24, 16) }],
    };

    private static Shot OnGround(Shot shot) => shot with
    {
        Nodes = shot.Nodes.Add(new MeshNode { Id = "ground", Name = "Ground", Shape = new PlaneShape(20, 20) }),
    };

    private static Shot With(Shot shot, string path, Channel channel) => shot.With(At($"ball/{path}"), channel);

    /// <summary>The same to look at, with every curve in a layer that adds: what is read in the motion does not depend on where it is keyed.</summary>
    private static Shot InLayer(Shot shot, double weight = 1)
    {
        const string Id = "own";
        var layered = shot with { Layers = [new Layer(Id, "Own", Channels: Channels((Layer.Weight, weight)))] };
        foreach (var (address, channel) in shot.AllSetChannels().Where(c => c.Channel.Curve is not null && c.Address.Path.StartsWith("transform.", StringComparison.Ordinal)))
        {
            var rest = shot.Spec(address).Default;
            var curve = CurveEdits.Transform(channel.Curve!, [.. Enumerable.Range(0, channel.Curve!.Keys.Length)], new KeyTransform(Value: -rest, ValuePivot: rest, ValueScale: 1 / weight));
            layered = layered.With(address, new Channel(rest)).With(address.In(Id), channel with { Value = 0, Curve = curve });
        }
        return layered;
    }

    private static void Only(FindingKind kind, Shot shot, int first, int last, params string[] channels)
    {
        Found(kind, shot, first, last, channels);
        Found(kind, InLayer(shot), first, last, [.. channels.Select(c => $"{c}@own")]);
    }

    private static void Found(FindingKind kind, Shot shot, int first, int last, string[] channels)
    {
        var findings = MotionChecks.Of(shot);
        Assert.True(findings.Count > 0, "Nothing was found.");
        Assert.All(findings, f => Assert.Equal(kind, f.Kind));
        Assert.True((first, last) == (findings[0].First, findings[^1].Last), string.Join(" ", findings.Select(f => f.Sentence)));
        Assert.All(channels, c => Assert.Contains(c, findings.SelectMany(f => f.Channels)));
        Assert.All(findings, f => Assert.Equal(f.Mend is null, f.Fix is null));
    }

    private static void Clean(Shot shot) => Assert.All([shot, InLayer(shot)], s => Assert.Equal([], MotionChecks.Of(s).Select(f => f.Sentence)));

    /// <summary>What a finding offers mends it, and brings no other; in a layer as much.</summary>
    private static Shot Mended(Shot shot)
    {
        MendedHere(InLayer(shot));
        return MendedHere(shot);
    }

    private static Shot MendedHere(Shot shot)
    {
        foreach (var finding in MotionChecks.Of(shot))
        {
            shot = finding.Fix!.Apply(shot);
        }
        Assert.Equal([], MotionChecks.Of(shot).Select(f => f.Sentence));
        return shot;
    }

    [Fact]
    public void A_loop_whose_last_key_is_not_as_its_first_jumps()
    {
        var shot = With(Ball(), "transform.rotate.z", new Channel(0, new Curve([new(0, 0), new(12, 40), new(24, 5)], after: new(ExtrapolationKind.Loop))));
        Only(FindingKind.LoopSeam, shot, 24, 24, "ball/transform.rotate.z");
        var mended = Mended(shot);
        Assert.Equal(mended.Channel(At("ball/transform.rotate.z")).Evaluate(30), mended.Channel(At("ball/transform.rotate.z")).Evaluate(6), 9);
    }

    [Fact]
    public void A_loop_that_leaves_slower_than_it_arrives_jumps_in_speed()
    {
        Curve Swing(Handle start) => new([new(0, 0, Out: start), new(8, 1), new(16, -1), new(24, 0, In: Handle.Straight)], after: new(ExtrapolationKind.Loop));
        Only(FindingKind.LoopSeam, With(Ball(), "transform.rotate.z", new Channel(0, Swing(Handle.Flat))), 24, 24);
        Clean(With(Ball(), "transform.rotate.z", new Channel(0, Swing(Handle.Straight))));
        Mended(With(Ball(), "transform.rotate.z", new Channel(0, Swing(Handle.Flat))));
        // One that climbs pass by pass, and a turntable.
        Clean(With(Ball(), "transform.rotate.y", new Channel(0, new Curve([Straight(0, 0), Straight(30, 360)], after: new(ExtrapolationKind.LoopOffset)))));
    }

    [Fact]
    public void Swinging_back_and_forth_turns_softly_or_is_named()
    {
        Curve Swing(Segment segment) => new([new(0, -20, segment), new(16, 20, segment)], after: new(ExtrapolationKind.PingPong));
        Only(FindingKind.LoopSeam, With(Ball(), "transform.rotate.z", new Channel(0, Swing(Segment.Linear))), 16, 16);
        Clean(With(Ball(), "transform.rotate.z", new Channel(0, Swing(Segment.Bezier))));
    }

    [Fact]
    public void A_loop_that_rests_where_it_begins_and_ends_does_not_hitch()
    {
        Curve Lit(Segment segment) => new([new(0, 0, segment), new(8, 1, segment), new(16, 0, segment), new(24, 0)], after: new(ExtrapolationKind.Loop));
        Clean(With(Ball(23), "visible", new Channel(1, Lit(Segment.Hold))));
    }

    [Fact]
    public void A_loop_that_was_sampled_has_corners_at_its_samples_and_may_have_one_at_its_seam()
    {
        Curve Sampled(double end) => new([.. Enumerable.Range(0, 17).Select(i => new Key(2 * i, i == 16 ? end : Math.Cos(i * Math.PI / 8) + 0.3 * Math.Sin(i * Math.PI / 4 + 0.7) - 0.3 * Math.Sin(0.7), Segment.Linear))], after: new(ExtrapolationKind.Loop));
        Clean(With(Ball(31), "transform.rotate.z", new Channel(0, Sampled(1))));
        Only(FindingKind.LoopSeam, With(Ball(31), "transform.rotate.z", new Channel(0, Sampled(0.3))), 31, 31);
    }

    // A loop of 0–25 is rendered 0–24 (common practice).
    [Fact]
    public void A_loop_played_with_both_its_ends_shows_a_frame_twice()
    {
        var shot = With(Ball(25), "transform.rotate.z", new Channel(0, new Curve([new(0, -10), new(12, 10), new(25, -10)], after: new(ExtrapolationKind.Loop))));
        Only(FindingKind.DoubledFrame, shot, 25, 25, "ball/transform.rotate.z");
        Assert.Equal(new FrameRange(0, 24), Mended(shot).Playing);
        Only(FindingKind.DoubledFrame, With(Ball(90), "transform.rotate.y", Curved(Straight(0, 0), Straight(90, 360))), 90, 90);
    }

    [Fact]
    public void What_goes_and_comes_back_once_is_no_loop() =>
        Clean(With(Ball(24), "transform.rotate.z", Curved(new(0, 0), new(12, 30), new(24, 0))));

    [Fact]
    public void A_slow_change_before_a_sudden_move_is_a_drift()
    {
        var shot = With(Ball(60), "transform.translate.x", Curved(new(0, 0), new(40, 0.3), new(46, 5)));
        Only(FindingKind.Drift, shot, 0, 40, "ball/transform.translate.x");
        var mended = Mended(shot).Channel(At("ball/transform.translate.x"));
        Assert.Equal([0, 0, 5.0], [mended.Evaluate(39), mended.Evaluate(40), mended.Evaluate(46)]);
        // What gathers speed evenly, as a fall, does not drift; nor does what holds.
        Clean(With(Ball(60), "transform.translate.x", Curved(new(0, 0), new(10, 0.1), new(20, 0.4), new(30, 0.9), new(40, 1.6))));
        Clean(With(Ball(60), "transform.translate.x", Curved(new(0, 0, Segment.Hold), new(40, 0), new(46, 5))));
    }

    [Fact]
    public void An_axis_without_a_key_where_the_others_start_drifts()
    {
        var shot = With(Ball(60), "transform.translate.y", Curved(new(0, 0), new(40, 0), new(48, 3)));
        shot = With(shot, "transform.translate.x", Curved(new(0, 0), new(48, 4)));
        Only(FindingKind.Drift, shot, 0, 40, "ball/transform.translate.x");
        Mended(shot);
    }

    [Fact]
    public void A_ball_that_goes_through_the_ground_is_named_with_frames_and_depth()
    {
        // The lowest point of a ball of radius 0.5 whose centre is at 0.38 lies 0.12 m below the ground.
        var shot = With(OnGround(Ball()), "transform.translate.y", Curved(Straight(0, 2), Straight(10, 0.8), Straight(20, 0.38), Straight(30, 0.8), Straight(40, 2)));
        Only(FindingKind.Contact, shot, 18, 22);
        Assert.Contains("0.12 m deep (frame 20)", MotionChecks.Of(shot)[0].Sentence, StringComparison.Ordinal);
        Assert.Equal(["ball", "ground"], MotionChecks.Of(shot)[0].Nodes);
        Clean(With(OnGround(Ball()), "transform.translate.y", Curved(Straight(0, 2), Straight(20, 0.5), Straight(40, 2))));

        // The key at the bottom goes up by as much as it takes, and the other keys stay.
        var mended = Mended(shot).Channel(At("ball/transform.translate.y")).Curve!;
        Assert.InRange(mended.Evaluate(20), 0.49, 0.505);
        Assert.Equal([2, 0.8, 0.8, 2], new[] { 0.0, 10, 30, 40 }.Select(mended.Evaluate));
        Assert.Equal(5, mended.Keys.Length);
    }

    [Fact]
    public void What_passes_through_another_is_taken_out_of_it_the_shortest_way_with_new_keys_where_it_has_none()
    {
        // Past a post, along x, a little into it: out is along z, where it has no key between.
        var shot = With(Ball(), "transform.translate.x", Curved(Straight(0, -3), Straight(47, 3)));
        shot = With(shot, "transform.translate.z", Curved(Straight(0, 0.9), Straight(47, 0.9001)));
        shot = shot with { Nodes = shot.Nodes.Add(new MeshNode { Id = "post", Name = "Post", Shape = new CylinderShape(0.5, 0.5, 4, 48) }) };
        var found = Assert.Single(MotionChecks.Of(shot), f => f.Kind == FindingKind.Contact);
        Assert.Equal("Move “Ball” out of “Post”, on its keys there and on new ones where those are not enough.", found.Mend);
        var mended = found.Fix!.Apply(shot);
        Assert.DoesNotContain(MotionChecks.Of(mended), f => f.Kind == FindingKind.Contact);
        Assert.True(mended.Channel(At("ball/transform.translate.z")).Curve!.Keys.Length > 2);
        // Along its way and up it goes on as before.
        Assert.Equal(shot.Channel(At("ball/transform.translate.x")), mended.Channel(At("ball/transform.translate.x")));
        Assert.Equal("Take Ball out of Post", found.Fix.Describe(shot));
    }

    [Fact]
    public void A_carrier_moves_what_it_carries_out_in_its_own_turned_space()
    {
        var shot = OnGround(Ball()) with { };
        shot = shot with
        {
            Nodes = [.. shot.Nodes.Select(n => n.Id == "ball" ? n with { Parent = "sled" } : n),
                new GroupNode { Id = "sled", Name = "Sled", Parent = "slope", Channels = Channels(("transform.rotate.y", 30)) },
                new GroupNode { Id = "slope", Name = "Slope", Channels = Channels(("transform.rotate.z", 90), ("transform.scale.x", 2), ("transform.scale.y", 2), ("transform.scale.z", 2)) }],
        };
        // What is x in the slope is up in the world, twice as large; so is the ball, of radius 1.
        shot = shot.Keyed("sled/transform.translate.x", (0, 2), (20, 0.4), (40, 2));
        var found = Assert.Single(MotionChecks.Of(shot), f => f.Kind == FindingKind.Contact);
        Assert.Equal(["sled/transform.translate.x"], found.Channels);
        var mended = found.Fix!.Apply(shot);
        Assert.InRange(mended.Channel(At("sled/transform.translate.x")).Evaluate(20), 0.49, 0.505);
        Assert.DoesNotContain(MotionChecks.Of(mended), f => f.Kind == FindingKind.Contact);

        // One that turns in what carries it is taken along; a limb that is posed does not move the whole character.
        Shot Turning(Node node) => (shot with { Nodes = [.. shot.Nodes.Select(n => n.Id == "ball" ? n with { Parent = node.Id } : n), node] }).Keyed($"{node.Id}/transform.rotate.z", (0, 0), (40, 30));
        var spinning = Turning(new GroupNode { Id = "spin", Name = "Spin", Parent = "sled" });
        found = Assert.Single(MotionChecks.Of(spinning), f => f.Kind == FindingKind.Contact);
        Assert.DoesNotContain(MotionChecks.Of(found.Fix!.Apply(spinning)), f => f.Kind == FindingKind.Contact);
        Assert.Null(Assert.Single(MotionChecks.Of(Turning(new JointNode { Id = "wrist", Name = "Wrist", Parent = "sled" })), f => f.Kind == FindingKind.Contact).Mend);
    }

    [Fact]
    public void What_cannot_be_taken_out_by_its_keys_says_so_or_offers_nothing()
    {
        // It has keys along x only, and would have to go up as the ground comes: so the ground goes down, if it may.
        var shot = With(OnGround(Ball()), "transform.translate.x", Curved(Straight(0, -3), Straight(47, 3)));
        shot = With(shot, "transform.translate.y", new Channel(0.5)).Keyed("ground/transform.translate.y", (0, -2), (20, 0.2), (40, -2));
        var found = Assert.Single(MotionChecks.Of(shot), f => f.Kind == FindingKind.Contact);
        var lower = found.Fix!.Apply(shot);
        Assert.DoesNotContain(MotionChecks.Of(lower), f => f.Kind == FindingKind.Contact);
        Assert.InRange(lower.Channel(At("ground/transform.translate.y")).Evaluate(20), -0.01, 0.01);
        var ground = At("ground/transform.translate.y");
        shot = shot.With(ground, shot.Channel(ground) with { Locked = true });
        found = Assert.Single(MotionChecks.Of(shot), f => f.Kind == FindingKind.Contact);
        Assert.Contains("has no keys on the axis along which it leaves “Ground” (0, 1, 0)", Assert.Throws<Refusal>(() => found.Fix).Message, StringComparison.Ordinal);
        // What only turns is not torn off what it turns on.
        var arm = OnGround(Ball()) with { };
        arm = arm with { Nodes = [.. arm.Nodes.Select(n => n.Id == "ball" ? n with { Parent = "arm", Channels = Channels(("transform.translate.x", 2)) } : n), new GroupNode { Id = "arm", Name = "Arm", Channels = Channels(("transform.translate.y", 1.5)) }] };
        arm = arm.Keyed("arm/transform.rotate.z", (0, 0), (20, -60), (40, 0));
        Assert.Null(Assert.Single(MotionChecks.Of(arm), f => f.Kind == FindingKind.Contact).Mend);
        // Nor is what is locked moved.
        var locked = With(OnGround(Ball()), "transform.translate.y", Curved(Straight(0, 2), Straight(20, 0.38), Straight(40, 2)) with { Locked = true });
        Assert.Null(Assert.Single(MotionChecks.Of(locked)).Mend);
    }

    [Fact]
    public void What_instances_and_repeaters_draw_passes_through_things_too()
    {
        // The ball stands aside; its instance falls into the ground.
        var shot = OnGround(Ball());
        shot = shot with { Nodes = [.. shot.Nodes.Select(n => n.Id == "ball" ? n with { Channels = Channels(("transform.translate.y", 3), ("transform.translate.x", 5)) } : n), new InstanceNode { Id = "twin", Name = "Twin", Of = "ball" }] };
        shot = shot.Keyed("twin/transform.translate.y", (0, 2), (20, 0.38), (40, 2));
        var found = Assert.Single(MotionChecks.Of(shot), f => f.Kind == FindingKind.Contact);
        Assert.StartsWith("“Twin” and “Ground” pass through each other", found.Sentence, StringComparison.Ordinal);
        Assert.Equal(["twin", "ground"], found.Nodes);
        Assert.Equal(["twin/transform.translate.y"], found.Channels);
        var lifted = Mended(shot);
        Assert.InRange(lifted.Channel(At("twin/transform.translate.y")).Evaluate(20), 0.49, 0.505);

        // A row of balls a metre apart, above the ground; a hammer swings through the third of them.
        shot = Ball() with
        {
            Nodes = [new RepeatNode { Id = "row", Name = "Row", Channels = Channels(("repeat.count", 4), ("repeat.translate.x", 1)) },
                new MeshNode { Id = "ball", Name = "Ball", Parent = "row", Shape = new SphereShape(0.5, 24, 16) },
                new MeshNode { Id = "hammer", Name = "Hammer", Shape = new BoxShape(0.4, 3, 0.4, 1), Channels = Channels(("transform.translate.x", 2)) }],
        };
        shot = shot.Keyed("hammer/transform.translate.z", (0, -3), (47, 3));
        found = Assert.Single(MotionChecks.Of(shot), f => f.Kind == FindingKind.Contact);
        Assert.Contains("“Row, no. 3”", found.Sentence, StringComparison.Ordinal);
        Assert.Equal(["row", "hammer"], found.Nodes.OrderDescending());
        // It flies right through the middle: there is no way out along its keys. One that comes from above has.
        Assert.StartsWith("Move “Hammer” out of “Row, no. 3”", found.Mend, StringComparison.Ordinal);
        Assert.Contains("by moving it one way", Assert.Throws<Refusal>(() => found.Fix).Message, StringComparison.Ordinal);
        var falls = (shot with { Nodes = [.. shot.Nodes.Take(2), (MeshNode)shot.Nodes[2] with { Shape = new BoxShape(0.4, 0.4, 0.4, 1), Channels = Channels(("transform.translate.x", 2)) }] }).Keyed("hammer/transform.translate.y", (0, 3), (20, 0.6), (40, 3));
        Assert.InRange(Mended(falls).Channel(At("hammer/transform.translate.y")).Evaluate(20), 0.69, 0.71);
        // A whole row is moved where what meets it stands still.
        var row = (falls with { Nodes = [.. falls.Nodes.Select(n => n.Id == "hammer" ? n with { Channels = Channels(("transform.translate.x", 2), ("transform.translate.y", 0.6)) } : n)] }).Keyed("row/transform.translate.y", (0, -3), (20, 0), (40, -3));
        Assert.StartsWith("Move “Row” out of “Hammer”", Assert.Single(MotionChecks.Of(row)).Mend, StringComparison.Ordinal);
        Assert.InRange(Mended(row).Channel(At("row/transform.translate.y")).Evaluate(20), -0.11, -0.09);
        // That they touch one another is how they are laid; so it is while the whole row goes along, and while its steps are keyed.
        var still = shot with { Nodes = shot.Nodes.RemoveAt(2) };
        Clean(still);
        Assert.DoesNotContain(MotionChecks.Of(still.Keyed("row/transform.translate.x", (0, -3), (47, 3))), f => f.Kind == FindingKind.Contact);
        Assert.DoesNotContain(MotionChecks.Of(still.Keyed("row/repeat.translate.x", (0, 1), (47, 0.5))), f => f.Kind == FindingKind.Contact);
        // A crowd is not looked at.
        Assert.DoesNotContain(MotionChecks.Of(shot.With(At("row/repeat.count"), new Channel(400))), f => f.Kind == FindingKind.Contact);

        // What has been found is found again by what is remembered, and only where it is still so.
        var memory = new CheckMemory();
        List<Finding> Run(Shot of)
        {
            var run = new MotionChecks(of, memory: memory);
            while (run.Step())
            {
            }
            return [.. run.Findings.Where(f => f.Kind == FindingKind.Contact)];
        }
        Assert.Equal(found.Sentence, Assert.Single(Run(shot)).Sentence);
        Assert.Equal(found.Sentence, Assert.Single(Run(shot)).Sentence);
        Assert.Empty(Run(shot.With(At("row/repeat.translate.x"), new Channel(3))));
    }

    [Fact]
    public void What_is_in_each_other_all_the_time_is_put_together_so()
    {
        // A buoy in the water.
        var shot = With(OnGround(Ball()), "transform.translate.y", new Channel(0, new Curve([new(0, -0.1), new(24, 0.1), new(47, -0.1)])));
        Clean(shot);
    }

    [Fact]
    public void A_ball_that_glides_over_the_ground_slides_and_one_that_rolls_does_not()
    {
        var shot = With(OnGround(Ball()), "transform.translate.y", new Channel(0.5));
        var glides = With(shot, "transform.translate.x", Curved(Straight(0, -3), Straight(47, 3)));
        Only(FindingKind.Slide, glides, 1, 47, "ball/transform.translate.x");
        // The angle of rolling is the way over the radius: 6 / 0.5 rad.
        Clean(With(glides, "transform.rotate.z", Curved(Straight(0, 0), Straight(47, -12 * 180 / Math.PI))));
    }

    [Fact]
    public void A_handle_that_swings_past_a_contact_is_an_overshoot()
    {
        Key[] Fall(Handle arrive) => [new(0, 2), new(20, 0.5, In: arrive, Out: new FreeHandle(6, 0.6), Joined: false), new(40, 1.2)];
        // A handle from below: the curve swings under the key and comes up to it.
        var shot = With(Ball(), "transform.translate.y", Curved(Fall(new FreeHandle(-6, -0.3))));
        Only(FindingKind.Overshoot, shot, 0, 20, "ball/transform.translate.y");
        Mended(shot);
        Clean(With(Ball(), "transform.translate.y", Curved(Fall(new FreeHandle(-6, 1)))));
        // An overshoot in free air is a way of moving.
        Clean(With(Ball(), "transform.translate.x", Curved(new(0, 0), new(20, 2, In: new FreeHandle(-6, 0.5), Out: new FreeHandle(6, -0.5)), new(40, 0))));
    }

    [Fact]
    public void A_turntable_that_eases_goes_round_unevenly()
    {
        var shot = With(Ball(359), "transform.rotate.y", Curved(new(0, 0), new(360, 360)));
        Only(FindingKind.Spacing, shot, 0, 359, "ball/transform.rotate.y");
        Assert.Equal(90, Mended(shot).Channel(At("ball/transform.rotate.y")).Evaluate(90), 9);
        // A wheel that starts and stops.
        Clean(With(Ball(359), "transform.rotate.y", Curved(new(100, 0), new(200, 720))));
    }

    [Fact]
    public void A_route_travelled_unevenly_is_named_and_an_even_one_is_not()
    {
        Shot Route(double waist)
        {
            var corners = new[] { (1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0), (1.0, 0.0) };
            double[] frames = [0, 24 * waist, 48, 48 + 24 * waist, 96];
            Curve Of(Func<(double, double), double> of) => new([.. corners.Select((c, i) => new Key(frames[i], 5 * of(c)))], after: new(ExtrapolationKind.Loop));
            var shot = With(Ball(95), "transform.translate.x", new Channel(0, Of(c => c.Item1)));
            return With(shot, "transform.translate.z", new Channel(0, CurveTools.Seamless(Of(c => c.Item2))));
        }
        Only(FindingKind.Spacing, Route(0.3), 0, 95, "ball/transform.translate.x", "ball/transform.translate.z");
        Clean(Route(1));
    }

    [Fact]
    public void A_corner_in_the_air_is_a_kink_and_one_on_the_ground_is_a_bounce()
    {
        Shot Thrown(Handle @in, Handle @out) => With(
            With(Ball(40), "transform.translate.x", Curved(Straight(0, 0), Straight(40, 8))), "transform.translate.y",
            Curved(new(0, 3, Out: Handle.Straight), new(20, 5, In: @in, Out: @out), new(40, 3, In: Handle.Straight)));
        var shot = Thrown(Handle.Straight, new FreeHandle(6, -3));
        Only(FindingKind.Kink, shot, 20, 20, "ball/transform.translate.y");
        Mended(shot);
        Clean(Thrown(Handle.Auto, Handle.Auto));
    }

    [Fact]
    public void A_squash_that_loses_volume_is_named_and_mended()
    {
        Shot Squashed(double y, double xz)
        {
            var shot = With(Ball(), "transform.scale.y", Curved(new(10, 1), new(14, y), new(20, 1)));
            return With(With(shot, "transform.scale.x", Curved(new(10, 1), new(14, xz), new(20, 1))), "transform.scale.z", Curved(new(10, 1), new(14, xz), new(20, 1)));
        }
        Only(FindingKind.Volume, Squashed(0.5, 1.1), 14, 14, "ball/transform.scale.y");
        var mended = Mended(Squashed(0.5, 1.1));
        Assert.Equal(1, new[] { "x", "y", "z" }.Aggregate(1.0, (v, a) => v * mended.Channel(At($"ball/transform.scale.{a}")).Evaluate(14)), 9);
        Assert.Equal(0.5, mended.Channel(At("ball/transform.scale.y")).Evaluate(14));
        Clean(Squashed(0.5, Math.Sqrt(2)));
        // What grows for good, and what grows on all sides, is no squash.
        Clean(With(Ball(), "transform.scale.y", Curved(new(10, 1), new(20, 2))));
    }

    [Fact]
    public void What_follows_is_named_once_with_what_it_follows_and_mended_alone_where_it_alone_is_wrong()
    {
        Shot Two(Shot shot) => shot with { Nodes = shot.Nodes.Add(new MeshNode { Id = "twin", Name = "Twin", Follows = "ball", Shape = new SphereShape(0.5, 24, 16), Parent = "aside" }).Add(new GroupNode { Id = "aside", Name = "Aside", Channels = Channels(("transform.translate.z", 5)) }) };
        Shot Squashed(Shot shot, string id, double xz) => new[] { ("x", xz), ("y", 0.5), ("z", xz) }.Aggregate(shot, (s, a) => s.With(At($"{id}/transform.scale.{a.Item1}"), Curved(new(10, 1), new(14, a.Item2), new(20, 1))));
        Assert.Equal(["ball"], Assert.Single(MotionChecks.Of(Two(Squashed(Ball(), "ball", 1.1)))).Nodes);

        var shot = Squashed(Ball(), "ball", Math.Sqrt(2));
        shot = Two(shot).With(At("twin/transform.scale.y"), Curved(new(10, 1), new(14, 0.3), new(20, 1)));
        var finding = Assert.Single(MotionChecks.Of(shot));
        Assert.Equal((FindingKind.Volume, "twin"), (finding.Kind, Assert.Single(finding.Nodes)));
        var mended = finding.Fix!.Apply(shot, TestContext.Current.CancellationToken);
        Assert.Same(shot.Node("ball"), mended.Node("ball"));
        Assert.Empty(MotionChecks.Of(mended));
    }

    [Fact]
    public void Bounces_fit_one_gravity_and_lose_height_evenly()
    {
        // h = g·t²/2 with g = 0.04 m a frame²: 10 frames down from 2 m; a hop of half the height takes 1/√2 of the time, give or take a frame.
        Clean(With(Ball(80), "transform.translate.y", Curved([.. Flight(0.5, 2, 10, (1, 14), (0.5, 10), (0.25, 7))])));
        // A hop of half the height that takes twice the time, as on the moon.
        Only(FindingKind.Bounce, With(Ball(90), "transform.translate.y", Curved([.. Flight(0.5, 2, 10, (1, 14), (0.5, 20), (0.25, 7))])), 24, 44, "ball/transform.translate.y");
        Mended(With(Ball(90), "transform.translate.y", Curved([.. Flight(0.5, 2, 10, (1, 14), (0.5, 20), (0.25, 7))])));
        // A fall is named as what it is, with its own time.
        var fall = Assert.Single(MotionChecks.Of(With(Ball(90), "transform.translate.y", Curved([.. Flight(0.5, 2, 30, (1, 14), (0.5, 10), (0.25, 7))]))));
        Assert.EndsWith("the fall from frame 0 to 30, 2 m high, would take 10 frames as the others fall, and takes 30.", fall.Sentence, StringComparison.Ordinal);
        Assert.Equal("Give it 10 frames; what comes later follows.", fall.Mend);
        // Times that fit, and heights that do not fall off evenly: 50 %, 95 %, 50 %.
        Only(FindingKind.Bounce, With(Ball(90), "transform.translate.y", Curved([.. Flight(0.5, 2, 10, (1, 14), (0.95, 14), (0.47, 10), (0.23, 7))])), 24, 38);
        var even = Mended(With(With(Ball(90), "transform.translate.y", Curved([.. Flight(0.5, 2, 10, (1, 14), (0.95, 14), (0.47, 10), (0.23, 7))])), "transform.scale.y", Curved(Straight(37, 1), Straight(38, 0.9), Straight(39, 1.02))));
        // What goes with a contact goes along with it.
        var touch = even.Channel(At("ball/transform.scale.y")).Curve!.Keys[1].Frame;
        Assert.Equal(0.5, even.Channel(At("ball/transform.translate.y")).Evaluate(touch), 6);
        Assert.InRange(touch, 32, 36);
    }

    [Fact]
    public void Angles_that_jump_though_nothing_turns_are_a_flip()
    {
        var baked = Enumerable.Range(0, 20).Select(f => Straight(f, 170 + f > 180 ? f - 190 : 170 + f)).ToArray();
        var shot = With(Ball(19), "transform.rotate.y", Curved(baked));
        var flips = MotionChecks.Of(shot).Where(f => f.Kind == FindingKind.Flip).ToList();
        Assert.Equal((10, 11), (Assert.Single(flips).First, flips[0].Last));
        var mended = flips[0].Fix!.Apply(shot);
        Assert.DoesNotContain(MotionChecks.Of(mended), f => f.Kind == FindingKind.Flip);
        Assert.Equal(189, mended.Channel(At("ball/transform.rotate.y")).Evaluate(19), 9);
        Clean(With(Ball(19), "transform.rotate.y", Curved(Straight(0, 0), Straight(3, 350))));
    }

    // The twin of x, y, z for the order XYZ (Shoemake, Graphics Gems IV, 1994): x + 180°, 180° − y, z + 180°.
    [Fact]
    public void Two_keys_with_the_angles_of_another_way_to_the_same_pose_are_a_flip()
    {
        Shot Turned(double x, double y, double z, Segment segment) => new[] { ("x", 10.0, x), ("y", 70, y), ("z", -5, z) }.Aggregate(Ball(), (s, a) =>
            With(s, $"transform.rotate.{a.Item1}", Curved(new(0, a.Item2, segment), new(24, a.Item3))));
        // The pose (20, 85, 3) by its far angles: (200, 95, 183) less whole turns.
        var shot = Turned(-160, 95, -177, Segment.Bezier);
        Only(FindingKind.Flip, shot, 0, 24, "ball/transform.rotate.x");
        var mended = Mended(shot);
        Assert.Equal([20, 85, 3], new[] { "x", "y", "z" }.Select(a => Math.Round(mended.Channel(At($"ball/transform.rotate.{a}")).Evaluate(24), 9)));
        // Held it jumps once; the near angles are right; spins are meant.
        Only(FindingKind.Flip, Turned(-160, 95, -177, Segment.Hold), 23, 24);
        Clean(Turned(20, 85, 3, Segment.Bezier));
        Clean(Turned(370, 75, 355, Segment.Bezier));
    }

    [Fact]
    public void Keys_that_change_nothing_are_named_and_removed()
    {
        var shot = With(Ball(), "transform.translate.x", Curved(Straight(0, 0), Straight(10, 1), Straight(20, 2), Straight(47, 0)));
        Only(FindingKind.IdleKeys, shot, 10, 10, "ball/transform.translate.x");
        Assert.Equal([0, 20, 47.0], Mended(shot).Channel(At("ball/transform.translate.x")).Curve!.Keys.Select(k => k.Frame));
        Only(FindingKind.IdleKeys, With(Ball(), "transform.translate.z", Curved(new(0, 3), new(20, 3))), 0, 20);
        Clean(With(Ball(), "transform.translate.z", Curved(new Key(10, 3))));
    }

    [Fact]
    public void Several_findings_are_mended_as_one_step_and_what_cannot_be_is_left()
    {
        var shot = With(Ball(), "transform.translate.x", Curved(new(0, 2), new(20, 2)));
        shot = With(With(shot, "transform.translate.z", Curved(new(0, 1), new(20, 1))), "transform.translate.y", Curved(new(0, 0), new(40, 0.3), new(46, 5)));
        var findings = MotionChecks.Of(shot);
        Assert.Equal(3, findings.Count);
        var all = Mending.Of(shot, findings);
        Assert.Equal("Fix 3 findings", all.Describe(shot));
        Clean(all.Apply(shot));
        // One is that alone, with its own words; one that others have mended already does no harm.
        var idle = findings.Where(f => f.Kind == FindingKind.IdleKeys).ToList();
        Assert.Equal(idle[0].Fix, Mending.Of(shot, [idle[0]]));
        Assert.Equal(idle[0].Fix, Mending.Of(shot, [idle[0], idle[0]]));
        Assert.Contains("cannot be mended by itself", Assert.Throws<Refusal>(() => Mending.Of(shot, [])).Message, StringComparison.Ordinal);
        Assert.Contains("has no key on frame 0", Assert.Throws<Refusal>(() => Mending.Of(idle[0].Fix!.Apply(shot), [idle[0]])).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Removing_idle_keys_never_changes_a_curve() => Laws.ForSeeds((dice, _) =>
    {
        var keys = Enumerable.Range(0, 3 + dice.Next(8)).Select(i => new Key(5 * i, dice.Next(3), dice.Next(4) switch { 0 => Segment.Linear, 1 => Segment.Hold, _ => Segment.Bezier },
            dice.Next(2) == 0 ? Handle.Straight : Handle.Auto, dice.Next(2) == 0 ? Handle.Flat : Handle.Smooth)).ToArray();
        var curve = new Curve([.. keys]);
        var idle = CurveTools.IdleKeys(curve);
        var left = CurveEdits.RemoveKeys(curve, idle);
        for (var f = -3.0; f < 5 * keys.Length + 3; f += 0.37)
        {
            Assert.Equal(curve.Evaluate(f), left?.Evaluate(f) ?? curve.Keys[^1].Value, 1e-5);
        }
    });

    [Fact]
    public void A_second_run_works_out_only_what_is_another_and_says_the_same()
    {
        var memory = new CheckMemory();
        var shot = With(OnGround(Ball()), "transform.translate.y", Curved(Straight(0, 2), Straight(20, 0.3), Straight(40, 2)));
        string[] Run(Shot of)
        {
            var run = new MotionChecks(of, null, memory);
            while (run.Step())
            {
            }
            return [.. run.Findings.Select(f => f.Sentence)];
        }
        var first = Run(shot);
        Assert.Single(first);
        Assert.Equal(first, Run(shot));
        Assert.Equal(MotionChecks.Of(With(shot, "transform.translate.x", Curved(new(0, 0), new(20, 0)))).Select(f => f.Sentence), Run(With(shot, "transform.translate.x", Curved(new(0, 0), new(20, 0)))));
        Assert.Equal([], Run(With(shot, "transform.translate.y", new Channel(3))));
    }

    [Fact]
    public void Runs_one_after_the_other_say_what_one_from_the_start_says()
    {
        var found = 0;
        foreach (var name in (string[])["lantern-quay", "quay-lamps", "quay-ferry-and-raft"])
        {
            var shot = Demo(name);
            var (memory, dice) = (new CheckMemory(), new Random(7));
            for (var i = 0; i < 6; i++)
            {
                var node = shot.Nodes[dice.Next(shot.Nodes.Length)];
                shot = i switch
                {
                    2 => shot with { Nodes = shot.Nodes.Add(new MeshNode { Id = "pebble", Name = "Pebble", Shape = new SphereShape(0.4, 16, 12) }) },
                    4 => shot with { Nodes = shot.Nodes.Remove(shot.Node("pebble")), Range = new(shot.Range.First, shot.Range.Last - 7) },
                    _ => new SetKeys(dice.Next(20), [new(new(node.Id, "transform.translate.y"), dice.NextDouble() - 0.5)]).Apply(shot),
                };
                var run = new MotionChecks(shot, null, memory);
                while (run.Step())
                {
                }
                Assert.Equal(MotionChecks.Of(shot).Select(f => f.Sentence), run.Findings.Select(f => f.Sentence));
                found += run.Findings.Count(f => f.Kind == FindingKind.Contact);
            }
        }
        // The changes are such that there is something to say, also of what is looked at frame by frame.
        Assert.InRange(found, 1, int.MaxValue);
    }

    [Fact]
    public void What_stands_flush_on_a_wall_that_moves_is_looked_at_in_few_pieces()
    {
        // Three posts stand on it: as many frames as the wall moves on, their lower faces are neither in it nor out of it.
        var run = new MotionChecks(new SetKeys(20, [new(new("quay-wall", "transform.translate.x"), 0.01)]).Apply(Demo("quay-fender-polished")));
        var pieces = 0;
        while (run.Step())
        {
            pieces++;
        }
        Assert.InRange(pieces, 1, 12_000);
    }

    private static Shot Demo(string name) => ShotJson.ReadShot(File.ReadAllText(Path.Combine(Repository.Root, "demo", $"{name}.shot.json")));

    [Theory]
    [InlineData("lantern-quay")]
    [InlineData("quay-lamps")]
    [InlineData("turntable")]
    [InlineData("quay-fender-blocked")]
    [InlineData("quay-fender-polished")]
    [InlineData("quay-ferry-and-raft")]
    public void The_demo_shots_are_clean(string name)
    {
        Assert.Equal([], MotionChecks.Of(Demo(name)).Select(f => f.Sentence));
    }

    [Fact]
    public void Layers_that_make_it_right_or_hide_it_leave_nothing_to_be_found()
    {
        // What creeps below is held by a layer that takes its place; without it, or where it counts by a half, it creeps.
        var drift = With(Ball(60), "transform.translate.x", Curved(new(0, 0), new(40, 0.3), new(46, 5)));
        var held = (drift with { Layers = [new("held", "Held", LayerMode.Override)] }).With(At("ball/transform.translate.x@held"), new Channel(2));
        Assert.Empty(MotionChecks.Of(held));
        Assert.Equal(FindingKind.Drift, Assert.Single(MotionChecks.Of(held with { Layers = [held.Layers[0] with { Muted = true }] })).Kind);
        Assert.Equal(FindingKind.Drift, Assert.Single(MotionChecks.Of(held.With(At("held/weight"), new Channel(0.5)))).Kind);
        // A layer that moves as well while it creeps is the move itself.
        var moved = (drift with { Layers = [new("more", "More")] }).With(At("ball/transform.translate.x@more"), Curved(new(0, 0), new(40, 9)));
        Assert.DoesNotContain(MotionChecks.Of(moved), f => f.Kind == FindingKind.Drift);

        // A turntable that a layer rocks is still not even itself; the layer is not asked to be.
        var turning = With(Ball(359), "transform.rotate.y", Curved(Straight(0, 0), Straight(360, 360)));
        turning = (turning with { Layers = [new("rock", "Rock")] }).With(At("ball/transform.rotate.y@rock"), Curved(new(0, 0), new(90, 20), new(270, -20), new(360, 0)));
        Assert.Empty(MotionChecks.Of(turning));

        // The frames of a loop are the same only if the layer over it comes round as well.
        var loop = With(Ball(25), "transform.rotate.z", new Channel(0, new Curve([new(0, -10), new(12, 10), new(25, -10)], after: new(ExtrapolationKind.Loop))));
        var looked = (loop with { Layers = [new("look", "Look")] }).With(At("ball/transform.rotate.x@look"), Curved(new(0, 0), new(25, 30)));
        Assert.Equal(FindingKind.DoubledFrame, Assert.Single(MotionChecks.Of(loop)).Kind);
        Assert.Empty(MotionChecks.Of(looked));
    }

    [Fact]
    public void A_squash_of_two_layers_is_mended_in_the_upper_one()
    {
        // Half of it in the channels, half in a layer that counts by a half: 0.5 high, and 1.1 wide instead of 1.41.
        var shot = new[] { ("x", 1.1), ("y", 0.5), ("z", 1.1) }.Aggregate(Ball() with { Layers = [new("half", "Half", Channels: Channels(("weight", 0.5)))] }, (s, a) =>
        {
            var by = (a.Item2 - 1) / 2;
            s = With(s, $"transform.scale.{a.Item1}", Curved(new(10, 1), new(14, 1 + by), new(20, 1)));
            return s.With(At($"ball/transform.scale.{a.Item1}@half"), Curved(new(10, 0), new(14, 2 * by), new(20, 0)));
        });
        var found = Assert.Single(MotionChecks.Of(shot));
        Assert.Equal((FindingKind.Volume, 14), (found.Kind, found.First));
        var mended = found.Fix!.Apply(shot);
        Assert.Empty(MotionChecks.Of(mended));
        Assert.Equal(shot.Channel(At("ball/transform.scale.x")), mended.Channel(At("ball/transform.scale.x")));
        Assert.Equal(Math.Sqrt(2), CompiledShot.ValueOf(mended, At("ball/transform.scale.x"), 14), 9);
    }

    [Fact]
    public void Angles_of_a_layer_are_unrolled_only_where_they_count_whole()
    {
        Shot Turned(Layer layer, params string[] axes) => new[] { ("x", 10.0, -160.0), ("y", 70, 95), ("z", -5, -177) }.Where(a => axes.Contains(a.Item1)).Aggregate(Ball() with { Layers = [layer] }, (s, a) =>
            s.With(At($"ball/transform.rotate.{a.Item1}@own"), Curved(new(0, a.Item2), new(24, a.Item3))));
        var whole = Turned(new("own", "Own"), "x", "y", "z");
        var unrolled = new UnrollRotations(["ball"], "own").Apply(whole);
        Assert.Equal([20, 85, 3], new[] { "x", "y", "z" }.Select(a => Math.Round(unrolled.Channel(At($"ball/transform.rotate.{a}@own")).Evaluate(24), 9)));
        Refused("does not count whole all the time", Turned(new("own", "Own", Channels: Channels(("weight", 0.5))), "x", "y", "z"));
        Refused("does not count whole all the time", whole.With(At("own/weight"), Curved(new(0, 1), new(20, 0))));
        Refused("does not have all three angles of “Ball”", Turned(new("own", "Own", LayerMode.Override), "x", "y"));
        Refused("has no keys to unroll in the layer “Own”", Turned(new("own", "Own")));
        Refused("no layer", whole, "other");
        static void Refused(string why, Shot shot, string layer = "own") => Assert.Contains(why, Assert.Throws<Refusal>(() => new UnrollRotations(["ball"], layer).Apply(shot)).Message, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public void What_is_meant_is_not_found_again_until_it_is_meant_no_longer()
    {
        var shot = With(Ball(), "transform.rotate.z", new Channel(0, new Curve([new(0, 0), new(12, 40), new(24, 5)], after: new(ExtrapolationKind.Loop))));
        var found = Assert.Single(MotionChecks.Of(shot));
        var meant = new MeantFinding(found.Kind, [.. found.Channels, .. found.Nodes]);
        var edit = new MeanFindings([meant]);
        var silent = ShotJson.ReadShot(ShotJson.Write(edit.Apply(edit.Apply(shot))));
        Assert.Single(silent.Meant);
        Assert.Empty(MotionChecks.Of(silent));
        // Of another kind, or about something else, it is found.
        Assert.Single(MotionChecks.Of(new MeanFindings([meant with { Kind = FindingKind.Kink }]).Apply(shot)));
        Assert.Single(MotionChecks.Of(new MeanFindings([meant with { About = ["ball"] }]).Apply(shot)));
        Assert.Equal(found.Sentence, Assert.Single(MotionChecks.Of(new MeanFindings([meant with { About = [.. meant.About.Reverse()] }], false).Apply(silent))).Sentence);
        foreach (var wrong in new[] { new MeanFindings([]), new MeanFindings([meant with { About = [] }]), new MeanFindings([meant with { Kind = (FindingKind)99 }]), new MeanFindings([null!]) })
        {
            Assert.Throws<Refusal>(() => wrong.Apply(shot));
        }
    }

    [Fact]
    public void The_raft_lies_still_until_the_ferry_touches_it_twice()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Path.Combine(Repository.Root, "demo", "quay-ferry-and-raft.shot.json")));
        var state = new FrameState(new CompiledShot(shot));
        double Gap(double frame)
        {
            state.Evaluate(frame);
            double X(string id) => state.World[state.Compiled.IndexOfNode(id)].Origin.X;
            return X("raft") - X("ferry");
        }
        for (var f = 0.0; f <= 239; f += 0.5)
        {
            Assert.True(Gap(f) >= -1e-9, $"frame {f}");
        }
        Assert.All(new[] { 64, 150 }, f => Assert.Equal(0, Gap(f), 1e-9));
        var raft = At("raft/transform.translate.x");
        Assert.Equal([0, 0, 0.6, 0.6], new[] { 0.0, 64, 104, 150 }.Select(f => Math.Round(shot.Channel(raft).Evaluate(f), 9)));
        Assert.Equal(0, shot.Channel(raft).Evaluate(63.9));
        Assert.Equal(0.6, shot.Channel(raft).Evaluate(149.9));
    }

    [Fact]
    public void Every_shot_however_wild_is_checked_without_a_fault() => Laws.ForSeeds((dice, _) =>
    {
        var shot = new SomeShots(dice).Shot();
        var findings = MotionChecks.Of(shot);
        Assert.All(findings, f =>
        {
            Assert.InRange(f.First, shot.Range.First, shot.Range.Last);
            Assert.InRange(f.Last, f.First, shot.Range.Last);
            Assert.DoesNotContain("NaN", f.Sentence, StringComparison.Ordinal);
        });
    }, 300);
}
