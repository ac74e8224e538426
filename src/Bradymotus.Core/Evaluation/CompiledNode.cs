using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// A node with its place in the order of evaluation. Its first channels are position, rotation, scale, pivot (x, y, z each, or x, y, z, w for the
/// rotation where it is a quaternion), visible, and visible in the stage and in renders.
/// </summary>
/// <param name="Place">Its place in the document.</param>
/// <param name="Order">The order of its rotations.</param>
/// <param name="Offset">Between its parent and its channels; null for none.</param>
/// <param name="Parent">The place of its parent in the order of evaluation, or −1.</param>
/// <param name="End">The place after the last node below it: what hangs below a node follows it without a gap.</param>
/// <param name="FirstChannel">The place of its first channel among all.</param>
internal sealed record CompiledNode(int Place, RotationOrder Order, Affine? Offset, int Parent, int End, int FirstChannel)
{
    /// <summary>The most channels, from the first, that say where a node stands and whether it is seen.</summary>
    internal const int MostPlaceChannels = 16;

    /// <summary>How many channels, from the first, say where it stands and whether it is seen.</summary>
    internal int PlaceChannels => Visible + 3;

    /// <summary>The place of <c>visible</c>.</summary>
    internal int Visible => Order == RotationOrder.Quaternion ? 13 : 12;

    /// <summary>Its place among the owners: the world is the first.</summary>
    internal int Owner => Place + 1;

    /// <summary>From its own space to its parent's.</summary>
    /// <param name="v">The values of its first channels.</param>
    internal Affine Local(ReadOnlySpan<double> v)
    {
        var rotation = Order == RotationOrder.Quaternion ? new Quaternion(v[3], v[4], v[5], v[6]).ToAffine() : Affine.Rotation(new(v[3], v[4], v[5]), Order);
        var scale = v[(Visible - 6)..];
        var linear = rotation.Scaled(new(scale[0], scale[1], scale[2]));
        var pivot = Pivot(v);
        var origin = new Double3(v[0], v[1], v[2]);
        var own = linear with { Origin = pivot == Double3.Zero ? origin : origin + pivot - linear.Vector(pivot) };
        return Offset is { } offset ? offset * own : own;
    }

    /// <summary>Its pivot in its own space.</summary>
    /// <param name="v">The values of its first channels.</param>
    internal Double3 Pivot(ReadOnlySpan<double> v) => new(v[Visible - 3], v[Visible - 2], v[Visible - 1]);
}
