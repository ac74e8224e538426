using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A cylinder, or a cone where a radius is 0, with caps, whose rims may be rounded: as long as its radius, that is a capsule.</summary>
/// <param name="Radius">At the base, in metres.</param>
/// <param name="TopRadius">At the top, in metres.</param>
/// <param name="Height">In metres.</param>
/// <param name="Segments">Round the Y axis.</param>
/// <param name="Rings">Along the side.</param>
/// <param name="Sector">How far round it goes, in degrees; below 360 it is cut open.</param>
/// <param name="Rounding">The radius of its rims, in metres; held to what fits.</param>
/// <param name="RoundSegments">Over the rounding of a rim.</param>
public sealed record CylinderShape(
    double Radius = 0.5, double TopRadius = 0.5, double Height = 1, int Segments = 48, int Rings = 1, double Sector = 360, double Rounding = 0, int RoundSegments = 6) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs =
    [
        Length("radius", "Radius", 0.5), Length("topRadius", "Top radius", 0.5), Length("height", "Height", 1), Count("segments", "Segments", 48), Count("rings", "Rings", 1),
        SectorSpec, Length("rounding", "Rounding", 0), Count("roundSegments", "Round segments", 6),
    ];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Radius, TopRadius, Height, Segments, Rings, Sector, Rounding, RoundSegments];

    internal override long VerticesOf(ReadOnlySpan<double> v)
    {
        var rows = (long)v[4] + 1 + (v[6] > 0 ? 2 * (long)v[7] : 0);
        return ((long)v[3] + 1) * (rows + 4) + (v[5] < 360 ? 4 * (rows + 2) : 0);
    }

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var outline = new Outline(v);
        var (segments, sector) = ((int)v[3], v[5]);
        mesh.Start(VerticesOf(v));
        mesh.Ring(segments, outline.Last, sector, outline, static (o, j) => o.At(j));
        mesh.Ring(segments, 1, sector, outline, static (o, j) => (j == 0 ? new(0, -o.Half) : o.At(0).Position, new(0, -1)));
        mesh.Ring(segments, 1, sector, outline, static (o, j) => (j == 0 ? o.At(o.Last).Position : new(0, o.Half), new(0, 1)));
        if (sector < 360)
        {
            mesh.Walls(outline.Last + 2, sector, outline, static (o, j) =>
            {
                var outer = j == 0 ? new(0, -o.Half) : j == o.Last + 2 ? new(0, o.Half) : o.At(j - 1).Position;
                return (new(0, outer.Height), outer);
            });
        }
    }

    /// <summary>
    /// The side from the rim of the base to that of the top. A rounding touches cap and side: at an angle θ between them its ends are r ÷ tan(θ/2)
    /// from where they would meet.
    /// </summary>
    private readonly struct Outline
    {
        private readonly double _bottom, _top, _slope, _lowRound, _highRound, _lowCut, _highCut;
        private readonly int _rings, _round;

        internal Outline(ReadOnlySpan<double> v)
        {
            (_bottom, _top, Half) = (v[0], v[1], v[2] / 2);
            _rings = (int)v[4];
            _round = v[6] > 0 ? (int)v[7] : 0;
            _slope = Real.Atan2Degrees(_bottom - _top, v[2]);
            if (_round == 0 || v[2] == 0)
            {
                return;
            }
            // θ is 90° ∓ the slope at the base and at the top; one that is all but flat has no room for a rounding.
            var lean = Math.Clamp(_slope, -89.999, 89.999) / 2;
            var (low, high) = (Real.TanDegrees(45 - lean), Real.TanDegrees(45 + lean));
            (_lowRound, _highRound) = (Math.Min(v[6], _bottom * low), Math.Min(v[6], _top * high));
            (_lowCut, _highCut) = (_lowRound / low, _highRound / high);
            var side = Math.Sqrt((_bottom - _top) * (_bottom - _top) + v[2] * v[2]);
            if (_lowCut + _highCut > side)
            {
                var less = side / (_lowCut + _highCut);
                (_lowRound, _highRound, _lowCut, _highCut) = (_lowRound * less, _highRound * less, _lowCut * less, _highCut * less);
            }
        }

        internal double Half { get; }

        /// <summary>The last row.</summary>
        internal int Last => _rings + 2 * _round;

        internal (MeshBuilder.Profile Position, MeshBuilder.Profile Normal) At(int row)
        {
            if (row < _round)
            {
                return Arc(_bottom - _lowCut, -Half + _lowRound, _lowRound, -90 + (90 + _slope) * row / _round);
            }
            if (row > _round + _rings)
            {
                return Arc(_top - _highCut, Half - _highRound, _highRound, _slope + (90 - _slope) * (row - _round - _rings) / _round);
            }
            var (s, c) = Real.SinCosDegrees(_slope);
            // Along the side, from the end of one rounding to that of the other.
            var side = (Radius: -s, Height: c);
            var from = (Radius: _bottom + side.Radius * _lowCut, Height: -Half + side.Height * _lowCut);
            var to = (Radius: _top - side.Radius * _highCut, Height: Half - side.Height * _highCut);
            var t = (double)(row - _round) / _rings;
            return (new(from.Radius + (to.Radius - from.Radius) * t, from.Height + (to.Height - from.Height) * t), new(c, s));
        }

        private static (MeshBuilder.Profile Position, MeshBuilder.Profile Normal) Arc(double radius, double height, double r, double angle)
        {
            var (s, c) = Real.SinCosDegrees(angle);
            return (new(Math.Max(0, radius + r * c), height + r * s), new(c, s));
        }
    }
}
