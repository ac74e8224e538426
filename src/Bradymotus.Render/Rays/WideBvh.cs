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
    }

    private readonly byte[] _memory;
    private readonly Node* _nodes;

    /// <param name="min">Lower corners of the items.</param>
    /// <param name="max">Upper corners of the items.</param>
    /// <param name="mostInLeaf">How many items a leaf may hold.</param>
    /// <param name="leaf">Makes a leaf of items (numbers of the arrays above) and gives its number.</param>
    internal WideBvh(Vector3[] min, Vector3[] max, int mostInLeaf, Func<ReadOnlyMemory<int>, int> leaf)
    {
        var nodes = new List<Node>();
        if (min.Length > 0)
        {
            var builder = new BvhBuilder(min, max, mostInLeaf);
            var root = builder[0];
            (Min, Max) = (root.Min, root.Max);
            Emit(builder, 0, nodes, leaf);
        }
        // Whole cache lines: a node is four of them less a half.
        _memory = GC.AllocateUninitializedArray<byte>(Math.Max(1, nodes.Count) * sizeof(Node) + 64, pinned: true);
        var address = (nint)Unsafe.AsPointer(ref _memory[0]);
        _nodes = (Node*)((address + 63) & ~63);
        Count = nodes.Count;
        CollectionsMarshal.AsSpan(nodes).CopyTo(new Span<Node>(_nodes, nodes.Count));
    }

    internal int Count { get; }

    internal Vector3 Min { get; }

    internal Vector3 Max { get; }

    internal Node* Nodes => _nodes;

    private static int Emit(BvhBuilder builder, int root, List<Node> nodes, Func<ReadOnlyMemory<int>, int> leaf)
    {
        var index = nodes.Count;
        nodes.Add(default);
        Span<int> children = stackalloc int[8];
        var count = builder.Fold(root, children);
        Span<float> lanes = stackalloc float[48];
        for (var i = 0; i < 48; i++)
        {
            // Inside out, so that every ray leaves before it enters.
            lanes[i] = (i / 8 & 1) == 0 ? float.PositiveInfinity : float.NegativeInfinity;
        }
        var node = new Node();
        for (var i = 0; i < 8; i++)
        {
            if (i >= count)
            {
                node.Child[i] = int.MinValue;
                continue;
            }
            var child = builder[children[i]];
            (lanes[i], lanes[8 + i]) = (child.Min.X, child.Max.X);
            (lanes[16 + i], lanes[24 + i]) = (child.Min.Y, child.Max.Y);
            (lanes[32 + i], lanes[40 + i]) = (child.Min.Z, child.Max.Z);
            node.Child[i] = child.Count > 0
                ? ~leaf(builder.Order.AsMemory(child.First, child.Count))
                : Emit(builder, children[i], nodes, leaf);
        }
        node.MinX = Vector256.Create<float>(lanes[..8]);
        node.MaxX = Vector256.Create<float>(lanes[8..16]);
        node.MinY = Vector256.Create<float>(lanes[16..24]);
        node.MaxY = Vector256.Create<float>(lanes[24..32]);
        node.MinZ = Vector256.Create<float>(lanes[32..40]);
        node.MaxZ = Vector256.Create<float>(lanes[40..]);
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
        return Vector256.LessThanOrEqual(enter, leave).ExtractMostSignificantBits();
    }

    private static float Reciprocal(float x) => MathF.Abs(x) < 1e-18f ? MathF.CopySign(1e18f, x) : 1 / x;
}
