using System.Collections;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Keys of one channel, by their frames.</summary>
internal sealed record KeyGroup(ChannelAddress Address, List<double> Frames)
{
    private Curve? _curve;
    private int[] _places = [];

    /// <summary>The places of the keys in a curve, rising and each once; remembered for the curve that was asked for last.</summary>
    /// <exception cref="Refusal">It has no key on one of the frames.</exception>
    internal int[] PlacesIn(Shot shot, Curve? curve)
    {
        if (curve is not null && ReferenceEquals(curve, _curve))
        {
            return _places;
        }
        var places = new int[Frames.Count];
        var (count, rising) = (0, true);
        foreach (var frame in Frames)
        {
            // In a list that rises it is mostly the key after the one before.
            var next = count > 0 ? places[count - 1] + 1 : 0;
            var i = curve is null ? -1 : next < curve.Keys.Length && curve.Keys[next].Frame == frame ? next : curve.IndexOf(frame);
            rising &= i >= next;
            places[count++] = i >= 0 ? i : throw new Refusal($"{Names.Of(shot, Address)} has no key on frame {CurveRules.Number(frame)}: it may have been moved or removed.");
        }
        _places = rising ? places : [.. places.Order().Distinct()];
        _curve = curve;
        return _places;
    }
}

/// <summary>A list of keys that knows which belong to one channel: for long ones that are asked again and again, as while a hand drags.</summary>
public sealed class KeyGroups(IReadOnlyList<KeyAddress> keys) : IReadOnlyList<KeyAddress>
{
    private IReadOnlyList<KeyGroup>? _groups;

    /// <summary>How many keys there are.</summary>
    public int Count => keys.Count;

    /// <summary>The key at a place of the list, from 0.</summary>
    public KeyAddress this[int index] => keys[index];

    /// <summary>By channel, in the order in which these come first.</summary>
    internal IReadOnlyList<KeyGroup> Groups => _groups ??= Of(keys);

    /// <inheritdoc/>
    public IEnumerator<KeyAddress> GetEnumerator() => keys.GetEnumerator();

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();

    /// <summary>Neighbours in the list mostly belong to one channel, so that is asked first.</summary>
    internal static IReadOnlyList<KeyGroup> Of(IReadOnlyList<KeyAddress> keys)
    {
        if (keys is KeyGroups known)
        {
            return known.Groups;
        }
        var groups = new Dictionary<ChannelAddress, KeyGroup>();
        var order = new List<KeyGroup>();
        KeyGroup? last = null;
        foreach (var key in keys)
        {
            if (last is null || key.Address != last.Address)
            {
                if (!groups.TryGetValue(key.Address, out last))
                {
                    groups.Add(key.Address, last = new(key.Address, []));
                    order.Add(last);
                }
            }
            last.Frames.Add(key.Frame);
        }
        return order;
    }
}
