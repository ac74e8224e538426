using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;

namespace Bradymotus.Render.Rays;

/// <summary>
/// The tree that rays walk: eight boxes a node, tested at once. Building it and asking it are kept apart.
/// </summary>
/// <remarks>
/// A child number ≥ 0 is a node; below 0, its complement is a leaf. Unused places hold a box that nothing can hit.
/// Multiplications and additions are not fused, so that a picture has the same bits on every machine with 32-bit floats.
/// </remarks>
internal sealed unsafe class WideBvh
{
    [StructLayout(LayoutKind.Sequential)]
    internal struct Node
    {
        /// <summary>Near and far planes: minima of x, y, z, then maxima, so that a direction's sign picks the near one by offset.</summary>
        public Vector256<float> MinX, MaxX, MinY, MaxY, MinZ, MaxZ;
        public fixed int Child[8];

        /// <summary>A bit for each place that holds a child. A ray that is no number seems to enter anything, so it is asked as well.</summary>
        public uint Used;
    }

    /// <summary>As many children can wait at once while a ray walks a tree: seven for each level of the deepest tree that is built, and one.</summary>
    internal const int MostWaiting = 512;

    /// <summary>The child number of an unused place.</summary>
    private const int NoChild = int.MinValue;

    private readonly AlignedArray<Node> _nodes;
    private readonly Vector3[] _min, _max;

    /// <summary>Sorts items into a tree and lays the boxes round them.</summary>
    /// <param name="min">Lower corners of the items.</param>
    /// <param name="max">Upper corners of the items.</param>
    /// <param name="mostInLeaf">How many items a leaf may hold.</param>
    /// <param name="leaf">Makes a leaf of items (numbers of the arrays above) and gives its number, counting from 0.</param>
    internal WideBvh(Vector3[] min, Vector3[] max, int mostInLeaf, Func<ReadOnlyMemory<int>, int> leaf)
    {
        var nodes = new List<Node>();
        if (min.Length > 0)
        {
            Emit(new BvhBuilder(min, max, mostInLeaf), 0, nodes, leaf);
        }
        _nodes = new(CollectionsMarshal.AsSpan(nodes));
        (_min, _max) = (new Vector3[Count], new Vector3[Count]);
    }

    /// <summary>The same tree, with boxes of its own.</summary>
    internal WideBvh(WideBvh other)
    {
        _nodes = new(other._nodes.Span);
        (_min, _max) = (new Vector3[Count], new Vector3[Count]);
    }

    internal int Count => _nodes.Count;

    internal Vector3 Min => Count > 0 ? _min[0] : default;

    internal Vector3 Max => Count > 0 ? _max[0] : default;

    internal Node* Nodes => _nodes.Items;

    /// <summary>Lays the boxes anew. What hangs where stays, which is right while the items move and are not mixed up.</summary>
    /// <param name="min">Lower corners of the leaves.</param>
    /// <param name="max">Upper corners of the leaves.</param>
    internal void Refit(ReadOnlySpan<Vector3> min, ReadOnlySpan<Vector3> max)
    {
        // Children come after their parents.
        for (var n = Count - 1; n >= 0; n--)
        {
            var node = Nodes + n;
            var planes = (float*)node;
            Vector3 low = new(float.PositiveInfinity), high = new(float.NegativeInfinity);
            for (var i = 0; i < 8; i++)
            {
                var child = node->Child[i];
                if (child == NoChild)
                {
                    continue;
                }
                var (a, b) = child >= 0 ? (_min[child], _max[child]) : (min[~child], max[~child]);
                (planes[i], planes[8 + i]) = (a.X, b.X);
                (planes[16 + i], planes[24 + i]) = (a.Y, b.Y);
                (planes[32 + i], planes[40 + i]) = (a.Z, b.Z);
                low = Vector3.Min(low, a);
                high = Vector3.Max(high, b);
            }
            (_min[n], _max[n]) = (low, high);
        }
    }

    private static int Emit(BvhBuilder builder, int root, List<Node> nodes, Func<ReadOnlyMemory<int>, int> leaf)
    {
        var index = nodes.Count;
        nodes.Add(default);
        Span<int> children = stackalloc int[8];
        var count = builder.Fold(root, children);
        // Inside out, so that every ray leaves an unused place before it enters.
        var (min, max) = (Vector256.Create(float.PositiveInfinity), Vector256.Create(float.NegativeInfinity));
        var node = new Node { MinX = min, MaxX = max, MinY = min, MaxY = max, MinZ = min, MaxZ = max };
        for (var i = 0; i < 8; i++)
        {
            if (i >= count)
            {
                node.Child[i] = NoChild;
                continue;
            }
            node.Used |= 1u << i;
            var child = builder[children[i]];
            node.Child[i] = child.Count > 0
                ? ~leaf(builder.Order.AsMemory(child.First, child.Count))
                : Emit(builder, children[i], nodes, leaf);
        }
        nodes[index] = node;
        return index;
    }
}

/// <summary>A ray made ready for boxes: the reciprocal direction, spread over eight lanes, and which planes are near.</summary>
internal readonly struct BoxRay
{
    // A far plane is pushed out by a few units in the last place, so that rounding never loses a hit (T. Ize, "Robust BVH ray traversal", 2013).
    private const float Slack = 1 + 4 * 1.1920929e-7f;

    private readonly Vector256<float> _inverseX, _inverseY, _inverseZ, _originX, _originY, _originZ;
    private readonly nint _nearX, _nearY, _nearZ;

    internal BoxRay(Vector3 origin, Vector3 direction)
    {
        var inverse = new Vector3(Reciprocal(direction.X), Reciprocal(direction.Y), Reciprocal(direction.Z));
        (_inverseX, _inverseY, _inverseZ) = (Vector256.Create(inverse.X), Vector256.Create(inverse.Y), Vector256.Create(inverse.Z));
        (_originX, _originY, _originZ) = (Vector256.Create(origin.X), Vector256.Create(origin.Y), Vector256.Create(origin.Z));
        _nearX = inverse.X < 0 ? 1 : 0;
        _nearY = inverse.Y < 0 ? 1 : 0;
        _nearZ = inverse.Z < 0 ? 1 : 0;
    }

    /// <summary>Which of the eight boxes the ray enters before <paramref name="far"/>, one bit each, and where.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    internal unsafe uint Enter(WideBvh.Node* node, float far, out Vector256<float> enter)
    {
        var planes = (Vector256<float>*)node;
        var nearX = (planes[_nearX] - _originX) * _inverseX;
        var farX = (planes[_nearX ^ 1] - _originX) * _inverseX;
        var nearY = (planes[2 + _nearY] - _originY) * _inverseY;
        var farY = (planes[2 + (_nearY ^ 1)] - _originY) * _inverseY;
        var nearZ = (planes[4 + _nearZ] - _originZ) * _inverseZ;
        var farZ = (planes[4 + (_nearZ ^ 1)] - _originZ) * _inverseZ;
        enter = Vector256.MaxNative(Vector256.MaxNative(nearX, nearY), Vector256.MaxNative(nearZ, Vector256<float>.Zero));
        var leave = Vector256.MinNative(Vector256.MinNative(farX, farY), farZ) * Vector256.Create(Slack);
        leave = Vector256.MinNative(leave, Vector256.Create(far));
        return Vector256.LessThanOrEqual(enter, leave).ExtractMostSignificantBits() & node->Used;
    }

    private static float Reciprocal(float x) => MathF.Abs(x) < 1e-18f ? MathF.CopySign(1e18f, x) : 1 / x;
}
