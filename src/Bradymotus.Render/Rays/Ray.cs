using System.Numerics;

namespace Bradymotus.Render.Rays;

/// <summary>A half line from <paramref name="Origin"/>, up to <paramref name="Far"/> times <paramref name="Direction"/>.</summary>
public readonly record struct Ray(Vector3 Origin, Vector3 Direction, float Far = float.PositiveInfinity)
{
    public Vector3 At(float t) => Origin + Direction * t;
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

    public readonly bool IsHit => Triangle >= 0;

    public static Hit Miss(float far) => new() { T = far, Triangle = -1, Instance = -1 };
}
