using System.Text.Json.Serialization;

namespace Bradymotus.Core.Scene;

/// <summary>What a channel is: its name, its unit, and what it is when nobody has set it.</summary>
/// <param name="Path">Within its owner, for example <c>transform.translate.y</c>.</param>
/// <param name="Label">For people.</param>
/// <param name="Family">The group it is shown in; it decides the colour of its keys.</param>
/// <param name="Unit">m, °, ×, % or nothing.</param>
/// <param name="Min">Smallest value that makes sense, or null. Values are held to it where they are used, not where they are stored.</param>
/// <param name="Max">Largest value that makes sense, or null.</param>
/// <param name="Step">What one step of dragging the number adds.</param>
/// <param name="Stepped">On or off: keys hold.</param>
/// <param name="Like">The path of a channel of the same owner that it is as until somebody sets it, keys and all.</param>
/// <param name="Whole">A number of things: it is rounded to a whole number where it is used, so that it goes from one to the next in steps.</param>
public sealed record ChannelSpec(
    string Path, string Label, ChannelFamily Family, string Unit, double Default,
    double? Min = null, double? Max = null, double Step = 0.01, bool Stepped = false, bool Whole = false, string? Like = null);

/// <summary>The families of channels.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<ChannelFamily>))]
public enum ChannelFamily
{
    /// <summary>Where it is.</summary>
    Position,
    /// <summary>How it is turned.</summary>
    Rotation,
    /// <summary>How large it is.</summary>
    Scale,
    /// <summary>What shape it has.</summary>
    Shape,
    /// <summary>How it looks and shines.</summary>
    Look,
}
