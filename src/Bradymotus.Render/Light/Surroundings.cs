using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>
/// The balls round lamps within which something stands close: a hood, a wall. What is there is so bright, and found so seldom by chance, that a part of
/// all rays is sent there on purpose. This changes how grainy a picture is and nothing else: a direction counts by how densely both ways choose it.
/// </summary>
internal sealed class Surroundings
{
    /// <summary>So many of the rays that are reflected are sent to the surroundings of a lamp, where there are any.</summary>
    internal const float Part = 0.25f;

    // A ball reaches twice as far as the nearest tenth of what the lamp shines on.
    private const float Nearest = 0.1f, Reach = 2;

    private readonly List<(Vector3 Middle, float Radius)> _balls = [];
    private readonly LightTree _tree;

    /// <param name="lamps">The lamps.</param>
    /// <param name="distance">How far a ray goes until it meets something.</param>
    internal Surroundings(ReadOnlySpan<Lamp> lamps, Func<Vector3, Vector3, float> distance)
    {
        var bounds = new List<LightBounds>();
        var rays = Math.Clamp(100_000 / Math.Max(1, lamps.Length), 16, 64);
        var far = new float[rays];
        var all = new LightBounds[lamps.Length];
        for (var i = 0; i < all.Length; i++)
        {
            all[i] = lamps[i].Bounds;
        }
        foreach (var lamp in lamps)
        {
            var light = lamp.Bounds;
            var lit = 0;
            for (var i = 0; i < rays; i++)
            {
                // Evenly over all directions, by the golden ratio.
                var direction = Warp.Cap(new((i + 0.5f) / rays, i * 0.61803398875f % 1), 2);
                if (lamp.Radiance(light.Middle + direction) != Vector3.Zero)
                {
                    far[lit++] = distance(light.Middle, direction);
                }
            }
            Array.Sort(far, 0, lit);
            var near = lit == 0 ? float.PositiveInfinity : far[(int)(lit * Nearest)];
            if (float.IsFinite(near) && near > 0 && IsBright(light, near, all))
            {
                var radius = Reach * near;
                var corner = new Vector3(radius);
                _balls.Add((light.Middle, radius));
                bounds.Add(new(light.Middle - corner, light.Middle + corner, Vector3.UnitY, -1, 0, false, light.Strength));
            }
        }
        _tree = new(bounds, bounds.Count);
    }

    /// <summary>
    /// What stands so near to a lamp has more light of it than of all others together. Of many lamps in a row over one floor no part of it is brighter than
    /// the rest: to send rays there would take long and help nothing.
    /// </summary>
    private static bool IsBright(in LightBounds light, float near, LightBounds[] all)
    {
        var (own, others) = (light.Strength / (near * near), 0f);
        foreach (var other in all)
        {
            others += other.Strength / MathF.Max(near * near, (other.Middle - light.Middle).LengthSquared());
            // Its own is among them.
            if (others > 2 * own)
            {
                return false;
            }
        }
        return true;
    }

    internal bool IsNone => _balls.Count == 0;

    /// <summary>A direction towards one of the balls; false where the place lies within the one that was chosen.</summary>
    internal bool Sample(Vector3 from, float choice, Vector2 u, out Vector3 direction)
    {
        direction = default;
        var ball = _tree.Choose(choice, from, Vector3.Zero, out _);
        if (ball < 0 || Cap(ball, from) is not (> 0 and var cap))
        {
            return false;
        }
        direction = Warp.ToWorld(Warp.Cap(u, cap), Vector3.Normalize(_balls[ball].Middle - from));
        return true;
    }

    /// <summary>The chance that <see cref="Sample"/> gives a direction.</summary>
    internal float Chance(Vector3 from)
    {
        Span<int> rest = stackalloc int[LightTree.MostDepth];
        var within = 0f;
        for (var around = _tree.Along(from, Vector3.UnitY, 0, rest); around.Next(out var ball);)
        {
            within += Cap(ball, from) > 0 ? 0 : _tree.Chance(ball, from, Vector3.Zero);
        }
        return MathF.Max(0, 1 - within);
    }

    /// <summary>How densely <see cref="Sample"/> chooses a direction, per solid angle.</summary>
    internal float Density(Vector3 from, Vector3 direction)
    {
        Span<int> rest = stackalloc int[LightTree.MostDepth];
        var density = 0f;
        for (var balls = _tree.Along(from, direction, float.PositiveInfinity, rest); balls.Next(out var ball);)
        {
            if (Cap(ball, from) is > 0 and var cap && Vector3.Dot(direction, Vector3.Normalize(_balls[ball].Middle - from)) >= 1 - cap)
            {
                density += _tree.Chance(ball, from, Vector3.Zero) / (2 * MathF.PI * cap);
            }
        }
        return density;
    }

    // 1 − cos of half the angle under which a ball is seen; 0 within it.
    private float Cap(int ball, Vector3 from)
    {
        var (middle, radius) = _balls[ball];
        var sine = radius * radius / (middle - from).LengthSquared();
        return sine >= 1 ? 0 : sine / (1 + MathF.Sqrt(1 - sine));
    }
}
