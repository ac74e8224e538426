namespace Bradymotus.Core.Geometry;

/// <summary>Triangles at rest. Never changed after it is made.</summary>
/// <param name="Positions">x, y, z for each vertex, metres, in the object's own space.</param>
/// <param name="Normals">x, y, z for each vertex, length 1.</param>
/// <param name="Indices">Three a triangle, counter-clockwise seen from outside.</param>
public sealed record Mesh(float[] Positions, float[] Normals, int[] Indices)
{
    private static int _made;

    /// <summary>No triangles.</summary>
    public static Mesh Empty { get; } = new([], [], []);

    /// <summary>u, v for each vertex, v downwards as glTF 2.0 has it; null where there are none.</summary>
    public float[]? TexCoords { get; init; }

    /// <summary>Red, green, blue (linear) and opacity of each vertex, that the material is multiplied by; null where there are none.</summary>
    public float[]? Colors { get; init; }

    /// <summary>The first triangle of each part that has a material of its own, rising from 0.</summary>
    public int[] Parts { get; init; } = [0];

    /// <summary>Its other shapes.</summary>
    public MorphTarget[] Targets { get; init; } = [];

    /// <summary>What joints carry it; null where none do.</summary>
    public SkinWeights? Weights { get; init; }

    /// <summary>The part that a triangle belongs to.</summary>
    public int PartOf(int triangle)
    {
        var part = Parts.Length - 1;
        while (part > 0 && Parts[part] > triangle)
        {
            part--;
        }
        return part;
    }

    /// <summary>Different for every mesh of the process.</summary>
    public int Id { get; } = NextId();

    /// <summary>A number that no mesh and no bent shape of the process has had.</summary>
    internal static int NextId() => Interlocked.Increment(ref _made);

    /// <summary>How many vertices there are.</summary>
    public int VertexCount => Positions.Length / 3;

    /// <summary>How many triangles there are.</summary>
    public int TriangleCount => Indices.Length / 3;

    /// <summary>The corners of the axis-aligned box round all vertices; zero for an empty mesh.</summary>
    public (Numerics.Double3 Min, Numerics.Double3 Max) Bounds() => (_bounds ??= new(FindBounds())).Value;

    // Found once; a reference, so that threads that ask at once never see half of it.
    private System.Runtime.CompilerServices.StrongBox<(Numerics.Double3 Min, Numerics.Double3 Max)>? _bounds;

    private (Numerics.Double3 Min, Numerics.Double3 Max) FindBounds()
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
