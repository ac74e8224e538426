using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>
/// Triangles sorted into a tree of boxes, for asking whether two meshes pass through each other, how near they come, and which point of
/// a surface is nearest to another. The tree is built once; where its vertices move, <see cref="Refit"/> fits the boxes to them.
/// </summary>
/// <remarks>
/// Six numbers a node, least x, y, z and most x, y, z; the children of node n are the next one and <c>_second[n]</c>; a leaf has
/// <c>~first</c> there and its triangles are <c>_order[first]</c> to <c>_order[first + _count[n] − 1]</c>.
/// </remarks>
internal sealed class TriangleTree
{
    private const int LeafSize = 4;

    private readonly int[] _indices, _order, _second, _count;
    private readonly double[] _boxes, _centres;
    private readonly Double3[] _vertices;
    private int _nodes;

    /// <param name="positions">x, y, z for each vertex.</param>
    /// <param name="indices">Three a triangle.</param>
    /// <param name="map">Where the vertices stand.</param>
    internal TriangleTree(ReadOnlySpan<float> positions, int[] indices, in Affine map)
    {
        _indices = indices;
        var count = indices.Length / 3;
        _order = new int[count];
        _centres = new double[3 * count];
        _vertices = new Double3[positions.Length / 3];
        Place(positions, map);
        for (var t = 0; t < count; t++)
        {
            _order[t] = t;
            var (a, b, c) = Corners(t);
            var sum = a + b + c;
            (_centres[3 * t], _centres[3 * t + 1], _centres[3 * t + 2]) = (sum.X, sum.Y, sum.Z);
        }
        var most = Math.Max(1, 2 * count);
        _second = new int[most];
        _count = new int[most];
        _boxes = new double[6 * most];
        if (count > 0)
        {
            Build(0, count);
            FitBoxes();
        }
    }

    internal int TriangleCount => _order.Length;

    internal ReadOnlySpan<Double3> Vertices => _vertices;

    /// <summary>The box round everything.</summary>
    internal (Double3 Min, Double3 Max) Box => TriangleCount == 0 ? default : (new(_boxes[0], _boxes[1], _boxes[2]), new(_boxes[3], _boxes[4], _boxes[5]));

    internal (Double3 A, Double3 B, Double3 C) Corners(int triangle) =>
        (_vertices[_indices[3 * triangle]], _vertices[_indices[3 * triangle + 1]], _vertices[_indices[3 * triangle + 2]]);

    /// <summary>The direction that a triangle faces, of length 1; zero where it has no area.</summary>
    internal Double3 Normal(int triangle)
    {
        var (a, b, c) = Corners(triangle);
        return Double3.Cross(b - a, c - a).Normalized();
    }

    /// <summary>Moves the vertices; the triangles stay the same ones.</summary>
    internal void Refit(ReadOnlySpan<float> positions, in Affine map)
    {
        Place(positions, map);
        if (TriangleCount > 0)
        {
            FitBoxes();
        }
    }

    /// <summary>Whether a triangle of one passes through a triangle of the other. Such as lie flat on each other or just touch do not.</summary>
    internal static bool Cross(TriangleTree a, TriangleTree b)
    {
        if (a.TriangleCount == 0 || b.TriangleCount == 0)
        {
            return false;
        }
        var open = new Stack<(int, int)>();
        open.Push((0, 0));
        while (open.TryPop(out var pair))
        {
            var (i, j) = pair;
            if (a.Apart(i, b, j) > 0)
            {
                continue;
            }
            if (a._second[i] < 0 && b._second[j] < 0)
            {
                for (var s = 0; s < a._count[i]; s++)
                {
                    var one = a.Corners(a._order[~a._second[i] + s]);
                    for (var t = 0; t < b._count[j]; t++)
                    {
                        if (Triangles.Cross(one, b.Corners(b._order[~b._second[j] + t])))
                        {
                            return true;
                        }
                    }
                }
            }
            else if (b._second[j] < 0 || (a._second[i] >= 0 && a.Size(i) >= b.Size(j)))
            {
                open.Push((a._second[i], j));
                open.Push((i + 1, j));
            }
            else
            {
                open.Push((i, b._second[j]));
                open.Push((i, j + 1));
            }
        }
        return false;
    }

    /// <summary>Where two meshes come nearest, below a bound.</summary>
    /// <returns>The distance, or the bound where they are no nearer; a point on each, and the triangle of each that it is on.</returns>
    internal static (double Distance, Double3 OnA, Double3 OnB, int TriangleA, int TriangleB) Nearest(TriangleTree a, TriangleTree b, double bound)
    {
        var best = (Distance: bound * bound, OnA: Double3.Zero, OnB: Double3.Zero, TriangleA: -1, TriangleB: -1);
        if (a.TriangleCount == 0 || b.TriangleCount == 0)
        {
            return best with { Distance = bound };
        }
        var open = new Stack<(int I, int J, double Apart)>();
        open.Push((0, 0, a.Apart(0, b, 0)));
        while (open.TryPop(out var pair))
        {
            var (i, j, apart) = pair;
            if (apart >= best.Distance)
            {
                continue;
            }
            if (a._second[i] < 0 && b._second[j] < 0)
            {
                for (var s = 0; s < a._count[i]; s++)
                {
                    var ta = a._order[~a._second[i] + s];
                    var one = a.Corners(ta);
                    for (var t = 0; t < b._count[j]; t++)
                    {
                        var tb = b._order[~b._second[j] + t];
                        var (d, onA, onB) = Triangles.Nearest(one, b.Corners(tb));
                        if (d < best.Distance)
                        {
                            best = (d, onA, onB, ta, tb);
                        }
                    }
                }
                continue;
            }
            var (first, second) = b._second[j] < 0 || (a._second[i] >= 0 && a.Size(i) >= b.Size(j))
                ? ((i + 1, j), (a._second[i], j))
                : ((i, j + 1), (i, b._second[j]));
            var (d1, d2) = (a.Apart(first.Item1, b, first.Item2), a.Apart(second.Item1, b, second.Item2));
            // The nearer pair is looked at first, so that the other is mostly out of reach.
            if (d1 > d2)
            {
                (first, second, d1, d2) = (second, first, d2, d1);
            }
            open.Push((second.Item1, second.Item2, d2));
            open.Push((first.Item1, first.Item2, d1));
        }
        return best with { Distance = Math.Sqrt(best.Distance) };
    }

    /// <summary>
    /// How far a point lies behind the surface: the distance to the nearest point of it, negative in front; infinity in front and beyond the bound.
    /// Where several triangles are nearest, at an edge or a corner, the one that the point is farthest from the plane of decides.
    /// </summary>
    internal double Behind(in Double3 point, double bound)
    {
        var (best, side, sharpest) = (bound * bound, -1.0, -1.0);
        var open = new Stack<int>();
        open.Push(0);
        while (TriangleCount > 0 && open.TryPop(out var i))
        {
            if (ApartFrom(i, point) > best * (1 + 1e-9))
            {
                continue;
            }
            if (_second[i] >= 0)
            {
                var (d1, d2) = (ApartFrom(i + 1, point), ApartFrom(_second[i], point));
                open.Push(d1 < d2 ? _second[i] : i + 1);
                open.Push(d1 < d2 ? i + 1 : _second[i]);
                continue;
            }
            for (var s = 0; s < _count[i]; s++)
            {
                var t = _order[~_second[i] + s];
                var on = Triangles.Nearest(point, Corners(t));
                var way = point - on;
                var d = Double3.Dot(way, way);
                if (d > best * (1 + 1e-9) + 1e-24)
                {
                    continue;
                }
                var height = Double3.Dot(way, Normal(t));
                var isNearer = d < best * (1 - 1e-9) - 1e-24;
                if (isNearer || Math.Abs(height) > sharpest)
                {
                    (sharpest, side) = (Math.Abs(height), height);
                }
                best = Math.Min(best, d);
            }
        }
        return sharpest < 0 ? double.NegativeInfinity : side < 0 ? Math.Sqrt(best) : -Math.Sqrt(best);
    }

    private void Place(ReadOnlySpan<float> positions, in Affine map)
    {
        for (var v = 0; v < _vertices.Length; v++)
        {
            _vertices[v] = map.Point(new(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2]));
        }
    }

    private int Build(int first, int count)
    {
        var node = _nodes++;
        if (count <= LeafSize)
        {
            (_second[node], _count[node]) = (~first, count);
            return node;
        }
        // Halved along the longest side of the box round the centres.
        Span<double> low = [double.MaxValue, double.MaxValue, double.MaxValue];
        Span<double> high = [double.MinValue, double.MinValue, double.MinValue];
        for (var k = first; k < first + count; k++)
        {
            for (var axis = 0; axis < 3; axis++)
            {
                var c = _centres[3 * _order[k] + axis];
                low[axis] = Math.Min(low[axis], c);
                high[axis] = Math.Max(high[axis], c);
            }
        }
        var along = high[0] - low[0] >= high[1] - low[1] && high[0] - low[0] >= high[2] - low[2] ? 0 : high[1] - low[1] >= high[2] - low[2] ? 1 : 2;
        var centres = _centres;
        _order.AsSpan(first, count).Sort((x, y) => centres[3 * x + along].CompareTo(centres[3 * y + along]) is not 0 and var c ? c : x.CompareTo(y));
        var half = count / 2;
        Build(first, half);
        _second[node] = Build(first + half, count - half);
        return node;
    }

    private void FitBoxes()
    {
        // Children come after their parents.
        for (var n = _nodes - 1; n >= 0; n--)
        {
            var (min, max) = (new Double3(double.MaxValue, double.MaxValue, double.MaxValue), new Double3(double.MinValue, double.MinValue, double.MinValue));
            if (_second[n] < 0)
            {
                for (var s = 0; s < _count[n]; s++)
                {
                    var (a, b, c) = Corners(_order[~_second[n] + s]);
                    (min, max) = (Min(min, Min(a, Min(b, c))), Max(max, Max(a, Max(b, c))));
                }
            }
            else
            {
                var (l, r) = (6 * (n + 1), 6 * _second[n]);
                min = new(Math.Min(_boxes[l], _boxes[r]), Math.Min(_boxes[l + 1], _boxes[r + 1]), Math.Min(_boxes[l + 2], _boxes[r + 2]));
                max = new(Math.Max(_boxes[l + 3], _boxes[r + 3]), Math.Max(_boxes[l + 4], _boxes[r + 4]), Math.Max(_boxes[l + 5], _boxes[r + 5]));
            }
            (_boxes[6 * n], _boxes[6 * n + 1], _boxes[6 * n + 2]) = (min.X, min.Y, min.Z);
            (_boxes[6 * n + 3], _boxes[6 * n + 4], _boxes[6 * n + 5]) = (max.X, max.Y, max.Z);
        }
    }

    private static Double3 Min(Double3 a, Double3 b) => new(Math.Min(a.X, b.X), Math.Min(a.Y, b.Y), Math.Min(a.Z, b.Z));

    private static Double3 Max(Double3 a, Double3 b) => new(Math.Max(a.X, b.X), Math.Max(a.Y, b.Y), Math.Max(a.Z, b.Z));

    private double Size(int node)
    {
        var b = _boxes.AsSpan(6 * node, 6);
        return Math.Max(b[3] - b[0], Math.Max(b[4] - b[1], b[5] - b[2]));
    }

    /// <summary>The square of how far two boxes are apart.</summary>
    private double Apart(int node, TriangleTree other, int otherNode)
    {
        var a = _boxes.AsSpan(6 * node, 6);
        var b = other._boxes.AsSpan(6 * otherNode, 6);
        var sum = 0.0;
        for (var k = 0; k < 3; k++)
        {
            var gap = Math.Max(0, Math.Max(a[k] - b[k + 3], b[k] - a[k + 3]));
            sum += gap * gap;
        }
        return sum;
    }

    private double ApartFrom(int node, in Double3 p)
    {
        var a = _boxes.AsSpan(6 * node, 6);
        var x = Math.Max(0, Math.Max(a[0] - p.X, p.X - a[3]));
        var y = Math.Max(0, Math.Max(a[1] - p.Y, p.Y - a[4]));
        var z = Math.Max(0, Math.Max(a[2] - p.Z, p.Z - a[5]));
        return x * x + y * y + z * z;
    }
}
