using System.Runtime.CompilerServices;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>
/// Triangles sorted into a tree of boxes, in their own space: whoever asks says where the mesh stands (see <see cref="PlacedMesh"/>), so that a
/// mesh that only moves needs nothing done. Where its vertices move, <see cref="Refit"/> fits the boxes to them.
/// </summary>
/// <remarks>
/// Six numbers a node: the middle of its box and half its sides. The children of node n are the next one and <c>Second[n]</c>; a leaf has
/// <c>~first</c> there and its triangles are <c>Order[first]</c> to <c>Order[first + Count[n] − 1]</c>.
/// </remarks>
internal sealed class TriangleTree
{
    internal const int LeafSize = 4;
    private static readonly ConditionalWeakTable<Mesh, TriangleTree> Known = [];

    private readonly Stack<(int Node, int First, int Count)> _open = [];
    private readonly List<int> _second = [], _count = [];
    private float[] _positions;

    internal TriangleTree(float[] positions, int[] indices)
    {
        (_positions, Indices) = (positions, indices);
        Order = new int[indices.Length / 3];
    }

    /// <summary>Three a triangle.</summary>
    internal int[] Indices { get; }

    internal int[] Order { get; }

    internal IReadOnlyList<int> Second => _second;

    internal IReadOnlyList<int> Count => _count;

    internal double[] Boxes { get; private set; } = [];

    internal int TriangleCount => Order.Length;

    internal int VertexCount => _positions.Length / 3;

    internal Double3 Vertex(int v) => new(_positions[3 * v], _positions[3 * v + 1], _positions[3 * v + 2]);

    /// <summary>Whether it seems to enclose a space: what is closed faces all ways as much.</summary>
    internal bool IsClosed => _isClosed ??= LooksClosed();

    private bool? _isClosed;

    private bool LooksClosed()
    {
        var (sum, area) = (Double3.Zero, 0.0);
        for (var t = 0; t < Indices.Length; t += 3)
        {
            var a = Vertex(Indices[t]);
            var cross = Double3.Cross(Vertex(Indices[t + 1]) - a, Vertex(Indices[t + 2]) - a);
            (sum, area) = (sum + cross, area + cross.Length);
        }
        return sum.Length < 1e-3 * area;
    }

    /// <summary>The tree of a mesh at rest; made once, in pieces.</summary>
    /// <param name="give">Takes the tree when it is there.</param>
    internal static IEnumerable<bool> Of(Mesh mesh, Action<TriangleTree> give)
    {
        if (!Known.TryGetValue(mesh, out var tree))
        {
            tree = new(mesh.Positions, mesh.Indices);
            foreach (var _ in tree.Build())
            {
                yield return true;
            }
            Known.AddOrUpdate(mesh, tree);
        }
        give(tree);
    }

    /// <summary>Sorts the triangles, giving way after each few hundred. Has to be gone through once before anything is asked.</summary>
    internal IEnumerable<bool> Build()
    {
        var centres = new float[3 * Order.Length];
        for (var t = 0; t < Order.Length; t++)
        {
            Order[t] = t;
            for (var axis = 0; axis < 3; axis++)
            {
                centres[3 * t + axis] = _positions[3 * Indices[3 * t] + axis] + _positions[3 * Indices[3 * t + 1] + axis] + _positions[3 * Indices[3 * t + 2] + axis];
            }
            if ((t & 511) == 511)
            {
                yield return true;
            }
        }
        if (Order.Length == 0)
        {
            yield break;
        }
        // Depth first, the near half right after its parent, so that children come after their parents.
        _open.Push((-1, 0, Order.Length));
        var done = 0;
        while (_open.TryPop(out var next))
        {
            var node = _second.Count;
            if (next.Node >= 0)
            {
                _second[next.Node] = node;
            }
            _second.Add(0);
            _count.Add(0);
            if (next.Count <= LeafSize)
            {
                (_second[node], _count[node]) = (~next.First, next.Count);
            }
            else
            {
                var half = next.Count / 2;
                Halve(centres, next.First, next.Count, half);
                _open.Push((node, next.First + half, next.Count - half));
                _open.Push((-1, next.First, half));
            }
            done += next.Count;
            if (done > 1000)
            {
                done = 0;
                yield return true;
            }
        }
        Boxes = new double[6 * _second.Count];
        foreach (var _ in Refit(_positions))
        {
            yield return true;
        }
    }

    /// <summary>Fits the boxes to vertices that have moved, giving way now and then; the triangles stay the same ones.</summary>
    internal IEnumerable<bool> Refit(float[] positions)
    {
        _positions = positions;
        for (var n = _second.Count - 1; n >= 0; n--)
        {
            Fit(n);
            if ((n & 127) == 0)
            {
                yield return true;
            }
        }
    }

    private void Fit(int n)
    {
        Span<double> low = [double.MaxValue, double.MaxValue, double.MaxValue];
        Span<double> high = [double.MinValue, double.MinValue, double.MinValue];
        if (_second[n] < 0)
        {
            for (var s = 0; s < _count[n]; s++)
            {
                var t = Order[~_second[n] + s];
                for (var c = 0; c < 9; c++)
                {
                    var value = _positions[3 * Indices[3 * t + c / 3] + c % 3];
                    low[c % 3] = Math.Min(low[c % 3], value);
                    high[c % 3] = Math.Max(high[c % 3], value);
                }
            }
        }
        else
        {
            foreach (var child in (ReadOnlySpan<int>)[n + 1, _second[n]])
            {
                var box = Boxes.AsSpan(6 * child, 6);
                for (var axis = 0; axis < 3; axis++)
                {
                    low[axis] = Math.Min(low[axis], box[axis] - box[axis + 3]);
                    high[axis] = Math.Max(high[axis], box[axis] + box[axis + 3]);
                }
            }
        }
        for (var axis = 0; axis < 3; axis++)
        {
            Boxes[6 * n + axis] = 0.5 * (low[axis] + high[axis]);
            Boxes[6 * n + 3 + axis] = 0.5 * (high[axis] - low[axis]);
        }
    }

    /// <summary>Puts the half that is lower along the longest side first.</summary>
    /// <remarks>C. A. R. Hoare, "Algorithm 65: find", 1961.</remarks>
    private void Halve(float[] centres, int first, int count, int half)
    {
        Span<float> low = [float.MaxValue, float.MaxValue, float.MaxValue];
        Span<float> high = [float.MinValue, float.MinValue, float.MinValue];
        for (var k = first; k < first + count; k++)
        {
            var c = 3 * Order[k];
            for (var axis = 0; axis < 3; axis++)
            {
                low[axis] = Math.Min(low[axis], centres[c + axis]);
                high[axis] = Math.Max(high[axis], centres[c + axis]);
            }
        }
        var along = high[0] - low[0] >= high[1] - low[1] && high[0] - low[0] >= high[2] - low[2] ? 0 : high[1] - low[1] >= high[2] - low[2] ? 1 : 2;
        var (left, right, wanted) = (first, first + count - 1, first + half);
        while (left < right)
        {
            var pivot = centres[3 * Order[(left + right) / 2] + along];
            var (i, j) = (left, right);
            while (i <= j)
            {
                while (centres[3 * Order[i] + along] < pivot)
                {
                    i++;
                }
                while (centres[3 * Order[j] + along] > pivot)
                {
                    j--;
                }
                if (i <= j)
                {
                    (Order[i], Order[j]) = (Order[j], Order[i]);
                    (i, j) = (i + 1, j - 1);
                }
            }
            (left, right) = wanted <= j ? (left, j) : wanted >= i ? (i, right) : (wanted, wanted);
        }
    }
}

/// <summary>A mesh where it stands in the world.</summary>
internal sealed class PlacedMesh(TriangleTree tree)
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

    /// <summary>Whether a triangle of one passes through a triangle of the other. Such as lie flat on each other or just touch do not.</summary>
    /// <param name="give">Called where one does.</param>
    internal static IEnumerable<bool> Cross(PlacedMesh a, PlacedMesh b, Action give)
    {
        var open = new Stack<(int, int)>();
        open.Push((0, 0));
        var work = 0;
        while (open.TryPop(out var pair))
        {
            var (i, j) = pair;
            if (++work % 24 == 0)
            {
                yield return true;
            }
            var (apart, isFirst) = a.Apart(i, b, j);
            if (apart > 0)
            {
                continue;
            }
            var (isLeafA, isLeafB) = (a.Tree.Second[i] < 0, b.Tree.Second[j] < 0);
            if (isLeafA && isLeafB)
            {
                work += 8;
                if (LeavesCross(a, i, b, j))
                {
                    give();
                    yield break;
                }
            }
            else if (isLeafB || (!isLeafA && isFirst))
            {
                open.Push((a.Tree.Second[i], j));
                open.Push((i + 1, j));
            }
            else
            {
                open.Push((i, b.Tree.Second[j]));
                open.Push((i, j + 1));
            }
        }
    }

    private static bool LeavesCross(PlacedMesh a, int i, PlacedMesh b, int j)
    {
        Span<Corner> others = stackalloc Corner[TriangleTree.LeafSize];
        var count = b.Leaf(j, others);
        for (var s = 0; s < a.Tree.Count[i]; s++)
        {
            var one = new Corner(a.Corners(a.Tree.Order[~a.Tree.Second[i] + s]));
            for (var t = 0; t < count; t++)
            {
                if (one.Apart(others[t]) <= 0 && Triangles.Cross(one.Triangle, others[t].Triangle))
                {
                    return true;
                }
            }
        }
        return false;
    }

    /// <summary>A triangle with the box round it.</summary>
    private readonly struct Corner
    {
        internal readonly (Double3 A, Double3 B, Double3 C) Triangle;
        private readonly Double3 _min, _max;

        internal Corner(in (Double3 A, Double3 B, Double3 C) t)
        {
            Triangle = t;
            _min = new(Math.Min(t.A.X, Math.Min(t.B.X, t.C.X)), Math.Min(t.A.Y, Math.Min(t.B.Y, t.C.Y)), Math.Min(t.A.Z, Math.Min(t.B.Z, t.C.Z)));
            _max = new(Math.Max(t.A.X, Math.Max(t.B.X, t.C.X)), Math.Max(t.A.Y, Math.Max(t.B.Y, t.C.Y)), Math.Max(t.A.Z, Math.Max(t.B.Z, t.C.Z)));
        }

        /// <summary>The square of how far the boxes are apart.</summary>
        internal double Apart(in Corner other)
        {
            var x = Math.Max(0, Math.Max(_min.X - other._max.X, other._min.X - _max.X));
            var y = Math.Max(0, Math.Max(_min.Y - other._max.Y, other._min.Y - _max.Y));
            var z = Math.Max(0, Math.Max(_min.Z - other._max.Z, other._min.Z - _max.Z));
            return x * x + y * y + z * z;
        }
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

    /// <summary>Where two meshes come nearest: a point on each, and the triangle of each that it is on.</summary>
    internal readonly record struct NearestPoints(double Square, Double3 OnA, Double3 OnB, int TriangleA, int TriangleB);

    /// <summary>About where two meshes come nearest, below a bound: a tenth of it is near enough.</summary>
    /// <param name="seed">A triangle of each where they were nearest a moment ago: mostly they still are; null where nothing is known.</param>
    /// <param name="give">Called at the end where they come nearer than the bound.</param>
    internal static IEnumerable<bool> Nearest(PlacedMesh a, PlacedMesh b, double bound, (int A, int B)? seed, Action<NearestPoints> give)
    {
        var best = new NearestPoints(bound * bound, default, default, -1, -1);
        if (seed is var (ta, tb) && ta < a.Tree.TriangleCount && tb < b.Tree.TriangleCount)
        {
            var (d, onA, onB) = Triangles.Nearest(a.Corners(ta), b.Corners(tb));
            best = d < best.Square ? new(d, onA, onB, ta, tb) : best;
        }
        var open = new Stack<(int I, int J, double Apart, bool IsFirst)>();
        void Push((int I, int J) one, (int I, int J) other)
        {
            var (d1, first1) = a.Apart(one.I, b, one.J);
            var (d2, first2) = a.Apart(other.I, b, other.J);
            // The nearer pair is looked at first, so that the other is mostly out of reach.
            if (d2 < best.Square && d1 <= d2)
            {
                open.Push((other.I, other.J, d2, first2));
            }
            if (d1 < best.Square)
            {
                open.Push((one.I, one.J, d1, first1));
            }
            if (d2 < best.Square && d1 > d2)
            {
                open.Push((other.I, other.J, d2, first2));
            }
        }
        var (apart0, first0) = a.Apart(0, b, 0);
        open.Push((0, 0, apart0, first0));
        // What is so near as this touches, and where exactly says no more; nor does a little nearer.
        const double Nearer = 2;
        var enough = 0.01 * bound * bound;
        var work = 0;
        while (best.Square > enough && open.TryPop(out var pair))
        {
            var (i, j, apart, isFirst) = pair;
            if (++work % 16 == 0)
            {
                yield return true;
            }
            if (apart * Nearer >= best.Square && (best.TriangleA >= 0 || apart >= best.Square))
            {
                continue;
            }
            var (isLeafA, isLeafB) = (a.Tree.Second[i] < 0, b.Tree.Second[j] < 0);
            if (isLeafA && isLeafB)
            {
                best = NearestOfLeaves(a, i, b, j, best);
                yield return true;
            }
            else if (isLeafB || (!isLeafA && isFirst))
            {
                Push((i + 1, j), (a.Tree.Second[i], j));
            }
            else
            {
                Push((i, j + 1), (i, b.Tree.Second[j]));
            }
        }
        if (best.TriangleA >= 0)
        {
            give(best);
        }
    }

    private static NearestPoints NearestOfLeaves(PlacedMesh a, int i, PlacedMesh b, int j, NearestPoints best)
    {
        Span<Corner> others = stackalloc Corner[TriangleTree.LeafSize];
        var count = b.Leaf(j, others);
        for (var s = 0; s < a.Tree.Count[i]; s++)
        {
            var ta = a.Tree.Order[~a.Tree.Second[i] + s];
            var one = new Corner(a.Corners(ta));
            for (var t = 0; t < count; t++)
            {
                if (one.Apart(others[t]) >= best.Square)
                {
                    continue;
                }
                var (d, onA, onB) = Triangles.Nearest(one.Triangle, others[t].Triangle);
                if (d < best.Square)
                {
                    best = new(d, onA, onB, ta, b.Tree.Order[~b.Tree.Second[j] + t]);
                }
            }
        }
        return best;
    }

    /// <summary>How far the deepest vertex of this mesh lies behind the surface of another.</summary>
    /// <param name="bound">No vertex lies deeper.</param>
    /// <param name="give">Takes how deep, and the vertex; 0 where none is behind it.</param>
    internal IEnumerable<bool> Deepest(PlacedMesh within, double bound, Action<double, Double3> give)
    {
        var (min, max) = within.Room;
        var sides = max - min;
        // What is flat has an inside behind it; of all else the inside lies in its box.
        var isFlat = Math.Min(sides.X, Math.Min(sides.Y, sides.Z)) < 1e-6 * Math.Max(sides.X, Math.Max(sides.Y, sides.Z));
        var room = isFlat ? bound : 0;
        var seen = new HashSet<int>();
        var (deepest, place) = (0.0, Double3.Zero);
        // No vertex in a box lies deeper than its middle and half its diagonal together.
        double Reach(int node, double most)
        {
            var (middle, half) = Box(node);
            return Math.Min(most, within.Behind(middle, Math.Min(bound, most) + half.Length, out _) + half.Length);
        }
        var open = new Stack<(int Node, double Reach)>();
        open.Push((0, double.PositiveInfinity));
        while (open.TryPop(out var next))
        {
            var (node, reach) = next;
            if (reach <= deepest)
            {
                continue;
            }
            var (middle, half) = Box(node);
            if (middle.X - half.X > max.X + room || middle.Y - half.Y > max.Y + room || middle.Z - half.Z > max.Z + room
                || middle.X + half.X < min.X - room || middle.Y + half.Y < min.Y - room || middle.Z + half.Z < min.Z - room)
            {
                continue;
            }
            if (tree.Second[node] >= 0)
            {
                var (one, other) = ((node + 1, Reach(node + 1, reach)), (tree.Second[node], Reach(tree.Second[node], reach)));
                yield return true;
                // What may be deeper is looked at first.
                open.Push(one.Item2 < other.Item2 ? one : other);
                open.Push(one.Item2 < other.Item2 ? other : one);
                continue;
            }
            for (var s = 0; s < 3 * tree.Count[node]; s++)
            {
                var vertex = tree.Indices[3 * tree.Order[~tree.Second[node] + s / 3] + s % 3];
                if (seen.Add(vertex))
                {
                    var v = Vertex(vertex);
                    if (v.X >= min.X - room && v.Y >= min.Y - room && v.Z >= min.Z - room && v.X <= max.X + room && v.Y <= max.Y + room && v.Z <= max.Z + room)
                    {
                        var depth = within.Behind(v, Math.Min(bound, reach), out _);
                        (deepest, place) = depth > deepest ? (depth, v) : (deepest, place);
                    }
                    yield return true;
                }
            }
        }
        give(deepest, place);
    }

    /// <summary>
    /// How far a point lies behind the surface: the distance to the nearest point of it, negative in front; minus infinity beyond the bound.
    /// Where several triangles are nearest, at an edge or a corner, the one that the point is farthest from the plane of decides.
    /// </summary>
    /// <param name="nearest">The nearest point of the surface.</param>
    internal double Behind(in Double3 point, double bound, out Double3 nearest)
    {
        var (best, side, sharpest) = (bound * bound, -1.0, -1.0);
        nearest = point;
        var open = new Stack<int>();
        open.Push(0);
        while (tree.TriangleCount > 0 && open.TryPop(out var i))
        {
            if (ApartFrom(i, point) > best * (1 + 1e-9))
            {
                continue;
            }
            if (tree.Second[i] >= 0)
            {
                var (d1, d2) = (ApartFrom(i + 1, point), ApartFrom(tree.Second[i], point));
                open.Push(d1 < d2 ? tree.Second[i] : i + 1);
                open.Push(d1 < d2 ? i + 1 : tree.Second[i]);
                continue;
            }
            for (var s = 0; s < tree.Count[i]; s++)
            {
                var t = tree.Order[~tree.Second[i] + s];
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
                if (d < best)
                {
                    (best, nearest) = (d, on);
                }
            }
        }
        return sharpest < 0 ? double.NegativeInfinity : side < 0 ? Math.Sqrt(best) : -Math.Sqrt(best);
    }

    private double ApartFrom(int node, in Double3 p)
    {
        var (middle, half) = Box(node);
        var x = Math.Max(0, Math.Abs(p.X - middle.X) - half.X);
        var y = Math.Max(0, Math.Abs(p.Y - middle.Y) - half.Y);
        var z = Math.Max(0, Math.Abs(p.Z - middle.Z) - half.Z);
        return x * x + y * y + z * z;
    }
}
