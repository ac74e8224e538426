using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Shaping;
using Bradymotus.Core.Time;

namespace Bradymotus.Core.Tests;

public class EditingTests
{
    private static readonly ChannelAddress Lift = Shots.At("base/transform.translate.y");

    [Fact]
    public void A_muted_channel_stays_as_it_is_keeps_its_keys_and_is_posed_as_if_it_had_none()
    {
        var lift = new ChannelAddress("g", "transform.translate.y");
        var shot = (Shot.Empty("Muted") with { Nodes = [new GroupNode { Id = "g", Name = "G" }] }).Keyed("g/transform.translate.y", (0, 0), (10, 10)).Keyed("g/transform.translate.x", (0, 0), (10, 10));
        var muted = new MuteChannels([lift, new("g", "transform.scale.x")], Frame: 4).Apply(shot);
        Assert.Equal("Mute 2 channels", new MuteChannels([lift, lift]).Describe(shot));
        Assert.Equal((shot.Channel(lift).Curve, shot.Channel(lift).Evaluate(4)), (muted.Channel(lift).Curve, muted.Channel(lift).Evaluate(9)));
        // What has no keys has nothing to mute.
        Assert.False(muted.SetChannels("g")!.ContainsKey("transform.scale.x"));
        var state = new FrameState(new CompiledShot(muted));
        state.Evaluate(10);
        Assert.Equal((10, muted.Channel(lift).Value), (state.Value(new("g", "transform.translate.x")), state.Value(lift)));
        Assert.Throws<Refusal>(() => new MuteChannels([lift]).Apply(new LockChannels([lift]).Apply(shot)));
        // What has no say is no animation to copy.
        Assert.Equal("transform.translate.x", Assert.Single(Saved.MotionOf(muted, ["g"], null).Parts).Path);
        // In the file and back.
        Assert.True(ShotJson.ReadShot(ShotJson.Write(muted)).Channel(lift).Muted);
        var posed = Posing.Set(muted, [new(lift, 7), new(new("g", "transform.translate.x"), 7)], 5, autoKey: true).Edit!.Apply(muted);
        Assert.Equal((7, shot.Channel(lift).Curve), (posed.Channel(lift).Value, posed.Channel(lift).Curve));
        Assert.Equal(3, posed.Channel(new("g", "transform.translate.x")).Curve!.Keys.Length);
        Assert.Equal(shot.Channel(lift).Evaluate(9), new MuteChannels([lift], false).Apply(posed).Channel(lift).Evaluate(9));
        Assert.DoesNotContain(MotionChecks.Of(muted, new()), f => f.Channels.Contains(lift.ToString()));
        // Its keys can be worked on meanwhile; only without any it is no longer muted.
        Assert.All([new TransformKeys([new(lift, 10)], new(Frames: 2)), new SetKeys(5, [new(lift, 1)]), new SetSegments([new(lift, 0)], Segment.Linear)], (Edit e) => Assert.True(e.Apply(muted).Channel(lift).Muted));
        Assert.False(new RemoveKeys([new(lift, 0), new(lift, 10)]).Apply(muted).Channel(lift).Muted);
    }

    [Fact]
    public void Keys_are_chosen_in_any_order_and_more_than_once_and_moved_each_once()
    {
        var shot = Shots.Crane().With(Lift, new(0, new Curve([.. Enumerable.Range(0, 5).Select(i => new Key(10 * i, i, In: new FreeHandle(-3, i), Joined: false))])));
        Curve Moved(KeyTransform by, params int[] frames) => new TransformKeys([.. frames.Select(f => new KeyAddress(Lift, f))], by).Apply(shot).Channel(Lift).Curve!;
        Assert.Equal([0, 12, 20, 32, 40], Moved(new(Frames: 2), 30, 10, 30, 10).Keys.Select(k => k.Frame));
        // All at once, in whatever order, and held: what is not moved stays as it is.
        foreach (var order in new int[][] { [0, 10, 20, 30, 40], [40, 0, 20, 10, 30, 40] })
        {
            Assert.Equal(shot.Channel(Lift).Curve!.Keys.Select(k => k with { Frame = k.Frame - 7, Value = k.Value + 2 }), Moved(new(Frames: -7, Value: 2), order).Keys);
        }
        var held = new TransformKeys(new KeyGroups([.. new[] { 40, 0, 20 }.Select(f => new KeyAddress(Lift, f))]), new(Frames: 1));
        Assert.Equal([1, 10, 21, 30, 41], held.Apply(shot).Channel(Lift).Curve!.Keys.Select(k => k.Frame));
        Assert.Equal([1, 10, 21, 30, 41], held.Apply(shot).Channel(Lift).Curve!.Keys.Select(k => k.Frame));
        var other = new RemoveKeys([new(Lift, 10)]).Apply(shot);
        Assert.Equal([1, 21, 30, 41], held.Apply(other).Channel(Lift).Curve!.Keys.Select(k => k.Frame));
        Assert.Contains("has no key on frame 20", Assert.Throws<Refusal>(() => held.Apply(new RemoveKeys([new(Lift, 20)]).Apply(shot))).Message, StringComparison.Ordinal);
        // Too far is refused as for some of them.
        foreach (var far in new KeyTransform[] { new(Frames: 2e9), new(Value: 1e13), new(Value: double.NaN), new(Frames: double.PositiveInfinity) })
        {
            Assert.Throws<Refusal>(() => Moved(far, 0, 10, 20, 30, 40));
        }
    }

    [Fact]
    public void An_edit_leaves_what_it_does_not_touch_as_the_same_reference()
    {
        var shot = Shots.Crane();
        var after = new SetKeys(5, [new(Lift, 2)]).Apply(shot);
        Assert.Same(shot.FindNode("hook"), after.FindNode("hook"));
        Assert.NotSame(shot.FindNode("base"), after.FindNode("base"));
        Assert.Null(shot.Channel(Lift).Curve);
    }

    [Fact]
    public void Removing_the_last_key_keeps_its_value()
    {
        var shot = new SetKeys(5, [new(Lift, 2)]).Apply(Shots.Crane());
        var after = new RemoveKeys([new(Lift, 5)]).Apply(shot);
        Assert.Equal(new Channel(2), after.Channel(Lift));
    }

    [Fact]
    public void A_stepped_channel_gets_keys_that_hold()
    {
        var visible = Shots.At("base/visible");
        var shot = new SetKeys(5, [new(visible, 1)]).Apply(Shots.Crane());
        shot = new SetKeys(9, [new(visible, 0)]).Apply(shot);
        Assert.Equal(1, shot.Channel(visible).Evaluate(8.9));
    }

    [Fact]
    public void Moved_keys_push_away_what_is_in_their_way()
    {
        var shot = Shots.Crane().Keyed("base/transform.translate.y", (0, 1), (10, 2), (20, 3));
        var after = new TransformKeys([new(Lift, 10)], new KeyTransform(Frames: 10)).Apply(shot);
        Assert.Equal([(0, 1), (20, 2)], after.Channel(Lift).Curve!.Keys.Select(k => (k.Frame, k.Value)));
    }

    [Fact]
    public void Staggering_shifts_each_object_by_more_than_the_one_before()
    {
        var shot = Shots.Crane().Keyed("base/transform.translate.y", (0, 1)).Keyed("arm/transform.translate.y", (0, 1)).Keyed("hook/transform.translate.y", (0, 1));
        var keys = new[] { "base", "arm", "hook" }.Select(id => new KeyAddress(Shots.At($"{id}/transform.translate.y"), 0)).ToList();
        var after = new StaggerKeys(keys, 3).Apply(shot);
        Assert.Equal([0, 3, 6], keys.Select(k => after.Channel(k.Address).Curve!.Keys[0].Frame));
    }

    [Fact]
    public void Hanging_an_object_elsewhere_keeps_its_place_in_the_world()
    {
        var shot = Shots.Crane().Keyed("hook/transform.translate.x", (0, 1), (10, 3));
        var before = new CompiledShot(shot).WorldAt("hook", 5);
        var after = new Reparent(["hook"], 5).Apply(shot);
        var world = new CompiledShot(after).WorldAt("hook", 5);
        Assert.True((world.Point(new(1, 1, 1)) - before.Point(new(1, 1, 1))).Length < 1e-6);
        Assert.Null(after.Node("hook").Parent);
        Assert.Equal(2, after.Channel(Shots.At("hook/transform.translate.x")).Curve!.Keys.Length);
    }

    [Fact]
    public void A_new_parent_takes_along_what_is_not_to_stay_where_it_is()
    {
        var shot = Shots.Crane();
        var hook = shot.Node("hook").Channels;
        var after = new Reparent(["hook"], 5, "base", Keep: false).Apply(shot);
        Assert.Null(after.Node("hook").Offset);
        Assert.Same(hook, after.Node("hook").Channels);
        var (was, now) = (new CompiledShot(shot).WorldAt("hook", 5).Origin, new CompiledShot(after).WorldAt("hook", 5).Origin);
        Assert.True((was - now).Length > 0.1);
    }

    [Fact]
    public void Nothing_can_hang_below_itself()
    {
        var refusal = Assert.Throws<Refusal>(() => new Reparent(["base"], 0, "hook").Apply(Shots.Crane()));
        Assert.Contains("lies below", refusal.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Removing_a_parent_removes_what_hangs_below_it() =>
        Assert.Equal(["base"], new RemoveNodes(["arm"]).Apply(Shots.Crane()).Nodes.Select(n => n.Id));

    [Fact]
    public void Taking_a_deformer_away_takes_its_channels_along()
    {
        var hook = (MeshNode)Shots.Crane().Node("hook");
        var shot = new ReplaceNode(hook with { Deformers = [new TwistDeformer { Id = "t" }] }).Apply(Shots.Crane());
        shot = new SetKeys(0, [new(Shots.At("hook/deform.t.angle"), 30)]).Apply(shot);
        var after = new ReplaceNode(hook).Apply(shot);
        Assert.DoesNotContain("deform.t.angle", after.Node("hook").Channels!.Keys);
        Assert.Equal(2, after.Channel(Shots.At("hook/transform.translate.x")).Value);
    }

    [Fact]
    public void A_hold_keeps_the_pose_before_and_then_goes_on_as_that_did()
    {
        var bounce = new EaseSegment(EaseFamily.Bounce, EaseDirection.Out);
        var shot = Shots.Crane().With(Lift, new Channel(0, new Curve([new Key(0, 4, bounce), new Key(20, 9)])));
        var held = new HoldUntil(8, [Lift, Shots.At("base/transform.translate.x")]).Apply(shot);
        var curve = held.Channel(Lift).Curve!;
        Assert.Equal([(0, 4), (8, 4), (20, 9)], curve.Keys.Select(k => (k.Frame, k.Value)));
        Assert.Equal((Segment.Hold, bounce), (curve.Keys[0].Segment, curve.Keys[1].Segment));
        Assert.Equal(4, curve.Evaluate(7.99));
        Assert.Null(held.Channel(Shots.At("base/transform.translate.x")).Curve);
        // On a key of its own the value gives way and the way on stays.
        var moved = new HoldUntil(20, [Lift]).Apply(held).Channel(Lift).Curve!;
        Assert.Equal((4, Segment.Bezier), (moved.Keys[^1].Value, moved.Keys[^1].Segment));
        Assert.Same(held, new HoldUntil(0, [Lift]).Apply(held));
    }

    [Fact]
    public void A_copy_of_a_family_hangs_together_beside_the_original_with_its_keys()
    {
        var shot = Shots.Crane().Keyed("hook/transform.translate.y", (0, 1), (9, 2));
        var after = new DuplicateNodes(["arm"], "new").Apply(shot);
        Assert.Equal(5, after.Nodes.Length);
        Assert.Equal(("Arm 2", "base"), (after.Node("new-0").Name, after.Node("new-0").Parent));
        Assert.Equal(("Hook", "new-0"), (after.Node("new-1").Name, after.Node("new-1").Parent));
        Assert.Equal(shot.Node("hook").Channels, after.Node("new-1").Channels);
        Assert.Equal("steel", ((MeshNode)after.Node("new-1")).Material);
        // What is asked for twice, by itself and below another, is copied once.
        var both = new DuplicateNodes(["hook", "arm"], "x").Apply(shot);
        Assert.Equal(("x-1", 5), (both.Node("x-0").Parent, both.Nodes.Length));
        Assert.Contains("used twice", Assert.Throws<Refusal>(() => new DuplicateNodes(["arm"], "new").Apply(after)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_new_material_can_start_as_a_copy_with_its_keys()
    {
        var shot = Shots.Crane().Keyed("steel/look.roughness", (0, 0.2), (9, 0.8));
        var after = new AddMaterial(new("rust", "Rust"), Like: "steel").Apply(shot);
        Assert.Equal(shot.Channel(Shots.At("steel/look.roughness")), after.Channel(Shots.At("rust/look.roughness")));
        Assert.Throws<Refusal>(() => new AddMaterial(new("rust", "Rust"), Like: "gold").Apply(shot));
    }

    [Fact]
    public void Stepped_playing_shows_the_last_frame_that_has_a_key()
    {
        var shot = new CompiledShot(Shots.Crane().Keyed("base/transform.translate.y", (4, 1), (10, 2)).Keyed("steel/look.roughness", (7.5, 1)));
        Assert.Equal([2, 4, 4, 7.5, 10, 10], new double[] { 2, 4, 7, 9, 10, 99 }.Select(shot.PoseAt));
        Assert.Equal(3, new CompiledShot(Shots.Crane()).PoseAt(3));
    }

    [Fact]
    public void Setting_by_hand_keys_waits_or_sets_as_the_channel_has_it()
    {
        var shot = Shots.Crane().Keyed("base/transform.translate.y", (0, 1), (10, 2));
        var still = Shots.At("base/transform.translate.x");
        Assert.IsType<SetValues>(Posing.Set(shot, [new(still, 4)], 5, autoKey: false).Edit);
        Assert.IsType<SetKeys>(Posing.Set(shot, [new(still, 4)], 5, autoKey: true).Edit);
        Assert.IsType<SetKeys>(Posing.Set(shot, [new(Lift, 4)], 10, autoKey: false).Edit);
        var (edit, waiting) = Posing.Set(shot, [new(Lift, 4)], 5, autoKey: false);
        Assert.Null(edit);
        Assert.Equal([new ChannelValue(Lift, 4)], waiting);
        Assert.Null(Posing.Set(shot, [new(Lift, 1)], 0, autoKey: true).Edit);
    }

    [Fact]
    public void Putting_an_object_in_the_world_changes_only_the_channels_that_move()
    {
        var shot = Shots.Crane();
        var compiled = new CompiledShot(shot);
        var world = compiled.WorldAt("hook", 0);
        var changes = Posing.ToLocal(shot, shot.Node("hook"), compiled.WorldAt("arm", 0), world with { Origin = world.Origin + Double3.UnitY }, 0);
        Assert.Equal(Shots.At("hook/transform.translate.x"), Assert.Single(changes).Address);
        Assert.Equal(3, changes[0].Value, 9);
    }

    [Theory]
    [InlineData("""{"kind":"setKeys","frame":3,"values":[{"address":"base/transform.translate.y","value":1e999}]}""", "not finite")]
    [InlineData("""{"kind":"setValues","values":[{"address":"base/transform.translate.x","value":1e999},{"address":"base/transform.translate.x","value":1}]}""", "not finite")]
    [InlineData("""{"kind":"setKeys","frame":3,"values":[{"address":"base/nothing","value":1}]}""", "no channel")]
    [InlineData("""{"kind":"setKeys","frame":3,"values":[{"address":"ghost/visible","value":1}]}""", "no object or material")]
    [InlineData("""{"kind":"setKeys","frame":3,"values":[{"address":"base","value":1}]}""", "owner/path")]
    [InlineData("""{"kind":"removeKeys","keys":[{"address":"base/visible","frame":3}]}""", "no key on frame 3")]
    [InlineData("""{"kind":"rename","id":"base","name":" "}""", "empty")]
    [InlineData("""{"kind":"rename","id":"base","name":"a/b"}""", "slash")]
    [InlineData("""{"kind":"setShot","range":{"first":9,"last":3}}""", "backwards")]
    [InlineData("""{"kind":"setShot","rate":{"numerator":0,"denominator":1}}""", "frame rate")]
    [InlineData("""{"kind":"setShot","size":{"width":0,"height":100000}}""", "pixels")]
    [InlineData("""{"kind":"addNodes","nodes":[{"kind":"group","id":"base","name":"Other"}]}""", "used twice")]
    [InlineData("""{"kind":"addNodes","nodes":[{"kind":"mesh","id":"m","name":"M","shape":{"kind":"sphere","radius":-1}}]}""", "measure")]
    [InlineData("""{"kind":"addNodes","nodes":[{"kind":"mesh","id":"m","name":"M","shape":{"kind":"sphere","segments":1000000}}]}""", "divisions")]
    [InlineData("""{"kind":"removeMaterial","id":"steel"}""", "is used by")]
    [InlineData("""{"kind":"fly"}""", "edit cannot be read")]
    public void A_bad_edit_is_refused_in_one_sentence_and_changes_nothing(string json, string part)
    {
        var shot = Shots.Crane();
        var before = ShotJson.Write(shot);
        var refusal = Assert.Throws<Refusal>(() => ShotJson.Read<Edit>(json, "edit").Apply(shot));
        Assert.Contains(part, refusal.Message, StringComparison.Ordinal);
        Assert.Equal(before, ShotJson.Write(shot));
    }

    [Theory]
    [InlineData("1e999", true)]
    [InlineData("-1e400", true)]
    [InlineData("1e12", false)]
    [InlineData("1e-999", false)]
    public void A_line_of_the_journal_holds_no_number_that_cannot_be_written_again(string number, bool isRefused)
    {
        var json = $$$"""{"kind":"edit","id":"a","edit":{"kind":"bakeKeys","channels":[],"first":1,"last":2,"step":{{{number}}}}}""";
        if (isRefused)
        {
            Assert.Contains($"line 1: the number {number} is not finite", Assert.Throws<Refusal>(() => ShotJson.ReadEntry(json)).Message, StringComparison.Ordinal);
        }
        else
        {
            Assert.NotNull(ShotJson.Write(ShotJson.ReadEntry(json)));
        }
    }

    [Fact]
    public void Undo_and_redo_go_back_and_forth_and_a_branch_is_never_lost()
    {
        var history = new History(Shots.Crane());
        void Lifted(double to) => history.Append(new EditEntry(new SetValues([new(Lift, to)])));
        double Now() => history.Current.Channel(Lift).Value;
        Lifted(2);
        Lifted(3);
        history.Append(history.Undo!.Value.Entry);
        Assert.Equal(2, Now());
        history.Append(history.Redo!.Value.Entry);
        Assert.Equal(3, Now());
        history.Append(history.Undo!.Value.Entry);
        history.Append(history.Undo!.Value.Entry);
        Assert.Equal(1, Now());
        Assert.Null(history.Undo);
        Lifted(9);
        Assert.Null(history.Redo);
        // What was undone before the new branch is still there.
        history.Append(new RestoreEntry(2));
        Assert.Equal(3, Now());
        history.Append(history.Undo!.Value.Entry);
        Assert.Equal(2, Now());
    }

    [Fact]
    public void A_refused_edit_leaves_the_history_as_it_was()
    {
        var history = new History(Shots.Crane());
        Assert.Throws<Refusal>(() => history.Append(new EditEntry(new Rename("base", ""))));
        Assert.Throws<Refusal>(() => history.Append(new RestoreEntry(7)));
        Assert.Equal((0, 1), (history.Revision, history.Steps.Count));
    }

    [Fact]
    public void A_set_keeps_what_was_removed_and_brings_it_back_with_undo()
    {
        var history = new History(Shots.Crane());
        var all = history.Current.Nodes.Select(n => n.Id).ToArray();
        history.Append(new EditEntry(new PutSet(new("s", "Crane", [.. all]))));
        history.Append(new EditEntry(new RemoveNodes([all[0]])));
        Assert.Equal(all, history.Current.Sets[0].Nodes);
        history.Append(history.Undo!.Value.Entry);
        Assert.All(history.Current.Sets[0].Nodes, id => Assert.NotNull(history.Current.FindNode(id)));
        // The same id is the same set; another may not have its name.
        history.Append(new EditEntry(new PutSet(new("s", "Jib", [all[1]]))));
        Assert.Equal(("Jib", 1), (history.Current.Sets[0].Name, history.Current.Sets.Length));
        Assert.Contains("already a set", Assert.Throws<Refusal>(() => new PutSet(new("t", "Jib", [all[0]])).Apply(history.Current)).Message, StringComparison.Ordinal);
        history.Append(new EditEntry(new RemoveSets(["s"])));
        Assert.Empty(history.Current.Sets);
        Assert.Throws<Refusal>(() => new RemoveSets(["s"]).Apply(history.Current));
    }

    [Theory]
    [InlineData("", "Boats", "a")]
    [InlineData("s", "", "a")]
    [InlineData("s", "Boats", "")]
    [InlineData("s", "Boats", "a,a")]
    public void A_set_needs_an_id_a_name_and_each_object_once(string id, string name, string nodes) =>
        Assert.Throws<Refusal>(() => new PutSet(new(id, name, [.. nodes.Split(',')])).Apply(Shots.Crane()));

    [Fact]
    public void Siblings_change_their_order_and_nothing_else()
    {
        var shot = Shot.Empty("Row") with { Nodes = [new GroupNode { Id = "g", Name = "G", Channels = Shots.Channels(("transform.scale.x", 0)) }, .. "abc".Select(c => new GroupNode { Id = $"{c}", Name = $"{c}", Parent = "g" })] };
        // Below what is scaled to nothing there is no place to keep, and none is asked for.
        var edit = new Reparent(["c"], 0, "g", "a");
        var after = edit.Apply(shot);
        Assert.Equal(["g", "c", "a", "b"], after.Nodes.Select(n => n.Id));
        Assert.Equal("Reorder c", edit.Describe(shot));
        Assert.All(after.Nodes, n => Assert.Same(shot.Node(n.Id), n));
    }

    [Fact]
    public void What_comes_beside_another_of_its_name_is_numbered()
    {
        var shot = Shot.Empty("Names") with
        {
            Nodes = [new GroupNode { Id = "g", Name = "Post" }, new GroupNode { Id = "a", Name = "Lamp", Parent = "g" }, new GroupNode { Id = "b", Name = "Lamp" }, new GroupNode { Id = "c", Name = "Post", Parent = "g" }],
        };
        var after = new Reparent(["a", "c"], 0).Apply(shot);
        Assert.Equal(["Lamp", "Lamp 2", "Post", "Post 2"], after.Nodes.Select(n => n.Name).Order());
        Assert.Equal(["Lamp 2", "Post 2"], [after.Node("a").Name, after.Node("c").Name]);
        // What stays where it is keeps its name.
        Assert.Equal("Lamp", new Reparent(["a"], 0, "g").Apply(shot).Node("a").Name);
    }

    [Fact]
    public void Every_kind_of_edit_comes_back_from_json_and_over_the_wire_as_it_was()
    {
        KeyAddress[] keys = [new(Lift, 3)];
        Edit[] edits =
        [
            new SetValues([new(Lift, 1)]), new SetKeys(2, [new(Lift, 1)]), new LockChannels([Lift], false), new MuteChannels([Lift]), new MeanFindings([new(FindingKind.Contact, ["base", "arm"])]), new TraceVertices("base", [0, 3]), new InsertKeys(keys), new PutKeys([new(Lift, [new Key(1, 2, Segment.Hold)])]),
            new HoldUntil(5, [Lift]), new DuplicateNodes(["a"], "x", Follow: true), new AddInstances(["a"], "x"), new PlaceInstances("a", ["b"], "x"), new HangInstances("a", [new("b", 1, 2, 3, ScaleY: 2)], "x"), new MakeReal(["a"], "x", 2), new Unfollow(["a"]), new RemoveKeys(keys), new TransformKeys(keys, new(Frames: 2, FrameScale: 3, Snap: true)), new StaggerKeys(keys, 3), new ReverseKeys(keys),
            new SetSegments(keys, new EaseSegment(EaseFamily.Elastic, EaseDirection.Out, Period: 0.4)), new SetHandle(keys[0], KeySide.In, new FreeHandle(-1, 2), false),
            new SetHandleKinds(keys, Handle.Flat, null, true), new SetExtrapolation([Lift], After: new(ExtrapolationKind.Loop, 2)), new SetCurve(Lift, new Curve([new Key(0, 1)])),
            new MakeSeamless([Lift]), new UnrollRotations(["a"]), new SimplifyKeys([Lift], 0.1, 2), new BakeKeys([Lift], 0, 9, 2), new SmoothKeys(keys, 0.5), new RemoveIdleKeys([Lift]), new AddNoise([Lift], 0, 9, 0.5, 3, 7),
            new Retime([Lift], new Curve([new(0, 0), new(9, 12)])), new EasesToHandles(keys), new ConvertRate(new FrameRate(30), true), new HoldPose(3, [Lift], 4, false), new KeyRange(0, 9, [new(Lift, 2)], 3), new MirrorPose(["a"], 4), new PutMarker(new("k", 12, "Touch", MarkerColor.Rose, "softer")), new RemoveMarkers(["k"]), new PutSet(new("s", "Boats", ["a", "b"])), new RemoveSets(["s"]), new PutSound(new("bell", "Bell", new string('a', 64), 2.5, -3, true)), new RemoveSounds(["bell"]), new PutMotion([new("A", "transform.translate.x", new Curve([new(0, 1), new(5, 2)]))], 0, 12, ["a"], 2, 0.5, true, "breath"),
            new AddLayer(new("breath", "Breath", LayerMode.Override), 0), new SetLayer(new("breath", "Breath", Solo: true)), new MoveLayer("breath", 1), new RemoveLayer("breath"), new MergeLayer("breath"), new BakeLayers(), new ShapeSegments(keys, CssEasing.Parse("ease")),
            new AddNodes([new GroupNode { Id = "g", Name = "G" }], [new("m", "M")]), new RemoveNodes(["a"]), new Rename("a", "b"), new Reparent(["a"], 3, "b"), new SetRotationOrder(["a"], RotationOrder.Zyx), new MovePivots([new("a", 1, 2, 3)], 4), new KeepBelow("a", Affine.Identity),
            new ReplaceNode(new MeshNode { Id = "m", Name = "M", Shape = new TorusShape(), Deformers = [new SquashDeformer { Id = "s" }] }), new AddMaterial(new("m", "M"), Like: "n"),
            new RemoveMaterial("m"), new SetMaps("m", [new(MapSlot.Color, new PictureSource(new string('a', 64), "p", 4, 8, PicturePart.Red, WrapV: PictureWrap.Mirror), MapProjection.Box), new(MapSlot.Bump, new WoodPattern())]), new SetShot("n", new FrameRate(24000, 1001)), new ReplaceShot(Shots.Crane(), "x"), new Batch("both", [new Rename("a", "b")]),
        ];
        // A kind that is added must be added here too.
        var kinds = typeof(Edit).GetCustomAttributes(typeof(System.Text.Json.Serialization.JsonDerivedTypeAttribute), false).Length;
        Assert.Equal(kinds, edits.Length);
        foreach (var edit in edits)
        {
            var json = ShotJson.Write(edit);
            Assert.Equal(json, ShotJson.Write(ShotJson.Read<Edit>(json, "edit")));
            WireTests.Same(new EditEntry(edit));
        }
    }
}

public class ShotFileTests
{
    [Fact]
    public void The_demo_shot_comes_back_from_json_as_it_was()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Repository.Demo));
        var json = ShotJson.Write(shot, indented: true);
        Assert.Equal(json, ShotJson.Write(ShotJson.ReadShot(json), indented: true));
    }

    [Theory]
    [InlineData("""{"version":2,"anything":[""", "newer version")]
    [InlineData("""{"name":"A","rate":{"numerator":24,"denominator":1},"range":{"first":0,"last":10},"size":{"width":8,"height":8},"nodes":[{"kind":"group",""", "cut off")]
    [InlineData("{}", "missing required")]
    [InlineData("[]", "shot cannot be read")]
    public void A_file_that_is_no_shot_is_refused(string json, string part)
    {
        var refusal = Assert.Throws<Refusal>(() => ShotJson.ReadShot(json));
        Assert.Contains(part, refusal.Message, StringComparison.OrdinalIgnoreCase);
    }

    [Theory]
    [InlineData("""{"kind":"group","id":"a","name":"A","parent":"b"},{"kind":"group","id":"b","name":"B","parent":"a"}""", "a → b → a")]
    [InlineData("""{"kind":"group","id":"a","name":"A","parent":"nobody"}""", "nobody")]
    [InlineData("""{"kind":"group","id":"a","name":"A"},{"kind":"group","id":"a","name":"B"}""", "twice")]
    [InlineData("""{"kind":"group","id":"world","name":"A"}""", "reserved")]
    [InlineData("null", "null where an object belongs")]
    [InlineData("""{"kind":"group","id":null,"name":"A"}""", "id")]
    [InlineData("""{"kind":"group","name":"A"}""", "id")]
    [InlineData("""{"kind":"mesh","id":"a","name":"A","shape":null}""", "shape")]
    [InlineData("""{"kind":"mesh","id":"a","name":"A","shape":{"kind":"box"},"deformers":[null]}""", "null where an object belongs")]
    [InlineData("""{"kind":"group","id":"a","name":"A","channels":{"visible":{"value":1,"curve":{"keys":[null]}}}}""", "null where an object belongs")]
    [InlineData("""{"kind":"group","id":"a","name":"A","channels":{"visible":{"value":1,"curve":{"keys":[{"value":1}]}}}}""", "frame")]
    [InlineData("""{"kind":"group","id":"a","name":"A","channels":{"visible":null}}""", "visible")]
    [InlineData("""{"kind":"group","id":"../x","name":"A"}""", "id")]
    [InlineData("""{"kind":"group","id":"a","name":"A"},{"kind":"group","id":"b","name":"A"}""", "same parent")]
    [InlineData("""{"kind":"teapot","id":"a","name":"A"}""", "teapot")]
    [InlineData("""{"kind":"group","id":"a","name":"A","channels":{"transform.translate.x":{"value":1e999}}}""", "cannot be")]
    [InlineData("""{"kind":"group","id":"a","name":"A","channels":{"transform.translate.x":{"value":0,"curve":{"keys":[{"frame":1,"value":0},{"frame":1,"value":0}]}}}}""", "Two keys")]
    [InlineData("""{"kind":"mesh","id":"a","name":"A","shape":{"kind":"box"},"material":"gone"}""", "gone")]
    public void A_shot_that_breaks_a_rule_is_refused_with_the_place(string nodes, string part)
    {
        var json = $$$"""{"name":"A","rate":{"numerator":24,"denominator":1},"range":{"first":0,"last":10},"size":{"width":8,"height":8},"nodes":[{{{nodes}}}]}""";
        var refusal = Assert.Throws<Refusal>(() => ShotJson.ReadShot(json));
        Assert.Contains(part, refusal.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', refusal.Message);
    }

    /// <summary>A word that the format does not have, put into each object of a shot in turn, and once twice: nothing is dropped without a word.</summary>
    [Fact]
    public void What_the_format_does_not_know_is_refused_by_its_name_wherever_it_stands()
    {
        var json = ShotJson.Write(ShotJson.ReadShot(File.ReadAllText(Repository.Demo)));
        var starts = Enumerable.Range(0, json.Length).Where(i => json[i] == '{').ToList();
        Assert.True(starts.Count > 200);
        foreach (var at in starts.Where((_, i) => i < 60 || i % 17 == 0))
        {
            var more = json.Insert(at + 1, "\"wobble\":{\"value\":1}" + (json[at + 1] == '}' ? "" : ","));
            var refusal = Assert.Throws<Refusal>(() => ShotJson.ReadShot(more));
            Assert.Contains("wobble", refusal.Message, StringComparison.Ordinal);
            Assert.DoesNotContain("Bradymotus.", refusal.Message, StringComparison.Ordinal);
        }
        var twice = Assert.Throws<Refusal>(() => ShotJson.ReadShot(json.Insert(1, "\"name\":\"Other\",")));
        Assert.Contains("“name” stands there twice", twice.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("""{"kind":"edit","edit":{"kind":"rename","id":"base","name":"B","because":"so"}}""", "“because” is not known here")]
    [InlineData("""{"kind":"edit","edit":{"kind":"teleport","id":"base"}}""", "the kind “teleport” is not known")]
    [InlineData("""{"kind":"restore","revision":0,"softly":true}""", "“softly” is not known here")]
    [InlineData("""{"kind":"restore","revision":"yesterday"}""", "not of the kind that belongs there")]
    public void A_line_with_what_is_not_known_is_refused_by_its_name(string json, string part)
    {
        var refusal = Assert.Throws<Refusal>(() => ShotJson.ReadEntry(json));
        Assert.Contains(part, refusal.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Deformers_of_one_name_are_refused_whichever_way_they_come()
    {
        var mesh = new MeshNode { Id = "hook", Name = "Hook", Shape = new SphereShape(), Material = "steel" };
        MeshNode[] wrong =
        [
            mesh with { Deformers = [new TwistDeformer { Id = "t" }, new SquashDeformer { Id = "t" }] },
            mesh with { Deformers = [new TwistDeformer { Id = "t" }, new TwistDeformer { Id = "t" }] },
            mesh with { Deformers = [new MorphDeformer { Id = "a", Targets = ["smile"] }, new MorphDeformer { Id = "b", Targets = ["smile"] }] },
        ];
        var shot = Shots.Crane();
        foreach (var node in wrong)
        {
            Assert.Throws<Refusal>(() => new ReplaceNode(node).Apply(shot));
            Assert.Throws<Refusal>(() => new AddNodes([node with { Id = "other", Name = "Other" }]).Apply(shot));
            Assert.Throws<Refusal>(() => new ReplaceShot(shot with { Nodes = shot.Nodes.Replace(shot.Node("hook"), node) }, "x").Apply(shot));
        }
        new ReplaceNode(mesh with { Deformers = [new TwistDeformer { Id = "t" }, new TwistDeformer { Id = "u" }] }).Apply(shot);
    }

    [Theory]
    [InlineData("0-90", 91)]
    [InlineData("0-90/2", 46)]
    [InlineData("12", 1)]
    [InlineData("-5-5", 11)]
    public void Frames_are_read_and_counted(string text, int count)
    {
        var steps = FrameSteps.Parse(text);
        Assert.Equal(count, steps.Count);
        Assert.Equal(count, steps.Frames().Count());
        Assert.Equal(steps, FrameSteps.Parse(steps.ToString()));
    }

    [Theory]
    [InlineData("10-5")]
    [InlineData("")]
    [InlineData("a-b")]
    [InlineData("0-10/0")]
    [InlineData("0-99999999")]
    [InlineData("0-99999999999")]
    public void Frames_that_make_no_sense_are_refused(string text) => Assert.Throws<Refusal>(() => FrameSteps.Parse(text));

    [Fact]
    public void A_frame_rate_is_exact_and_a_timecode_counts_up()
    {
        var ntsc = new FrameRate(24000, 1001);
        Assert.Equal(1001.0 / 24, ntsc.Seconds(1000), 12);
        Assert.Equal(1000, ntsc.Frame(ntsc.Seconds(1000)), 9);
        Assert.Equal("00:00:02:12", Timecode.Format(60, FrameRate.Default));
        Assert.Equal("-00:00:00:01", Timecode.Format(-1, FrameRate.Default));
    }

    [Fact]
    public void The_committed_schemas_are_those_of_the_program()
    {
        foreach (var what in new[] { "shot", "curve", "journal", "saved" })
        {
            Assert.Equal(Schemas.Of(what).Trim(), File.ReadAllText(Path.Combine(Repository.Root, "docs", "schemas", $"{what}.schema.json")).Trim());
        }
    }
}
