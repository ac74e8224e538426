using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>Materials to start from. None of them needs a file.</summary>
public static class MaterialShelf
{
    /// <summary>All of them; their ids are what they are asked for by, and become others in a shot.</summary>
    public static ImmutableArray<Material> All { get; } =
    [
        Plain("plaster", "Plaster", 0.82, 0.8, 0.76, ("roughness", 0.9)) with { Maps = [new(MapSlot.Bump, new NoisePattern(), MapProjection.Solid)] },
        Plain("hull-paint", "Hull paint", 0.02, 0.13, 0.26, ("roughness", 0.45), ("coat", 0.8), ("coatRoughness", 0.08)),
        Plain("buoy-red", "Buoy red", 0.62, 0.05, 0.03, ("roughness", 0.4), ("coat", 0.3)),
        Plain("brass", "Brass", 0.87, 0.66, 0.28, ("metallic", 1), ("roughness", 0.22)),
        Plain("steel", "Brushed steel", 0.62, 0.63, 0.65, ("metallic", 1), ("roughness", 0.38)),
        Plain("chrome", "Chrome", 0.9, 0.91, 0.92, ("metallic", 1), ("roughness", 0.04)),
        Plain("rubber", "Fender rubber", 0.025, 0.025, 0.03, ("roughness", 0.75)),
        Plain("lantern-glass", "Lantern glass", 0.95, 0.98, 0.97, ("glass", 1), ("roughness", 0.02)),
        Plain("bottle-glass", "Bottle glass", 0.2, 0.55, 0.3, ("glass", 1), ("roughness", 0.05), ("ior", 1.52)),
        Plain("candle", "Candle wax", 0.88, 0.66, 0.36, ("roughness", 0.5), ("subsurface", 1), ("subsurfaceRadius", 0.02)),
        Plain("skin", "Gull's foot", 0.85, 0.5, 0.3, ("roughness", 0.45), ("subsurface", 0.7), ("subsurfaceRadius", 0.02)),
        Plain("wool", "Wool", 0.16, 0.2, 0.34, ("roughness", 1), ("sheen", 0.8), ("sheenRoughness", 0.5)) with { Maps = [new(MapSlot.Bump, new NoisePattern(), MapProjection.Solid)] },
        Mapped("oak", "Oak planks", new WoodPattern(), MapProjection.Solid, ("roughness", 0.55), ("coat", 0.15)),
        Mapped("harbour-brick", "Harbour brick", new BricksPattern(), MapProjection.Box, ("roughness", 0.85)) with
        {
            Maps = [new(MapSlot.Color, new BricksPattern(), MapProjection.Box), new(MapSlot.Bump, new BricksPattern(), MapProjection.Box)],
        },
        Mapped("checks", "Checks", new ChecksPattern(), MapProjection.Box, ("roughness", 0.3)),
        Mapped("granite", "Granite", new NoisePattern(), MapProjection.Solid, ("roughness", 0.7)) with
        {
            Channels = Channels(("look.color.r", 1), ("look.color.g", 1), ("look.color.b", 1), ("look.roughness", 0.7), ("map.color.size", 24), ("map.color.contrast", 0.75)),
        },
        Plain("glow", "Lamp glow", 1, 0.62, 0.28, ("emission", 2.5)),
    ];

    private static Material Plain(string id, string name, double r, double g, double b, params (string Path, double Value)[] more) =>
        new(id, name, Channels([("look.color.r", r), ("look.color.g", g), ("look.color.b", b), .. more.Select(m => ($"look.{m.Path}", m.Value))]));

    private static Material Mapped(string id, string name, Pattern pattern, MapProjection projection, params (string Path, double Value)[] more) =>
        Plain(id, name, 1, 1, 1, more) with { Maps = [new(MapSlot.Color, pattern, projection)] };

    private static ImmutableSortedDictionary<string, Channel> Channels(params (string Path, double Value)[] values) =>
        values.ToImmutableSortedDictionary(v => v.Path, v => new Channel(v.Value), StringComparer.Ordinal);
}
