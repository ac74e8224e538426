using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>How a surface answers light. Linear colours.</summary>
public readonly record struct Surface(Vector3 Color, float Roughness, float Metallic, Vector3 Emission, float Opacity)
{
    public static Surface Grey { get; } = new(new(0.8f), 0.6f, 0, Vector3.Zero, 1);
}
