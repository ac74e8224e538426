using System.Text.Json.Serialization;
using Bradymotus.Core.Curves;

namespace Bradymotus.Core.Scene;

/// <summary>A number that can be animated: a static value, and perhaps a curve that takes its place.</summary>
/// <param name="Value">Used where there is no curve.</param>
/// <param name="Locked">Neither hands nor edits change its value or its keys.</param>
/// <param name="Muted">It has its static value, as if it had no curve; the curve is kept.</param>
public sealed record Channel(double Value, Curve? Curve = null, bool Locked = false, bool Muted = false)
{
    /// <summary>The curve, where it has a say.</summary>
    [JsonIgnore]
    public Curve? ActiveCurve => Muted ? null : Curve;

    /// <summary>Its value on a frame, in its own unit: that of its curve, or the plain one where it has none or is muted.</summary>
    public double Evaluate(double frame) => ActiveCurve is { } curve ? curve.Evaluate(frame) : Value;
}

/// <summary>
/// Where a channel is: the id of a node, a material, a layer or the world, a slash, and the channel's path: <c>buoy/transform.translate.y</c>; in a
/// layer with that after it, <c>buoy/transform.translate.y@breath</c>.
/// </summary>
[JsonConverter(typeof(Serialization.ChannelAddressConverter))]
public readonly record struct ChannelAddress(string Owner, string Path)
{
    /// <exception cref="Refusal">There is no slash between owner and path.</exception>
    public static ChannelAddress Parse(string text)
    {
        var slash = text?.IndexOf('/', StringComparison.Ordinal) ?? -1;
        return slash > 0 && slash < text!.Length - 1
            ? new(text[..slash], text[(slash + 1)..])
            : throw new Refusal($"The channel address “{text}” cannot be read: write it as owner/path, for example buoy/transform.translate.y.");
    }

    /// <summary>The id of the layer that it is in, or null.</summary>
    [JsonIgnore]
    public string? Layer => Path.IndexOf(Scene.Layer.Mark, StringComparison.Ordinal) is >= 0 and var at ? Path[(at + 1)..] : null;

    /// <summary>The channel itself, below all layers.</summary>
    [JsonIgnore]
    public ChannelAddress Base => Path.IndexOf(Scene.Layer.Mark, StringComparison.Ordinal) is >= 0 and var at ? new(Owner, Path[..at]) : this;

    /// <summary>The same channel in a layer; null is below all layers.</summary>
    public ChannelAddress In(string? layer) => layer is null ? Base : new(Owner, $"{Base.Path}{Scene.Layer.Mark}{layer}");

    /// <inheritdoc/>
    public override string ToString() => $"{Owner}/{Path}";
}
