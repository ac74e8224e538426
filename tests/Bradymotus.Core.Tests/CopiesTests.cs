using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Tests;

/// <summary>Instances, repeaters, followers, locks, and what is seen where.</summary>
public sealed class CopiesTests
{
    /// <summary>A post with a lamp on an arm, the arm keyed; an instance of it; a repeater round a ball.</summary>
    private static Shot Quay() => Shot.Empty("Quay") with
    {
        Nodes =
        [
            new GroupNode { Id = "post", Name = "Post", Channels = Shots.Channels(("transform.translate.x", 3), ("transform.rotate.y", 20)) },
            new MeshNode { Id = "arm", Name = "Arm", Parent = "post", Shape = new BoxShape(1, 0.1, 0.1), Channels = Shots.Channels(("transform.translate.y", 2)) },
            new LampNode { Id = "lamp", Name = "Lamp", Parent = "arm", Channels = Shots.Channels(("transform.translate.x", 0.5)) },
            new InstanceNode { Id = "second", Name = "Second", Of = "post", Channels = Shots.Channels(("transform.translate.z", -4), ("transform.scale.y", 2)) },
            new RepeatNode { Id = "row", Name = "Row", Channels = Shots.Channels(("transform.translate.y", 1), ("repeat.count", 4), ("repeat.translate.x", 2), ("repeat.rotate.y", 30), ("repeat.scale.x", 0.9)) },
            new MeshNode { Id = "ball", Name = "Ball", Parent = "row", Shape = new SphereShape(0.2, 8, 6), Deformers = [new SquashDeformer { Id = "s" }] },
        ],
    };

    private static Shot Moving() => Quay().Keyed("arm/transform.rotate.z", (0, 0), (10, 40)).Keyed("ball/transform.translate.z", (0, 0), (10, 5)).Keyed("ball/deform.s.amount", (0, 0), (10, 1));

    private static FrameState At(Shot shot, double frame)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(frame);
        return state;
    }

    private static void Near(Affine expected, Affine actual)
    {
        var (a, b) = (new double[16], new double[16]);
        expected.CopyTo(a);
        actual.CopyTo(b);
        Assert.All(a.Zip(b), p => Assert.Equal(p.First, p.Second, 1e-9));
    }

    private static List<Copy> Of(FrameState state, string owner) => [.. state.Copies.Where(c => state.Compiled.NodeAt(c.Owner).Id == owner)];

    [Fact]
    public void An_instance_draws_what_is_below_another_where_it_stands_itself()
    {
        var state = At(Moving(), 5);
        var copies = Of(state, "second");
        Assert.Equal(["arm", "lamp"], copies.Select(c => state.Compiled.NodeAt(c.Source).Id));
        var toPost = state.World[state.Compiled.IndexOfNode("post")].TryInvert(out var m) ? m : throw new InvalidOperationException();
        Near(state.World[state.Compiled.IndexOfNode("second")] * toPost * state.World[state.Compiled.IndexOfNode("lamp")], copies[1].World);
    }

    /// <summary>Each step applied by hand: W·Sᵏ.</summary>
    [Fact]
    public void A_repeater_sets_each_copy_one_whole_step_from_the_last()
    {
        var state = At(Moving(), 5);
        var copies = Of(state, "row");
        Assert.Equal(3, copies.Count);
        var step = Affine.Rotation(new(0, 30, 0), RotationOrder.Xyz).Scaled(new(0.9, 1, 1)) with { Origin = new(2, 0, 0) };
        var place = state.World[state.Compiled.IndexOfNode("row")];
        var own = state.Local(state.Compiled.IndexOfNode("ball"));
        foreach (var copy in copies)
        {
            place *= step;
            Near(place * own, copy.World);
            Assert.Same(state.Mesh(copy.Source), copy.State.Mesh(copy.Node));
        }
    }

    [Fact]
    public void The_step_may_be_the_place_of_another_object_and_the_count_a_curve()
    {
        var shot = Quay().Keyed("row/repeat.count", (0, 1), (10, 5));
        shot = shot with { Nodes = shot.Nodes.Add(new ControlNode { Id = "curl", Name = "Curl", Parent = "row", Channels = Shots.Channels(("transform.translate.x", 1), ("transform.rotate.z", 15)) }) };
        shot = new ReplaceNode((RepeatNode)shot.Node("row") with { Step = "curl" }).Apply(shot);
        var state = At(shot, 10);
        var copies = Of(state, "row");
        Assert.Equal(4, copies.Count);
        var curl = state.Local(state.Compiled.IndexOfNode("curl"));
        Near(state.World[state.Compiled.IndexOfNode("row")] * curl * curl * curl * curl, copies[3].World);
        state.Evaluate(0);
        Assert.Empty(Of(state, "row"));
        // A turn of the control alone moves the whole row.
        state.Evaluate(10);
        state.Override(state.Compiled.IndexOfChannel(new("curl", "transform.rotate.z")), 90);
        state.Evaluate(10);
        Near(state.World[state.Compiled.IndexOfNode("row")] * state.Local(state.Compiled.IndexOfNode("curl")), Of(state, "row")[0].World);
    }

    [Fact]
    public void A_shift_shows_each_copy_as_the_first_was_so_many_frames_before()
    {
        var shot = new SetValues([new(new("row", "repeat.shift"), 2)]).Apply(Moving());
        var state = At(shot, 8);
        for (var frame = 8; frame >= 3; frame -= 5)
        {
            state.Evaluate(frame);
            var copies = Of(state, "row");
            for (var k = 1; k <= 3; k++)
            {
                var then = At(shot, frame - 2 * k);
                Assert.Equal(then.Mesh(then.Compiled.IndexOfNode("ball"))!.Positions, copies[k - 1].State.Mesh(copies[k - 1].Node)!.Positions);
                Near(then.Local(then.Compiled.IndexOfNode("ball")), copies[k - 1].State.World[copies[k - 1].Node]);
            }
        }
        // They go on with the shot as it is changed.
        state.Show(new CompiledShot(new SetValues([new(new("ball", "transform.translate.y"), 7)]).Apply(shot), state.Compiled));
        state.Evaluate(3);
        Assert.All(Of(state, "row"), c => Assert.Equal(7, c.State.World[c.Node].Origin.Y));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1.5)]
    public void Evaluating_copies_again_allocates_nothing(double shift)
    {
        var state = At(new SetValues([new(new("row", "repeat.shift"), shift)]).Apply(Moving()), 0);
        void Run()
        {
            for (var f = 2; f < 10; f++)
            {
                state.Evaluate(f);
            }
        }
        // Curves are compiled one a little later than the other.
        for (var i = 0; i < 10; i++)
        {
            Run();
        }
        var before = GC.GetAllocatedBytesForCurrentThread();
        Run();
        Assert.Equal(before, GC.GetAllocatedBytesForCurrentThread());
        var changed = state.CopiesChanged;
        state.Evaluate(9);
        Assert.Equal(changed, state.CopiesChanged);
    }

    [Fact]
    public void Instances_of_repeaters_of_instances_are_drawn_and_never_without_end()
    {
        var shot = Quay();
        shot = shot with
        {
            Nodes = shot.Nodes.AddRange(
                new InstanceNode { Id = "inner", Name = "Inner", Parent = "row", Of = "post" },
                new InstanceNode { Id = "outer", Name = "Outer", Of = "row", Channels = Shots.Channels(("transform.translate.z", 9)) }),
        };
        ShotRules.Validate(shot);
        var state = At(shot, 0);
        // The row: a ball and an arm with its lamp, three more times; the outer: a ball and an instance, four times.
        Assert.Equal(3 * 3, Of(state, "row").Count);
        Assert.Equal(2, Of(state, "inner").Count);
        Assert.Equal(4 * 3, Of(state, "outer").Count);
        var real = MakeReal.Everywhere(shot, 0).Shot;
        Assert.DoesNotContain(real.Nodes, n => n is InstanceNode or RepeatNode);
        Assert.Equal(SortedPlaces(state), SortedPlaces(At(real, 0)));
        Assert.Contains("within itself", Assert.Throws<Refusal>(() => new AddNodes([new InstanceNode { Id = "x", Name = "X", Parent = "post", Of = "outer" }]).Apply(shot)).Message, StringComparison.Ordinal);
        Assert.Contains("within itself", Assert.Throws<Refusal>(() => new ReplaceNode((InstanceNode)shot.Node("inner") with { Of = "row" }).Apply(shot)).Message, StringComparison.Ordinal);
        Assert.Contains("instance of “post”", Assert.Throws<Refusal>(() => new RemoveNodes(["post"]).Apply(shot)).Message, StringComparison.Ordinal);
        var many = new SetValues([new(new("row", "repeat.count"), 10_000)]).Apply(shot);
        Assert.InRange(At(many, 0).Copies.Count, 10_000, 100_001);
    }

    /// <summary>Where all meshes are, whoever draws them.</summary>
    private static List<string> SortedPlaces(FrameState state)
    {
        var all = Enumerable.Range(0, state.Compiled.NodeCount).Where(i => state.Mesh(i) is not null && state.Rendered[i]).Select(i => (Mesh: state.Mesh(i)!, World: state.World[i]))
            .Concat(state.Copies.Where(c => c.State.Mesh(c.Node) is not null).Select(c => (Mesh: c.State.Mesh(c.Node)!, c.World)));
        return [.. all.Select(p => { var v = p.World.Point(new(p.Mesh.Positions[0], p.Mesh.Positions[1], p.Mesh.Positions[2])); return FormattableString.Invariant($"{v.X:F5} {v.Y:F5} {v.Z:F5}").Replace("-0.00000", "0.00000", StringComparison.Ordinal); }).Order(StringComparer.Ordinal)];
    }

    [Theory]
    [InlineData(0)]
    [InlineData(7)]
    public void What_is_made_real_stands_where_it_was_drawn_on_every_frame(double frame)
    {
        var shot = new SetValues([new(new("row", "repeat.shift"), 1.5)]).Apply(Moving()).Keyed("row/repeat.rotate.y", (0, 0), (10, 60));
        var real = new MakeReal(["second", "row"], "c", 0).Apply(shot);
        Assert.DoesNotContain(real.Nodes, n => n is InstanceNode or RepeatNode);
        Assert.Equal(SortedPlaces(At(shot, frame)), SortedPlaces(At(real, frame)));
        Assert.Equal("Second", real.Node("second").Name);
    }

    [Fact]
    public void Thousands_are_made_real_without_writing_the_list_for_each()
    {
        const int Count = 4000;
        var shot = Shot.Empty("Crowd") with
        {
            Nodes =
            [
                new GroupNode { Id = "post", Name = "Post" },
                new MeshNode { Id = "ball", Name = "Ball", Parent = "post", Shape = new BoxShape() },
                .. Enumerable.Range(0, Count).Select(i => new InstanceNode { Id = $"i{i}", Name = $"I{i}", Of = "post" }),
            ],
        };
        foreach (var make in (Func<Shot>[])[() => new MakeReal([.. Enumerable.Range(0, Count).Select(i => $"i{i}")], "c", 0).Apply(shot), () => MakeReal.Everywhere(shot, 0).Shot])
        {
            var before = GC.GetAllocatedBytesForCurrentThread();
            var real = make();
            // The list alone, written for each of them, would be 200 MB and more.
            Assert.True(GC.GetAllocatedBytesForCurrentThread() - before < 50 << 20);
            Assert.Equal(2 * (Count + 1), real.Nodes.Length);
            Assert.All(real.Nodes.OfType<MeshNode>(), n => Assert.NotNull(real.FindNode(n.Parent)));
        }
        // A tree of many nodes is not copied before it is counted.
        shot = shot with { Nodes = shot.Nodes.AddRange(Enumerable.Range(0, 15_000).Select(i => new GroupNode { Id = $"g{i}", Name = $"G{i}", Parent = "post" })) };
        Assert.Contains("“I0”", Assert.Throws<Refusal>(() => MakeReal.Everywhere(shot, 0)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void What_is_hidden_within_is_hidden_in_copies_and_what_is_hidden_itself_is_not()
    {
        var hidden = new SetValues([new(new("post", "visible"), 0)]).Apply(Quay());
        Assert.All(Of(At(hidden, 0), "second"), c => Assert.True(c.Visible && c.Rendered));
        var within = new SetValues([new(new("arm", "visible.renders"), 0)]).Apply(Quay());
        Assert.All(Of(At(within, 0), "second"), c => Assert.True(c.Visible && !c.Rendered));
        var stage = new SetValues([new(new("second", "visible.stage"), 0)]).Apply(Quay());
        var state = At(stage, 0);
        Assert.All(Of(state, "second"), c => Assert.True(!c.Visible && c.Rendered));
        var i = state.Compiled.IndexOfNode("second");
        Assert.Equal((false, true), (state.Visible[i], state.Rendered[i]));
    }

    [Fact]
    public void A_follower_has_the_channels_of_its_leader_until_it_has_its_own()
    {
        var shot = new DuplicateNodes(["arm"], "copy", Follow: true).Apply(Moving());
        Assert.Null(shot.Node("copy-0").Channels);
        Affine World(Shot s, string id, double f) => At(s, f).World[At(s, f).Compiled.IndexOfNode(id)];
        Near(World(shot, "arm", 6), World(shot, "copy-0", 6));
        // What changes there changes here, in what is patched too.
        var compiled = new CompiledShot(shot);
        var changed = new SetKeys(10, [new(new("arm", "transform.rotate.z"), 80)]).Apply(shot);
        var state = new FrameState(compiled);
        state.Evaluate(10);
        state.Show(new CompiledShot(changed, compiled));
        state.Evaluate(10);
        Near(state.World[state.Compiled.IndexOfNode("arm")], state.World[state.Compiled.IndexOfNode("copy-0")]);
        Near(CompiledShot.WorldOf(changed, "arm", 10), CompiledShot.WorldOf(changed, "copy-0", 10));
        // A key on it makes a curve of its own of what it followed.
        var own = new SetKeys(5, [new(new("copy-0", "transform.rotate.z"), -9)]).Apply(changed);
        Assert.Equal([0, 5, 10], own.Channel(new("copy-0", "transform.rotate.z")).Curve!.Keys.Select(k => k.Frame));
        Assert.Equal([0, 10], own.Channel(new("arm", "transform.rotate.z")).Curve!.Keys.Select(k => k.Frame));
        var free = new Unfollow(["copy-0"]).Apply(changed);
        Near(World(changed, "copy-0", 4), World(free, "copy-0", 4));
        Assert.Contains("follow itself", Assert.Throws<Refusal>(() => new ReplaceNode(changed.Node("arm") with { Follows = "copy-0" }).Apply(changed)).Message, StringComparison.Ordinal);
        Assert.Contains("follows", Assert.Throws<Refusal>(() => new RemoveNodes(["arm"]).Apply(changed)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_locked_channel_is_passed_by_by_hands_and_refused_to_edits()
    {
        ChannelAddress x = new("post", "transform.translate.x"), y = new("post", "transform.translate.y");
        var shot = new LockChannels([x]).Apply(Quay());
        Assert.Equal(3, shot.Channel(x).Value);
        var (edit, waiting) = Posing.Set(shot, [new(x, 9), new(y, 9)], 0, autoKey: true);
        Assert.Equal([y], Assert.IsType<SetKeys>(edit).Values.Select(v => v.Address));
        Assert.Empty(waiting);
        Assert.Contains("Position X is locked", Assert.Throws<Refusal>(() => new SetValues([new(x, 9)]).Apply(shot)).Message, StringComparison.Ordinal);
        Assert.Contains("locked", Assert.Throws<Refusal>(() => new SetKeys(0, [new(x, 9)]).Apply(shot)).Message, StringComparison.Ordinal);
        var free = new LockChannels([x], false).Apply(shot);
        Assert.Equal(9, new SetValues([new(x, 9)]).Apply(free).Channel(x).Value);
    }

    [Fact]
    public void Instances_are_put_where_others_stand_with_their_keys()
    {
        var shot = Shot.Empty("Posts") with
        {
            Nodes =
            [
                new MeshNode { Id = "lantern", Name = "Lantern", Shape = new SphereShape(), Channels = Shots.Channels(("transform.scale.x", 0.5)) },
                .. Enumerable.Range(0, 3).Select(i => new MeshNode { Id = $"p{i}", Name = $"P{i}", Shape = new BoxShape(), Channels = Shots.Channels(("transform.translate.x", i), ("transform.scale.y", 4)) }),
            ],
        };
        shot = shot.Keyed("p1/transform.translate.z", (0, 0), (10, 3));
        var put = new PlaceInstances("lantern", ["p0", "p1", "p2"], "l").Apply(shot);
        Assert.Equal(["Lantern 2", "Lantern 3", "Lantern 4"], put.Nodes.OfType<InstanceNode>().Select(n => n.Name));
        var world = At(put, 10).World[At(put, 10).Compiled.IndexOfNode("l-1")];
        Assert.Equal((1, 0, 3), (world.Origin.X, world.Origin.Y, world.Origin.Z));
        Assert.Equal((0.5, 1.0), (world.X.Length, world.Y.Length));
        // Of instances of instances there are none: they are of the same.
        var more = new AddInstances(["l-0"], "m").Apply(put);
        Assert.Equal("lantern", ((InstanceNode)more.Node("m-0")).Of);
        // And copies of both refer to what was copied with them.
        var twice = new DuplicateNodes(["lantern", "l-2"], "d").Apply(more);
        Assert.Equal("d-0", ((InstanceNode)twice.Node("d-1")).Of);
    }

    [Fact]
    public void Instances_are_hung_on_above_and_beside_objects_and_go_along()
    {
        var shot = Shot.Empty("Posts") with
        {
            Nodes =
            [
                new MeshNode { Id = "lantern", Name = "Lantern", Shape = new BoxShape(), Channels = Shots.Channels(("transform.scale.x", 0.5), ("transform.scale.y", 0.5), ("transform.scale.z", 0.5)) },
                new MeshNode { Id = "post", Name = "Post", Shape = new BoxShape(), Channels = Shots.Channels(("transform.translate.x", 3), ("transform.translate.y", 2), ("transform.scale.y", 4)) },
                new GroupNode { Id = "empty", Name = "Empty", Channels = Shots.Channels(("transform.translate.z", -2)) },
            ],
        };
        shot = shot.Keyed("post/transform.translate.z", (0, 0), (10, 5));
        // The post is 1 × 4 × 1 with its foot on the ground, the lantern half a metre wide.
        var places = new Dictionary<string, Double3> { ["on"] = new(3, 4.25, 0), ["above"] = new(3, 4.75, 0), ["beside"] = new(3.75, 0.25, 0) };
        foreach (var (where, place) in places)
        {
            var put = new HangInstances("lantern", InstancePlaces.Find(At(shot, 0), "lantern", ["post", "empty"], where), "l").Apply(shot);
            Assert.Equal(["post", "empty"], put.Nodes.OfType<InstanceNode>().Select(n => n.Parent));
            var (first, later) = (At(put, 0), At(put, 10));
            var world = first.World[first.Compiled.IndexOfNode("l-0")];
            Assert.True((world.Origin - place).Length < 1e-4, $"{where}: {world.Origin}");
            // It is as large as what it is an instance of, though the post is stretched, and goes along.
            Assert.True(Math.Abs(world.Y.Length - 0.5) < 1e-4 && Math.Abs(world.X.Length - 0.5) < 1e-4);
            Assert.Equal(5, later.World[later.Compiled.IndexOfNode("l-0")].Origin.Z, 6);
            Assert.Equal(-2, first.World[first.Compiled.IndexOfNode("l-1")].Origin.Z, 6);
        }
        Assert.Throws<Refusal>(() => InstancePlaces.Find(At(shot, 0), "lantern", ["post"], "under"));
        Assert.Contains("scaled to nothing", Assert.Throws<Refusal>(() => InstancePlaces.Find(At(shot.With(new("post", "transform.scale.x"), new Channel(0)), 0), "lantern", ["post"], "on")).Message, StringComparison.Ordinal);
        // Nothing hangs below itself.
        Assert.Throws<Refusal>(() => new HangInstances("post", InstancePlaces.Find(At(shot, 0), "post", ["post"], "on"), "l").Apply(shot));
    }
}
