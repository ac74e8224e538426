using System.Numerics;

namespace Bradymotus.Render.Rays;

/// <summary>A half line from <paramref name="Origin"/>, up to <paramref name="Far"/> times <paramref name="Direction"/>.</summary>
public readonly record struct Ray(Vector3 Origin, Vector3 Direction, float Far = float.PositiveInfinity)
{
    /// <summary>How wide what it looks at is where it starts, in metres, and by how much that grows with each metre: what lies within counts as one.</summary>
    internal float Width { get; init; }

    /// <inheritdoc cref="Width"/>
    internal float Spread { get; init; }

    /// <summary>A point of it, so many lengths of its direction from where it starts.</summary>
    public Vector3 At(float t) => Origin + Direction * t;

    /// <summary>The same ray behind something that it goes through.</summary>
    /// <param name="from">Just behind it.</param>
    /// <param name="way">How far it went until there.</param>
    internal Ray Past(Vector3 from, float way) => new(from, Direction, Far - way) { Width = Width + Spread * way, Spread = Spread };

    /// <summary>Goes on another way from a point that this one has met.</summary>
    /// <param name="spread">By how much what it looks at grows from there; at least as this one does.</param>
    internal Ray Turned(Vector3 from, Vector3 direction, float way, float spread = 0) =>
        new(from, direction) { Width = Width + Spread * way, Spread = MathF.Max(Spread, spread) };
}

/// <summary>Where a ray meets a triangle.</summary>
public struct Hit
{
    /// <summary>Distance in lengths of the ray's direction; infinite for a miss.</summary>
    public float T;

    /// <summary>Barycentric weights of the second and the third corner.</summary>
    public float U, V;

    /// <summary>The triangle's number in its mesh, or −1 for a miss.</summary>
    public int Triangle;

    /// <summary>The instance in the scene.</summary>
    public int Instance;

    /// <summary>It has met something.</summary>
    public readonly bool IsHit => Triangle >= 0;

    /// <summary>Of a ray that meets nothing as far as it goes.</summary>
    public static Hit Miss(float far) => new() { T = far, Triangle = -1, Instance = -1 };
}
