using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>
/// The surfaces that glow, to be sampled as lights: a triangle is chosen by its share of all the light, then a point of it evenly.
/// So the density of a point, per area, depends on its emission alone.
/// </summary>
internal sealed class Glow
{
    private readonly List<(Vector3 A, Vector3 AB, Vector3 AC, Surface Surface)> _triangles = [];
    private readonly List<double> _until = [];
    private double _total;

    internal bool IsNone => _triangles.Count == 0;

    /// <summary>Adds a triangle with its corners in the world.</summary>
    internal void Add(Vector3 a, Vector3 b, Vector3 c, in Surface surface)
    {
        var power = Strength(surface) * (double)(Vector3.Cross(b - a, c - a).Length() / 2);
        if (power > 0 && double.IsFinite(power))
        {
            _triangles.Add((a, b - a, c - a, surface));
            _until.Add(_total += power);
        }
    }

    /// <summary>How densely <see cref="Sample"/> chooses the points of a surface, per area.</summary>
    internal float Density(in Surface surface) => _total > 0 ? (float)(Strength(surface) / _total) : 0;

    /// <summary>A point of what glows.</summary>
    internal (Vector3 Position, Vector3 Flat, Surface Surface) Sample(float choice, Vector2 u)
    {
        var at = _until.BinarySearch(choice * _total);
        var (a, ab, ac, surface) = _triangles[Math.Min(at < 0 ? ~at : at + 1, _triangles.Count - 1)];
        var s = MathF.Sqrt(u.X);
        return (a + ab * (s * (1 - u.Y)) + ac * (s * u.Y), Vector3.Normalize(Vector3.Cross(ab, ac)), surface);
    }

    private static float Strength(in Surface surface) => (surface.Emission.X + surface.Emission.Y + surface.Emission.Z) * surface.Opacity;
}
