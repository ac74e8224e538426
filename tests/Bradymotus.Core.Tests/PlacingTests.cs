using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Tests;

/// <summary>Pivots, and objects that are put in order.</summary>
public class PlacingTests
{
    [Fact]
    public void A_pivot_moves_and_the_object_stays() => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var shot = some.Shot(layers: false);
        var node = shot.Nodes[dice.Next(shot.Nodes.Length)];
        if (node.Channels!.Any(c => c.Key.StartsWith("transform.pivot", StringComparison.Ordinal) && c.Value.Curve is not null))
        {
            return;
        }
        var frame = dice.Next(-20, 60);
        var (x, y, z) = (dice.NextDouble() * 4 - 2, dice.NextDouble() * 4 - 2, dice.NextDouble() * 4 - 2);
        var after = new MovePivots([new(node.Id, x, y, z)], frame).Apply(shot);
        var turns = node.Channels!.Any(c => c.Value.Curve is not null && (c.Key.Contains("rotate", StringComparison.Ordinal) || c.Key.Contains("quaternion", StringComparison.Ordinal) || c.Key.Contains("scale", StringComparison.Ordinal)));
        foreach (var f in turns ? [frame] : new double[] { frame, -30, 3.5, 40 })
        {
            // What hangs below it stays as well.
            foreach (var n in shot.Nodes)
            {
                var (a, b) = (new CompiledShot(shot).WorldAt(n.Id, f), new CompiledShot(after).WorldAt(n.Id, f));
                var off = (a.X - b.X).Length + (a.Y - b.Y).Length + (a.Z - b.Z).Length + (a.Origin - b.Origin).Length;
                Assert.True(off <= 1e-9 * (1 + a.Largest), $"{n.Id} on frame {f}: {off}");
            }
        }
        Assert.Equal(y, after.Channel(new(node.Id, "transform.pivot.y")).Value);
    });

    [Fact]
    public void New_objects_stand_beside_each_other_on_the_ground_that_one_looks_at() => Laws.ForSeeds((dice, _) =>
    {
        var quay = dice.Next(0, 20) / 10.0;
        var shot = Shot.Empty("Quay") with
        {
            Nodes = [new MeshNode { Id = "quay", Name = "Quay", Locked = dice.Next(2) == 0, Shape = new BoxShape(60, 1, 60), Channels = Shots.Channels(("transform.translate.y", quay - 0.5)) }],
        };
        var near = new Double3(dice.NextDouble() * 6 - 3, quay, dice.NextDouble() * 6 - 3);
        var boxes = new List<Bounds>();
        for (var n = 0; n < 12; n++)
        {
            var at = FreePlace.Find(StateOf(shot), near, 0.5, 1);
            Assert.Equal(quay, at.Y, 9);
            Assert.All(new[] { at.X, at.Z }, v => Assert.Equal(Math.Round(v, 1), v));
            var box = new Bounds(at - new Double3(0.5, 0, 0.5), at + new Double3(0.5, 1, 0.5));
            Assert.All(boxes, b => Assert.True(b.Max.X <= box.Min.X + 1e-9 || b.Min.X >= box.Max.X - 1e-9 || b.Max.Z <= box.Min.Z + 1e-9 || b.Min.Z >= box.Max.Z - 1e-9));
            boxes.Add(box);
            shot = new AddNodes([new MeshNode { Id = $"n{n}", Name = $"N{n}", Shape = new BoxShape(1, 1, 1), Channels = Shots.Channels(("transform.translate.x", at.X), ("transform.translate.y", at.Y + 0.5), ("transform.translate.z", at.Z)) }]).Apply(shot);
        }
        // A dozen stand round the place, not in a row that leads away.
        Assert.All(boxes, b => Assert.True((b.Centre - near with { Y = b.Centre.Y }).Length < 4));
    });

    [Theory]
    [InlineData(double.NaN, 0, 0)]
    [InlineData(1e300, 0, 0)]
    [InlineData(0, double.PositiveInfinity, 0)]
    public void Looking_at_no_place_at_all_is_looking_at_the_origin(double x, double y, double z)
    {
        var at = FreePlace.Find(StateOf(Shot.Empty("Empty")), new(x, y, z), 0.5, 1);
        Assert.Equal((0, 0, 0), (at.X, at.Y, at.Z));
    }

    [Fact]
    public void A_roof_is_not_stood_on_and_what_is_hidden_is_not_in_the_way()
    {
        Node Slab(string id, double y, double wide, bool seen = true) => new MeshNode
        {
            Id = id,
            Name = id,
            Shape = new BoxShape(wide, 0.2, wide),
            Channels = Shots.Channels(("transform.translate.y", y - 0.1), ("visible", seen ? 1 : 0)),
        };
        var shot = Shot.Empty("House") with { Nodes = [Slab("floor", 0.3, 20), Slab("roof", 3, 20), Slab("crate", 0.5, 1), Slab("ghost", 0.6, 1, seen: false)] };
        var at = FreePlace.Find(StateOf(shot), default, 0.5, 1);
        Assert.Equal(0.3, at.Y, 9);
        Assert.Equal(1.2, at.X, 9);
        Assert.Equal(0, FreePlace.Find(StateOf(new RemoveNodes(["crate"]).Apply(shot)), default, 0.5, 1).X, 9);
    }

    private static FrameState StateOf(Shot shot)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        return state;
    }

    [Fact]
    public void A_keyed_pivot_is_not_moved()
    {
        var shot = Two(0).With(new ChannelAddress("a", "transform.pivot.x"), new Channel(0, new Curve([new(0, 0), new(9, 1)])));
        Assert.Contains("is keyed", Assert.Throws<Refusal>(() => new MovePivots([new("a", 1, 0, 0)], 0).Apply(shot)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Objects_are_aligned_to_the_last_and_distributed_between_the_outermost() => Laws.ForSeeds((dice, _) =>
    {
        var shot = Shot.Empty("Row") with
        {
            Nodes = [.. Enumerable.Range(0, dice.Next(3, 8)).Select(i => (Node)new MeshNode
            {
                Id = $"n{i}", Name = $"N{i}", Shape = new BoxShape(0.1 + dice.NextDouble(), 0.1 + dice.NextDouble(), 0.1 + dice.NextDouble()),
                Channels = Shots.Channels(("transform.translate.x", dice.Next(-9, 9)), ("transform.translate.y", dice.Next(-9, 9)), ("transform.rotate.z", dice.Next(0, 90))),
            })],
        };
        var ids = shot.Nodes.Select(n => n.Id).ToList();
        var (axis, side) = (dice.Next(3), dice.Next(-1, 2));
        double At(Shot s, string id, int which)
        {
            var box = Bounds.Of(State(s), [id])!.Value;
            var p = which < 0 ? box.Min : which > 0 ? box.Max : box.Centre;
            return axis switch { 0 => p.X, 1 => p.Y, _ => p.Z };
        }
        var aligned = Put(shot, Arranging.Align(State(shot), ids, axis, side));
        Assert.All(ids, id => Assert.Equal(At(shot, ids[^1], side), At(aligned, id, side), 1e-5));
        var spread = Put(shot, Arranging.Distribute(State(shot), ids, axis));
        var places = ids.Select(id => At(spread, id, 0)).Order().ToList();
        var before = ids.Select(id => At(shot, id, 0)).Order().ToList();
        Assert.Equal((before[0], before[^1]), (places[0], places[^1]), (a, b) => Math.Abs(a.Item1 - b.Item1) + Math.Abs(a.Item2 - b.Item2) < 1e-5);
        for (var i = 1; i < places.Count; i++)
        {
            Assert.Equal((places[^1] - places[0]) / (places.Count - 1), places[i] - places[i - 1], 1e-5);
        }
    }, 200);

    [Fact]
    public void What_is_let_down_stands_on_what_is_below_it_or_on_the_ground()
    {
        // A ball over a box, half a metre beside its middle: it comes to rest on the top; beside the box, on height 0.
        foreach (var (x, rest) in new[] { (0.5, 1 + 0.4), (5.0, 0.4) })
        {
            var shot = Two(x);
            var after = Put(shot, Arranging.Drop(State(shot), ["b"]));
            Assert.Equal(rest, new CompiledShot(after).WorldAt("b", 0).Origin.Y, 0.01);
        }
        // From inside what it stands in, it comes up.
        var inside = Two(0.3) with { };
        inside = inside.With(new ChannelAddress("b", "transform.translate.y"), new Channel(1.1));
        Assert.Equal(1.4, new CompiledShot(Put(inside, Arranging.Drop(State(inside), ["b"]))).WorldAt("b", 0).Origin.Y, 0.01);
        // On the tip of a cone, between the vertices of a wide box.
        var tip = Shot.Empty("Tip") with
        {
            Nodes =
            [
                new MeshNode { Id = "a", Name = "A", Shape = new CylinderShape(1, 0, 2), Channels = Shots.Channels(("transform.translate.y", 1)) },
                new MeshNode { Id = "b", Name = "B", Shape = new BoxShape(6, 0.5, 6), Channels = Shots.Channels(("transform.translate.y", 9)) },
            ],
        };
        Assert.Equal(2.25, new CompiledShot(Put(tip, Arranging.Drop(State(tip), ["b"]))).WorldAt("b", 0).Origin.Y, 1e-5);
    }

    [Fact]
    public void What_hangs_below_another_selected_object_goes_along_and_is_not_moved_by_itself()
    {
        var shot = Two(0);
        shot = shot with { Nodes = shot.Nodes.Add(new MeshNode { Id = "c", Name = "C", Parent = "b", Shape = new BoxShape() }) };
        Assert.Equal(["b"], Arranging.Topmost(shot, ["c", "b"]));
        Assert.Contains("two or more", Assert.Throws<Refusal>(() => Arranging.Align(State(shot), ["b", "c"], 0, 0)).Message, StringComparison.Ordinal);
    }

    /// <summary>A box from 0 to 1 in height, and a ball of radius 0.4 somewhere above it.</summary>
    private static Shot Two(double x) => Shot.Empty("Two") with
    {
        Nodes =
        [
            new MeshNode { Id = "a", Name = "A", Shape = new BoxShape(2, 1, 2, 3), Channels = Shots.Channels(("transform.translate.y", 0.5)) },
            new MeshNode { Id = "b", Name = "B", Shape = new SphereShape(0.4), Channels = Shots.Channels(("transform.translate.x", x), ("transform.translate.y", 7)) },
        ],
    };

    private static FrameState State(Shot shot)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        return state;
    }

    private static Shot Put(Shot shot, IEnumerable<(string Id, Affine World)> places)
    {
        var changes = places.SelectMany(p => Posing.ToLocal(shot, shot.Node(p.Id), Affine.Identity, p.World, 0)).ToList();
        return changes.Count == 0 ? shot : new SetValues(changes).Apply(shot);
    }
}
