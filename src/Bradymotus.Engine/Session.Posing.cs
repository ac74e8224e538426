using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>Poses: what is keyed, held, mixed and put.</summary>
internal sealed partial class Session
{
    /// <summary>A pose that is being put in part, where it fits, and what was seen before.</summary>
    private (List<Fit<PosePart>> Fits, Dictionary<ChannelAddress, double> From)? _put;

    internal double[] ValuesOf(IReadOnlyList<ChannelAddress> channels)
    {
        var values = ValuesNow(channels).GroupBy(v => v.Address).ToDictionary(g => g.Key, g => g.First().Value);
        return [.. channels.Select(a => values.TryGetValue(a, out var v) ? v : Shown.Channel(a).Evaluate(_frame))];
    }

    /// <summary>What channels have to be keyed with so that what is seen now is kept; those of a rotation may come in company.</summary>
    private IEnumerable<ChannelValue> ValuesNow(IReadOnlyList<ChannelAddress> channels)
    {
        if (Shown.Layers.IsEmpty)
        {
            return channels.Select(a => new ChannelValue(a, _waiting.TryGetValue(a, out var value) ? value : Shown.Channel(a).Evaluate(_frame)));
        }
        var values = new List<ChannelValue>();
        foreach (var layer in channels.GroupBy(a => a.Layer))
        {
            // What nobody has touched has its own value; what waits, or takes the place of what is below for the first time, is worked out.
            bool IsOwn(ChannelAddress a) => !_waiting.Keys.Any(w => w.Owner == a.Owner) && (layer.Key is null
                || Shown.FindLayer(layer.Key) is { Mode: LayerMode.Add } || Shown.SetChannels(a.Owner)?.ContainsKey(a.Path) == true);
            values.AddRange(layer.Where(IsOwn).Select(a => new ChannelValue(a, Shown.Channel(a).Evaluate(_frame))));
            var asked = layer.Where(a => !IsOwn(a)).Select(a => new ChannelValue(a.Base, _main.State.Value(a.Base))).ToList();
            values.AddRange(Posing.InLayer(Shown, asked, _frame, layer.Key));
        }
        return values;
    }

    /// <summary>Begins to put a pose, whole or in part.</summary>
    /// <returns>What fits and what does not, a sentence each.</returns>
    /// <exception cref="Refusal">Nothing of it fits.</exception>
    internal IReadOnlyList<string> BeginPut(SavedPose pose, IReadOnlyList<string> targets, bool mirror)
    {
        var fits = pose.Parts.Fits(Shown, targets, mirror, Layer).ToList();
        if (fits.Count == 0)
        {
            throw pose.Parts.NoneFits("pose");
        }
        _put = (fits, fits.ToDictionary(f => f.Address.Base, f => _main.State.Value(f.Address.Base)));
        return pose.Parts.Report(fits);
    }

    /// <summary>What is seen once the pose is put of which <see cref="BeginPut"/> has spoken.</summary>
    /// <param name="share">0 is how it was, 1 is the pose.</param>
    internal IReadOnlyList<ChannelValue> Put(double share) => _put is var (fits, from)
        ? SavedPose.Values(fits, a => from[a], share)
        : throw new Refusal("There is no pose to put: choose one first.");

    /// <summary>What setting values means here and now; see <see cref="Posing.Set"/>.</summary>
    internal (Edit? Edit, IReadOnlyList<ChannelValue> Waiting) Pose(IReadOnlyList<ChannelValue> values, bool autoKey) =>
        Posing.Set(History.Current, [.. values.Select(v => v with { Address = v.Address.Base })], _frame, autoKey, Layer);

    /// <summary>Keys on this frame what lies between the pose before and the pose after it: 0 is the one, 1 the other, and it may go past both.</summary>
    internal SetKeys Between(IReadOnlyList<ChannelAddress> channels, double share)
    {
        var values = new List<ChannelValue>();
        foreach (var address in channels)
        {
            var channel = History.Current.Channel(address);
            if (channel.Curve is not { } curve || channel.Locked)
            {
                continue;
            }
            var at = curve.IndexOf(_frame);
            var (before, after) = at >= 0 ? (at - 1, at + 1) : (~at - 1, ~at);
            if (before >= 0 && after < curve.Keys.Length)
            {
                var (a, b) = (curve.Keys[before].Value, curve.Keys[after].Value);
                values.Add(new(address, a + (b - a) * share));
            }
        }
        return values.Count > 0
            ? new(_frame, values)
            : throw new Refusal("There is no pose on both sides of this frame: go to a frame between two poses.");
    }

    /// <summary>Keys the values that the channels have now.</summary>
    internal SetKeys KeyNow(IEnumerable<ChannelAddress> channels)
    {
        var asked = channels.ToList();
        // What is locked is passed by, unless nothing else was meant.
        var free = asked.Where(a => !Shown.Channel(a).Locked).ToList();
        return new(_frame, [.. ValuesNow(free.Count > 0 ? free : asked)]);
    }

    /// <summary>Holds the pose before, or keys this one where there is none before.</summary>
    internal Edit Hold(IReadOnlyList<ChannelAddress> channels) =>
        channels.Any(a => Shown.Channel(a).Curve is { } curve && curve.Keys[0].Frame < _frame)
            ? new HoldUntil(_frame, [.. channels.Where(a => !Shown.Channel(a).Locked)])
            : KeyNow(channels);
}
