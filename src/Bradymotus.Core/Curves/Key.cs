namespace Bradymotus.Core.Curves;

/// <summary>A value at a frame, and how the curve comes to it and leaves it.</summary>
/// <param name="Frame">Frames, may be fractional.</param>
/// <param name="Value">In the unit of the channel.</param>
/// <param name="Segment">How it goes to the next key.</param>
/// <param name="In">The handle on the way in.</param>
/// <param name="Out">The handle on the way out.</param>
/// <param name="Joined">When true, turning one free handle by hand turns the other with it. It has no effect on the value of the curve.</param>
public sealed record Key(double Frame, double Value, Segment? Segment = null, Handle? In = null, Handle? Out = null, bool Joined = true)
{
    /// <summary>How it goes to the next key.</summary>
    public Segment Segment { get; init; } = Segment ?? Segment.Bezier;

    /// <summary>How the curve arrives, where it arrives on a Bézier segment.</summary>
    public Handle In { get; init; } = In ?? Handle.Auto;

    /// <summary>How the curve leaves, where it leaves on a Bézier segment.</summary>
    public Handle Out { get; init; } = Out ?? Handle.Auto;

    /// <summary>The handle of one side.</summary>
    public Handle Side(KeySide side) => side == KeySide.In ? In : Out;
}
