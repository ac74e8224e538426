using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>How deep something is in a mesh.</summary>
internal sealed partial class PlacedMesh
{
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
