using System.Collections.Immutable;
using System.Runtime.InteropServices;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>A shot while what it draws once more is turned into nodes: one after another in the same lists, which are written once at the end.</summary>
internal sealed class RealCopies
{
    private readonly Shot _shot;
    private readonly string _prefix;
    private readonly double _frame;
    private readonly List<Node> _nodes;
    private readonly Dictionary<string, int> _places;
    private readonly Dictionary<string, List<int>> _below = [];
    private int _count;

    /// <param name="shot">As it is before.</param>
    /// <param name="prefix">The ids of the copies are this, a hyphen, and a number.</param>
    /// <param name="frame">The frame for what cannot stay keyed.</param>
    internal RealCopies(Shot shot, string prefix, double frame)
    {
        (_shot, _prefix, _frame) = (shot, prefix, frame);
        _nodes = [.. shot.Nodes];
        _places = new(shot.Nodes.Length);
        for (var i = 0; i < _nodes.Count; i++)
        {
            _places.TryAdd(_nodes[i].Id, i);
            Hang(i);
        }
    }

    /// <summary>The shot with all that has been added.</summary>
    internal Shot Shot => _shot with { Nodes = [.. _nodes] };

    /// <summary>Puts what an instance or a repeater draws in its place; any other node stays.</summary>
    /// <exception cref="Refusal">There is no such node, or there would be more nodes than a shot can have.</exception>
    internal void Add(string id) => AddAt(_places[_shot.Node(id).Id]);

    /// <summary>Does so for all that there are, and for those that come with them.</summary>
    /// <returns>How many.</returns>
    /// <exception cref="Refusal">There would be more nodes than a shot can have.</exception>
    internal int AddAll(CancellationToken cancel)
    {
        var made = 0;
        for (var i = 0; i < _nodes.Count; i++)
        {
            // An instance of a repeater is a repeater first.
            while (_nodes[i] is InstanceNode or RepeatNode)
            {
                cancel.ThrowIfCancellationRequested();
                AddAt(i);
                made++;
            }
        }
        return made;
    }

    private void AddAt(int place)
    {
        switch (_nodes[place])
        {
            case InstanceNode instance:
                AddInstance(place, instance);
                break;
            case RepeatNode repeat:
                AddRepeat(place, repeat);
                break;
        }
    }

    private void AddInstance(int place, InstanceNode instance)
    {
        var of = _nodes[_places[instance.Of]];
        var channels = (Channels(of) ?? ImmutableSortedDictionary<string, Channel>.Empty).RemoveRange(Instances.Place(of.Channels)?.Keys ?? [])
            .RemoveRange(["visible", "visible.stage", "visible.renders"]);
        var own = Channels(instance) ?? ImmutableSortedDictionary<string, Channel>.Empty;
        var below = Below(of.Id);
        RefuseMore(instance, below.Count);
        var ids = below.ToDictionary(n => n.Id, _ => NextId());
        ids[of.Id] = instance.Id;
        _nodes[place] = References.Mapped(of, ids) with
        {
            Id = instance.Id,
            Name = instance.Name,
            Parent = instance.Parent,
            Offset = instance.Offset,
            RotationOrder = instance.RotationOrder,
            Locked = instance.Locked,
            Follows = null,
            Channels = Instances.OrNone(channels.SetItems(own)),
        };
        foreach (var node in below)
        {
            Append(References.Mapped(node, ids) with { Id = ids[node.Id], Parent = ids[node.Parent!] });
        }
    }

    private void AddRepeat(int place, RepeatNode repeat)
    {
        var set = Channels(repeat);
        var list = ChannelCatalog.For(repeat);
        Channel Of(string path) => set?.GetValueOrDefault($"repeat.{path}") ?? new Channel(ChannelCatalog.Standard(repeat, list, list.IndexOf($"repeat.{path}")));
        var count = (int)Math.Round(Math.Clamp(Of("count").Evaluate(_frame), 1, RepeatNode.MostCopies), MidpointRounding.AwayFromZero);
        var shift = Of("shift").Evaluate(_frame);
        Affine? step = null;
        if (repeat.Step is { } other)
        {
            var shot = Shot;
            if (CompiledShot.WorldOf(shot, repeat.Id, _frame).TryInvert(out var toOwn))
            {
                step = toOwn * CompiledShot.WorldOf(shot, other, _frame);
            }
        }
        var stepChannels = step is not null ? null : ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal,
            new[] { "translate", "rotate", "scale" }.SelectMany(k => "xyz".Select(c => KeyValuePair.Create($"transform.{k}.{c}", Of($"{k}.{c}") with { Locked = false }))));
        var originals = Below(repeat.Id);
        RefuseMore(repeat, (count - 1L) * (originals.Count + 1));
        _nodes[place] = new GroupNode
        {
            Id = repeat.Id,
            Name = repeat.Name,
            Parent = repeat.Parent,
            Offset = repeat.Offset,
            RotationOrder = repeat.RotationOrder,
            Locked = repeat.Locked,
            Follows = repeat.Follows,
            Channels = Instances.OrNone(repeat.Channels?.RemoveRange(repeat.Channels.Keys.Where(p => p.StartsWith("repeat.", StringComparison.Ordinal)))),
        };
        var parent = repeat.Id;
        for (var k = 1; k < count; k++)
        {
            var group = NextId();
            Append(new GroupNode { Id = group, Name = $"Copy {k + 1}", Parent = parent, Offset = step, Channels = stepChannels });
            var ids = originals.ToDictionary(n => n.Id, _ => NextId());
            foreach (var node in originals)
            {
                Append(Later(References.Mapped(node, ids), k * shift) with { Id = ids[node.Id], Parent = node.Parent == repeat.Id ? group : ids[node.Parent!] });
            }
            parent = group;
        }
    }

    private void RefuseMore(Node node, long more)
    {
        if (_nodes.Count + more > ShotRules.MostNodes)
        {
            throw new Refusal($"With the copies of “{node.Name}” as objects of their own the shot would have {_nodes.Count + more}, more than the {ShotRules.MostNodes} that it can have: give it fewer copies, or make fewer of them real.");
        }
    }

    private Node? Find(string? id) => id is not null && _places.TryGetValue(id, out var place) ? _nodes[place] : null;

    private ImmutableSortedDictionary<string, Channel>? Channels(Node node) => Scene.Shot.ChannelsWithFollowed(node, Find);

    /// <summary>All that hangs below a node, in the order of the list.</summary>
    private List<Node> Below(string id)
    {
        var found = new SortedSet<int>();
        var open = new Stack<string>([id]);
        while (open.TryPop(out var next))
        {
            foreach (var child in _below.GetValueOrDefault(next) ?? [])
            {
                if (found.Add(child))
                {
                    open.Push(_nodes[child].Id);
                }
            }
        }
        return [.. found.Select(i => _nodes[i])];
    }

    private void Append(Node node)
    {
        _places[node.Id] = _nodes.Count;
        _nodes.Add(node);
        Hang(_nodes.Count - 1);
    }

    private void Hang(int place)
    {
        if (_nodes[place].Parent is { } parent)
        {
            (CollectionsMarshal.GetValueRefOrAddDefault(_below, parent, out _) ??= []).Add(place);
        }
    }

    private static Node Later(Node node, double frames) => frames == 0 || node.Channels is null ? node : node with
    {
        Channels = node.Channels.SetItems(node.Channels.Where(c => c.Value.Curve is not null).Select(c => KeyValuePair.Create(c.Key,
            c.Value with { Curve = c.Value.Curve!.WithKeys([.. c.Value.Curve.Keys.Select(k => k with { Frame = k.Frame + frames })]).UntilAt(f => f + frames) })).ToList()),
    };

    private string NextId()
    {
        string id;
        do
        {
            id = $"{_prefix}-{_count++}";
        }
        while (_places.ContainsKey(id) || _shot.FindMaterial(id) is not null);
        return id;
    }
}
