using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats.Tests;

/// <summary>Rotation and scale that go into the vertices: nothing moves, and the channels read 0 and 1.</summary>
public sealed class BakingTests
{
    [Fact]
    public void Whatever_is_baked_everything_stays_where_it_is() => Laws.ForSeeds((dice, _) =>
    {
        double Some() => dice.NextDouble() * 4 - 2;
        double Size() => (dice.Next(4) == 0 ? -1 : 1) * (0.2 + dice.NextDouble());
        var order = (RotationOrder)dice.Next(7);
        var paths = RotationOrders.Paths(order);
        (string, double)[] place =
        [
            .. paths.Select(p => (p, order == RotationOrder.Quaternion ? Some() : 90 * Some())),
            .. "xyz".SelectMany(c => new[] { ($"transform.translate.{c}", Some()), ($"transform.scale.{c}", Size()), ($"transform.pivot.{c}", Some()) }),
        ];
        var shot = Shot.Empty("Bake") with
        {
            Nodes =
            [
                new MeshNode { Id = "a", Name = "A", RotationOrder = order, Shape = new CylinderShape(0.5, 0.2, 1, 9, 2, 250), Channels = Channels(place) },
                new MeshNode { Id = "b", Name = "B", Parent = "a", Shape = new BoxShape(), Channels = Channels(("transform.translate.x", 2), ("transform.rotate.y", 40)) },
            ],
        };
        var assets = new ShotAssets();
        var what = (Bake)dice.Next(3);
        var (edit, made) = Baking.Of(shot, assets, ["a"], what, 0);
        foreach (var asset in made)
        {
            assets.Put(asset.Name, MeshFile.Read(asset.Bytes));
        }
        var after = edit.Apply(shot);
        var (before, now) = (ShotSample.Of(State(shot, assets), true), ShotSample.Of(State(after, assets), true));
        foreach (var (m, n) in before.Meshes!.Zip(now.Meshes!))
        {
            Assert.All(m.Positions.Zip(n.Positions), p => Assert.Equal(p.First, p.Second, 1e-4));
        }
        // Its normals look where they looked in the world: they go with the inverse transpose of where it stands.
        var mesh = assets.Find(made[0].Name)!;
        Double3 At(float[] from, int i) => new(from[3 * i], from[3 * i + 1], from[3 * i + 2]);
        static Double3 InWorld(FrameState state, Double3 n) => state.World[0].TryInvert(out var back) ? new Double3(Double3.Dot(back.X, n), Double3.Dot(back.Y, n), Double3.Dot(back.Z, n)).Normalized() : default;
        var (old, young) = (State(shot, assets), State(after, assets));
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            Assert.True((InWorld(old, At(old.Mesh(0)!.Normals, v)) - InWorld(young, At(mesh.Normals, v))).Length < 1e-4);
        }
        // Triangles still face outwards: on the whole they and their normals agree, though the smooth ones of a squeezed cone may lean away from one or two.
        var facing = 0.0;
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            var (a, b, c) = (mesh.Indices[t], mesh.Indices[t + 1], mesh.Indices[t + 2]);
            var flat = Double3.Cross(At(mesh.Positions, b) - At(mesh.Positions, a), At(mesh.Positions, c) - At(mesh.Positions, a)).Normalized();
            facing += Math.Sign(Double3.Dot(flat, At(mesh.Normals, a) + At(mesh.Normals, b) + At(mesh.Normals, c)));
        }
        Assert.True(facing > 0.7 * mesh.TriangleCount, $"{facing} of {mesh.TriangleCount}");
        double Value(string path) => after.Channel(new("a", path)).Value;
        Assert.All(what == Bake.Rotation ? "" : "xyz", c => Assert.Equal(1, Value($"transform.scale.{c}")));
        Assert.All(what == Bake.Scale ? [] : paths, p => Assert.Equal(p.EndsWith(".w", StringComparison.Ordinal) ? 1 : 0, Value(p)));
    }, 200);

    [Fact]
    public void What_cannot_be_baked_is_refused_with_the_reason()
    {
        var shot = Shot.Empty("Bake") with
        {
            Nodes =
            [
                new MeshNode { Id = "bent", Name = "Bent", Shape = new BoxShape(), Deformers = [new TwistDeformer { Id = "t" }] },
                new GroupNode { Id = "g", Name = "G" },
                new MeshNode { Id = "flat", Name = "Flat", Shape = new BoxShape(), Channels = Channels(("transform.scale.y", 0)) },
                new MeshNode { Id = "keyed", Name = "Keyed", Shape = new BoxShape() },
            ],
        };
        shot = new SetKeys(3, [new(new("keyed", "transform.rotate.y"), 5)]).Apply(shot);
        string Why(string id, Bake what) => Assert.Throws<Refusal>(() => Baking.Of(shot, new ShotAssets(), [id], what, 0)).Message;
        Assert.Contains("deformers", Why("bent", Bake.Both), StringComparison.Ordinal);
        Assert.Contains("no mesh", Why("g", Bake.Both), StringComparison.Ordinal);
        Assert.Contains("scaled to nothing", Why("flat", Bake.Rotation), StringComparison.Ordinal);
        Assert.Contains("Rotation Y of “Keyed” is keyed", Why("keyed", Bake.Both), StringComparison.Ordinal);
        Assert.Equal(2, ((Batch)Baking.Of(shot, new ShotAssets(), ["keyed"], Bake.Scale, 0).Edit).Edits.Count);
        // In a layer as well, and a number of the shape itself whatever is baked.
        shot = Shot.Empty("Bake") with { Layers = [new("more", "More")], Nodes = [new MeshNode { Id = "keyed", Name = "Keyed", Shape = new BoxShape() }] };
        var plain = shot;
        shot = shot.With(new("keyed", "transform.rotate.y@more"), new Channel(5));
        Assert.Contains("Rotation Y of “Keyed” is in a layer", Why("keyed", Bake.Both), StringComparison.Ordinal);
        shot = plain.With(new("keyed", "shape.width@more"), new Channel(0.5));
        Assert.All([Bake.Both, Bake.Scale, Bake.Rotation], what => Assert.Contains("Width of “Keyed” is in a layer", Why("keyed", what), StringComparison.Ordinal));
        shot = new SetKeys(3, [new(new("keyed", "shape.width"), 5)]).Apply(plain);
        Assert.All([Bake.Both, Bake.Scale, Bake.Rotation], what => Assert.Contains("Width of “Keyed” is keyed", Why("keyed", what), StringComparison.Ordinal));
    }

    private static FrameState State(Shot shot, ShotAssets assets)
    {
        var state = new FrameState(new CompiledShot(shot), assets);
        state.Evaluate(0);
        return state;
    }

    private static System.Collections.Immutable.ImmutableSortedDictionary<string, Channel> Channels(params (string Path, double Value)[] values) =>
        System.Collections.Immutable.ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal, values.Select(v => KeyValuePair.Create(v.Path, new Channel(v.Value))));
}
