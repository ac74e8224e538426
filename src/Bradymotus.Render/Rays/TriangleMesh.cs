using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Runtime.Intrinsics.X86;

namespace Bradymotus.Render.Rays;

/// <summary>Triangles that rays can be traced against. Leaves hold packets of eight, tested at once.</summary>
public sealed unsafe class TriangleMesh
{
    /// <summary>Eight triangles, coordinate by coordinate. Unused places have edges of 0, which no ray hits.</summary>
    [StructLayout(LayoutKind.Sequential)]
    private struct Packet
    {
        public Vector256<float> X, Y, Z;
        public Vector256<float> E1X, E1Y, E1Z;
        public Vector256<float> E2X, E2Y, E2Z;
        public fixed int Triangle[8];
    }

    private struct Pending
    {
        public int Child;
        public float Enter;
    }

    private readonly WideBvh _tree;
    private readonly AlignedArray<Packet> _packets;
    private readonly Vector3[] _min, _max;
    private readonly int[] _indices;

    /// <param name="positions">x, y, z for each vertex.</param>
    /// <param name="indices">Three a triangle.</param>
    public TriangleMesh(float[] positions, int[] indices)
    {
        var count = indices.Length / 3;
        var min = new Vector3[count];
        var max = new Vector3[count];
        for (var t = 0; t < count; t++)
        {
            var (a, b, c) = Corners(positions, indices, t);
            min[t] = Vector3.Min(Vector3.Min(a, b), c);
            max[t] = Vector3.Max(Vector3.Max(a, b), c);
        }
        var packets = new List<Packet>();
        _tree = new WideBvh(min, max, 8, items =>
        {
            var packet = default(Packet);
            for (var lane = 0; lane < 8; lane++)
            {
                packet.Triangle[lane] = lane < items.Length ? items.Span[lane] : -1;
            }
            packets.Add(packet);
            return packets.Count - 1;
        });
        _indices = indices;
        _packets = new(CollectionsMarshal.AsSpan(packets));
        (_min, _max) = (new Vector3[packets.Count], new Vector3[packets.Count]);
        Refit(positions);
    }

    /// <summary>The same triangles with other corners, as when a shape is bent. The tree stays as it was sorted, so this is quick.</summary>
    /// <param name="rest">The triangles as they were sorted.</param>
    /// <param name="positions">As many as there were.</param>
    public TriangleMesh(TriangleMesh rest, float[] positions)
    {
        _tree = new WideBvh(rest._tree);
        _indices = rest._indices;
        _packets = new(rest._packets.Span);
        (_min, _max) = (new Vector3[_packets.Count], new Vector3[_packets.Count]);
        Refit(positions);
    }

    /// <summary>Moves the corners. Nothing may be traced meanwhile.</summary>
    /// <param name="positions">x, y, z for each vertex; as many as there were.</param>
    public void Refit(float[] positions)
    {
        for (var i = 0; i < _min.Length; i++)
        {
            var packet = _packets.Items + i;
            var lanes = (float*)packet;
            Vector3 low = new(float.PositiveInfinity), high = new(float.NegativeInfinity);
            for (var lane = 0; lane < 8 && packet->Triangle[lane] >= 0; lane++)
            {
                var (a, b, c) = Corners(positions, _indices, packet->Triangle[lane]);
                low = Vector3.Min(low, Vector3.Min(Vector3.Min(a, b), c));
                high = Vector3.Max(high, Vector3.Max(Vector3.Max(a, b), c));
                var (e1, e2) = (b - a, c - a);
                (lanes[lane], lanes[8 + lane], lanes[16 + lane]) = (a.X, a.Y, a.Z);
                (lanes[24 + lane], lanes[32 + lane], lanes[40 + lane]) = (e1.X, e1.Y, e1.Z);
                (lanes[48 + lane], lanes[56 + lane], lanes[64 + lane]) = (e2.X, e2.Y, e2.Z);
            }
            (_min[i], _max[i]) = (low, high);
        }
        _tree.Refit(_min, _max);
    }

    /// <summary>How many triangles it has.</summary>
    public int TriangleCount => _indices.Length / 3;

    /// <summary>The corners of the box round all triangles.</summary>
    public (Vector3 Min, Vector3 Max) Bounds => (_tree.Min, _tree.Max);

    /// <summary>The nearest hit, or a miss.</summary>
    public Hit Trace(in Ray ray)
    {
        var hit = Hit.Miss(ray.Far);
        Trace(ray.Origin, ray.Direction, ref hit);
        return hit;
    }

    /// <summary>Makes <paramref name="hit"/> nearer if there is a nearer one.</summary>
    /// <returns>True if there is.</returns>
    [SkipLocalsInit]
    internal bool Trace(Vector3 origin, Vector3 direction, ref Hit hit)
    {
        if (_tree.Count == 0)
        {
            return false;
        }
        var boxes = new BoxRay(origin, direction);
        var stack = stackalloc Pending[WideBvh.MostWaiting];
        var top = 0;
        var found = false;
        var child = 0;
        while (true)
        {
            if (child >= 0)
            {
                var node = _tree.Nodes + child;
                var mask = boxes.Enter(node, hit.T, out var enter);
                if (mask != 0)
                {
                    var t = (float*)&enter;
                    var i = BitOperations.TrailingZeroCount(mask);
                    mask &= mask - 1;
                    if (mask == 0)
                    {
                        child = node->Child[i];
                        continue;
                    }
                    // The nearest goes on; the others wait, nearest on top.
                    var nearest = new Pending { Child = node->Child[i], Enter = t[i] };
                    Fetch(nearest.Child);
                    var first = top;
                    do
                    {
                        i = BitOperations.TrailingZeroCount(mask);
                        mask &= mask - 1;
                        var next = new Pending { Child = node->Child[i], Enter = t[i] };
                        Fetch(next.Child);
                        if (next.Enter < nearest.Enter)
                        {
                            (next, nearest) = (nearest, next);
                        }
                        var at = top++;
                        while (at > first && stack[at - 1].Enter < next.Enter)
                        {
                            stack[at] = stack[at - 1];
                            at--;
                        }
                        stack[at] = next;
                    }
                    while (mask != 0);
                    child = nearest.Child;
                    continue;
                }
            }
            else
            {
                found |= Intersect(_packets.Items + ~child, origin, direction, ref hit);
            }
            do
            {
                if (top == 0)
                {
                    return found;
                }
                top--;
            }
            while (stack[top].Enter > hit.T);
            child = stack[top].Child;
        }
    }

    /// <summary>Asks the memory for what will be visited soon.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private void Fetch(int child)
    {
        if (Sse.IsSupported)
        {
            var at = child >= 0 ? (byte*)(_tree.Nodes + child) : (byte*)(_packets.Items + ~child);
            Sse.Prefetch0(at);
            Sse.Prefetch0(at + 64);
            Sse.Prefetch0(at + 128);
            Sse.Prefetch0(at + 192);
        }
    }

    /// <summary>Whether anything is hit before <paramref name="far"/>.</summary>
    [SkipLocalsInit]
    internal bool IsHit(Vector3 origin, Vector3 direction, float far)
    {
        if (_tree.Count == 0)
        {
            return false;
        }
        var boxes = new BoxRay(origin, direction);
        var stack = stackalloc int[WideBvh.MostWaiting];
        var top = 0;
        var hit = Hit.Miss(far);
        var child = 0;
        while (true)
        {
            if (child >= 0)
            {
                var node = _tree.Nodes + child;
                for (var mask = boxes.Enter(node, far, out _); mask != 0; mask &= mask - 1)
                {
                    stack[top++] = node->Child[BitOperations.TrailingZeroCount(mask)];
                }
            }
            else if (Intersect(_packets.Items + ~child, origin, direction, ref hit))
            {
                return true;
            }
            if (top == 0)
            {
                return false;
            }
            child = stack[--top];
        }
    }

    /// <summary>T. Möller and B. Trumbore, "Fast, minimum storage ray/triangle intersection", 1997, for eight triangles.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static bool Intersect(Packet* p, Vector3 origin, Vector3 direction, ref Hit hit)
    {
        var (dx, dy, dz) = (Vector256.Create(direction.X), Vector256.Create(direction.Y), Vector256.Create(direction.Z));
        var px = dy * p->E2Z - dz * p->E2Y;
        var py = dz * p->E2X - dx * p->E2Z;
        var pz = dx * p->E2Y - dy * p->E2X;
        var determinant = p->E1X * px + p->E1Y * py + p->E1Z * pz;
        // Multiplied by the determinant, with its sign taken off: most packets are missed, and need no division.
        var sign = determinant & Vector256.Create(-0f);
        var size = determinant ^ sign;
        var sx = Vector256.Create(origin.X) - p->X;
        var sy = Vector256.Create(origin.Y) - p->Y;
        var sz = Vector256.Create(origin.Z) - p->Z;
        var u = (sx * px + sy * py + sz * pz) ^ sign;
        var qx = sy * p->E1Z - sz * p->E1Y;
        var qy = sz * p->E1X - sx * p->E1Z;
        var qz = sx * p->E1Y - sy * p->E1X;
        var v = (dx * qx + dy * qy + dz * qz) ^ sign;
        var t = (p->E2X * qx + p->E2Y * qy + p->E2Z * qz) ^ sign;
        var zero = Vector256<float>.Zero;
        // Flat or unused triangles have a determinant of 0, and comparisons with not-a-number are false.
        var inside = Vector256.GreaterThanOrEqual(u, zero) & Vector256.GreaterThanOrEqual(v, zero)
            & Vector256.LessThanOrEqual(u + v, size) & Vector256.GreaterThan(t, zero)
            & Vector256.LessThan(t, size * Vector256.Create(hit.T)) & Vector256.GreaterThan(size, zero);
        var mask = inside.ExtractMostSignificantBits();
        if (mask == 0)
        {
            return false;
        }
        var inverse = Vector256<float>.One / size;
        (t, u, v) = (t * inverse, u * inverse, v * inverse);
        var us = (float*)&u;
        var vs = (float*)&v;
        var ts = (float*)&t;
        var nearer = false;
        do
        {
            var i = BitOperations.TrailingZeroCount(mask);
            mask &= mask - 1;
            if (ts[i] < hit.T)
            {
                (hit.T, hit.U, hit.V, hit.Triangle) = (ts[i], us[i], vs[i], p->Triangle[i]);
                nearer = true;
            }
        }
        while (mask != 0);
        return nearer;
    }

    private static (Vector3, Vector3, Vector3) Corners(float[] positions, int[] indices, int triangle)
    {
        Vector3 At(int corner)
        {
            var v = 3 * indices[3 * triangle + corner];
            return new(positions[v], positions[v + 1], positions[v + 2]);
        }
        return (At(0), At(1), At(2));
    }
}
