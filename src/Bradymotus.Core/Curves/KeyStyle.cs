namespace Bradymotus.Core.Curves;

/// <summary>How new keys of a shot are.</summary>
/// <param name="Segment">How they go to the next key.</param>
/// <param name="Handle">How their handles point.</param>
public sealed record KeyStyle(Segment? Segment = null, Handle? Handle = null)
{
    /// <summary>A Bézier segment with auto handles.</summary>
    public static KeyStyle Usual { get; } = new();

    /// <summary>The segment that begins at a new key.</summary>
    public Segment Segment { get; init; } = Segment ?? Segment.Bezier;

    /// <summary>Both handles of a new key.</summary>
    public Handle Handle { get; init; } = Handle ?? Handle.Auto;

    internal Key Key(double frame, double value, Segment segment) => new(frame, value, segment, Handle, Handle);
}
