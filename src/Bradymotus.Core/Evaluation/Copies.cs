using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>Something that is drawn once more: by an instance, or by a repeater.</summary>
/// <param name="Owner">The instance or the repeater that draws it, in the order of evaluation.</param>
/// <param name="Node">What is drawn, in the order of evaluation of <paramref name="State"/>.</param>
/// <param name="Source">The same in the order of evaluation of the shot.</param>
/// <param name="State">The frame that it is drawn as it is on: the shown one, or one shifted in time.</param>
/// <param name="World">From its own space to the world.</param>
/// <param name="Visible">It is seen in the stage.</param>
/// <param name="Rendered">It is seen in renders.</param>
public readonly record struct Copy(int Owner, int Node, int Source, FrameState State, Affine World, bool Visible, bool Rendered);

/// <summary>All that is drawn once more on a frame. Filled again it allocates nothing, but for what is shifted in time when the shot is another.</summary>
internal sealed class Copies(FrameState state, Geometry.ShotAssets? assets)
{
    /// <summary>The most of them: repeaters within repeaters grow fast.</summary>
    internal const int Most = 100_000;

    private const int MostDepth = 16;

    private readonly List<Copy> _list = [];
    private readonly Dictionary<string, Shifted> _shifted = [];
    private CompiledShot? _compiled;
    private int[] _owners = [];
    // For each depth: what of the subtree is seen in the stage, and in renders.
    private readonly List<(bool[] Seen, bool[] Shown)> _within = [];

    /// <summary>The copies of the evaluated frame.</summary>
    internal List<Copy> List => _list;

    /// <summary>The shot has something that is drawn once more.</summary>
    internal bool Any => _owners.Length > 0;

    /// <summary>Something of it is shifted in time: it is another on every frame.</summary>
    internal bool AreShifted { get; private set; }

    /// <summary>Takes over another state of the shot.</summary>
    internal void Show(CompiledShot compiled)
    {
        if (ReferenceEquals(compiled, _compiled))
        {
            return;
        }
        var isSame = _compiled is not null && compiled.HasLayoutOf(_compiled);
        _compiled = compiled;
        if (!isSame)
        {
            _owners = [.. Enumerable.Range(0, compiled.NodeCount).Where(i => compiled.NodeAt(i) is InstanceNode or RepeatNode)];
        }
        foreach (var shifted in _shifted.Values)
        {
            shifted.IsOld = true;
        }
    }

    internal void Fill()
    {
        _list.Clear();
        AreShifted = false;
        foreach (var i in _owners)
        {
            var (visible, rendered) = (state.Visible[i], state.Rendered[i]);
            if (visible || rendered)
            {
                Add(state, i, i, state.World[i], visible, rendered, 0);
            }
        }
    }

    /// <summary>What one instance or repeater draws.</summary>
    /// <param name="frame">The state that it is evaluated in.</param>
    /// <param name="node">The instance or repeater in that state.</param>
    /// <param name="owner">What a hand that picks a copy takes.</param>
    /// <param name="world">Where it stands.</param>
    private void Add(FrameState frame, int node, int owner, in Affine world, bool visible, bool rendered, int depth)
    {
        if (depth > MostDepth)
        {
            return;
        }
        switch (frame.Compiled.NodeAt(node))
        {
            case InstanceNode { Of: var of }:
                var (source, from) = frame.Compiled.IndexOfNode(of) is >= 0 and var own ? (frame, own) : (state, state.Compiled.IndexOfNode(of));
                if (from >= 0 && source.World[from].TryInvert(out var toSource))
                {
                    Range(source, from, source.Compiled.Nodes[from].End, from, owner, world * toSource, visible, rendered, depth);
                }
                break;
            case RepeatNode repeat:
                Repeat(frame, node, repeat, owner, world, visible, rendered, depth);
                break;
        }
    }

    private void Repeat(FrameState frame, int node, RepeatNode repeat, int owner, in Affine world, bool visible, bool rendered, int depth)
    {
        var compiled = frame.Compiled.Nodes[node];
        var v = frame.Values.AsSpan(compiled.FirstChannel + compiled.PlaceChannels);
        var count = (int)Math.Round(Math.Clamp(v[0], 1, RepeatNode.MostCopies), MidpointRounding.AwayFromZero);
        Affine step;
        if (repeat.Step is { } other && frame.Compiled.IndexOfNode(other) is >= 0 and var at && frame.World[node].TryInvert(out var toOwn))
        {
            step = toOwn * frame.World[at];
        }
        else
        {
            step = Affine.Rotation(new(v[5], v[6], v[7]), RotationOrder.Xyz).Scaled(new(v[8], v[9], v[10])) with { Origin = new(v[2], v[3], v[4]) };
        }
        if (!frame.World[node].TryInvert(out var back))
        {
            return;
        }
        var (shift, place, end) = (v[1], world, compiled.End);
        var shifted = shift != 0 && ReferenceEquals(frame, state) ? ShiftedOf(repeat) : null;
        for (var k = 1; k < count && _list.Count < Most; k++)
        {
            place *= step;
            if (!place.IsWithin(1e12))
            {
                return;
            }
            if (shifted is not null)
            {
                AreShifted = true;
                var then = shifted.At(k, state.Frame - k * shift);
                Range(then, 0, then.Compiled.NodeCount, -1, owner, place, visible, rendered, depth);
            }
            else
            {
                Range(frame, node + 1, end, -1, owner, place * back, visible, rendered, depth);
            }
        }
    }

    /// <summary>The nodes of a subtree. What hides a node above the subtree does not hide the copy; what hides one within it does.</summary>
    /// <param name="top">The node whose own visibility does not count, or −1.</param>
    /// <param name="map">From the world of the state to where the copy stands.</param>
    private void Range(FrameState frame, int first, int end, int top, int owner, in Affine map, bool visible, bool rendered, int depth)
    {
        var isMain = ReferenceEquals(frame, state);
        var (seen, shown) = Within(depth, end);
        for (var i = first; i < end && _list.Count < Most; i++)
        {
            var compiled = frame.Compiled.Nodes[i];
            var v = frame.Values.AsSpan(compiled.FirstChannel + compiled.Visible, 3);
            var isInside = compiled.Parent >= first;
            var isOn = i == top || v[0] >= 0.5;
            seen[i] = isOn && (i == top || v[1] >= 0.5) && (!isInside || seen[compiled.Parent]);
            shown[i] = isOn && (i == top || v[2] >= 0.5) && (!isInside || shown[compiled.Parent]);
            var (isSeen, isShown) = (visible && seen[i], rendered && shown[i]);
            if (!isSeen && !isShown)
            {
                continue;
            }
            var node = frame.Compiled.NodeAt(i);
            switch (node)
            {
                case MeshNode or LampNode:
                    var world = map * frame.World[i];
                    if (world.IsWithin(1e15))
                    {
                        _list.Add(new(owner, i, isMain ? i : state.Compiled.IndexOfNode(node.Id), frame, world, isSeen, isShown));
                    }
                    break;
                case InstanceNode or RepeatNode:
                    Add(frame, i, owner, map * frame.World[i], isSeen, isShown, depth + 1);
                    break;
            }
        }
    }

    private (bool[] Seen, bool[] Shown) Within(int depth, int nodes)
    {
        while (_within.Count <= depth)
        {
            _within.Add(([], []));
        }
        if (_within[depth].Seen.Length < nodes)
        {
            _within[depth] = (new bool[nodes], new bool[nodes]);
        }
        return _within[depth];
    }

    /// <summary>What hangs below a repeater as it is on other frames; null where it hangs on something outside, as a skin does on its joints.</summary>
    private Shifted? ShiftedOf(RepeatNode repeat)
    {
        if (!_shifted.TryGetValue(repeat.Id, out var shifted))
        {
            _shifted.Add(repeat.Id, shifted = new(assets));
        }
        if (shifted.IsOld)
        {
            shifted.Show(state.Compiled.Shot, repeat.Id);
        }
        return shifted.CanShift ? shifted : null;
    }

    private sealed class Shifted(Geometry.ShotAssets? assets)
    {
        private readonly List<FrameState> _states = [];
        private Shot? _below;
        private CompiledShot? _compiled;

        internal bool IsOld { get; set; } = true;

        internal bool CanShift { get; private set; }

        internal void Show(Shot shot, string repeat)
        {
            IsOld = false;
            var ids = shot.Descendants([repeat]);
            ids.Remove(repeat);
            // What follows a node outside brings the channels of that along.
            var nodes = shot.Nodes.Where(n => ids.Contains(n.Id))
                .Select(n => n.Follows is null || ids.Contains(n.Follows) ? n : n with { Channels = shot.ChannelsWithFollowed(n), Follows = null })
                .Select(n => n.Parent == repeat ? n with { Parent = null } : n).ToList();
            CanShift = nodes.OfType<MeshNode>().SelectMany(m => m.Deformers.OfType<Shaping.SkinDeformer>()).All(s => s.Joints.All(ids.Contains));
            if (_below is not null && _below.Nodes.Length == nodes.Count && _below.Nodes.Zip(nodes).All(p => ReferenceEquals(p.First, p.Second) || p.First.Equals(p.Second)))
            {
                return;
            }
            _below = shot with { Nodes = [.. nodes], Materials = [], World = null, Camera = null };
            _compiled = new(_below, _compiled);
            foreach (var state in _states)
            {
                state.Show(_compiled);
            }
        }

        internal FrameState At(int copy, double frame)
        {
            while (_states.Count < copy)
            {
                _states.Add(new(_compiled!, assets));
            }
            var state = _states[copy - 1];
            state.ReloadAssets();
            state.Evaluate(frame);
            return state;
        }
    }
}
