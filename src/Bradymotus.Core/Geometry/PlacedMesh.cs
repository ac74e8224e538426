using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>A mesh where it stands in the world.</summary>
internal sealed partial class PlacedMesh(TriangleTree tree)
{
    private Affine _map;
    private Double3 _x, _y, _z;
    internal TriangleTree Tree => tree;

    internal void Stand(in Affine map)
    {
        static Double3 Abs(Double3 v) => new(Math.Abs(v.X), Math.Abs(v.Y), Math.Abs(v.Z));
        (_map, _x, _y, _z) = (map, Abs(map.X), Abs(map.Y), Abs(map.Z));
    }

    internal Double3 Vertex(int v) => _map.Point(tree.Vertex(v));

    internal (Double3 A, Double3 B, Double3 C) Corners(int triangle) =>
        (Vertex(tree.Indices[3 * triangle]), Vertex(tree.Indices[3 * triangle + 1]), Vertex(tree.Indices[3 * triangle + 2]));

    /// <summary>The direction that a triangle faces, of length 1; zero where it has no area. What is mirrored is turned inside out.</summary>
    internal Double3 Normal(int triangle)
    {
        var (a, b, c) = Corners(triangle);
        var normal = Double3.Cross(b - a, c - a).Normalized();
        return _map.Determinant < 0 ? -normal : normal;
    }

    /// <summary>The box of a node, in the world: its middle and half its sides.</summary>
    private (Double3 Middle, Double3 Half) Box(int node)
    {
        var b = tree.Boxes.AsSpan(6 * node, 6);
        return (_map.Point(new(b[0], b[1], b[2])), _x * b[3] + _y * b[4] + _z * b[5]);
    }

    internal (Double3 Min, Double3 Max) Room
    {
        get
        {
            var (middle, half) = Box(0);
            return (middle - half, middle + half);
        }
    }

    /// <summary>The triangles in whose leaves' boxes some of a box is.</summary>
    internal IEnumerable<int> Meeting(Double3 min, Double3 max)
    {
        var open = new Stack<int>();
        open.Push(0);
        while (tree.TriangleCount > 0 && open.TryPop(out var node))
        {
            var (middle, half) = Box(node);
            if (middle.X - half.X > max.X || middle.Y - half.Y > max.Y || middle.Z - half.Z > max.Z || middle.X + half.X < min.X || middle.Y + half.Y < min.Y || middle.Z + half.Z < min.Z)
            {
                continue;
            }
            if (tree.Second[node] >= 0)
            {
                open.Push(tree.Second[node]);
                open.Push(node + 1);
                continue;
            }
            for (var s = 0; s < tree.Count[node]; s++)
            {
                yield return tree.Order[~tree.Second[node] + s];
            }
        }
    }

    /// <summary>The square of how far two boxes are apart, and which of them is the larger.</summary>
    private (double Square, bool IsFirstLarger) Apart(int node, PlacedMesh other, int otherNode)
    {
        var ((a, ha), (b, hb)) = (Box(node), other.Box(otherNode));
        var x = Math.Max(0, Math.Abs(a.X - b.X) - ha.X - hb.X);
        var y = Math.Max(0, Math.Abs(a.Y - b.Y) - ha.Y - hb.Y);
        var z = Math.Max(0, Math.Abs(a.Z - b.Z) - ha.Z - hb.Z);
        return (x * x + y * y + z * z, ha.X + ha.Y + ha.Z >= hb.X + hb.Y + hb.Z);
    }

    /// <summary>The triangles of a leaf where they stand.</summary>
    /// <returns>How many there are.</returns>
    private int Leaf(int node, Span<Corner> triangles)
    {
        for (var t = 0; t < tree.Count[node]; t++)
        {
            triangles[t] = new(Corners(tree.Order[~tree.Second[node] + t]));
        }
        return tree.Count[node];
    }
}
