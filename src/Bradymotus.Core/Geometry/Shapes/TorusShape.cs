using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A ring lying flat.</summary>
/// <param name="Radius">From the middle to the middle of the tube, in metres.</param>
/// <param name="Tube">The radius of the tube, in metres.</param>
/// <param name="Segments">Round the Y axis.</param>
/// <param name="Rings">Round the tube.</param>
/// <param name="Sector">How far round it goes, in degrees; below 360 it is cut open.</param>
public sealed record TorusShape(double Radius = 0.5, double Tube = 0.15, int Segments = 64, int Rings = 24, double Sector = 360) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs =
        [Length("radius", "Radius", 0.5), Length("tube", "Tube", 0.15), Count("segments", "Segments", 64), Count("rings", "Rings", 24), SectorSpec];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Radius, Tube, Segments, Rings, Sector];

    internal override long VerticesOf(ReadOnlySpan<double> v) => ((long)v[2] + 1 + (v[4] < 360 ? 4 : 0)) * ((long)v[3] + 1);

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var form = (Radius: v[0], Tube: v[1], Rings: (int)v[3]);
        mesh.Start(VerticesOf(v));
        mesh.Ring((int)v[2], form.Rings, v[4], form, static (f, j) =>
        {
            var (s, c) = Real.SinCosDegrees(360.0 * j / f.Rings - 180);
            return (new(f.Radius + f.Tube * c, f.Tube * s), new(c, s));
        });
        if (v[4] < 360)
        {
            mesh.Walls(form.Rings, v[4], form, static (f, j) =>
            {
                var (s, c) = Real.SinCosDegrees(360.0 * j / f.Rings - 180);
                return (new(f.Radius, 0), new(f.Radius + f.Tube * c, f.Tube * s));
            });
        }
    }
}
