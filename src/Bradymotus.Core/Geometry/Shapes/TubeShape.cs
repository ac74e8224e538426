using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A tube along a smooth path through points: a rope, a hose, a rail. The places of the points are channels too.</summary>
/// <param name="Points">2 to 64 of them, in metres. Channels <c>shape.point1.x</c> and so on.</param>
/// <param name="Closed">The path goes on from the last point to the first.</param>
/// <param name="Thickness">The diameter of the tube, in metres.</param>
/// <param name="Segments">From each point to the next.</param>
/// <param name="Sides">Round the tube.</param>
/// <param name="CapRings">Of the half ball at each end; 0 for flat ends.</param>
public sealed record TubeShape(
    ImmutableArray<PathPoint> Points, bool Closed = false, double Thickness = 0.1, int Segments = 12, int Sides = 12, int CapRings = 4) : Shape
{
    /// <summary>The most points of a path.</summary>
    public const int MostPoints = 64;

    // By the number of points, so that tubes of as many share a list.
    private static readonly ImmutableArray<ChannelSpec>[] Specs = new ImmutableArray<ChannelSpec>[MostPoints + 1];

    private int PointCount => Points.IsDefault ? 0 : Points.Length;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels
    {
        get
        {
            if (PointCount > MostPoints)
            {
                return [];
            }
            ref var specs = ref Specs[PointCount];
            if (specs.IsDefault)
            {
                ImmutableInterlocked.InterlockedInitialize(ref specs,
                [
                    Length("thickness", "Thickness", 0.1), Count("segments", "Segments", 12), Count("sides", "Sides", 12, 3), Count("capRings", "Cap rings", 4, 0),
                    .. Enumerable.Range(1, PointCount).SelectMany(i => new[] { Place($"point{i}.x", $"Point {i} X"), Place($"point{i}.y", $"Point {i} Y"), Place($"point{i}.z", $"Point {i} Z") }),
                ]);
            }
            return specs;
        }
    }

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Thickness, Segments, Sides, CapRings, .. Points.SelectMany(p => new[] { p.X, p.Y, p.Z })];

    internal override bool IsLike(Shape other) => other is TubeShape tube && tube.PointCount == PointCount && tube.Closed == Closed;

    internal override long VerticesOf(ReadOnlySpan<double> v) => SweepOf(v).VertexCount;

    internal override void Validate(string owner)
    {
        if (PointCount is < 2 or > MostPoints)
        {
            throw new Refusal($"The path of “{owner}” has {PointCount} points: give it 2 to {MostPoints}.");
        }
        base.Validate(owner);
    }

    internal override unsafe void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var sweep = SweepOf(v);
        mesh.Start(sweep.VertexCount);
        fixed (double* points = v[4..])
        {
            sweep.Build(mesh, new Path(points, PointCount, Closed, (int)v[1]), static (path, row) => path.At(row));
        }
    }

    private Sweep SweepOf(ReadOnlySpan<double> v) => new((Closed ? PointCount : PointCount - 1) * (int)v[1], (int)v[2], v[0] / 2, (int)v[3], Closed);

    /// <summary>Through all points, at each in the direction from the one before to the one after. E. Catmull, R. Rom, "A class of local interpolating splines" (1974).</summary>
    private readonly unsafe struct Path(double* points, int count, bool isClosed, int segments)
    {
        internal (Double3 Point, Double3 Direction) At(int row)
        {
            var span = Math.Min(row / segments, (isClosed ? count : count - 1) - 1);
            var t = (double)(row - span * segments) / segments;
            var (a, b, c, d) = (Point(span - 1), Point(span), Point(span + 1), Point(span + 2));
            var (m, n) = ((c - a) * 0.5, (d - b) * 0.5);
            // Hermite's form, and its derivative.
            var (t2, t3) = (t * t, t * t * t);
            return (b * (2 * t3 - 3 * t2 + 1) + m * (t3 - 2 * t2 + t) + c * (3 * t2 - 2 * t3) + n * (t3 - t2),
                b * (6 * t2 - 6 * t) + m * (3 * t2 - 4 * t + 1) + c * (6 * t - 6 * t2) + n * (3 * t2 - 2 * t));
        }

        private Double3 Point(int i)
        {
            if (isClosed)
            {
                i = (i % count + count) % count;
            }
            else if (i < 0 || i >= count)
            {
                // On in the direction in which the path ends.
                var (end, next) = i < 0 ? (Point(0), Point(1)) : (Point(count - 1), Point(count - 2));
                return end * 2 - next;
            }
            return new(points[3 * i], points[3 * i + 1], points[3 * i + 2]);
        }
    }
}

/// <summary>A point that a path goes through, in metres.</summary>
public readonly record struct PathPoint(double X, double Y, double Z);
