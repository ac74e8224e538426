using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>A surface: colour, roughness, metal, glow, opacity, coat, sheen, glass, all channels; and the maps that say them place by place.</summary>
/// <param name="Id">Unique in the shot among nodes and materials; never changes.</param>
/// <param name="Name">For people.</param>
/// <param name="Channels">The channels that somebody has set, by path.</param>
public sealed record Material(string Id, string Name, ImmutableSortedDictionary<string, Channel>? Channels = null)
{
    /// <summary>What is not the same all over: at most one map for each <see cref="MapSlot"/>.</summary>
    public ImmutableArray<SurfaceMap> Maps { get => field.IsDefault ? [] : field; init; }
}
