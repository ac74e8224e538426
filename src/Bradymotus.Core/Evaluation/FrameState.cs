using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// One frame of a shot: the values of all channels, where every node stands, and the shapes as they are bent.
/// The stage and the renderer both read this and nothing else. Evaluating again reuses the buffers, works out only what depends on
/// what has changed, and allocates nothing.
/// </summary>
/// <remarks>Longer than most: the order in which one thing follows from another is its subject, and all of it works on the same buffers.</remarks>
public sealed class FrameState
{
    // What is larger is nowhere, and no graphics card could hold it.
    private const double MostWorld = 1e15;

    private readonly Dictionary<int, double> _overrides = [];
    private readonly List<int> _dirty = [];
    private readonly ShotAssets? _assets;
    private readonly Copies _copies;
    private MeshState?[] _meshes = [];
    private int[] _bent = [];
    // For each of these: the places of the joints of its skin.
    private int[][] _joints = [];
    private readonly List<int> _moved = [];
    // Nodes without deformers whose shape has other numbers.
    private readonly List<int> _reshaped = [];
    // The nodes that can be others from frame to frame; null until somebody asks.
    private int[]? _inMotion;
    // The values of one owner, before they are compared with those of the frame before.
    private double[] _scratch = [];
    private bool _isFresh, _areRepeatsChanged;

    /// <param name="compiled">The shot.</param>
    /// <param name="assets">The meshes that it refers to.</param>
    public FrameState(CompiledShot compiled, ShotAssets? assets = null)
    {
        _assets = assets;
        _copies = new(this, assets);
        Compiled = compiled;
        Build(null);
    }

    /// <summary>The shot that is evaluated.</summary>
    public CompiledShot Compiled { get; private set; }

    /// <summary>Keeps whole frames, so that they are not worked out again; null keeps none.</summary>
    public FrameStore? Store { get; init; }

    /// <summary>What is kept of the evaluated frame, if anything is.</summary>
    internal KeptFrame? Kept { get; private set; }

    /// <summary>The frame that was evaluated last; not a number before the first.</summary>
    public double Frame { get; private set; } = double.NaN;

    /// <summary>The values of all channels, by channel index.</summary>
    public double[] Values { get; private set; } = [];

    /// <summary>From each node's own space to the world, in the order of evaluation.</summary>
    public Affine[] World { get; private set; } = [];

    /// <summary>Whether each node is seen in the stage: it and everything above it are visible, and it stands somewhere.</summary>
    public bool[] Visible { get; private set; } = [];

    /// <summary>Whether each node is seen in renders.</summary>
    public bool[] Rendered { get; private set; } = [];

    /// <summary>What instances and repeaters draw once more.</summary>
    public IReadOnlyList<Copy> Copies => _copies.List;

    /// <summary>The pass in which <see cref="Copies"/> last became others.</summary>
    public int CopiesChanged { get; private set; }

    /// <summary>Counts evaluations.</summary>
    public int Pass { get; private set; }

    /// <summary>For each node, the pass in which its place, its visibility or its shape last became another.</summary>
    public int[] Changed { get; private set; } = [];

    /// <summary>For each node, the pass in which its place or visibility last became another.</summary>
    private int[] Moved { get; set; } = [];

    /// <summary>The nodes that became others in the latest pass.</summary>
    internal List<int> LastChanged { get; } = [];

    /// <summary>The shape of a node as bent on this frame, or null when it is not a mesh.</summary>
    public MeshState? Mesh(int node) => _meshes[node];

    /// <summary>From a node's own space to its parent's, with its offset.</summary>
    public Affine Local(int node) => Compiled.Nodes[node].Local(Values.AsSpan(Compiled.Nodes[node].FirstChannel, Compiled.Nodes[node].PlaceChannels));

    /// <summary>The value of a channel on this frame.</summary>
    /// <exception cref="Refusal">There is no such channel.</exception>
    public double Value(ChannelAddress address) => Compiled.IndexOfChannel(address) is >= 0 and var i
        ? Values[i]
        : throw new Refusal($"There is no channel {address}.");

    /// <summary>Values that have been set by hand and are not keyed yet; they take the place of the curve until they are cleared.</summary>
    public IReadOnlyDictionary<int, double> Overrides => _overrides;

    /// <summary>Has a channel show a value in the place of its curve, until <see cref="ClearOverrides"/>; seen with the next evaluation.</summary>
    public void Override(int channel, double value)
    {
        _overrides[channel] = value;
        _dirty.Add(Compiled.OwnerOf(channel));
    }

    /// <summary>Has all channels show their curves again, with the next evaluation.</summary>
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
        Store?.Show(Compiled.Shot, compiled.Shot);
        _inMotion = null;
        var before = Compiled;
        Compiled = compiled;
        if (!compiled.HasLayoutOf(before))
        {
            _dirty.Clear();
            _moved.Clear();
            _reshaped.Clear();
            Store?.Clear();
            Build(before);
            return;
        }
        var areBent = false;
        foreach (var owner in compiled.ChangedSince(before) ?? [.. Enumerable.Range(0, compiled.Owners.Length)])
        {
            _dirty.Add(owner);
            if (compiled.NodeOfOwner(owner) is >= 0 and var i && compiled.NodeAt(i) is MeshNode mesh && !_meshes[i]!.Fits(mesh))
            {
                areBent |= !mesh.Deformers.IsEmpty || _meshes[i]!.HasDeformers;
                _meshes[i] = new MeshState(mesh, _assets);
            }
        }
        _copies.Show(compiled);
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
        Kept = _isFresh && _overrides.Count == 0 ? Store?.Find(frame) : null;
        if (Kept is not null)
        {
            Restore(Kept, frame);
            return;
        }
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
        var isOther = !frame.Equals(Frame);
        Frame = frame;
        foreach (var (channel, value) in _overrides)
        {
            var owner = Compiled.OwnerOf(channel);
            Put(owner, channel - Compiled.FirstChannel(owner), value);
        }
        Place();
        Bend();
        Copy(isOther);
        if (Store is not null && _overrides.Count == 0)
        {
            Keep();
        }
    }

    private void Copy(bool isOther)
    {
        if ((_copies.Any && (LastChanged.Count > 0 || _areRepeatsChanged || (_copies.AreShifted && isOther))) || (!_copies.Any && _copies.List.Count > 0))
        {
            _copies.Fill();
            CopiesChanged = Pass;
        }
        _areRepeatsChanged = false;
    }

    /// <summary>Takes down the evaluated frame, where there is room.</summary>
    private void Keep()
    {
        var bytes = 8L * Values.Length + (96 + 2 + 64 + 5) * (long)World.Length + _bent.Sum(i => 24L * _meshes[i]!.Rest.VertexCount);
        Kept = Store!.Add(Frame, bytes);
        if (Kept is null)
        {
            return;
        }
        KeptFrame.Put(ref Kept.Values, Values);
        KeptFrame.Put(ref Kept.World, World);
        KeptFrame.Put(ref Kept.Visible, Visible);
        KeptFrame.Put(ref Kept.Rendered, Rendered);
        Array.Resize(ref Kept.Shapes, _bent.Length);
        for (var b = 0; b < _bent.Length; b++)
        {
            Kept.Shapes[b] = _meshes[_bent[b]]!.Keep(Kept.Shapes[b]);
        }
    }

    /// <summary>Takes up a frame that is kept.</summary>
    private void Restore(KeptFrame kept, double frame)
    {
        var isOther = !frame.Equals(Frame);
        Frame = frame;
        kept.Values.CopyTo(Values, 0);
        kept.World.CopyTo(World, 0);
        kept.Visible.CopyTo(Visible, 0);
        kept.Rendered.CopyTo(Rendered, 0);
        foreach (var owner in _dirty)
        {
            if (Compiled.NodeOfOwner(owner) is >= 0 and var node)
            {
                for (var i = node; i < Compiled.Nodes[node].End; i++)
                {
                    HasChanged(i);
                }
                Reshape(node);
            }
        }
        _dirty.Clear();
        foreach (var i in _inMotion ??= NodesInMotion())
        {
            HasChanged(i);
            // A shape whose numbers move is worked out again: it may be of other triangles.
            if (_meshes[i] is { ChannelCount: > 0, HasDeformers: false })
            {
                _reshaped.Add(i);
            }
            _areRepeatsChanged |= Compiled.NodeAt(i) is RepeatNode;
        }
        foreach (var i in _reshaped)
        {
            Bend(i, false);
        }
        _reshaped.Clear();
        for (var b = 0; b < _bent.Length; b++)
        {
            if (kept.Shapes[b] is { } shape)
            {
                _meshes[_bent[b]]!.Restore(shape);
                HasChanged(_bent[b]);
            }
            else
            {
                Bend(_bent[b], false);
            }
        }
        Copy(isOther);
    }

    /// <summary>The meshes that are not kept with a frame, since their shapes are built anew.</summary>
    internal int[] RebuiltMeshes { get; private set; } = [];

    private void HasChanged(int node)
    {
        Changed[node] = Moved[node] = Pass;
        LastChanged.Add(node);
    }

    private int[] NodesInMotion()
    {
        var all = new SortedSet<int>();
        foreach (var owner in Compiled.Animated)
        {
            if (Compiled.NodeOfOwner(owner) is >= 0 and var node)
            {
                all.UnionWith(Enumerable.Range(node, Compiled.Nodes[node].End - node));
            }
        }
        RebuiltMeshes = [.. all.Where(i => _meshes[i] is { ChannelCount: > 0 } mesh && (!mesh.HasDeformers || Compiled.Owners[Compiled.Nodes[i].Owner].IsShaped))];
        return [.. all];
    }

    private void EvaluateAll(int owner, double frame)
    {
        var compiled = Compiled.Owners[owner];
        var values = Values.AsSpan(Compiled.FirstChannel(owner), compiled.Statics.Length);
        compiled.Evaluate(frame, values);
        if (Compiled.NodeOfOwner(owner) is >= 0 and var node)
        {
            _moved.Add(node);
            Reshape(node);
        }
    }

    private void Reshape(int node)
    {
        _areRepeatsChanged |= Compiled.NodeAt(node) is RepeatNode;
        if (_meshes[node] is { ChannelCount: > 0, HasDeformers: false })
        {
            _reshaped.Add(node);
        }
    }

    private void EvaluateCurves(int owner, double frame)
    {
        var compiled = Compiled.Owners[owner];
        var values = _scratch.AsSpan(0, compiled.Statics.Length);
        compiled.Evaluate(frame, values);
        foreach (var channel in compiled.Animated)
        {
            Put(owner, channel, values[channel]);
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
        if (Compiled.NodeOfOwner(owner) is >= 0 and var node)
        {
            if (channel < Compiled.Owners[owner].List.PlaceChannels)
            {
                _moved.Add(node);
            }
            else
            {
                Reshape(node);
            }
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
                Changed[i] = Moved[i] = Pass;
                LastChanged.Add(i);
                var local = node.Local(Values.AsSpan(node.FirstChannel, node.PlaceChannels));
                World[i] = node.Parent >= 0 ? World[node.Parent] * local : local;
                var visible = Values.AsSpan(node.FirstChannel + node.Visible, 3);
                var isSomewhere = visible[0] >= 0.5 && World[i].IsWithin(MostWorld);
                Visible[i] = isSomewhere && visible[1] >= 0.5 && (node.Parent < 0 || Visible[node.Parent]);
                Rendered[i] = isSomewhere && visible[2] >= 0.5 && (node.Parent < 0 || Rendered[node.Parent]);
            }
            done = Math.Max(done, nodes[first].End);
        }
        _moved.Clear();
    }

    /// <summary>Takes up meshes that have come since. What they are of is drawn from the next evaluation on.</summary>
    public void ReloadAssets()
    {
        var isTaken = false;
        for (var i = 0; i < _meshes.Length; i++)
        {
            if (_meshes[i] is { IsMissing: true } && Compiled.NodeAt(i) is MeshNode { Shape: AssetShape shape } mesh && _assets?.Find(shape.Asset) is not null)
            {
                _meshes[i] = new MeshState(mesh, _assets);
                isTaken = true;
            }
        }
        if (isTaken)
        {
            Store?.Clear();
            _isFresh = false;
            FindBent();
        }
    }

    /// <summary>The names of the meshes that are not there.</summary>
    public IEnumerable<string> MissingAssets() =>
        Enumerable.Range(0, _meshes.Length).Where(i => _meshes[i] is { IsMissing: true }).Select(i => ((AssetShape)((MeshNode)Compiled.NodeAt(i)).Shape).Asset).Distinct();

    private void Bend()
    {
        foreach (var i in _reshaped)
        {
            Bend(i, false);
        }
        _reshaped.Clear();
        for (var b = 0; b < _bent.Length; b++)
        {
            var i = _bent[b];
            if (Visible[i] || Rendered[i] || _copies.Any)
            {
                Bend(i, _meshes[i]!.Skin is { } skin && MoveJoints(_meshes[i]!, skin, i, _joints[b]));
            }
        }
    }

    private void Bend(int node, bool areJointsMoved)
    {
        var (compiled, mesh) = (Compiled.Nodes[node], _meshes[node]!);
        if (mesh.Update(Values.AsSpan(compiled.FirstChannel + compiled.PlaceChannels, mesh.ChannelCount), Compiled.Owners[compiled.Owner].IsShaped, areJointsMoved))
        {
            // What follows a node in place does not follow it in shape, so only the buffers are told.
            Changed[node] = Pass;
            LastChanged.Add(node);
        }
    }

    /// <summary>Lays the maps of the joints of a skin anew where one of them, or the object itself, has moved since it was bent last.</summary>
    private bool MoveJoints(MeshState mesh, Shaping.SkinDeformer skin, int node, int[] joints)
    {
        var latest = Moved[node];
        foreach (var joint in joints)
        {
            latest = Math.Max(latest, Moved[joint]);
        }
        if (latest <= mesh.JointPass || !World[node].TryInvert(out var toNode))
        {
            return false;
        }
        mesh.JointPass = Pass;
        for (var j = 0; j < joints.Length; j++)
        {
            var map = toNode * World[joints[j]];
            if (!skin.Binds.IsEmpty)
            {
                map *= skin.Binds[j];
            }
            var m = mesh.JointMaps.AsSpan(16 * j, 16);
            (m[0], m[1], m[2]) = ((float)map.X.X, (float)map.X.Y, (float)map.X.Z);
            (m[4], m[5], m[6]) = ((float)map.Y.X, (float)map.Y.Y, (float)map.Y.Z);
            (m[8], m[9], m[10]) = ((float)map.Z.X, (float)map.Z.Y, (float)map.Z.Z);
            (m[12], m[13], m[14]) = ((float)map.Origin.X, (float)map.Origin.Y, (float)map.Origin.Z);
        }
        return true;
    }

    private void Build(CompiledShot? before)
    {
        var (meshes, count) = (_meshes, Compiled.NodeCount);
        Values = new double[Compiled.ChannelCount];
        _scratch = new double[Compiled.Owners.Max(o => o.Statics.Length)];
        World = new Affine[count];
        Visible = new bool[count];
        Rendered = new bool[count];
        Changed = new int[count];
        Moved = new int[count];
        _meshes = new MeshState?[count];
        _isFresh = false;
        for (var i = 0; i < count; i++)
        {
            if (Compiled.NodeAt(i) is MeshNode mesh)
            {
                var old = before is not null && before.IndexOfNode(mesh.Id) is >= 0 and var j ? meshes[j] : null;
                _meshes[i] = old is not null && old.Fits(mesh) ? old : new MeshState(mesh, _assets);
            }
        }
        _copies.Show(Compiled);
        FindBent();
    }

    private void FindBent()
    {
        _bent = [.. Enumerable.Range(0, _meshes.Length).Where(i => _meshes[i] is { HasDeformers: true })];
        _joints = [.. _bent.Select(i => _meshes[i]!.Skin is { } skin ? skin.Joints.Select(Compiled.IndexOfNode).ToArray() : [])];
    }
}
