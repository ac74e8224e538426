using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>Questions about two triangles, or a triangle and a point.</summary>
/// <remarks>Nearest points: C. Ericson, "Real-Time Collision Detection", 2005, sections 5.1.5 and 5.1.9.</remarks>
internal static class Triangles
{
    /// <summary>The point of a triangle that is nearest to another.</summary>
    internal static Double3 Nearest(in Double3 p, in (Double3 A, Double3 B, Double3 C) t)
    {
        var (ab, ac, ap) = (t.B - t.A, t.C - t.A, p - t.A);
        var (d1, d2) = (Double3.Dot(ab, ap), Double3.Dot(ac, ap));
        if (d1 <= 0 && d2 <= 0)
        {
            return t.A;
        }
        var bp = p - t.B;
        var (d3, d4) = (Double3.Dot(ab, bp), Double3.Dot(ac, bp));
        if (d3 >= 0 && d4 <= d3)
        {
            return t.B;
        }
        var vc = d1 * d4 - d3 * d2;
        if (vc <= 0 && d1 >= 0 && d3 <= 0)
        {
            return t.A + ab * (d1 / (d1 - d3));
        }
        var cp = p - t.C;
        var (d5, d6) = (Double3.Dot(ab, cp), Double3.Dot(ac, cp));
        if (d6 >= 0 && d5 <= d6)
        {
            return t.C;
        }
        var vb = d5 * d2 - d1 * d6;
        if (vb <= 0 && d2 >= 0 && d6 <= 0)
        {
            return t.A + ac * (d2 / (d2 - d6));
        }
        var va = d3 * d6 - d5 * d4;
        if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0)
        {
            return t.B + (t.C - t.B) * ((d4 - d3) / (d4 - d3 + d5 - d6));
        }
        var sum = va + vb + vc;
        return sum == 0 ? t.A : t.A + ab * (vb / sum) + ac * (vc / sum);
    }

    /// <summary>The nearest points of two triangles that do not pass through each other, and the square of their distance.</summary>
    internal static (double Square, Double3 OnA, Double3 OnB) Nearest(in (Double3 A, Double3 B, Double3 C) a, in (Double3 A, Double3 B, Double3 C) b)
    {
        var best = (Square: double.MaxValue, OnA: Double3.Zero, OnB: Double3.Zero);
        void Try(Double3 onA, Double3 onB)
        {
            var way = onA - onB;
            var d = Double3.Dot(way, way);
            if (d < best.Square)
            {
                best = (d, onA, onB);
            }
        }
        Try(a.A, Nearest(a.A, b));
        Try(a.B, Nearest(a.B, b));
        Try(a.C, Nearest(a.C, b));
        Try(Nearest(b.A, a), b.A);
        Try(Nearest(b.B, a), b.B);
        Try(Nearest(b.C, a), b.C);
        for (var i = 0; i < 9; i++)
        {
            var (p, q) = Edge(a, i / 3);
            var (r, s) = Edge(b, i % 3);
            var (onA, onB) = NearestOfEdges(p, q, r, s);
            Try(onA, onB);
        }
        return best;
    }

    /// <summary>Whether two triangles pass through each other: an edge of one goes through the inside of the other. Such as only touch do not.</summary>
    internal static bool Cross(in (Double3 A, Double3 B, Double3 C) a, in (Double3 A, Double3 B, Double3 C) b)
    {
        for (var i = 0; i < 3; i++)
        {
            var (p, q) = Edge(a, i);
            var (r, s) = Edge(b, i);
            if (Pierces(p, q, b) || Pierces(r, s, a))
            {
                return true;
            }
        }
        return false;
    }

    private static (Double3, Double3) Edge(in (Double3 A, Double3 B, Double3 C) t, int i) => i switch { 0 => (t.A, t.B), 1 => (t.B, t.C), _ => (t.C, t.A) };

    private static bool Pierces(in Double3 p, in Double3 q, in (Double3 A, Double3 B, Double3 C) t)
    {
        var normal = Double3.Cross(t.B - t.A, t.C - t.A);
        var (from, to) = (Double3.Dot(p - t.A, normal), Double3.Dot(q - t.A, normal));
        // Both on one side, or one end in the plane itself, as where something stands on it.
        var slack = 1e-9 * normal.Length * (q - p).Length;
        if ((from > -slack && to > -slack) || (from < slack && to < slack))
        {
            return false;
        }
        var at = p + (q - p) * (from / (from - to));
        var square = Double3.Dot(normal, normal);
        bool Inside(in Double3 u, in Double3 v, in Double3 at) => Double3.Dot(Double3.Cross(v - u, at - u), normal) >= -1e-12 * square;
        return Inside(t.A, t.B, at) && Inside(t.B, t.C, at) && Inside(t.C, t.A, at);
    }

    private static (Double3, Double3) NearestOfEdges(in Double3 p, in Double3 q, in Double3 r, in Double3 s)
    {
        var (d1, d2, between) = (q - p, s - r, p - r);
        var (a, e, f) = (Double3.Dot(d1, d1), Double3.Dot(d2, d2), Double3.Dot(d2, between));
        double u, v;
        if (a <= 0 || e <= 0)
        {
            (u, v) = a <= 0 && e <= 0 ? (0.0, 0.0) : a <= 0 ? (0.0, Math.Clamp(f / e, 0, 1)) : (Math.Clamp(-Double3.Dot(d1, between) / a, 0, 1), 0.0);
            return (p + d1 * u, r + d2 * v);
        }
        var (b, c) = (Double3.Dot(d1, d2), Double3.Dot(d1, between));
        var denominator = a * e - b * b;
        u = denominator > 1e-14 * a * e ? Math.Clamp((b * f - c * e) / denominator, 0, 1) : 0;
        v = (b * u + f) / e;
        if (v < 0)
        {
            (v, u) = (0, Math.Clamp(-c / a, 0, 1));
        }
        else if (v > 1)
        {
            (v, u) = (1, Math.Clamp((b - c) / a, 0, 1));
        }
        return (p + d1 * u, r + d2 * v);
    }
}
