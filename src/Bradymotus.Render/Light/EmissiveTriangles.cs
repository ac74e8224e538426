using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>The triangles of surfaces that glow, to be sampled as lights: a point of one is chosen evenly over its area.</summary>
internal sealed class EmissiveTriangles
{
    private readonly List<(Vector3 A, Vector3 AB, Vector3 AC, RenderInstance Instance, int Triangle)> _triangles = [];
    private readonly List<LightBounds> _bounds = [];

    internal int Count => _triangles.Count;

    /// <summary>Where each is and how strongly it shines.</summary>
    internal IReadOnlyList<LightBounds> Bounds => _bounds;

    /// <summary>Adds a triangle with its corners in the world.</summary>
    /// <returns>Its number; −1 where it gives no light.</returns>
    internal int Add(Vector3 a, Vector3 b, Vector3 c, RenderInstance instance, int triangle)
    {
        var normal = Vector3.Cross(b - a, c - a);
        var area = normal.Length() / 2;
        // Of a panel: radiance times area, the way it faces. Where a map is, this is without it.
        var surface = instance.ShadingAt(triangle).Base;
        var strength = (surface.Emission.X + surface.Emission.Y + surface.Emission.Z) / 3 * surface.Opacity * area;
        if (!(strength > 0 && float.IsFinite(strength)))
        {
            return -1;
        }
        _triangles.Add((a, b - a, c - a, instance, triangle));
        _bounds.Add(new(Vector3.Min(a, Vector3.Min(b, c)), Vector3.Max(a, Vector3.Max(b, c)), normal / (2 * area), 1, 0, true, strength));
        return _triangles.Count - 1;
    }

    /// <summary>A point of a triangle as it is seen from a place.</summary>
    /// <param name="density">How densely its direction was chosen, per solid angle; 0 where it is not seen.</param>
    /// <returns>What it sends there.</returns>
    internal Vector3 Sample(int number, Vector3 from, Vector2 u, out Vector3 direction, out float distance, out float density)
    {
        var (a, ab, ac, instance, triangle) = _triangles[number];
        var s = MathF.Sqrt(u.X);
        var (v, w) = (s * (1 - u.Y), s * u.Y);
        var to = a + ab * v + ac * w - from;
        distance = to.Length();
        direction = to / distance;
        density = Density(number, direction, distance);
        if (!float.IsFinite(density))
        {
            density = 0;
        }
        var (opacity, emission) = instance.Lit(triangle, v, w);
        return emission * opacity;
    }

    /// <summary>How densely <see cref="Sample"/> chooses a direction in which it is met so far away, per solid angle.</summary>
    internal float Density(int number, Vector3 direction, float distance)
    {
        var (_, ab, ac, _, _) = _triangles[number];
        // Twice the area times the cosine.
        var facing = MathF.Abs(Vector3.Dot(Vector3.Cross(ab, ac), direction));
        return 2 * distance * distance / facing;
    }
}
