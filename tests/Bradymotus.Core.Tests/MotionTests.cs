using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Xunit;
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

    [Fact]
    public void Animation_of_several_goes_to_those_of_the_same_names_at_another_time_longer_and_larger()
    {
        var motion = PutMotion.Of(Pair(), ["a"], null);
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
        var motion = PutMotion.Of(Pair(), ["ar"], null) with { Frame = 0, Targets = ["a", "b"] };
        var shot = motion.Apply(Pair());
        Assert.Equal([(0, 5), (4, -5)], Keys(shot, "a/transform.rotate.y"));
        Assert.Equal([(0, 5), (4, -5)], Keys(shot, "b/transform.rotate.y"));
    }

    [Fact]
    public void Mirrored_left_goes_to_right_and_turns_the_other_way()
    {
        var shot = (PutMotion.Of(Pair(), ["a"], null) with { Frame = 2, Mirror = true }).Apply(Pair());
        Assert.Equal([(2, -10), (6, -40), (12, -10)], Keys(shot, "ar/transform.rotate.z"));
        Assert.Equal([(4, -5), (8, 5)], Keys(shot, "al/transform.rotate.y"));
        Assert.Equal([(2, -1), (12, -4)], Keys(shot, "a/transform.translate.x"));
    }

    [Fact]
    public void Keys_in_between_give_way_and_those_around_stay()
    {
        var shot = Pair().Keyed("b/transform.rotate.y", (0, 1), (5, 2), (7, 3), (20, 4));
        shot = (PutMotion.Of(shot, ["ar"], null) with { Frame = 4, Targets = ["b"] }).Apply(shot);
        Assert.Equal([(0, 1), (4, 5), (8, -5), (20, 4)], Keys(shot, "b/transform.rotate.y"));
    }

    [Fact]
    public void A_loop_comes_along_where_there_was_nothing_and_a_layer_takes_it_where_one_is_worked_in()
    {
        var source = Pair();
        source = new SetExtrapolation([At("ar/transform.rotate.y")], null, new(ExtrapolationKind.Loop, 0, 40)).Apply(source) with { Layers = [new("l", "L")] };
        var shot = (PutMotion.Of(source, ["ar"], null) with { Frame = 14, Targets = ["b"], Layer = "l" }).Apply(source);
        var curve = shot.Channel(At("b/transform.rotate.y@l")).Curve!;
        Assert.Equal((ExtrapolationKind.Loop, 50.0), (curve.After.Kind, curve.After.Until));
        Assert.Equal("transform.rotate.y", Assert.Single(PutMotion.Of(shot, ["b"], "l").Parts).Path);
    }

    [Fact]
    public void What_fits_nowhere_is_said_with_what_it_is_of()
    {
        var motion = PutMotion.Of(Pair(), ["a"], null);
        var empty = Shot.Empty("New") with { Nodes = [new GroupNode { Id = "z", Name = "Z" }] };
        Assert.Contains("it is of “Body”, “wing.L”, “wing.R”; select what holds", Assert.Throws<Refusal>(() => motion.Apply(empty)).Message);
        Assert.Contains("animation of “wing.R” fits here", Assert.Throws<Refusal>(() => PutMotion.Of(Pair(), ["ar"], null).Apply(empty)).Message);
        Assert.Contains("no animation to copy", Assert.Throws<Refusal>(() => PutMotion.Of(Pair(), ["b"], null)).Message);
        Assert.Contains("a length above 0", Assert.Throws<Refusal>(() => (motion with { Time = 0 }).Apply(Pair())).Message);
        Assert.Throws<Refusal>(() => (motion with { Frame = double.NaN }).Apply(Pair()));
        Assert.Throws<Refusal>(() => (motion with { Parts = [] }).Apply(Pair()));
        // Locked channels are left as they are, and are in the report.
        var locked = new LockChannels([At("bb/transform.translate.x")]).Apply(Pair());
        Assert.Contains("“Body”: transform.translate.x found no place", (motion with { Targets = ["b"] }).Report(locked));
    }
}
