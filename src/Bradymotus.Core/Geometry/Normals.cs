namespace Bradymotus.Core.Geometry;

/// <summary>Smooth normals from triangles.</summary>
public static class Normals
{
    /// <summary>For each vertex the mean of the normals of its triangles, each by its area; straight up where there is none.</summary>
    /// <param name="positions">x, y, z for each vertex.</param>
    /// <param name="indices">Three a triangle.</param>
    public static float[] Smooth(ReadOnlySpan<float> positions, ReadOnlySpan<int> indices)
    {
        var normals = new float[positions.Length];
        for (var i = 0; i + 2 < indices.Length; i += 3)
        {
            int a = 3 * indices[i], b = 3 * indices[i + 1], c = 3 * indices[i + 2];
            var (abx, aby, abz) = (positions[b] - positions[a], positions[b + 1] - positions[a + 1], positions[b + 2] - positions[a + 2]);
            var (acx, acy, acz) = (positions[c] - positions[a], positions[c + 1] - positions[a + 1], positions[c + 2] - positions[a + 2]);
            var (x, y, z) = (aby * acz - abz * acy, abz * acx - abx * acz, abx * acy - aby * acx);
            Add(normals, a, x, y, z);
            Add(normals, b, x, y, z);
            Add(normals, c, x, y, z);
        }
        for (var v = 0; v + 2 < normals.Length; v += 3)
        {
            var length = Math.Sqrt((double)normals[v] * normals[v] + (double)normals[v + 1] * normals[v + 1] + (double)normals[v + 2] * normals[v + 2]);
            if (length > 0 && double.IsFinite(length))
            {
                (normals[v], normals[v + 1], normals[v + 2]) = ((float)(normals[v] / length), (float)(normals[v + 1] / length), (float)(normals[v + 2] / length));
            }
            else
            {
                (normals[v], normals[v + 1], normals[v + 2]) = (0, 1, 0);
            }
        }
        return normals;
    }

    private static void Add(float[] normals, int at, float x, float y, float z)
    {
        normals[at] += x;
        normals[at + 1] += y;
        normals[at + 2] += z;
    }
}
