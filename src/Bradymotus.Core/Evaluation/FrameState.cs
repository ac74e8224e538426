using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// One frame of a shot: the values of all channels, where every node stands, and the shapes as they are bent.
/// The stage and the renderer both read this and nothing else. Evaluating again reuses the buffers, works out only what depends on
/// what has changed, and allocates nothing.
/// </summary>
public sealed class FrameState
{
    // What is larger is nowhere, and no graphics card could hold it.
    private const double MostWorld = 1e15;

    private readonly Dictionary<int, double> _overrides = [];
    private readonly List<int> _dirty = [];
    private MeshState?[] _meshes = [];
    private int[] _bent = [];
    private readonly List<int> _moved = [];
    private bool _isFresh;

    public FrameState(CompiledShot compiled)
    {
        Compiled = compiled;
        Build(null);
    }

    public CompiledShot Compiled { get; private set; }

    public double Frame { get; private set; } = double.NaN;

    /// <summary>The values of all channels, by channel index.</summary>
    public double[] Values { get; private set; } = [];

    /// <summary>From each node's own space to the world, in the order of evaluation.</summary>
    public Affine[] World { get; private set; } = [];

    /// <summary>Whether each node is seen: it and everything above it are visible, and it stands somewhere.</summary>
    public bool[] Visible { get; private set; } = [];

    /// <summary>Counts evaluations.</summary>
    public int Pass { get; private set; }

    /// <summary>For each node, the pass in which its place, its visibility or its shape last became another.</summary>
    public int[] Changed { get; private set; } = [];

    /// <summary>The nodes that became others in the latest pass.</summary>
    internal List<int> LastChanged { get; } = [];

    /// <summary>The shape of a node as bent on this frame, or null when it is not a mesh.</summary>
    public MeshState? Mesh(int node) => _meshes[node];

    /// <summary>The value of a channel on this frame.</summary>
    /// <exception cref="Refusal">There is no such channel.</exception>
    public double Value(ChannelAddress address) => Compiled.IndexOfChannel(address) is >= 0 and var i
        ? Values[i]
        : throw new Refusal($"There is no channel {address}.");

    /// <summary>Values that have been set by hand and are not keyed yet; they take the place of the curve until they are cleared.</summary>
    public IReadOnlyDictionary<int, double> Overrides => _overrides;

    public void Override(int channel, double value)
    {
        _overrides[channel] = value;
        _dirty.Add(Compiled.OwnerOf(channel));
    }

    public void ClearOverrides()
    {
        foreach (var channel in _overrides.Keys)
        {
            _dirty.Add(Compiled.OwnerOf(channel));
        }
        _overrides.Clear();
    }

    /// <summary>Goes over to another state of the shot. What is the same there is not worked out again. Overrides are cleared.</summary>
    public void Show(CompiledShot compiled)
    {
        if (ReferenceEquals(compiled, Compiled))
        {
            return;
        }
        ClearOverrides();
        var before = Compiled;
        Compiled = compiled;
        if (!compiled.HasLayoutOf(before))
        {
            _dirty.Clear();
            _moved.Clear();
            Build(before);
            return;
        }
        var areBent = false;
        foreach (var owner in compiled.ChangedSince(before) ?? [.. Enumerable.Range(0, compiled.Owners.Length)])
        {
            _dirty.Add(owner);
            if (compiled.NodeOfOwner(owner) is >= 0 and var i && compiled.NodeAt(i) is MeshNode mesh && !_meshes[i]!.Fits(mesh))
            {
                areBent |= _meshes[i]!.HasDeformers == mesh.Deformers.IsEmpty;
                _meshes[i] = new MeshState(mesh);
            }
        }
        if (areBent)
        {
            FindBent();
        }
    }

    /// <summary>Evaluates one frame, which may be fractional.</summary>
    public void Evaluate(double frame)
    {
        Pass++;
        LastChanged.Clear();
        if (!_isFresh)
        {
            for (var i = 0; i < Compiled.Owners.Length; i++)
            {
                EvaluateAll(i, frame);
            }
            _moved.Clear();
            for (var i = 0; i < Compiled.NodeCount; i = Compiled.Nodes[i].End)
            {
                _moved.Add(i);
            }
            _isFresh = true;
        }
        else
        {
            if (!frame.Equals(Frame))
            {
                foreach (var owner in Compiled.Animated)
                {
                    EvaluateCurves(owner, frame);
                }
            }
            foreach (var owner in _dirty)
            {
                EvaluateAll(owner, frame);
            }
        }
        _dirty.Clear();
        Frame = frame;
        foreach (var (channel, value) in _overrides)
        {
            var owner = Compiled.OwnerOf(channel);
            Put(owner, channel - Compiled.FirstChannel(owner), value);
        }
        Place();
        Bend();
    }

    private void EvaluateAll(int owner, double frame)
    {
        var compiled = Compiled.Owners[owner];
        var values = Values.AsSpan(Compiled.FirstChannel(owner), compiled.Statics.Length);
        compiled.Evaluate(frame, values);
        if (Compiled.NodeOfOwner(owner) is >= 0 and var node)
        {
            _moved.Add(node);
        }
    }

    private void EvaluateCurves(int owner, double frame)
    {
        var compiled = Compiled.Owners[owner];
        for (var n = 0; n < compiled.Animated.Length; n++)
        {
            Put(owner, compiled.Animated[n], compiled.Evaluators[n].Evaluate(frame));
        }
    }

    private void Put(int owner, int channel, double value)
    {
        ref var place = ref Values[Compiled.FirstChannel(owner) + channel];
        if (place.Equals(value))
        {
            return;
        }
        place = value;
        if (channel < CompiledNode.PlaceChannels && Compiled.NodeOfOwner(owner) is >= 0 and var node)
        {
            _moved.Add(node);
        }
    }

    /// <summary>Puts the nodes that have moved, and what hangs below them, where they stand now.</summary>
    private void Place()
    {
        var nodes = Compiled.Nodes;
        _moved.Sort();
        var done = 0;
        foreach (var first in _moved)
        {
            // What hangs below a node follows it without a gap, and one that has moved may be below another.
            for (var i = Math.Max(first, done); i < nodes[first].End; i++)
            {
                var node = nodes[i];
                Changed[i] = Pass;
                LastChanged.Add(i);
                var local = node.Local(Values.AsSpan(node.FirstChannel, 12));
                World[i] = node.Parent >= 0 ? World[node.Parent] * local : local;
                Visible[i] = Values[node.FirstChannel + CompiledNode.Visible] >= 0.5 && (node.Parent < 0 || Visible[node.Parent]) && World[i].IsWithin(MostWorld);
            }
            done = Math.Max(done, nodes[first].End);
        }
        _moved.Clear();
    }

    private void Bend()
    {
        foreach (var i in _bent)
        {
            var mesh = _meshes[i]!;
            if (Visible[i] && mesh.Update(Values.AsSpan(Compiled.Nodes[i].FirstChannel + CompiledNode.PlaceChannels, mesh.ChannelCount)))
            {
                // What follows a node in place does not follow it in shape, so only the buffers are told.
                Changed[i] = Pass;
                LastChanged.Add(i);
            }
        }
    }

    private void Build(CompiledShot? before)
    {
        var (meshes, count) = (_meshes, Compiled.NodeCount);
        Values = new double[Compiled.ChannelCount];
        World = new Affine[count];
        Visible = new bool[count];
        Changed = new int[count];
        _meshes = new MeshState?[count];
        _isFresh = false;
        for (var i = 0; i < count; i++)
        {
            if (Compiled.NodeAt(i) is MeshNode mesh)
            {
                var old = before is not null && before.IndexOfNode(mesh.Id) is >= 0 and var j ? meshes[j] : null;
                _meshes[i] = old is not null && old.Fits(mesh) ? old : new MeshState(mesh);
            }
        }
        FindBent();
    }

    private void FindBent() => _bent = [.. Enumerable.Range(0, _meshes.Length).Where(i => _meshes[i] is { HasDeformers: true })];
}
