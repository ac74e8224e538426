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
    /// <inheritdoc/>
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

    /// <inheritdoc/>
    public override string Describe(Shot before) =>
        Values.Count == 1 ? $"Set {Names.Of(before, Values[0].Address)}" : $"Set {Plural(Values.Count, "value")}";
}

/// <summary>Locks channels, or unlocks them: the values and keys of those that are locked stay as they are.</summary>
public sealed record LockChannels(IReadOnlyList<ChannelAddress> Channels, bool Locked = true) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var builder = new ShotBuilder(shot);
        foreach (var address in Channels)
        {
            builder.Set(address, builder.Channel(address) with { Locked = Locked });
        }
        return builder.ToShot();
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"{(Locked ? "Lock" : "Unlock")} {(Channels.Count == 1 ? Names.Of(before, Channels[0]) : Plural(Channels.Count, "channel"))}";
}

/// <summary>Mutes the curves of channels, so that they stay as they are on a frame, or lets them be heard again. The keys are kept.</summary>
/// <param name="Frame">The frame whose values stay; null keeps the static values that there are.</param>
public sealed record MuteChannels(IReadOnlyList<ChannelAddress> Channels, bool Muted = true, double? Frame = null) : Edit
{
    /// <inheritdoc/>
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

    /// <inheritdoc/>
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
