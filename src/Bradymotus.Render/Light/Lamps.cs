using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>Something near that shines. It is no body: it throws no shadow, and light goes through it.</summary>
internal abstract class Lamp
{
    /// <summary>It gives no light at all.</summary>
    internal abstract bool IsDark { get; }

    /// <summary>The radiance that comes from it to a point, in any direction in which it is seen there.</summary>
    internal abstract Vector3 Radiance(Vector3 at);

    /// <summary>A direction in which it is seen from a point, how far it is there, and how densely the direction was chosen, per solid angle; 0 where it is not seen.</summary>
    internal abstract float Sample(Vector3 from, Vector2 u, out Vector3 direction, out float distance);

    /// <summary>How densely <see cref="Sample"/> chooses a direction in which it is seen.</summary>
    internal abstract float Density(Vector3 from, Vector3 direction);

    /// <summary>How far away a ray meets it; infinite where it does not.</summary>
    internal abstract float Distance(Vector3 from, Vector3 direction);

    /// <summary>About what it gives to a surface, with nothing in the way: for a first look.</summary>
    /// <param name="least">It counts as no nearer than this, in metres.</param>
    internal abstract Vector3 Irradiance(Vector3 at, Vector3 normal, float least = 0);

    /// <summary>Where it is, which way it shines and how strongly.</summary>
    internal abstract LightBounds Bounds { get; }

    private protected static float Mean(Vector3 v) => (v.X + v.Y + v.Z) / 3;
}

/// <summary>A ball that glows evenly, all round or within a cone.</summary>
/// <param name="intensity">Power ÷ 4π: the irradiance at one metre.</param>
/// <param name="axis">Where a spot points.</param>
/// <param name="outer">Cosine of half the cone; −1 for all round.</param>
/// <param name="inner">Cosine of half the cone within which it is at its brightest.</param>
internal sealed class BallLamp(Vector3 position, float radius, Vector3 intensity, Vector3 axis = default, float outer = -1, float inner = -1) : Lamp
{
    // Of its surface: it shows the disc π·r² to everywhere.
    private readonly Vector3 _radiance = intensity / (MathF.PI * radius * radius);

    internal override bool IsDark => intensity == Vector3.Zero;

    internal override Vector3 Radiance(Vector3 at) => _radiance * Spot(at);

    internal override float Sample(Vector3 from, Vector2 u, out Vector3 direction, out float distance)
    {
        var to = position - from;
        var squared = to.LengthSquared();
        if (Cap(squared) is not (> 0 and var cap) || Spot(from) == 0)
        {
            (direction, distance) = (default, 0);
            return 0;
        }
        direction = Warp.ToWorld(Warp.Cap(u, cap), to / MathF.Sqrt(squared));
        distance = Distance(from, direction);
        return 1 / (2 * MathF.PI * cap);
    }

    internal override float Density(Vector3 from, Vector3 direction) => Cap((position - from).LengthSquared()) is > 0 and var cap ? 1 / (2 * MathF.PI * cap) : 0;

    internal override float Distance(Vector3 from, Vector3 direction)
    {
        var to = position - from;
        var along = Vector3.Dot(to, direction);
        // From the foot of the perpendicular: far away, the square of the distance would swallow that of the radius.
        var inside = radius * radius - (to - direction * along).LengthSquared();
        // A direction on the rim may miss by a rounding.
        return along <= 0 || to.LengthSquared() <= radius * radius ? float.PositiveInfinity
            : inside >= -1e-4f * radius * radius ? along - MathF.Sqrt(MathF.Max(0, inside))
            : float.PositiveInfinity;
    }

    internal override LightBounds Bounds => new(position - new Vector3(radius), position + new Vector3(radius), outer <= -1 ? Vector3.UnitY : axis, outer <= -1 ? -1 : inner,
        // From the edge of the inner cone on to that of the outer.
        outer <= -1 ? 0 : MathF.Cos(MathF.Min(MathF.PI / 2, MathF.Acos(outer) - MathF.Acos(inner) + 0.01f)), false, Mean(intensity));

    internal override Vector3 Irradiance(Vector3 at, Vector3 normal, float least = 0)
    {
        var to = position - at;
        var squared = MathF.Max(to.LengthSquared(), MathF.Max(radius * radius, least * least));
        return intensity * (Spot(at) * MathF.Max(0, Vector3.Dot(to, normal)) / (MathF.Sqrt(squared) * squared));
    }

    /// <summary>How much of its light goes to a point: all within the inner cone, less towards the outer, as the glTF extension KHR_lights_punctual has it.</summary>
    private float Spot(Vector3 at)
    {
        if (outer <= -1)
        {
            return 1;
        }
        var cos = Vector3.Dot(axis, Vector3.Normalize(at - position));
        var part = Math.Clamp((cos - outer) / MathF.Max(1e-3f, inner - outer), 0, 1);
        return part * part;
    }

    // 1 − cos of half the angle under which the ball is seen; by its sine, since the cosine of a small angle is 1.
    private float Cap(float squared)
    {
        var sine = radius * radius / squared;
        return sine >= 1 ? 0 : sine / (1 + MathF.Sqrt(1 - sine));
    }
}

/// <summary>A flat panel that glows evenly on one side, as bright from everywhere (Lambert): a rectangle, or the ellipse within it.</summary>
/// <param name="right">From its middle to its right side.</param>
/// <param name="up">From its middle to its upper side.</param>
/// <param name="facing">The way it shines, of length 1.</param>
/// <param name="power">All its light, in watts.</param>
internal sealed class PanelLamp(Vector3 position, Vector3 right, Vector3 up, Vector3 facing, bool isRound, Vector3 power) : Lamp
{
    private readonly float _area = (isRound ? MathF.PI : 4) * Vector3.Cross(right, up).Length();

    // A Lambertian panel gives π·L·A.
    private Vector3 Glow => power / (MathF.PI * _area);

    internal override bool IsDark => power == Vector3.Zero || !(_area > 1e-12f);

    internal override Vector3 Radiance(Vector3 at) => Vector3.Dot(at - position, facing) > 0 ? Glow : Vector3.Zero;

    internal override float Sample(Vector3 from, Vector2 u, out Vector3 direction, out float distance)
    {
        var on = isRound ? Warp.Disk(u) : 2 * u - Vector2.One;
        var to = position + right * on.X + up * on.Y - from;
        distance = to.Length();
        direction = to / distance;
        return DensityAt(direction, distance);
    }

    internal override float Density(Vector3 from, Vector3 direction) =>
        Distance(from, direction) is var distance && float.IsFinite(distance) ? DensityAt(direction, distance) : 0;

    internal override float Distance(Vector3 from, Vector3 direction)
    {
        var cos = -Vector3.Dot(direction, facing);
        if (cos <= 0)
        {
            return float.PositiveInfinity;
        }
        var distance = Vector3.Dot(from - position, facing) / cos;
        var on = from + direction * distance - position;
        var (x, y) = (Vector3.Dot(on, right) / right.LengthSquared(), Vector3.Dot(on, up) / up.LengthSquared());
        return distance > 0 && (isRound ? x * x + y * y <= 1.0001f : MathF.Abs(x) <= 1.0001f && MathF.Abs(y) <= 1.0001f) ? distance : float.PositiveInfinity;
    }

    internal override LightBounds Bounds
    {
        get
        {
            // Of the ellipse, as of the rectangle: the sum of what its two sides reach.
            var reach = Vector3.Abs(right) + Vector3.Abs(up);
            return new(position - reach, position + reach, facing, 1, 0, false, Mean(power) / MathF.PI);
        }
    }

    internal override Vector3 Irradiance(Vector3 at, Vector3 normal, float least = 0)
    {
        var to = position - at;
        var squared = MathF.Max(to.LengthSquared(), MathF.Max(_area / 4, least * least));
        var length = MathF.Sqrt(squared);
        return power * (MathF.Max(0, Vector3.Dot(to, normal)) * MathF.Max(0, -Vector3.Dot(to, facing)) / (MathF.PI * squared * length * length));
    }

    // From evenly over the area to evenly over the solid angle.
    private float DensityAt(Vector3 direction, float distance) =>
        -Vector3.Dot(direction, facing) is > 1e-6f and var cos ? distance * distance / (_area * cos) : 0;
}
