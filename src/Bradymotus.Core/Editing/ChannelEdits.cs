using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>A channel and a number for it.</summary>
public readonly record struct ChannelValue(ChannelAddress Address, double Value);

/// <summary>A key: its channel and its frame.</summary>
public readonly record struct KeyAddress(ChannelAddress Address, double Frame);

/// <summary>A key with all that belongs to it, and its channel.</summary>
public sealed record ChannelKeys(ChannelAddress Address, ImmutableArray<Key> Keys);

/// <summary>Sets static values. Refused for a channel with a curve, where the value would not show.</summary>
public sealed record SetValues(IReadOnlyList<ChannelValue> Values) : Edit
{
    public override Shot Apply(Shot shot)
    {
        foreach (var (address, value) in Values)
        {
            var channel = shot.Channel(address);
            if (channel.Curve is not null)
            {
                throw new Refusal($"{Names.Of(shot, address)} has keys: set a key on a frame instead of a value for all.");
            }
            shot = Checked(shot, address, channel with { Value = value });
        }
        return shot;
    }

    public override string Describe(Shot before) =>
        Values.Count == 1 ? $"Set {Names.Of(before, Values[0].Address)}" : $"Set {Plural(Values.Count, "value")}";

    internal static Shot Checked(Shot shot, ChannelAddress address, Channel channel)
    {
        ShotRules.Validate(shot, address, channel);
        return shot.With(address, channel);
    }
}

/// <summary>Changes the curves of several channels, channel by channel.</summary>
public abstract record CurveEdit : Edit
{
    /// <summary>Replaces the curve of a channel; without keys the channel keeps the value it had.</summary>
    private protected static Shot WithCurve(Shot shot, ChannelAddress address, Func<Curve?, Curve?> change)
    {
        var channel = shot.Channel(address);
        var curve = change(channel.Curve);
        if (ReferenceEquals(curve, channel.Curve))
        {
            return shot;
        }
        var value = curve is null && channel.Curve is { } old ? old.Keys[^1].Value : channel.Value;
        return SetValues.Checked(shot, address, new Channel(value, curve));
    }

    private protected static Shot ForKeys(Shot shot, IReadOnlyList<KeyAddress> keys, Func<Curve, IReadOnlySet<double>, Curve?> change)
    {
        foreach (var group in keys.GroupBy(k => k.Address))
        {
            var frames = group.Select(k => k.Frame).ToHashSet();
            shot = WithCurve(shot, group.Key, curve => change(Required(shot, group.Key, curve, frames), frames));
        }
        return shot;
    }

    private static Curve Required(Shot shot, ChannelAddress address, Curve? curve, HashSet<double> frames)
    {
        foreach (var frame in frames)
        {
            if (curve is null || curve.IndexOf(frame) < 0)
            {
                throw new Refusal($"{Names.Of(shot, address)} has no key on frame {CurveRules.Number(frame)}: it may have been moved or removed.");
            }
        }
        return curve!;
    }
}

/// <summary>Sets keys: on an existing key the value, elsewhere a new key. Stepped channels (on or off) get keys that hold.</summary>
public sealed record SetKeys(double Frame, IReadOnlyList<ChannelValue> Values) : CurveEdit
{
    public override Shot Apply(Shot shot)
    {
        foreach (var (address, value) in Values)
        {
            var stepped = shot.Spec(address).Stepped;
            shot = WithCurve(shot, address, curve => curve is null && stepped
                ? new Curve([new Key(Frame, value, Segment.Hold)])
                : CurveEdits.SetKey(curve, Frame, value));
        }
        return shot;
    }

    public override string Describe(Shot before) => Values.Count == 1
        ? $"Key {Names.Of(before, Values[0].Address)} on frame {CurveRules.Number(Frame)}"
        : $"Key {Plural(Values.Count, "channel")} on frame {CurveRules.Number(Frame)}";
}

/// <summary>Puts keys on curves without changing their shape.</summary>
public sealed record InsertKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    public override Shot Apply(Shot shot) => Keys.Aggregate(shot, (s, k) => WithCurve(s, k.Address, curve =>
        curve is null
            ? throw new Refusal($"{Names.Of(s, k.Address)} has no curve to put a key on: key a value first.")
            : CurveEdits.InsertOnCurve(curve, k.Frame)));

    public override string Describe(Shot before) => $"Insert {Plural(Keys.Count, "key")}";
}

/// <summary>Puts whole keys in, as pasting does; keys on the same frames give way.</summary>
public sealed record PutKeys(IReadOnlyList<ChannelKeys> Channels) : CurveEdit
{
    public override Shot Apply(Shot shot) =>
        Channels.Aggregate(shot, (s, c) => WithCurve(s, c.Address, curve => CurveEdits.Put(curve, c.Keys)));

    public override string Describe(Shot before) => $"Put {Plural(Channels.Sum(c => c.Keys.Length), "key")}";
}

/// <summary>
/// Keeps the pose of the key before a frame until there, so that nothing drifts before a move. From the frame on the
/// channel goes on as it did from that key. Channels without a key before the frame stay as they are.
/// </summary>
public sealed record HoldUntil(double Frame, IReadOnlyList<ChannelAddress> Channels) : CurveEdit
{
    public override Shot Apply(Shot shot) =>
        Channels.Aggregate(shot, (s, address) => WithCurve(s, address, curve => curve is null ? null : CurveEdits.HoldUntil(curve, Frame)));

    public override string Describe(Shot before) => $"Hold until frame {CurveRules.Number(Frame)}";
}

/// <summary>Removes keys. A channel without keys keeps the value of its last one.</summary>
public sealed record RemoveKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    public override Shot Apply(Shot shot) => ForKeys(shot, Keys, CurveEdits.RemoveKeys);

    public override string Describe(Shot before) => $"Remove {Plural(Keys.Count, "key")}";
}

/// <summary>Moves and scales keys in time and value.</summary>
public sealed record TransformKeys(IReadOnlyList<KeyAddress> Keys, KeyTransform By) : CurveEdit
{
    public override Shot Apply(Shot shot) => ForKeys(shot, Keys, (curve, frames) => CurveEdits.Transform(curve, frames, By));

    public override string Describe(Shot before) =>
        (By.FrameScale == 1 && By.ValueScale == 1 ? "Move " : "Scale ") + Plural(Keys.Count, "key");
}

/// <summary>Shifts the keys of each owner by so many frames more than those of the owner before it.</summary>
public sealed record StaggerKeys(IReadOnlyList<KeyAddress> Keys, double Frames) : CurveEdit
{
    public override Shot Apply(Shot shot)
    {
        var place = 0;
        foreach (var owner in Keys.GroupBy(k => k.Address.Owner))
        {
            var by = new KeyTransform(Frames: Frames * place++);
            shot = ForKeys(shot, [.. owner], (curve, frames) => CurveEdits.Transform(curve, frames, by));
        }
        return shot;
    }

    public override string Describe(Shot before) => $"Stagger by {CurveRules.Number(Frames)} frames";
}

/// <summary>Turns keys round in time.</summary>
public sealed record ReverseKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    public override Shot Apply(Shot shot) => ForKeys(shot, Keys, CurveEdits.Reverse);

    public override string Describe(Shot before) => $"Reverse {Plural(Keys.Count, "key")}";
}

/// <summary>Says how keys go to the next one.</summary>
public sealed record SetSegments(IReadOnlyList<KeyAddress> Keys, Segment Segment) : CurveEdit
{
    public override Shot Apply(Shot shot) => ForKeys(shot, Keys, (curve, frames) =>
        curve.WithKeys([.. curve.Keys.Select(k => frames.Contains(k.Frame) ? k with { Segment = Segment } : k)]));

    public override string Describe(Shot before) => $"Set the way on from {Plural(Keys.Count, "key")}";
}

/// <summary>Sets one handle of one key; a joined key turns its other handle with it.</summary>
/// <param name="Joined">Joins or splits the handles first; null leaves it.</param>
public sealed record SetHandle(KeyAddress Key, KeySide Side, Handle Handle, bool? Joined = null) : CurveEdit
{
    public override Shot Apply(Shot shot) => ForKeys(shot, [Key], (curve, _) =>
    {
        var i = curve.IndexOf(Key.Frame);
        var key = curve.Keys[i];
        if (Joined is { } joined && joined != key.Joined)
        {
            curve = curve.WithKeys(curve.Keys.SetItem(i, key with { Joined = joined }));
        }
        return CurveEdits.SetHandle(curve, i, Side, Handle);
    });

    public override string Describe(Shot before) => $"Bend {Names.Of(before, Key.Address)} on frame {CurveRules.Number(Key.Frame)}";
}

/// <summary>Sets the kind of handles of several keys at once.</summary>
/// <param name="In">Null leaves the way in.</param>
/// <param name="Out">Null leaves the way out.</param>
/// <param name="Joined">Null leaves it.</param>
public sealed record SetHandleKinds(IReadOnlyList<KeyAddress> Keys, Handle? In = null, Handle? Out = null, bool? Joined = null) : CurveEdit
{
    public override Shot Apply(Shot shot) => ForKeys(shot, Keys, (curve, frames) =>
        curve.WithKeys([.. curve.Keys.Select(k => frames.Contains(k.Frame)
            ? k with { In = In ?? k.In, Out = Out ?? k.Out, Joined = Joined ?? k.Joined }
            : k)]));

    public override string Describe(Shot before) => $"Set the handles of {Plural(Keys.Count, "key")}";
}

/// <summary>Says what curves do before their first and after their last key.</summary>
/// <param name="Before">Null leaves it.</param>
/// <param name="After">Null leaves it.</param>
public sealed record SetExtrapolation(IReadOnlyList<ChannelAddress> Channels, Extrapolation? Before = null, Extrapolation? After = null) : CurveEdit
{
    public override Shot Apply(Shot shot) => Channels.Aggregate(shot, (s, address) => WithCurve(s, address, curve =>
        curve is null
            ? throw new Refusal($"{Names.Of(s, address)} has no keys to go on from: key it first.")
            : new Curve(curve.Keys, Before ?? curve.Before, After ?? curve.After)));

    public override string Describe(Shot before) => Channels.Count == 1
        ? $"Set what {Names.Of(before, Channels[0])} does {(After is null ? "before" : Before is null ? "after" : "around")} its keys"
        : $"Set what {Plural(Channels.Count, "channel")} do beyond their keys";
}

/// <summary>Replaces a whole curve, or takes it away.</summary>
public sealed record SetCurve(ChannelAddress Address, Curve? Curve = null) : CurveEdit
{
    public override Shot Apply(Shot shot) => WithCurve(shot, Address, _ => Curve);

    public override string Describe(Shot before) => $"Set the curve of {Names.Of(before, Address)}";
}
