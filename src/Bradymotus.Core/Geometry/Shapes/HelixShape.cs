using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A tube that winds up round the Y axis: a spring, a coil of rope.</summary>
/// <param name="Radius">From the axis to the middle of the tube at the bottom, in metres.</param>
/// <param name="TopRadius">The same at the top, in metres.</param>
/// <param name="Height">From the middle of the tube at the bottom to that at the top, in metres.</param>
/// <param name="Turns">How often it goes round; below 0 the other way.</param>
/// <param name="Thickness">The diameter of the tube, in metres.</param>
/// <param name="Segments">Along each turn.</param>
/// <param name="Sides">Round the tube.</param>
/// <param name="CapRings">Of the half ball at each end; 0 for flat ends.</param>
public sealed record HelixShape(
    double Radius = 0.4, double TopRadius = 0.4, double Height = 1, double Turns = 4, double Thickness = 0.12, int Segments = 32, int Sides = 12, int CapRings = 4) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs =
    [
        Length("radius", "Radius", 0.4), Length("topRadius", "Top radius", 0.4), Length("height", "Height", 1),
        new("turns", "Turns", ChannelFamily.Shape, "", 4, -1000, 1000), Length("thickness", "Thickness", 0.12),
        Count("segments", "Segments", 32, 3), Count("sides", "Sides", 12, 3), Count("capRings", "Cap rings", 4, 0),
    ];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Radius, TopRadius, Height, Turns, Thickness, Segments, Sides, CapRings];

    internal override long VerticesOf(ReadOnlySpan<double> v) => SweepOf(v).VertexCount;

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var sweep = SweepOf(v);
        mesh.Start(sweep.VertexCount);
        sweep.Build(mesh, (Bottom: v[0], Top: v[1], Height: v[2], Turns: v[3], sweep.Rows), static (f, row) =>
        {
            var t = (double)row / f.Rows;
            var (s, c) = Real.SinCosDegrees(360 * f.Turns * t);
            var (radius, grows, turns) = (f.Bottom + (f.Top - f.Bottom) * t, f.Top - f.Bottom, 2 * Math.PI * f.Turns);
            return (new(radius * c, f.Height * (t - 0.5), -radius * s), new(grows * c - radius * s * turns, f.Height, -grows * s - radius * c * turns));
        });
    }

    private static Sweep SweepOf(ReadOnlySpan<double> v) => new(Math.Max(1, (int)Math.Ceiling(Math.Abs(v[3]) * v[5])), (int)v[6], v[4] / 2, (int)v[7], false);
}
