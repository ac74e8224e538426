using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

/// <summary>Objects that go from one shot into another.</summary>
public class TransplantTests
{
    /// <summary>A ball on a turning arm, with a layer of swaying; and a twin of it.</summary>
    private static Shot Source() => (Shot.Empty("Source") with
    {
        Nodes =
        [
            new GroupNode { Id = "arm", Name = "Arm", Channels = Channels(("transform.translate.x", 3), ("transform.rotate.y", 90)) },
            new MeshNode { Id = "ball", Name = "Ball", Parent = "arm", Shape = new SphereShape(0.5, 8, 6), Material = "red" },
            new GroupNode { Id = "tail", Name = "Tail", Parent = "ball" },
            new InstanceNode { Id = "twin", Name = "Twin", Of = "ball" },
            new MeshNode { Id = "like", Name = "Like", Follows = "ball", Shape = new BoxShape() },
        ],
        Materials = [new("red", "Red", Channels(("look.color.r", 0.9))), new("blue", "Blue")],
        Layers = [new("sway", "Sway", Channels: Channels(("weight", 0.5))), new("none", "Unused")],
    }).Keyed("ball/transform.translate.z", (0, 0), (20, 4)).Keyed("ball/transform.translate.x@sway", (0, 0), (10, 2), (20, 0));

    private static Affine World(Shot shot, string id, double frame) => CompiledShot.WorldOf(shot, id, frame);

    [Fact]
    public void An_object_comes_with_what_hangs_below_it_its_material_and_its_layer_and_stands_where_it_stood()
    {
        var source = Source();
        var taken = Transplant.Take(source, ["ball", "tail"], 0);
        Assert.Equal(["ball", "tail"], taken.Nodes.Select(n => n.Id));
        Assert.Equal(["red"], taken.Materials.Select(m => m.Id));
        Assert.Equal(["sway"], taken.Layers.Select(l => l.Id));
        ShotRules.Validate(taken);

        var edit = Transplant.Put(Shot.Empty("Other"), ShotJson.ReadShot(ShotJson.Write(taken)), "p");
        Assert.Equal("Paste Ball", edit.Describe(Shot.Empty("Other")));
        var other = edit.Apply(Shot.Empty("Other"));
        ShotRules.Validate(other);
        Assert.Equal(["p-ball", "p-tail"], other.Nodes.Select(n => n.Id));
        Assert.Equal("p-ball", other.FindNode("p-tail")!.Parent);
        Assert.Equal(["p-red"], other.Materials.Select(m => m.Id));
        Assert.Equal((0.5, "Sway"), (other.Channel(At("p-sway/weight")).Value, other.Layers[0].Name));
        foreach (var frame in new[] { 0.0, 7, 10, 20 })
        {
            var (a, b) = (World(source, "ball", frame).Origin, World(other, "p-ball", frame).Origin);
            Assert.Equal(0, (a - b).Length, 9);
        }
    }

    [Fact]
    public void What_is_there_already_is_shared_and_what_only_looks_like_it_is_not()
    {
        var source = Source();
        var taken = Transplant.Take(source, ["ball"], 0);
        var once = Transplant.Put(source, taken, "p").Apply(source);
        var twice = Transplant.Put(once, taken, "q").Apply(once);
        Assert.Equal(2, twice.Materials.Length);
        Assert.Equal(2, twice.Layers.Length);
        Assert.Equal(["Ball", "Ball", "Ball 2"], twice.Nodes.Where(n => n.Name.StartsWith("Ball", StringComparison.Ordinal)).Select(n => n.Name));
        Assert.Equal("red", ((MeshNode)twice.FindNode("q-ball")!).Material);
        Assert.NotNull(twice.Channel(At("q-ball/transform.translate.x@sway")).Curve);
        // Another red, and a layer of that name that takes the place of what is below.
        var other = Shot.Empty("Other") with { Materials = [new("red", "Red")], Layers = [new("s", "Sway", LayerMode.Override)] };
        other = Transplant.Put(other, taken, "p").Apply(other);
        Assert.Equal(["red", "p-red"], other.Materials.Select(m => m.Id));
        Assert.Equal(["s", "p-sway"], other.Layers.Select(l => l.Id));
        Assert.True(other.FindNode("p-ball")!.Channels!.ContainsKey("transform.translate.x@p-sway"));
    }

    [Fact]
    public void What_something_is_made_of_has_to_come_along_and_what_it_follows_becomes_its_own()
    {
        var source = Source();
        Assert.Contains("“Twin” cannot be copied without “Ball”", Assert.Throws<Refusal>(() => Transplant.Take(source, ["twin"], 0)).Message, StringComparison.Ordinal);
        var both = Transplant.Put(Shot.Empty("Other"), Transplant.Take(source, ["twin", "arm"], 0), "p").Apply(Shot.Empty("Other"));
        Assert.Equal("p-ball", ((InstanceNode)both.FindNode("p-twin")!).Of);
        Assert.Equal("Paste 2 objects", Transplant.Put(both, Transplant.Take(source, ["twin", "arm"], 0), "q").Describe(both));
        var like = Transplant.Take(source, ["like"], 0);
        Assert.Null(like.Nodes[0].Follows);
        Assert.Equal(4, like.Channel(At("like/transform.translate.z")).Evaluate(20));
        Assert.Equal("ball", Transplant.Take(source, ["like", "ball"], 0).FindNode("like")!.Follows);
        Assert.Throws<Refusal>(() => Transplant.Take(source, ["gone"], 0));
        Assert.Contains("copy some objects first", Assert.Throws<Refusal>(() => Transplant.Put(source, Shot.Empty("None"), "p")).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Whatever_is_taken_whole_looks_the_same_elsewhere() => Laws.ForSeeds((dice, _) =>
    {
        var source = new SomeShots(dice).Shot();
        var roots = source.Nodes.Where(n => n.Parent is null).Select(n => n.Id).ToList();
        if (roots.Count == 0)
        {
            return;
        }
        var into = Shot.Empty("Other") with { Rate = source.Rate };
        var other = Transplant.Put(into, Transplant.Take(source, roots, 0), "p").Apply(into);
        ShotRules.Validate(other);
        // Layers that nothing is in stay behind, and one that is solo among them would have silenced the others.
        if (source.Layers.Any(l => l.Solo))
        {
            return;
        }
        var (a, b) = (new FrameState(new CompiledShot(source)), new FrameState(new CompiledShot(other)));
        foreach (var frame in new[] { 0.0, 13.5, 40 })
        {
            a.Evaluate(frame);
            b.Evaluate(frame);
            foreach (var node in source.Nodes)
            {
                Assert.Equal(a.World[a.Compiled.IndexOfNode(node.Id)], b.World[b.Compiled.IndexOfNode($"p-{node.Id}")]);
            }
        }
    }, 200);
}
