using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>Collects patches of a grid of quads into one mesh. Shared by every basic shape.</summary>
internal sealed class GridBuilder
{
    /// <summary>A point of a profile: distance from the Y axis and height.</summary>
    internal readonly record struct Profile(double Radius, double Height);

    private readonly float[] _positions, _normals;
    private int[] _indices;
    private int _vertices, _indexCount;

    /// <param name="vertices">How many vertices the patches will have together.</param>
    internal GridBuilder(long vertices)
    {
        (_positions, _normals) = (new float[3 * vertices], new float[3 * vertices]);
        _indices = new int[6 * vertices];
    }

    /// <summary>A patch over u and v in −1…1; ∂u × ∂v points outwards.</summary>
    internal void Patch(int columns, int rows, Func<double, double, (Double3 Position, Double3 Normal)> at)
    {
        var start = _vertices;
        for (var j = 0; j <= rows; j++)
        {
            for (var i = 0; i <= columns; i++)
            {
                var (p, n) = at(2.0 * i / columns - 1, 2.0 * j / rows - 1);
                Add(p, n);
            }
        }
        Quads(start, columns, rows);
    }

    /// <summary>A profile turned about the Y axis; v runs 0…1 along it, upwards on the outside.</summary>
    internal void Ring(int segments, int rings, Func<double, (Profile Position, Profile Normal)> profile)
    {
        var start = _vertices;
        Span<(double Sin, double Cos)> turn = new (double, double)[segments + 1];
        for (var i = 0; i <= segments; i++)
        {
            turn[i] = Real.SinCosDegrees(-360.0 * i / segments);
        }
        for (var j = 0; j <= rings; j++)
        {
            var (p, n) = profile((double)j / rings);
            foreach (var (s, c) in turn)
            {
                Add(new(p.Radius * c, p.Height, p.Radius * s), new(n.Radius * c, n.Height, n.Radius * s));
            }
        }
        Quads(start, segments, rings);
    }

    internal static Mesh Revolve(int segments, int rings, Func<double, (Profile Position, Profile Normal)> profile)
    {
        var grid = new GridBuilder((segments + 1L) * (rings + 1));
        grid.Ring(segments, rings, profile);
        return grid.ToMesh();
    }

    internal Mesh ToMesh()
    {
        Array.Resize(ref _indices, _indexCount);
        return new(_positions, _normals, _indices);
    }

    private void Add(Double3 p, Double3 n)
    {
        var at = 3 * _vertices++;
        (_positions[at], _positions[at + 1], _positions[at + 2]) = ((float)p.X, (float)p.Y, (float)p.Z);
        (_normals[at], _normals[at + 1], _normals[at + 2]) = ((float)n.X, (float)n.Y, (float)n.Z);
    }

    private void Quads(int start, int columns, int rows)
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
    private void Triangle(int a, int b, int c)
    {
        if (!Same(a, b) && !Same(b, c) && !Same(c, a))
        {
            _indices[_indexCount++] = a;
            _indices[_indexCount++] = b;
            _indices[_indexCount++] = c;
        }
    }

    private bool Same(int a, int b) =>
        _positions[3 * a] == _positions[3 * b] && _positions[3 * a + 1] == _positions[3 * b + 1] && _positions[3 * a + 2] == _positions[3 * b + 2];
}
