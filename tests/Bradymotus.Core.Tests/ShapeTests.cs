using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Tests;

/// <summary>Basic shapes: volumes and areas by the closed formulas of geometry, and their numbers as channels.</summary>
public sealed class ShapeTests
{
    private static readonly PathPoint[] Way = [new(-1, 0, 0), new(0, 0.5, 0.6), new(0.8, -0.2, 0), new(0, 0, -1.2)];

    // A rounded plate with a hole, in which there is an island, and a wedge beside it; the ways round are mixed on purpose.
    private const string Sign = "M-1 -0.5H1V0.3C1 0.6 0.8 0.8 0.5 0.8L-1,0.8zm0.3 .3v.7h1v-.7z M-0.5 0 h.4v.2h-.4z M1.2-.5 Q2 0 1.2 .8 z";

    public static TheoryData<Shape> Solids() =>
    [
        new BoxShape(1, 2, 3, 3), new BoxShape(1, 2, 3, 2, 0.2, 4), new BoxShape(1, 1, 1, 1, 9, 5), new SphereShape(), new SphereShape(0.7, 20, 10, 250), new GeodesicShape(0.6, 5),
        new CylinderShape(), new CylinderShape(1, 0), new CylinderShape(0.4, 0.9, 2, 24, 3, 200, 0.1, 4), new CylinderShape(0.5, 0.5, 2, 24, 1, 360, 0.5, 8), new CylinderShape(1, 0, 1, 24, 1, 360, 0.3),
        new TorusShape(), new TorusShape(0.5, 0.1, 20, 12, 90), new HelixShape(), new HelixShape(0.3, 0.5, 1, -2.3, 0.1, 20, 8, 0), new TubeShape([.. Way]), new TubeShape([.. Way], true), new TubeShape([.. Way], CapRings: 0),
        new OutlineShape(Sign), new OutlineShape(Sign, Bevel: 0.04), new OutlineShape(Sign, Depth: 0.5, Bevel: 9, BevelSegments: 5, CurveSegments: 3),
    ];

    public static TheoryData<Shape> Sheets() => [new PlaneShape(), new DiscShape(), new DiscShape(1, 0.4, 30, 2, 120)];

    [Theory]
    [MemberData(nameof(Solids))]
    [MemberData(nameof(Sheets))]
    public void Every_shape_faces_outwards_and_has_as_many_vertices_as_it_says(Shape shape)
    {
        var mesh = shape.Build();
        Assert.Equal(shape.VertexCount, mesh.VertexCount);
        Assert.Equal(2 * mesh.VertexCount, mesh.TexCoords!.Length);
        Assert.All(mesh.Positions, p => Assert.True(float.IsFinite(p)));
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            Assert.Equal(1, Math.Sqrt(Double3.Dot(At(mesh.Normals, v), At(mesh.Normals, v))), 4);
        }
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            var (a, b, c) = (mesh.Indices[t], mesh.Indices[t + 1], mesh.Indices[t + 2]);
            var flat = Double3.Cross(At(mesh.Positions, b) - At(mesh.Positions, a), At(mesh.Positions, c) - At(mesh.Positions, a));
            Assert.True(Double3.Dot(flat, At(mesh.Normals, a) + At(mesh.Normals, b) + At(mesh.Normals, c)) > -1e-12, $"triangle {t / 3} of {shape}");
        }
    }

    [Theory]
    [MemberData(nameof(Solids))]
    public void A_solid_is_closed_each_edge_is_gone_once_each_way(Shape shape)
    {
        var mesh = shape.Build();
        var points = new Dictionary<(double, double, double), int>();
        // Vertices at one place are one: across a seam the last bit may be another.
        int Point(int v) => points.TryAdd((Near(mesh.Positions[3 * v]), Near(mesh.Positions[3 * v + 1]), Near(mesh.Positions[3 * v + 2])), points.Count)
            ? points.Count - 1 : points[(Near(mesh.Positions[3 * v]), Near(mesh.Positions[3 * v + 1]), Near(mesh.Positions[3 * v + 2]))];
        static double Near(float x) => Math.Round(x, 5) + 0.0;
        var edges = new Dictionary<(int, int), int>();
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            for (var k = 0; k < 3; k++)
            {
                var edge = (Point(mesh.Indices[t + k]), Point(mesh.Indices[t + (k + 1) % 3]));
                if (edge.Item1 != edge.Item2)
                {
                    edges[edge] = edges.GetValueOrDefault(edge) + 1;
                }
            }
        }
        var open = edges.Where(e => edges.GetValueOrDefault((e.Key.Item2, e.Key.Item1)) != e.Value).ToList();
        Assert.True(open.Count == 0, $"{open.Count} of {edges.Count} edges of {shape} are open");
    }

    /// <summary>Volumes: box with rounded edges (a Minkowski sum), capsule, spherical wedge, torus and cylinder by Pappus, cone; from the textbook.</summary>
    [Fact]
    public void Volumes_are_those_of_the_textbook()
    {
        const double r = 0.2;
        var (a, b, c) = (1 - 2 * r, 2 - 2 * r, 3 - 2 * r);
        Near(a * b * c + 2 * r * (a * b + b * c + c * a) + Math.PI * r * r * (a + b + c) + 4 * Math.PI / 3 * r * r * r, new BoxShape(1, 2, 3, 1, r, 24));
        Near(Math.PI * 0.25 * 1 + 4 * Math.PI / 3 * 0.125, new CylinderShape(0.5, 0.5, 2, 128, 1, 360, 0.5, 32));
        Near(4 * Math.PI / 3 * 0.125, new SphereShape(0.5, 128, 64));
        Near(4 * Math.PI / 3 * 0.125, new GeodesicShape(0.5, 32));
        Near(4 * Math.PI / 3 * 0.125 * 100 / 360, new SphereShape(0.5, 128, 64, 100));
        Near(2 * Math.PI * Math.PI * 0.5 * 0.0225, new TorusShape(0.5, 0.15, 128, 64));
        Near(Math.PI * Math.PI * 0.5 * 0.0225, new TorusShape(0.5, 0.15, 128, 64, 180));
        Near(Math.PI / 3, new CylinderShape(1, 0, 1, 128));
        Near(Math.PI / 3 * 2 * (1 + 0.5 + 0.25) / 4, new CylinderShape(1, 0.5, 2, 128, 2, 90));
        // A tube's volume is its section times the length of its path, for as long as it does not meet itself (Pappus): a helix' length is √((2πrn)² + h²).
        Near(Math.PI * 0.0036 * Math.Sqrt(Math.Pow(2 * Math.PI * 0.4 * 4, 2) + 1) + 4 * Math.PI / 3 * 0.000216, new HelixShape(Segments: 128, Sides: 64, CapRings: 24));
        static void Near(double expected, Shape shape) => Assert.InRange(Volume(shape.Build()) / expected, 0.995, 1.001);
    }

    /// <summary>Outlines against the exact area of a polygon (the shoelace formula) and of parabolas and cubics (Green's theorem).</summary>
    [Fact]
    public void An_outline_encloses_its_area_and_holes_and_bevels_take_away_theirs()
    {
        Assert.Equal(0.2 * (4 - 0.25), Volume(new OutlineShape("M0 0H2V2H0zM.5 .5h.5v.5h-.5z").Build()), 5);
        // Two thirds of its control triangle's area of 2, less what n chords cut off: 1 part in n² (Archimedes, "Quadrature of the Parabola").
        Assert.Equal(0.2 * 4 / 3 * (1 - 1.0 / 64), Volume(new OutlineShape("M0 0Q1 2 2 0z", CurveSegments: 8).Build()), 5);
        // A square of side 2 with rims chamfered by b: a prism and two frustums.
        var chamfered = 4 * (0.5 - 0.2) + 2 * 0.1 / 3 * (4 + 1.8 * 1.8 + 2 * 1.8);
        Assert.Equal(chamfered, Volume(new OutlineShape("M0 0H2V2H0z", Depth: 0.5, Bevel: 0.1, BevelSegments: 1).Build()), 5);
    }

    [Theory]
    [InlineData("", "empty")]
    [InlineData("M0 0L1 1 1 0A1 1 0 0 0 0 0", "command A")]
    [InlineData("L1 1", "M first")]
    [InlineData("12 3", "command")]
    [InlineData("M1 1 2 2z", "encloses nothing")]
    [InlineData("M0 0L1 x", "character 8")]
    [InlineData("M0 0L1 1e99", "million")]
    public void Path_data_that_is_none_is_refused_with_the_place(string data, string expected) =>
        Assert.Contains(expected, Assert.Throws<Refusal>(() => ShotRules.Validate(Of(new OutlineShape(data)))).Message, StringComparison.Ordinal);

    [Fact]
    public void Whatever_the_path_data_is_it_is_refused_or_built() => Laws.ForSeeds((dice, _) =>
    {
        var parts = new[] { "M", "m", "L", "l", "H", "v", "C", "q", "Z", "0", "1", "-.5", "2e-1", "1.5,", " ", "7", "NaN", "-", "." };
        var data = "M0 0" + string.Concat(Enumerable.Range(0, dice.Next(1, 60)).Select(_ => parts[dice.Next(parts.Length)] + (dice.Next(2) == 0 ? " " : "")));
        try
        {
            Assert.All(new OutlineShape(data, Bevel: 0.1).Build().Positions, p => Assert.True(float.IsFinite(p)));
        }
        catch (Refusal)
        {
        }
    }, 2000);

    [Fact]
    public void Areas_of_flat_shapes_are_those_of_the_textbook()
    {
        Assert.Equal(1, Area(new DiscShape(1, 0.4, 256, 3, 90).Build()) / (Math.PI * (1 - 0.16) / 4), 3);
        Assert.Equal(12, Area(new PlaneShape(3, 4, 5).Build()), 4);
    }

    [Fact]
    public void A_number_of_a_shape_is_a_channel_that_has_the_shapes_own_number_until_it_is_set()
    {
        var shot = Of(new BoxShape(2, 1, 1));
        Assert.Equal(2, shot.Channel(new("a", "shape.width")).Value);
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        Assert.Equal(1, state.Mesh(0)!.Rest.Bounds().Max.X);
        state.Show(new CompiledShot(shot.With(new("a", "shape.width"), new Channel(5)), state.Compiled));
        state.Evaluate(0);
        Assert.Equal(2.5, state.Mesh(0)!.Rest.Bounds().Max.X);
        Assert.Same(MeshCache.Of(new BoxShape(5, 1, 1)), state.Mesh(0)!.Rest);
        Assert.False(state.Mesh(0)!.IsBent);
    }

    [Fact]
    public void A_keyed_number_moves_the_vertices_of_the_same_triangles_without_allocating()
    {
        var shot = Of(new CylinderShape(Rounding: 0.1, Sector: 270)).Keyed("a/shape.height", (0, 1), (10, 3)).Keyed("a/shape.radius", (0, 0.5), (10, 0.8));
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        state.Evaluate(1);
        var (rest, versions) = (state.Mesh(0)!.Rest, new HashSet<int>());
        var before = GC.GetAllocatedBytesForCurrentThread();
        for (var f = 0; f <= 10; f++)
        {
            state.Evaluate(f);
            versions.Add(state.Mesh(0)!.Version);
        }
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 2000);
        Assert.Equal(11, versions.Count);
        Assert.Same(rest, state.Mesh(0)!.Rest);
        Assert.Equal(new CylinderShape(0.8, 0.5, 3, Rounding: 0.1, Sector: 270).Build().Positions, state.Mesh(0)!.Positions);
    }

    [Fact]
    public void A_count_steps_and_deformers_take_what_comes_of_it()
    {
        var shot = Of(new BoxShape(1, 2, 1)).Keyed("a/shape.divisions", (0, 1), (10, 4));
        shot = shot.With(shot.Node("a") is MeshNode mesh ? mesh with { Deformers = [new TwistDeformer { Id = "t" }] } : null!).Keyed("a/deform.t.angle", (0, 0), (10, 90));
        var state = new FrameState(new CompiledShot(shot));
        var counts = new List<int>();
        for (var f = 0; f <= 10; f++)
        {
            state.Evaluate(f);
            counts.Add(state.Mesh(0)!.Positions.Length / 3);
        }
        Assert.Equal([24, 54, 96, 150], counts.Distinct());
        state.Evaluate(3);
        var fresh = new FrameState(new CompiledShot(shot));
        fresh.Evaluate(3);
        Assert.Equal(fresh.Mesh(0)!.Positions, state.Mesh(0)!.Positions);
    }

    [Fact]
    public void Whatever_is_keyed_the_shape_can_be_built() => Laws.ForSeeds((dice, _) =>
    {
        Shape[] all = [.. Solids().Concat(Sheets()).Select(row => (Shape)row.Data)];
        var shape = all[dice.Next(all.Length)];
        double Wild() => dice.Next(8) switch { 0 => 0, 1 => -1e9, 2 => 1e9, 3 => 1e-9, 4 => double.Epsilon, _ => dice.NextDouble() * 4 };
        var shot = Of(shape);
        foreach (var c in shape.Channels)
        {
            shot = shot.With(new ChannelAddress("a", "shape." + c.Path), new Channel(c.Whole ? dice.Next(-2, 9) : Wild()));
        }
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        var mesh = state.Mesh(0)!.Rest;
        Assert.InRange(mesh.VertexCount, 0, Shape.MostVertices);
        Assert.True(mesh.Positions.All(float.IsFinite), $"{shape} has places that are no numbers with {string.Join(", ", shot.Nodes[0].Channels!.Select(c => $"{c.Key} {c.Value.Value}"))}");
        Assert.All(mesh.Indices, i => Assert.InRange(i, 0, mesh.VertexCount - 1));
    }, 200);

    [Fact]
    public void Too_many_divisions_are_refused_however_they_are_asked_for()
    {
        var shot = Of(new BoxShape());
        Assert.Contains("6303750 vertices", Assert.Throws<Refusal>(() => new SetValues([new(new("a", "shape.divisions"), 1024)]).Apply(shot)).Message, StringComparison.Ordinal);
        Assert.Contains("6303750 vertices", Assert.Throws<Refusal>(() => new SetKeys(5, [new(new("a", "shape.divisions"), 1024)]).Apply(shot)).Message, StringComparison.Ordinal);
        Assert.Contains("2 to 64", Assert.Throws<Refusal>(() => ShotRules.Validate(Of(new TubeShape([new(0, 0, 0)])))).Message, StringComparison.Ordinal);
        Assert.Contains("sector", Assert.Throws<Refusal>(() => ShotRules.Validate(Of(new DiscShape(Sector: 400)))).Message, StringComparison.Ordinal);
    }

    private static Shot Of(Shape shape) => Shot.Empty("Shape") with { Nodes = [new MeshNode { Id = "a", Name = "A", Shape = shape }] };

    private static Double3 At(float[] a, int i) => new(a[3 * i], a[3 * i + 1], a[3 * i + 2]);

    private static double Volume(Mesh mesh) => Enumerable.Range(0, mesh.TriangleCount).Sum(t =>
        Double3.Dot(At(mesh.Positions, mesh.Indices[3 * t]), Double3.Cross(At(mesh.Positions, mesh.Indices[3 * t + 1]), At(mesh.Positions, mesh.Indices[3 * t + 2]))) / 6);

    private static double Area(Mesh mesh) => Enumerable.Range(0, mesh.TriangleCount).Sum(t =>
    {
        var (a, b, c) = (At(mesh.Positions, mesh.Indices[3 * t]), At(mesh.Positions, mesh.Indices[3 * t + 1]), At(mesh.Positions, mesh.Indices[3 * t + 2]));
        var n = Double3.Cross(b - a, c - a);
        return Math.Sqrt(Double3.Dot(n, n)) / 2;
    });
}
