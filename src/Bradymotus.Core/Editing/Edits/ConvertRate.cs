using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>
/// Another frame rate at which everything lasts as long as before: keys, handles, ranges and time shifts move to the new frames.
/// With <see cref="SetShot"/> the frames stay, and everything runs faster or slower.
/// </summary>
/// <param name="Snap">Puts keys on whole frames, where two of one channel do not fall on one.</param>
public sealed record ConvertRate(Time.FrameRate Rate, bool Snap = false) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        Rate.Validate();
        var by = Rate.FramesPerSecond / shot.Rate.FramesPerSecond;
        var builder = new ShotBuilder(shot);
        foreach (var (address, channel) in shot.AllSetChannels())
        {
            cancel.ThrowIfCancellationRequested();
            // What counts frames counts others, in its keys too.
            var isInFrames = shot.FindLayer(address.Owner) is null && shot.Spec(address.Base).Unit == "frames";
            if (channel.Curve is { } curve)
            {
                var scaled = Scaled(curve, by);
                builder.Set(address, channel with { Curve = isInFrames ? CurveEdits.Transform(scaled, [.. Enumerable.Range(0, scaled.Keys.Length)], new(ValueScale: by)) : scaled });
            }
            if (isInFrames)
            {
                builder.Set(address, builder.Channel(address) with { Value = channel.Value * by });
            }
        }
        Time.FrameRange To(Time.FrameRange range)
        {
            // A range of so many seconds has so many frames; its first stays the frame that shows the same instant.
            var first = (int)Math.Round(range.First * by);
            return new(first, Math.Max(first, (int)Math.Round((range.Last + 1) * by) - 1));
        }
        var made = builder.ToShot();
        return made with
        {
            Sounds = [.. made.Sounds.Select(s => s with { Start = s.Start * by })],
            Rate = Rate,
            Range = To(shot.Range),
            PlayRange = shot.PlayRange is { } playing ? To(playing) : null,
            Markers = [.. shot.Markers.Select(m => m with { Frame = m.Frame * by })]
        };
    }

    private Curve Scaled(Curve curve, double by)
    {
        Curve Of(bool snap)
        {
            var transform = new KeyTransform(FrameScale: by, Snap: snap);
            return curve.WithKeys([.. curve.Keys.Select(transform.Apply)]).UntilAt(f => f * by);
        }
        if (!Snap)
        {
            return Of(false);
        }
        try
        {
            return Of(true);
        }
        catch (Refusal)
        {
            return Of(false);
        }
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Convert to {Rate} frames a second";
}
