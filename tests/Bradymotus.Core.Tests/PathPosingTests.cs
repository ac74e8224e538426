using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

public class PathPosingTests
{
    private static Double3 Place(Shot shot, double frame)
    {
        var compiled = new CompiledShot(shot);
        var pivot = new Double3(CompiledShot.ValueOf(shot, At("gull/transform.pivot.x"), frame), 0, 0);
        return compiled.WorldAt("gull", frame).Point(pivot);
    }

    private static void Same(Double3 a, Double3 b, double within = 1e-6) => Assert.True((a - b).Length < within, $"{a} and {b}");

    /// <summary>An object that flies below a turned, scaled and moving parent.</summary>
    private static Shot Flight() => (Shot.Empty("Flight") with
    {
        Nodes =
        [
            new GroupNode { Id = "mast", Name = "Mast", Channels = Channels(("transform.rotate.y", 40), ("transform.scale.x", 2), ("transform.rotate.z", -15)) },
            new GroupNode { Id = "gull", Name = "Gull", Parent = "mast", Channels = Channels(("transform.pivot.x", 0.5), ("transform.rotate.z", 30)) },
        ],
    }).Keyed("mast/transform.translate.x", (0, 0), (40, 3))
        .Keyed("gull/transform.translate.x", (0, 0), (10, 4), (20, 5))
        .Keyed("gull/transform.translate.y", (0, 1), (10, 3), (20, 0))
        .Keyed("gull/transform.translate.z", (0, 0), (10, -1), (20, 2));

    [Fact]
    public void A_key_goes_where_it_is_put_and_the_others_stay()
    {
        var shot = Flight();
        Double3 to = new(3, -2, 7);
        var moved = new PathPosing(shot, "gull").MoveKey(10, to).Apply(shot);
        Same(to, Place(moved, 10));
        Same(Place(shot, 0), Place(moved, 0));
        Same(Place(shot, 20), Place(moved, 20));
        Assert.Equal([0, 10, 20.0], new PathPosing(moved, "gull").Frames);
        Assert.Equal("Move “Gull” on its path", new PathPosing(shot, "gull").MoveKey(10, to).Describe(shot));
    }

    [Fact]
    public void A_channel_without_keys_gets_them_where_the_others_have_theirs()
    {
        var shot = Flight().With(At("gull/transform.translate.z"), new Channel(0.5));
        Double3 to = new(1, 2, 3);
        var moved = new PathPosing(shot, "gull").MoveKey(10, to).Apply(shot);
        Same(to, Place(moved, 10));
        Same(Place(shot, 0), Place(moved, 0));
        Assert.Equal([0, 10, 20.0], moved.Channel(At("gull/transform.translate.z")).Curve!.Keys.Select(k => k.Frame));
        // What is locked stays.
        var locked = new LockChannels([At("gull/transform.translate.x")]).Apply(shot);
        var kept = new PathPosing(locked, "gull").MoveKey(10, to).Apply(locked);
        Assert.Same(locked.Channel(At("gull/transform.translate.x")), kept.Channel(At("gull/transform.translate.x")));
    }

    [Theory]
    [InlineData(KeySide.In)]
    [InlineData(KeySide.Out)]
    public void A_handle_ends_where_it_is_put_and_the_other_one_stays_in_line_with_it(KeySide side)
    {
        var shot = Flight();
        var path = new PathPosing(shot, "gull");
        var to = path.HandleEnd(10, side)!.Value + new Double3(0.5, 1, -0.25);
        var bent = path.MoveHandle(10, side, to).Apply(shot);
        var after = new PathPosing(bent, "gull");
        Same(to, after.HandleEnd(10, side)!.Value);
        foreach (var f in new[] { 0, 10, 20 })
        {
            Same(Place(shot, f), Place(bent, f));
        }
        var (one, other) = (to - Place(bent, 10), after.HandleEnd(10, side == KeySide.In ? KeySide.Out : KeySide.In)!.Value - Place(bent, 10));
        Assert.True(Double3.Cross(one, other).Length < 1e-6 * one.Length * other.Length && Double3.Dot(one, other) < 0);
        // The path leaves the key towards the end of the handle; the parent moves on meanwhile.
        var still = shot.With(At("mast/transform.translate.x"), new Channel(0));
        var end = new PathPosing(still, "gull").HandleEnd(10, KeySide.Out)!.Value - Place(still, 10);
        var step = Place(still, 10.001) - Place(still, 10);
        Assert.True(Double3.Cross(end, step).Length < 1e-3 * end.Length * step.Length && Double3.Dot(end, step) > 0);
    }

    [Fact]
    public void A_straight_way_gets_handles_when_it_is_bent_and_arrives_as_it_did()
    {
        var shot = Flight();
        foreach (var c in "xyz")
        {
            var address = At($"gull/transform.translate.{c}");
            shot = new SetSegments([.. shot.Channel(address).Curve!.Keys.Select(k => new KeyAddress(address, k.Frame))], Segment.Linear).Apply(shot);
        }
        var path = new PathPosing(shot, "gull");
        Assert.Null(path.HandleEnd(10, KeySide.Out));
        var to = Place(shot, 10) + new Double3(0, 2, 0);
        var bent = path.MoveHandle(10, KeySide.Out, to).Apply(shot);
        Same(to, new PathPosing(bent, "gull").HandleEnd(10, KeySide.Out)!.Value);
        // Before the key nothing has changed.
        Same(Place(shot, 5), Place(bent, 5));
        Same(Place(shot, 20), Place(bent, 20));
        Assert.True((Place(shot, 13) - Place(bent, 13)).Length > 0.2);
    }

    [Fact]
    public void A_key_between_those_of_the_others_is_put_in_for_the_handle()
    {
        var shot = Flight().Keyed("gull/transform.translate.y", (0, 1), (20, 0));
        var path = new PathPosing(shot, "gull");
        var to = path.HandleEnd(10, KeySide.Out)!.Value + new Double3(0, 1, 0);
        var bent = path.MoveHandle(10, KeySide.Out, to).Apply(shot);
        Assert.NotNull(bent.Channel(At("gull/transform.translate.y")).Curve!.KeyAt(10));
        Same(Place(shot, 10), Place(bent, 10));
        Same(to, new PathPosing(bent, "gull").HandleEnd(10, KeySide.Out)!.Value);
    }

    [Fact]
    public void A_frame_gets_the_place_of_another_on_the_same_way()
    {
        var shot = Flight().With(At("mast/transform.translate.x"), new Channel(1));
        Double3[] old = [.. Enumerable.Range(0, 2001).Select(i => Place(shot, 10 + i / 200.0))];
        Laws.ForSeeds((dice, _) => KeepsItsWay(shot, old, dice), 12);
    }

    private static void KeepsItsWay(Shot shot, Double3[] old, System.Random dice)
    {
        var (frame, from) = (dice.Next(11, 20), 10.5 + dice.NextDouble() * 9);
        var moved = new PathPosing(shot, "gull").MoveTick(frame, from).Apply(shot);
        Same(Place(shot, from), Place(moved, frame));
        // Every place of the new motion is one of the old.
        for (var f = 10.0; f <= 20; f += 0.5)
        {
            var at = Place(moved, f);
            var least = old.Min(o => (o - at).Length);
            Assert.True(least < 0.02, $"{least} off the path on frame {f}");
        }
    }

    [Fact]
    public void What_cannot_be_done_is_said_in_a_sentence()
    {
        var path = new PathPosing(Flight(), "gull");
        Assert.Contains("no key of its position on frame 5", Assert.Throws<Refusal>(() => path.MoveKey(5, Double3.Zero)).Message);
        Assert.Contains("There is a key on frame 10", Assert.Throws<Refusal>(() => path.MoveTick(8, 12)).Message);
        Assert.Contains("There is a key on frame 10", Assert.Throws<Refusal>(() => path.MoveTick(10, 12)).Message);
        Assert.Contains("no keys around frame 30", Assert.Throws<Refusal>(() => path.MoveTick(30, 32)).Message);
        Assert.Contains("does not bend on this side of frame 20", Assert.Throws<Refusal>(() => path.MoveHandle(20, KeySide.Out, Double3.Zero)).Message);
        Assert.Null(path.HandleEnd(0, KeySide.In));
        Assert.Null(path.HandleEnd(5, KeySide.In));
        Assert.Throws<Refusal>(() => new PathPosing(Flight(), "nobody"));
        var flat = Flight().With(At("mast/transform.scale.x"), new Channel(0));
        Assert.Contains("scaled to nothing", Assert.Throws<Refusal>(() => new PathPosing(flat, "gull").MoveKey(10, Double3.Zero)).Message);
    }

    [Fact]
    public void In_a_layer_its_own_keys_are_moved_as_far_as_its_weight_needs()
    {
        var shot = (Flight() with { Layers = [new("l", "L", Channels: Channels((Layer.Weight, 0.5)))] })
            .Keyed("gull/transform.translate.x@l", (5, 0), (15, 0)).Keyed("gull/transform.translate.y@l", (5, 0), (15, 0)).Keyed("gull/transform.translate.z@l", (5, 0), (15, 0));
        var path = new PathPosing(shot, "gull", "l");
        Assert.Equal([5, 15.0], path.Frames);
        Double3 to = new(2, 2, 2);
        var moved = path.MoveKey(5, to).Apply(shot);
        Same(to, Place(moved, 5));
        Assert.Equal(shot.Channel(At("gull/transform.translate.x")), moved.Channel(At("gull/transform.translate.x")));
        var end = new PathPosing(moved, "gull", "l").HandleEnd(5, KeySide.Out)!.Value;
        var bent = new PathPosing(moved, "gull", "l").MoveHandle(5, KeySide.Out, end + new Double3(0, 1, 0)).Apply(moved);
        Same(end + new Double3(0, 1, 0), new PathPosing(bent, "gull", "l").HandleEnd(5, KeySide.Out)!.Value);
    }
}
