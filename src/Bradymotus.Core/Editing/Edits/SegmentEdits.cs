using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Says how keys go to the next one.</summary>
public sealed record SetSegments(IReadOnlyList<KeyAddress> Keys, Segment Segment) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Segment);
        return ForKeys(shot, Keys, (curve, chosen) => CurveEdits.SetSegments(curve, chosen, Segment), cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Set the interpolation of {Plural(Keys.Count, "key")}";
}

/// <summary>Sets one handle of one key; a joined key turns its other handle with it.</summary>
/// <param name="Joined">Joins or splits the handles first; null leaves it.</param>
public sealed record SetHandle(KeyAddress Key, KeySide Side, Handle Handle, bool? Joined = null) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, [Key], (curve, chosen) =>
    {
        var i = chosen[0];
        var key = curve.Keys[i];
        if (Joined is { } joined && joined != key.Joined)
        {
            curve = curve.WithKeys(curve.Keys.SetItem(i, key with { Joined = joined }));
        }
        return CurveEdits.SetHandle(curve, i, Side, Handle);
    }, cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Bend {Names.Of(before, Key.Address)} on frame {CurveRules.Number(Key.Frame)}";
}

/// <summary>Sets the kind of handles of several keys at once.</summary>
/// <param name="In">Null leaves the way in.</param>
/// <param name="Out">Null leaves the way out.</param>
/// <param name="Joined">Null leaves it.</param>
public sealed record SetHandleKinds(IReadOnlyList<KeyAddress> Keys, Handle? In = null, Handle? Out = null, bool? Joined = null) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(In);
        CurveRules.Finite(Out);
        return ForKeys(shot, Keys, (curve, chosen) => CurveEdits.SetHandleKinds(curve, chosen, In, Out, Joined), cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Set the handles of {Plural(Keys.Count, "key")}";
}

/// <summary>Says what curves do before their first and after their last key.</summary>
/// <param name="Before">Null leaves it.</param>
/// <param name="After">Null leaves it.</param>
public sealed record SetExtrapolation(IReadOnlyList<ChannelAddress> Channels, Extrapolation? Before = null, Extrapolation? After = null) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, Channels, a => a, (curve, address) =>
        curve is null
            ? throw new Refusal($"{Names.Of(shot, address)} has no keys to go on from: key it first.")
            : new Curve(curve.Keys, Before ?? curve.Before, After ?? curve.After), cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => Channels.Count == 1
        ? $"Set what {Names.Of(before, Channels[0])} does {(After is null ? "before" : Before is null ? "after" : "around")} its keys"
        : $"Set what {Plural(Channels.Count, "channel")} do beyond their keys";
}

/// <summary>Replaces a whole curve, or takes it away.</summary>
public sealed record SetCurve(ChannelAddress Address, Curve? Curve = null) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, [Address], a => a, (_, _) => Curve, cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Set the curve of {Names.Of(before, Address)}";
}
