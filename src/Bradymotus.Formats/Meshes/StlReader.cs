using System.Buffers.Binary;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Formats.Meshes;

/// <summary>STL, as text or binary: triangles, each with corners of its own and flat.</summary>
internal static class StlReader
{
    internal static Imported Read(SourceFiles files, ImportOptions options)
    {
        var bytes = files.Read();
        var scene = new MeshScene(files.Name, options);
        // A binary file says in its bytes 80 to 83 how many triangles of 50 bytes follow; some begin with “solid” all the same.
        var count = bytes.Length >= 84 ? BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(80)) : 0;
        if (bytes.Length >= 84 && bytes.Length == 84 + 50L * count)
        {
            Check(count);
            var positions = new float[9 * count];
            for (var t = 0; t < count; t++)
            {
                for (var i = 0; i < 9; i++)
                {
                    positions[9 * t + i] = BinaryPrimitives.ReadSingleLittleEndian(bytes.AsSpan(84 + 50 * t + 12 + 4 * i));
                }
            }
            Add(scene, Path.GetFileNameWithoutExtension(files.Name), positions);
        }
        else if (bytes.AsSpan().TrimStart((byte)' ').StartsWith("solid"u8))
        {
            var lines = new Lines(bytes);
            var positions = new List<float>();
            string? name = null;
            while (lines.Next())
            {
                var word = lines.Word();
                if (word.SequenceEqual("solid"u8))
                {
                    name = lines.Line;
                }
                else if (word.SequenceEqual("vertex"u8))
                {
                    positions.Add(lines.Float());
                    positions.Add(lines.Float());
                    positions.Add(lines.Float());
                    Check((uint)positions.Count / 9);
                }
                else if (word.SequenceEqual("endsolid"u8))
                {
                    Add(scene, string.IsNullOrEmpty(name) ? Path.GetFileNameWithoutExtension(files.Name) : name, [.. positions]);
                    positions.Clear();
                }
            }
            if (positions.Count > 0)
            {
                throw new Refusal($"{files.Name} ends in the middle: it seems to have been cut off. Get the whole file.");
            }
        }
        else
        {
            throw new Refusal($"{files.Name} cannot be read as STL: it neither begins with “solid” nor has the length of {count} triangles that it says it has{(bytes.Length >= 84 ? "" : ", and is too short")}.");
        }
        return scene.ToImported();
    }

    private static void Check(uint triangles)
    {
        if (3L * triangles > Shape.MostVertices)
        {
            throw new Refusal($"The file has {triangles} triangles or more, with more corners than the {Shape.MostVertices} vertices that a shape can have: split it.");
        }
    }

    private static void Add(MeshScene scene, string name, float[] positions)
    {
        int[] indices = [.. Enumerable.Range(0, positions.Length / 9 * 3)];
        scene.Add(name, new Mesh(positions, Normals.Smooth(positions, indices), indices), []);
    }
}
