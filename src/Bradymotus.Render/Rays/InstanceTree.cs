using System.Numerics;
using System.Runtime.CompilerServices;

namespace Bradymotus.Render.Rays;

/// <summary>Meshes standing in the world. A mesh that moves as a whole keeps its own tree; only this small one is built anew.</summary>
internal sealed unsafe class InstanceTree
{
    private readonly (TriangleMesh Mesh, Matrix4x4 ToLocal)[] _instances;
    private readonly List<int> _leaves = [];
    private readonly WideBvh _tree;

    internal InstanceTree(IReadOnlyList<(TriangleMesh Mesh, Matrix4x4 ToWorld)> instances)
    {
        _instances = new (TriangleMesh, Matrix4x4)[instances.Count];
        var min = new Vector3[instances.Count];
        var max = new Vector3[instances.Count];
        for (var i = 0; i < instances.Count; i++)
        {
            var (mesh, toWorld) = instances[i];
            // What is scaled to nothing has no way back, and no rays hit it.
            var toLocal = Matrix4x4.Invert(toWorld, out var inverse) ? inverse : default;
            _instances[i] = (mesh, toLocal);
            (min[i], max[i]) = BoundsOf(mesh, toWorld);
        }
        _tree = new WideBvh(min, max, 1, items =>
        {
            _leaves.Add(items.Span[0]);
            return _leaves.Count - 1;
        });
        _tree.Refit([.. _leaves.Select(i => min[i])], [.. _leaves.Select(i => max[i])]);
    }

    internal (Vector3 Min, Vector3 Max) Bounds => (_tree.Min, _tree.Max);

    [SkipLocalsInit]
    internal Hit Trace(in Ray ray)
    {
        var hit = Hit.Miss(ray.Far);
        if (_tree.Count == 0)
        {
            return hit;
        }
        var boxes = new BoxRay(ray.Origin, ray.Direction);
        var stack = stackalloc (int Child, float Enter)[WideBvh.MostWaiting];
        var top = 0;
        stack[top++] = (0, 0);
        while (top > 0)
        {
            var (child, at) = stack[--top];
            if (at > hit.T)
            {
                continue;
            }
            if (child < 0)
            {
                var i = _leaves[~child];
                var (mesh, toLocal) = _instances[i];
                if (mesh.Trace(Vector3.Transform(ray.Origin, toLocal), Vector3.TransformNormal(ray.Direction, toLocal), ref hit))
                {
                    hit.Instance = i;
                }
                continue;
            }
            var node = _tree.Nodes + child;
            var first = top;
            for (var mask = boxes.Enter(node, hit.T, out var enter); mask != 0; mask &= mask - 1)
            {
                var i = BitOperations.TrailingZeroCount(mask);
                var next = (node->Child[i], ((float*)&enter)[i]);
                var place = top++;
                while (place > first && stack[place - 1].Enter < next.Item2)
                {
                    stack[place] = stack[place - 1];
                    place--;
                }
                stack[place] = next;
            }
        }
        return hit;
    }

    [SkipLocalsInit]
    internal bool IsHit(in Ray ray)
    {
        if (_tree.Count == 0)
        {
            return false;
        }
        var boxes = new BoxRay(ray.Origin, ray.Direction);
        var stack = stackalloc int[WideBvh.MostWaiting];
        var top = 0;
        stack[top++] = 0;
        while (top > 0)
        {
            var child = stack[--top];
            if (child < 0)
            {
                var (mesh, toLocal) = _instances[_leaves[~child]];
                if (mesh.IsHit(Vector3.Transform(ray.Origin, toLocal), Vector3.TransformNormal(ray.Direction, toLocal), ray.Far))
                {
                    return true;
                }
                continue;
            }
            for (var mask = boxes.Enter(_tree.Nodes + child, ray.Far, out _); mask != 0; mask &= mask - 1)
            {
                stack[top++] = _tree.Nodes[child].Child[BitOperations.TrailingZeroCount(mask)];
            }
        }
        return false;
    }

    private static (Vector3, Vector3) BoundsOf(TriangleMesh mesh, Matrix4x4 toWorld)
    {
        var (low, high) = mesh.Bounds;
        Vector3 min = new(float.PositiveInfinity), max = new(float.NegativeInfinity);
        for (var corner = 0; corner < 8; corner++)
        {
            var p = Vector3.Transform(new(
                (corner & 1) == 0 ? low.X : high.X,
                (corner & 2) == 0 ? low.Y : high.Y,
                (corner & 4) == 0 ? low.Z : high.Z), toWorld);
            min = Vector3.Min(min, p);
            max = Vector3.Max(max, p);
        }
        return (min, max);
    }
}
