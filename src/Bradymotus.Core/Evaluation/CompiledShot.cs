using System.Diagnostics.CodeAnalysis;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// A shot made ready for evaluation: flat arrays of channels, nodes with parents first.
/// Immutable once made, so that many threads may evaluate it, each into its own <see cref="FrameState"/>.
/// What has not changed since an earlier compilation is taken over from it; where the tree is the same, only what is another is looked at.
/// </summary>
/// <remarks>Longer than most: made whole, or made of an earlier one, it has the same arrays to fill, and both ways have to agree.</remarks>
public sealed class CompiledShot
{
    private readonly CompiledLayer[] _layers;
    private Layout _layout;
    private double[]? _poses;
    private CompiledOwner[]? _base;
    private Shot? _baseShot;
    private List<int> _changed = [];

    /// <param name="shot">The shot.</param>
    /// <param name="earlier">An earlier state of it, to take over from; null compiles everything.</param>
    public CompiledShot(Shot shot, CompiledShot? earlier = null)
    {
        Shot = shot;
        _layers = earlier is not null && earlier.Shot.Layers == shot.Layers ? earlier._layers : CompiledLayer.Of(shot.Layers, earlier?._layers ?? []);
        if (earlier is not null && TryPatch(earlier))
        {
            return;
        }
        Owners = new CompiledOwner[shot.Nodes.Length + shot.Materials.Length + shot.Layers.Length + shot.Sounds.Length + 1];
        for (var i = 0; i < Owners.Length; i++)
        {
            var (id, list, channels, node) = OwnerAt(i);
            var old = earlier is not null && earlier._layout.Owners.TryGetValue(id, out var place) ? earlier.Owners[place] : null;
            Owners[i] = old is not null && old.Fits(list, channels, node, _layers) ? old : new CompiledOwner(id, list, channels, old, node, _layers);
        }
        _layout = new Layout(shot, Owners);
        Nodes = new CompiledNode[_layout.Order.Length];
        for (var i = 0; i < Nodes.Length; i++)
        {
            var (place, parent, end) = _layout.Order[i];
            Nodes[i] = new(place, shot.Nodes[place].RotationOrder, shot.Nodes[place].Offset, parent, end, _layout.First[place + 1]);
        }
        Animated = AnimatedOf(Owners);
    }

    /// <summary>The shot that it was made from.</summary>
    public Shot Shot { get; }

    /// <summary>The number of channels of all owners together.</summary>
    public int ChannelCount => _layout.ChannelCount;

    /// <summary>World, nodes in document order, materials, layers, sounds.</summary>
    internal CompiledOwner[] Owners { get; private set; }

    /// <summary>The nodes, parents before children, and what hangs below a node right after it.</summary>
    internal CompiledNode[] Nodes { get; private set; }

    /// <summary>The owners that have a curve.</summary>
    internal int[] Animated { get; private set; }

    /// <summary>How many nodes there are.</summary>
    public int NodeCount => Nodes.Length;

    /// <summary>The node at a place in the order of evaluation.</summary>
    public Node NodeAt(int index) => Shot.Nodes[Nodes[index].Place];

    /// <summary>The place of a node in the order of evaluation, or −1.</summary>
    public int IndexOfNode(string id) => _layout.Nodes.GetValueOrDefault(id, -1);

    /// <summary>The place of a channel among all channels, or −1.</summary>
    public int IndexOfChannel(ChannelAddress address) =>
        _layout.Owners.TryGetValue(address.Owner, out var i) && Owners[i].List.IndexOf(address.Path) is >= 0 and var c ? _layout.First[i] + c : -1;

    /// <summary>Each owner with the index of its first channel and what its channels are. Owners of one kind share the list.</summary>
    public IEnumerable<(string Owner, int First, ChannelList List)> OwnerChannels() => Owners.Select((o, i) => (o.Id, _layout.First[i], o.List));

    /// <summary>The values of one channel on evenly spaced frames: first, first + step, …; not a number where there is no such channel.</summary>
    public void Sample(ChannelAddress address, double first, double step, Span<double> values)
    {
        if (!_layout.Owners.TryGetValue(address.Owner, out var i) || Owners[i].List.IndexOf(address.Path) is not (>= 0 and var c))
        {
            values.Fill(double.NaN);
            return;
        }
        Owners[i].Sample(c, first, step, values);
    }

    /// <summary>The last frame with a key at or before a frame, or the frame itself before the first: what stepped playing shows.</summary>
    public double PoseAt(double frame)
    {
        var poses = KeyFrames();
        var at = Array.BinarySearch(poses, frame);
        return at >= 0 || ~at == 0 ? frame : poses[~at - 1];
    }

    /// <summary>The frames on which anything has a key, rising.</summary>
    internal double[] KeyFrames() => _poses ??= [.. Animated.SelectMany(i => Owners[i].AllCurves).SelectMany(c => c.Keys).Select(k => k.Frame).Distinct().Order()];

    /// <summary>Where a node stands in the world on a frame, by itself: only it and what it hangs under are evaluated.</summary>
    public Affine WorldAt(string id, double frame)
    {
        var world = Affine.Identity;
        Span<double> values = stackalloc double[CompiledNode.MostPlaceChannels];
        for (var i = IndexOfNode(id); i >= 0; i = Nodes[i].Parent)
        {
            Owners[Nodes[i].Owner].Evaluate(frame, values[..Nodes[i].PlaceChannels]);
            world = Nodes[i].Local(values) * world;
        }
        return world;
    }

    /// <summary>As <see cref="WorldAt"/>, of a shot that is not made ready: for one question. Null is the world itself.</summary>
    public static Affine WorldOf(Shot shot, string? id, double frame)
    {
        var world = Affine.Identity;
        for (var node = shot.FindNode(id); node is not null; node = shot.FindNode(node.Parent))
        {
            world = (node.Offset is { } offset ? offset * LocalOf(shot, node, frame) : LocalOf(shot, node, frame)) * world;
        }
        return world;
    }

    private static CompiledOwner OwnerOf(Shot shot, string id) =>
        new(id, shot.ChannelsOf(id), shot.FindNode(id) is { } node ? shot.ChannelsWithFollowed(node) : shot.SetChannels(id), null, shot.FindNode(id), CompiledLayer.Of(shot.Layers, []));

    /// <summary>What a channel is on evenly spaced frames, with all layers; see <see cref="ValueOf"/>.</summary>
    /// <exception cref="Refusal">There is no such channel.</exception>
    public static void Sample(Shot shot, ChannelAddress address, double first, double step, Span<double> values)
    {
        var at = address.Base;
        shot.Spec(at);
        var owner = OwnerOf(shot, at.Owner);
        owner.Sample(owner.List.IndexOf(at.Path), first, step, values);
    }

    /// <summary>What a channel is on a frame, with all layers, of a shot that is not made ready: for one question.</summary>
    /// <exception cref="Refusal">There is no such channel.</exception>
    public static double ValueOf(Shot shot, ChannelAddress address, double frame)
    {
        var at = address.Base;
        if (shot.Layers.IsEmpty)
        {
            return shot.Channel(at).Evaluate(frame);
        }
        Span<double> value = [0];
        Sample(shot, at, frame, 1, value);
        return value[0];
    }

    /// <summary>The own map of a node on a frame, without its offset: for one question.</summary>
    internal static Affine LocalOf(Shot shot, Node node, double frame)
    {
        Span<double> values = stackalloc double[CompiledNode.MostPlaceChannels];
        var compiled = new CompiledNode(0, node.RotationOrder, null, -1, 1, 0);
        var list = ChannelCatalog.For(node);
        var channels = shot.ChannelsWithFollowed(node);
        var isTogether = list.HasQuaternion || !shot.Layers.IsEmpty;
        if (isTogether)
        {
            OwnerOf(shot, node.Id).Evaluate(frame, values[..compiled.PlaceChannels]);
        }
        for (var c = 0; c < compiled.PlaceChannels && !isTogether; c++)
        {
            Channel? set = null;
            channels?.TryGetValue(list[c].Path, out set);
            values[c] = set?.Evaluate(frame) ?? list[c].Default;
        }
        return compiled.Local(values);
    }

    /// <summary>The owners of a node and of all that it hangs below, itself first; the same as long as nothing of them is another.</summary>
    internal CompiledOwner[] ChainOf(string id)
    {
        var chain = new List<CompiledOwner>();
        for (var i = IndexOfNode(id); i >= 0; i = Nodes[i].Parent)
        {
            chain.Add(Owners[Nodes[i].Owner]);
        }
        return [.. chain];
    }

    /// <summary>The way of a node's pivot through the world: a point for each whole frame.</summary>
    public Double3[] MotionPath(string id, int first, int last)
    {
        var points = new Double3[Math.Max(0, last - first + 1)];
        var chain = new List<CompiledNode>();
        for (var i = IndexOfNode(id); i >= 0; i = Nodes[i].Parent)
        {
            chain.Add(Nodes[i]);
        }
        if (chain.Count == 0)
        {
            return points;
        }
        // From the root down, what stands still at its top is worked out once.
        chain.Reverse();
        Span<double> values = stackalloc double[CompiledNode.MostPlaceChannels];
        var top = Affine.Identity;
        var still = 0;
        for (; still < chain.Count && !Owners[chain[still].Owner].IsMoved; still++)
        {
            Owners[chain[still].Owner].Evaluate(first, values[..chain[still].PlaceChannels]);
            top *= chain[still].Local(values);
        }
        for (var f = 0; f < points.Length; f++)
        {
            var world = top;
            for (var i = still; i < chain.Count; i++)
            {
                Owners[chain[i].Owner].Evaluate(first + f, values[..chain[i].PlaceChannels]);
                world *= chain[i].Local(values);
            }
            if (still == chain.Count)
            {
                Owners[chain[^1].Owner].Evaluate(first, values[..chain[^1].PlaceChannels]);
            }
            points[f] = world.Point(chain[^1].Pivot(values));
        }
        return points;
    }

    /// <summary>Whether both have the same owners with the same channels in the same places, so that one's values can be taken over by the other.</summary>
    internal bool HasLayoutOf(CompiledShot other) => ReferenceEquals(_layout, other._layout);

    /// <summary>The places of the owners that are others than in an earlier compilation; null where that is not the one that this was made from.</summary>
    internal IReadOnlyList<int>? ChangedSince(CompiledShot earlier) =>
        ReferenceEquals(_base, earlier.Owners) && ReferenceEquals(_baseShot, earlier.Shot) ? _changed : null;

    /// <summary>The place of the first channel of an owner.</summary>
    internal int FirstChannel(int owner) => _layout.First[owner];

    /// <summary>The owner that a channel belongs to.</summary>
    internal int OwnerOf(int channel)
    {
        var i = Array.BinarySearch(_layout.First, channel);
        return i >= 0 ? i : ~i - 1;
    }

    /// <summary>The place of an owner in the order of evaluation, or −1 where it is no node.</summary>
    internal int NodeOfOwner(int owner) => owner >= 1 && owner <= Nodes.Length ? _layout.NodeOfOwner[owner] : -1;

    private (string Id, ChannelList List, System.Collections.Immutable.ImmutableSortedDictionary<string, Channel>? Channels, Node? Node) OwnerAt(int i)
    {
        if (i == 0)
        {
            return (Shot.WorldOwner, ChannelCatalog.World, Shot.World, null);
        }
        if (i <= Shot.Nodes.Length)
        {
            var node = Shot.Nodes[i - 1];
            return (node.Id, ChannelCatalog.For(node), Shot.ChannelsWithFollowed(node), node);
        }
        if (i - 1 - Shot.Nodes.Length is var m && m < Shot.Materials.Length)
        {
            var material = Shot.Materials[m];
            return (material.Id, ChannelCatalog.For(material), material.Channels, null);
        }
        m -= Shot.Materials.Length;
        IChannelOwner other = m < Shot.Layers.Length ? Shot.Layers[m] : Shot.Sounds[m - Shot.Layers.Length];
        return (other.Id, other.List, other.Channels, null);
    }

    private static int[] AnimatedOf(CompiledOwner[] owners)
    {
        var animated = new List<int>();
        for (var i = 0; i < owners.Length; i++)
        {
            if (owners[i].Animated.Length > 0)
            {
                animated.Add(i);
            }
        }
        return [.. animated];
    }

    /// <summary>Takes over an earlier compilation with what is another put in its place; false where the tree or the channels of an owner are not the same.</summary>
    [MemberNotNullWhen(true, nameof(_layout), nameof(Owners), nameof(Nodes), nameof(Animated))]
    private bool TryPatch(CompiledShot earlier)
    {
        var before = earlier.Shot;
        if (before.Nodes.Length != Shot.Nodes.Length || before.Materials.Length != Shot.Materials.Length || before.Layers.Length != Shot.Layers.Length || before.Sounds.Length != Shot.Sounds.Length)
        {
            return false;
        }
        var (owners, nodes) = (earlier.Owners, earlier.Nodes);
        var changed = new List<int>();
        var areAnimated = false;
        bool Take(int i)
        {
            var (id, list, channels, node) = OwnerAt(i);
            var old = earlier.Owners[i];
            if (id != old.Id || !ReferenceEquals(list, old.List))
            {
                return false;
            }
            changed.Add(i);
            if (!old.Fits(list, channels, node, _layers))
            {
                owners = ReferenceEquals(owners, earlier.Owners) ? [.. owners] : owners;
                owners[i] = new CompiledOwner(id, list, channels, old, node, _layers);
                areAnimated |= owners[i].Animated.Length > 0 != old.Animated.Length > 0;
            }
            return true;
        }
        if (!ReferenceEquals(before.World, Shot.World) && !Take(0))
        {
            return false;
        }
        var a = before.Nodes.AsSpan();
        var b = Shot.Nodes.AsSpan();
        foreach (var i in Shot.NodesOtherThan(before))
        {
            if (ReferenceEquals(a[i], b[i]))
            {
                continue;
            }
            if (a[i].Parent != b[i].Parent || a[i].Follows != b[i].Follows || (a[i] as InstanceNode)?.Of != (b[i] as InstanceNode)?.Of
                || (a[i] as RepeatNode)?.Step != (b[i] as RepeatNode)?.Step || !Take(i + 1))
            {
                return false;
            }
            if (a[i].RotationOrder != b[i].RotationOrder || a[i].Offset != b[i].Offset)
            {
                nodes = ReferenceEquals(nodes, earlier.Nodes) ? [.. nodes] : nodes;
                var place = earlier._layout.NodeOfOwner[i + 1];
                nodes[place] = nodes[place] with { Order = b[i].RotationOrder, Offset = b[i].Offset };
            }
        }
        // What follows another is another with it.
        foreach (var place in changed.Count > 0 ? earlier._layout.Followers : [])
        {
            if (!changed.Contains(place) && !Take(place))
            {
                return false;
            }
        }
        for (var i = 0; i < Shot.Materials.Length && before.Materials != Shot.Materials; i++)
        {
            if (!ReferenceEquals(before.Materials[i], Shot.Materials[i]) && !Take(1 + Shot.Nodes.Length + i))
            {
                return false;
            }
        }
        if (before.Layers != Shot.Layers || before.Sounds != Shot.Sounds)
        {
            for (var i = 0; i < owners.Length; i++)
            {
                if (!changed.Contains(i) && (i > Shot.Nodes.Length + Shot.Materials.Length || owners[i].IsLayered) && !Take(i))
                {
                    return false;
                }
            }
        }
        (_layout, Owners, Nodes) = (earlier._layout, owners, nodes);
        Animated = areAnimated ? AnimatedOf(owners) : earlier.Animated;
        (_base, _baseShot, _changed) = (earlier.Owners, before, changed);
        return true;
    }

    /// <summary>What depends on the tree and on the kinds of owners alone, and is shared as long as these are the same.</summary>
    private sealed class Layout
    {
        internal Layout(Shot shot, CompiledOwner[] owners)
        {
            Owners = new(owners.Length);
            First = new int[owners.Length];
            for (var i = 0; i < owners.Length; i++)
            {
                First[i] = ChannelCount;
                ChannelCount += owners[i].List.Count;
                Owners[owners[i].Id] = i;
            }
            Followers = [.. Enumerable.Range(1, shot.Nodes.Length).Where(i => shot.Nodes[i - 1].Follows is not null)];
            Order = new (int, int, int)[shot.Nodes.Length];
            Nodes = new(Order.Length);
            NodeOfOwner = new int[Order.Length + 1];
            var children = new Dictionary<string, List<int>>();
            var roots = new List<int>();
            for (var i = 0; i < shot.Nodes.Length; i++)
            {
                var parent = shot.Nodes[i].Parent;
                var list = roots;
                if (parent is not null && !children.TryGetValue(parent, out list))
                {
                    children.Add(parent, list = []);
                }
                list.Add(i);
            }
            // Depth first, without recursion: trees may be deep. A place below 0 says that what hangs below a node is all there.
            var open = new Stack<(int Place, int Parent)>();
            for (var i = roots.Count - 1; i >= 0; i--)
            {
                open.Push((roots[i], -1));
            }
            var count = 0;
            while (open.TryPop(out var next))
            {
                if (next.Place < 0)
                {
                    Order[~next.Place].End = count;
                    continue;
                }
                var at = count++;
                Order[at] = (next.Place, next.Parent, count);
                Nodes[shot.Nodes[next.Place].Id] = at;
                NodeOfOwner[next.Place + 1] = at;
                if (children.TryGetValue(shot.Nodes[next.Place].Id, out var below))
                {
                    open.Push((~at, -1));
                    for (var i = below.Count - 1; i >= 0; i--)
                    {
                        open.Push((below[i], at));
                    }
                }
            }
        }

        internal Dictionary<string, int> Owners { get; }

        internal Dictionary<string, int> Nodes { get; }

        internal int[] First { get; }

        internal int ChannelCount { get; }

        /// <summary>For each place in the order of evaluation: the place in the document, that of the parent, and the end of what hangs below.</summary>
        internal (int Place, int Parent, int End)[] Order { get; }

        internal int[] NodeOfOwner { get; }

        /// <summary>The owners that follow others.</summary>
        internal int[] Followers { get; }
    }
}
