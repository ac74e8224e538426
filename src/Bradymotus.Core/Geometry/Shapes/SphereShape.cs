using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A ball of latitudes and longitudes.</summary>
/// <param name="Radius">In metres.</param>
/// <param name="Segments">Round the Y axis.</param>
/// <param name="Rings">From pole to pole.</param>
/// <param name="Sector">How far round it goes, in degrees; below 360 it is cut open.</param>
public sealed record SphereShape(double Radius = 0.5, int Segments = 48, int Rings = 24, double Sector = 360) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs = [Length("radius", "Radius", 0.5), Count("segments", "Segments", 48), Count("rings", "Rings", 24), SectorSpec];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Radius, Segments, Rings, Sector];

    internal override long VerticesOf(ReadOnlySpan<double> v) => ((long)v[1] + 1 + (v[3] < 360 ? 4 : 0)) * ((long)v[2] + 1);

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var form = (Radius: v[0], Rings: (int)v[2]);
        mesh.Start(VerticesOf(v));
        mesh.Ring((int)v[1], form.Rings, v[3], form, static (f, j) =>
        {
            var (s, c) = Real.SinCosDegrees(180.0 * j / f.Rings - 90);
            return (new(f.Radius * c, f.Radius * s), new(c, s));
        });
        if (v[3] < 360)
        {
            mesh.Walls(form.Rings, v[3], form, static (f, j) =>
            {
                var (s, c) = Real.SinCosDegrees(180.0 * j / f.Rings - 90);
                return (new(0, f.Radius * s), new(f.Radius * c, f.Radius * s));
            });
        }
    }
}
