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
    private readonly double[] _values;
    private readonly float[]? _positions, _normals;
    private int _version;

    internal MeshState(MeshNode node, MeshAssets? assets)
    {
        _node = node;
        Rest = MeshCache.Of(node.Shape, assets);
        _counts = [.. node.Deformers.Select(d => d.Channels.Length)];
        ChannelCount = _counts.Sum();
        _values = new double[ChannelCount];
        Skin = node.Deformers.OfType<SkinDeformer>().FirstOrDefault();
        JointMaps = new float[16 * (Skin?.Joints.Length ?? 0)];
        if (HasDeformers)
        {
            _positions = new float[Rest.Positions.Length];
            _normals = new float[Rest.Normals.Length];
        }
    }

    /// <summary>The shape without its deformers.</summary>
    public Mesh Rest { get; }

    /// <summary>Whether the deformers make a difference on this frame.</summary>
    public bool IsBent { get; private set; }

    public bool HasDeformers => !_node.Deformers.IsEmpty;

    /// <summary>
    /// Another number whenever the shape is another, so that what was made from it is made again only then. Shapes at rest that are equal
    /// have the same, wherever they are; a bent one has one of its own. 0 while its mesh has not come.
    /// </summary>
    public int Version => IsMissing ? 0 : IsBent ? _version : Rest.Id;

    /// <summary>x, y, z for each vertex, in the node's own space.</summary>
    public float[] Positions => IsBent ? _positions! : Rest.Positions;

    /// <summary>x, y, z for each vertex, length 1.</summary>
    public float[] Normals => IsBent ? _normals! : Rest.Normals;

    /// <summary>Three a triangle.</summary>
    public int[] Indices => Rest.Indices;

    internal int ChannelCount { get; }

    /// <summary>The skin among its deformers, if it has one.</summary>
    internal SkinDeformer? Skin { get; }

    /// <summary>For the skin: from the bind pose to the node's own space, sixteen numbers a joint. Whoever changes them says so to <see cref="Update"/>.</summary>
    internal float[] JointMaps { get; }

    /// <summary>The pass of the frame in which <see cref="JointMaps"/> were laid.</summary>
    internal int JointPass { get; set; }

    /// <summary>The mesh that it is of is not there (yet).</summary>
    internal bool IsMissing => _node.Shape is AssetShape && ReferenceEquals(Rest, Mesh.Empty);

    internal bool Fits(MeshNode node) => ReferenceEquals(node.Shape, _node.Shape) && node.Deformers == _node.Deformers;

    /// <summary>Bends the shape anew where the values are others than before.</summary>
    /// <param name="values">Of the channels of its deformers.</param>
    /// <param name="areJointsMoved">The joints of its skin have moved, whatever the values are.</param>
    /// <returns>Whether it is another now.</returns>
    internal bool Update(ReadOnlySpan<double> values, bool areJointsMoved = false)
    {
        if (IsBent && !areJointsMoved && values.SequenceEqual(_values))
        {
            return false;
        }
        var idle = true;
        for (int d = 0, c = 0; d < _counts.Length; c += _counts[d], d++)
        {
            idle &= _node.Deformers[d].IsIdle(values.Slice(c, _counts[d]));
        }
        if (idle)
        {
            if (!IsBent)
            {
                return false;
            }
            IsBent = false;
            return true;
        }
        values.CopyTo(_values);
        Rest.Positions.CopyTo(_positions.AsSpan());
        Rest.Normals.CopyTo(_normals.AsSpan());
        for (int d = 0, c = 0; d < _counts.Length; c += _counts[d], d++)
        {
            var deformer = _node.Deformers[d];
            var own = values.Slice(c, _counts[d]);
            if (!deformer.IsIdle(own))
            {
                deformer.Apply(new(Rest, _positions, _normals, own, JointMaps));
            }
        }
        IsBent = true;
        _version = Mesh.NextId();
        return true;
    }
}
