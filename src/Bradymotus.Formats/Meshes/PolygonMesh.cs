using Bradymotus.Core.Geometry;

namespace Bradymotus.Formats.Meshes;

/// <summary>
/// Polygons as a file has them, to become a mesh: taken apart within their outlines, with normals where there are none. Those are smooth within a smoothing
/// group, or, where the file says nothing, over edges that bend little; a vertex that then has several becomes as many.
/// </summary>
internal sealed class PolygonMesh
{
    /// <summary>The file says nothing of what is smooth: it goes by the angle.</summary>
    internal const int ByAngle = -1;

    /// <summary>Nothing is smooth.</summary>
    internal const int Flat = 0;

    // Over 45°: the sides of a box are sharp, those of a cylinder of 12 are not. Its cosine.
    private const float CosSharp = 0.7071f;

    // Around a point with more faces the angle is not asked one by one, which would take their square.
    private const int MostAround = 256;

    private readonly List<int> _corners = [], _starts = [0], _smoothing = [], _parts = [];

    internal int FaceCount => _smoothing.Count;

    /// <summary>Adds a face.</summary>
    /// <param name="corners">Its vertices, in order.</param>
    /// <param name="smoothing">A group above 0, <see cref="Flat"/> or <see cref="ByAngle"/>.</param>
    /// <param name="part">The part of the mesh that it belongs to.</param>
    internal void Add(ReadOnlySpan<int> corners, int smoothing, int part)
    {
        _corners.AddRange(corners);
        _starts.Add(_corners.Count);
        _smoothing.Add(smoothing);
        _parts.Add(part);
    }

    /// <summary>Makes the mesh.</summary>
    /// <param name="positions">Of each vertex.</param>
    /// <param name="normals">Of each vertex, 0 where it has none.</param>
    /// <param name="texCoords">Of each vertex; null for none.</param>
    /// <param name="colors">Of each vertex; null for none.</param>
    /// <param name="placeOf">The place of each vertex, by number: those at one place are smooth together.</param>
    /// <param name="parts">How many parts there are.</param>
    /// <param name="wrong">How many polygons have no clear inside.</param>
    internal Mesh Make(float[] positions, float[] normals, float[]? texCoords, float[]? colors, ReadOnlySpan<int> placeOf, int parts, out int wrong)
    {
        wrong = 0;
        var corners = System.Runtime.InteropServices.CollectionsMarshal.AsSpan(_corners);
        var faceNormals = FaceNormals(positions, corners);
        var around = Around(corners, placeOf, out var first);
        var made = new Vertices(positions, normals, texCoords, colors);
        var ownCorner = new int[corners.Length];
        for (var f = 0; f < FaceCount; f++)
        {
            for (var c = _starts[f]; c < _starts[f + 1]; c++)
            {
                var vertex = corners[c];
                ownCorner[c] = made.HasNormal(vertex) ? vertex
                    : made.With(vertex, Smooth(f, around.AsSpan(first[placeOf[vertex]]..first[placeOf[vertex] + 1]), faceNormals));
            }
        }
        var byPart = new List<int>[parts];
        var triangles = new List<int>();
        for (var f = 0; f < FaceCount; f++)
        {
            var face = corners[_starts[f].._starts[f + 1]];
            triangles.Clear();
            wrong += PolygonTriangles.Add(face, positions, triangles) ? 0 : 1;
            var indices = byPart[_parts[f]] ??= [];
            foreach (var corner in triangles)
            {
                indices.Add(ownCorner[_starts[f] + corner]);
            }
        }
        var starts = new int[parts];
        var all = new List<int>();
        for (var p = 0; p < parts; p++)
        {
            starts[p] = all.Count / 3;
            all.AddRange(byPart[p] ?? []);
        }
        return made.ToMesh([.. all], starts);
    }

    private float[] FaceNormals(float[] positions, ReadOnlySpan<int> corners)
    {
        var normals = new float[3 * FaceCount];
        for (var f = 0; f < FaceCount; f++)
        {
            var face = corners[_starts[f].._starts[f + 1]];
            double x = 0, y = 0, z = 0;
            for (var i = 0; i < face.Length; i++)
            {
                var (a, b) = (3 * face[i], 3 * face[(i + 1) % face.Length]);
                x += ((double)positions[a + 1] - positions[b + 1]) * ((double)positions[a + 2] + positions[b + 2]);
                y += ((double)positions[a + 2] - positions[b + 2]) * ((double)positions[a] + positions[b]);
                z += ((double)positions[a] - positions[b]) * ((double)positions[a + 1] + positions[b + 1]);
            }
            // As long as twice the area, so that large faces count for more.
            (normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]) = ((float)x, (float)y, (float)z);
        }
        return normals;
    }

    /// <summary>The faces around each place, one place after the other.</summary>
    private int[] Around(ReadOnlySpan<int> corners, ReadOnlySpan<int> placeOf, out int[] first)
    {
        var places = 0;
        foreach (var place in placeOf)
        {
            places = Math.Max(places, place + 1);
        }
        first = new int[places + 1];
        foreach (var corner in corners)
        {
            first[placeOf[corner] + 1]++;
        }
        for (var p = 0; p < places; p++)
        {
            first[p + 1] += first[p];
        }
        var next = first.AsSpan().ToArray();
        var around = new int[corners.Length];
        for (var f = 0; f < FaceCount; f++)
        {
            for (var c = _starts[f]; c < _starts[f + 1]; c++)
            {
                around[next[placeOf[corners[c]]]++] = f;
            }
        }
        return around;
    }

    private (float X, float Y, float Z) Smooth(int face, ReadOnlySpan<int> around, float[] normals)
    {
        var own = (X: normals[3 * face], Y: normals[3 * face + 1], Z: normals[3 * face + 2]);
        if (_smoothing[face] == Flat)
        {
            return own;
        }
        var length = MathF.Sqrt(own.X * own.X + own.Y * own.Y + own.Z * own.Z);
        double x = 0, y = 0, z = 0;
        foreach (var other in around)
        {
            var (ox, oy, oz) = (normals[3 * other], normals[3 * other + 1], normals[3 * other + 2]);
            var isTogether = _smoothing[face] != ByAngle ? _smoothing[other] == _smoothing[face]
                : _smoothing[other] == ByAngle && (around.Length > MostAround || ox * own.X + oy * own.Y + oz * own.Z >= CosSharp * length * MathF.Sqrt(ox * ox + oy * oy + oz * oz));
            if (isTogether)
            {
                (x, y, z) = (x + ox, y + oy, z + oz);
            }
        }
        return x == 0 && y == 0 && z == 0 ? own : ((float)x, (float)y, (float)z);
    }

    /// <summary>The vertices of the file, and behind them those that had to be made of one that has several normals.</summary>
    private sealed class Vertices
    {
        private readonly List<float> _positions, _normals;
        private readonly List<float>? _texCoords, _colors;
        private readonly bool[] _hasNormal, _isTaken;
        // The next of those that were made of the same one; −1 for none.
        private readonly List<int> _next;

        internal Vertices(float[] positions, float[] normals, float[]? texCoords, float[]? colors)
        {
            (_positions, _normals, _texCoords, _colors) = ([.. positions], [.. normals], texCoords is null ? null : [.. texCoords], colors is null ? null : [.. colors]);
            var count = positions.Length / 3;
            (_hasNormal, _isTaken) = (new bool[count], new bool[count]);
            _next = [.. Enumerable.Repeat(-1, count)];
            for (var v = 0; v < count; v++)
            {
                _hasNormal[v] = Unit(normals[3 * v], normals[3 * v + 1], normals[3 * v + 2]) is { } unit && Set(v, unit);
            }
        }

        internal bool HasNormal(int vertex) => _hasNormal[vertex];

        /// <summary>The vertex with this normal: itself the first time, then itself or another that was made of it.</summary>
        internal int With(int vertex, (float X, float Y, float Z) normal)
        {
            var unit = Unit(normal.X, normal.Y, normal.Z) ?? (0, 1, 0);
            if (!_isTaken[vertex])
            {
                _isTaken[vertex] = Set(vertex, unit);
                return vertex;
            }
            var last = vertex;
            for (var v = vertex; v >= 0; v = _next[v])
            {
                if (_normals[3 * v] * unit.X + _normals[3 * v + 1] * unit.Y + _normals[3 * v + 2] * unit.Z > 0.99999f)
                {
                    return v;
                }
                last = v;
            }
            var made = _next.Count;
            _next.Add(-1);
            _next[last] = made;
            Again(_positions, 3, vertex);
            _normals.AddRange([unit.X, unit.Y, unit.Z]);
            Again(_texCoords, 2, vertex);
            Again(_colors, 4, vertex);
            return made;
        }

        internal Mesh ToMesh(int[] indices, int[] parts) =>
            new([.. _positions], [.. _normals], indices) { TexCoords = _texCoords?.ToArray(), Colors = _colors?.ToArray(), Parts = parts };

        private static void Again(List<float>? numbers, int each, int vertex)
        {
            for (var i = 0; i < each && numbers is not null; i++)
            {
                numbers.Add(numbers[each * vertex + i]);
            }
        }

        private bool Set(int vertex, (float X, float Y, float Z) unit)
        {
            (_normals[3 * vertex], _normals[3 * vertex + 1], _normals[3 * vertex + 2]) = unit;
            return true;
        }

        private static (float X, float Y, float Z)? Unit(float x, float y, float z)
        {
            var length = MathF.Sqrt(x * x + y * y + z * z);
            return length > 0 && float.IsFinite(length) ? (x / length, y / length, z / length) : null;
        }
    }
}
