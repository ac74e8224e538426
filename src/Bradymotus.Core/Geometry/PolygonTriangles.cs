using NetTopologySuite.Geometries;
using NetTopologySuite.Triangulate.Polygon;

namespace Bradymotus.Core.Geometry;

/// <summary>Takes polygons in space apart into triangles: convex ones as fans, others within their outline.</summary>
public static class PolygonTriangles
{
    /// <summary>A polygon that is not convex may have so many corners; more would take too long.</summary>
    public const int MostCorners = 2000;

    /// <summary>Adds the triangles of a polygon.</summary>
    /// <param name="corners">Its corners, indices into the positions, in order.</param>
    /// <param name="positions">Three numbers each.</param>
    /// <param name="triangles">Takes three corners for each triangle, by their place in <paramref name="corners"/>, turned as the polygon is.</param>
    /// <returns>False where it has no clear inside (it crosses itself, or is a line, or has too many corners): then it is a fan, or nothing.</returns>
    public static bool Add(ReadOnlySpan<int> corners, ReadOnlySpan<float> positions, List<int> triangles)
    {
        var count = corners.Length;
        if (count < 3)
        {
            return false;
        }
        if (count == 3)
        {
            triangles.AddRange([0, 1, 2]);
            return true;
        }
        // Seen from where it faces (M. Newell's normal, which flat and nearly flat polygons have).
        double nx = 0, ny = 0, nz = 0;
        for (var i = 0; i < count; i++)
        {
            var (a, b) = (3 * corners[i], 3 * corners[(i + 1) % count]);
            nx += ((double)positions[a + 1] - positions[b + 1]) * ((double)positions[a + 2] + positions[b + 2]);
            ny += ((double)positions[a + 2] - positions[b + 2]) * ((double)positions[a] + positions[b]);
            nz += ((double)positions[a] - positions[b]) * ((double)positions[a + 1] + positions[b + 1]);
        }
        // Along the largest axis the others keep their order: cyclic, so that the turn stays.
        var (ax, ay, az) = (Math.Abs(nx), Math.Abs(ny), Math.Abs(nz));
        var axis = ax >= ay && ax >= az ? 0 : ay >= az ? 1 : 2;
        var sign = axis == 0 ? Math.Sign(nx) : axis == 1 ? Math.Sign(ny) : Math.Sign(nz);
        if (sign == 0 || !double.IsFinite(ax + ay + az))
        {
            Fan(count, 0, triangles);
            return false;
        }
        var (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
        var points = new (double X, double Y)[count];
        for (var i = 0; i < count; i++)
        {
            points[i] = (positions[3 * corners[i] + u], sign * (double)positions[3 * corners[i] + v]);
        }
        var reflex = -1;
        var turned = 0.0;
        for (var i = 0; i < count; i++)
        {
            var (p, q, r) = (points[(i + count - 1) % count], points[i], points[(i + 1) % count]);
            var (cross, dot) = ((q.X - p.X) * (r.Y - q.Y) - (q.Y - p.Y) * (r.X - q.X), (q.X - p.X) * (r.X - q.X) + (q.Y - p.Y) * (r.Y - q.Y));
            turned += Math.Atan2(cross, dot);
            reflex = cross < 0 ? i : reflex;
        }
        // Once round and never back: convex. A star of five points goes round twice.
        if (reflex < 0 && turned < 3 * Math.PI)
        {
            Fan(count, 0, triangles);
            return true;
        }
        if (count == 4 && turned > Math.PI)
        {
            Fan(count, reflex, triangles);
            return true;
        }
        if (count > MostCorners)
        {
            return false;
        }
        if (TryDivide(points, triangles))
        {
            return true;
        }
        Fan(count, 0, triangles);
        return false;
    }

    private static void Fan(int count, int from, List<int> triangles)
    {
        for (var i = 1; i + 1 < count; i++)
        {
            triangles.AddRange([from, (from + i) % count, (from + i + 1) % count]);
        }
    }

    private static bool TryDivide((double X, double Y)[] points, List<int> triangles)
    {
        var ring = new Coordinate[points.Length + 1];
        var places = new Dictionary<(double, double), int>();
        for (var i = 0; i < points.Length; i++)
        {
            ring[i] = new(points[i].X, points[i].Y);
            places.TryAdd(points[i], i);
        }
        ring[^1] = ring[0].Copy();
        try
        {
            var polygon = GeometryFactory.Default.CreatePolygon(ring);
            if (!polygon.IsValid)
            {
                return false;
            }
            var all = ConstrainedDelaunayTriangulator.Triangulate(polygon);
            var made = new List<int>();
            for (var g = 0; g < all.NumGeometries; g++)
            {
                var c = all.GetGeometryN(g).Coordinates;
                var (a, b, d) = (places[(c[0].X, c[0].Y)], places[(c[1].X, c[1].Y)], places[(c[2].X, c[2].Y)]);
                var area = (points[b].X - points[a].X) * (points[d].Y - points[a].Y) - (points[b].Y - points[a].Y) * (points[d].X - points[a].X);
                made.AddRange(area >= 0 ? [a, b, d] : [a, d, b]);
            }
            triangles.AddRange(made);
            return made.Count > 0;
        }
        catch (Exception e) when (e is TopologyException or InvalidOperationException or ArgumentException or KeyNotFoundException or IndexOutOfRangeException)
        {
            return false;
        }
    }
}
