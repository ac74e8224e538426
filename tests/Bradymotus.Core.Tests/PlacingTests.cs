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
