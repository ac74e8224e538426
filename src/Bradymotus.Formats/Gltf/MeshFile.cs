using System.Runtime.InteropServices;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using SharpGLTF.Schema2;
using Mesh = Bradymotus.Core.Geometry.Mesh;

namespace Bradymotus.Formats.Gltf;

/// <summary>
/// A mesh as an asset: a small GLB with one mesh, whose primitives are its parts and share one set of vertices. Positions, normals, texture
/// coordinates and morph targets are floats, joints 16-bit, indices 32-bit.
/// </summary>
public static class MeshFile
{
    /// <summary>The same mesh gives the same bytes.</summary>
    public static byte[] Write(Mesh mesh)
    {
        var model = ModelRoot.CreateModel();
        var gltf = model.CreateMesh("mesh");
        model.UseScene(0).CreateNode("mesh").Mesh = gltf;
        Accessor Vertices<T>(T[] data, DimensionType dimensions, EncodingType encoding, int count)
            where T : unmanaged
        {
            var view = model.UseBufferView(MemoryMarshal.AsBytes(data.AsSpan()).ToArray(), 0, null, 0, BufferMode.ARRAY_BUFFER);
            var accessor = model.CreateAccessor();
            accessor.SetVertexData(view, 0, count, new SharpGLTF.Memory.AttributeFormat(dimensions, encoding, false));
            return accessor;
        }
        Accessor Floats(float[] data, DimensionType dimensions, int count) => Vertices(data, dimensions, EncodingType.FLOAT, count);

        var n = mesh.VertexCount;
        var attributes = new List<(string, Accessor)> { ("POSITION", Floats(mesh.Positions, DimensionType.VEC3, n)), ("NORMAL", Floats(mesh.Normals, DimensionType.VEC3, n)) };
        if (mesh.TexCoords is { } uv)
        {
            attributes.Add(("TEXCOORD_0", Floats(uv, DimensionType.VEC2, n)));
        }
        if (mesh.Colors is { } colors)
        {
            attributes.Add(("COLOR_0", Floats(colors, DimensionType.VEC4, n)));
        }
        if (mesh.Weights is { } skin)
        {
            foreach (var (set, (joints, weights)) in Sets(skin, n).Index())
            {
                attributes.Add(($"JOINTS_{set}", Vertices(joints, DimensionType.VEC4, EncodingType.UNSIGNED_SHORT, n)));
                attributes.Add(($"WEIGHTS_{set}", Floats(weights, DimensionType.VEC4, n)));
            }
        }
        var targets = mesh.Targets.Select(t => new Dictionary<string, Accessor>
        {
            ["POSITION"] = Floats(All(t.Vertices, t.Positions, n), DimensionType.VEC3, n),
            ["NORMAL"] = Floats(All(t.Vertices, t.Normals, n), DimensionType.VEC3, n),
        }).ToList();
        for (var part = 0; part < mesh.Parts.Length; part++)
        {
            var (from, to) = (3 * mesh.Parts[part], part + 1 < mesh.Parts.Length ? 3 * mesh.Parts[part + 1] : mesh.Indices.Length);
            var primitive = gltf.CreatePrimitive();
            foreach (var (name, accessor) in attributes)
            {
                primitive.SetVertexAccessor(name, accessor);
            }
            for (var t = 0; t < targets.Count; t++)
            {
                primitive.SetMorphTargetAccessors(t, targets[t]);
            }
            if (to > from)
            {
                var view = model.UseBufferView(MemoryMarshal.AsBytes(mesh.Indices.AsSpan(from, to - from)).ToArray(), 0, null, 0, BufferMode.ELEMENT_ARRAY_BUFFER);
                var indices = model.CreateAccessor();
                indices.SetIndexData(view, 0, to - from, IndexEncodingType.UNSIGNED_INT);
                primitive.SetIndexAccessor(indices);
            }
        }
        return [.. model.WriteGLB(new WriteSettings { Validation = SharpGLTF.Validation.ValidationMode.Skip })];
    }

    /// <exception cref="Refusal">The bytes are no mesh that <see cref="Write"/> has written.</exception>
    public static Mesh Read(byte[] bytes)
    {
        try
        {
            var model = ModelRoot.ParseGLB(bytes, new ReadSettings { Validation = SharpGLTF.Validation.ValidationMode.Skip });
            return GltfMeshes.Read(model.LogicalMeshes[0], isOurs: true, new("The mesh", GltfBudget.Own), new List<string>()).Mesh;
        }
        catch (Exception e) when (e is not (Refusal or OutOfMemoryException))
        {
            throw new Refusal($"A mesh beside the shot is damaged: {e.Message.ReplaceLineEndings(" ").TrimEnd('.')}. Import it again.", e);
        }
    }

    /// <summary>Joints and weights in sets of four, as glTF has them.</summary>
    internal static IEnumerable<(ushort[] Joints, float[] Weights)> Sets(SkinWeights skin, int vertices)
    {
        for (var first = 0; first < skin.Influences; first += 4)
        {
            var (joints, weights) = (new ushort[4 * vertices], new float[4 * vertices]);
            for (var v = 0; v < vertices; v++)
            {
                for (var k = 0; k < 4 && first + k < skin.Influences; k++)
                {
                    (joints[4 * v + k], weights[4 * v + k]) = (skin.Joints[skin.Influences * v + first + k], skin.Weights[skin.Influences * v + first + k]);
                }
            }
            yield return (joints, weights);
        }
    }

    /// <summary>The numbers of all vertices, where only those of some are held.</summary>
    internal static float[] All(int[]? vertices, float[] few, int count)
    {
        if (vertices is null)
        {
            return few;
        }
        var all = new float[3 * count];
        for (var i = 0; i < vertices.Length; i++)
        {
            few.AsSpan(3 * i, 3).CopyTo(all.AsSpan(3 * vertices[i]));
        }
        return all;
    }
}
