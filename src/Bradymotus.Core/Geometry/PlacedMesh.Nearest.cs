using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>How near two are to each other.</summary>
internal sealed partial class PlacedMesh
{
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
}
