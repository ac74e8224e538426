using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>
/// Turns the pose on a frame into a hold: the values stay for so many frames, and the curve then goes on as it did.
/// Later keys follow, as much later, or stay where they are.
/// </summary>
/// <param name="Channels">All that belong to the pose; those without a key on the frame only follow.</param>
/// <param name="Frames">How long, above 0.</param>
/// <param name="Follow">Whether later keys move.</param>
public sealed record HoldPose(double Frame, IReadOnlyList<ChannelAddress> Channels, double Frames, bool Follow = true) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame, Frames);
        if (!(Frames >= Curve.LeastGap))
        {
            throw new Refusal("A hold lasts more than no frames: give it a number above 0.");
        }
        return ForChannels(shot, Channels, a => a, (curve, address) =>
        {
            if (curve is null)
            {
                return null;
            }
            var at = curve.IndexOf(Frame);
            var next = at >= 0 ? at + 1 : ~at;
            if (!Follow && at >= 0 && next < curve.Keys.Length && curve.Keys[next].Frame < Frame + Frames + Curve.LeastGap)
            {
                throw new Refusal($"{Names.Of(shot, address)} has its next key on frame {CurveRules.Number(curve.Keys[next].Frame)}, which is in the way: hold it for less, or let later keys follow.");
            }
            var keys = curve.Keys.Select((k, i) => Follow && i >= next ? k with { Frame = k.Frame + Frames } : k).ToList();
            if (at >= 0)
            {
                var key = keys[at];
                keys[at] = key with { Segment = Segment.Hold };
                keys.Insert(at + 1, key with { Frame = key.Frame + Frames });
            }
            var made = Follow ? curve.WithKeys([.. keys]).UntilAt(f => f > Frame ? f + Frames : f) : curve.WithKeys([.. keys]);
            // What comes before the pose, and after the hold, keeps its shape.
            return at < 0 ? made : CurveEdits.Pinned(curve, at, CurveEdits.Pinned(curve, at, made, at, KeySide.In), at + 1, KeySide.Out);
        }, cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Hold the pose of frame {CurveRules.Number(Frame)} for {CurveRules.Number(Frames)} frames";
}

/// <summary>Keys a pose over a whole range: everything else in the range gives way, or what is there moves along with it.</summary>
/// <param name="First">The first frame.</param>
/// <param name="Last">The last frame.</param>
/// <param name="Values">What is to be there.</param>
/// <param name="At">Null puts the values over the whole range; a frame moves all keys of the range by how much the value there is another than it was.</param>
public sealed record KeyRange(double First, double Last, IReadOnlyList<ChannelValue> Values, double? At = null) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(First, Last, At ?? 0);
        if (!(Last > First))
        {
            throw new Refusal($"The range {CurveRules.Number(First)} to {CurveRules.Number(Last)} runs backwards or is one frame: give its first and its last.");
        }
        if (Values.Count == 0)
        {
            throw new Refusal("There is nothing to key over the range: change something on this frame first, without a key.");
        }
        return ForChannels(shot, Values, v => v.Address, (curve, v) =>
        {
            if (curve is null)
            {
                return At is null ? new Curve([new(First, v.Value), new(Last, v.Value)]) : CurveEdits.SetKey(null, At.Value, v.Value);
            }
            bool IsIn(Key k) => k.Frame > First - Curve.LeastGap && k.Frame < Last + Curve.LeastGap;
            if (At is { } at)
            {
                var by = v.Value - curve.Evaluate(at);
                return curve.WithKeys([.. curve.Keys.Select(k => IsIn(k) ? k with { Value = k.Value + by } : k)]);
            }
            var segment = curve.Keys[Math.Max(0, (curve.IndexOf(Last) is var i && i >= 0 ? i : ~i - 1))].Segment;
            return curve.WithKeys(CurveEdits.Merged([.. curve.Keys.Where(k => !IsIn(k))], [new(First, v.Value, segment is HoldSegment ? segment : Segment.Bezier), new(Last, v.Value, segment)]));
        }, cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Key frames {CurveRules.Number(First)} to {CurveRules.Number(Last)}";
}
