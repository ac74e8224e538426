using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>
/// Collects patches of a grid of quads into one mesh. Shared by every basic shape. Used again for a shape of as many vertices it allocates
/// nothing, so that shapes whose numbers are animated can be built on every frame.
/// </summary>
internal sealed class MeshBuilder
{
    /// <summary>A point of a profile: distance from the Y axis and height.</summary>
    internal readonly record struct Profile(double Radius, double Height);

    private int[] _indices = [];
    private int _vertices, _indexCount;

    /// <summary>x, y, z for each vertex.</summary>
    internal float[] Positions { get; private set; } = [];

    /// <summary>x, y, z for each vertex, length 1.</summary>
    internal float[] Normals { get; private set; } = [];

    /// <summary>u, v for each vertex.</summary>
    internal float[] TexCoords { get; private set; } = [];

    /// <summary>Three a triangle.</summary>
    internal ReadOnlySpan<int> Indices => _indices.AsSpan(0, _indexCount);

    /// <summary>How many vertices there are so far.</summary>
    internal int VertexCount => _vertices;

    /// <summary>Begins anew.</summary>
    /// <param name="vertices">How many vertices there will be.</param>
    internal void Start(long vertices)
    {
        if (Positions.Length != 3 * vertices)
        {
            (Positions, Normals, TexCoords) = (new float[3 * vertices], new float[3 * vertices], new float[2 * vertices]);
        }
        (_vertices, _indexCount) = (0, 0);
    }

    /// <summary>A mesh of what has been collected, with arrays of its own.</summary>
    internal Mesh ToMesh() => new([.. Positions], [.. Normals], Indices.ToArray()) { TexCoords = [.. TexCoords] };

    /// <summary>A patch over u and v in −1…1; ∂u × ∂v points outwards.</summary>
    internal void Patch<T>(int columns, int rows, in T state, Func<T, double, double, (Double3 Position, Double3 Normal)> at)
    {
        var start = _vertices;
        for (var j = 0; j <= rows; j++)
        {
            for (var i = 0; i <= columns; i++)
            {
                var (p, n) = at(state, 2.0 * i / columns - 1, 2.0 * j / rows - 1);
                Add(p, n, (double)i / columns, 1 - (double)j / rows);
            }
        }
        Quads(start, columns, rows);
    }

    /// <summary>A profile turned about the Y axis; its rows run upwards on the outside.</summary>
    /// <param name="segments">How many steps round the axis.</param>
    /// <param name="rows">The last row of the profile.</param>
    /// <param name="sector">How far round it goes, in degrees.</param>
    internal void Ring<T>(int segments, int rows, double sector, in T state, Func<T, int, (Profile Position, Profile Normal)> profile)
    {
        var start = _vertices;
        for (var j = 0; j <= rows; j++)
        {
            var (p, n) = profile(state, j);
            for (var i = 0; i <= segments; i++)
            {
                var (s, c) = Real.SinCosDegrees(-sector * i / segments);
                Add(new(p.Radius * c, p.Height, p.Radius * s), new(n.Radius * c, n.Height, n.Radius * s), (double)i / segments, 1 - (double)j / rows);
            }
        }
        Quads(start, segments, rows);
    }

    /// <summary>The two flat faces where a body that is turned about the Y axis is cut open: from an inner to an outer profile.</summary>
    internal void Walls<T>(int rows, double sector, in T state, Func<T, int, (Profile Inner, Profile Outer)> profile)
    {
        for (var side = 0; side < 2; side++)
        {
            var start = _vertices;
            var (s, c) = side == 0 ? (0, 1) : Real.SinCosDegrees(-sector);
            var normal = side == 0 ? Double3.UnitZ : new Double3(s, 0, -c);
            for (var j = 0; j <= rows; j++)
            {
                var (inner, outer) = profile(state, j);
                for (var i = 0; i < 2; i++)
                {
                    var p = i == side ? inner : outer;
                    Add(new(p.Radius * c, p.Height, p.Radius * s), normal, i, 1 - (double)j / rows);
                }
            }
            Quads(start, 1, rows);
        }
    }

    internal int Add(Double3 p, Double3 n, double u, double v)
    {
        var at = 3 * _vertices;
        (Positions[at], Positions[at + 1], Positions[at + 2]) = ((float)p.X, (float)p.Y, (float)p.Z);
        (Normals[at], Normals[at + 1], Normals[at + 2]) = ((float)n.X, (float)n.Y, (float)n.Z);
        (TexCoords[2 * _vertices], TexCoords[2 * _vertices + 1]) = ((float)u, (float)v);
        return _vertices++;
    }

    /// <summary>Two triangles for each field of a grid whose vertices have been added row by row.</summary>
    internal void Quads(int start, int columns, int rows)
    {
        for (var j = 0; j < rows; j++)
        {
            for (var i = 0; i < columns; i++)
            {
                var a = start + j * (columns + 1) + i;
                var (b, c, d) = (a + 1, a + columns + 2, a + columns + 1);
                Triangle(a, b, c);
                Triangle(a, c, d);
            }
        }
    }

    /// <summary>Poles of a revolved profile give triangles without area; they are left out.</summary>
    internal void Triangle(int a, int b, int c)
    {
        if (!Same(a, b) && !Same(b, c) && !Same(c, a))
        {
            if (_indexCount + 3 > _indices.Length)
            {
                Array.Resize(ref _indices, Math.Max(6 * (Positions.Length / 3), 2 * _indices.Length + 3));
            }
            _indices[_indexCount++] = a;
            _indices[_indexCount++] = b;
            _indices[_indexCount++] = c;
        }
    }

    private bool Same(int a, int b) =>
        Positions[3 * a] == Positions[3 * b] && Positions[3 * a + 1] == Positions[3 * b + 1] && Positions[3 * a + 2] == Positions[3 * b + 2];
}
