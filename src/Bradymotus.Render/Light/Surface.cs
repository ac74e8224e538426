using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>How a surface answers light at one place. Linear colours.</summary>
/// <param name="Color">The part of light that a matt surface throws back, or a metal mirrors, 0 to 1 for each of red, green and blue.</param>
/// <param name="Roughness">From 0, a sharp mirror, to 1; its square is the width of the facets' distribution.</param>
/// <param name="Metallic">From 0, a dielectric, to 1, a metal.</param>
/// <param name="Emission">The radiance that it sends out itself, the same in all directions, in W/(m²·sr) for each colour.</param>
/// <param name="Opacity">How much of it is there, 0 to 1: the rest of the light passes as if nothing were.</param>
public readonly record struct Surface(Vector3 Color, float Roughness, float Metallic, Vector3 Emission, float Opacity)
{
    /// <summary>What has no material.</summary>
    public static Surface Grey { get; } = new(new(0.8f), 0.6f, 0, Vector3.Zero, 1);

    /// <summary>What it has beside the base; null for nothing.</summary>
    public Layers? Layers { get; init; }
}

/// <summary>What lies over the base of a surface, and how light goes into it.</summary>
/// <param name="Ior">Index of refraction: how strongly what is no metal mirrors, and bends what it lets through.</param>
/// <param name="Glass">How much of what is no metal lets light through, 0 to 1.</param>
/// <param name="Thin">It is a sheet: light goes through without being bent.</param>
/// <param name="Coat">How much of a clear coat there is, 0 to 1.</param>
/// <param name="Sheen">The colour of the fibres of cloth; black is none.</param>
/// <param name="Subsurface">How much of the light that is neither mirrored nor let through wanders within, 0 to 1.</param>
/// <param name="Radius">How far it wanders, in metres of the world.</param>
public sealed record Layers(
    float Ior, float Glass = 0, bool Thin = false, float Coat = 0, float CoatRoughness = 0.1f, Vector3 Sheen = default, float SheenRoughness = 0.5f, float Subsurface = 0, float Radius = 0.05f);
