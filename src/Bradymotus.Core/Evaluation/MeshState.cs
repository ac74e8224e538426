using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>The shape of one node on one frame.</summary>
public sealed class MeshState
{
    private readonly MeshNode _node;
    private readonly double[] _values;
    private readonly float[]? _positions, _normals;
    private readonly (float Low, float High) _rest;
    private int _version;

    internal MeshState(MeshNode node)
    {
        _node = node;
        Rest = MeshCache.Of(node.Shape);
        ChannelCount = node.Deformers.Sum(d => d.Channels.Length);
        _values = new double[ChannelCount];
        if (HasDeformers)
        {
            _positions = new float[Rest.Positions.Length];
            _normals = new float[Rest.Normals.Length];
            _rest = Height(Rest.Positions);
        }
    }

    /// <summary>The shape without its deformers.</summary>
    public Mesh Rest { get; }

    /// <summary>Whether the deformers make a difference on this frame.</summary>
    public bool IsBent { get; private set; }

    public bool HasDeformers => !_node.Deformers.IsEmpty;

    /// <summary>
    /// Another number whenever the shape is another, so that what was made from it is made again only then. Shapes at rest that are equal
    /// have the same, wherever they are; a bent one has one of its own.
    /// </summary>
    public int Version => IsBent ? _version : Rest.Id;

    /// <summary>x, y, z for each vertex, in the node's own space.</summary>
    public float[] Positions => IsBent ? _positions! : Rest.Positions;

    /// <summary>x, y, z for each vertex, length 1.</summary>
    public float[] Normals => IsBent ? _normals! : Rest.Normals;

    /// <summary>Three a triangle.</summary>
    public int[] Indices => Rest.Indices;

    internal int ChannelCount { get; }

    internal bool Fits(MeshNode node) => ReferenceEquals(node.Shape, _node.Shape) && node.Deformers == _node.Deformers;

    /// <summary>Bends the shape anew where the values are others than before.</summary>
    /// <returns>Whether it is another now.</returns>
    internal bool Update(ReadOnlySpan<double> values)
    {
        if (IsBent && values.SequenceEqual(_values))
        {
            return false;
        }
        var idle = true;
        for (int d = 0, c = 0; d < _node.Deformers.Length; c += _node.Deformers[d].Channels.Length, d++)
        {
            idle &= _node.Deformers[d].IsIdle(values.Slice(c, _node.Deformers[d].Channels.Length));
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
        var isFirst = true;
        for (int d = 0, c = 0; d < _node.Deformers.Length; d++)
        {
            var deformer = _node.Deformers[d];
            var own = values.Slice(c, deformer.Channels.Length);
            if (!deformer.IsIdle(own))
            {
                // Each measures what the one before it has made.
                var height = isFirst ? _rest : Height(_positions);
                isFirst = false;
                deformer.Apply(_positions, _normals, own, height);
            }
            c += deformer.Channels.Length;
        }
        IsBent = true;
        _version = Mesh.NextId();
        return true;
    }

    private static (float Low, float High) Height(ReadOnlySpan<float> positions)
    {
        if (positions.IsEmpty)
        {
            return (0, 0);
        }
        var (low, high) = (positions[1], positions[1]);
        for (var i = 4; i < positions.Length; i += 3)
        {
            var y = positions[i];
            low = y < low ? y : low;
            high = y > high ? y : high;
        }
        return (low, high);
    }
}
