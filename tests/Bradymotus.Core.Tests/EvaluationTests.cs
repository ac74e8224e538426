using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Tests;

public class EvaluationTests
{
    private static FrameState Evaluate(Shot shot, double frame)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(frame);
        return state;
    }

    private static Double3 Place(FrameState state, string id) => state.World[state.Compiled.IndexOfNode(id)].Origin;

    [Fact]
    public void Motion_paths_are_worked_out_again_only_where_the_object_or_what_carries_it_is_another()
    {
        var shot = Shot.Empty("Paths") with { Nodes = [new GroupNode { Id = "boat", Name = "Boat" }, new GroupNode { Id = "mast", Name = "Mast", Parent = "boat" }, new GroupNode { Id = "gull", Name = "Gull" }] };
        shot = shot.Keyed("boat/transform.translate.x", (0, 0), (20, 4)).Keyed("mast/transform.translate.y", (0, 1), (20, 2)).Keyed("gull/transform.translate.z", (0, 3), (10, 5));
        var (cache, compiled) = (new PathCache(), new CompiledShot(shot));
        string[] ids = ["boat", "mast", "gull"];
        void Same()
        {
            foreach (var id in ids)
            {
                Assert.Equal(new CompiledShot(compiled.Shot).MotionPath(id, 0, 20).SelectMany(p => new[] { p.X, p.Y, p.Z }), cache.Of(compiled, id, 0, 20).Points);
            }
        }
        Same();
        Assert.Equal(3, cache.Made);
        compiled = new CompiledShot(new SetKeys(5, [new(Shots.At("boat/transform.translate.x"), 3)]).Apply(compiled.Shot), compiled);
        Same();
        Assert.Equal(5, cache.Made);
        compiled = new CompiledShot(new SetKeys(5, [new(Shots.At("gull/transform.rotate.y"), 3)]).Apply(compiled.Shot), compiled);
        Same();
        Same();
        Assert.Equal(6, cache.Made);
        compiled = new CompiledShot(new Reparent(["gull"], 0, "boat").Apply(compiled.Shot), compiled);
        Same();
        Assert.Equal(63, cache.Of(compiled, "gull", 0, 20).Points.Length);
        Assert.Equal(33, cache.Of(compiled, "gull", 0, 10).Points.Length);
    }

    [Fact]
    public void Children_follow_their_parents_whatever_the_order_in_the_list() =>
        Assert.Equal(new Double3(0, 3, 0), Place(Evaluate(Shots.Crane(), 0), "hook"));

    [Fact]
    public void A_pivot_stays_where_it_is_while_its_node_turns()
    {
        var shot = Shots.Crane();
        shot = shot.With(new GroupNode { Id = "base", Name = "Base", Channels = Shots.Channels(("transform.pivot.x", 3), ("transform.rotate.y", 77), ("transform.scale.z", 2)) });
        var state = Evaluate(shot, 0);
        Assert.True((state.World[state.Compiled.IndexOfNode("base")].Point(new(3, 0, 0)) - new Double3(3, 0, 0)).Length < 1e-12);
    }

    [Fact]
    public void What_hangs_under_something_hidden_is_hidden()
    {
        var shot = Shots.Crane().Keyed("base/visible", (0, 1), (10, 0));
        Assert.True(Evaluate(shot, 0).Visible.All(v => v));
        Assert.True(Evaluate(shot, 10).Visible.All(v => !v));
    }

    [Fact]
    public void Evaluating_frames_in_any_order_gives_the_same_bits()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Repository.Demo));
        var compiled = new CompiledShot(shot);
        var state = new FrameState(compiled);
        foreach (var frame in new[] { 90.0, 3, 57.25, 3, 90, 0 })
        {
            state.Evaluate(frame);
            var fresh = Evaluate(shot, frame);
            Assert.Equal(fresh.World, state.World);
            Assert.Equal(fresh.Values, state.Values);
            for (var i = 0; i < compiled.NodeCount; i++)
            {
                Assert.Equal(fresh.Mesh(i)?.Positions, state.Mesh(i)?.Positions);
                Assert.Equal(fresh.World[i], compiled.WorldAt(compiled.NodeAt(i).Id, frame));
            }
        }
    }

    [Fact]
    public void A_compilation_that_takes_over_from_an_earlier_one_is_the_same_as_a_fresh_one()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Repository.Demo));
        var changed = shot.Keyed("buoy/transform.translate.x", (0, 0), (10, 4)).With(Shots.At("sea/look.color.r"), new Channel(0.5));
        var warm = new FrameState(new CompiledShot(changed, new CompiledShot(shot)));
        warm.Evaluate(7);
        var cold = Evaluate(changed, 7);
        Assert.Equal(cold.Values, warm.Values);
        Assert.Equal(cold.World, warm.World);
    }

    [Fact]
    public void Evaluating_a_frame_allocates_nothing()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Repository.Demo));
        var state = new FrameState(new CompiledShot(shot));
        for (var f = 0; f < 200; f++)
        {
            state.Evaluate(f);
        }
        var before = GC.GetAllocatedBytesForCurrentThread();
        for (var f = 0; f < 100; f++)
        {
            state.Evaluate(f + 0.5);
        }
        Assert.Equal(0, GC.GetAllocatedBytesForCurrentThread() - before);
    }

    [Fact]
    public void An_override_takes_the_place_of_a_curve_until_it_is_cleared()
    {
        var shot = Shots.Crane().Keyed("base/transform.translate.x", (0, 0), (10, 5));
        var state = new FrameState(new CompiledShot(shot));
        var channel = state.Compiled.IndexOfChannel(Shots.At("base/transform.translate.x"));
        state.Override(channel, 9);
        state.Evaluate(10);
        Assert.Equal(9, Place(state, "hook").X, 12);
        state.ClearOverrides();
        state.Evaluate(10);
        Assert.Equal(5, Place(state, "hook").X, 12);
    }

    [Fact]
    public void The_fender_of_the_demo_touches_the_quay_at_every_contact_and_keeps_its_volume()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Repository.Demo));
        var compiled = new CompiledShot(shot);
        var state = new FrameState(compiled);
        var low = double.MaxValue;
        var peaks = new List<double>();
        for (var frame = 0; frame <= 119; frame++)
        {
            state.Evaluate(frame);
            double Scale(string axis) => state.Value(Shots.At("fender/transform.scale." + axis));
            Assert.InRange(Scale("x") * Scale("y") * Scale("z"), 0.98, 1.02);
            // The base of the ball, whatever its squash: its pivot.
            low = Math.Min(low, Place(state, "fender").Y + state.World[compiled.IndexOfNode("fender")].Vector(new(0, -0.3, 0)).Y);
            if (frame is 29 or 41 or 53 or 61 or 69 or 75)
            {
                peaks.Add(state.Value(Shots.At("fender/transform.translate.y")) - 0.8);
            }
        }
        Assert.InRange(low, 0.5 - 1e-5, 0.5 + 1e-5);
        Assert.Equal(0, peaks[0], 5);
        Assert.Equal(0, peaks[2], 5);
        Assert.True(peaks[1] > peaks[3] && peaks[3] > peaks[5], "each peak lower than the one before");
    }

    [Fact]
    public void The_first_and_the_last_picture_of_the_buoys_loop_are_the_same()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Repository.Demo));
        var compiled = new CompiledShot(shot);
        foreach (var frame in new[] { 0.0, 13, 59.5 })
        {
            Assert.True((compiled.WorldAt("buoy", frame).Point(new(1, 2, 3)) - compiled.WorldAt("buoy", frame + 60).Point(new(1, 2, 3))).Length < 1e-9);
        }
    }

    [Fact]
    public void A_twist_turns_the_top_by_its_angle_and_leaves_the_base()
    {
        var shot = Twisted(90, new BoxShape(1, 2, 1, 4));
        var mesh = Evaluate(shot, 0).Mesh(0)!;
        var rest = new BoxShape(1, 2, 1, 4).Build();
        for (var v = 0; v < rest.Positions.Length; v += 3)
        {
            var (x, y, z) = (rest.Positions[v], rest.Positions[v + 1], rest.Positions[v + 2]);
            if (y == -1)
            {
                Assert.Equal((x, z), (mesh.Positions[v], mesh.Positions[v + 2]));
            }
            if (y == 1)
            {
                Assert.Equal(z, mesh.Positions[v], 5);
                Assert.Equal(-x, mesh.Positions[v + 2], 5);
            }
        }
    }

    [Theory]
    [InlineData("twist", 70)]
    [InlineData("squash", 0.6)]
    public void The_normals_of_a_bent_shape_stand_upright_on_its_triangles(string kind, double amount)
    {
        var shape = new CylinderShape(0.5, 0.5, 2, 96, 64);
        var shot = kind == "twist" ? Twisted(amount, shape) : Squashed(amount, shape);
        var mesh = Evaluate(shot, 0).Mesh(0)!;
        Double3 At(float[] a, int i) => new(a[3 * i], a[3 * i + 1], a[3 * i + 2]);
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            var (a, b, c) = (mesh.Indices[t], mesh.Indices[t + 1], mesh.Indices[t + 2]);
            var flat = Double3.Cross(At(mesh.Positions, b) - At(mesh.Positions, a), At(mesh.Positions, c) - At(mesh.Positions, a)).Normalized();
            Assert.True(Double3.Dot(flat, At(mesh.Normals, a)) > 0.995);
        }
    }

    [Fact]
    public void Squash_keeps_the_volume()
    {
        var shape = new SphereShape(1, 64, 48);
        Assert.Equal(1, Volume(Evaluate(Squashed(0.8, shape), 0).Mesh(0)!) / Volume(Evaluate(Squashed(0, shape), 0).Mesh(0)!), 4);
    }

    [Theory]
    [MemberData(nameof(Shapes))]
    public void Every_shape_is_closed_and_faces_outwards(Shape shape)
    {
        var mesh = shape.Build();
        Assert.All(mesh.Positions, p => Assert.True(float.IsFinite(p)));
        Double3 At(float[] a, int i) => new(a[3 * i], a[3 * i + 1], a[3 * i + 2]);
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            var (a, b, c) = (mesh.Indices[t], mesh.Indices[t + 1], mesh.Indices[t + 2]);
            var flat = Double3.Cross(At(mesh.Positions, b) - At(mesh.Positions, a), At(mesh.Positions, c) - At(mesh.Positions, a));
            var normals = At(mesh.Normals, a) + At(mesh.Normals, b) + At(mesh.Normals, c);
            Assert.True(Double3.Dot(flat, normals) > 0, $"triangle {t / 3} of {shape}");
        }
    }

    public static TheoryData<Shape> Shapes() => [new BoxShape(1, 2, 3, 3), new SphereShape(), new CylinderShape(), new CylinderShape(1, 0), new TorusShape(), new PlaneShape()];

    [Fact]
    public void The_ball_is_as_large_as_a_ball() =>
        Assert.Equal(1, Volume(Evaluate(Squashed(0, new SphereShape(1, 128, 96)), 0).Mesh(0)!) / (4 * Math.PI / 3), 2);

    private static double Volume(MeshState mesh)
    {
        Double3 At(int i) => new(mesh.Positions[3 * i], mesh.Positions[3 * i + 1], mesh.Positions[3 * i + 2]);
        var sum = 0.0;
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            sum += Double3.Dot(At(mesh.Indices[t]), Double3.Cross(At(mesh.Indices[t + 1]), At(mesh.Indices[t + 2]))) / 6;
        }
        return sum;
    }

    private static Shot Twisted(double angle, Shape shape) => Bent(new TwistDeformer { Id = "d" }, "angle", angle, shape);

    private static Shot Squashed(double amount, Shape shape) => Bent(new SquashDeformer { Id = "d" }, "amount", amount, shape);

    private static Shot Bent(Deformer deformer, string channel, double value, Shape shape) => Shot.Empty("Bent") with
    {
        Nodes = [new MeshNode { Id = "a", Name = "A", Shape = shape, Deformers = [deformer], Channels = Shots.Channels(($"deform.d.{channel}", value)) }],
    };
}
