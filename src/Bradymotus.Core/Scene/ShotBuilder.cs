using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>Collects changes to many channels of a shot and writes each owner, and the list of owners, once.</summary>
public sealed class ShotBuilder(Shot shot)
{
    private readonly Dictionary<string, ImmutableSortedDictionary<string, Channel>.Builder> _changed = [];

    /// <summary>The channel as it stands with the changes so far.</summary>
    /// <exception cref="Refusal">There is no such owner, or it has no such channel.</exception>
    public Channel Channel(ChannelAddress address) =>
        _changed.TryGetValue(address.Owner, out var channels)
            ? channels.GetValueOrDefault(address.Path) ?? shot.Channel(address)
            : shot.Channel(address);

    /// <exception cref="Refusal">There is no such owner, or it has no such channel.</exception>
    public void Set(ChannelAddress address, Channel channel)
    {
        shot.Spec(address);
        if (!_changed.TryGetValue(address.Owner, out var channels))
        {
            channels = (shot.SetChannels(address.Owner) ?? ImmutableSortedDictionary<string, Channel>.Empty).ToBuilder();
            _changed.Add(address.Owner, channels);
        }
        channels[address.Path] = channel;
    }

    /// <summary>The shot with all changes.</summary>
    public Shot ToShot()
    {
        if (_changed.Count == 0)
        {
            return shot;
        }
        if (_changed.Count == 1)
        {
            var (owner, channels) = _changed.First();
            if (owner != Shot.WorldOwner && shot.IndexOfNode(owner) is >= 0 and var place)
            {
                return shot.WithNodeAt(place, shot.Nodes[place] with { Channels = channels.ToImmutable() });
            }
        }
        ImmutableArray<Node>.Builder? nodes = null;
        ImmutableArray<Material>.Builder? materials = null;
        var others = new List<(IChannelOwner Owner, ImmutableSortedDictionary<string, Channel> Channels)>();
        var world = shot.World;
        foreach (var (owner, builder) in _changed)
        {
            var channels = builder.ToImmutable();
            if (owner == Shot.WorldOwner)
            {
                world = channels;
            }
            else if (shot.IndexOfNode(owner) is >= 0 and var place)
            {
                (nodes ??= shot.Nodes.ToBuilder())[place] = shot.Nodes[place] with { Channels = channels };
            }
            else if (shot.FindOther(owner) is { } other)
            {
                others.Add((other, channels));
            }
            else
            {
                var material = shot.Material(owner);
                (materials ??= shot.Materials.ToBuilder())[shot.IndexOfMaterial(owner)] = material with { Channels = channels };
            }
        }
        var built = shot with
        {
            World = world,
            Nodes = nodes?.MoveToImmutable() ?? shot.Nodes,
            Materials = materials?.MoveToImmutable() ?? shot.Materials,
        };
        return others.Aggregate(built, (s, o) => s.WithOther(o.Owner, o.Channels));
    }
}
