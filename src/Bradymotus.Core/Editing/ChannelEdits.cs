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
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var builder = new ShotBuilder(shot);
        foreach (var (address, value) in Values)
        {
            // Each by itself: what a later value of the same channel covers is written to the journal all the same.
            CurveRules.Finite(value);
            var channel = builder.Channel(address);
            Unlocked(shot, address, channel);
            if (channel.ActiveCurve is not null)
            {
                throw new Refusal($"{Names.Of(shot, address)} has keys: set a key on a frame instead of a value for all.");
            }
            builder.Set(address, channel with { Value = value });
        }
        return builder.ToShot();
    }

    public override string Describe(Shot before) =>
        Values.Count == 1 ? $"Set {Names.Of(before, Values[0].Address)}" : $"Set {Plural(Values.Count, "value")}";
}

/// <summary>Locks channels, or unlocks them: the values and keys of those that are locked stay as they are.</summary>
public sealed record LockChannels(IReadOnlyList<ChannelAddress> Channels, bool Locked = true) : Edit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var builder = new ShotBuilder(shot);
        foreach (var address in Channels)
        {
            builder.Set(address, builder.Channel(address) with { Locked = Locked });
        }
        return builder.ToShot();
    }

    public override string Describe(Shot before) => $"{(Locked ? "Lock" : "Unlock")} {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Mutes the curves of channels, so that they stay as they are on a frame, or lets them be heard again. The keys are kept.</summary>
/// <param name="Frame">The frame whose values stay; null keeps the static values that there are.</param>
public sealed record MuteChannels(IReadOnlyList<ChannelAddress> Channels, bool Muted = true, double? Frame = null) : Edit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame ?? 0);
        var builder = new ShotBuilder(shot);
        foreach (var address in Channels)
        {
            var channel = builder.Channel(address);
            if (channel.Muted != Muted && (!Muted || channel.Curve is not null))
            {
                Unlocked(shot, address, channel);
                builder.Set(address, channel with { Muted = Muted, Value = Muted && Frame is { } frame ? channel.Evaluate(frame) : channel.Value });
            }
        }
        return builder.ToShot();
    }

    public override string Describe(Shot before) => $"{(Muted ? "Mute" : "Unmute")} {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";

    /// <summary>The shot without the curves that have no say.</summary>
    /// <param name="of">Which channels are meant.</param>
    public static Shot WithoutMuted(Shot shot, Func<ChannelAddress, bool>? of = null)
    {
        var builder = new ShotBuilder(shot);
        foreach (var (address, channel) in shot.AllSetChannels().Where(c => c.Channel.Muted && (of is null || of(c.Address))).ToList())
        {
            builder.Set(address, channel with { Curve = null, Muted = false });
        }
        return builder.ToShot();
    }
}

/// <summary>Changes the curves of several channels. Each owner is written once, however many of its channels change.</summary>
public abstract record CurveEdit : Edit
{
    /// <summary>Replaces the curves of channels; one without keys keeps the value of its last one.</summary>
    private protected static Shot ForChannels<T>(Shot shot, IEnumerable<T> items, Func<T, ChannelAddress> address, Func<Curve?, T, Curve?> change, CancellationToken cancel)
    {
        var builder = new ShotBuilder(shot);
        foreach (var item in items)
        {
            cancel.ThrowIfCancellationRequested();
            var at = address(item);
            var channel = builder.Channel(at);
            var curve = change(channel.Curve, item);
            if (!ReferenceEquals(curve, channel.Curve))
            {
                Unlocked(shot, at, channel);
                var value = curve is null && channel.Curve is { } old ? old.Keys[^1].Value : channel.Value;
                builder.Set(at, channel with { Value = value, Curve = curve, Muted = channel.Muted && curve is not null });
            }
        }
        return builder.ToShot();
    }

    private protected static Shot ForKeys(Shot shot, IReadOnlyList<KeyAddress> keys, Func<Curve, IReadOnlyList<int>, Curve?> change, CancellationToken cancel) =>
        ForChannels(shot, KeyGroups.Of(keys), g => g.Address, (curve, g) => change(curve!, g.PlacesIn(shot, curve)), cancel);
}

/// <summary>Sets keys: on an existing key the value, elsewhere a new key. Stepped channels (on or off) get keys that hold.</summary>
public sealed record SetKeys(double Frame, IReadOnlyList<ChannelValue> Values) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        return ForChannels(shot, Values, v => v.Address, (curve, v) =>
            curve is null && shot.Spec(v.Address).Stepped
                ? new Curve([new Key(Frame, v.Value, Segment.Hold)])
                : CurveEdits.SetKey(curve, Frame, v.Value, shot.NewKeys), cancel);
    }

    public override string Describe(Shot before) => Values.Count == 1
        ? $"Key {Names.Of(before, Values[0].Address)} on frame {CurveRules.Number(Frame)}"
        : $"Key {Plural(Values.Count, "channel")} on frame {CurveRules.Number(Frame)}";
}

/// <summary>Puts keys on curves without changing their shape; see <see cref="KeyInsertion"/>.</summary>
public sealed record InsertKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, KeyGroups.Of(Keys), g => g.Address, (curve, g) =>
        KeyInsertion.Insert(curve ?? throw new Refusal($"{Names.Of(shot, g.Address)} has no curve to put a key on: key a value first."), g.Frames), cancel);

    public override string Describe(Shot before) => $"Insert {Plural(Keys.Count, "key")}";
}

/// <summary>Puts whole keys in, as pasting does; keys on the same frames give way.</summary>
public sealed record PutKeys(IReadOnlyList<ChannelKeys> Channels) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        ForChannels(shot, Channels, c => c.Address, (curve, c) => CurveEdits.Put(curve, c.Keys), cancel);

    public override string Describe(Shot before) => $"Put {Plural(Channels.Sum(c => c.Keys.IsDefault ? 0 : c.Keys.Length), "key")}";
}

/// <summary>
/// Keeps the pose of the key before a frame until there, so that nothing drifts before a move. From the frame on the
/// channel goes on as it did from that key. Channels without a key before the frame stay as they are.
/// </summary>
public sealed record HoldUntil(double Frame, IReadOnlyList<ChannelAddress> Channels) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        return ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null : CurveEdits.HoldUntil(curve, Frame), cancel);
    }

    public override string Describe(Shot before) => $"Hold until frame {CurveRules.Number(Frame)}";
}

/// <summary>Removes keys. A channel without keys keeps the value of its last one.</summary>
public sealed record RemoveKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, CurveEdits.RemoveKeys, cancel);

    public override string Describe(Shot before) => $"Remove {Plural(Keys.Count, "key")}";
}

/// <summary>Moves and scales keys in time and value.</summary>
public sealed record TransformKeys(IReadOnlyList<KeyAddress> Keys, KeyTransform By) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(By.Frames, By.Value, By.FramePivot, By.FrameScale, By.ValuePivot, By.ValueScale);
        return ForKeys(shot, Keys, (curve, chosen) => CurveEdits.Transform(curve, chosen, By), cancel);
    }

    public override string Describe(Shot before) =>
        (By.FrameScale == 1 && By.ValueScale == 1 ? "Move " : "Scale ") + Plural(Keys.Count, "key");
}

/// <summary>Shifts the keys of each owner by so many frames more than those of the owner before it.</summary>
public sealed record StaggerKeys(IReadOnlyList<KeyAddress> Keys, double Frames) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frames);
        // The first owner stays, each next one comes so much later than the one before.
        var places = new Dictionary<string, int>();
        foreach (var key in Keys)
        {
            places.TryAdd(key.Address.Owner, places.Count);
        }
        return ForChannels(shot, KeyGroups.Of(Keys), g => g.Address,
            (curve, g) => CurveEdits.Transform(curve!, g.PlacesIn(shot, curve), new(Frames: Frames * places[g.Address.Owner])), cancel);
    }

    public override string Describe(Shot before) => $"Stagger by {CurveRules.Number(Frames)} frames";
}

/// <summary>Turns keys round in time.</summary>
public sealed record ReverseKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, CurveEdits.Reverse, cancel);

    public override string Describe(Shot before) => $"Reverse {Plural(Keys.Count, "key")}";
}

/// <summary>Says how keys go to the next one.</summary>
public sealed record SetSegments(IReadOnlyList<KeyAddress> Keys, Segment Segment) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Segment);
        return ForKeys(shot, Keys, (curve, chosen) => CurveEdits.SetSegments(curve, chosen, Segment), cancel);
    }

    public override string Describe(Shot before) => $"Set the interpolation of {Plural(Keys.Count, "key")}";
}

/// <summary>Sets one handle of one key; a joined key turns its other handle with it.</summary>
/// <param name="Joined">Joins or splits the handles first; null leaves it.</param>
public sealed record SetHandle(KeyAddress Key, KeySide Side, Handle Handle, bool? Joined = null) : CurveEdit
{
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

    public override string Describe(Shot before) => $"Bend {Names.Of(before, Key.Address)} on frame {CurveRules.Number(Key.Frame)}";
}

/// <summary>Sets the kind of handles of several keys at once.</summary>
/// <param name="In">Null leaves the way in.</param>
/// <param name="Out">Null leaves the way out.</param>
/// <param name="Joined">Null leaves it.</param>
public sealed record SetHandleKinds(IReadOnlyList<KeyAddress> Keys, Handle? In = null, Handle? Out = null, bool? Joined = null) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(In);
        CurveRules.Finite(Out);
        return ForKeys(shot, Keys, (curve, chosen) => CurveEdits.SetHandleKinds(curve, chosen, In, Out, Joined), cancel);
    }

    public override string Describe(Shot before) => $"Set the handles of {Plural(Keys.Count, "key")}";
}

/// <summary>Says what curves do before their first and after their last key.</summary>
/// <param name="Before">Null leaves it.</param>
/// <param name="After">Null leaves it.</param>
public sealed record SetExtrapolation(IReadOnlyList<ChannelAddress> Channels, Extrapolation? Before = null, Extrapolation? After = null) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, Channels, a => a, (curve, address) =>
        curve is null
            ? throw new Refusal($"{Names.Of(shot, address)} has no keys to go on from: key it first.")
            : new Curve(curve.Keys, Before ?? curve.Before, After ?? curve.After), cancel);

    public override string Describe(Shot before) => Channels.Count == 1
        ? $"Set what {Names.Of(before, Channels[0])} does {(After is null ? "before" : Before is null ? "after" : "around")} its keys"
        : $"Set what {Plural(Channels.Count, "channel")} do beyond their keys";
}

/// <summary>Replaces a whole curve, or takes it away.</summary>
public sealed record SetCurve(ChannelAddress Address, Curve? Curve = null) : CurveEdit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, [Address], a => a, (_, _) => Curve, cancel);

    public override string Describe(Shot before) => $"Set the curve of {Names.Of(before, Address)}";
}
