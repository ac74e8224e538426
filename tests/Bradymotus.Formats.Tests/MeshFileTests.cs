using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats.Tests;

/// <summary>OBJ, STL and PLY that are not as they should be. That good ones are read rightly is checked in tests/outside/meshes.test.ts.</summary>
public class MeshFileTests
{
    private const string Obj = "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 1 1 0\nusemtl Tar\nf 1 2 3\nf 2 4 3\n";
    private const string Stl = "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid a\n";
    private const string Ply = "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n";

    private static Imported Read(string name, byte[] bytes, params (string Name, string Text)[] beside) =>
        Importer.Read(new FilesInMemory(name, beside.Select(b => (b.Name, Bytes: Encoding.UTF8.GetBytes(b.Text))).Append((name, bytes)).ToDictionary(f => f.Item1, f => f.Item2)), new(FrameRate.Default));

    private static Imported Read(string name, string text, params (string Name, string Text)[] beside) => Read(name, Encoding.UTF8.GetBytes(text), beside);

    [Fact]
    public void Each_becomes_an_object_whose_mesh_is_an_asset()
    {
        foreach (var (name, text, triangles) in new[] { ("a.obj", Obj, 2), ("a.stl", Stl, 1), ("a.ply", Ply, 1) })
        {
            var imported = Read(name, text, ("a.mtl", "newmtl Tar\nKd 0.1 0.1 0.1\nmap_Kd tar.png\n"));
            ShotRules.Validate(imported.Shot);
            var mesh = Assert.IsType<MeshNode>(Assert.Single(imported.Shot.Nodes));
            Assert.Equal(triangles, ((AssetShape)mesh.Shape).Triangles);
            var read = MeshFile.Read(Assert.Single(imported.Assets).Bytes);
            Assert.Equal(triangles, read.TriangleCount);
            Assert.All(read.Normals.Chunk(3), n => Assert.Equal(1, Math.Sqrt(n.Sum(x => x * x)), 1e-5));
            Assert.Equal(name == "a.obj", mesh.Material is not null);
        }
    }

    [Fact]
    public void What_is_missing_or_wrong_in_an_obj_is_said_and_the_rest_is_there()
    {
        var imported = Read("a.obj", Obj + "f 1 2 99\nf 1 2\nl 1 2\nf -1 -2 -3\n");
        Assert.Equal(3, ((AssetShape)((MeshNode)imported.Shot.Nodes[0]).Shape).Triangles);
        Assert.Contains(imported.Report.Skipped, m => m.Contains("a.mtl", StringComparison.Ordinal));
        Assert.Contains(imported.Report.Skipped, m => m.StartsWith("1 face was", StringComparison.Ordinal));
        Assert.Contains(imported.Report.Skipped, m => m.StartsWith("Lines", StringComparison.Ordinal));
        Assert.Contains(Read("a.obj", Obj.Replace("a.mtl", "../../etc/passwd", StringComparison.Ordinal)).Report.Skipped, m => m.Contains("outside", StringComparison.Ordinal));
    }

    /// <summary>The area of the triangles of a mesh, by which what is filled is known, whichever way it was divided.</summary>
    private static double Area(Mesh mesh)
    {
        double area = 0;
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            double At(int corner, int axis) => mesh.Positions[3 * mesh.Indices[t + corner] + axis];
            var (ux, uy, uz) = (At(1, 0) - At(0, 0), At(1, 1) - At(0, 1), At(1, 2) - At(0, 2));
            var (vx, vy, vz) = (At(2, 0) - At(0, 0), At(2, 1) - At(0, 1), At(2, 2) - At(0, 2));
            area += Math.Sqrt(Math.Pow(uy * vz - uz * vy, 2) + Math.Pow(uz * vx - ux * vz, 2) + Math.Pow(ux * vy - uy * vx, 2)) / 2;
        }
        return area;
    }

    private static Mesh Only(Imported imported) => MeshFile.Read(imported.Assets.Single(a => Asset.EndingOf(a.Bytes) == ".glb").Bytes);

    /// <summary>A polygon with as many teeth as are asked for, in a tilted plane, as an OBJ or a PLY.</summary>
    private static (string Name, string Text, double Area) Saw(int teeth, bool isPly)
    {
        var points = new List<(double X, double Y)> { (teeth, -1), (0, -1) };
        for (var i = 0; i < teeth; i++)
        {
            points.AddRange([(i, 0), (i + 0.5, 1)]);
        }
        points.Add((teeth, 0));
        points.Reverse();
        var area = Math.Abs(Enumerable.Range(0, points.Count).Sum(i => points[i].X * points[(i + 1) % points.Count].Y - points[(i + 1) % points.Count].X * points[i].Y)) / 2;
        // Turned out of all axes, which keeps areas.
        static string Tilted((double X, double Y) p) => FormattableString.Invariant($"{p.X * 0.8 - p.Y * 0.36:R} {p.X * 0.6 + p.Y * 0.48:R} {p.Y * 0.8:R}");
        return isPly
            ? ("saw.ply", $"ply\nformat ascii 1.0\nelement vertex {points.Count}\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list int int vertex_indices\nend_header\n{string.Join('\n', points.Select(Tilted))}\n{points.Count} {string.Join(' ', Enumerable.Range(0, points.Count))}\n", area)
            : ("saw.obj", $"{string.Join('\n', points.Select(p => "v " + Tilted(p)))}\nf {string.Join(' ', Enumerable.Range(1, points.Count))}\n", area);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(3)]
    [InlineData(60)]
    [InlineData(400)]
    public void A_polygon_that_is_not_convex_is_filled_within_its_outline_however_many_corners_it_has(int teeth)
    {
        foreach (var isPly in new[] { false, true })
        {
            var (name, text, area) = Saw(teeth, isPly);
            var imported = Read(name, text);
            var mesh = Only(imported);
            Assert.Equal(area, Area(mesh), 1e-3 * area);
            Assert.Equal(2 * teeth + 3 - 2, mesh.TriangleCount);
            Assert.Empty(imported.Report.Skipped);
            // It faces one way.
            Assert.All(mesh.Normals.Chunk(3), n => Assert.Equal(mesh.Normals[..3], n));
        }
    }

    [Fact]
    public void A_convex_polygon_of_hundreds_of_corners_is_whole_and_one_that_crosses_itself_is_said()
    {
        var ring = string.Join('\n', Enumerable.Range(0, 700).Select(i => FormattableString.Invariant($"v {Math.Cos(i * Math.Tau / 700):R} {Math.Sin(i * Math.Tau / 700):R} 0")));
        Assert.Equal(Math.PI, Area(Only(Read("disc.obj", $"{ring}\nf {string.Join(' ', Enumerable.Range(1, 700))}\n"))), 1e-3);
        var star = string.Join('\n', Enumerable.Range(0, 5).Select(i => FormattableString.Invariant($"v {Math.Cos(i * 2 * Math.Tau / 5):R} {Math.Sin(i * 2 * Math.Tau / 5):R} 0")));
        Assert.Contains(Read("star.obj", $"{star}\nf 1 2 3 4 5\n").Report.Skipped, m => m.Contains("crosses itself", StringComparison.Ordinal));
        // An arrow of four corners: the fan from its first one would leave it.
        Assert.Equal(1, Area(Only(Read("arrow.obj", "v 0 0 0\nv 2 -1 0\nv 1 0 0\nv 2 1 0\nf 2 3 4 1\n"))), 1e-6);
    }

    private const string Cube = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n{0}f 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n";

    [Fact]
    public void Edges_are_sharp_by_their_angle_where_nothing_is_said_and_smooth_within_a_group()
    {
        Mesh Of(string smoothing) => Only(Read("cube.obj", Cube.Replace("{0}", smoothing, StringComparison.Ordinal)));
        foreach (var sharp in new[] { Of(""), Of("s off\n"), Of("s 0\n") })
        {
            Assert.Equal(24, sharp.VertexCount);
            // Every normal stands along an axis.
            Assert.All(sharp.Normals.Chunk(3), n => Assert.Equal(1, n.Max(MathF.Abs), 5));
        }
        var smooth = Of("s 1\n");
        Assert.Equal(8, smooth.VertexCount);
        Assert.All(smooth.Normals.Chunk(3), n => Assert.All(n, x => Assert.Equal(1 / MathF.Sqrt(3), MathF.Abs(x), 1e-4)));
        // Outwards, all of them.
        foreach (var mesh in new[] { Of(""), smooth })
        {
            for (var v = 0; v < mesh.VertexCount; v++)
            {
                Assert.True(Enumerable.Range(0, 3).Sum(i => mesh.Normals[3 * v + i] * (mesh.Positions[3 * v + i] - 0.5f)) > 0);
            }
        }
        // A round thing of many sides stays round: one normal a vertex.
        var sides = string.Join('\n', Enumerable.Range(0, 24).SelectMany(i => new[] { 0, 1 }.Select(z => FormattableString.Invariant($"v {Math.Cos(i * Math.Tau / 24):R} {Math.Sin(i * Math.Tau / 24):R} {z}"))));
        var wall = string.Join('\n', Enumerable.Range(0, 24).Select(i => $"f {2 * i + 1} {2 * ((i + 1) % 24) + 1} {2 * ((i + 1) % 24) + 2} {2 * i + 2}"));
        Assert.Equal(48, Only(Read("drum.obj", $"{sides}\n{wall}\n")).VertexCount);
    }

    [Fact]
    public void A_line_that_goes_on_in_the_next_one_is_one_line()
    {
        foreach (var end in new[] { "\n", "\r\n" })
        {
            Assert.Equal(1, Area(Only(Read("a.obj", $"v 0 0 \\{end}0{end}v 1 0 0{end}v 1 1 0{end}v 0 1 0{end}f 1 2 \\{end}3 4{end}"))), 1e-6);
        }
    }

    [Fact]
    public void Many_groups_of_one_name_are_numbered()
    {
        var text = new StringBuilder("v 0 0 0\nv 1 0 0\nv 0 1 0\n");
        for (var i = 0; i < 3000; i++)
        {
            text.Append("g Plank\nf 1 2 3\n");
        }
        var names = Read("a.obj", text.ToString()).Shot.Nodes.Select(n => n.Name).ToList();
        Assert.Equal((3000, "Plank", "Plank 3000"), (names.Distinct().Count(), names[0], names[^1]));
    }

    [Theory]
    [InlineData("a.obj", "", "no triangles")]
    [InlineData("a.obj", "v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "NaN")]
    [InlineData("a.stl", "", "too short")]
    [InlineData("a.stl", "solid a\nvertex 0 0 0\nvertex 1 0 0\n", "cut off")]
    [InlineData("a.ply", "nothing", "begin with")]
    [InlineData("a.ply", "ply\nformat ascii 1.0\n", "no end")]
    [InlineData("a.ply", "ply\nformat ascii 1.0\nelement vertex 2000000000\nproperty float x\nend_header\n1 2 3\n", "promises 2000000000")]
    [InlineData("a.ply", "ply\nformat ascii 1.0\nelement vertex -1\nend_header\n", "how many")]
    [InlineData("a.ply", "ply\nformat ascii 1.0\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n200 1 2\n", "beyond its end")]
    [InlineData("a.ply", "ply\nformat ascii 1.0\nelement vertex 1\nproperty quark x\nend_header\n1\n", "quark")]
    public void What_cannot_be_read_is_refused_in_a_sentence(string name, string text, string expected) =>
        Assert.Contains(expected, Assert.Throws<Refusal>(() => Read(name, text)).Message, StringComparison.Ordinal);

    [Fact]
    public void A_damaged_file_is_refused_in_a_sentence_or_gives_a_shot_that_keeps_to_the_rules() => Laws.ForSeeds((dice, _) =>
    {
        var (name, text) = dice.Next(3) switch { 0 => ("a.obj", Obj), 1 => ("a.stl", Stl), _ => ("a.ply", Ply) };
        var bytes = Encoding.UTF8.GetBytes(text);
        for (var i = dice.Next(1, 6); i > 0; i--)
        {
            bytes[dice.Next(bytes.Length)] = (byte)dice.Next(256);
        }
        try
        {
            ShotRules.Validate(Read(name, bytes[..dice.Next(1, bytes.Length + 1)]).Shot);
        }
        catch (Refusal e)
        {
            Assert.DoesNotContain('\n', e.Message);
        }
    }, 500);
}
