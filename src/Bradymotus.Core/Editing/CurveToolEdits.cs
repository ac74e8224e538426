using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Makes loops close in value and speed; see <see cref="CurveTools.Seamless"/>. Refused where a curve does not repeat.</summary>
public sealed record MakeSeamless(IReadOnlyList<ChannelAddress> Channels) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, Channels, a => a, (curve, address) =>
    {
        var made = CurveTools.Seamless(curve ?? throw new Refusal($"{Names.Of(shot, address)} has no keys: key it first."));
        return !ReferenceEquals(made, curve) ? made : throw new Refusal(
            $"{Names.Of(shot, address)} does not repeat: say first, at the tag beside its last key, that it loops.");
    }, cancel);

    public override string Describe(Shot before) => "Make a loop seamless";
}

/// <summary>
/// Gives every key of the rotations of nodes the angles that are nearest to those of the key before, with the same orientation: what
/// lies between two keys then takes the shorter way.
/// </summary>
/// <param name="Layer">The layer whose angles they are; null is the channels themselves.</param>
public sealed record UnrollRotations(IReadOnlyList<string> Nodes, string? Layer = null) : CurveEdit
{
    private static readonly string[] Paths = ["transform.rotate.x", "transform.rotate.y", "transform.rotate.z"];

    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var builder = new ShotBuilder(shot);
        foreach (var id in Nodes.Distinct())
        {
            cancel.ThrowIfCancellationRequested();
            Unroll(builder, shot, shot.Node(id), Layer);
        }
        return builder.ToShot();
    }

    /// <summary>Why the angles of a node cannot be unrolled; null where they can.</summary>
    internal static string? WhyNot(Shot shot, Node node, string? layer)
    {
        if (node.RotationOrder == RotationOrder.Quaternion)
        {
            return $"“{node.Name}” turns by a quaternion, which has no angles to unroll.";
        }
        if (layer is null)
        {
            return null;
        }
        // Other angles that give the same rotation give another one once they are weighed, or mixed with those below.
        var (name, weight) = (shot.Layer(layer).Name, shot.Channel(new(layer, Scene.Layer.Weight)));
        return weight.ActiveCurve is not null || weight.Value != 1
            ? $"The layer “{name}” does not count whole all the time, so other angles in it would be another rotation: set its weight to 1, without keys, first."
            : shot.Layer(layer).Mode == LayerMode.Override && Paths.Any(p => node.Channels?.ContainsKey(new ChannelAddress(node.Id, p).In(layer).Path) != true)
                ? $"The layer “{name}” does not have all three angles of “{node.Name}”, so other angles in it would be another rotation: key all three in it first."
            : null;
    }

    private static void Unroll(ShotBuilder builder, Shot shot, Node node, string? layer)
    {
        if (WhyNot(shot, node, layer) is { } why)
        {
            throw new Refusal(why);
        }
        ChannelAddress[] addresses = [.. Paths.Select(p => new ChannelAddress(node.Id, p).In(layer))];
        Curve?[] curves = [.. addresses.Select(a => shot.Channel(a).Curve)];
        var frames = curves.OfType<Curve>().SelectMany(c => c.Keys).Select(k => k.Frame).Order().Distinct().ToList();
        if (frames.Count == 0)
        {
            throw new Refusal($"The rotation of “{node.Name}” has no keys to unroll{(layer is null ? "" : $" in the layer “{shot.Layer(layer).Name}”")}: key it first.");
        }
        Double3 At(double frame)
        {
            double Of(int i) => shot.Channel(addresses[i]).Evaluate(frame);
            return new(Of(0), Of(1), Of(2));
        }
        var near = At(frames[0]);
        var values = new double[3][];
        for (var i = 0; i < 3; i++)
        {
            values[i] = new double[frames.Count];
        }
        for (var f = 0; f < frames.Count; f++)
        {
            near = Euler.From(Affine.Rotation(At(frames[f]), node.RotationOrder), node.RotationOrder, near);
            (values[0][f], values[1][f], values[2][f]) = (near.X, near.Y, near.Z);
        }
        for (var i = 0; i < 3; i++)
        {
            // An axis without keys needs some only where its angle is not always the same.
            var isOther = values[i].Any(v => Math.Abs(v - values[i][0]) > 1e-9);
            var channel = builder.Channel(addresses[i]);
            var made = curves[i];
            if (made is not null)
            {
                var row = values[i];
                made = made.WithKeys([.. made.Keys.Select(k => k with { Value = Exact(k.Value, row[frames.BinarySearch(k.Frame)]) })]);
            }
            if (isOther)
            {
                for (var f = 0; f < frames.Count; f++)
                {
                    if (made?.KeyAt(frames[f]) is null)
                    {
                        made = CurveEdits.SetKey(made, frames[f], values[i][f]);
                    }
                }
            }
            if (made is not null && !made.Equals(curves[i]))
            {
                Unlocked(shot, addresses[i], channel);
                builder.Set(addresses[i], channel with { Curve = made });
            }
        }
    }

    /// <summary>What is the same but for rounding stays as it was typed; whole turns are taken off exactly.</summary>
    private static double Exact(double was, double now)
    {
        var turns = was + 360 * Math.Round((now - was) / 360);
        return Math.Abs(turns - now) < 1e-6 ? turns : now;
    }

    public override string Describe(Shot before) => $"Unroll the rotation of {(Nodes.Count == 1 ? before.FindNode(Nodes[0])?.Name : Plural(Nodes.Count, "object"))}";
}

/// <summary>Takes away keys as long as the curve stays within a tolerance; see <see cref="CurveFitting.Simplify"/>.</summary>
/// <param name="Tolerance">In the unit of each channel.</param>
/// <param name="First">Keys before it stay; null is from the beginning.</param>
/// <param name="Last">Keys after it stay; null is to the end.</param>
public sealed record SimplifyKeys(IReadOnlyList<ChannelAddress> Channels, double Tolerance, double? First = null, double? Last = null) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Tolerance, First ?? 0, Last ?? 0);
        return ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null
            : CurveFitting.Simplify(curve, Tolerance, First ?? double.NegativeInfinity, Last ?? double.PositiveInfinity), cancel);
    }

    public override string Describe(Shot before) => $"Simplify {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Puts a key on every nth frame of a range, with the values as they are, cycles and all; see <see cref="CurveTools.Bake"/>.</summary>
/// <param name="Step">Frames from key to key.</param>
public sealed record BakeKeys(IReadOnlyList<ChannelAddress> Channels, double First, double Last, double Step = 1) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(First, Last, Step);
        return ForChannels(shot, Channels, a => a, (curve, _) =>
        {
            var evaluator = curve?.Compile();
            return evaluator is null ? null : CurveTools.Bake(curve, evaluator.Evaluate, First, Last, Step);
        }, cancel);
    }

    public override string Describe(Shot before) => $"Bake frames {CurveRules.Number(First)} to {CurveRules.Number(Last)}";
}

/// <summary>Draws keys towards the line between their neighbours; see <see cref="CurveTools.Smooth"/>.</summary>
/// <param name="Strength">0 to 1.</param>
public sealed record SmoothKeys(IReadOnlyList<KeyAddress> Keys, double Strength = 1) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Strength);
        return Strength is >= 0 and <= 1
            ? ForKeys(shot, Keys, (curve, chosen) => CurveTools.Smooth(curve, chosen, Strength), cancel)
            : throw new Refusal("The strength of smoothing is a number from 0 to 1.");
    }

    public override string Describe(Shot before) => $"Smooth {Plural(Keys.Count, "key")}";
}

/// <summary>Removes the keys without which nothing changes; a channel that never moves keeps its value and no key.</summary>
public sealed record RemoveIdleKeys(IReadOnlyList<ChannelAddress> Channels) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null : CurveEdits.RemoveKeys(curve, CurveTools.IdleKeys(curve)), cancel);

    public override string Describe(Shot before) => "Remove keys that do nothing";
}

/// <summary>Adds an irregular shaking; see <see cref="CurveTools.Shake"/>. Each channel shakes in its own way.</summary>
/// <param name="Strength">In the unit of each channel.</param>
/// <param name="Rate">Swings a second.</param>
/// <param name="Seed">The same seed shakes in the same way.</param>
public sealed record AddNoise(IReadOnlyList<ChannelAddress> Channels, double First, double Last, double Strength, double Rate, int Seed = 1) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(First, Last, Strength, Rate);
        var seed = Seed;
        var period = shot.Rate.FramesPerSecond / Rate;
        return ForChannels(shot, Channels, a => a, (curve, address) =>
        {
            var value = shot.Channel(address).Value;
            var evaluator = curve?.Compile();
            return CurveTools.Shake(curve, f => evaluator?.Evaluate(f) ?? value, First, Last, Strength, period, unchecked(seed++ * 7919));
        }, cancel);
    }

    public override string Describe(Shot before) => $"Add noise to {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Gives a range of channels a time of its own; see <see cref="CurveTools.Retime"/>.</summary>
/// <param name="Map">New frames to old ones.</param>
public sealed record Retime(IReadOnlyList<ChannelAddress> Channels, Curve Map) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null : CurveTools.Retime(curve, Map), cancel);

    public override string Describe(Shot before) => $"Retime {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Turns easings into handles; see <see cref="CurveTools.EasesToHandles"/>.</summary>
/// <param name="Keys">The keys that they leave.</param>
public sealed record EasesToHandles(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, CurveTools.EasesToHandles, cancel);

    public override string Describe(Shot before) => "Turn easings into handles";
}

/// <summary>
/// Another frame rate at which everything lasts as long as before: keys, handles, ranges and time shifts move to the new frames.
/// With <see cref="SetShot"/> the frames stay, and everything runs faster or slower.
/// </summary>
/// <param name="Snap">Puts keys on whole frames, where two of one channel do not fall on one.</param>
public sealed record ConvertRate(Time.FrameRate Rate, bool Snap = false) : Edit
{
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

    public override string Describe(Shot before) => $"Convert to {Rate} frames a second";
}

/// <summary>Gives segments the shape of an easing of one's own; see <see cref="CssEasing.Apply"/>.</summary>
/// <param name="Keys">The keys that the segments leave.</param>
/// <param name="Shape">From frame 0 to 1.</param>
public sealed record ShapeSegments(IReadOnlyList<KeyAddress> Keys, Curve Shape) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, (curve, chosen) => CssEasing.Apply(curve, chosen, Shape), cancel);

    public override string Describe(Shot before) => $"Shape {Plural(Keys.Count, "segment")}";
}
