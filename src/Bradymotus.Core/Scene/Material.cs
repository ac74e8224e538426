using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>A surface: colour, roughness, metal, glow and opacity, all channels.</summary>
/// <param name="Id">Unique in the shot among nodes and materials; never changes.</param>
/// <param name="Name">For people.</param>
/// <param name="Channels">The channels that somebody has set, by path.</param>
public sealed record Material(string Id, string Name, ImmutableSortedDictionary<string, Channel>? Channels = null);
