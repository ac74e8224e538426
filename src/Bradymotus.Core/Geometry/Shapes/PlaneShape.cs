using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A flat rectangle facing up.</summary>
/// <param name="Width">Along X, in metres.</param>
/// <param name="Depth">Along Z, in metres.</param>
/// <param name="Divisions">Along both sides.</param>
public sealed record PlaneShape(double Width = 10, double Depth = 10, int Divisions = 1) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs = [Length("width", "Width", 10), Length("depth", "Depth", 10), Count("divisions", "Divisions", 1)];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Width, Depth, Divisions];

    internal override long VerticesOf(ReadOnlySpan<double> v) => ((long)v[2] + 1) * ((long)v[2] + 1);

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        mesh.Start(VerticesOf(v));
        mesh.Patch((int)v[2], (int)v[2], (Width: v[0], Depth: v[1]), static (f, u, v) => (new(u * f.Width / 2, 0, -v * f.Depth / 2), Double3.UnitY));
    }
}
