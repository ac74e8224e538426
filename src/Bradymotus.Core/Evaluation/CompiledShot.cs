using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// A shot made ready for evaluation: flat arrays of channels, nodes with parents first, meshes built.
/// Immutable once made, so that many threads may evaluate it, each into its own <see cref="FrameState"/>.
/// What has not changed since an earlier compilation is taken over from it.
/// </summary>
public sealed class CompiledShot
{
    private static readonly ConditionalWeakTable<Shape, Mesh> Meshes = [];

    private readonly Dictionary<string, int> _ownerIndex = [];
    private readonly Dictionary<string, int> _nodeIndex = [];
    private double[]? _poses;

    /// <param name="shot">The shot.</param>
    /// <param name="earlier">An earlier state of it, to take over from; null compiles everything.</param>
    public CompiledShot(Shot shot, CompiledShot? earlier = null)
    {
        Shot = shot;
        var owners = new List<Owner>(shot.Nodes.Length + shot.Materials.Length + 1);
        var count = 0;
        void Add(string id, object? source, Func<Owner> make)
        {
            var owner = earlier is not null && earlier._ownerIndex.TryGetValue(id, out var i) && ReferenceEquals(earlier.Owners[i].Source, source)
                ? earlier.Owners[i]
                : make();
            _ownerIndex[id] = owners.Count;
            owners.Add(owner with { First = count });
            count += owner.Specs.Length;
        }
        Add(Shot.WorldOwner, shot.World, () => new Owner(Shot.WorldOwner, shot.World, ChannelCatalog.World, shot.World));
        foreach (var node in shot.Nodes)
        {
            Add(node.Id, node, () => new Owner(node.Id, node, ChannelCatalog.For(node), node.Channels));
        }
        foreach (var material in shot.Materials)
        {
            Add(material.Id, material, () => new Owner(material.Id, material, ChannelCatalog.For(material), material.Channels));
        }
        Owners = [.. owners];
        ChannelCount = count;
        Nodes = Order(shot);
        for (var i = 0; i < Nodes.Length; i++)
        {
            _nodeIndex[Nodes[i].Node.Id] = i;
        }
    }

    public Shot Shot { get; }

    /// <summary>The number of channels of all owners together.</summary>
    public int ChannelCount { get; }

    /// <summary>World, nodes in document order, materials.</summary>
    internal Owner[] Owners { get; }

    /// <summary>The nodes, parents before children.</summary>
    internal CompiledNode[] Nodes { get; }

    public int NodeCount => Nodes.Length;

    /// <summary>The node at a place in the order of evaluation.</summary>
    public Node NodeAt(int index) => Nodes[index].Node;

    /// <summary>The place of a node in the order of evaluation, or −1.</summary>
    public int IndexOfNode(string id) => _nodeIndex.GetValueOrDefault(id, -1);

    /// <summary>The place of a channel among all channels, or −1.</summary>
    public int IndexOfChannel(ChannelAddress address)
    {
        if (!_ownerIndex.TryGetValue(address.Owner, out var i))
        {
            return -1;
        }
        var owner = Owners[i];
        for (var c = 0; c < owner.Specs.Length; c++)
        {
            if (owner.Specs[c].Path == address.Path)
            {
                return owner.First + c;
            }
        }
        return -1;
    }

    /// <summary>Each owner with the index of its first channel and what its channels are. Owners of one kind share the list.</summary>
    public IEnumerable<(string Owner, int First, ImmutableArray<ChannelSpec> Specs)> OwnerChannels() =>
        Owners.Select(o => (o.Id, o.First, o.Specs));

    /// <summary>The last frame with a key at or before a frame, or the frame itself before the first: what stepped playing shows.</summary>
    public double PoseAt(double frame)
    {
        _poses ??= [.. Owners.SelectMany(o => o.Curves).OfType<Curve>().SelectMany(c => c.Keys).Select(k => k.Frame).Distinct().Order()];
        var at = Array.BinarySearch(_poses, frame);
        return at >= 0 || ~at == 0 ? frame : _poses[~at - 1];
    }

    /// <summary>The mesh of a shape, built once for as long as the shape is in use.</summary>
    public static Mesh MeshOf(Shape shape) => Meshes.GetValue(shape, s => s.Build());

    /// <summary>Where a node stands in the world on a frame, by itself: only it and what it hangs under are evaluated.</summary>
    public Affine WorldAt(string id, double frame)
    {
        var world = Affine.Identity;
        Span<double> values = stackalloc double[12];
        for (var i = IndexOfNode(id); i >= 0; i = Nodes[i].Parent)
        {
            var owner = Owners[_ownerIndex[Nodes[i].Node.Id]];
            for (var c = 0; c < 12; c++)
            {
                values[c] = owner.Curves[c] is { } curve ? curve.Evaluate(frame) : owner.Statics[c];
            }
            world = Nodes[i].Local(values) * world;
        }
        return world;
    }

    private CompiledNode[] Order(Shot shot)
    {
        var place = new Dictionary<string, int>(shot.Nodes.Length);
        var byId = shot.Nodes.ToDictionary(n => n.Id);
        var order = new List<CompiledNode>(shot.Nodes.Length);
        var path = new Stack<Node>();
        foreach (var node in shot.Nodes)
        {
            for (var at = node; at is not null && !place.ContainsKey(at.Id);)
            {
                path.Push(at);
                at = at.Parent is not null && byId.TryGetValue(at.Parent, out var parent) ? parent : null;
            }
            while (path.TryPop(out var next))
            {
                var parent = next.Parent is not null && place.TryGetValue(next.Parent, out var p) ? p : -1;
                var owner = Owners[_ownerIndex[next.Id]];
                var moves = owner.IsAnimated(0, 12) || (parent >= 0 && order[parent].Moves);
                place[next.Id] = order.Count;
                order.Add(new CompiledNode(next, parent, owner.First, moves, owner.IsAnimated(12, 1) || (parent >= 0 && order[parent].Blinks)));
            }
        }
        return [.. order];
    }

    /// <summary>The channels of one owner, side by side.</summary>
    internal sealed record Owner
    {
        public Owner(string id, object? source, ImmutableArray<ChannelSpec> specs,
            ImmutableSortedDictionary<string, Channel>? channels)
        {
            (Id, Source, Specs) = (id, source, specs);
            Statics = new double[specs.Length];
            Curves = new Curve?[specs.Length];
            var animated = new List<int>();
            for (var c = 0; c < specs.Length; c++)
            {
                Channel? set = null;
                channels?.TryGetValue(specs[c].Path, out set);
                Statics[c] = set?.Value ?? specs[c].Default;
                Curves[c] = set?.Curve;
                if (set?.Curve is not null)
                {
                    animated.Add(c);
                }
            }
            Animated = [.. animated];
            Evaluators = [.. animated.Select(c => Curves[c]!.Compiled())];
        }

        public string Id { get; }

        /// <summary>What it was made from: the same reference means the same channels.</summary>
        public object? Source { get; }

        public int First { get; init; }
        public ImmutableArray<ChannelSpec> Specs { get; }
        public double[] Statics { get; }
        public Curve?[] Curves { get; }
        public int[] Animated { get; }
        public CurveEvaluator[] Evaluators { get; }

        public bool IsAnimated(int first, int count) => Animated.Any(c => c >= first && c < first + count);
    }

    /// <summary>A node with its place in the order. Its first thirteen channels are translate, rotate, scale, pivot (x, y, z each) and visible.</summary>
    /// <param name="Moves">Its transform, or that of something above it, is animated.</param>
    /// <param name="Blinks">Its visibility, or that of something above it, is animated.</param>
    internal sealed record CompiledNode(Node Node, int Parent, int FirstChannel, bool Moves, bool Blinks)
    {
        public Affine Local(ReadOnlySpan<double> v)
        {
            var linear = Affine.Rotation(new(v[3], v[4], v[5]), Node.RotationOrder).Scaled(new(v[6], v[7], v[8]));
            var pivot = new Double3(v[9], v[10], v[11]);
            var origin = new Double3(v[0], v[1], v[2]);
            return linear with { Origin = pivot == Double3.Zero ? origin : origin + pivot - linear.Vector(pivot) };
        }
    }
}
