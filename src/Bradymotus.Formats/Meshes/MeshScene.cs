using System.Collections.Immutable;
using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats.Meshes;

/// <summary>Collects the meshes of a file that knows nothing but meshes, and makes a shot of them.</summary>
internal sealed class MeshScene(string name, ImportOptions options)
{
    private readonly List<Node> _nodes = [];
    private readonly List<Material> _materials = [];
    private readonly Dictionary<string, Asset> _assets = [];
    private readonly NodeNames _names = new();

    internal List<string> Skipped { get; } = [];

    /// <summary>Adds a material; its id comes back.</summary>
    internal string AddMaterial(string? name, IEnumerable<(string Path, double Value)> channels, IEnumerable<SurfaceMap>? maps = null)
    {
        var id = $"material-{_materials.Count}";
        _materials.Add(new(id, NodeNames.Clean(name, "Material"), channels.Where(c => double.IsFinite(c.Value)).DistinctBy(c => c.Path)
            .ToImmutableSortedDictionary(c => c.Path, c => new Channel(c.Value), StringComparer.Ordinal))
        { Maps = [.. maps ?? []] });
        return id;
    }

    /// <summary>A picture beside the file; null, and said, where it is not there or cannot be read.</summary>
    internal PictureSource? PictureBeside(SourceFiles files, string path)
    {
        try
        {
            if (files.ReadBeside(path) is not { } bytes)
            {
                Skipped.Add($"The picture “{path}” is not beside the file: bring both in together.");
                return null;
            }
            var (picture, asset) = PictureFile.Read(bytes, path);
            _assets.TryAdd(asset.Name, asset);
            return picture;
        }
        catch (Refusal e)
        {
            Skipped.Add(e.Message);
            return null;
        }
    }

    /// <summary>Adds a mesh as an object; one that is empty, or holds numbers that are none, is left out and said.</summary>
    /// <param name="materials">The id of the material of each part, "" for none.</param>
    internal void Add(string? name, Mesh mesh, IReadOnlyList<string> materials)
    {
        var clean = NodeNames.Clean(name, "Mesh");
        if (mesh.TriangleCount == 0)
        {
            Skipped.Add($"{clean} was left out: it has no triangles.");
            return;
        }
        if (mesh.VertexCount > Shape.MostVertices || mesh.TriangleCount > AssetShape.MostTriangles)
        {
            Skipped.Add($"{clean} was left out: it has {mesh.VertexCount} vertices and {mesh.TriangleCount} triangles, more than the {Shape.MostVertices} and {AssetShape.MostTriangles} that a shape can have.");
            return;
        }
        if (!Array.TrueForAll(mesh.Positions, float.IsFinite))
        {
            Skipped.Add($"{clean} was left out: it holds numbers that are none (NaN or infinite).");
            return;
        }
        if (_nodes.Count >= ShotRules.MostNodes)
        {
            throw new Refusal($"The file has more than {ShotRules.MostNodes} objects, the most that a shot can hold: split it.");
        }
        var asset = Asset.Of(MeshFile.Write(mesh));
        _assets.TryAdd(asset.Name, asset);
        var areSame = materials.Distinct().Count() <= 1;
        _nodes.Add(new MeshNode
        {
            Id = $"mesh-{_nodes.Count}",
            Name = _names.Take(clean, clean),
            Shape = new AssetShape(asset.Name, mesh.VertexCount, mesh.TriangleCount),
            Material = areSame && materials.Count > 0 && materials[0].Length > 0 ? materials[0] : null,
            PartMaterials = areSame ? [] : [.. materials],
        });
    }

    /// <exception cref="Refusal">Nothing came of the file.</exception>
    internal Imported ToImported()
    {
        if (_nodes.Count == 0)
        {
            throw new Refusal(Skipped.Count > 0 ? $"{name} holds nothing that can be drawn. {Skipped[0]}" : $"{name} holds no triangles: export it again from where it comes from.");
        }
        var shot = Shot.Empty(NodeNames.Clean(Path.GetFileNameWithoutExtension(name), "Imported")) with { Rate = options.Usual, Nodes = [.. _nodes], Materials = [.. _materials] };
        ShotRules.Validate(shot);
        var triangles = _nodes.OfType<MeshNode>().Sum(m => ((AssetShape)m.Shape).Triangles);
        static string Count(int n, string one, string many) => $"{n.ToString(CultureInfo.InvariantCulture)} {(n == 1 ? one : many)}";
        var imported = new List<string> { Count(_nodes.Count, "mesh", "meshes"), Count(triangles, "triangle", "triangles") };
        if (_materials.Count > 0)
        {
            imported.Add(Count(_materials.Count, "material", "materials"));
        }
        return new(shot, [.. _assets.Values], new(imported, [.. Skipped.Distinct()]));
    }
}
