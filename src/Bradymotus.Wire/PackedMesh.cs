using System.Runtime.InteropServices;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Wire;

/// <summary>A mesh as numbers in their bytes, little-endian, so that the engine takes it over without looking at each.</summary>
public static partial class Packed
{
    public static byte[] WriteMesh(Mesh value)
    {
        var w = new PackWriter();
        w.List(11);
        Numbers(w, value.Positions);
        Numbers(w, value.Normals);
        Numbers(w, value.Indices);
        Numbers(w, value.TexCoords);
        Numbers(w, value.Colors);
        Numbers(w, value.Parts);
        w.Whole(value.Weights?.Influences ?? 0);
        Numbers(w, value.Weights?.Joints);
        Numbers(w, value.Weights?.Weights);
        w.Whole(value.Targets.Length);
        w.List(3 * value.Targets.Length);
        foreach (var target in value.Targets)
        {
            Numbers(w, target.Vertices);
            Numbers(w, target.Positions);
            Numbers(w, target.Normals);
        }
        return w.ToArray();
    }

    /// <exception cref="Refusal">The bytes are no mesh, or one that does not fit together.</exception>
    public static Mesh ReadMesh(ReadOnlySpan<byte> data, string what)
    {
        var r = new PackReader(data, what);
        r.List();
        var mesh = new Mesh(Numbers<float>(ref r) ?? [], Numbers<float>(ref r) ?? [], Numbers<int>(ref r) ?? [])
        {
            TexCoords = Numbers<float>(ref r),
            Colors = Numbers<float>(ref r),
            Parts = Numbers<int>(ref r) ?? [0],
        };
        var influences = r.Whole();
        var (joints, weights) = (Numbers<ushort>(ref r), Numbers<float>(ref r));
        var targets = new MorphTarget[Math.Clamp(r.Whole(), 0, 1000)];
        r.List();
        for (var t = 0; t < targets.Length; t++)
        {
            targets[t] = new(Numbers<int>(ref r), Numbers<float>(ref r) ?? [], Numbers<float>(ref r) ?? []);
        }
        mesh = mesh with { Targets = targets, Weights = joints is null || weights is null ? null : new(influences, joints, weights) };
        var n = mesh.VertexCount;
        var fits = mesh.Positions.Length == mesh.Normals.Length && mesh.Positions.Length % 3 == 0 && mesh.Indices.Length % 3 == 0
            && (mesh.TexCoords is null || mesh.TexCoords.Length == 2 * n) && (mesh.Colors is null || mesh.Colors.Length == 4 * n) && Array.TrueForAll(mesh.Indices, i => (uint)i < n)
            && (mesh.Weights is not { } skin || (influences > 0 && skin.Joints.Length == influences * n && skin.Weights.Length == influences * n))
            && Array.TrueForAll(targets, t => t.Positions.Length == t.Normals.Length && t.Positions.Length == 3 * (t.Vertices?.Length ?? n)
                && (t.Vertices is null || Array.TrueForAll(t.Vertices, v => (uint)v < n)));
        return fits ? mesh : throw new Refusal($"The {what} does not fit together: fetch it again.");
    }

    private static void Numbers<T>(PackWriter w, T[]? numbers)
        where T : unmanaged
    {
        if (numbers is null)
        {
            w.Null();
        }
        else
        {
            w.Bytes(MemoryMarshal.AsBytes(numbers.AsSpan()));
        }
    }

    private static T[]? Numbers<T>(ref PackReader r)
        where T : unmanaged
    {
        if (r.Null())
        {
            return null;
        }
        var bytes = r.Bytes();
        // A copy, since the bytes stand at any place.
        var numbers = new T[bytes.Length / System.Runtime.CompilerServices.Unsafe.SizeOf<T>()];
        bytes[..(numbers.Length * System.Runtime.CompilerServices.Unsafe.SizeOf<T>())].CopyTo(MemoryMarshal.AsBytes(numbers.AsSpan()));
        return numbers;
    }
}
