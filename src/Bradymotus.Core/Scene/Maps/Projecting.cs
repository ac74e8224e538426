using System.Numerics;

namespace Bradymotus.Core.Scene;

/// <summary>From a point of a shape to a point of a map. The stage does the same (<c>viewport/scene/patterns.ts</c>).</summary>
public static class Projecting
{
    /// <summary>The place on a map before it is scaled, turned and shifted; u to the right, v downwards, and for <see cref="MapProjection.Solid"/> a depth.</summary>
    /// <param name="point">In the shape's own space, at rest.</param>
    /// <param name="axis">For <see cref="MapProjection.Box"/>: the side, of <see cref="SideOf"/>.</param>
    /// <param name="coordinates">The shape's own.</param>
    public static Vector3 Place(MapProjection projection, Vector3 point, int axis, Vector2 coordinates) => projection switch
    {
        MapProjection.Coordinates => new(coordinates, 0),
        MapProjection.Solid => point,
        MapProjection.Box => Box(point, axis),
        MapProjection.Planar => new(point.X + 0.5f, 0.5f - point.Y, 0),
        MapProjection.Cylindrical => new(Round(point), 0.5f - point.Y, 0),
        _ => new(Round(point), point.Length() is > 0 and var length ? MathF.Acos(Math.Clamp(point.Y / length, -1, 1)) / MathF.PI : 0, 0),
    };

    /// <summary>Which of six sides a normal faces most: +X, −X, +Y, −Y, +Z, −Z.</summary>
    public static int SideOf(Vector3 normal)
    {
        var a = Vector3.Abs(normal);
        var axis = a.X >= a.Y && a.X >= a.Z ? 0 : a.Y >= a.Z ? 1 : 2;
        return 2 * axis + (normal[axis] < 0 ? 1 : 0);
    }

    private static float Round(Vector3 p) => MathF.Atan2(p.X, p.Z) / (2 * MathF.PI) + 0.5f;

    private static Vector3 Box(Vector3 p, int side) => (side switch
    {
        0 => new(-p.Z, -p.Y, 0),
        1 => new(p.Z, -p.Y, 0),
        2 => new(p.X, p.Z, 0),
        3 => new(p.X, -p.Z, 0),
        4 => new(p.X, -p.Y, 0),
        _ => new Vector3(-p.X, -p.Y, 0),
    }) + new Vector3(0.5f, 0.5f, 0);
}
