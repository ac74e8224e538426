using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>Whether two pass through each other.</summary>
internal sealed partial class PlacedMesh
{
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
}
