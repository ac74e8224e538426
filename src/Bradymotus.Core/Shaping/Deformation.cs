using Bradymotus.Core.Geometry;

namespace Bradymotus.Core.Shaping;

/// <summary>A shape on its way through its deformers, on one frame.</summary>
/// <param name="rest">The mesh as it comes in at first.</param>
/// <param name="positions">x, y, z for each vertex, to be moved in place.</param>
/// <param name="normals">x, y, z for each vertex, length 1 before and after.</param>
/// <param name="values">The values of the deformer's channels, in their order.</param>
/// <param name="joints">For a skin: from the bind pose to the mesh's own space, sixteen numbers a joint, column-major, the fourth row 0.</param>
public readonly ref struct Deformation(Mesh rest, Span<float> positions, Span<float> normals, ReadOnlySpan<double> values, ReadOnlySpan<float> joints)
{
    /// <summary>The mesh as it comes in at first.</summary>
    public Mesh Rest { get; } = rest;

    /// <summary>x, y, z for each vertex, to be moved in place.</summary>
    public Span<float> Positions { get; } = positions;

    /// <summary>x, y, z for each vertex, length 1 before and after.</summary>
    public Span<float> Normals { get; } = normals;

    /// <summary>The values of the deformer's channels, in their order.</summary>
    public ReadOnlySpan<double> Values { get; } = values;

    /// <summary>For a skin: from the bind pose to the mesh's own space, sixteen numbers a joint.</summary>
    public ReadOnlySpan<float> Joints { get; } = joints;

    /// <summary>The lowest and the highest y of the shape that comes in.</summary>
    public (float Low, float High) Height()
    {
        if (Positions.IsEmpty)
        {
            return (0, 0);
        }
        var (low, high) = (Positions[1], Positions[1]);
        for (var i = 4; i < Positions.Length; i += 3)
        {
            var y = Positions[i];
            low = y < low ? y : low;
            high = y > high ? y : high;
        }
        return (low, high);
    }
}
