using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>
/// All that shines within the scene, lamps and glowing surfaces, numbered: lamps first. Where there are more than are asked for, some are chosen by about
/// what they give to the place (<see cref="LightTree"/>).
/// </summary>
internal sealed class NearLights
{
    private readonly Lamp[] _lamps;
    private readonly EmissiveTriangles _triangles;
    private readonly LightTree _tree;

    /// <param name="lamps">Those that give light. Their order makes no difference.</param>
    /// <param name="triangles">Those of surfaces that glow.</param>
    internal NearLights(IEnumerable<Lamp> lamps, EmissiveTriangles triangles)
    {
        _lamps = [.. lamps.Select(l => (Lamp: l, l.Bounds)).OrderBy(l => l.Bounds.Min.X).ThenBy(l => l.Bounds.Min.Y).ThenBy(l => l.Bounds.Min.Z).ThenBy(l => l.Bounds.Strength).Select(l => l.Lamp)];
        _triangles = triangles;
        _tree = new([.. _lamps.Select(l => l.Bounds), .. triangles.Bounds], _lamps.Length);
    }

    internal ReadOnlySpan<Lamp> Lamps => _lamps;

    internal int Count => _tree.Count;

    /// <summary>How many there are to ask, where so many are wanted at most.</summary>
    internal int Picks(int most) => Math.Min(Count, most);

    /// <summary>One of those that are asked at a place.</summary>
    /// <param name="pick">The how-manieth.</param>
    /// <param name="most">So many are wanted at most.</param>
    /// <param name="choice">0 to 1.</param>
    /// <param name="share">How often it is asked on average: 1 where all are.</param>
    /// <returns>Its number; −1 for none.</returns>
    internal int Pick(int pick, int most, float choice, Vector3 at, Vector3 normal, out float share)
    {
        if (Count <= most)
        {
            share = 1;
            return pick;
        }
        var light = _tree.Choose((pick + choice) / most, at, normal, out var chance);
        share = chance * most;
        return light;
    }

    /// <summary>How often a light is asked at a place on average.</summary>
    internal float Share(int light, int most, Vector3 at, Vector3 normal) => Count <= most ? 1 : most * _tree.Chance(light, at, normal);

    /// <summary>A direction in which a light is seen from a place, and the radiance that comes from there.</summary>
    /// <param name="density">How densely the direction was chosen, per solid angle; 0 where it is not seen.</param>
    internal Vector3 Sample(int light, Vector3 from, Vector2 u, out Vector3 direction, out float distance, out float density)
    {
        if (light >= _lamps.Length)
        {
            return _triangles.Sample(light - _lamps.Length, from, u, out direction, out distance, out density);
        }
        density = _lamps[light].Sample(from, u, out direction, out distance);
        return density > 0 ? _lamps[light].Radiance(from) : Vector3.Zero;
    }

    /// <summary>How densely a place of a glowing triangle would have been chosen from another place, per solid angle.</summary>
    /// <param name="triangle">Its number among those that glow.</param>
    internal float DensityOfTriangle(int triangle, int most, Vector3 from, Vector3 normal, Vector3 to)
    {
        var distance = Vector3.Distance(from, to);
        return Share(_lamps.Length + triangle, most, from, normal) * _triangles.Density(triangle, (to - from) / distance, distance);
    }

    /// <summary>The lamps that a ray may meet before its end.</summary>
    internal LightTree.Walk Along(Vector3 origin, Vector3 direction, float far, Span<int> rest) => _tree.Along(origin, direction, far, rest);
}
