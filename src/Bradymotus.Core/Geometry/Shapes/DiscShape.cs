using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A flat disc facing up, with a hole where the inner radius is not 0.</summary>
/// <param name="Radius">In metres.</param>
/// <param name="InnerRadius">Of the hole, in metres; held to the radius.</param>
/// <param name="Segments">Round the Y axis.</param>
/// <param name="Rings">From the inner to the outer rim.</param>
/// <param name="Sector">How far round it goes, in degrees.</param>
public sealed record DiscShape(double Radius = 0.5, double InnerRadius = 0, int Segments = 48, int Rings = 1, double Sector = 360) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs =
        [Length("radius", "Radius", 0.5), Length("innerRadius", "Inner radius", 0), Count("segments", "Segments", 48), Count("rings", "Rings", 1), SectorSpec];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Radius, InnerRadius, Segments, Rings, Sector];

    internal override long VerticesOf(ReadOnlySpan<double> v) => ((long)v[2] + 1) * ((long)v[3] + 1);

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        mesh.Start(VerticesOf(v));
        mesh.Ring((int)v[2], (int)v[3], v[4], (Outer: v[0], Inner: Math.Min(v[1], v[0]), Rings: (int)v[3]),
            static (f, j) => (new(f.Outer + (f.Inner - f.Outer) * j / f.Rings, 0), new(0, 1)));
    }
}
