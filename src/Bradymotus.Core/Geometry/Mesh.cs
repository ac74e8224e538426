namespace Bradymotus.Core.Geometry;

/// <summary>Triangles at rest. Never changed after it is made.</summary>
/// <param name="Positions">x, y, z for each vertex, metres, in the object's own space.</param>
/// <param name="Normals">x, y, z for each vertex, length 1.</param>
/// <param name="Indices">Three a triangle, counter-clockwise seen from outside.</param>
public sealed record Mesh(float[] Positions, float[] Normals, int[] Indices)
{
    private static int _made;

    /// <summary>Different for every mesh of the process.</summary>
    public int Id { get; } = NextId();

    /// <summary>A number that no mesh and no bent shape of the process has had.</summary>
    internal static int NextId() => Interlocked.Increment(ref _made);

    public int VertexCount => Positions.Length / 3;

    public int TriangleCount => Indices.Length / 3;

    /// <summary>The corners of the axis-aligned box round all vertices; zero for an empty mesh.</summary>
    public (Numerics.Double3 Min, Numerics.Double3 Max) Bounds()
    {
        if (Positions.Length == 0)
        {
            return default;
        }
        Span<float> min = [float.MaxValue, float.MaxValue, float.MaxValue];
        Span<float> max = [float.MinValue, float.MinValue, float.MinValue];
        for (var i = 0; i < Positions.Length; i++)
        {
            min[i % 3] = Math.Min(min[i % 3], Positions[i]);
            max[i % 3] = Math.Max(max[i % 3], Positions[i]);
        }
        return (new(min[0], min[1], min[2]), new(max[0], max[1], max[2]));
    }
}
