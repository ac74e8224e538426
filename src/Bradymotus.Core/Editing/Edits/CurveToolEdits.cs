using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Makes loops close in value and speed; see <see cref="CurveTools.Seamless"/>. Refused where a curve does not repeat.</summary>
public sealed record MakeSeamless(IReadOnlyList<ChannelAddress> Channels) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, Channels, a => a, (curve, address) =>
    {
        var made = CurveTools.Seamless(curve ?? throw new Refusal($"{Names.Of(shot, address)} has no keys: key it first."));
        return !ReferenceEquals(made, curve) ? made : throw new Refusal(
            $"{Names.Of(shot, address)} does not repeat: say first, at the tag beside its last key, that it loops.");
    }, cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => "Make a loop seamless";
}

/// <summary>Takes away keys as long as the curve stays within a tolerance; see <see cref="CurveFitting.Simplify"/>.</summary>
/// <param name="Tolerance">In the unit of each channel.</param>
/// <param name="First">Keys before it stay; null is from the beginning.</param>
/// <param name="Last">Keys after it stay; null is to the end.</param>
public sealed record SimplifyKeys(IReadOnlyList<ChannelAddress> Channels, double Tolerance, double? First = null, double? Last = null) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Tolerance, First ?? 0, Last ?? 0);
        return ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null
            : CurveFitting.Simplify(curve, Tolerance, First ?? double.NegativeInfinity, Last ?? double.PositiveInfinity), cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Simplify {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Puts a key on every nth frame of a range, with the values as they are, cycles and all; see <see cref="CurveTools.Bake"/>.</summary>
/// <param name="Step">Frames from key to key.</param>
public sealed record BakeKeys(IReadOnlyList<ChannelAddress> Channels, double First, double Last, double Step = 1) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(First, Last, Step);
        return ForChannels(shot, Channels, a => a, (curve, _) =>
        {
            var evaluator = curve?.Compile();
            return evaluator is null ? null : CurveTools.Bake(curve, evaluator.Evaluate, First, Last, Step);
        }, cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Bake frames {CurveRules.Number(First)} to {CurveRules.Number(Last)}";
}

/// <summary>Draws keys towards the line between their neighbours; see <see cref="CurveTools.Smooth"/>.</summary>
/// <param name="Strength">0 to 1.</param>
public sealed record SmoothKeys(IReadOnlyList<KeyAddress> Keys, double Strength = 1) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Strength);
        return Strength is >= 0 and <= 1
            ? ForKeys(shot, Keys, (curve, chosen) => CurveTools.Smooth(curve, chosen, Strength), cancel)
            : throw new Refusal("The strength of smoothing is a number from 0 to 1.");
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Smooth {Plural(Keys.Count, "key")}";
}

/// <summary>Removes the keys without which nothing changes; a channel that never moves keeps its value and no key.</summary>
public sealed record RemoveIdleKeys(IReadOnlyList<ChannelAddress> Channels) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null : CurveEdits.RemoveKeys(curve, CurveTools.IdleKeys(curve)), cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => "Remove keys that do nothing";
}

/// <summary>Adds an irregular shaking; see <see cref="CurveTools.Shake"/>. Each channel shakes in its own way.</summary>
/// <param name="Strength">In the unit of each channel.</param>
/// <param name="Rate">Swings a second.</param>
/// <param name="Seed">The same seed shakes in the same way.</param>
public sealed record AddNoise(IReadOnlyList<ChannelAddress> Channels, double First, double Last, double Strength, double Rate, int Seed = 1) : CurveEdit
{
    /// <inheritdoc/>
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

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Add noise to {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Gives a range of channels a time of its own; see <see cref="CurveTools.Retime"/>.</summary>
/// <param name="Map">New frames to old ones.</param>
public sealed record Retime(IReadOnlyList<ChannelAddress> Channels, Curve Map) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null : CurveTools.Retime(curve, Map), cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Retime {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Turns easings into handles; see <see cref="CurveTools.EasesToHandles"/>.</summary>
/// <param name="Keys">The keys that they leave.</param>
public sealed record EasesToHandles(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, CurveTools.EasesToHandles, cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => "Turn easings into handles";
}

/// <summary>Gives segments the shape of an easing of one's own; see <see cref="CssEasing.Apply"/>.</summary>
/// <param name="Keys">The keys that the segments leave.</param>
/// <param name="Shape">From frame 0 to 1.</param>
public sealed record ShapeSegments(IReadOnlyList<KeyAddress> Keys, Curve Shape) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, (curve, chosen) => CssEasing.Apply(curve, chosen, Shape), cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Shape {Plural(Keys.Count, "segment")}";
}
