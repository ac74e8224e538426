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
        Importer.Read(new FilesInMemory(name, beside.Select(b => (b.Name, Bytes: Encoding.UTF8.GetBytes(b.Text))).Append((name, bytes)).ToDictionary(f => f.Item1, f => f.Item2)), new(FrameRate.Film));

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
        Assert.Contains(imported.Report.Missed, m => m.Contains("a.mtl", StringComparison.Ordinal));
        Assert.Contains(imported.Report.Missed, m => m.StartsWith("1 faces", StringComparison.Ordinal));
        Assert.Contains(imported.Report.Missed, m => m.StartsWith("Lines", StringComparison.Ordinal));
        Assert.Contains(Read("a.obj", Obj.Replace("a.mtl", "../../etc/passwd", StringComparison.Ordinal)).Report.Missed, m => m.Contains("outside", StringComparison.Ordinal));
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
