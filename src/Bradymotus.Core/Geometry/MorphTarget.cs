namespace Bradymotus.Core.Geometry;

/// <summary>How a mesh differs in another shape of itself: what is added to its vertices at full weight.</summary>
/// <param name="Vertices">Which vertices are moved, rising; null is all of them, in their order.</param>
/// <param name="Positions">x, y, z for each of these.</param>
/// <param name="Normals">x, y, z for each of these, added before the normal is made of length 1 again.</param>
public sealed record MorphTarget(int[]? Vertices, float[] Positions, float[] Normals)
{
    /// <summary>Keeps only the vertices that move, where these are few.</summary>
    /// <param name="positions">x, y, z for each vertex of the mesh.</param>
    /// <param name="normals">x, y, z for each vertex of the mesh.</param>
    public static MorphTarget Of(float[] positions, float[] normals)
    {
        var moved = new List<int>();
        for (var v = 0; v < positions.Length; v += 3)
        {
            if (positions[v] != 0 || positions[v + 1] != 0 || positions[v + 2] != 0 || normals[v] != 0 || normals[v + 1] != 0 || normals[v + 2] != 0)
            {
                moved.Add(v / 3);
            }
        }
        if (6 * moved.Count > positions.Length)
        {
            return new(null, positions, normals);
        }
        static float[] Few(List<int> vertices, float[] all)
        {
            var few = new float[3 * vertices.Count];
            for (var i = 0; i < vertices.Count; i++)
            {
                all.AsSpan(3 * vertices[i], 3).CopyTo(few.AsSpan(3 * i));
            }
            return few;
        }
        return new([.. moved], Few(moved, positions), Few(moved, normals));
    }
}
