using System.Numerics;

namespace Bradymotus.Render.Rays;

/// <summary>
/// Builds a tree of boxes over boxes by the surface area heuristic with binned centroids
/// (I. Wald, "On fast construction of SAH-based bounding volume hierarchies", 2007), then folds it to eight children a node.
/// </summary>
internal sealed class BvhBuilder
{
    private const int Bins = 16;

    // With at most 2³¹ items below it, no branch is longer than 71, and 7 · 71 + 1 is below WideBvh.MostWaiting.
    private const int MostUneven = 40;

    // Relative costs of visiting a node of eight boxes and a packet of up to eight triangles.
    private const float NodeCost = 1f;
    private const float PacketCost = 1.4f;

    /// <summary>A node of the binary tree. A leaf has <c>Count</c> above 0 and its items at <c>First</c> in <see cref="Order"/>.</summary>
    internal struct Node
    {
        public Vector3 Min, Max;
        public int Left, Right, First, Count;
    }

    private struct Bin
    {
        public Vector3 Min, Max;
        public int Count;
    }

    private readonly Vector3[] _min, _max;
    private readonly int _mostInLeaf;
    private readonly List<Node> _nodes = [];

    internal BvhBuilder(Vector3[] min, Vector3[] max, int mostInLeaf)
    {
        (_min, _max, _mostInLeaf) = (min, max, mostInLeaf);
        Order = [.. Enumerable.Range(0, min.Length)];
        Build(0, min.Length, 0);
    }

    /// <summary>The items, leaf after leaf.</summary>
    internal int[] Order { get; }

    internal Node this[int i] => _nodes[i];

    /// <summary>Up to eight nodes that together cover node <paramref name="root"/>: the largest is opened until there are eight.</summary>
    internal int Fold(int root, Span<int> children)
    {
        var count = 1;
        children[0] = root;
        while (count < 8)
        {
            var best = -1;
            var area = -1f;
            for (var i = 0; i < count; i++)
            {
                var n = _nodes[children[i]];
                if (n.Count == 0 && HalfArea(n.Min, n.Max) > area)
                {
                    (best, area) = (i, HalfArea(n.Min, n.Max));
                }
            }
            if (best < 0)
            {
                break;
            }
            var open = _nodes[children[best]];
            children[best] = open.Left;
            children[count++] = open.Right;
        }
        return count;
    }

    private int Build(int first, int count, int depth)
    {
        var node = new Node { Min = new(float.PositiveInfinity), Max = new(float.NegativeInfinity), First = first, Count = count };
        Vector3 low = new(float.PositiveInfinity), high = new(float.NegativeInfinity);
        for (var i = first; i < first + count; i++)
        {
            var item = Order[i];
            node.Min = Vector3.Min(node.Min, _min[item]);
            node.Max = Vector3.Max(node.Max, _max[item]);
            var centre = _min[item] + _max[item];
            low = Vector3.Min(low, centre);
            high = Vector3.Max(high, centre);
        }
        var index = _nodes.Count;
        _nodes.Add(node);
        if (count <= 1)
        {
            return index;
        }
        // Boxes of wildly different sizes would be split off one by one: so deep a tree is halved instead.
        var (axis, bin, cost) = depth < MostUneven ? BestSplit(first, count, low, high) : (-1, 0, float.PositiveInfinity);
        var leafCost = PacketCost * ((count + 7) / 8);
        var area = HalfArea(node.Min, node.Max);
        if (count <= _mostInLeaf && (axis < 0 || NodeCost / 3 + cost / Math.Max(area, 1e-30f) >= leafCost))
        {
            return index;
        }
        var middle = axis < 0 ? first + count / 2 : Partition(first, count, axis, bin, low, high);
        if (middle == first || middle == first + count)
        {
            middle = first + count / 2;
        }
        var left = Build(first, middle - first, depth + 1);
        var right = Build(middle, first + count - middle, depth + 1);
        _nodes[index] = node with { Count = 0, Left = left, Right = right };
        return index;
    }

    private (int Axis, int Bin, float Cost) BestSplit(int first, int count, Vector3 low, Vector3 high)
    {
        var best = (Axis: -1, Bin: 0, Cost: float.PositiveInfinity);
        Span<Bin> bins = stackalloc Bin[Bins];
        Span<float> right = stackalloc float[Bins];
        for (var axis = 0; axis < 3; axis++)
        {
            if (!(high[axis] > low[axis]))
            {
                continue;
            }
            bins.Fill(new Bin { Min = new(float.PositiveInfinity), Max = new(float.NegativeInfinity) });
            for (var i = first; i < first + count; i++)
            {
                var item = Order[i];
                ref var b = ref bins[BinOf(item, axis, low, high)];
                b.Count++;
                b.Min = Vector3.Min(b.Min, _min[item]);
                b.Max = Vector3.Max(b.Max, _max[item]);
            }
            var sweep = new Bin { Min = new(float.PositiveInfinity), Max = new(float.NegativeInfinity) };
            for (var i = Bins - 1; i > 0; i--)
            {
                Grow(ref sweep, bins[i]);
                right[i] = Cost(sweep);
            }
            sweep = new Bin { Min = new(float.PositiveInfinity), Max = new(float.NegativeInfinity) };
            for (var i = 1; i < Bins; i++)
            {
                Grow(ref sweep, bins[i - 1]);
                var cost = Cost(sweep) + right[i];
                if (sweep.Count > 0 && sweep.Count < count && cost < best.Cost)
                {
                    best = (axis, i, cost);
                }
            }
        }
        return best;
    }

    private int Partition(int first, int count, int axis, int bin, Vector3 low, Vector3 high)
    {
        var i = first;
        var j = first + count - 1;
        while (i <= j)
        {
            if (BinOf(Order[i], axis, low, high) < bin)
            {
                i++;
            }
            else
            {
                (Order[i], Order[j]) = (Order[j], Order[i]);
                j--;
            }
        }
        return i;
    }

    private int BinOf(int item, int axis, Vector3 low, Vector3 high)
    {
        var centre = _min[item][axis] + _max[item][axis];
        return Math.Clamp((int)((centre - low[axis]) / (high[axis] - low[axis]) * Bins), 0, Bins - 1);
    }

    private static void Grow(ref Bin a, in Bin b)
    {
        a.Count += b.Count;
        a.Min = Vector3.Min(a.Min, b.Min);
        a.Max = Vector3.Max(a.Max, b.Max);
    }

    // A part of a packet costs nearly as much as a full one, yet a smooth cost steers better than a stepped one.
    private static float Cost(in Bin b) => b.Count == 0 ? 0 : HalfArea(b.Min, b.Max) * PacketCost * (0.5f * ((b.Count + 7) / 8) + 0.5f * b.Count / 8);

    internal static float HalfArea(Vector3 min, Vector3 max)
    {
        var d = max - min;
        return d.X * d.Y + d.Y * d.Z + d.Z * d.X;
    }
}
