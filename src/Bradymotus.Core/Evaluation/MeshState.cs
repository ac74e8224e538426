using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Evaluation;

/// <summary>The shape of one node on one frame.</summary>
public sealed class MeshState
{
    private readonly MeshNode _node;
    // How many channels each deformer has: asked on every frame.
    private readonly int[] _counts;
    // Of all its channels: those of its shape first.
    private readonly double[] _values, _held;
    private readonly int _shapeCount;
    private float[]? _positions, _normals;
    // Holds the shape while its numbers are animated and its triangles are those of Rest.
    private MeshBuilder? _live;
    private bool _isDeformed;
    private int _version;

    internal MeshState(MeshNode node, ShotAssets? assets)
    {
        _node = node;
        Rest = MeshCache.Of(node.Shape, assets);
        _counts = [.. node.Deformers.Select(d => d.Channels.Length)];
        _shapeCount = node.Shape.Channels.Length;
        ChannelCount = _shapeCount + _counts.Sum();
        _values = new double[ChannelCount];
        _held = new double[_shapeCount];
        node.Shape.Numbers.CopyTo(_values);
        Skin = node.Deformers.OfType<SkinDeformer>().FirstOrDefault();
        JointMaps = new float[16 * (Skin?.Joints.Length ?? 0)];
    }

    /// <summary>Its triangles, and where its vertices are while nothing bends it and none of its numbers is animated.</summary>
    public Mesh Rest { get; private set; }

    /// <summary>Whether its vertices are elsewhere than those of <see cref="Rest"/> on this frame: deformers or animated numbers make a difference.</summary>
    public bool IsBent => _isDeformed || IsHeldLive;

    /// <summary>Numbers of its shape are animated: it may be other triangles on another frame.</summary>
    public bool IsRebuilt { get; private set; }

    /// <summary>Whether anything bends it.</summary>
    public bool HasDeformers => !_node.Deformers.IsEmpty;

    /// <summary>
    /// Another number whenever the shape is another, so that what was made from it is made again only then. Shapes at rest that are equal
    /// have the same, wherever they are; a bent one has one of its own. 0 while its mesh has not come.
    /// </summary>
    public int Version => IsMissing ? 0 : IsBent ? _version : Rest.Id;

    /// <summary>x, y, z for each vertex, in the node's own space.</summary>
    public float[] Positions => _isDeformed ? _positions! : BasePositions;

    /// <summary>x, y, z for each vertex, length 1.</summary>
    public float[] Normals => _isDeformed ? _normals! : BaseNormals;

    /// <summary>x, y, z for each vertex before anything bends it: where maps are laid on.</summary>
    public float[] Undeformed => BasePositions;

    /// <summary>u, v for each vertex; null where there are none.</summary>
    public float[]? Coordinates => IsHeldLive ? _live!.TexCoords : Rest.TexCoords;

    /// <summary>Three a triangle.</summary>
    public int[] Indices => Rest.Indices;

    /// <summary>Of its shape and of its deformers.</summary>
    internal int ChannelCount { get; }

    /// <summary>The skin among its deformers, if it has one.</summary>
    internal SkinDeformer? Skin { get; }

    /// <summary>For the skin: from the bind pose to the node's own space, sixteen numbers a joint. Whoever changes them says so to <see cref="Update"/>.</summary>
    internal float[] JointMaps { get; }

    /// <summary>The pass of the frame in which <see cref="JointMaps"/> were laid.</summary>
    internal int JointPass { get; set; }

    /// <summary>The mesh that it is of is not there (yet).</summary>
    internal bool IsMissing => _node.Shape is AssetShape && ReferenceEquals(Rest, Mesh.Empty);

    private bool IsHeldLive => _live is { VertexCount: > 0 };

    private float[] BasePositions => IsHeldLive ? _live!.Positions : Rest.Positions;

    private float[] BaseNormals => IsHeldLive ? _live!.Normals : Rest.Normals;

    internal bool Fits(MeshNode node) => ReferenceEquals(node.Shape, _node.Shape) && node.Deformers == _node.Deformers;

    /// <summary>Builds and bends the shape anew where the values are others than before.</summary>
    /// <param name="values">Of the channels of its shape and of its deformers.</param>
    /// <param name="isRebuilt">Its shape has numbers with curves: it will be another on the next frame, and is not shared with equal ones.</param>
    /// <param name="areJointsMoved">The joints of its skin have moved, whatever the values are.</param>
    /// <returns>Whether it is another now.</returns>
    internal bool Update(ReadOnlySpan<double> values, bool isRebuilt, bool areJointsMoved = false)
    {
        var shape = values[.._shapeCount];
        var bends = values[_shapeCount..];
        var isBuilt = _shapeCount > 0 && (isRebuilt != IsRebuilt || !shape.SequenceEqual(_values.AsSpan(0, _shapeCount)));
        if (isBuilt)
        {
            IsRebuilt = isRebuilt;
            Build(shape);
        }
        if (!isBuilt && _isDeformed && !areJointsMoved && bends.SequenceEqual(_values.AsSpan(_shapeCount)))
        {
            return false;
        }
        var idle = true;
        for (int d = 0, c = 0; d < _counts.Length; c += _counts[d], d++)
        {
            idle &= _node.Deformers[d].IsIdle(bends.Slice(c, _counts[d]));
        }
        if (idle)
        {
            if (!_isDeformed && !isBuilt)
            {
                return false;
            }
            _isDeformed = false;
            _version = Mesh.NextId();
            return true;
        }
        values.CopyTo(_values);
        if (_positions?.Length != Rest.Positions.Length)
        {
            (_positions, _normals) = (new float[Rest.Positions.Length], new float[Rest.Normals.Length]);
        }
        BasePositions.CopyTo(_positions.AsSpan());
        BaseNormals.CopyTo(_normals.AsSpan());
        for (int d = 0, c = 0; d < _counts.Length; c += _counts[d], d++)
        {
            var deformer = _node.Deformers[d];
            var own = bends.Slice(c, _counts[d]);
            if (!deformer.IsIdle(own))
            {
                deformer.Apply(new(Rest, _positions, _normals, own, JointMaps));
            }
        }
        _isDeformed = true;
        _version = Mesh.NextId();
        return true;
    }

    /// <summary>Takes down how it is bent; null where it has to be built again.</summary>
    internal KeptShape? Keep(KeptShape? room)
    {
        if (IsRebuilt || IsMissing)
        {
            return null;
        }
        room ??= new();
        (room.IsDeformed, room.Version, room.Rest) = (_isDeformed, _version, Rest);
        KeptFrame.Put(ref room.Values, _values);
        if (_isDeformed)
        {
            KeptFrame.Put(ref room.Positions, _positions!);
            KeptFrame.Put(ref room.Normals, _normals!);
        }
        return room;
    }

    /// <summary>Takes up how it was bent.</summary>
    internal void Restore(KeptShape kept)
    {
        if (kept.IsDeformed && !(_isDeformed && _version == kept.Version))
        {
            if (_positions?.Length != kept.Positions.Length)
            {
                (_positions, _normals) = (new float[kept.Positions.Length], new float[kept.Normals.Length]);
            }
            kept.Positions.CopyTo(_positions, 0);
            kept.Normals.CopyTo(_normals!, 0);
        }
        (_isDeformed, _version, Rest, IsRebuilt, _live) = (kept.IsDeformed, kept.Version, kept.Rest, false, null);
        kept.Values.CopyTo(_values, 0);
    }

    private void Build(ReadOnlySpan<double> values)
    {
        values.CopyTo(_values);
        if (!IsRebuilt)
        {
            (_live, Rest) = (null, MeshCache.Of(_node.Shape, values, null));
            return;
        }
        _live ??= new();
        _node.Shape.Hold(values, _held);
        _node.Shape.Build(_held, _live);
        // Other triangles than before are another mesh; as long as they are the same, only their vertices move.
        if (_live.VertexCount != Rest.VertexCount || !_live.Indices.SequenceEqual(Rest.Indices))
        {
            Rest = _live.ToMesh();
        }
    }
}
