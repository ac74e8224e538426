using NetTopologySuite.Geometries;
using NetTopologySuite.Triangulate.Polygon;

namespace Bradymotus.Core.Geometry;

/// <summary>The triangles between the contours of an outline, and what they allow.</summary>
internal static class OutlineTriangles
{
    /// <summary>Three points a triangle, counter-clockwise; none where contours cross each other.</summary>
    internal static int[] Of(OutlinePath path)
    {
        var rings = new (LinearRing Ring, int Depth)[path.Starts.Length - 1];
        var factory = GeometryFactory.Default;
        var places = new Dictionary<(double, double), int>();
        for (var c = 0; c < rings.Length; c++)
        {
            var (first, end) = (path.Starts[c], path.Starts[c + 1]);
            var ring = new Coordinate[end - first + 1];
            for (var i = first; i < end; i++)
            {
                ring[i - first] = new(path.Points[i].X, path.Points[i].Y);
                places.TryAdd((path.Points[i].X, path.Points[i].Y), i);
            }
            ring[^1] = ring[0].Copy();
            rings[c] = (factory.CreateLinearRing(ring), Enumerable.Range(0, rings.Length).Count(o => o != c && path.IsInside(path.Points[first], o)));
        }
        var triangles = new List<int>();
        for (var c = 0; c < rings.Length; c++)
        {
            if (rings[c].Depth % 2 == 1)
            {
                continue;
            }
            var holes = Enumerable.Range(0, rings.Length)
                .Where(h => rings[h].Depth == rings[c].Depth + 1 && path.IsInside(path.Points[path.Starts[h]], c)).Select(h => rings[h].Ring).ToArray();
            try
            {
                var all = ConstrainedDelaunayTriangulator.Triangulate(factory.CreatePolygon(rings[c].Ring, holes));
                for (var g = 0; g < all.NumGeometries; g++)
                {
                    var corners = all.GetGeometryN(g).Coordinates;
                    Add(places[(corners[0].X, corners[0].Y)], places[(corners[1].X, corners[1].Y)], places[(corners[2].X, corners[2].Y)]);
                }
            }
            catch (Exception e) when (e is TopologyException or InvalidOperationException or ArgumentException or KeyNotFoundException or IndexOutOfRangeException)
            {
                // Contours that cross each other have no inside that could be filled: the walls are drawn.
            }
        }
        return [.. triangles];

        void Add(int a, int b, int c)
        {
            var area = Area(path, a, b, c);
            if (area != 0)
            {
                triangles.AddRange(area > 0 ? [a, b, c] : [a, c, b]);
            }
        }
    }

    /// <summary>How far all edges can be moved inwards before a triangle turns over: the least root of the triangles' areas, which are quadratic in it.</summary>
    internal static double MostInset(OutlinePath path, int[] triangles)
    {
        var miters = new (double X, double Y)[path.Points.Length];
        for (var c = 0; c + 1 < path.Starts.Length; c++)
        {
            for (var i = path.Starts[c]; i < path.Starts[c + 1]; i++)
            {
                miters[i] = path.Corner(c, i).Miter;
            }
        }
        var most = double.MaxValue;
        for (var t = 0; t < triangles.Length; t += 3)
        {
            var (a, b, c) = (triangles[t], triangles[t + 1], triangles[t + 2]);
            var (p, q) = (Less(path.Points[b], path.Points[a]), Less(path.Points[c], path.Points[a]));
            var (m, n) = ((X: miters[a].X - miters[b].X, Y: miters[a].Y - miters[b].Y), (X: miters[a].X - miters[c].X, Y: miters[a].Y - miters[c].Y));
            // (p + s·m) × (q + s·n) = 0
            var (k0, k1, k2) = (Cross(p, q), Cross(p, n) + Cross(m, q), Cross(m, n));
            var root = k1 * k1 - 4 * k2 * k0;
            if (root < 0)
            {
                continue;
            }
            // The smaller root above 0, in the form that loses no digits.
            var half = -0.5 * (k1 + Math.CopySign(Math.Sqrt(root), k1));
            foreach (var s in (ReadOnlySpan<double>)[half == 0 ? 0 : k0 / half, k2 == 0 ? 0 : half / k2])
            {
                most = s > 0 && s < most ? s : most;
            }
        }
        return most == double.MaxValue ? 0 : most;
    }

    private static (double X, double Y) Less((double X, double Y, bool) a, (double X, double Y, bool) b) => (a.X - b.X, a.Y - b.Y);

    private static double Cross((double X, double Y) a, (double X, double Y) b) => a.X * b.Y - a.Y * b.X;

    private static double Area(OutlinePath path, int a, int b, int c) => Cross(Less(path.Points[b], path.Points[a]), Less(path.Points[c], path.Points[a]));
}
