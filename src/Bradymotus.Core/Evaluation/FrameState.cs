using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// One frame of a shot: the values of all channels, where every node stands, and the shapes as they are bent.
/// The stage and the renderer both read this and nothing else. Evaluating again reuses the buffers; nothing is allocated.
/// </summary>
public sealed class FrameState
{
    private readonly Dictionary<int, double> _overrides = [];
    private readonly MeshState?[] _meshes;
    private bool _placed;

    public FrameState(CompiledShot compiled, FrameState? earlier = null)
    {
        Compiled = compiled;
        Values = new double[compiled.ChannelCount];
        World = new Affine[compiled.NodeCount];
        Visible = new bool[compiled.NodeCount];
        _meshes = new MeshState?[compiled.NodeCount];
        for (var i = 0; i < _meshes.Length; i++)
        {
            if (compiled.Nodes[i].Node is MeshNode mesh)
            {
                var old = earlier is not null && earlier.Compiled.IndexOfNode(mesh.Id) is >= 0 and var j ? earlier._meshes[j] : null;
                _meshes[i] = old is not null && old.Fits(mesh) ? old : new MeshState(mesh, old);
            }
        }
    }

    public CompiledShot Compiled { get; }

    public double Frame { get; private set; } = double.NaN;

    /// <summary>The values of all channels, by channel index.</summary>
    public double[] Values { get; }

    /// <summary>From each node's own space to the world, in the order of evaluation.</summary>
    public Affine[] World { get; }

    /// <summary>Whether each node is seen: it and everything above it are visible.</summary>
    public bool[] Visible { get; }

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
        _placed = false;
    }

    public void ClearOverrides()
    {
        if (_overrides.Count > 0)
        {
            _overrides.Clear();
            _placed = false;
        }
    }

    /// <summary>Evaluates one frame, which may be fractional.</summary>
    public void Evaluate(double frame)
    {
        Frame = frame;
        foreach (var owner in Compiled.Owners)
        {
            var values = Values.AsSpan(owner.First, owner.Specs.Length);
            if (!_placed)
            {
                owner.Statics.CopyTo(values);
            }
            for (var i = 0; i < owner.Animated.Length; i++)
            {
                values[owner.Animated[i]] = owner.Evaluators[i].Evaluate(frame);
            }
        }
        foreach (var (channel, value) in _overrides)
        {
            Values[channel] = value;
        }
        Place(all: !_placed || _overrides.Count > 0);
        Bend();
        _placed = true;
    }

    private void Place(bool all)
    {
        var nodes = Compiled.Nodes;
        for (var i = 0; i < nodes.Length; i++)
        {
            var node = nodes[i];
            if (all || node.Moves)
            {
                var local = node.Local(Values.AsSpan(node.FirstChannel, 12));
                World[i] = node.Parent >= 0 ? World[node.Parent] * local : local;
            }
            if (all || node.Blinks)
            {
                Visible[i] = Values[node.FirstChannel + 12] >= 0.5 && (node.Parent < 0 || Visible[node.Parent]);
            }
        }
    }

    private void Bend()
    {
        for (var i = 0; i < _meshes.Length; i++)
        {
            if (_meshes[i] is { HasDeformers: true } mesh && Visible[i])
            {
                var specs = mesh.ChannelCount;
                mesh.Update(Values.AsSpan(Compiled.Nodes[i].FirstChannel + 13, specs));
            }
        }
    }
}

/// <summary>The shape of one node on one frame.</summary>
public sealed class MeshState
{
    private readonly MeshNode _node;
    private readonly double[] _values;
    private readonly float[]? _positions, _normals;
    private readonly (float Low, float High) _height;

    internal MeshState(MeshNode node, MeshState? earlier)
    {
        _node = node;
        Rest = CompiledShot.MeshOf(node.Shape);
        ChannelCount = node.Deformers.Sum(d => d.Channels.Length);
        _values = new double[ChannelCount];
        Version = (earlier?.Version ?? 0) + 1;
        if (HasDeformers)
        {
            _positions = new float[Rest.Positions.Length];
            _normals = new float[Rest.Normals.Length];
            var (min, max) = Rest.Bounds();
            _height = ((float)min.Y, (float)max.Y);
        }
    }

    /// <summary>The shape without its deformers.</summary>
    public Mesh Rest { get; }

    /// <summary>Whether the deformers make a difference on this frame.</summary>
    public bool IsBent { get; private set; }

    public bool HasDeformers => !_node.Deformers.IsEmpty;

    /// <summary>Rises whenever the shape changes, so that what was made from it is made again only then.</summary>
    public int Version { get; private set; }

    /// <summary>x, y, z for each vertex, in the node's own space.</summary>
    public float[] Positions => IsBent ? _positions! : Rest.Positions;

    /// <summary>x, y, z for each vertex, length 1.</summary>
    public float[] Normals => IsBent ? _normals! : Rest.Normals;

    /// <summary>Three a triangle.</summary>
    public int[] Indices => Rest.Indices;

    internal int ChannelCount { get; }

    internal bool Fits(MeshNode node) => ReferenceEquals(node.Shape, _node.Shape) && node.Deformers == _node.Deformers;

    internal void Update(ReadOnlySpan<double> values)
    {
        if (IsBent && values.SequenceEqual(_values))
        {
            return;
        }
        var idle = true;
        for (int d = 0, c = 0; d < _node.Deformers.Length; c += _node.Deformers[d].Channels.Length, d++)
        {
            idle &= _node.Deformers[d].IsIdle(values.Slice(c, _node.Deformers[d].Channels.Length));
        }
        if (idle)
        {
            if (IsBent)
            {
                IsBent = false;
                Version++;
            }
            return;
        }
        values.CopyTo(_values);
        Rest.Positions.CopyTo(_positions.AsSpan());
        Rest.Normals.CopyTo(_normals.AsSpan());
        for (int d = 0, c = 0; d < _node.Deformers.Length; d++)
        {
            var deformer = _node.Deformers[d];
            var own = values.Slice(c, deformer.Channels.Length);
            if (!deformer.IsIdle(own))
            {
                deformer.Apply(_positions, _normals, own, _height);
            }
            c += deformer.Channels.Length;
        }
        IsBent = true;
        Version++;
    }
}
