using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>Collects patches of a grid of quads into one mesh. Shared by every basic shape.</summary>
internal sealed class GridBuilder
{
    /// <summary>A point of a profile: distance from the Y axis and height.</summary>
    internal readonly record struct Profile(double Radius, double Height);

    private readonly List<float> _positions = [];
    private readonly List<float> _normals = [];
    private readonly List<int> _indices = [];

    /// <summary>A patch over u and v in −1…1; ∂u × ∂v points outwards.</summary>
    internal void Patch(int columns, int rows, Func<double, double, (Double3 Position, Double3 Normal)> at)
    {
        var start = _positions.Count / 3;
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
        var start = _positions.Count / 3;
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
        var grid = new GridBuilder();
        grid.Ring(segments, rings, profile);
        return grid.ToMesh();
    }

    internal Mesh ToMesh() => new([.. _positions], [.. _normals], [.. _indices]);

    private void Add(Double3 p, Double3 n)
    {
        _positions.Add((float)p.X);
        _positions.Add((float)p.Y);
        _positions.Add((float)p.Z);
        _normals.Add((float)n.X);
        _normals.Add((float)n.Y);
        _normals.Add((float)n.Z);
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
            _indices.Add(a);
            _indices.Add(b);
            _indices.Add(c);
        }
    }

    private bool Same(int a, int b) =>
        _positions[3 * a] == _positions[3 * b] && _positions[3 * a + 1] == _positions[3 * b + 1] && _positions[3 * a + 2] == _positions[3 * b + 2];
}
