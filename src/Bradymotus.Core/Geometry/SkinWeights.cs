namespace Bradymotus.Core.Geometry;

/// <summary>Which joints carry each vertex of a mesh, and how much of it.</summary>
/// <param name="Influences">The number of joints for each vertex.</param>
/// <param name="Joints">So many for each vertex: places in the list of the joints of a skin.</param>
/// <param name="Weights">As many; those of a vertex add up to 1.</param>
public sealed record SkinWeights(int Influences, ushort[] Joints, float[] Weights)
{
    /// <summary>The highest place among <see cref="Joints"/>.</summary>
    public int Highest { get; } = Joints.Length == 0 ? -1 : Joints.Max();
}
