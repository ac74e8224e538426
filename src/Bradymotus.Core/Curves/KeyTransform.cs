namespace Bradymotus.Core.Curves;

/// <summary>Moves and scales keys in frames and in value.</summary>
/// <param name="Frames">Shift in frames.</param>
/// <param name="Value">Shift in value.</param>
/// <param name="FramePivot">The frame that stays while scaling.</param>
/// <param name="FrameScale">Above 0.</param>
/// <param name="ValuePivot">The value that stays while scaling.</param>
/// <param name="ValueScale">May be negative, which mirrors.</param>
/// <param name="Snap">Rounds the frames to whole ones; halves go up, so that neighbours stay apart.</param>
public sealed record KeyTransform(
    double Frames = 0, double Value = 0, double FramePivot = 0, double FrameScale = 1,
    double ValuePivot = 0, double ValueScale = 1, bool Snap = false)
{
    /// <summary>Where a frame goes.</summary>
    public double Frame(double frame)
    {
        var to = FramePivot + (frame - FramePivot) * FrameScale + Frames;
        return Snap ? Math.Floor(to + 0.5) : to;
    }

    /// <summary>Nothing is scaled, and frames go where they go.</summary>
    internal bool IsShift => FrameScale == 1 && ValueScale == 1 && !Snap;

    internal void Validate()
    {
        if (!(FrameScale > 0) || !double.IsFinite(FrameScale) || !double.IsFinite(ValueScale))
        {
            throw new Refusal("Keys can only be scaled in time by a number above 0: reverse them to turn them round.");
        }
    }

    internal Key Apply(Key key) => key with
    {
        Frame = Frame(key.Frame),
        Value = ValuePivot + (key.Value - ValuePivot) * ValueScale + Value,
        In = Scale(key.In),
        Out = Scale(key.Out),
    };

    private Handle Scale(Handle handle) => handle is FreeHandle free
        ? new FreeHandle(free.Frames * FrameScale, free.Value * ValueScale)
        : handle;
}
