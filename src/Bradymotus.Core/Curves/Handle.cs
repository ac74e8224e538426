using System.Text.Json.Serialization;

namespace Bradymotus.Core.Curves;

/// <summary>How one side of a key points. All kinds but <see cref="FreeHandle"/> reach a third of the segment.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(AutoHandle), "auto")]
[JsonDerivedType(typeof(SmoothHandle), "smooth")]
[JsonDerivedType(typeof(FlatHandle), "flat")]
[JsonDerivedType(typeof(StraightHandle), "straight")]
[JsonDerivedType(typeof(FreeHandle), "free")]
public abstract record Handle
{
    /// <summary>The one <see cref="AutoHandle"/>.</summary>
    public static Handle Auto { get; } = new AutoHandle();
    /// <summary>The one <see cref="SmoothHandle"/>.</summary>
    public static Handle Smooth { get; } = new SmoothHandle();
    /// <summary>The one <see cref="FlatHandle"/>.</summary>
    public static Handle Flat { get; } = new FlatHandle();
    /// <summary>The one <see cref="StraightHandle"/>.</summary>
    public static Handle Straight { get; } = new StraightHandle();
}

/// <summary>
/// Flat where the key is a local extreme (the first and the last key count as one); elsewhere the slope between the
/// neighbours, but never so steep that the curve would leave the range of its two keys.
/// </summary>
public sealed record AutoHandle : Handle;

/// <summary>The slope from the key before to the key after; at an end, the slope to the only neighbour. May overshoot.</summary>
public sealed record SmoothHandle : Handle;

/// <summary>Level.</summary>
public sealed record FlatHandle : Handle;

/// <summary>Aims at the neighbouring key.</summary>
public sealed record StraightHandle : Handle;

/// <summary>Set by hand: an offset from the key.</summary>
/// <param name="Frames">Frames from the key: 0 or less on the way in, 0 or more on the way out. Longer than its segment, it is shortened to it with its slope kept.</param>
/// <param name="Value">In the unit of the channel.</param>
public sealed record FreeHandle(double Frames, double Value) : Handle;

/// <summary>The side of a key: how the curve arrives, or how it leaves.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<KeySide>))]
public enum KeySide
{
    /// <summary>How the curve arrives, on the side of earlier frames.</summary>
    In,
    /// <summary>How the curve leaves, on the side of later frames.</summary>
    Out,
}
