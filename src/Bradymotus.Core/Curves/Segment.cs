using System.Text.Json.Serialization;

namespace Bradymotus.Core.Curves;

/// <summary>How a key goes to the next one. In JSON <c>"bezier"</c>, <c>"linear"</c>, <c>"hold"</c>, or an object that names an easing.</summary>
[JsonConverter(typeof(Serialization.SegmentConverter))]
public abstract record Segment
{
    public static Segment Bezier { get; } = new BezierSegment();
    public static Segment Linear { get; } = new LinearSegment();
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
    Sine,
    Quad,
    Cubic,
    Quart,
    Quint,
    Expo,
    Circ,
    Back,
    Elastic,
    Bounce,
}

/// <summary>Which end of the segment is eased.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<EaseDirection>))]
public enum EaseDirection
{
    In,
    Out,
    InOut,
}
