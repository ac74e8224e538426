using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Scene;

/// <summary>What of a surface a map says.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<MapSlot>))]
public enum MapSlot
{
    /// <summary>The colour.</summary>
    Color,
    /// <summary>The roughness, one number.</summary>
    Roughness,
    /// <summary>How metallic, one number.</summary>
    Metallic,

    /// <summary>A tangent-space normal map as glTF 2.0 has it, +Y up.</summary>
    Normal,

    /// <summary>Heights, in the direction of the normal.</summary>
    Bump,

    /// <summary>The light that it gives off.</summary>
    Emission,
    /// <summary>How opaque, one number.</summary>
    Opacity,
}

/// <summary>How a map is laid onto a shape.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<MapProjection>))]
public enum MapProjection
{
    /// <summary>By the texture coordinates of the shape, u to the right and v downwards.</summary>
    Coordinates,

    /// <summary>Through the shape: a pattern is asked at each point of space, in metres; of a picture as <see cref="Planar"/>.</summary>
    Solid,

    /// <summary>From the six sides, each point from the one that it faces; one metre is once across.</summary>
    Box,

    /// <summary>From the front, along Z; one metre is once across, the middle at the origin.</summary>
    Planar,

    /// <summary>Once round the Y axis, one metre is once up.</summary>
    Cylindrical,

    /// <summary>Once round the Y axis, and once from pole to pole.</summary>
    Spherical,
}

/// <summary>A picture or a pattern that says something of a surface place by place.</summary>
/// <remarks>
/// Colour, roughness, metal, glow and opacity of the material are multiplied by it. Its place is that of the shape before it is bent: what is bent takes it along.
/// Its channels are <c>map.SLOT.NAME</c>.
/// </remarks>
/// <param name="Slot">What it says.</param>
/// <param name="Source">What it shows.</param>
/// <param name="Projection">How it is laid on.</param>
public sealed record SurfaceMap(MapSlot Slot, MapSource Source, MapProjection Projection = MapProjection.Coordinates)
{
    private static readonly ConditionalWeakTable<SurfaceMap, ChannelSpec[]> Specs = [];

    private static readonly ImmutableArray<string> Names = ["color", "roughness", "metallic", "normal", "bump", "emission", "opacity"];

    private static readonly ImmutableArray<string> Labels = ["Colour", "Roughness", "Metal", "Normal", "Bump", "Emission", "Opacity"];

    /// <summary>How the paths of its channels begin.</summary>
    [JsonIgnore]
    public string Prefix => $"map.{Names[(int)Slot]}.";

    /// <summary>It says a colour, and no single number.</summary>
    [JsonIgnore]
    public bool IsColour => Slot is MapSlot.Color or MapSlot.Emission;

    /// <summary>Its channels, with whole paths: where it lies, how much it counts, then those of what it shows.</summary>
    [JsonIgnore]
    public IReadOnlyList<ChannelSpec> Channels => Specs.GetValue(this, m => m.MakeChannels());

    private ChannelSpec[] MakeChannels()
    {
        ChannelSpec Of(string path, string label, double usual, double? min = null, double? max = null, double step = 0.01, string unit = "", bool whole = false) =>
            new(Prefix + path, $"{Labels[(int)Slot]} map {label}", ChannelFamily.Look, unit, usual, min, max, step, Whole: whole);
        var list = new List<ChannelSpec>
        {
            Of("scale.x", "scale X", 1), Of("scale.y", "scale Y", 1),
            Of("offset.x", "offset X", 0), Of("offset.y", "offset Y", 0),
            Of("rotate", "rotation", 0, step: 0.5, unit: "°"),
            Slot switch
            {
                MapSlot.Bump => Of("strength", "height", 0.01, step: 0.001, unit: "m"),
                MapSlot.Normal => Of("strength", "strength", 1, 0, 10),
                _ => Of("strength", "strength", 1, 0, 1),
            },
        };
        if (Source is ClipSource)
        {
            list.Add(Of("start", "first frame", 0, step: 0.1, unit: "frames"));
        }
        if (Source is Pattern pattern)
        {
            list.AddRange(pattern.Numbers.Select(n => Of(n.Path, n.Label, n.Usual, n.Min, n.Max, n.Step, whole: n.Whole)));
            foreach (var (name, label, colour, level) in new[] { ("first", "first", pattern.First, 1.0), ("second", "second", pattern.Second, 0.0) })
            {
                if (IsColour)
                {
                    list.AddRange([Of($"{name}.r", $"{label} R", colour.X, 0, 1), Of($"{name}.g", $"{label} G", colour.Y, 0, 1), Of($"{name}.b", $"{label} B", colour.Z, 0, 1)]);
                }
                else if (Slot != MapSlot.Normal)
                {
                    list.Add(Of(name, label, level, 0, 1));
                }
            }
        }
        return [.. list];
    }
}

/// <summary>What a map shows.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(PictureSource), "picture")]
[JsonDerivedType(typeof(ClipSource), "film")]
[JsonDerivedType(typeof(WoodPattern), "wood")]
[JsonDerivedType(typeof(ChecksPattern), "checks")]
[JsonDerivedType(typeof(BricksPattern), "bricks")]
[JsonDerivedType(typeof(NoisePattern), "noise")]
public abstract record MapSource;

/// <summary>What a map of a single number takes of a picture.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<PicturePart>))]
public enum PicturePart
{
    /// <summary>The colour; where one number is wanted, its brightness.</summary>
    All,
    /// <summary>The red part.</summary>
    Red,
    /// <summary>The green part.</summary>
    Green,
    /// <summary>The blue part.</summary>
    Blue,
    /// <summary>The alpha part.</summary>
    Alpha,
}

/// <summary>What lies beyond the edges of a picture.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<PictureWrap>))]
public enum PictureWrap
{
    /// <summary>The picture again.</summary>
    Repeat,
    /// <summary>The outermost pixels.</summary>
    Clamp,
    /// <summary>The picture again, mirrored each time.</summary>
    Mirror,
}

/// <summary>A picture: an asset beside the shot. Colours and emission are sRGB, everything else is linear, as glTF 2.0 has it.</summary>
/// <param name="Asset">The SHA-256 of its bytes, in lower-case hexadecimal digits.</param>
/// <param name="Name">For people: the file that it came from.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="Part">What of it is taken.</param>
/// <param name="WrapU">What lies to its left and right.</param>
/// <param name="WrapV">What lies above and below.</param>
public sealed record PictureSource(
    string Asset, string Name, int Width, int Height, PicturePart Part = PicturePart.All, PictureWrap WrapU = PictureWrap.Repeat, PictureWrap WrapV = PictureWrap.Repeat) : MapSource
{
    /// <summary>The longest side of a picture.</summary>
    public const int MostSide = 16_384;

    /// <summary>The most pixels of one: more unpacked than a page can hold beside others.</summary>
    public const int MostPixels = 1 << 26;
}

/// <summary>A film for reference: an asset beside the shot. The stage shows it frame by frame with the shot; pictures that are rendered have nothing of it.</summary>
/// <param name="Asset">The SHA-256 of its bytes, in lower-case hexadecimal digits.</param>
/// <param name="Name">For people: the file that it came from.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="FramesPerSecond">Its own rate; it runs in its own time, whatever the rate of the shot.</param>
/// <param name="Seconds">How long it is.</param>
public sealed record ClipSource(string Asset, string Name, int Width, int Height, double FramesPerSecond, double Seconds) : MapSource
{
    /// <summary>The longest.</summary>
    public const int MostSeconds = 1200;
}

/// <summary>Something regular that needs no file: at each point of space it says how much there is of a second colour, or number, instead of the first.</summary>
public abstract record Pattern : MapSource
{
    /// <param name="Path">Within the map.</param>
    internal readonly record struct Number(string Path, string Label, double Usual, double? Min = null, double? Max = null, double Step = 0.01, bool Whole = false);

    /// <summary>Its numbers, in the order in which <see cref="At"/> takes them.</summary>
    internal abstract ImmutableArray<Number> Numbers { get; }

    /// <summary>The names of its numbers, in the order in which <see cref="At"/> takes them.</summary>
    [JsonIgnore]
    public IEnumerable<string> Names => Numbers.Select(n => n.Path);

    internal abstract Double3 First { get; }

    internal abstract Double3 Second { get; }

    /// <summary>At a point: how much there is of the second, 0 to 1, and a factor on the first.</summary>
    /// <param name="p">In its own unit: once across is one.</param>
    /// <param name="v">Its numbers.</param>
    public abstract (float Second, float Shade) At(System.Numerics.Vector3 p, ReadOnlySpan<float> v);

    internal static float Smooth(float from, float to, float x)
    {
        var t = Math.Clamp((x - from) / (to - from), 0, 1);
        return t * t * (3 - 2 * t);
    }
}
