using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Checks;

/// <summary>
/// How deep two meshes are in each other: as deep as the deepest vertex of one lies behind the surface of the other, or, where no vertex does,
/// the deepest place of a face. So beams that cross, and boxes of one height that are pushed into each other, are found as well.
/// </summary>
internal static class Penetration
{
    /// <summary>Of faces that reach into the other so many are looked at, the largest; and each is divided by four so often at most.</summary>
    private static readonly (int Faces, int Divisions) OfCrossing = (256, 3), OfFlush = (48, 1);

    /// <summary>How deep the one is in the other, and the shortest way out of it for the first, of length 1.</summary>
    /// <param name="areCrossing">Triangles of theirs pass through each other. Where none do, only what lies flush with the other's faces can be in it.</param>
    /// <param name="tolerance">What is no deeper need not be told from 0; in metres.</param>
    /// <param name="give">Takes the depth in metres, 0 where they are not in each other.</param>
    internal static IEnumerable<bool> Find(PlacedMesh a, PlacedMesh b, bool areCrossing, double tolerance, Action<double, Double3> give)
    {
        var bound = Math.Min(Size(a), Size(b));
        var (inB, inA) = ((Depth: 0.0, At: Double3.Zero), (Depth: 0.0, At: Double3.Zero));
        if (areCrossing)
        {
            foreach (var _ in a.Deepest(b, bound, (d, p) => inB = (d, p)).Concat(b.Deepest(a, bound, (d, p) => inA = (d, p))))
            {
                yield return true;
            }
        }
        if (Math.Max(inB.Depth, inA.Depth) <= tolerance)
        {
            // What lies wholly within another without passing through its surface is cargo in a crate; and behind an open surface is no inside.
            if (areCrossing || (StandsOut(a, b, tolerance) && b.Tree.IsClosed))
            {
                foreach (var _ in Faces(a, b, bound, tolerance, areCrossing ? OfCrossing : OfFlush, (d, p) => inB = d > inB.Depth ? (d, p) : inB))
                {
                    yield return true;
                }
            }
            if (areCrossing || (StandsOut(b, a, tolerance) && a.Tree.IsClosed))
            {
                foreach (var _ in Faces(b, a, bound, tolerance, areCrossing ? OfCrossing : OfFlush, (d, p) => inA = d > inA.Depth ? (d, p) : inA))
                {
                    yield return true;
                }
            }
        }
        var way = Double3.UnitY;
        if (inB.Depth > 0 && inB.Depth >= inA.Depth)
        {
            b.Behind(inB.At, 1.01 * inB.Depth, out var on);
            way = (on - inB.At).Normalized();
        }
        else if (inA.Depth > 0)
        {
            a.Behind(inA.At, 1.01 * inA.Depth, out var on);
            way = (inA.At - on).Normalized();
        }
        give(Math.Max(inB.Depth, inA.Depth), way);
    }

    /// <summary>Whether the boxes of two share more than so much along every axis.</summary>
    internal static bool Overlap(in Room a, in Room b, double tolerance) => !a.IsNone && !b.IsNone && a.Meets(b, -tolerance);

    private static double Size(PlacedMesh mesh) => (mesh.Room.Max - mesh.Room.Min).Length;

    private static bool StandsOut(PlacedMesh a, PlacedMesh b, double tolerance)
    {
        var (low, high) = (b.Room.Min - a.Room.Min, a.Room.Max - b.Room.Max);
        return Math.Max(Math.Max(low.X, Math.Max(low.Y, low.Z)), Math.Max(high.X, Math.Max(high.Y, high.Z))) > tolerance;
    }

    /// <summary>The deepest place that the faces of one mesh have within another.</summary>
    private static IEnumerable<bool> Faces(PlacedMesh of, PlacedMesh within, double bound, double tolerance, (int Faces, int Divisions) most, Action<double, Double3> give)
    {
        var (min, max) = within.Room;
        var sides = max - min;
        if (Math.Min(sides.X, Math.Min(sides.Y, sides.Z)) < 1e-6 * Math.Max(sides.X, Math.Max(sides.Y, sides.Z)))
        {
            // Behind what is flat vertices say all there is.
            yield break;
        }
        var pieces = new List<(Double3 A, Double3 B, Double3 C)>();
        foreach (var triangle in of.Meeting(min, max))
        {
            Clip(of.Corners(triangle), min, max, pieces);
            yield return true;
        }
        var (deepest, place) = (0.0, Double3.Zero);
        var open = new Stack<((Double3 A, Double3 B, Double3 C) Piece, int Divisions)>();
        foreach (var piece in pieces.OrderByDescending(p => Double3.Cross(p.B - p.A, p.C - p.A).Length).Take(most.Faces).Reverse())
        {
            open.Push((piece, 0));
        }
        var isClosed = within.Tree.IsClosed;
        while (open.TryPop(out var next))
        {
            var (a, b, c) = next.Piece;
            var limit = isClosed ? DeepestIn(a, b, c, min, max) : double.PositiveInfinity;
            if (limit <= Math.Max(deepest, tolerance))
            {
                continue;
            }
            var middle = (a + b + c) * (1 / 3.0);
            var reach = Math.Max((a - middle).Length, Math.Max((b - middle).Length, (c - middle).Length));
            var depth = within.Behind(middle, bound, out _);
            yield return true;
            (deepest, place) = depth > deepest ? (depth, middle) : (deepest, place);
            // No place of it lies deeper than its middle and its reach together.
            if (next.Divisions < most.Divisions && Math.Min(depth + reach, limit) > Math.Max(1.2 * deepest, tolerance))
            {
                var (ab, bc, ca) = ((a + b) * 0.5, (b + c) * 0.5, (c + a) * 0.5);
                foreach (var part in ((Double3, Double3, Double3)[])[(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)])
                {
                    open.Push((part, next.Divisions + 1));
                }
            }
        }
        give(deepest, place);
    }

    /// <summary>
    /// Deeper than this no place of a triangle lies in a closed mesh that fills a box: straight on to the nearest side of the box one comes out of it.
    /// So what lies flush on it is passed by at once.
    /// </summary>
    private static double DeepestIn(Double3 a, Double3 b, Double3 c, Double3 min, Double3 max)
    {
        static double Side(double a, double b, double c, double min, double max) =>
            Math.Min(Math.Max(a, Math.Max(b, c)) - min, max - Math.Min(a, Math.Min(b, c)));
        return Math.Min(Side(a.X, b.X, c.X, min.X, max.X), Math.Min(Side(a.Y, b.Y, c.Y, min.Y, max.Y), Side(a.Z, b.Z, c.Z, min.Z, max.Z)));
    }

    /// <summary>What of a triangle lies in a box, as triangles (I. Sutherland and G. Hodgman, "Reentrant polygon clipping", 1974).</summary>
    private static void Clip((Double3 A, Double3 B, Double3 C) triangle, Double3 min, Double3 max, List<(Double3 A, Double3 B, Double3 C)> pieces)
    {
        List<Double3> corners = [triangle.A, triangle.B, triangle.C];
        foreach (var (axis, edge) in ((Double3, double)[])[(Double3.UnitX, max.X), (-Double3.UnitX, -min.X), (Double3.UnitY, max.Y), (-Double3.UnitY, -min.Y),
            (Double3.UnitZ, max.Z), (-Double3.UnitZ, -min.Z)])
        {
            var kept = new List<Double3>();
            for (var i = 0; i < corners.Count; i++)
            {
                var (p, q) = (corners[i], corners[(i + 1) % corners.Count]);
                var (over, overNext) = (Double3.Dot(p, axis) - edge, Double3.Dot(q, axis) - edge);
                if (over <= 0)
                {
                    kept.Add(p);
                }
                if (over * overNext < 0)
                {
                    kept.Add(p + (q - p) * (over / (over - overNext)));
                }
            }
            corners = kept;
        }
        for (var i = 2; i < corners.Count; i++)
        {
            pieces.Add((corners[0], corners[i - 1], corners[i]));
        }
    }
}
