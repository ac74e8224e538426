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
