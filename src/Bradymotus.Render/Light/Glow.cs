using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>
/// The surfaces that glow, to be sampled as lights: a triangle is chosen by its share of all the light, then a point of it evenly.
/// So the density of a point, per area, depends on the emission of its material alone, where no map is.
/// </summary>
internal sealed class Glow
{
    private readonly List<(Vector3 A, Vector3 AB, Vector3 AC, RenderInstance Instance, int Triangle, float Strength)> _triangles = [];
    private readonly List<double> _until = [];
    private double _total;

    internal bool IsNone => _triangles.Count == 0;

    /// <summary>Adds a triangle with its corners in the world.</summary>
    internal void Add(Vector3 a, Vector3 b, Vector3 c, RenderInstance instance, int triangle)
    {
        var strength = Strength(instance.FinishAt(triangle).Base);
        var power = strength * (double)(Vector3.Cross(b - a, c - a).Length() / 2);
        if (power > 0 && double.IsFinite(power))
        {
            _triangles.Add((a, b - a, c - a, instance, triangle, strength));
            _until.Add(_total += power);
        }
    }

    /// <summary>How densely <see cref="Sample"/> chooses the points of a surface, per area.</summary>
    /// <param name="surface">What its material is where no map is.</param>
    internal float Density(in Surface surface) => _total > 0 ? (float)(Strength(surface) / _total) : 0;

    /// <summary>A point of what glows, what it sends out, and how densely it is chosen.</summary>
    internal (Vector3 Position, Vector3 Flat, Vector3 Emission, float Density) Sample(float choice, Vector2 u)
    {
        var at = _until.BinarySearch(choice * _total);
        var (a, ab, ac, instance, triangle, strength) = _triangles[Math.Min(at < 0 ? ~at : at + 1, _triangles.Count - 1)];
        var s = MathF.Sqrt(u.X);
        var (v, w) = (s * (1 - u.Y), s * u.Y);
        var (opacity, emission) = instance.Lit(triangle, v, w);
        return (a + ab * v + ac * w, Vector3.Normalize(Vector3.Cross(ab, ac)), emission * opacity, (float)(strength / _total));
    }

    private static float Strength(in Surface surface) => (surface.Emission.X + surface.Emission.Y + surface.Emission.Z) * surface.Opacity;
}
