using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

public class MotionTests
{
    private static Shot Pair() => (Shot.Empty("Pair") with
    {
        Nodes =
        [
            new GroupNode { Id = "a", Name = "Body" }, new GroupNode { Id = "al", Name = "wing.L", Parent = "a" }, new GroupNode { Id = "ar", Name = "wing.R", Parent = "a" },
            new GroupNode { Id = "b", Name = "Other" }, new GroupNode { Id = "bb", Name = "Body", Parent = "b" }, new GroupNode { Id = "bl", Name = "wing.L", Parent = "bb" },
        ],
    }).Keyed("a/transform.translate.x", (2, 1), (12, 4)).Keyed("al/transform.rotate.z", (2, 10), (6, 40), (12, 10)).Keyed("ar/transform.rotate.y", (4, 5), (8, -5));

    private static (double, double)[] Keys(Shot shot, string address) =>
        [.. shot.Channel(At(address)).Curve?.Keys.Select(k => (k.Frame, k.Value)) ?? []];

    private static PutMotion Motion(Shot shot, string[] ids, string? layer) => Saved.MotionOf(shot, ids, layer).On(0, []);

    private static SavedPose Pose(Shot shot, double frame, params string[] ids)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(frame);
        return Saved.PoseOf(state, ids);
    }

    private static Shot Put(Shot shot, SavedPose pose, double frame, string[] targets, double share = 1, bool mirror = false, string? layer = null)
    {
        var fits = pose.Parts.Fits(shot, targets, mirror, layer);
        return Posing.Set(shot, SavedPose.Values(fits, a => CompiledShot.ValueOf(shot, a, frame), share), frame, true, layer).Edit?.Apply(shot) ?? shot;
    }

    [Fact]
    public void A_motion_put_in_each_objects_own_place_goes_as_far_from_there_as_it_went()
    {
        var shot = Pair();
        shot = new SetValues([new(At("b/transform.translate.x"), 7)]).Apply(shot);
        var motion = Saved.MotionOf(shot, ["a"], null);
        var own = motion.On(20, ["b"], keepPlace: true) with { Parts = [.. motion.Parts.Where(p => p.Name == "Body")] };
        Assert.Equal([(20, 7), (30, 10)], Keys(own.Apply(shot), "b/transform.translate.x"));
        Assert.Equal([(20, 1), (30, 4)], Keys((own with { KeepPlace = false }).Apply(shot), "b/transform.translate.x"));
        // Twice as far, and mirrored.
        Assert.Equal([(20, 7), (30, 1)], Keys((own with { Size = 2, Mirror = true }).Apply(shot), "b/transform.translate.x"));
        // Turns are as they were, and where it is put on its own first frame nothing moves.
        var wing = motion.On(2, ["al"], keepPlace: true) with { Parts = [.. motion.Parts.Where(p => p.Name == "wing.L")] };
        Assert.Equal(Keys(shot, "al/transform.rotate.z"), Keys(wing.Apply(shot), "al/transform.rotate.z"));
    }

    [Fact]
    public void A_pose_holds_where_its_objects_stand_and_what_else_was_set_of_them()
    {
        var pose = Pose(Pair(), 6, "a");
        Assert.Equal(["Body", "wing.L", "wing.R"], pose.Objects);
        Assert.Equal(27, pose.Count);
        Assert.Equal(40, pose.Parts.Single(p => p is { Name: "wing.L", Path: "transform.rotate.z" }).Value);
        Assert.DoesNotContain(pose.Parts, p => p.Path.StartsWith("visible", StringComparison.Ordinal));
        var again = Assert.IsType<SavedPose>(ShotJson.ReadSaved(ShotJson.Write<Saved>(pose)));
        Assert.Equal(pose.Parts, again.Parts);
        var set = new SetValues([new(At("al/visible"), 0)]).Apply(Pair());
        Assert.Equal(0, Pose(set, 6, "a").Parts.Single(p => p.Path == "visible").Value);
    }

    [Fact]
    public void A_pose_put_in_part_is_that_far_on_the_way_to_it_and_whole_it_is_the_same_to_the_last_bit() => Laws.ForSeeds((random, _) =>
    {
        double Some() => Math.Round(20 * random.NextDouble() - 10, random.Next(2) * 15);
        var shot = Pair();
        for (var i = 0; i < 6; i++)
        {
            shot = new SetKeys(random.Next(12), [new(At($"{new[] { "bb", "bl" }[random.Next(2)]}/transform.{new[] { "translate", "rotate", "scale" }[random.Next(3)]}.{"xyz"[random.Next(3)]}"), Some())]).Apply(shot);
        }
        var (from, to, share) = (random.Next(12), random.Next(12), 2 * random.NextDouble() - 0.5);
        var pose = Pose(shot, from, "a");
        Assert.Equal(pose.Parts.Where(p => p.Name != "wing.R"), Pose(Put(shot, pose, to, ["bb"]), to, "bb").Parts);
        var before = Pose(shot, to, "bb").Parts;
        var part = Pose(Put(shot, pose, to, ["bb"], share), to, "bb").Parts;
        foreach (var (b, p) in before.Zip(part))
        {
            Assert.Equal(b.Value + share * (pose.Parts.Single(q => (q.Name, q.Path) == (p.Name, p.Path)).Value - b.Value), p.Value, 1e-12);
        }
        Assert.Equal(before, Pose(Put(shot, pose, to, ["bb"], 0), to, "bb").Parts);
    });

    [Fact]
    public void A_pose_is_mirrored_by_name_and_goes_into_the_layer_that_is_worked_in()
    {
        var mirrored = Put(Pair(), Pose(Pair(), 6, "a"), 6, ["a"], mirror: true);
        Assert.Equal(-40, CompiledShot.ValueOf(mirrored, At("ar/transform.rotate.z"), 6));
        Assert.Equal(0, CompiledShot.ValueOf(mirrored, At("al/transform.rotate.z"), 6), 1e-9);
        var layered = Pair() with { Layers = [new("l", "L")] };
        var put = Put(layered, Pose(Pair(), 2, "al"), 6, ["al"], layer: "l");
        Assert.Equal(10, CompiledShot.ValueOf(put, At("al/transform.rotate.z"), 6), 1e-9);
        Assert.Equal(Keys(Pair(), "al/transform.rotate.z"), Keys(put, "al/transform.rotate.z"));
        Assert.Equal((6, -30), Assert.Single(Keys(put, "al/transform.rotate.z@l")));
        // What is seen is kept, layers and all.
        Assert.Equal(10, Pose(put, 6, "al").Parts.Single(p => p.Path == "transform.rotate.z").Value, 1e-9);
    }

    [Fact]
    public void Of_a_motion_only_the_asked_for_frames_are_kept()
    {
        var motion = Saved.MotionOf(Pair(), ["a"], null, 4, 8);
        Assert.Equal((2, 4.0), (motion.Parts.Length, motion.First));
        Assert.Equal([6], motion.Parts.Single(p => p.Name == "wing.L").Curve.Keys.Select(k => k.Frame));
        var again = Assert.IsType<SavedMotion>(ShotJson.ReadSaved(ShotJson.Write<Saved>(motion with { Name = "Beat" })));
        Assert.Equal(("Beat", 4), (again.Name, again.First));
        Assert.Equal(Keys(motion.On(20, []).Apply(Pair()), "ar/transform.rotate.y"), Keys(again.On(20, []).Apply(Pair()), "ar/transform.rotate.y"));
    }

    [Theory]
    [InlineData("""{"kind":"pose","name":"","parts":[{"name":"a","path":"p","value":1}]}""", "is empty")]
    [InlineData("""{"kind":"pose","name":"P","parts":[]}""", "0 channels")]
    [InlineData("""{"kind":"pose","name":"P"}""", "parts")]
    [InlineData("""{"kind":"dance","name":"P","parts":[]}""", "the kind “dance” is not known")]
    [InlineData("""{"kind":"pose","name":"P","parts":[null]}""", "null")]
    [InlineData("""{"kind":"pose","name":"P","parts":[{"name":"a/b","path":"p","value":1}]}""", "slash")]
    [InlineData("""{"kind":"pose","name":"P","parts":[{"name":"a","path":"p","value":1e300}]}""", "no number within")]
    [InlineData("""{"kind":"pose","name":"P","parts":[{"name":"a","path":"p","value":"NaN"}]}""", "value")]
    [InlineData("""{"kind":"motion","name":"P","first":0,"parts":[{"name":"a","path":"p","curve":{"keys":[]}}]}""", "at least one key")]
    [InlineData("""{"kind":"motion","name":"P","first":1e999,"parts":[{"name":"a","path":"p","curve":{"keys":[{"frame":0,"value":0}]}}]}""", "finite")]
    [InlineData("""{"kind":"motion","name":"P","first":0,"parts":[{"name":"a","path":"p","curve":{"keys":[{"frame":0,"value":0},{"frame":0,"value":1}]}}]}""", "Two keys")]
    [InlineData("""{"kind":"motion","name":"P","parts":[{"na""", "cut off")]
    [InlineData("", "empty")]
    public void What_is_no_saved_pose_or_motion_is_refused_with_one_sentence(string json, string part)
    {
        var refusal = Assert.Throws<Refusal>(() => ShotJson.ReadSaved(json));
        Assert.Contains(part, refusal.Message, StringComparison.OrdinalIgnoreCase);
        Assert.DoesNotContain('\n', refusal.Message);
    }

    [Fact]
    public void Animation_of_several_goes_to_those_of_the_same_names_at_another_time_longer_and_larger()
    {
        var motion = Motion(Pair(), ["a"], null);
        Assert.Equal((3, 2.0), (motion.Parts.Length, motion.First));
        var put = motion with { Frame = 20, Targets = ["b"], Time = 2, Size = 0.5 };
        var shot = put.Apply(Pair());
        Assert.Equal([(20, 0.5), (40, 2)], Keys(shot, "bb/transform.translate.x"));
        Assert.Equal([(20, 10), (28, 40), (40, 10)], Keys(shot, "bl/transform.rotate.z"));
        Assert.Equal(Keys(Pair(), "a/transform.translate.x"), Keys(shot, "a/transform.translate.x"));
        Assert.Equal(["2 channels of 2 objects", "“wing.R”: transform.rotate.y found no place"], put.Report(Pair()));
        Assert.Equal("Put animation on frame 20", put.Describe(shot));
        // Read back as another window would, and in another shot.
        var other = ShotJson.Read<Edit>(ShotJson.Write<Edit>(put with { Targets = [] }), "edit").Apply(Shot.Empty("New") with { Nodes = [new GroupNode { Id = "z", Name = "wing.R" }] });
        Assert.Equal([(24, 5), (32, -5)], Keys(other, "z/transform.rotate.y"));
    }

    [Fact]
    public void Animation_of_one_goes_onto_each_of_the_targets_whatever_they_are_called()
    {
        var motion = Motion(Pair(), ["ar"], null) with { Frame = 0, Targets = ["a", "b"] };
        var shot = motion.Apply(Pair());
        Assert.Equal([(0, 5), (4, -5)], Keys(shot, "a/transform.rotate.y"));
        Assert.Equal([(0, 5), (4, -5)], Keys(shot, "b/transform.rotate.y"));
    }

    [Fact]
    public void Mirrored_left_goes_to_right_and_turns_the_other_way()
    {
        var shot = (Motion(Pair(), ["a"], null) with { Frame = 2, Mirror = true }).Apply(Pair());
        Assert.Equal([(2, -10), (6, -40), (12, -10)], Keys(shot, "ar/transform.rotate.z"));
        Assert.Equal([(4, -5), (8, 5)], Keys(shot, "al/transform.rotate.y"));
        Assert.Equal([(2, -1), (12, -4)], Keys(shot, "a/transform.translate.x"));
    }

    [Fact]
    public void Keys_in_between_give_way_and_those_around_stay()
    {
        var shot = Pair().Keyed("b/transform.rotate.y", (0, 1), (5, 2), (7, 3), (20, 4));
        shot = (Motion(shot, ["ar"], null) with { Frame = 4, Targets = ["b"] }).Apply(shot);
        Assert.Equal([(0, 1), (4, 5), (8, -5), (20, 4)], Keys(shot, "b/transform.rotate.y"));
    }

    [Fact]
    public void A_loop_comes_along_where_there_was_nothing_and_a_layer_takes_it_where_one_is_worked_in()
    {
        var source = Pair();
        source = new SetExtrapolation([At("ar/transform.rotate.y")], null, new(ExtrapolationKind.Loop, 0, 40)).Apply(source) with { Layers = [new("l", "L")] };
        var shot = (Motion(source, ["ar"], null) with { Frame = 14, Targets = ["b"], Layer = "l" }).Apply(source);
        var curve = shot.Channel(At("b/transform.rotate.y@l")).Curve!;
        Assert.Equal((ExtrapolationKind.Loop, 50.0), (curve.After.Kind, curve.After.Until));
        Assert.Equal("transform.rotate.y", Assert.Single(Motion(shot, ["b"], "l").Parts).Path);
    }

    [Fact]
    public void What_fits_nowhere_is_said_with_what_it_is_of()
    {
        var motion = Motion(Pair(), ["a"], null);
        var empty = Shot.Empty("New") with { Nodes = [new GroupNode { Id = "z", Name = "Z" }] };
        Assert.Contains("it is of “Body”, “wing.L”, “wing.R”; select what holds", Assert.Throws<Refusal>(() => motion.Apply(empty)).Message);
        Assert.Contains("animation of “wing.R” fits here", Assert.Throws<Refusal>(() => Motion(Pair(), ["ar"], null).Apply(empty)).Message);
        Assert.Contains("no animation to copy", Assert.Throws<Refusal>(() => Motion(Pair(), ["b"], null)).Message);
        Assert.Contains("a length above 0", Assert.Throws<Refusal>(() => (motion with { Time = 0 }).Apply(Pair())).Message);
        Assert.Throws<Refusal>(() => (motion with { Frame = double.NaN }).Apply(Pair()));
        Assert.Throws<Refusal>(() => (motion with { Parts = [] }).Apply(Pair()));
        // Locked channels are left as they are, and are in the report.
        var locked = new LockChannels([At("bb/transform.translate.x")]).Apply(Pair());
        Assert.Contains("“Body”: transform.translate.x found no place", (motion with { Targets = ["b"] }).Report(locked));
    }
}
