using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

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
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        return ForChannels(shot, Values, v => v.Address, (curve, v) =>
            curve is null && shot.Spec(v.Address).Stepped
                ? new Curve([new Key(Frame, v.Value, Segment.Hold)])
                : CurveEdits.SetKey(curve, Frame, v.Value, shot.NewKeys), cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Values.Count == 1
        ? $"Key {Names.Of(before, Values[0].Address)} on frame {CurveRules.Number(Frame)}"
        : $"Key {Plural(Values.Count, "channel")} on frame {CurveRules.Number(Frame)}";
}

/// <summary>Puts keys on curves without changing their shape; see <see cref="KeyInsertion"/>.</summary>
public sealed record InsertKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForChannels(shot, KeyGroups.Of(Keys), g => g.Address, (curve, g) =>
        KeyInsertion.Insert(curve ?? throw new Refusal($"{Names.Of(shot, g.Address)} has no curve to put a key on: key a value first."), g.Frames), cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Insert {Plural(Keys.Count, "key")}";
}

/// <summary>Puts whole keys in, as pasting does; keys on the same frames give way.</summary>
public sealed record PutKeys(IReadOnlyList<ChannelKeys> Channels) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        ForChannels(shot, Channels, c => c.Address, (curve, c) => CurveEdits.Put(curve, c.Keys), cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Put {Plural(Channels.Sum(c => c.Keys.IsDefault ? 0 : c.Keys.Length), "key")}";
}

/// <summary>
/// Keeps the pose of the key before a frame until there, so that nothing drifts before a move. From the frame on the
/// channel goes on as it did from that key. Channels without a key before the frame stay as they are.
/// </summary>
public sealed record HoldUntil(double Frame, IReadOnlyList<ChannelAddress> Channels) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        return ForChannels(shot, Channels, a => a, (curve, _) => curve is null ? null : CurveEdits.HoldUntil(curve, Frame), cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Hold until frame {CurveRules.Number(Frame)}";
}

/// <summary>Removes keys. A channel without keys keeps the value of its last one.</summary>
public sealed record RemoveKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, CurveEdits.RemoveKeys, cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove {Plural(Keys.Count, "key")}";
}

/// <summary>Moves and scales keys in time and value.</summary>
public sealed record TransformKeys(IReadOnlyList<KeyAddress> Keys, KeyTransform By) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(By.Frames, By.Value, By.FramePivot, By.FrameScale, By.ValuePivot, By.ValueScale);
        return ForKeys(shot, Keys, (curve, chosen) => CurveEdits.Transform(curve, chosen, By), cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) =>
        (By.FrameScale == 1 && By.ValueScale == 1 ? "Move " : "Scale ") + Plural(Keys.Count, "key");
}

/// <summary>Shifts the keys of each owner by so many frames more than those of the owner before it.</summary>
public sealed record StaggerKeys(IReadOnlyList<KeyAddress> Keys, double Frames) : CurveEdit
{
    /// <inheritdoc/>
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

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Stagger by {CurveRules.Number(Frames)} frames";
}

/// <summary>Turns keys round in time.</summary>
public sealed record ReverseKeys(IReadOnlyList<KeyAddress> Keys) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => ForKeys(shot, Keys, CurveEdits.Reverse, cancel);

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Reverse {Plural(Keys.Count, "key")}";
}
