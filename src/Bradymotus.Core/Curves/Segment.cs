using System.Text.Json.Serialization;

namespace Bradymotus.Core.Curves;

/// <summary>How a key goes to the next one. In JSON <c>"bezier"</c>, <c>"linear"</c>, <c>"hold"</c>, or an object that names an easing.</summary>
[JsonConverter(typeof(Serialization.SegmentConverter))]
public abstract record Segment
{
    /// <summary>The one <see cref="BezierSegment"/>.</summary>
    public static Segment Bezier { get; } = new BezierSegment();
    /// <summary>The one <see cref="LinearSegment"/>.</summary>
    public static Segment Linear { get; } = new LinearSegment();
    /// <summary>The one <see cref="HoldSegment"/>.</summary>
    public static Segment Hold { get; } = new HoldSegment();
}

/// <summary>A cubic Bézier curve between the two handles.</summary>
public sealed record BezierSegment : Segment;

/// <summary>A straight line.</summary>
public sealed record LinearSegment : Segment;

/// <summary>The value stays until the next key.</summary>
public sealed record HoldSegment : Segment;

/// <summary>One of the easing families of Robert Penner.</summary>
/// <param name="Overshoot">For <see cref="EaseFamily.Back"/>; null is the published 1.70158, an overshoot of ten per cent.</param>
/// <param name="Amplitude">For <see cref="EaseFamily.Elastic"/>, 1 or more; null is 1.</param>
/// <param name="Period">For <see cref="EaseFamily.Elastic"/>, as a part of the segment, above 0; null is 0.3, and 0.45 for in and out.</param>
public sealed record EaseSegment(
    EaseFamily Ease,
    EaseDirection Direction = EaseDirection.InOut,
    double? Overshoot = null,
    double? Amplitude = null,
    double? Period = null) : Segment;

/// <summary>The easing families.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<EaseFamily>))]
public enum EaseFamily
{
    /// <summary>A quarter of a sine wave.</summary>
    Sine,
    /// <summary>The second power of the part that has passed.</summary>
    Quad,
    /// <summary>The third power.</summary>
    Cubic,
    /// <summary>The fourth power.</summary>
    Quart,
    /// <summary>The fifth power.</summary>
    Quint,
    /// <summary>A power of two.</summary>
    Expo,
    /// <summary>A quarter of a circle.</summary>
    Circ,
    /// <summary>Goes beyond the end and comes back.</summary>
    Back,
    /// <summary>Swings about the end, less and less.</summary>
    Elastic,
    /// <summary>Falls against the end four times, less high each time.</summary>
    Bounce,
}

/// <summary>Which end of the segment is eased.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<EaseDirection>))]
public enum EaseDirection
{
    /// <summary>Slow at the start.</summary>
    In,
    /// <summary>Slow at the end.</summary>
    Out,
    /// <summary>Slow at both ends.</summary>
    InOut,
}
